"""Lay a plan out as nodes and branches for a set of situations.

Each rail, each board's ground and each device's two pins are nodes; the pack's negative terminal is the reference.
Names of nodes: `pack+`, `lead` (behind a limiter), `rail:ID`, `gnd:ID` (board or device), `pin:ID`, `in:ID` (supply).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from yardmeter.core.network.converters import ConverterSpec, diode_spec, fuse_spec, inlet_spec, regulator_specs
from yardmeter.core.network.loads import load_knee_v, load_law, load_value, scaled_by
from yardmeter.core.physics.conductors import wire_ohm
from yardmeter.core.plan import Condition, Device, Diode, Inlet, Link, Plan, Regulator, Strap, Wire
from yardmeter.core.solver.assembly import Assembly, assembly_of
from yardmeter.core.solver.circuit import Circuit, Conductors, Converters, Emfs, Floats, Ints, Law, Loads
from yardmeter.core.solver.rows import take_rows

CLOSED_SIEMENS = 1e4
"""A connection that is simply made [S]."""
UNLIMITED_A = 1e6


@dataclass(frozen=True)
class Situation:
    """One row: a condition, whether supplies cut off at their limits, and what is averaged or varied."""

    condition: Condition
    limited: bool = True
    averaged: bool = False
    cell_v: float | None = None
    load_factor: float = 1.0


@dataclass(frozen=True)
class Network:
    """The circuit with the way back from element ids to its arrays."""

    plan: Plan
    layout: Layout
    situations: tuple[Situation, ...]
    circuit: Circuit
    assembly: Assembly
    node: dict[str, int]
    conductor: dict[str, int]
    load: dict[str, int]
    converter: dict[str, int]

    def emf_v(self) -> Floats:
        """Rest voltage of the pack per situation [V]."""
        return self.circuit.emfs.volts[:, 0]


def rest_pack_v(plan: Plan, situation: Situation) -> float:
    """Rest voltage of the pack [V]: swept cell volts, measured pack volts, stated cell volts, else the state's."""
    condition = situation.condition
    if situation.cell_v is not None:
        return situation.cell_v * plan.pack.series
    if condition.pack_v is not None:
        return condition.pack_v
    if condition.cell_v is not None:
        return condition.cell_v * plan.pack.series
    return plan.pack.rest_v(condition.pack_state)


def conductor_ohm(wire: Wire) -> float:
    """Resistance of a wire with its connector [Ω]."""
    own = 1 / CLOSED_SIEMENS if wire.joined else wire_ohm(wire.gauge_awg, wire.length_m)
    return own + wire.connector_ohm


@dataclass
class Layout:
    """The part of a network that does not depend on the situation: nodes, branches, and their scatter matrices."""

    plan: Plan
    node: dict[str, int] = field(default_factory=dict)
    conductors: list[tuple[str, int, int, float]] = field(default_factory=list)
    converters: list[tuple[str, int, int, int, ConverterSpec]] = field(default_factory=list)
    assembly: Assembly | None = None

    def new(self, name: str) -> int:
        return self.node.setdefault(name, len(self.node))

    def wire(self, name: str, a: int, b: int, ohm: float) -> None:
        self.conductors.append((name, a, b, 1 / ohm))


def lay_out(plan: Plan) -> Layout:
    """Nodes and branches of a plan; one layout serves any number of situations."""
    layout = Layout(plan)
    layout.new("pack+")
    for rail in plan.rails:
        layout.new(f"rail:{rail.id}")
    for board in plan.boards:
        layout.new(f"gnd:{board.id}")
    for device in plan.devices:
        layout.new(f"pin:{device.id}")
        layout.new(f"gnd:{device.id}")
    _lay_pack(plan, layout)
    _lay_wires(plan, layout)
    for supply in plan.supplies:
        _lay_supply(plan, layout, supply)
    ground = {rail.id: layout.node[f"gnd:{rail.board}"] for rail in plan.rails}
    for inlet in plan.inlets:
        if inlet.kind in ("usb", "bench"):
            layout.converters.append(
                (inlet.id, -1, layout.node[f"rail:{inlet.rail}"], ground[inlet.rail], inlet_spec(inlet))
            )
    return layout


def build_network(layout: Layout, situations: Sequence[Situation]) -> Network:
    """The circuit of all situations at once, with its start voltages."""
    circuit, loads = _circuit(layout.plan, layout, situations)
    if layout.assembly is None:
        layout.assembly = assembly_of(circuit)
    return Network(
        layout.plan,
        layout,
        tuple(situations),
        circuit,
        layout.assembly,
        layout.node,
        {name: index for index, (name, *_) in enumerate(layout.conductors)},
        loads,
        {name: index for index, (name, *_) in enumerate(layout.converters)},
    )


