"""A strap, or a plain link: copper between rails, one contact for each rail it joins."""

from __future__ import annotations

from yardmeter.core.elements.registry import Element, enter
from yardmeter.core.elements.wire import exceeds, netlist_ohm, netlist_wire, seen_ohm, wire_amps, wire_law

enter(
    Element(
        "strap",
        laws=(wire_amps,),
        small_signal=(wire_law,),
        netlist=(netlist_ohm, netlist_wire),
        meter=(seen_ohm,),
        predicates=(exceeds,),
    )
)
