"""A string of LEDs with its resistor."""

from __future__ import annotations


def led_law(volts: float, ohm: float, forward_v: float) -> tuple[float, float]:
    """Amps and siemens of a string: nothing below its forward volts; no ohms at all are one that is off."""
    return (0.0, 0.0) if ohm == 0 or volts < forward_v else ((volts - forward_v) / ohm, 1 / ohm)
