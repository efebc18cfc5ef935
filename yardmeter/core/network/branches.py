"""A plan as one table of branches: every element's nodes, resistance, inductance, capacitance and law, built once.

The direct-current circuit, the small-signal one, the returns and both netlists are made from it. Each rail, each board's
ground and each device's two pins are nodes; the pack's negative terminal is the reference.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from yardmeter.core.elements.load import LoadKind
from yardmeter.core.network.converters import ConverterSpec, diode_spec, fuse_spec, inlet_spec, regulator_specs
from yardmeter.core.network.keys import (
    LEAD_KEY,
    LEAD_NODE,
    LIMITER_KEY,
    PACK_NODE,
    Key,
    Node,
    body_diode_key,
    device_key,
    feed_key,
    ground_node,
    inlet_key,
    input_node,
    link_key,
    pin_node,
    rail_node,
    return_key,
    supply_key,
)
from yardmeter.core.network.loads import load_kind, load_knee_v
from yardmeter.core.network.wires import CLOSED_OHM, conductor_ohm, wire_h
from yardmeter.core.once import cached_property
from yardmeter.core.plan import (
    CapacitorFilter,
    Device,
    FerriteFilter,
    Filter,
    Inlet,
    LcFilter,
    Link,
    Plan,
    Regulator,
    Strap,
    Supply,
    Wire,
)
from yardmeter.core.solver.assembly import Assembly
from yardmeter.core.solver.circuit import Ints

REFERENCE = -1
BOARD_H = 2e-9
"""Inductance of a connection on a board [H]; our choice."""
INPUT_ESR_OHM = 0.02
"""Of the capacitors at a device's input; our choice."""


@dataclass(frozen=True, slots=True)
class Conductor:
    """A wire, trace or closed contact. `ohm` holds what direct current meets, coils in it included."""

    key: Key
    a: int
    b: int
    ohm: float
    henry: float
    wire: Wire | None = None
    coils: tuple[LcFilter | FerriteFilter, ...] = ()


CapacitorRole = Literal["input", "output", "entry", "filter"]


@dataclass(frozen=True, slots=True)
class Capacitance:
    """A capacitor between two nodes: at a device's input, at a regulator's output or entry, or a filter's.

    A filter's inductance and derating are those of its `filter`.
    """

    role: CapacitorRole
    element: str
    a: int
    b: int
    farad: float
    esr_ohm: float
    esl_h: float
    filter: CapacitorFilter | LcFilter | None = None


@dataclass(frozen=True, slots=True)
class Load:
    """A consumer from its pin to its ground; a lamp in line with the pack is one too."""

    key: Key
    p: int
    n: int
    kind: LoadKind
    knee_v: float
    device: Device | None = None
    lamp: Inlet | None = None


@dataclass(frozen=True, slots=True)
class Converter:
    """A regulator, diode, port or fuse between input, output and ground."""

    key: Key
    inp: int
    out: int
    gnd: int
    spec: ConverterSpec


@dataclass(frozen=True, slots=True)
class Source:
    """An EMF behind a resistance and an inductance, from `b` up to `a`."""

    a: int
    b: int
    ohm: float
    henry: float


@dataclass
class BranchTable:
    """All branches of a plan; one table serves any number of situations."""

    plan: Plan
    node: dict[Node, int]
    conductors: list[Conductor]
    loads: list[Load]
    converters: list[Converter]
    pack: Source
    assembly: Assembly | None = field(default=None, repr=False)
    """Scatter matrices of the circuit, made with the first one."""

    @cached_property
    def capacitors(self) -> list[Capacitance]:
        """Direct current flows through none of them."""
        return list(_capacitors(self.plan, self.node, self.converter, self.converters))

    @cached_property
    def conductor(self) -> dict[Key, int]:
        return {one.key: index for index, one in enumerate(self.conductors)}

    @cached_property
    def load(self) -> dict[Key, int]:
        return {one.key: index for index, one in enumerate(self.loads)}

    @cached_property
    def laws(self) -> Ints:
        """(loads,): kinds of load."""
        return np.array([int(one.kind) for one in self.loads], np.int64)

    @cached_property
    def converter(self) -> dict[Key, int]:
        return {one.key: index for index, one in enumerate(self.converters)}


