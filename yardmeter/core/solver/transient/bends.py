"""What is no straight line: ceramics that fall with their volts, coils that fill, the rest curve of a pack.

Plain functions of numbers; the march compiles them, where a run begins they are called as they are.
"""

from __future__ import annotations

import math

from yardmeter.core.physics.filters import AIR_FRAC
from yardmeter.core.solver.circuit import Floats


def ceramic_v(charge: float, farad: float, loss: float, rated_v: float) -> tuple[float, float]:
    """Volts and dv/dq of a ceramic at its charge: `q = C (v − loss v|v| / 2Vr)`, straight on above its rating."""
    size = abs(charge) / farad
    knee = rated_v * (1 - loss / 2)
    over = max(size - knee, 0.0)
    half = loss / rated_v
    root = math.sqrt(max(1 - 2 * half * min(size, knee), 0.0))
    volts = (1 - root) / half + over / (1 - loss)
    slope = 1 / (farad * (1 - loss if over > 0 else root))
    return (volts if charge >= 0 else -volts), slope


def ceramic_c(volts: float, farad: float, loss: float, rated_v: float) -> float:
    """Charge of a ceramic at these volts [C]."""
    size = abs(volts)
    inside = min(size, rated_v)
    charge = farad * (inside - loss * inside**2 / (2 * rated_v) + (1 - loss) * (size - inside))
    return charge if volts >= 0 else -charge


def core_flux(amps: float, henry: float, bend_a: float) -> tuple[float, float]:
    """Flux linkage [Vs] and inductance [H] of a coil whose inductance falls as `physics.filters.inductor_left_h` says."""
    y = abs(amps) / bend_a
    third = math.sqrt(3.0)
    area = math.log((y + 1) ** 2 / (y * y - y + 1)) / 6 + (math.atan((2 * y - 1) / third) + math.pi / 6) / third
    flux = henry * bend_a * (AIR_FRAC * y + (1 - AIR_FRAC) * area)
    return (flux if amps >= 0 else -flux), henry * (AIR_FRAC + (1 - AIR_FRAC) / (1 + y**3))


def rest_fall_v(charge: float, taken_c: Floats, rest_v: Floats) -> float:
    """What of a pack's rest volts is gone after this charge, along its curve of points (points,)."""
    k = 0
    while k < taken_c.size - 2 and charge >= taken_c[k + 1]:
        k += 1
    slope = (rest_v[k] - rest_v[k + 1]) / (taken_c[k + 1] - taken_c[k])
    return float(rest_v[0] - rest_v[k] + slope * (charge - taken_c[k]))
