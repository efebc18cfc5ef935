"""Motors behind their ESCs, to a meter: from ground to plus two body diodes in a row."""

from __future__ import annotations

from yardmeter.core.elements.bands import Band
from yardmeter.core.elements.registry import Element, Without, enter

BRIDGE_V: Band = (0.8, 1.0, 1.2)
"""Two body diodes in a row: a bridge of transistors, from ground to the pack's plus."""
BRIDGE_OHM: Band = (10e3, 200e3, 10e6)
"""From its plus to its ground, red on plus."""


def given_back(amps: float, across_v: float, regen_v: float) -> tuple[float, float]:
    """What braking motors give back of `amps` (below nothing) and its slope: all, until their rail takes no more."""
    room = min(max(regen_v - across_v, 0.0), 1.0)
    return amps * room, (-amps if 0 < room < 1 else 0.0)


def netlist_given_back(amps: str, across: str, regen_v: float) -> str:
    """The same in a netlist's words, of what `amps` may be below nothing."""
    return f"min({amps},0)*min(max({regen_v:.9g}-{across},0),1)"


def seen_bridge_v() -> Band:
    return BRIDGE_V


def turns(throttle_frac: float) -> bool:
    """Whether anything runs in its ESC."""
    return throttle_frac > 0


enter(
    Element(
        "motor and ESC",
        laws=(given_back,),
        small_signal=Without("its slope is a load's: `load.slope_law`"),
        netlist=(netlist_given_back,),
        meter=(seen_bridge_v,),
        predicates=(turns,),
    )
)