def branch_table(plan: Plan) -> BranchTable:
    """Nodes and branches of a plan, made once for each plan."""
    found = plan.__dict__.get("_table")
    if not isinstance(found, BranchTable):
        found = plan.__dict__["_table"] = _branches(plan)
    return found


def _branches(plan: Plan) -> BranchTable:
    node: dict[Node, int] = {}

    def new(one: Node) -> int:
        return node.setdefault(one, len(node))

    new(PACK_NODE)
    for rail in plan.rails:
        new(rail_node(rail.id))
    for board in plan.boards:
        new(ground_node(board.id))
    for device in plan.devices:
        new(pin_node(device.id))
        new(ground_node(device.id))
    if any(inlet.in_line for inlet in plan.inlets):
        new(LEAD_NODE)
    for supply in plan.supplies:
        if supply.feed and not isinstance(supply, Link | Strap):
            new(input_node(supply.id))
    conductors = [*_pack_leads(plan, node), *_device_wires(plan, node), *_returns(plan, node)]
    converters = [*_fuses(plan, node)]
    for supply in plan.supplies:
        conductors += _supply_wires(plan, node, supply)
        converters += _supply_converters(plan, node, supply)
    converters += _ports(plan, node)
    pack = Source(node[PACK_NODE], REFERENCE, plan.pack.internal_ohm, plan.pack.inductance_h)
    return BranchTable(plan, node, conductors, list(_loads(plan, node)), converters, pack)


def _pack_leads(plan: Plan, node: dict[Node, int]) -> Iterator[Conductor]:
    head = node[PACK_NODE]
    if LEAD_NODE in node:
        yield Conductor(LIMITER_KEY, head, node[LEAD_NODE], CLOSED_OHM, BOARD_H)
        head = node[LEAD_NODE]
    lead = plan.pack.lead
    yield Conductor(
        LEAD_KEY, head, node[rail_node(plan.pack.rail)], conductor_ohm(lead, plan.policy.copper_c), wire_h(lead), lead
    )


def _device_wires(plan: Plan, node: dict[Node, int]) -> Iterator[Conductor]:
    for device in plan.devices:
        if device.feed:
            ends = node[rail_node(device.feed.rail)], node[pin_node(device.id)]
            yield _fed(plan, feed_key(device.id), *ends, device.feed.wire)


def _fed(plan: Plan, key: Key, a: int, b: int, wire: Wire) -> Conductor:
    """A feed with the coils that stand in it."""
    coils = tuple(one for one in plan.filters_at(key.element) if isinstance(one, LcFilter | FerriteFilter))
    return Conductor(
        key, a, b, conductor_ohm(wire, plan.policy.copper_c) + plan.series_ohm(key.element), wire_h(wire), wire, coils
    )


def _returns(plan: Plan, node: dict[Node, int]) -> Iterator[Conductor]:
    for owner, one in plan.returns():
        to = REFERENCE if one.to == "pack" else node[ground_node(one.to)]
        yield Conductor(return_key(one.id), node[ground_node(owner)], to, conductor_ohm(one.wire, plan.policy.copper_c), wire_h(one.wire), one.wire)  # fmt: skip


def _input(plan: Plan, node: dict[Node, int], name: str) -> int:
    """Where a supply takes from: a rail, or the pin of a device that passes on."""
    return node[rail_node(name)] if name in plan.rail_of else node[pin_node(name)]


def _supply_wires(plan: Plan, node: dict[Node, int], supply: Supply) -> Iterator[Conductor]:
    out = node[rail_node(supply.output)]
    if isinstance(supply, Link | Strap):
        wires = [wire for wire in (supply.feed, supply.lead) if wire]
        ohm = supply.series_ohm + sum(conductor_ohm(wire, plan.policy.copper_c) for wire in wires)
        henry = sum(wire_h(wire) for wire in wires) or BOARD_H
        for part, name in enumerate(plan.inputs_of(supply)):
            yield Conductor(link_key(supply, part), _input(plan, node, name), out, ohm, henry, supply.feed)
    elif supply.feed:
        yield _fed(
            plan, feed_key(supply.id), _input(plan, node, supply.input), node[input_node(supply.id)], supply.feed
        )


