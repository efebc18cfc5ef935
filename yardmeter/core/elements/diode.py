"""A diode and a clamp: what conducts one way from its forward volts on."""

from __future__ import annotations

from yardmeter.core.elements.bands import BODY_V, Band, about
from yardmeter.core.elements.registry import Element, enter
from yardmeter.core.elements.regulator import netlist_given, netlist_taken, series_law, target_law
from yardmeter.core.elements.wire import wire_law

CLAMP_V: Band = (0.5, 0.6, 0.7)
"""A suppressor the way it is not meant to be probed."""


def seen_forward_v(drop_v: float) -> Band:
    """What a meter's diode range reads of it [V]; one whose sheet says next to nothing is a switch that still has its body diode."""
    volts = max(drop_v, BODY_V[0]) if drop_v < BODY_V[0] / 2 else drop_v
    return about(volts, 0.2)


def seen_clamp_v() -> Band:
    """A suppressor the way it is not meant to be probed [V]."""
    return CLAMP_V


def over_pulse(energy_j: float, pulse_j: float) -> bool:
    """Whether a clamp swallows more than a pulse it survives."""
    return energy_j > pulse_j


enter(
    Element(
        "diode and clamp",
        laws=(series_law, target_law),
        small_signal=(wire_law,),
        netlist=(netlist_given, netlist_taken),
        meter=(seen_forward_v, seen_clamp_v),
        predicates=(over_pulse,),
    )
)
