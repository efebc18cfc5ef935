"""What parts look like to a meter while nothing is powered: least, usual and most of each.

All values are from memory and common practice, no source; a part of one's own may now and then lie outside its band.
"""

from __future__ import annotations

from yardmeter.core.plan.devices import DeviceKind

Band = tuple[float, float, float]
"""Least, usual, most."""

BODY_V: Band = (0.4, 0.5, 0.6)
"""A body diode or a clamp diode of logic."""
BRIDGE_V: Band = (0.8, 1.0, 1.2)
"""Two body diodes in a row: a bridge of transistors, from ground to the pack's plus."""
CLAMP_V: Band = (0.5, 0.6, 0.7)
"""A suppressor the way it is not meant to be probed."""

INPUT_OHM: dict[DeviceKind, Band] = {
    "motor": (10e3, 200e3, 10e6),
    "computer": (30, 80, 200),
    "logic": (100, 700, 5e3),
    "receiver": (1e3, 8e3, 100e3),
    "servo": (5e3, 50e3, 1e6),
}
"""From a device's plus to its ground, red on plus."""
OTHER_INPUT_OHM: Band = (1e3, 10e3, 200e3)
OUTPUT_OHM: Band = (500, 4e3, 20e3)
"""From a regulator's output to its ground: its divider and what it holds down."""
ENTRY_OHM: Band = (10e3, 100e3, 2e6)
"""From a regulator's input to its ground."""
VIDEO_OHM: Band = (70, 75, 1e6)
"""A video input or output to ground: terminated, or open behind a capacitor."""
PIN_OHM: Band = (20e3, 200e3, 10e6)
"""A pin of logic to its ground."""
COPPER_FRAC = 0.2
"""A wire's milliohms with its joints, up and down."""
JOINT_OHM: Band = (0.0, 0.5e-3, 3e-3)
"""Two solder joints."""
CAPACITOR_FRAC = 0.2


def about(value: float, frac: float) -> Band:
    """A value with so much up and down."""
    return value * (1 - frac), value, value * (1 + frac)


def input_band(kind: DeviceKind) -> Band:
    """What a device looks like from its plus to its ground [Ω]."""
    return INPUT_OHM.get(kind, OTHER_INPUT_OHM)