def _supply_converters(plan: Plan, node: dict[Node, int], supply: Supply) -> Iterator[Converter]:
    if isinstance(supply, Link | Strap):
        return
    inp = node.get(input_node(supply.id), _input(plan, node, supply.input))
    out, gnd = node[rail_node(supply.output)], node[ground_node(supply.board)]
    lead_ohm = conductor_ohm(supply.lead, plan.policy.copper_c) if supply.lead else 0.0
    if not isinstance(supply, Regulator):
        yield Converter(supply_key(supply.id), inp, out, gnd, diode_spec(supply, lead_ohm))
        return
    forward, backward = regulator_specs(supply, lead_ohm)
    yield Converter(supply_key(supply.id), inp, out, gnd, forward)
    if backward:
        yield Converter(body_diode_key(supply.id), out, inp, gnd, backward)


def _fuses(plan: Plan, node: dict[Node, int]) -> Iterator[Converter]:
    for inlet in plan.inlets:
        if inlet.kind == "fuse":
            yield Converter(inlet_key(inlet.id), node[PACK_NODE], node[LEAD_NODE], REFERENCE, fuse_spec(inlet))


def _ports(plan: Plan, node: dict[Node, int]) -> Iterator[Converter]:
    for inlet in plan.inlets:
        if not inlet.in_line:
            ground = node[ground_node(plan.rail_of[inlet.rail].board)]
            yield Converter(inlet_key(inlet.id), REFERENCE, node[rail_node(inlet.rail)], ground, inlet_spec(inlet))


def _loads(plan: Plan, node: dict[Node, int]) -> Iterator[Load]:
    for device in plan.devices:
        p, n = node[pin_node(device.id)], node[ground_node(device.id)]
        yield Load(device_key(device.id), p, n, load_kind(device), load_knee_v(device), device=device)
    for inlet in plan.inlets:
        if inlet.kind == "lamp":
            key = Key("lamp", inlet.id)
            yield Load(key, node[PACK_NODE], node[LEAD_NODE], LoadKind.LAMP, inlet.volts, lamp=inlet)


def _capacitors(
    plan: Plan, node: dict[Node, int], index: dict[Key, int], converters: list[Converter]
) -> Iterator[Capacitance]:
    for device in plan.devices:
        if device.input_f > 0:
            ends = node[pin_node(device.id)], node[ground_node(device.id)]
            yield Capacitance("input", device.id, *ends, device.input_f, INPUT_ESR_OHM, BOARD_H)
    for supply in plan.supplies:
        if isinstance(supply, Regulator) and supply.output_f > 0:
            at = converters[index[supply_key(supply.id)]]
            own = supply.output_f, supply.output_esr_ohm, BOARD_H
            yield Capacitance("output", supply.id, at.out, at.gnd, *own)
            if supply.switching:  # an input capacitor as large as the output's; our choice
                yield Capacitance("entry", supply.id, at.inp, at.gnd, *own)
    for one in plan.filters:
        if one.fitted and not isinstance(one, FerriteFilter):
            a, b = filter_nodes(plan, node, one)
            yield Capacitance("filter", one.id, a, b, one.farad, one.esr_ohm, 0.0, one)


def filter_nodes(plan: Plan, node: dict[Node, int], one: Filter) -> tuple[int, int]:
    """The two nodes a filter stands between: those of its rail, device, or regulator's input."""
    if one.at in plan.rail_of:
        return node[rail_node(one.at)], node[ground_node(plan.ground_of(one.at))]
    if one.at in plan.device_of:
        return node[pin_node(one.at)], node[ground_node(one.at)]
    supply = plan.supply_of[one.at]
    name = next(iter(plan.inputs_of(supply)), supply.input)
    return node.get(input_node(supply.id), _input(plan, node, name)), node[ground_node(supply.board)]
