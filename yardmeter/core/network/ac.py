"""A plan at an operating point as a small-signal network: wires with inductance, capacitors, regulators, loads' slopes.

Node names are those of the direct-current network; ripple is a deviation from its solution.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from dataclasses import dataclass

import numpy as np

from yardmeter.core.network.build import Network, conductor_ohm
from yardmeter.core.network.laws import (
    Filtered,
    Law,
    Series,
    capacitor,
    constant,
    fading,
    ferrite_ohm,
    inductor_ohm,
    less,
    shunt,
    table,
)
from yardmeter.core.network.wires import wire_h
from yardmeter.core.plan import Diode, Filter, Link, Plan, Regulator, Wire
from yardmeter.core.solver.ac import AcCircuit, Complex
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING, Floats

SWITCH_H = 2e-9
"""Inductance of a connection on a board [H]; our choice."""
INPUT_ESR_OHM = 0.02
LIMITING_OHM = 1e4


@dataclass(frozen=True)
class Branch:
    name: str
    a: int
    b: int
    siemens: Law
    new: Law | None = None
    """The same when new and warm, where years and cold make a difference."""


@dataclass(frozen=True)
class Controlled:
    """Current from p to n of `gain · (v(c) − v(d))`."""

    name: str
    p: int
    n: int
    c: int
    d: int
    gain: Law


@dataclass(frozen=True)
class Point:
    """What the small-signal network needs of one row of the operating point. Lists follow the network's arrays."""

    network: Network
    row: int
    volts: list[float]
    load_slope: list[float]
    modes: list[int]
    regulating: list[bool]
    input_v: list[float]
    output_v: list[float]
    converter_a: list[float]
    feed_a: dict[str, float]
    """Direct current in the feed of each device and regulator, for saturation."""


@dataclass(frozen=True)
class AcNetwork:
    node: dict[str, int]
    branches: tuple[Branch, ...]
    controlled: tuple[Controlled, ...]

    def circuit(self, hertz: Floats) -> AcCircuit:
        """The network at these frequencies (f,) [Hz]."""
        s = 2j * math.pi * hertz

        def ints(values: list[int]) -> np.ndarray:
            return np.array(values, np.int64)

        return AcCircuit(
            len(self.node),
            ints([b.a for b in self.branches]),
            ints([b.b for b in self.branches]),
            table([b.siemens for b in self.branches], s),
            ints([c.p for c in self.controlled]),
            ints([c.n for c in self.controlled]),
            ints([c.c for c in self.controlled]),
            ints([c.d for c in self.controlled]),
            table([c.gain for c in self.controlled], s),
        )

    def changes(self, taken: Collection[str]) -> list[Branch]:
        """What taking these filters out, at the same operating point, adds to the admittance of each branch concerned."""
        found = []
        for branch in self.branches:
            kind, _, one = branch.name.partition(":")
            law = branch.siemens
            if kind == "filter" and one in taken:
                found.append(Branch(branch.name, branch.a, branch.b, less(law, None)))
            elif isinstance(law, Filtered) and any(name in taken for name, _ in law.inserted):
                found.append(Branch(branch.name, branch.a, branch.b, less(law, law.without(taken))))
        return found

    def renewed(self) -> list[Branch]:
        """What new and warm capacitors add to the admittance of each branch concerned."""
        return [Branch(b.name, b.a, b.b, less(b.siemens, b.new)) for b in self.branches if b.new]


def build_ac(point: Point) -> AcNetwork:
    """The small-signal network of a plan around one operating point."""
    plan, node = point.network.plan, point.network.node
    branches = [*_conductors(point), *_pack(point), *_loads(point), *_filters(plan, node, point)]
    controlled: list[Controlled] = []
    for supply in plan.supplies:
        if isinstance(supply, Regulator):
            more, sources = _regulator(point, supply)
            branches += more
            controlled += sources
        elif isinstance(supply, Diode):
            branches += _diode(point, supply)
    branches += _inlets(point)
    return AcNetwork(node, tuple(branches), tuple(controlled))


