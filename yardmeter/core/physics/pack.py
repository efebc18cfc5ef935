"""The flight battery: rest voltage of a cell, resistance, what is left in it."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

Chemistry = Literal["lipo", "lihv", "liion"]
PackState = Literal["full", "nominal", "low", "floor"]

CELL_STATE_V: dict[Chemistry, dict[PackState, float]] = {
    "lipo": {"full": 4.20, "nominal": 3.70, "low": 3.50, "floor": 3.00},
    "lihv": {"full": 4.35, "nominal": 3.80, "low": 3.55, "floor": 3.00},
    "liion": {"full": 4.20, "nominal": 3.60, "low": 3.20, "floor": 2.50},
}
"""Rest voltage of a cell [V] by state. LiPo: common practice, no source; LiHV and Li-ion: from memory of cell sheets."""

REST_CURVE: dict[Chemistry, tuple[tuple[float, float], ...]] = {
    "lipo": (
        (0.0, 3.00),
        (0.05, 3.45),
        (0.10, 3.60),
        (0.20, 3.70),
        (0.40, 3.78),
        (0.60, 3.88),
        (0.80, 4.02),
        (1.0, 4.20),
    ),
    "lihv": (
        (0.0, 3.00),
        (0.05, 3.45),
        (0.10, 3.62),
        (0.20, 3.72),
        (0.40, 3.82),
        (0.60, 3.95),
        (0.80, 4.14),
        (1.0, 4.35),
    ),
    "liion": (
        (0.0, 2.50),
        (0.05, 2.95),
        (0.10, 3.15),
        (0.20, 3.35),
        (0.40, 3.55),
        (0.60, 3.72),
        (0.80, 3.92),
        (1.0, 4.20),
    ),
}
"""Rest voltage [V] over charge left [fraction]; from memory of published cell curves at room temperature."""


TENTH = 0.10
STATES: tuple[PackState, ...] = ("floor", "low", "nominal", "full")


def as_far_down_v(cell_v: float, chemistry: Chemistry, other: Chemistry) -> float:
    """Rest volts of a cell of the other chemistry that is as far down as one at `cell_v`: straight between the states both are given
    by, and as much outside of them."""
    if chemistry == other:
        return cell_v
    own, their = ([CELL_STATE_V[one][state] for state in STATES] for one in (chemistry, other))
    if cell_v <= own[0]:
        return cell_v - own[0] + their[0]
    for k in range(1, len(own)):
        if cell_v <= own[k]:
            return their[k - 1] + (their[k] - their[k - 1]) * (cell_v - own[k - 1]) / (own[k] - own[k - 1])
    return cell_v - own[-1] + their[-1]


def charge_left_frac(chemistry: Chemistry, cell_v: float) -> float:
    """Charge left [0…1] at a rest voltage of one cell [V], by linear interpolation of the rest curve."""
    curve = REST_CURVE[chemistry]
    if cell_v <= curve[0][1]:
        return 0.0
    for (low_frac, low_v), (high_frac, high_v) in pairwise(curve):
        if cell_v <= high_v:
            return low_frac + (high_frac - low_frac) * (cell_v - low_v) / (high_v - low_v)
    return 1.0


def straight_farad(chemistry: Chemistry, series: int, capacity_ah: float, rest_v: float) -> float:
    """Charge over volts of a pack [F] where its rest curve is taken as one straight line, from where it stands to a tenth left; of one
    that has less, as it falls at the end."""
    cell_v, curve = rest_v / series, REST_CURVE[chemistry]
    left, (tenth, tenth_v) = charge_left_frac(chemistry, cell_v), next(one for one in curve if one[0] == TENTH)
    frac, fall_v = (left - tenth, cell_v - tenth_v) if left > tenth else (tenth, tenth_v - curve[0][1])
    return frac * capacity_ah * 3600 / max(fall_v * series, 1e-3)


def pack_ohm(cell_ohm: float, series: int, parallel: int) -> float:
    """Internal resistance of the pack [Ω]: `r S / P`, r of one cell [Ω]."""
    return cell_ohm * series / parallel
