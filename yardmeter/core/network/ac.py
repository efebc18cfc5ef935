"""A plan at an operating point as a small-signal network: wires with inductance, capacitors, regulators, loads' slopes.

Node names are those of the direct-current network; ripple is a deviation from its solution.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from yardmeter.core.network.build import Network, conductor_ohm
from yardmeter.core.network.wires import wire_h
from yardmeter.core.physics.capacitors import BODY_H, leads_h, left_f
from yardmeter.core.physics.filters import ferrite_ohm_h, inductor_left_h
from yardmeter.core.plan import Diode, Filter, Link, Plan, Regulator, Wire
from yardmeter.core.solver.ac import AcCircuit, Complex
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING, Floats

Law = Callable[[Complex], Complex]
"""The Laplace variable s = jω (f,) [rad/s] to a complex quantity (f,)."""
SWITCH_H = 2e-9
"""Inductance of a connection on a board [H]; our choice."""
LOAD_CONTROL_HZ = 20e3
"""Above this a constant-power load no longer follows, and its negative resistance fades; our choice."""
INPUT_ESR_OHM = 0.02
LIMITING_OHM = 1e4
CORE_LOSS = 50.0
"""Parallel resistance of an inductor over its reactance at self-resonance: its quality there; our choice."""


@dataclass(frozen=True)
class Branch:
    name: str
    a: int
    b: int
    siemens: Law


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
class Series:
    """Admittance of R, L and C one behind the other; the capacitor by its elastance 1/C, none at 0."""

    ohm: float
    henry: float
    elastance: float = 0.0

    def __call__(self, s: Complex) -> Complex:
        return 1 / (self.ohm + s * self.henry + self.elastance / s)


def _table(laws: list[Law], s: Complex) -> Complex:
    """Every law at every s (f, laws). Plain series branches, nearly all of them, are worked out together."""
    found = np.empty((len(laws), s.size), complex)
    plain = [k for k, law in enumerate(laws) if isinstance(law, Series)]
    values = np.array([(law.ohm, law.henry, law.elastance) for law in laws if isinstance(law, Series)]).reshape(-1, 3)
    ohm, henry, elastance = values.T[:, :, None]
    found[plain] = 1 / (ohm + s * henry + elastance / s)
    for k, law in enumerate(laws):
        if not isinstance(law, Series):
            found[k] = law(s)
    return found.T


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
            _table([b.siemens for b in self.branches], s),
            ints([c.p for c in self.controlled]),
            ints([c.n for c in self.controlled]),
            ints([c.c for c in self.controlled]),
            ints([c.d for c in self.controlled]),
            _table([c.gain for c in self.controlled], s),
        )


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


def _constant(value: complex) -> Law:
    return lambda s: np.full(s.shape, value, complex)


def series_rl(ohm: float, henry: float, *more: Law) -> Law:
    """Admittance of a resistance and inductance in series, with further impedances in series."""
    if not more:
        return Series(ohm, henry)
    return lambda s: 1 / (ohm + s * henry + sum((law(s) for law in more), np.zeros(s.shape)))


def capacitor(farad: float, esr_ohm: float, esl_h: float) -> Law:
    """Admittance of a real capacitor."""
    return Series(esr_ohm, esl_h, 1 / farad)


def inductor_ohm(one: Filter, amps: float) -> Law:
    """Impedance of a filter's inductor at a direct current, with its self-resonance; resistance counts with the wire."""
    left = inductor_left_h(one.henry, amps, one.saturation_a)
    rise = 2 * math.pi * one.resonance_hz
    own_f, loss_ohm = 1 / (rise**2 * one.henry), CORE_LOSS * rise * one.henry
    return lambda s: 1 / (1 / (s * left) + s * own_f + 1 / loss_ohm)


def ferrite_ohm(one: Filter) -> Law:
    resistive, henry = ferrite_ohm_h(one.ohm_100mhz)
    return lambda s: 1 / (1 / resistive + 1 / (s * henry))


def shunt(one: Filter, bias_v: float) -> Law:
    """Admittance of a filter's capacitors, with derating by bias, cold and years, and its damping branch."""
    farad = left_f(one.farad, one.dielectric, bias_v, one.rated_v)
    own = capacitor(farad * one.count, one.esr_ohm / one.count, (BODY_H[one.dielectric] + leads_h(one.lead_m)) / one.count)  # fmt: skip
    if one.damping_ohm is None or one.damping_farad <= 0:
        return own
    damping = capacitor(one.damping_farad, one.damping_ohm, BODY_H[one.dielectric])
    return lambda s: own(s) + damping(s)


def _in_series(plan: Plan, element: str, amps: float) -> list[Law]:
    """Impedances the filters of a device or regulator put into its feed."""
    found: list[Law] = []
    for one in plan.filters_at(element):
        if one.kind == "lc":
            found.append(inductor_ohm(one, amps))
        elif one.kind == "ferrite":
            found.append(ferrite_ohm(one))
    return found


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
        more = _in_series(plan, element, point.feed_a.get(element, 0.0)) if kind == "feed" else []
        yield Branch(name, a, b, series_rl(1 / made, wire_h(wire) if wire else SWITCH_H, *more))


