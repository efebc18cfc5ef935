"""A string of LEDs with its resistor."""

from __future__ import annotations

from yardmeter.core.elements.bands import Band, about
from yardmeter.core.elements.registry import Element, Without, enter


def led_law(volts: float, ohm: float, forward_v: float) -> tuple[float, float]:
    """Amps and siemens of a string: nothing below its forward volts; no ohms at all are one that is off."""
    return (0.0, 0.0) if ohm == 0 or volts < forward_v else ((volts - forward_v) / ohm, 1 / ohm)


def seen_forward_v(forward_v: float, series: int, resistor_ohm: float, test_a: float) -> Band:
    """One junction for the whole line [V]: what a meter's test current takes through its LEDs, a little under lit, and its resistors."""
    low, usual, high = about(0.9 * series * forward_v, 0.1)
    resistor_v = test_a * resistor_ohm
    return low + resistor_v, usual + resistor_v, high + resistor_v


def netlist_led_amps(across: str, ohm: str, forward_v: float) -> str:
    """The law in a netlist's words: amps by the volts in `across`."""
    return f"max({across}-{forward_v:.9g},0)/{ohm}"


enter(
    Element(
        "led",
        laws=(led_law,),
        small_signal=Without("its slope is a load's: `load.slope_law`"),
        netlist=(netlist_led_amps,),
        meter=(seen_forward_v,),
        predicates=Without("what its volts mean is a load's: `load.in_window`"),
    )
)
