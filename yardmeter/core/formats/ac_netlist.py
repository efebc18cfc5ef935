"""The small-signal network of a plan as a SPICE netlist, element by element.

It is written from the plan and its operating point, not from the solver's matrices, so that a circuit simulator can check
those. Every small-signal law of an element has an exact circuit, which stands beside it in `core.elements`.
"""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.elements.capacitor import netlist_shunt
from yardmeter.core.elements.coil import netlist_bead, netlist_coil
from yardmeter.core.elements.deck import Deck
from yardmeter.core.elements.load import netlist_slope
from yardmeter.core.elements.regulator import netlist_small
from yardmeter.core.elements.wire import netlist_wire
from yardmeter.core.formats.netlist import node_name
from yardmeter.core.network.ac_build import INLET_H, Point, small_of
from yardmeter.core.network.branches import BOARD_H
from yardmeter.core.network.keys import Node, inlet_key, supply_key
from yardmeter.core.plan import Diode, FerriteFilter, LcFilter, Regulator
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING


def write_ac_netlist(point: Point, p: Node, n: Node, hertz: list[float]) -> str:
    """A netlist that drives one ampere from node `p` to node `n` and prints every node's complex volts at each frequency."""
    writer = _Writer(point)
    lines = ["* small-signal network", *writer.elements(), f"Idrive {writer.name(p)} {writer.name(n)} DC 0 AC 1"]
    control = [".control", "set numdgt=10"]
    for hz in hertz:
        control += [f"ac lin 1 {hz:.9g} {hz:.9g}", "print all"]
    return "\n".join([*lines, *control, ".endc", ".end", ""])


class _Writer:
    """The parts of a plan at a point, element by element."""

    def __init__(self, point: Point) -> None:
        self.point, self.plan, self.deck = point, point.plan, Deck()
        self.names = {index: node_name(node) for node, index in point.table.node.items()}

    def name(self, node: Node) -> str:
        return self.names[self.point.table.node[node]]

    def at(self, index: int) -> str:
        return "0" if index < 0 else self.names[index]

    def elements(self) -> Iterator[str]:
        yield from self.conductors()
        yield from self.pack()
        yield from self.loads()
        yield from self.capacitors()
        for supply in self.plan.supplies:
            if isinstance(supply, Regulator):
                yield from self.regulator(supply)
            elif isinstance(supply, Diode):
                yield from self.diode(supply)
        yield from self.inlets()
        for index in self.names:
            yield f"Rleak{index} {self.at(index)} 0 1e9"

    def conductors(self) -> Iterator[str]:
        made = self.point.network.circuit.conductors.siemens[self.point.row].tolist()
        for one, siemens in zip(self.point.table.conductors, made, strict=True):
            if siemens <= 0:
                continue
            left = self.at(one.a)
            for coil in one.coils:
                right = self.deck.fresh()
                yield from self.coil(coil, left, right, self.point.feed_a.get(one.key.element, 0.0))
                left = right
            yield from netlist_wire(self.deck, left, self.at(one.b), 1 / siemens, one.henry)

    def capacitors(self) -> Iterator[str]:
        for one in self.point.table.capacitors:
            a, b = self.at(one.a), self.at(one.b)
            if one.filter:
                bias_v = abs(self.point.volts[one.a] - self.point.volts[one.b])
                yield from netlist_shunt(self.deck, one.filter, a, b, bias_v)
            else:
                yield from self.deck.series(a, b, ("R", one.esr_ohm), ("L", one.esl_h), ("C", one.farad))

    def coil(self, one: LcFilter | FerriteFilter, a: str, b: str, amps: float) -> Iterator[str]:
        if isinstance(one, FerriteFilter):
            yield from netlist_bead(self.deck, a, b, one.ohm_100mhz)
        else:
            yield from netlist_coil(self.deck, a, b, one.henry, one.saturation_a, one.resonance_hz, amps)

    def pack(self) -> Iterator[str]:
        pack = self.point.table.pack
        if self.point.network.circuit.emfs.siemens[self.point.row, 0] > 0:
            yield from netlist_wire(self.deck, self.at(pack.a), self.at(pack.b), pack.ohm, pack.henry)

    def loads(self) -> Iterator[str]:
        for one, slope in zip(self.point.table.loads, self.point.load_slope, strict=True):
            if one.device and slope:
                yield from netlist_slope(self.deck, self.at(one.p), self.at(one.n), slope)

    def regulator(self, supply: Regulator) -> Iterator[str]:
        index = self.point.table.converter[supply_key(supply.id)]
        at = self.point.table.converters[index]
        if self.point.modes[index] in (CONDUCTING, LIMITING):
            one = small_of(self.point, supply, index)
            yield from netlist_small(self.deck, one, self.at(at.inp), self.at(at.out), self.at(at.gnd))

    def diode(self, supply: Diode) -> Iterator[str]:
        index = self.point.table.converter[supply_key(supply.id)]
        if self.point.modes[index] == CONDUCTING:
            one = self.point.table.converters[index]
            yield from netlist_wire(self.deck, self.at(one.inp), self.at(one.out), one.spec.drop_ohm, BOARD_H)

    def inlets(self) -> Iterator[str]:
        for inlet in self.plan.inlets:
            index = self.point.table.converter.get(inlet_key(inlet.id))
            if index is None or self.point.modes[index] not in (CONDUCTING, LIMITING):
                continue
            one = self.point.table.converters[index]
            a, b = (one.out, one.gnd) if one.inp < 0 else (one.inp, one.out)
            yield from netlist_wire(self.deck, self.at(a), self.at(b), max(inlet.series_ohm, 1e-3), INLET_H)