def _pack(point: Point) -> Iterator[Branch]:
    pack, emfs = point.network.plan.pack, point.network.circuit.emfs
    if emfs.siemens[point.row, 0] > 0:
        yield Branch("pack", point.network.node["pack+"], -1, series_rl(pack.internal_ohm, pack.inductance_h))


def _loads(point: Point) -> Iterator[Branch]:
    """The slope of every load at its operating point, and the capacitance at its input."""
    network = point.network
    loads = network.circuit.loads
    for name, index in network.load.items():
        slope, p, n = point.load_slope[index], int(loads.p[index]), int(loads.n[index])
        if slope < 0:
            yield Branch(f"load:{name}", p, n, _fading(slope))
        elif slope > 0:
            yield Branch(f"load:{name}", p, n, _constant(slope))
        farad = network.plan.device_of[name].input_f
        if farad > 0:
            yield Branch(f"input:{name}", p, n, capacitor(farad, INPUT_ESR_OHM, SWITCH_H))


def _fading(slope: float, corner_hz: float = LOAD_CONTROL_HZ) -> Law:
    return lambda s: slope / (1 + s / (2 * math.pi * corner_hz))


def _filters(plan: Plan, node: dict[str, int], point: Point) -> Iterator[Branch]:
    """Capacitors of filters, between the node they stand at and the ground of the same board or device."""
    for one in plan.filters:
        if not one.fitted or one.farad <= 0:
            continue
        a, b = filter_nodes(plan, node, one)
        yield Branch(f"filter:{one.id}", a, b, shunt(one, abs(point.volts[a] - point.volts[b])))


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
    through: Law = lambda s: gain(s) / ohm(s)  # noqa: E731
    back: Law = lambda s: -1 / ohm(s)  # noqa: E731
    if not supply.switching:
        return branches, [
            Controlled(f"{supply.id}:forward", inp, out, inp, gnd, through),
            Controlled(f"{supply.id}:back", inp, out, out, gnd, back),
        ]
    share = point.output_v[index] / max(point.input_v[index], 0.3)
    watts = max(point.output_v[index] * point.converter_a[index], 0.0)
    slope = -watts / max(point.input_v[index], 0.3) ** 2
    branches.append(Branch(f"{supply.id}:negative", inp, gnd, _fading(slope, supply.bandwidth_hz)))
    return branches, [
        Controlled(f"{supply.id}:forward", gnd, out, inp, gnd, through),
        Controlled(f"{supply.id}:back", gnd, out, out, gnd, back),
        Controlled(f"{supply.id}:taken", inp, gnd, inp, gnd, lambda s: share * through(s)),
        Controlled(f"{supply.id}:given", inp, gnd, out, gnd, lambda s: share * back(s)),
    ]


def _gain(point: Point, supply: Regulator, index: int) -> Law:
    """Share of a ripple at the input that comes through."""
    if point.modes[index] == LIMITING:
        return _constant(0.0)
    if not point.regulating[index]:
        return _constant(float(point.network.circuit.converters.ceil_gain[point.row, index]))
    low = 10 ** (-supply.rejection_db / 20)
    corner = 2 * math.pi * supply.bandwidth_hz
    return lambda s: low * (1 + s / corner) / (1 + low * s / corner)


def _output_ohm(point: Point, supply: Regulator, index: int) -> Law:
    if point.modes[index] == LIMITING:
        return _constant(LIMITING_OHM)
    lead = conductor_ohm(supply.lead) if supply.lead else 0.0
    if not point.regulating[index]:
        return _constant(max(supply.dropout_ohm, 1e-3) + lead)
    corner = 2 * math.pi * supply.bandwidth_hz
    return lambda s: supply.output_ohm * (1 + s / corner) + lead


def _diode(point: Point, supply: Diode) -> Iterator[Branch]:
    index = point.network.converter[supply.id]
    if point.modes[index] == CONDUCTING:
        circuit = point.network.circuit.converters
        ohm = float(circuit.drop_ohm[point.row, index])
        yield Branch(supply.id, int(circuit.inp[index]), int(circuit.out[index]), series_rl(ohm, SWITCH_H))


def _inlets(point: Point) -> Iterator[Branch]:
    circuit = point.network.circuit.converters
    for inlet in point.network.plan.inlets:
        index = point.network.converter.get(inlet.id)
        if index is None or point.modes[index] not in (CONDUCTING, LIMITING):
            continue
        a = int(circuit.inp[index])
        b, c = int(circuit.out[index]), int(circuit.gnd[index])
        ends = (b, c) if a < 0 else (a, b)
        yield Branch(inlet.id, *ends, series_rl(max(inlet.series_ohm, 1e-3), 100e-9))
