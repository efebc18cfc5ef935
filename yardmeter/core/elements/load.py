"""A load from its pin to its ground: one that keeps its current, its power or its ohms, whatever is behind it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from enum import IntEnum
from typing import Literal

from yardmeter.core.elements.bands import Band
from yardmeter.core.elements.deck import Deck
from yardmeter.core.elements.inline import lamp_law
from yardmeter.core.elements.led import led_law, netlist_led_amps
from yardmeter.core.elements.motor import BRIDGE_OHM
from yardmeter.core.elements.registry import Element, enter
from yardmeter.core.elements.transfer import TransferFunction, constant
from yardmeter.core.elements.wire import ROUNDING

CONTROL_HZ = 20e3
"""Above this a constant-power load no longer follows, and its negative resistance fades; our choice."""


class LoadKind(IntEnum):
    """How a load's current follows its voltage."""

    CURRENT = 0
    POWER = 1
    RESISTANCE = 2
    LED = 3
    LAMP = 4


# Plain integers for the inner loops: comparing with enum members costs more than the arithmetic.
CURRENT, POWER, RESISTANCE = int(LoadKind.CURRENT), int(LoadKind.POWER), int(LoadKind.RESISTANCE)
LED, LAMP = int(LoadKind.LED), int(LoadKind.LAMP)


def held_law(powered: bool, volts: float, value: float, knee_v: float) -> tuple[float, float]:
    """Amps and siemens of what keeps its watts (`powered`) or amps; under its knee it is the resistance it has there."""
    if volts >= knee_v:
        return (value / volts, -value / volts / volts) if powered else (value, 0.0)
    below = (value / knee_v if powered else value) / knee_v
    return (below * volts, below) if volts > 0 else (0.0, 0.0)


def resistor_law(volts: float, ohm: float) -> tuple[float, float]:
    """Amps and siemens of so many ohms; none at all, as endless ones, are what is off."""
    return (0.0, 0.0) if ohm == 0 else (volts / ohm, 1 / ohm)


def load_law(kind: int, volts: float, value: float, knee_v: float) -> tuple[float, float]:
    """Current [A] and its slope [S] of a load of any kind.

    `value` is amps, watts, ohms, series ohms or rated amps by kind; `knee_v` where the law bends, an LED's forward volts, a
    lamp's rated volts.
    """
    if not abs(value) < 1e300:  # endless, or no number: what is off by its ohms
        value = 0.0
    if kind == RESISTANCE:
        return resistor_law(volts, value)
    if kind == LED:
        return led_law(volts, value, knee_v)
    if kind == LAMP:
        return lamp_law(volts, value, knee_v)
    return held_law(kind == POWER, volts, value, knee_v)


def grown(kind: int, value: float, share: float) -> float:
    """The value of a load's law at a share of the load: amps and watts go with it, ohms against it; a lamp in line is no load."""
    if kind == LAMP:
        return value
    return value / share if kind in (RESISTANCE, LED) else value * share


def netlist_amps(kind: int, across: str, value: str, knee_v: float) -> str:
    """The law in a netlist's words: amps by the volts in `across`; `value` a number or what stands for one.

    A lamp is not among them: where it settles and where it warms it is written otherwise.
    """
    if kind == RESISTANCE:
        return f"{across}/{value}"
    if kind == LED:
        return netlist_led_amps(across, value, knee_v)
    share = f"{value}*min(max({across},0)/{knee_v:.9g},1)"
    return f"{share}/max({across},{knee_v:.9g})" if kind == POWER else share


def slope_law(siemens: float, corner_hz: float = CONTROL_HZ) -> TransferFunction:
    """What a load is to a ripple [S]: what holds its power falls with volts only as far as its control reaches."""
    return TransferFunction((siemens,), (1.0, 1 / (2 * math.pi * corner_hz))) if siemens < 0 else constant(siemens)


def netlist_slope(deck: Deck, p: str, n: str, siemens: float, corner_hz: float = CONTROL_HZ) -> Iterator[str]:
    """`slope_law` in a netlist's words: a fading negative resistance is a negative R and L in series."""
    if siemens > 0:
        yield deck.part("R", p, n, 1 / siemens)
    else:
        yield from deck.series(p, n, ("R", 1 / siemens), ("L", 1 / siemens / (2 * math.pi * corner_hz)))


INPUT_OHM: dict[str, Band] = {
    "motor": BRIDGE_OHM,
    "computer": (30, 80, 200),
    "logic": (100, 700, 5e3),
    "receiver": (1e3, 8e3, 100e3),
    "servo": (5e3, 50e3, 1e6),
}
"""From a device's plus to its ground by its kind, red on plus."""
OTHER_INPUT_OHM: Band = (1e3, 10e3, 200e3)


def seen_input_ohm(kind: str) -> Band:
    """What a device looks like from its plus to its ground [Ω]."""
    return INPUT_OHM.get(kind, OTHER_INPUT_OHM)


InWindow = Literal["ok", "low", "reset", "high"]


def over_volts(pin_v: float, max_v: float) -> bool:
    return pin_v > max_v * (1 + ROUNDING)


def resets(pin_v: float, reset_v: float) -> bool:
    return pin_v < reset_v * (1 - ROUNDING)


def in_window(pin_v: float, reset_v: float, min_v: float, max_v: float) -> InWindow:
    """What volts at its pins mean for a device that is switched on: the one answer to it."""
    if over_volts(pin_v, max_v):
        return "high"
    if resets(pin_v, reset_v):
        return "reset"
    return "low" if pin_v < min_v * (1 - ROUNDING) else "ok"


enter(
    Element(
        "load",
        laws=(held_law, resistor_law, load_law, grown),
        small_signal=(slope_law,),
        netlist=(netlist_amps, netlist_slope),
        meter=(seen_input_ohm,),
        predicates=(over_volts, resets, in_window),
    )
)
