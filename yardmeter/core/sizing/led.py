"""The resistor of a LED string: worst-case supply and LED, next preferred value up, its watts, and the real band of current."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.errors import EditError
from yardmeter.core.physics.preferred import next_up

WATT_CLASSES = (0.063, 0.1, 0.125, 0.25, 0.5, 1.0, 2.0, 3.0, 5.0)
"""Resistor sizes in the trade [W]; common practice, no source."""
WATT_USE_FRAC = 0.6
"""Share of its class a resistor is run at; common practice, no source."""


@dataclass(frozen=True)
class LedResistor:
    """`ohm` per string; currents at the nominal, highest and lowest of supply and LED spread; dissipation at the highest."""

    ohm: float
    exact_ohm: float
    typical_a: float
    least_a: float
    most_a: float
    watts: float
    class_w: float
    strings: int
    total_a: float


def size_led_resistor(
    *, supply_v: tuple[float, float, float], forward_v: tuple[float, float, float], series: int, strings: int,
    wanted_a: float, series_count: int = 24,
) -> LedResistor:  # fmt: skip
    """Resistor so that no spread takes a LED above its wanted current.

    `supply_v` and `forward_v` are (least, typical, most) [V]. The supply is taken high and the LEDs low for the value, which
    is rounded up (common practice). Raises EditError when the supply is too low to light the string.
    """
    low, typical, high = supply_v
    f_low, f_typical, f_high = (series * v for v in forward_v)
    if high <= f_low:
        raise EditError(
            f"{high:g} V does not light {series} LEDs of {forward_v[0]:g} V.",
            where="series",
            remedy="Put fewer in series.",
        )
    exact = (high - f_low) / wanted_a
    ohm = next_up(exact, series_count)
    most = (high - f_low) / ohm
    watts = most**2 * ohm
    needed = watts / WATT_USE_FRAC
    classed = next((w for w in WATT_CLASSES if w >= needed), WATT_CLASSES[-1])
    middle = max(typical - f_typical, 0.0) / ohm
    return LedResistor(
        ohm, exact, middle, max(low - f_high, 0.0) / ohm, most, watts, classed, strings, middle * strings
    )
