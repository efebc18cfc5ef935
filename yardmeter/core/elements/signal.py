"""A signal pin, to a meter."""

from __future__ import annotations

from yardmeter.core.elements.bands import Band
from yardmeter.core.elements.registry import Element, Without, enter
from yardmeter.core.physics.levels import logic_margin

VIDEO_OHM: Band = (70, 75, 1e6)
"""A video input or output to ground: terminated, or open behind a capacitor."""
PIN_OHM: Band = (20e3, 200e3, 10e6)
"""A pin of logic to its ground."""


def seen_pin_ohm(video: bool) -> Band:
    """From a pin to its ground [Ω]."""
    return VIDEO_OHM if video else PIN_OHM


enter(
    Element(
        "signal",
        laws=Without("it carries no current a rail would feel"),
        small_signal=Without("its return's drop is what it picks up: `answers.returns`"),
        netlist=Without("a netlist is of the power alone"),
        meter=(seen_pin_ohm,),
        predicates=(logic_margin,),
    )
)
