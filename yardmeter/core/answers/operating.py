"""A solved network read back in the plan's terms: volts at pins, amps in wires, watts in regulators."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.graph import graph_of
from yardmeter.core.network import BranchTable, Network, Situation, build_network, derive
from yardmeter.core.network.build import rest_pack_v
from yardmeter.core.network.keys import (
    Key,
    Node,
    body_diode_key,
    device_key,
    feed_key,
    ground_node,
    inlet_key,
    link_key,
    pin_node,
    rail_node,
    supply_key,
)
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.once import cached_property, once_each
from yardmeter.core.plan import Diode, Link, Regulator, Strap, Supply
from yardmeter.core.solver.assembly import Assembly, branch_currents, with_reference
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING, OFF, Bools, Floats, Ints, Solution
from yardmeter.core.solver.dc import over_limits, solve_after_dip, solve_dc
from yardmeter.core.solver.iteration import Probe
from yardmeter.core.solver.laws import InputCurrent, converter_input, converter_target, load_current
from yardmeter.core.solver.rows import held_off, only_found, take_solution


class Operating:
    """Operating points of a plan, one row per situation. Arrays are (rows, …) in SI units."""

    def __init__(self, network: Network, solution: Solution) -> None:
        self.network = network
        self.plan = network.plan
        self.solution = solution = only_found(solution)
        self.volts = with_reference(solution.volts)
        self.flow_a, emf_a = branch_currents(network.circuit, self.volts)
        self.emf_a = np.where(solution.converged[:, None], emf_a, 0.0)
        loads = network.circuit.loads
        self.load_v = self.volts[:, loads.p] - self.volts[:, loads.n]
        self.load_a, _ = load_current(loads, self.load_v)
        circuit = held_off(network.circuit, solution.gives_up)
        self.at = Assembly.terminals(circuit, np.concatenate([solution.volts, solution.converter_a], axis=1))

    @cached_property
    def taken(self) -> InputCurrent:
        """Input current of every converter [A] (rows, m)."""
        return converter_input(
            self.network.circuit.converters,
            self.solution.modes,
            self.at.powered,
            self.at.input_v,
            self.at.output_v,
            self.solution.converter_a,
        )

    # Plain lists beside the arrays: answers read single numbers, which lists hand out far faster.

    @cached_property
    def _volts(self) -> list[list[float]]:
        volts: list[list[float]] = self.volts.tolist()
        return volts

    @cached_property
    def _flow_a(self) -> list[list[float]]:
        amps: list[list[float]] = self.flow_a.tolist()
        return amps

    @cached_property
    def _load_a(self) -> list[list[float]]:
        amps: list[list[float]] = self.load_a.tolist()
        return amps

    @cached_property
    def _converter_a(self) -> list[list[float]]:
        amps: list[list[float]] = self.solution.converter_a.tolist()
        return amps

    @cached_property
    def _taken_a(self) -> list[list[float]]:
        amps: list[list[float]] = self.taken.amps.tolist()
        return amps

    @cached_property
    def _input_v(self) -> list[list[float]]:
        volts: list[list[float]] = self.at.input_v.tolist()
        return volts

    @cached_property
    def regulating(self) -> Bools:
        """Whether every converter holds its set point (rows, m)."""
        target = converter_target(self.network.circuit.converters, self.at.input_v, self.solution.converter_a)
        held: Bools = target.regulating & (self.solution.modes == CONDUCTING)
        return held

    def converged(self, row: int) -> bool:
        return bool(self.solution.converged[row])

    def node_v(self, row: int, node: Node) -> float:
        return self._volts[row][self.network.node[node]]

    def rail_v(self, row: int, rail_id: str) -> float:
        """Volts of a rail above its own ground."""
        return self.node_v(row, rail_node(rail_id)) - self.ground_v(row, self.plan.ground_of(rail_id))

    def ground_v(self, row: int, owner_id: str) -> float:
        """Volts of a board's or device's ground above the pack's negative."""
        return self.node_v(row, ground_node(owner_id))

    def pin_v(self, row: int, device_id: str) -> float:
        """Volts between a device's two pins."""
        return self.node_v(row, pin_node(device_id)) - self.ground_v(row, device_id)

    def device_a(self, row: int, device_id: str) -> float:
        """Current a device draws for itself."""
        return self._load_a[row][self.network.table.load[device_key(device_id)]]

    def conductor_a(self, row: int, key: Key) -> float:
        """Current in a wire, in the direction it is laid."""
        return self._flow_a[row][self.network.table.conductor[key]]

    def flows_a(self, row: int) -> list[float]:
        """Current in every wire, in the order of the network's conductors."""
        return self._flow_a[row]

    def pack_a(self, row: int) -> float:
        return float(-self.emf_a[row, 0])

    def supply_a(self, row: int, supply: Supply) -> float:
        """Current a supply delivers into its rail; negative where a link carries it backwards."""
        return self._supply_a(row)[supply.id]

    @once_each
    def _supply_a(self, row: int) -> dict[str, float]:
        return {one.id: self._delivers_a(row, one) for one in self.plan.supplies}

    def _delivers_a(self, row: int, supply: Supply) -> float:
        if isinstance(supply, Link):
            return self.conductor_a(row, link_key(supply))
        if isinstance(supply, Strap):
            return sum(self.conductor_a(row, link_key(supply, k)) for k in range(len(supply.selected)))
        back = self.network.table.converter.get(body_diode_key(supply.id))
        amps = self._converter_a[row]
        return amps[self.network.table.converter[supply_key(supply.id)]] - (amps[back] if back is not None else 0.0)

    def supply_in_a(self, row: int, supply: Supply) -> float:
        """Current a supply takes from its input rail or device."""
        return self._supply_in_a(row)[supply.id]

    @once_each
    def _supply_in_a(self, row: int) -> dict[str, float]:
        return {one.id: self._takes_a(row, one) for one in self.plan.supplies}

    def _takes_a(self, row: int, supply: Supply) -> float:
        if isinstance(supply, Link | Strap):
            return self.supply_a(row, supply)
        back = self.network.table.converter.get(body_diode_key(supply.id))
        taken = self._taken_a[row][self.network.table.converter[supply_key(supply.id)]]
        return taken - (self._converter_a[row][back] if back is not None else 0.0)

    def supply_in_v(self, row: int, supply: Supply) -> float:
        """Volts at a supply's input terminal above its ground."""
        return self._supply_in_v(row)[supply.id]

    @once_each
    def _supply_in_v(self, row: int) -> dict[str, float]:
        return {one.id: self._meets_v(row, one) for one in self.plan.supplies}

    def _meets_v(self, row: int, supply: Supply) -> float:
        if isinstance(supply, Regulator | Diode):
            return self._input_v[row][self.network.table.converter[supply_key(supply.id)]]
        inputs = self.plan.inputs_of(supply)
        if not inputs:
            return 0.0
        node = rail_node(inputs[0]) if inputs[0] in self.plan.rail_of else pin_node(inputs[0])
        return self.node_v(row, node) - self.ground_v(row, supply.board)

    def supply_out_v(self, row: int, supply: Supply) -> float:
        return self.node_v(row, rail_node(supply.output)) - self.ground_v(row, supply.board)

    def supply_loss_w(self, row: int, supply: Supply) -> float:
        """Power that stays in a supply as heat, its quiescent power included; what its lead makes of it is the lead's."""
        amps = self.supply_a(row, supply)
        loss = self.supply_in_v(row, supply) * self.supply_in_a(row, supply) - self.supply_out_v(row, supply) * amps
        lead_w = conductor_ohm(supply.lead, self.plan.policy.copper_c) * amps**2 if supply.lead else 0.0
        return max(loss - lead_w, 0.0)

    def supply_holds(self, row: int, supply: Regulator) -> bool:
        return bool(self.regulating[row, self.network.table.converter[supply_key(supply.id)]])

    def _index(self, name: str) -> int:
        """The converter that a regulator, diode or inlet is."""
        key = inlet_key(name) if name in self.plan.inlet_of else supply_key(name)
        return self.network.table.converter[key]

    def supply_limits(self, row: int, name: str) -> bool:
        """Whether a regulator or inlet sits at its current limit."""
        return bool(self.solution.modes[row, self._index(name)] == LIMITING)

    def supply_on(self, row: int, name: str) -> bool:
        return bool(self.solution.modes[row, self._index(name)] != OFF)

    def hiccups(self, row: int, name: str) -> bool:
        return bool(self.solution.hiccup[row, self._index(name)])

    def gives_up(self, row: int, name: str) -> bool:
        """Whether a regulator or inlet would stand at its limit, where it gives up."""
        return bool(self.solution.gives_up[row, self._index(name)])

    def rail_demand_a(self) -> Floats:
        """Amps taken from every rail by its devices and supplies, (rows, rails) in the plan's order."""
        network, plan = self.network, self.plan
        demand = np.zeros((self.volts.shape[0], len(plan.rails)))
        for column, rail in enumerate(plan.rails):
            for device in plan.devices:
                if device.feed and device.feed.rail == rail.id:
                    demand[:, column] += self.flow_a[:, network.table.conductor[feed_key(device.id)]]
            for supply in plan.supplies:
                for position, name in enumerate(plan.inputs_of(supply)):
                    if name != rail.id:
                        continue
                    if isinstance(supply, Link):
                        demand[:, column] += np.maximum(self.flow_a[:, network.table.conductor[link_key(supply)]], 0)
                    elif isinstance(supply, Strap):
                        demand[:, column] += np.maximum(
                            self.flow_a[:, network.table.conductor[link_key(supply, position)]], 0
                        )
                    else:
                        demand[:, column] += self.taken.amps[:, network.table.converter[supply_key(supply.id)]]
        return demand

    def inlet_a(self, row: int, inlet_id: str) -> float:
        index = self.network.table.converter.get(inlet_key(inlet_id))
        return float(self.solution.converter_a[row, index]) if index is not None else 0.0


