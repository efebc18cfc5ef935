"""A plan's branch table as a circuit in time: what the direct-current and the small-signal network have, with their states."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import product

import numpy as np

from yardmeter.core.elements.capacitor import ceramic_c
from yardmeter.core.elements.coil import core_flux
from yardmeter.core.elements.inline import cold_lamp_ohm
from yardmeter.core.elements.load import CONTROL_HZ, LoadKind
from yardmeter.core.network.ac_build import INLET_H
from yardmeter.core.network.branches import BOARD_H, REFERENCE, BranchTable, filter_nodes
from yardmeter.core.network.build import Network, rest_pack_v
from yardmeter.core.network.keys import PACK_KEY, Key, ground_node, pin_node, rail_node
from yardmeter.core.network.ports import Port, port_volts, with_ports
from yardmeter.core.physics.capacitors import BODY_H, DERATING, leads_h
from yardmeter.core.physics.filters import core_bend_a, ferrite_ohm_h
from yardmeter.core.physics.inline import MELTS_FRAC, fuse_s, ntc_settled_c, ntc_w_k
from yardmeter.core.physics.pack import REST_CURVE, charge_left_frac
from yardmeter.core.plan import CapacitorFilter, Clamp, Device, LcFilter, Plan, Regulator, Wire
from yardmeter.core.solver.circuit import LIMIT_SLACK, Floats, Loads, Solution
from yardmeter.core.solver.laws import load_current
from yardmeter.core.solver.transient import Consumers, Converting, Series, Start, Thermal, TransientCircuit
from yardmeter.core.solver.transient.arrays import FOLD, HICCUP, HOLD, LATCH, Core, Curve, Inline
from yardmeter.core.solver.transient.layout import Layout

POLARISED_FRAC = 0.3
"""Share of a cell's resistance that builds up with time, the rest is there at once; common practice, no source."""
POLARISED_S = 20.0
"""Time it takes; common practice, no source."""
MOTOR_S = 0.03
"""Time a motor group's current takes after its throttle; common practice, no source."""
FILAMENT_S = 0.15
"""Time in which a car lamp's filament warms; from memory."""
SOFT_S = {"linear": 0.2e-3, "buck": 2e-3, "boost": 2e-3, "buckboost": 2e-3}
"""Soft start where the plan says nothing [s]; typical of data sheets, from memory."""
STYLES = {"constant": HOLD, "fold back": FOLD, "hiccup": HICCUP, "latch": LATCH}
BYPASS_F, BYPASS_OHM = 100e-9, 0.5
"""A ceramic at a rail or at pins that nothing else is at, with the copper to it; common practice, no source."""
LEAK_OHM = 1e6
"""What empties it again: flux, dividers, inputs; common practice, no source."""
BLANK_S = 1e-3
"""How long a regulator stands at its limit before it hiccups or latches; typical of data sheets, from memory."""
TRIP_S = 5e-3
"""How long a limiter in the pack's lead stands at its limit before it opens; our choice."""


@dataclass(frozen=True)
class Moving:
    """The circuit with where each element stands in it."""

    network: Network
    circuit: TransientCircuit
    series: dict[Key, int]
    consumer: dict[str, int]
    converter: dict[Key, int]
    ports: tuple[Port, ...] = ()

    @property
    def plan(self) -> Plan:
        return self.network.plan

    @property
    def table(self) -> BranchTable:
        return self.network.table

    @property
    def pack(self) -> int:
        """The pack's series branch."""
        return self.series[PACK_KEY]


@dataclass
class _Branch:
    key: Key
    a: int
    b: int
    ohm: float
    henry: float
    elastance: float = 0.0
    lag_ohm: float = 0.0
    lag_s: float = 0.0
    core_a: float | None = None
    core_h: float = 0.0
    wire: Wire | None = None
    ceramic: tuple[float, float, float] | None = None
    """Farads at no bias, loss at its rating, rating [V]."""


