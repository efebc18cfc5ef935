"""What is left of a capacitor's print: voltage, temperature, ageing; its impedance; how many amps of ripple it stands."""

from __future__ import annotations

import math
from typing import Literal

from yardmeter.core.physics.inductance import MU0_H_M

Dielectric = Literal["electrolytic", "polymer", "tantalum", "c0g", "x7r", "x5r"]
DERATING: dict[Dielectric, tuple[float, float, float]] = {
    "electrolytic": (0.0, 0.8, 0.8),
    "polymer": (0.0, 0.95, 0.9),
    "tantalum": (0.0, 0.9, 0.95),
    "c0g": (0.0, 1.0, 1.0),
    "x7r": (0.55, 0.9, 0.9),
    "x5r": (0.75, 0.85, 0.9),
}
"""Loss at rated volts [fraction], what cold leaves, what some years leave; typical of data sheets, from memory."""
LEAD_SPACING_M = 0.005
LEAD_RADIUS_M = 0.0003
BODY_H: dict[Dielectric, float] = {
    "electrolytic": 12e-9, "polymer": 8e-9, "tantalum": 2e-9, "c0g": 0.8e-9, "x7r": 0.8e-9, "x5r": 0.8e-9,
}  # fmt: skip
"""Inductance of the part itself, without added legs [H]; typical, from memory."""
VOLTAGE_CLASS_FRAC = 0.8
"""Share of its rated volts a capacitor is run at for long; common practice, no source."""


def left_f(farad: float, dielectric: Dielectric, bias_v: float, rated_v: float, *, aged: bool = True) -> float:
    """Capacitance left [F] at this bias, and in the cold after some years when `aged`.

    Ceramics lose with bias roughly as `1 − loss · (V/Vr)` (typical data-sheet curves, from memory).
    """
    loss, cold, old = DERATING[dielectric]
    share = 1 - loss * min(max(bias_v / rated_v, 0.0), 1.0)
    return farad * share * (cold * old if aged else 1.0)


def leads_h(lead_m: float) -> float:
    """Inductance of two parallel legs of a length each [H], `µ0 l/π (ln(s/r) + 1/4)` (Rosa)."""
    return MU0_H_M * lead_m / math.pi * (math.log(LEAD_SPACING_M / LEAD_RADIUS_M) + 0.25)


def corner_hz(henry: float, farad: float) -> float:
    """Corner of an LC section [Hz]: `1/(2π√(LC))`."""
    return 1 / (2 * math.pi * math.sqrt(henry * farad))