@dataclass(frozen=True)
class View:
    """One row of an operating point."""

    op: Operating
    row: int

    @property
    def converged(self) -> bool:
        return self.op.converged(self.row)

    @property
    def rest_v(self) -> float:
        """Rest voltage of the pack."""
        return rest_pack_v(self.op.plan, self.op.network.situations[self.row])

    @property
    def pack_a(self) -> float:
        return self.op.pack_a(self.row)

    def rail_v(self, rail_id: str) -> float:
        return self.op.rail_v(self.row, rail_id)

    def ground_v(self, owner_id: str) -> float:
        return self.op.ground_v(self.row, owner_id)

    def pin_v(self, device_id: str) -> float:
        return self.op.pin_v(self.row, device_id)

    def node_v(self, node: int, reference: int) -> float:
        """Volts of a node by its number above the pack's negative; `reference` is the number that stands for it."""
        return 0.0 if node == reference else float(self.op.volts[self.row][node])

    def between_v(self, a: int, b: int) -> float:
        """Volts between two nodes by their numbers, without sign."""
        volts = self.op.volts[self.row]
        return float(abs(volts[a] - volts[b]))

    def device_a(self, device_id: str) -> float:
        return self.op.device_a(self.row, device_id)

    def conductor_a(self, key: Key) -> float:
        return self.op.conductor_a(self.row, key)

    def inlet_a(self, inlet_id: str) -> float:
        return self.op.inlet_a(self.row, inlet_id)

    def supply_a(self, supply: Supply) -> float:
        return self.op.supply_a(self.row, supply)

    def supply_in_a(self, supply: Supply) -> float:
        return self.op.supply_in_a(self.row, supply)

    def supply_in_v(self, supply: Supply) -> float:
        return self.op.supply_in_v(self.row, supply)

    def supply_out_v(self, supply: Supply) -> float:
        return self.op.supply_out_v(self.row, supply)

    def supply_loss_w(self, supply: Supply) -> float:
        return self.op.supply_loss_w(self.row, supply)

    def supply_holds(self, supply: Regulator) -> bool:
        return self.op.supply_holds(self.row, supply)

    def supply_limits(self, name: str) -> bool:
        return self.op.supply_limits(self.row, name)

    def supply_on(self, name: str) -> bool:
        return self.op.supply_on(self.row, name)

    def hiccups(self, name: str) -> bool:
        return self.op.hiccups(self.row, name)

    def gives_up(self, name: str) -> bool:
        return self.op.gives_up(self.row, name)

    def trying(self) -> frozenset[str]:
        """Rails that a regulator brings up and lets fall over and over, those behind them too."""
        plan = self.op.plan
        given_up = [s.output for s in plan.supplies if isinstance(s, Regulator) and self.gives_up(s.id)]
        return frozenset(graph_of(plan).rails_below(given_up)) if given_up else frozenset()


