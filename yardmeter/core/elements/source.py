"""A source of its own: a USB port or a bench supply, its volts less its diode's behind its ohms, cut off at its limit."""

from __future__ import annotations

from yardmeter.core.elements.registry import Element, Without, enter
from yardmeter.core.elements.regulator import limits, netlist_given, target_law
from yardmeter.core.elements.wire import wire_law

enter(
    Element(
        "source",
        laws=(target_law,),
        small_signal=(wire_law,),
        netlist=(netlist_given,),
        meter=Without("it is unplugged where a meter without power looks"),
        predicates=(limits,),
    )
)
