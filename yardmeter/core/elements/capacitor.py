"""A capacitor; a ceramic has the less of its farads the more volts are on it."""

from __future__ import annotations

import math

from yardmeter.core.elements.tables import MOST, both_ways, points


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


def netlist_ceramic(k: int, farad: float, loss: float, rated_v: float, charge: float) -> str:
    """A ceramic that falls with its volts, from {a} to {b}: its charge over its farads is kept in node `u`."""
    table = points([(ceramic_c(volts, farad, loss, rated_v) / farad, volts) for volts in both_ways(MOST * rated_v)])
    return "\n".join(
        [
            f"Vu{k} {{a}} u{k}m 0",
            f"Bu{k} u{k}m {{b}} V=pwl(V(u{k}),{table})",
            f"Fu{k} 0 u{k} Vu{k} {1 / farad:.9g}",
            f"Cu{k} u{k} 0 1 ic={charge / farad:.9g}",
            f"Ru{k} u{k} 0 1e12",
        ]
    )