def moving(network: Network) -> Moving:
    """The circuit in time of a network's situations, a row each; nothing is plugged that its condition has not."""
    table, plan = network.table, network.plan
    branches = [*_conductors(table), _pack(table), *_capacitors(plan, table), *_bypasses(plan, table)]
    core = _core(branches)  # first: it adds the coils to their branches
    rows = len(network.situations)

    def per_row(values: list[float]) -> Floats:
        return np.tile(np.array(values, float), (rows, 1))

    closed = np.ones((rows, len(branches)), bool)
    wires = len(table.conductors)
    closed[:, :wires] = network.circuit.conductors.siemens > 0
    closed[:, wires] = network.circuit.emfs.siemens[:, 0] > 0
    emf = np.zeros((rows, len(branches)))
    emf[:, wires] = network.circuit.emfs.volts[:, 0]
    series = Series(
        np.array([one.a for one in branches], np.int64),
        np.array([one.b for one in branches], np.int64),
        per_row([one.ohm for one in branches]),
        per_row([one.henry for one in branches]),
        per_row([one.elastance for one in branches]),
        emf,
        closed,
        np.zeros((rows, len(branches))),
        per_row([one.lag_ohm for one in branches]),
        per_row([one.lag_s for one in branches]),
        _curve(network, branches, wires),
        core,
        _inline(network, branches),
    )
    circuit = TransientCircuit(
        rows, len(table.node), series, _consumers(network), _converting(network), _thermal(network)
    )
    consumer = {one.key.element: k for k, one in enumerate(table.loads)}
    clamps = [one for one in plan.clamps if one.fitted]
    consumer |= {one.id: len(table.loads) + k for k, one in enumerate(clamps)}
    circuit, ports = with_ports(network, circuit)
    return Moving(network, circuit, {one.key: k for k, one in enumerate(branches)}, consumer, table.converter, ports)


def _conductors(table: BranchTable) -> list[_Branch]:
    found = []
    for one in table.conductors:
        made = _Branch(one.key, one.a, one.b, one.ohm, one.henry, wire=one.wire)
        for coil in one.coils:
            if isinstance(coil, LcFilter):
                made.core_h += coil.henry
                made.core_a = min(made.core_a or math.inf, coil.saturation_a)
            else:
                resistive, henry = ferrite_ohm_h(coil.ohm_100mhz)
                made.ohm += resistive
                made.lag_ohm -= resistive
                made.lag_s = henry / resistive
        found.append(made)
    return found


def _pack(table: BranchTable) -> _Branch:
    pack = table.pack
    slow = POLARISED_FRAC * pack.ohm
    return _Branch(PACK_KEY, REFERENCE, pack.a, pack.ohm - slow, pack.henry, lag_ohm=slow, lag_s=POLARISED_S)


def _capacitors(plan: Plan, table: BranchTable) -> list[_Branch]:
    found = []
    for one in table.capacitors:
        if one.filter is None:
            key = Key(one.role, one.element)
            # On a board a capacitor's own inductance rings far above what a run follows; a switch beside it would set it off.
            found.append(_Branch(key, one.a, one.b, one.esr_ohm, 0.0, 1 / one.farad))
            continue
        found += _filter(plan, table, one.filter)
    return found


def _bypasses(plan: Plan, table: BranchTable) -> list[_Branch]:
    """The small ceramic that every board has at a rail, and every device at its pins, where the plan knows of none there that has no leads:
    nothing hangs in the air when what feeds it lets go, and a coil's current finds somewhere to go."""
    known = {frozenset((one.a, one.b)) for one in table.capacitors if one.filter is None}  # those have leads
    ends = {
        rail.id: (table.node[rail_node(rail.id)], table.node[ground_node(plan.ground_of(rail.id))])
        for rail in plan.rails
    }
    ends |= {one.id: (table.node[pin_node(one.id)], table.node[ground_node(one.id)]) for one in plan.devices}
    bare = {name: pair for name, pair in ends.items() if frozenset(pair) not in known and pair[0] != pair[1]}
    ceramics = [_Branch(Key("bypass", name), a, b, BYPASS_OHM, 0.0, 1 / BYPASS_F) for name, (a, b) in bare.items()]
    leaks = [
        one.id for one in plan.rails if one.id in bare
    ]  # a device has its own ways, and is asked for not a microamp more
    return ceramics + [_Branch(Key("bypass", name, 1), *bare[name], LEAK_OHM, 0.0) for name in leaks]


def _filter(plan: Plan, table: BranchTable, one: CapacitorFilter | LcFilter) -> list[_Branch]:
    """A filter's capacitors, aged as in the small-signal network, and its damping branch."""
    a, b = filter_nodes(plan, table.node, one)
    loss, cold, old = DERATING[one.dielectric]
    farad = one.farad * one.count * cold * old
    esl = (BODY_H[one.dielectric] + leads_h(one.lead_m)) / one.count
    ceramic = (farad, loss, one.rated_v) if loss else None
    found = [_Branch(Key("filter", one.id), a, b, one.esr_ohm / one.count, esl, 1 / farad, ceramic=ceramic)]
    if one.damping_ohm is not None and one.damping_farad > 0:
        found.append(_Branch(Key("filter", one.id, 1), a, b, one.damping_ohm, BODY_H[one.dielectric], 1 / one.damping_farad))  # fmt: skip
    return found


