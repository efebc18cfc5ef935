"""A wire, trace or closed contact: ohms and henries one behind the other."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.elements.bands import Band, about
from yardmeter.core.elements.deck import Deck
from yardmeter.core.elements.transfer import TransferFunction, series

COPPER_FRAC = 0.2
"""A wire's milliohms with its joints, up and down."""
JOINT_OHM: Band = (0.0, 0.5e-3, 3e-3)
"""Two solder joints."""


def wire_law(ohm: float, henry: float) -> TransferFunction:
    """Admittance."""
    return series(ohm, henry)


def netlist_wire(deck: Deck, a: str, b: str, ohm: float, henry: float) -> Iterator[str]:
    return deck.series(a, b, ("R", ohm), ("L", henry))


def seen_ohm(ohm: float) -> Band:
    """What a meter reads of it with its joints [Ω]."""
    low, usual, high = about(ohm, COPPER_FRAC)
    return low + JOINT_OHM[0], usual + JOINT_OHM[1], high + JOINT_OHM[2]