def _in_series(plan: Plan, element: str, amps: float) -> tuple[tuple[str, Law], ...]:
    """Impedances the filters of a device or regulator put into its feed, by filter."""
    laws = {"lc": lambda one: inductor_ohm(one, amps), "ferrite": ferrite_ohm}
    return tuple((one.id, laws[one.kind](one)) for one in plan.filters_at(element) if one.kind in laws)


def _conductors(point: Point) -> Iterator[Branch]:
    """Every conductor of the direct-current network with its inductance."""
    plan, layout = point.network.plan, point.network.layout
    siemens = point.network.circuit.conductors.siemens[point.row].tolist()
    wires: dict[str, Wire | None] = {"lead": plan.pack.lead}
    wires |= {f"return:{wire.id}": wire.wire for _, wire in plan.returns()}
    wires |= {f"feed:{d.id}": d.feed.wire for d in plan.devices if d.feed}
    wires |= {f"feed:{s.id}": s.feed for s in plan.supplies}
    for s in plan.supplies:
        if isinstance(s, Link):
            wires[f"link:{s.id}"] = s.feed
    for (name, a, b, _), made in zip(layout.conductors, siemens, strict=True):
        if made <= 0:
            continue
        wire = wires.get(name)
        kind, _, element = name.partition(":")
        own = Series(1 / made, wire_h(wire) if wire else SWITCH_H)
        more = _in_series(plan, element, point.feed_a.get(element, 0.0)) if kind == "feed" else ()
        yield Branch(name, a, b, Filtered(own, more) if more else own)


def _pack(point: Point) -> Iterator[Branch]:
    pack, emfs = point.network.plan.pack, point.network.circuit.emfs
    if emfs.siemens[point.row, 0] > 0:
        yield Branch("pack", point.network.node["pack+"], -1, Series(pack.internal_ohm, pack.inductance_h))


def _loads(point: Point) -> Iterator[Branch]:
    """The slope of every load at its operating point, and the capacitance at its input."""
    network = point.network
    loads = network.circuit.loads
    for name, index in network.load.items():
        slope, p, n = point.load_slope[index], int(loads.p[index]), int(loads.n[index])
        if slope < 0:
            yield Branch(f"load:{name}", p, n, fading(slope))
        elif slope > 0:
            yield Branch(f"load:{name}", p, n, constant(slope))
        farad = network.plan.device_of[name].input_f
        if farad > 0:
            yield Branch(f"input:{name}", p, n, capacitor(farad, INPUT_ESR_OHM, SWITCH_H))


def _filters(plan: Plan, node: dict[str, int], point: Point) -> Iterator[Branch]:
    """Capacitors of filters, between the node they stand at and the ground of the same board or device."""
    for one in plan.filters:
        if not one.fitted or one.farad <= 0:
            continue
        a, b = filter_nodes(plan, node, one)
        bias_v = abs(point.volts[a] - point.volts[b])
        yield Branch(f"filter:{one.id}", a, b, shunt(one, bias_v), shunt(one, bias_v, aged=False))


def filter_nodes(plan: Plan, node: dict[str, int], one: Filter) -> tuple[int, int]:
    """The two nodes a filter's capacitor stands between."""
    if one.at in plan.rail_of:
        return node[f"rail:{one.at}"], node[f"gnd:{plan.rail_of[one.at].board}"]
    if one.at in plan.device_of:
        return node[f"pin:{one.at}"], node[f"gnd:{one.at}"]
    supply = plan.supply_of[one.at]
    name = next(iter(plan.inputs_of(supply)), supply.input)
    plain = node[f"rail:{name}"] if name in plan.rail_of else node[f"pin:{name}"]
    return node.get(f"in:{supply.id}", plain), node[f"gnd:{supply.board}"]


