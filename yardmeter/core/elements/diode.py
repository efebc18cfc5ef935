"""A diode and a clamp: what conducts one way from its forward volts on."""

from __future__ import annotations

from yardmeter.core.elements.bands import BODY_V, Band, about

CLAMP_V: Band = (0.5, 0.6, 0.7)
"""A suppressor the way it is not meant to be probed."""


def seen_forward_v(drop_v: float) -> Band:
    """What a meter's diode range reads of it [V]; one whose sheet says next to nothing is a switch that still has its body diode."""
    volts = max(drop_v, BODY_V[0]) if drop_v < BODY_V[0] / 2 else drop_v
    return about(volts, 0.2)