def _curve(network: Network, branches: list[_Branch], cell: int) -> Curve:
    bent = [(k, *one.ceramic) for k, one in enumerate(branches) if one.ceramic]
    at, farad, loss, rated = zip(*bent, strict=True) if bent else ((), (), (), ())
    pack = network.plan.pack
    rest_v = rest_pack_v(network.plan, network.situations[0])
    left = charge_left_frac(pack.chemistry, rest_v / pack.series)
    points = [(frac, volts) for frac, volts in REST_CURVE[pack.chemistry] if frac < left - 1e-9][::-1]
    full_c = pack.charge_ah * 3600
    taken = [0.0, *((left - frac) * full_c for frac, _ in points)]
    volts = [rest_v, *(pack.series * one for _, one in points)]
    if len(taken) == 1:  # empty: no curve is left, and it falls as it fell last
        (low, low_v), (high, high_v) = REST_CURVE[pack.chemistry][:2]
        taken.append((high - low) * full_c)
        volts.append(rest_v - pack.series * (high_v - low_v))
    return Curve(
        np.array(at, np.int64), np.array(farad, float), np.array(loss, float), np.array(rated, float),
        cell, np.array(taken), np.array(volts),
    )  # fmt: skip


def _core(branches: list[_Branch]) -> Core | None:
    cored = [(k, one) for k, one in enumerate(branches) if one.core_a is not None]
    if not cored:
        return None
    for _, one in cored:
        one.henry += one.core_h
    bend = [core_bend_a(one.core_a or 1.0) for _, one in cored]
    return Core(np.array([k for k, _ in cored], np.int64), np.array([one.henry for _, one in cored]), np.array(bend))


def _inline(network: Network, branches: list[_Branch]) -> Inline | None:
    """Fuses and NTCs in line with wires."""
    plan = network.plan
    still = network.situations[0].condition.air == "still"
    air_c = plan.policy.still_air_c if still else plan.policy.moving_air_c
    rows = []
    for k, one in enumerate(branches):
        part, wire = (one.wire.inline, one.wire) if one.wire else (None, None)
        if part is None or wire is None or part.kind == "spark":
            continue
        rated = wire.connector_limit_a or 1.0
        if part.kind == "fuse":
            rows.append((k, rated, MELTS_FRAC**2, fuse_s(rated, part.melts_a2s), 0.0, 0.0, 0.0, 0.0))
        else:
            given = ntc_w_k(part.cold_ohm, wire.connector_ohm, rated)
            rows.append((k, 0.0, 0.0, part.cools_s, part.cold_ohm, wire.connector_ohm, given, air_c))
    if not rows:
        return None
    at, *numbers = zip(*rows, strict=True)
    return Inline(np.array(at, np.int64), *(np.array(one, float) for one in numbers))


def _consumers(network: Network) -> Consumers:
    table, plan = network.table, network.plan
    clamps = [one for one in plan.clamps if one.fitted]
    loads = network.circuit.loads
    ends = [clamp_nodes(plan, table, one) for one in clamps]
    rows = len(network.situations)
    ohms = np.tile(np.array([one.dynamic_ohm for one in clamps], float), (rows, 1))
    law = Loads(
        np.concatenate([loads.p, np.array([p for p, _ in ends], np.int64)]),
        np.concatenate([loads.n, np.array([n for _, n in ends], np.int64)]),
        np.concatenate([loads.law, np.full(len(clamps), int(LoadKind.LED), np.int64)]),
        np.concatenate([loads.value, ohms], axis=1),
        np.concatenate([loads.knee_v, np.array([one.breakdown_v for one in clamps], float)]),
    )
    devices = [one.device for one in table.loads]
    more = len(clamps)

    def of(value: float, pick: list[float]) -> Floats:
        return np.array([*pick, *[value] * more], float)

    machine = [bool(d) and loads.law[k] in (int(LoadKind.CURRENT), int(LoadKind.POWER)) for k, d in enumerate(devices)]
    return Consumers(
        law,
        of(0.0, [lag_s(plan, one) for one in devices]),
        law.value.copy(),  # what devices ask off and while they boot is a scenario's to say
        law.value.copy(),
        law.value.copy(),
        np.array([*machine, *[False] * more], bool),
        of(0.0, [one.reset_v if one else 0.0 for one in devices]),
        of(0.0, [one.restarts_v if one else 0.0 for one in devices]),
        of(0.0, [one.holds_s if one else 0.0 for one in devices]),
        of(0.0, [one.boots_s if one else 0.0 for one in devices]),
        regen_v=1.6 * plan.pack.rest_v("full"),
        filament_s=of(0.0, [0.0 if one else FILAMENT_S for one in devices]),
        lamp_a=of(0.0, [one.lamp.limit_a if one.lamp else 0.0 for one in table.loads]),
    )