def _regulator(point: Point, supply: Regulator) -> tuple[list[Branch], list[Controlled]]:
    """Output impedance and line rejection that worsen above its bandwidth; what its output takes shows at its input."""
    network, node = point.network, point.network.node
    index = network.converter[supply.id]
    circuit = network.circuit.converters
    inp, out, gnd = int(circuit.inp[index]), int(circuit.out[index]), int(circuit.gnd[index])
    branches = []
    if supply.output_f > 0:
        own = capacitor(supply.output_f, supply.output_esr_ohm, SWITCH_H)
        branches.append(Branch(f"output:{supply.id}", node[f"rail:{supply.output}"], gnd, own))
        if supply.switching:  # an input capacitor as large as the output's; our choice
            branches.append(Branch(f"entry:{supply.id}", inp, gnd, own))
    mode = point.modes[index]
    if mode not in (CONDUCTING, LIMITING):
        return branches, []
    gain, ohm = _gain(point, supply, index), _output_ohm(point, supply, index)

    def through(s: Complex) -> Complex:
        return gain(s) / ohm(s)

    def back(s: Complex) -> Complex:
        return -1 / ohm(s)

    if not supply.switching:
        return branches, [
            Controlled(f"{supply.id}:forward", inp, out, inp, gnd, through),
            Controlled(f"{supply.id}:back", inp, out, out, gnd, back),
        ]
    share = point.output_v[index] / max(point.input_v[index], 0.3)
    watts = max(point.output_v[index] * point.converter_a[index], 0.0)
    slope = -watts / max(point.input_v[index], 0.3) ** 2
    branches.append(Branch(f"{supply.id}:negative", inp, gnd, fading(slope, supply.bandwidth_hz)))
    return branches, [
        Controlled(f"{supply.id}:forward", gnd, out, inp, gnd, through),
        Controlled(f"{supply.id}:back", gnd, out, out, gnd, back),
        Controlled(f"{supply.id}:taken", inp, gnd, inp, gnd, lambda s: share * through(s)),
        Controlled(f"{supply.id}:given", inp, gnd, out, gnd, lambda s: share * back(s)),
    ]


def _gain(point: Point, supply: Regulator, index: int) -> Law:
    """Share of a ripple at the input that comes through."""
    if point.modes[index] == LIMITING:
        return constant(0.0)
    if not point.regulating[index]:
        return constant(float(point.network.circuit.converters.ceil_gain[point.row, index]))
    low = 10 ** (-supply.rejection_db / 20)
    corner = 2 * math.pi * supply.bandwidth_hz
    return lambda s: low * (1 + s / corner) / (1 + low * s / corner)


def _output_ohm(point: Point, supply: Regulator, index: int) -> Law:
    if point.modes[index] == LIMITING:
        return constant(LIMITING_OHM)
    lead = conductor_ohm(supply.lead) if supply.lead else 0.0
    if not point.regulating[index]:
        return constant(max(supply.dropout_ohm, 1e-3) + lead)
    corner = 2 * math.pi * supply.bandwidth_hz
    return lambda s: supply.output_ohm * (1 + s / corner) + lead


def _diode(point: Point, supply: Diode) -> Iterator[Branch]:
    index = point.network.converter[supply.id]
    if point.modes[index] == CONDUCTING:
        circuit = point.network.circuit.converters
        ohm = float(circuit.drop_ohm[point.row, index])
        yield Branch(supply.id, int(circuit.inp[index]), int(circuit.out[index]), Series(ohm, SWITCH_H))


def _inlets(point: Point) -> Iterator[Branch]:
    circuit = point.network.circuit.converters
    for inlet in point.network.plan.inlets:
        index = point.network.converter.get(inlet.id)
        if index is None or point.modes[index] not in (CONDUCTING, LIMITING):
            continue
        a = int(circuit.inp[index])
        b, c = int(circuit.out[index]), int(circuit.gnd[index])
        ends = (b, c) if a < 0 else (a, b)
        yield Branch(inlet.id, *ends, Series(max(inlet.series_ohm, 1e-3), 100e-9))