def derive(network: Network, rows: Ints, situations: Sequence[Situation]) -> Network:
    """Rows of a network again for situations that differ from theirs in pack volts or limits alone; far cheaper to make."""
    picked = take_rows(network.circuit, rows)
    specs = [spec for *_, spec in network.layout.converters]
    limit_a = picked.converters.limit_a.copy()
    if limit_a.size:
        limit_a[:] = _limits_a(specs, situations)
    volts = np.array([[rest_pack_v(network.plan, s)] for s in situations])
    circuit = replace(
        picked, emfs=replace(picked.emfs, volts=volts), converters=replace(picked.converters, limit_a=limit_a)
    )
    return replace(network, situations=tuple(situations), circuit=circuit)


def _lay_pack(plan: Plan, layout: Layout) -> None:
    head = layout.node["pack+"]
    limiters = [inlet for inlet in plan.inlets if inlet.kind in ("lamp", "fuse")]
    if limiters:
        tail = layout.new("lead")
        layout.wire("limiter", head, tail, 1 / CLOSED_SIEMENS)
        for inlet in limiters:
            if inlet.kind == "fuse":
                layout.converters.append((inlet.id, head, tail, -1, fuse_spec(inlet)))
        head = tail
    layout.wire("lead", head, layout.node[f"rail:{plan.pack.rail}"], conductor_ohm(plan.pack.lead))


def _lay_wires(plan: Plan, layout: Layout) -> None:
    for device in plan.devices:
        if device.feed:
            layout.wire(
                f"feed:{device.id}",
                layout.node[f"rail:{device.feed.rail}"],
                layout.node[f"pin:{device.id}"],
                conductor_ohm(device.feed.wire) + plan.series_ohm(device.id),
            )
    for owner, wire in plan.returns():
        to = -1 if wire.to == "pack" else layout.node[f"gnd:{wire.to}"]
        layout.wire(f"return:{wire.id}", layout.node[f"gnd:{owner}"], to, conductor_ohm(wire.wire))


def _lay_supply(plan: Plan, layout: Layout, supply: Regulator | Diode | Link | Strap) -> None:
    out, gnd = layout.node[f"rail:{supply.output}"], layout.node[f"gnd:{supply.board}"]
    lead_ohm = conductor_ohm(supply.lead) if supply.lead else 0.0
    for position, name in enumerate(plan.inputs_of(supply)):
        inp = layout.node[f"rail:{name}"] if name in plan.rail_of else layout.node[f"pin:{name}"]
        if isinstance(supply, Link | Strap):
            feed_ohm = conductor_ohm(supply.feed) if supply.feed else 0.0
            suffix = f":{position}" if isinstance(supply, Strap) else ""
            layout.wire(f"link:{supply.id}{suffix}", inp, out, supply.series_ohm + feed_ohm + lead_ohm)
            continue
        if supply.feed:
            inner = layout.new(f"in:{supply.id}")
            layout.wire(f"feed:{supply.id}", inp, inner, conductor_ohm(supply.feed) + plan.series_ohm(supply.id))
            inp = inner
        if isinstance(supply, Diode):
            layout.converters.append((supply.id, inp, out, gnd, diode_spec(supply, lead_ohm)))
            continue
        forward, backward = regulator_specs(supply, lead_ohm)
        layout.converters.append((supply.id, inp, out, gnd, forward))
        if backward:
            layout.converters.append((f"back:{supply.id}", out, inp, gnd, backward))


def _circuit(plan: Plan, layout: Layout, situations: Sequence[Situation]) -> tuple[Circuit, dict[str, int]]:
    rows = len(situations)
    siemens = np.tile([value for *_, value in layout.conductors], (rows, 1))
    lamps = [inlet for inlet in plan.inlets if inlet.kind == "lamp"]
    if "lead" in layout.node:
        limiter_ids = {inlet.id for inlet in plan.inlets if inlet.kind in ("lamp", "fuse")}
        column = next(i for i, (name, *_) in enumerate(layout.conductors) if name == "limiter")
        siemens[:, column] = [0.0 if limiter_ids & set(s.condition.energy) else CLOSED_SIEMENS for s in situations]
    fed = [device for device in plan.devices if device.law != "led" or device.led]
    laws = [load_law(device) for device in fed] + [int(Law.LAMP)] * len(lamps)
    values = np.array(_load_values(fed, lamps, situations), float).reshape(rows, len(laws))
    pins = [layout.node[f"pin:{device.id}"] for device in fed] + [layout.node["pack+"] for _ in lamps]
    grounds = [layout.node[f"gnd:{device.id}"] for device in fed] + [layout.node["lead"] for _ in lamps]
    knees = [load_knee_v(device) for device in fed] + [lamp.volts for lamp in lamps]
    loads = Loads(_ints(pins), _ints(grounds), _ints(laws), values, np.array(knees, float))
    pack_siemens = np.array([[1 / plan.pack.internal_ohm if s.condition.on_pack else 0.0] for s in situations])
    emfs = Emfs(
        _ints([layout.node["pack+"]]), _ints([-1]), np.array([[rest_pack_v(plan, s)] for s in situations]), pack_siemens
    )
    wires = Conductors(
        _ints([a for _, a, _, _ in layout.conductors]), _ints([b for _, _, b, _ in layout.conductors]), siemens
    )
    converters = _converters(plan, layout, situations)
    start = _nominal_start(plan, layout, situations, converters)
    return Circuit(rows, len(layout.node), wires, emfs, loads, converters, start), {
        device.id: i for i, device in enumerate(fed)
    }


