"""Resistance and inductance of a plan's wires."""

from __future__ import annotations

from yardmeter.core.physics.conductors import wire_diameter_m, wire_ohm, wire_outer_m
from yardmeter.core.physics.inductance import pair_h, straight_wire_h
from yardmeter.core.plan import Wire

TWIST_TAKE_UP = 1.05
"""Wire a twisted pair needs over its length; common practice, no source."""
JOINT_H = 1e-9
"""Of a joint without a wire: a millimetre of copper, our estimate."""


CLOSED_OHM = 1e-6
"""Of what is soldered together without a wire [Ω]: it joins, to a tenth of a millivolt at 100 A."""


def conductor_ohm(wire: Wire, copper_c: float) -> float:
    """Resistance of a wire with its connector [Ω], its copper at so many degrees."""
    own = CLOSED_OHM if wire.joined else wire_ohm(wire.gauge_awg, wire.length_m, copper_c)
    return own + wire.connector_ohm


def wire_h(wire: Wire) -> float:
    """Inductance a wire adds to its circuit [H]: half of its pair where its go or return lies against it, else alone.

    A pair touches at its insulation. Sources: Rosa's formulas (`physics.inductance`).
    """
    if wire.joined:
        return JOINT_H
    radius = wire_diameter_m(wire.gauge_awg) / 2
    if wire.lay == "apart":
        return straight_wire_h(wire.length_m, radius)
    length = wire.length_m * (TWIST_TAKE_UP if wire.lay == "twisted" else 1.0)
    return pair_h(length, wire_outer_m(wire.gauge_awg), radius) / 2