def operate(table: BranchTable, situations: Sequence[Situation], *, probe: Probe | None = None) -> Operating:
    """Build and solve a plan for these situations."""
    network = build_network(table, situations)
    return Operating(network, solve_dc(network.circuit, network.assembly, probe=probe))


def operate_like(
    network: Network,
    rows: Ints,
    situations: Sequence[Situation],
    near: Solution | None = None,
    *,
    probe: Probe | None = None,
) -> Operating:
    """Rows of a network solved for situations that differ from theirs in pack volts, limits or share of loads alone, from points
    `near` theirs where such are known."""
    own = derive(network, rows, situations)
    return Operating(own, solve_dc(own.circuit, own.assembly, near, probe=probe))


def operate_limited(free: Operating, rows: Ints) -> Operating:
    """Rows of an operating point without limits, solved again with supplies that cut off."""
    situations = [replace(free.network.situations[row], limited=True) for row in rows.tolist()]
    network = derive(free.network, rows, situations)
    return Operating(network, solve_dc(network.circuit, network.assembly, take_solution(free.solution, rows)))


def operate_free(network: Network, rows: Ints) -> Operating:
    """Rows of a network solved from nothing known, and without limits."""
    return operate_like(network, rows, [replace(network.situations[row], limited=False) for row in rows.tolist()])


def operate_after_dip(given: Operating, rows: Ints) -> Operating:
    """Rows of an operating point as they end after everything has fallen to nothing for a moment."""
    situations = [replace(given.network.situations[row], limited=True) for row in rows.tolist()]
    network = derive(given.network, rows, situations)
    return Operating(network, solve_after_dip(network.circuit, network.assembly))


def exceeds_limits(free: Operating) -> Bools:
    """Per row, whether it is to be solved again with its limits (rows,)."""
    return over_limits(free.solution, np.array([one.spec.limit_a for one in free.network.table.converters]))
