"""A plan at an operating point as a small-signal network: wires with inductance, capacitors, regulators, loads' slopes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.elements.capacitor import admittance, shunt
from yardmeter.core.elements.coil import bead_ohm, coil_ohm
from yardmeter.core.elements.load import slope_law
from yardmeter.core.elements.pack import pack_law
from yardmeter.core.elements.regulator import Small, gain_law, input_slope_law, output_law
from yardmeter.core.elements.transfer import Inserted, TransferFunction
from yardmeter.core.elements.wire import wire_law
from yardmeter.core.network.ac import AcNetwork, Branch, Controlled
from yardmeter.core.network.branches import BOARD_H, BranchTable
from yardmeter.core.network.build import Network
from yardmeter.core.network.keys import PACK_KEY, Key, inlet_key, supply_key
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.plan import Diode, FerriteFilter, LcFilter, Plan, Regulator
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING

INLET_H = 100e-9
"""Inductance of a USB cable or of a limiter's leads [H]; our choice."""


@dataclass(frozen=True)
class Point:
    """What the small-signal network needs of one row of the operating point. Lists follow the network's arrays."""

    table: BranchTable
    """Whose filters stand in the network; in all that carries direct current it is that of `network`."""
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

    @property
    def plan(self) -> Plan:
        return self.table.plan


def build_ac(point: Point) -> AcNetwork:
    """The small-signal network of a plan around one operating point."""
    branches = [*_conductors(point), *_pack(point), *_loads(point), *_capacitors(point)]
    controlled: list[Controlled] = []
    for supply in point.plan.supplies:
        if isinstance(supply, Regulator):
            more, sources = _regulator(point, supply)
            branches += more
            controlled += sources
        elif isinstance(supply, Diode):
            branches += _diode(point, supply)
    branches += _inlets(point)
    return AcNetwork(point.table.node, tuple(branches), tuple(controlled))


def _conductors(point: Point) -> Iterator[Branch]:
    """Every conductor of the direct-current network with its inductance, and the coils that stand in it."""
    siemens = point.network.circuit.conductors.siemens[point.row].tolist()
    for one, made in zip(point.table.conductors, siemens, strict=True):
        if made <= 0:
            continue
        own = wire_law(1 / made, one.henry)
        if one.coils:
            amps = point.feed_a.get(one.key.element, 0.0)
            inserted = Inserted(own, tuple((coil.id, _coil_ohm(coil, amps)) for coil in one.coils))
            yield Branch(one.key, one.a, one.b, inserted.without(), inserted=inserted)
        else:
            yield Branch(one.key, one.a, one.b, own)


def _coil_ohm(one: LcFilter | FerriteFilter, amps: float) -> TransferFunction:
    if isinstance(one, FerriteFilter):
        return bead_ohm(one.ohm_100mhz)
    return coil_ohm(one.henry, one.saturation_a, one.resonance_hz, amps)


def _pack(point: Point) -> Iterator[Branch]:
    pack = point.table.pack
    if point.network.circuit.emfs.siemens[point.row, 0] > 0:
        yield Branch(PACK_KEY, pack.a, pack.b, pack_law(pack.ohm, pack.henry))


def _loads(point: Point) -> Iterator[Branch]:
    """The slope of every load at its operating point."""
    for one, slope in zip(point.table.loads, point.load_slope, strict=True):
        if one.device and slope:
            yield Branch(Key("slope", one.key.element), one.p, one.n, slope_law(slope))


def _capacitors(point: Point) -> Iterator[Branch]:
    for one in point.table.capacitors:
        key = Key(one.role, one.element)
        if one.filter is None:
            yield Branch(key, one.a, one.b, admittance(one.farad, one.esr_ohm, one.esl_h))
        else:
            bias_v = abs(point.volts[one.a] - point.volts[one.b])
            yield Branch(key, one.a, one.b, shunt(one.filter, bias_v), shunt(one.filter, bias_v, aged=False))


def _regulator(point: Point, supply: Regulator) -> tuple[list[Branch], list[Controlled]]:
    """Output impedance and line rejection that worsen above its bandwidth; what its output takes shows at its input."""
    index = point.table.converter[supply_key(supply.id)]
    at = point.table.converters[index]
    inp, out, gnd = at.inp, at.out, at.gnd
    mode = point.modes[index]
    if mode not in (CONDUCTING, LIMITING):
        return [], []
    one = small_of(point, supply, index)
    siemens = output_law(one).inverse()
    through, back = gain_law(one) * siemens, siemens.scaled(-1.0)
    forward_key, back_key = Key("forward", supply.id), Key("back", supply.id)
    if not supply.switching:
        return [], [
            Controlled(forward_key, inp, out, inp, gnd, through),
            Controlled(back_key, inp, out, out, gnd, back),
        ]
    return [Branch(Key("slope", supply.id), inp, gnd, input_slope_law(one))], [
        Controlled(forward_key, gnd, out, inp, gnd, through),
        Controlled(back_key, gnd, out, out, gnd, back),
        Controlled(Key("taken", supply.id), inp, gnd, inp, gnd, through.scaled(one.share)),
        Controlled(Key("given", supply.id), inp, gnd, out, gnd, back.scaled(one.share)),
    ]


def small_of(point: Point, supply: Regulator, index: int) -> Small:
    """A regulator at its point, for its small-signal laws."""
    lead = conductor_ohm(supply.lead, point.network.plan.policy.copper_c) if supply.lead else 0.0
    return Small(
        point.modes[index] == LIMITING,
        point.regulating[index],
        float(point.network.circuit.converters.ceil_gain[point.row, index]),
        supply.rejection_db, supply.bandwidth_hz, supply.output_ohm, supply.dropout_ohm, lead, supply.switching,
        point.input_v[index], point.output_v[index], point.converter_a[index],
    )  # fmt: skip


def _diode(point: Point, supply: Diode) -> Iterator[Branch]:
    index = point.table.converter[supply_key(supply.id)]
    if point.modes[index] == CONDUCTING:
        at = point.table.converters[index]
        yield Branch(at.key, at.inp, at.out, wire_law(at.spec.drop_ohm, BOARD_H))


def _inlets(point: Point) -> Iterator[Branch]:
    for inlet in point.plan.inlets:
        index = point.table.converter.get(inlet_key(inlet.id))
        if index is None or point.modes[index] not in (CONDUCTING, LIMITING):
            continue
        at = point.table.converters[index]
        ends = (at.out, at.gnd) if at.inp < 0 else (at.inp, at.out)
        yield Branch(at.key, *ends, wire_law(max(inlet.series_ohm, 1e-3), INLET_H))
