"""Signal levels: what a logic input reads, what a video input sees."""

from __future__ import annotations

from dataclasses import dataclass

VIDEO_VPP = 1.0
"""Composite video from sync tip to peak white into 75 Ω [V]; SMPTE ST 170, ITU-R BT.1700."""
VIL_3V3, VIH_3V3 = 0.8, 2.0
"""3.3 V TTL-compatible input thresholds [V]; JEDEC JESD8C."""
TTL_VIL, TTL_VIH = 0.8, 2.0
"""5 V TTL input thresholds [V]; textbook values of the TTL family."""
CMOS_LOW_FRAC, CMOS_HIGH_FRAC = 0.3, 0.7
"""CMOS thresholds as shares of the supply; textbook values of 5 V CMOS families."""
DRIVEN_LOW_V = 0.4
"""What a loaded output still leaves at low [V]; JEDEC JESD8C."""
DRIVEN_DROP_V = 0.4
"""What a loaded CMOS output falls short of its supply [V]; our choice, near data-sheet values at a few milliamps."""


@dataclass(frozen=True)
class LogicMargin:
    """Room left below the low threshold and above the high one [V]; negative: the level is not read for certain."""

    low_v: float
    high_v: float

    @property
    def least_v(self) -> float:
        return min(self.low_v, self.high_v)


def logic_margin(driver_v: float, reader_v: float, levels: str) -> LogicMargin:
    """Margins of an output that drives up to `driver_v` [V] into an input of a part supplied with `reader_v` [V].

    `levels` is "ttl" (0.8 V and 2.0 V, JESD8C) or "cmos" (0.3 and 0.7 of the supply).
    """
    low, high = (TTL_VIL, TTL_VIH) if levels == "ttl" else (CMOS_LOW_FRAC * reader_v, CMOS_HIGH_FRAC * reader_v)
    return LogicMargin(low - DRIVEN_LOW_V, driver_v - DRIVEN_DROP_V - high)
