"""The branches of a plan as the solver's arrays, for a set of situations."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.graph import graph_of
from yardmeter.core.network.branches import REFERENCE, BranchTable, Load
from yardmeter.core.network.converters import ConverterSpec
from yardmeter.core.network.keys import LIMITER_KEY, Node, ground_node
from yardmeter.core.network.loads import load_value
from yardmeter.core.physics.pack import as_far_down_v
from yardmeter.core.plan import Condition, Plan
from yardmeter.core.plan.sources import Cells
from yardmeter.core.solver.assembly import Assembly, assembly_of
from yardmeter.core.solver.circuit import Circuit, Conductors, Converters, Emfs, Floats, Ints, Loads, having
from yardmeter.core.solver.rows import scales, take_rows

UNLIMITED_A = 1e6


@dataclass(frozen=True)
class Situation:
    """One row: a condition, whether supplies cut off at their limits, and what is averaged or varied."""

    condition: Condition
    limited: bool = True
    averaged: bool = False
    cell_v: float | None = None
    load_factor: float = 1.0
    joins: frozenset[str] = frozenset()
    """Sources that come to it later in a run: grounds that lead to them are no dead ends."""

    @property
    def homes(self) -> frozenset[str]:
        """Sources a current may come back to."""
        return self.joins.union(self.condition.energy)


@dataclass(frozen=True)
class Network:
    """The circuit of situations, a row each, with the branches it was made from."""

    table: BranchTable
    situations: tuple[Situation, ...]
    circuit: Circuit
    assembly: Assembly

    @property
    def plan(self) -> Plan:
        return self.table.plan

    @property
    def node(self) -> dict[Node, int]:
        return self.table.node

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


def own_cells_v(plan: Plan, cells: Cells, situation: Situation) -> float:
    """Rest voltage of a small pack beside the flight pack [V]: as far down as that is."""
    cell_v = rest_pack_v(plan, situation) / plan.pack.series
    return cells.series * as_far_down_v(cell_v, plan.pack.chemistry, cells.chemistry)


def build_network(table: BranchTable, situations: Sequence[Situation]) -> Network:
    """The circuit of all situations at once, with its start voltages."""
    circuit = _circuit(table, situations)
    if table.assembly is None:
        table.assembly = assembly_of(circuit)
    return Network(table, tuple(situations), circuit, table.assembly)


def derive(network: Network, rows: Ints, situations: Sequence[Situation]) -> Network:
    """Rows of a network again for situations that differ from theirs in pack volts, limits or share of loads alone; far cheaper
    to make."""
    picked = take_rows(network.circuit, rows)
    was = [network.situations[row].load_factor for row in rows.tolist()]
    shares = np.array([s.load_factor / before for s, before in zip(situations, was, strict=True)])
    if (shares != 1.0).any():
        value = picked.loads.value * scales(network.table.laws, shares[:, None])
        picked = having(picked, loads=having(picked.loads, value=value))
    specs = [one.spec for one in network.table.converters]
    limit_a = picked.converters.limit_a.copy()
    if limit_a.size:
        limit_a[:] = _limits_a(specs, situations)
    volts = np.array([[rest_pack_v(network.plan, s)] for s in situations])
    converters = having(picked.converters, limit_a=limit_a, set_v=_set_v(network.table, situations))
    circuit = having(picked, emfs=having(picked.emfs, volts=volts), converters=converters)
    return replace(network, situations=tuple(situations), circuit=circuit)


def _circuit(table: BranchTable, situations: Sequence[Situation]) -> Circuit:
    plan, rows, loads = table.plan, len(situations), table.loads
    pack_siemens = np.array([[1 / table.pack.ohm if s.condition.on_pack else 0.0] for s in situations])
    rest_v = np.array([[rest_pack_v(plan, s)] for s in situations])
    converters = _converters(table, situations)
    return Circuit(
        rows,
        len(table.node),
        Conductors(
            _ints([one.a for one in table.conductors]),
            _ints([one.b for one in table.conductors]),
            _siemens(table, situations),
        ),
        Emfs(_ints([table.pack.a]), _ints([table.pack.b]), rest_v, pack_siemens),
        Loads(
            _ints([one.p for one in loads]),
            _ints([one.n for one in loads]),
            _ints([int(one.kind) for one in loads]),
            np.array(load_values(table, situations), float).reshape(rows, len(loads)),
            np.array([one.knee_v for one in loads], float),
        ),
        converters,
        _nominal_start(table, situations, converters),
    )


def _siemens(table: BranchTable, situations: Sequence[Situation]) -> Floats:
    """Conductance of every conductor [S] (rows, n); the way past a limiter is open where one is used."""
    siemens: Floats = np.tile([1 / one.ohm for one in table.conductors], (len(situations), 1))
    column = table.conductor.get(LIMITER_KEY)
    if column is not None:
        limiters = {inlet.id for inlet in table.plan.inlets if inlet.in_line}
        siemens[[bool(limiters & set(s.condition.energy)) for s in situations], column] = 0.0
    return siemens


def load_values(table: BranchTable, situations: Sequence[Situation]) -> list[Floats]:
    """The value of every load's law per situation; a condition's own are worked out once and scaled."""
    full: dict[tuple[int, bool], Floats] = {}
    for s in situations:
        key = (id(s.condition), s.averaged)
        if key not in full:
            full[key] = np.array([_load_value(one, s) for one in table.loads])
    factors = scales(table.laws, np.array([[s.load_factor] for s in situations]))
    return [full[id(s.condition), s.averaged] * own for s, own in zip(situations, factors, strict=True)]


def _load_value(one: Load, situation: Situation) -> float:
    if one.device:
        return load_value(one.device, situation.condition, averaged=situation.averaged)
    return one.lamp.limit_a if one.lamp and one.lamp.id in situation.condition.energy else 0.0


def _converters(table: BranchTable, situations: Sequence[Situation]) -> Converters:
    rows, converters = len(situations), table.converters
    specs = [one.spec for one in converters]

    def per_row(values: list[float]) -> Floats:
        return np.tile(np.array(values, float), (rows, 1))

    homes = {s.homes for s in situations}
    cuts = {e: {table.node[ground_node(one)] for one in graph_of(table.plan).islands(e)} for e in homes}
    enabled = np.array(
        [
            [
                one.gnd not in cuts[s.homes]
                and (one.key.role != "inlet" or s.condition.uses(table.plan.inlet_of[one.key.element]))
                for one in converters
            ]
            for s in situations
        ],
        bool,
    )
    never = [one.key.role == "supply" and one.key.element in graph_of(table.plan).never_start for one in converters]
    stop = np.array(
        [
            [spec.start_v if s.condition.starts or out else spec.stop_v for spec, out in zip(specs, never, strict=True)]
            for s in situations
        ],
        float,
    )
    return Converters(
        inp=_ints([one.inp for one in converters]),
        out=_ints([one.out for one in converters]),
        gnd=_ints([one.gnd for one in converters]),
        kind=_ints([int(spec.kind) for spec in specs]),
        passes=np.array([spec.passes for spec in specs], bool),
        sinks=np.array([spec.sinks for spec in specs], bool),
        enabled=enabled.reshape(rows, len(specs)),
        set_v=_set_v(table, situations),
        out_ohm=per_row([spec.out_ohm for spec in specs]),
        ceil_gain=per_row([spec.ceil_gain for spec in specs]),
        drop_v=per_row([spec.drop_v for spec in specs]),
        drop_ohm=per_row([spec.drop_ohm for spec in specs]),
        limit_a=_limits_a(specs, situations),
        stop_v=stop.reshape(rows, len(specs)),
        quiescent_a=per_row([spec.quiescent_a for spec in specs]),
        k1_v=per_row([spec.k1_v for spec in specs]),
        k2_ohm=per_row([spec.k2_ohm for spec in specs]),
        start_v=np.array([spec.start_v for spec in specs], float),
        gives_up=np.array([spec.gives_up for spec in specs], bool),
    )


def _set_v(table: BranchTable, situations: Sequence[Situation]) -> Floats:
    """What each converter is set to [V] (rows, m); a cell of its own gives what is left in it."""
    volts = np.tile(np.array([one.spec.set_v for one in table.converters], float), (len(situations), 1))
    for k, one in enumerate(table.converters):
        inlet = table.plan.inlet_of.get(one.key.element) if one.key.role == "inlet" else None
        if inlet and inlet.cells:
            volts[:, k] = [own_cells_v(table.plan, inlet.cells, s) - inlet.drop_v for s in situations]
    return volts


def _limits_a(specs: list[ConverterSpec], situations: Sequence[Situation]) -> Floats:
    """Where each converter cuts off [A] (rows, m): out of reach in situations without limits."""
    limit = np.tile(np.array([spec.limit_a for spec in specs], float), (len(situations), 1))
    free = np.array([not s.limited for s in situations], bool)
    limit[free] = UNLIMITED_A
    return limit


def _nominal_start(table: BranchTable, situations: Sequence[Situation], c: Converters) -> Floats:
    """Pack nodes at EMF, each rail at the lower of its set point and what its input allows, grounds at zero."""
    volts = np.zeros((len(table.node) + 1, len(situations)))
    positive = [(one.a, one.b) for one in table.conductors if one.key.role != "return"]
    volts[table.pack.a] = [rest_pack_v(table.plan, s) if s.condition.on_pack else 0.0 for s in situations]
    for _ in range(len(table.plan.rails) + 2):
        before = volts.copy()
        for a, b in positive:
            volts[a] = volts[b] = np.maximum(volts[a], volts[b])
        for index, one in enumerate(table.converters):
            spec, inp = one.spec, one.inp
            target = np.full(len(situations), spec.set_v)
            if inp >= 0:
                ceiling = spec.ceil_gain * volts[inp] - (0 if spec.passes else spec.drop_v)
                target = np.minimum(np.maximum(spec.set_v, volts[inp] - spec.drop_v if spec.passes else 0), ceiling)
            runs = c.enabled[:, index] & ((volts[inp] >= c.stop_v[:, index]) if inp >= 0 else True)
            volts[one.out] = np.maximum(volts[one.out], np.where(runs, target, 0.0))
        volts[REFERENCE] = 0.0
        if np.array_equal(before, volts):
            break
    return np.ascontiguousarray(volts[:-1].T)


def _ints(values: list[int]) -> np.ndarray:
    return np.array(values, dtype=np.int64)
