"""A wire, trace or closed contact: ohms and henries one behind the other."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.elements.bands import Band, about
from yardmeter.core.elements.deck import Deck
from yardmeter.core.elements.registry import Element, enter
from yardmeter.core.elements.transfer import TransferFunction, series

COPPER_FRAC = 0.2
"""A wire's milliohms with its joints, up and down."""
JOINT_OHM: Band = (0.0, 0.5e-3, 3e-3)
"""Two solder joints."""
ROUNDING, NO_A = 1e-6, 1e-6
"""A limit is kept where it is met but for rounding; and a current that is none [A]: what the solver's leaks make of an open rail."""


def wire_law(ohm: float, henry: float) -> TransferFunction:
    """Admittance."""
    return series(ohm, henry)


def netlist_wire(deck: Deck, a: str, b: str, ohm: float, henry: float) -> Iterator[str]:
    return deck.series(a, b, ("R", ohm), ("L", henry))


def seen_ohm(ohm: float) -> Band:
    """What a meter reads of it with its joints [Ω]."""
    low, usual, high = about(ohm, COPPER_FRAC)
    return low + JOINT_OHM[0], usual + JOINT_OHM[1], high + JOINT_OHM[2]


def wire_amps(volts: float, siemens: float) -> float:
    return volts * siemens


def netlist_ohm(name: str, a: str, b: str, ohm: float) -> str:
    """To direct current."""
    return f"R{name} {a} {b} {ohm:.9g}"


def exceeds(amps: float, limit_a: float) -> bool:
    """Whether a current is over a limit: the one answer of every rule, list and colour. A limit exactly met is kept."""
    return amps > limit_a * (1 + ROUNDING) + NO_A


enter(
    Element(
        "wire and trace",
        laws=(wire_amps,),
        small_signal=(wire_law,),
        netlist=(netlist_ohm, netlist_wire),
        meter=(seen_ohm,),
        predicates=(exceeds,),
    )
)