def lag_s(plan: Plan, device: Device | None) -> float:
    """How fast a consumer's current follows what it asks [s]: a motor's own time, a power load's control, an edge."""
    if device is None or device.law in ("resistance", "led"):
        return 0.0
    if device.kind == "motor":
        return MOTOR_S
    return 1 / (2 * math.pi * CONTROL_HZ) if device.law == "power" else plan.policy.edge_s


def clamp_nodes(plan: Plan, table: BranchTable, clamp: Clamp) -> tuple[int, int]:
    """The two nodes a clamp stands between."""
    if clamp.at in plan.rail_of:
        return table.node[rail_node(clamp.at)], table.node[ground_node(plan.ground_of(clamp.at))]
    return table.node[pin_node(clamp.at)], table.node[ground_node(clamp.at)]


def _converting(network: Network) -> Converting:
    plan, law = network.plan, network.circuit.converters
    henry, line, entry, soft, blank, retry, start, stop = [], [], [], [], [], [], [], []
    style = []
    for one in network.table.converters:
        supply = plan.supply_of.get(one.key.element)
        own = supply if isinstance(supply, Regulator) and one.key.role == "supply" else None
        start.append(one.spec.start_v)
        stop.append(one.spec.stop_v)
        retry.append(own.retry_s if own else 1.0)
        if own:
            corner = 2 * math.pi * own.bandwidth_hz
            henry.append(own.output_ohm / corner)
            line.append(10 ** (-own.rejection_db / 20) / corner)
            entry.append(1 / corner)
            soft.append(own.soft_start_s if own.soft_start_s is not None else SOFT_S[own.kind])
            style.append(STYLES[own.limiting])
            blank.append(BLANK_S)
        else:
            port = one.key.role == "inlet"
            in_line = port and plan.inlet_of[one.key.element].in_line
            henry.append(INLET_H if port else BOARD_H)
            line.append(0.0)
            entry.append(0.0)
            soft.append(0.0)
            style.append(LATCH if in_line else HOLD)
            blank.append(TRIP_S)
    law = replace(
        law,
        out_ohm=np.maximum(law.out_ohm, 1e-3),
        drop_ohm=np.maximum(law.drop_ohm, 1e-4),
        set_v=law.set_v.copy(),  # an act may change it
        limit_a=law.limit_a * (1 + LIMIT_SLACK),  # as of points: one that is met exactly is held
    )
    floats = [np.array(one, float) for one in (henry, line, entry, start, stop, soft, retry, blank)]
    of = dict(
        zip(("henry", "line_s", "entry_s", "start_v", "stop_v", "soft_s", "retry_s", "blank_s"), floats, strict=True)
    )
    return Converting(law=law, style=np.array(style, np.int64), **of)


def _thermal(network: Network) -> Thermal:
    plan = network.plan
    theta, tau, trip = [], [], []
    still = network.situations[0].condition.air == "still"
    for one in network.table.converters:
        supply = plan.supply_of.get(one.key.element)
        own = supply if isinstance(supply, Regulator) and one.key.role == "supply" else None
        theta.append((own.theta_still_k_w if still else own.theta_moving_k_w) if own else 0.0)
        tau.append(own.tau_s if own else 1.0)
        trip.append(own.trip_c if own else np.inf)
    air = [
        plan.policy.still_air_c if s.condition.air == "still" else plan.policy.moving_air_c for s in network.situations
    ]
    return Thermal(
        np.array(theta, float),
        np.array(tau, float),
        np.array(trip, float),
        np.tile(np.array(air, float)[:, None], (1, len(theta))),
    )


def dead_start(made: Moving) -> Start:
    """Nothing of the craft is charged, nothing runs, everything is as warm as the air."""
    circuit = made.circuit
    layout = Layout(circuit)
    states, volts = np.zeros((circuit.rows, layout.states)), np.zeros((circuit.rows, circuit.nodes))
    for one in made.ports:  # a port stands charged before anything is plugged into it
        volts[:, one.node] = one.volts
        states[:, layout.charge.start + one.kept] = one.farad * one.volts
    return Start(volts, states, circuit.thermal.air_c.copy(), powered=False)