def _load_values(fed: Sequence[Device], lamps: Sequence[Inlet], situations: Sequence[Situation]) -> list[Floats]:
    """The value of every load's law per situation; a condition's own are worked out once and scaled."""
    full: dict[tuple[int, bool], Floats] = {}
    scales: dict[float, Floats] = {}
    found = []
    for s in situations:
        key = (id(s.condition), s.averaged)
        if key not in full:
            own = [load_value(device, s.condition, averaged=s.averaged) for device in fed]
            full[key] = np.array([*own, *(lamp.limit_a if lamp.id in s.condition.energy else 0.0 for lamp in lamps)])
        if s.load_factor not in scales:
            scales[s.load_factor] = np.array([*(scaled_by(d, s.load_factor) for d in fed), *(1.0 for _ in lamps)])
        found.append(full[key] * scales[s.load_factor])
    return found


def _converters(plan: Plan, layout: Layout, situations: Sequence[Situation]) -> Converters:
    rows, specs = len(situations), [spec for *_, spec in layout.converters]
    names = [name for name, *_ in layout.converters]

    def per_row(values: list[float]) -> Floats:
        return np.tile(np.array(values, float), (rows, 1))

    enabled = np.array(
        [[name not in plan.inlet_of or name in s.condition.energy for name in names] for s in situations], bool
    )
    cold = [s.condition.throttle_frac == 0 for s in situations]
    stop = np.array([[spec.start_v if is_cold else spec.stop_v for spec in specs] for is_cold in cold], float).reshape(
        rows, len(specs)
    )
    return Converters(
        inp=_ints([inp for _, inp, *_ in layout.converters]),
        out=_ints([out for _, _, out, *_ in layout.converters]),
        gnd=_ints([gnd for _, _, _, gnd, _ in layout.converters]),
        kind=_ints([int(spec.kind) for spec in specs]),
        passes=np.array([spec.passes for spec in specs], bool),
        enabled=enabled.reshape(rows, len(specs)),
        set_v=per_row([spec.set_v for spec in specs]),
        out_ohm=per_row([spec.out_ohm for spec in specs]),
        ceil_gain=per_row([spec.ceil_gain for spec in specs]),
        drop_v=per_row([spec.drop_v for spec in specs]),
        drop_ohm=per_row([spec.drop_ohm for spec in specs]),
        limit_a=_limits_a(specs, situations),
        stop_v=stop,
        quiescent_a=per_row([spec.quiescent_a for spec in specs]),
        k1_v=per_row([spec.k1_v for spec in specs]),
        k2_ohm=per_row([spec.k2_ohm for spec in specs]),
    )


def _limits_a(specs: list[ConverterSpec], situations: Sequence[Situation]) -> Floats:
    """Where each converter cuts off [A] (rows, m): out of reach in situations without limits."""
    limit = np.tile(np.array([spec.limit_a for spec in specs], float), (len(situations), 1))
    free = np.array([not s.limited for s in situations], bool)
    own = np.array([spec.always_limits for spec in specs], bool)
    limit[free[:, None] & ~own[None, :]] = UNLIMITED_A
    return limit


def _nominal_start(plan: Plan, layout: Layout, situations: Sequence[Situation], c: Converters) -> Floats:
    """Pack nodes at EMF, each rail at the lower of its set point and what its input allows, grounds at zero."""
    volts = np.zeros((len(layout.node) + 1, len(situations)))
    positive = [(a, b) for name, a, b, _ in layout.conductors if not name.startswith("return:")]
    volts[layout.node["pack+"]] = [rest_pack_v(plan, s) if s.condition.on_pack else 0.0 for s in situations]
    for _ in range(len(plan.rails) + 2):
        before = volts.copy()
        for a, b in positive:
            volts[a] = volts[b] = np.maximum(volts[a], volts[b])
        for index, (_, inp, out, _, spec) in enumerate(layout.converters):
            target = np.full(len(situations), spec.set_v)
            if inp >= 0:
                ceiling = spec.ceil_gain * volts[inp] - (0 if spec.passes else spec.drop_v)
                target = np.minimum(np.maximum(spec.set_v, volts[inp] - spec.drop_v if spec.passes else 0), ceiling)
            runs = c.enabled[:, index] & ((volts[inp] >= c.stop_v[:, index]) if inp >= 0 else True)
            volts[out] = np.maximum(volts[out], np.where(runs, target, 0.0))
        volts[-1] = 0.0
        if np.array_equal(before, volts):
            break
    return np.ascontiguousarray(volts[:-1].T)


def _ints(values: list[int]) -> np.ndarray:
    return np.array(values, dtype=np.int64)
