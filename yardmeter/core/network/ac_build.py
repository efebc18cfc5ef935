"""A plan at an operating point as a small-signal network: wires with inductance, capacitors, regulators, loads' slopes."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardmeter.core.network.ac import AcNetwork, Branch, Controlled
from yardmeter.core.network.build import Network, conductor_ohm
from yardmeter.core.network.laws import (
    Inserted,
    Law,
    capacitor,
    constant,
    fading,
    ferrite_ohm,
    inductor_ohm,
    series,
    shunt,
)
from yardmeter.core.network.wires import wire_h
from yardmeter.core.plan import Diode, Filter, Link, Plan, Regulator, Wire
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING

SWITCH_H = 2e-9
"""Inductance of a connection on a board [H]; our choice."""
INPUT_ESR_OHM = 0.02
LIMITING_OHM = 1e4


@dataclass(frozen=True)
class Point:
    """What the small-signal network needs of one row of the operating point. Lists follow the network's arrays."""

    plan: Plan
    """Whose filters stand in the network; in all that carries direct current it is the network's own plan."""
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


def build_ac(point: Point) -> AcNetwork:
    """The small-signal network of a plan around one operating point."""
    return build_all([point])[0]


def build_all(points: Sequence[Point]) -> list[AcNetwork]:
    """The same around each of several points of one plan, wires worked out once."""
    henries = _henries(points[0].network) if points else []
    return [_built(point, henries) for point in points]


def _built(point: Point, henries: list[float]) -> AcNetwork:
    plan, node = point.plan, point.network.node
    branches = [*_conductors(point, henries), *_pack(point), *_loads(point), *_filters(plan, node, point)]
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


def _henries(network: Network) -> list[float]:
    """Inductance of every conductor of the direct-current network [H], in its order."""
    plan = network.plan
    wires: dict[str, Wire | None] = {"lead": plan.pack.lead}
    wires |= {f"return:{wire.id}": wire.wire for _, wire in plan.returns()}
    wires |= {f"feed:{d.id}": d.feed.wire for d in plan.devices if d.feed}
    wires |= {f"feed:{s.id}": s.feed for s in plan.supplies}
    for s in plan.supplies:
        if isinstance(s, Link):
            wires[f"link:{s.id}"] = s.feed
    found = [wires.get(name) for name, *_ in network.layout.conductors]
    return [wire_h(wire) if wire else SWITCH_H for wire in found]


def _conductors(point: Point, henries: list[float]) -> Iterator[Branch]:
    """Every conductor of the direct-current network with its inductance."""
    plan, layout = point.plan, point.network.layout
    siemens = point.network.circuit.conductors.siemens[point.row].tolist()
    for (name, a, b, _), made, henry in zip(layout.conductors, siemens, henries, strict=True):
        if made <= 0:
            continue
        kind, _, element = name.partition(":")
        own = series(1 / made, henry)
        more = _in_series(plan, element, point.feed_a.get(element, 0.0)) if kind == "feed" else ()
        if more:
            inserted = Inserted(own, more)
            yield Branch(name, a, b, inserted.without(), inserted=inserted)
        else:
            yield Branch(name, a, b, own)


def _pack(point: Point) -> Iterator[Branch]:
    pack, emfs = point.plan.pack, point.network.circuit.emfs
    if emfs.siemens[point.row, 0] > 0:
        yield Branch("pack", point.network.node["pack+"], -1, series(pack.internal_ohm, pack.inductance_h))


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
        farad = point.plan.device_of[name].input_f
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

    through, back = gain * ohm.inverse(), constant(-1.0) * ohm.inverse()
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
        Controlled(f"{supply.id}:taken", inp, gnd, inp, gnd, constant(share) * through),
        Controlled(f"{supply.id}:given", inp, gnd, out, gnd, constant(share) * back),
    ]


def _gain(point: Point, supply: Regulator, index: int) -> Law:
    """Share of a ripple at the input that comes through."""
    if point.modes[index] == LIMITING:
        return constant(0.0)
    if not point.regulating[index]:
        return constant(float(point.network.circuit.converters.ceil_gain[point.row, index]))
    low = 10 ** (-supply.rejection_db / 20)
    corner = 2 * math.pi * supply.bandwidth_hz
    return Law((low, low / corner), (1.0, low / corner))


def _output_ohm(point: Point, supply: Regulator, index: int) -> Law:
    if point.modes[index] == LIMITING:
        return constant(LIMITING_OHM)
    lead = conductor_ohm(supply.lead) if supply.lead else 0.0
    if not point.regulating[index]:
        return constant(max(supply.dropout_ohm, 1e-3) + lead)
    corner = 2 * math.pi * supply.bandwidth_hz
    return Law((supply.output_ohm + lead, supply.output_ohm / corner))


def _diode(point: Point, supply: Diode) -> Iterator[Branch]:
    index = point.network.converter[supply.id]
    if point.modes[index] == CONDUCTING:
        circuit = point.network.circuit.converters
        ohm = float(circuit.drop_ohm[point.row, index])
        yield Branch(supply.id, int(circuit.inp[index]), int(circuit.out[index]), series(ohm, SWITCH_H))


def _inlets(point: Point) -> Iterator[Branch]:
    circuit = point.network.circuit.converters
    for inlet in point.plan.inlets:
        index = point.network.converter.get(inlet.id)
        if index is None or point.modes[index] not in (CONDUCTING, LIMITING):
            continue
        a = int(circuit.inp[index])
        b, c = int(circuit.out[index]), int(circuit.gnd[index])
        ends = (b, c) if a < 0 else (a, b)
        yield Branch(inlet.id, *ends, series(max(inlet.series_ohm, 1e-3), 100e-9))