def start_at(made: Moving, solution: Solution) -> Start:
    """Everything as it stands at the operating points of the network's situations."""
    circuit, table = made.circuit, made.table
    layout = Layout(circuit)
    s, law = circuit.series, circuit.consumers.law
    volts, given = _with_ports(made, solution)
    ve = np.concatenate([volts, np.zeros((circuit.rows, 1))], axis=1)
    states = np.zeros((circuit.rows, layout.states))
    across = ve[:, s.a] - ve[:, s.b]
    wires = len(table.conductors)
    amps = np.zeros_like(across)
    amps[:, :wires] = across[:, :wires] * made.network.circuit.conductors.siemens
    emfs = made.network.circuit.emfs
    amps[:, wires] = -(ve[:, emfs.a[0]] - ve[:, emfs.b[0]] - emfs.volts[:, 0]) * emfs.siemens[:, 0]
    flux = amps * s.henry
    if s.core is not None:
        for row, (k, bend) in product(range(circuit.rows), zip(s.core.at, s.core.bend_a, strict=True)):
            flux[row, k] = core_flux(amps[row, k], s.henry[row, k], bend)[0]
    charge = np.where(s.elastance > 0, across / np.maximum(s.elastance, 1e-12), 0.0)
    if s.curve is not None and s.curve.at.size:
        bent = zip(s.curve.at, s.curve.farad, s.curve.loss, s.curve.rated_v, strict=True)
        for row, (k, *kind) in product(range(circuit.rows), bent):
            charge[row, k] = ceramic_c(across[row, k], *kind)
    states[:, layout.flux], states[:, layout.charge], states[:, layout.lag] = flux, charge, amps
    drawn = load_current(law, ve[:, law.p] - ve[:, law.n])[0]
    states[:, layout.load] = np.where(law.law == int(LoadKind.CURRENT), law.value, drawn)  # as the march has it
    c = circuit.converting.law
    states[:, layout.conv] = given
    states[:, layout.line] = states[:, layout.entry] = ve[:, c.inp] - ve[:, c.gnd]
    return Start(
        volts.copy(), states, circuit.thermal.air_c.copy(), powered=True, lamp_ohm=_lit_ohm(circuit, ve),
        heat=_settled(circuit, amps),
    )  # fmt: skip


def _lit_ohm(circuit: TransientCircuit, ve: Floats) -> Floats:
    """Resistance of lamps whose filaments have settled at these volts (B, k); cold for those that are off, 1 for what is none."""
    law = circuit.consumers.law
    across = ve[:, law.p] - ve[:, law.n]
    amps = load_current(law, across)[0]
    lit = (law.law == int(LoadKind.LAMP)) & (amps > 0)
    rated = circuit.consumers.lamp_a
    cold = [
        cold_lamp_ohm(v, a) for v, a in zip(law.knee_v, np.zeros(law.p.size) if rated is None else rated, strict=True)
    ]
    found: Floats = np.where(lit, across / np.where(lit, amps, 1.0), np.where(law.law == int(LoadKind.LAMP), cold, 1.0))
    return found


def _with_ports(made: Moving, solution: Solution) -> tuple[Floats, Floats]:
    """Node volts and converter currents of a solution, with those of the ports' own parts."""
    ve = np.concatenate([solution.volts, np.zeros((made.circuit.rows, 1))], axis=1)
    cables = np.array([one.cable for one in made.ports], np.int64)
    law, given = made.circuit.converting.law, solution.converter_a[:, cables]
    gnd = ve[:, law.gnd[cables]]
    at_port = gnd + port_volts(made.ports, ve[:, law.out[cables]] - gnd, given)
    return np.concatenate([solution.volts, at_port], axis=1), np.concatenate([solution.converter_a, given], axis=1)


def _settled(circuit: TransientCircuit, amps: Floats) -> Floats | None:
    """Heat of fuses and NTCs that have carried these currents (B, ns) for long."""
    own = circuit.series.inline
    if own is None:
        return None
    heat = np.zeros_like(amps)
    for row, j in product(range(circuit.rows), range(own.at.size)):
        k = own.at[j]
        if own.melts[j] > 0:
            heat[row, k] = (amps[row, k] / own.rated_a[j]) ** 2
        else:
            heat[row, k] = ntc_settled_c(own.cold_ohm[j], own.w_k[j], amps[row, k], own.air_c[j])
    return heat
