"""The return network as matrices: which ground rises how far for an ampere, or an ampere per second, of each device.

Nodes are the grounds of boards and devices; the pack's negative is the reference. The matrices follow from superposition
and agree with the solved network, which tests check.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.loops import Loop, find_loops
from yardmeter.core.answers.operating import View
from yardmeter.core.graph import graph_of
from yardmeter.core.network.branches import BranchTable, Conductor
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Device, Motors, Plan, Regulator, Return, Supply
from yardmeter.core.solver.circuit import Floats

CARRYING_A = 1e-6


@dataclass(frozen=True)
class GroundNet:
    """The returns of a plan."""

    table: BranchTable

    def drawn_again(self, table: BranchTable) -> GroundNet:
        """The net of a plan that differs in draws alone: all of it goes by wires, and by what feeds whom."""
        made = GroundNet(table)
        made.__dict__.update({name: one for name, one in self.__dict__.items() if name != "table"})
        return made

    @property
    def plan(self) -> Plan:
        return self.table.plan

    @cached_property
    def node(self) -> dict[str, int]:
        return {owner.id: index for index, owner in enumerate(self.plan.owners)}

    @cached_property
    def wires(self) -> list[tuple[str, Return]]:
        """(owner, return) in the plan's order."""
        return list(self.plan.returns())

    @cached_property
    def _branches(self) -> list[Conductor]:
        """The returns as branches of the network, in the same order."""
        return [one for one in self.table.conductors if one.key.role == "return"]

    @cached_property
    def henry(self) -> list[float]:
        return [one.henry for one in self._branches]

    @cached_property
    def ohm(self) -> list[float]:
        return [one.ohm for one in self._branches]

    @cached_property
    def incidence(self) -> Floats:
        """(wires, nodes): +1 where a return leaves, −1 where it arrives; the pack has no column."""
        matrix = np.zeros((len(self.wires), len(self.node)))
        for row, (owner, wire) in enumerate(self.wires):
            matrix[row, self.node[owner]] = 1
            if wire.to != "pack":
                matrix[row, self.node[wire.to]] -= 1
        return matrix

    @cached_property
    def _joined(self) -> list[int]:
        """Grounds that some way of returns joins to the pack. Of the others nothing comes home: no current, no rise."""
        floating = set(graph_of(self.plan).ungrounded)
        return [index for name, index in self.node.items() if name not in floating]

    def _inverse(self, weights: list[float]) -> Floats:
        here = self._joined
        a = self.incidence[:, here]
        inverse = np.zeros((len(self.node), len(self.node)))
        inverse[np.ix_(here, here)] = np.linalg.inv(a.T @ (a / np.array(weights)[:, None]))
        return inverse

    @cached_property
    def by_ampere(self) -> Floats:
        """Rise of every ground [V] per ampere into each (nodes, nodes)."""
        return self._inverse(self.ohm)

    @cached_property
    def by_slope(self) -> Floats:
        """Rise of every ground [V] per ampere per second into each: currents that change fast divide by inductance."""
        return self._inverse(self.henry)

    def flows(self, rises_v: Floats) -> Floats:
        """Current in each return [A] (wires, …) at these rises of the grounds (nodes, …)."""
        down: Floats = self.incidence @ rises_v
        ohm = np.array(self.ohm).reshape((-1,) + (1,) * (down.ndim - 1))
        amps: Floats = down / ohm
        return amps

    def steady(self, view: View) -> Floats:
        """Current each device puts into every ground [A] (nodes, devices): in at its own, out where its supply takes it."""
        memo: dict[str, Floats] = {}
        columns = []
        for device in self.plan.devices:
            column = np.zeros(len(self.node))
            amps = view.device_a(device.id)
            if amps > CARRYING_A and device.feed:
                column[self.node[device.id]] += 1
                column += self._leaves(device.feed.rail, view, memo, ())
            columns.append(column * amps)
        return np.array(columns).reshape(len(columns), len(self.node)).T

    def _leaves(self, rail: str, view: View, memo: dict[str, Floats], above: tuple[str, ...]) -> Floats:
        """Where one ampere taken from a rail leaves the grounds (nodes,): at regulators, ports, or the pack, which counts nothing."""
        if rail in memo:
            return memo[rail]
        total, parts = 0.0, np.zeros(len(self.node))
        if rail == self.plan.pack.rail:
            total += max(view.pack_a, 0.0)
        for inlet in self.plan.inlets:
            amps = max(view.inlet_a(inlet.id), 0.0) if inlet.rail == rail else 0.0
            if amps > CARRYING_A:
                total += amps
                parts[self.node[self.plan.rail_of[rail].board]] -= amps
        for supply in self.plan.supplies_into(rail):
            amps = view.supply_a(supply)
            if amps > CARRYING_A and rail not in above:
                total += amps
                parts += amps * self._through(supply, amps, view, memo, (*above, rail))
        memo[rail] = parts / total if total > CARRYING_A else parts
        return memo[rail]

    def _through(
        self, supply: Supply, amps: float, view: View, memo: dict[str, Floats], above: tuple[str, ...]
    ) -> Floats:
        """The same for one ampere out of a supply: what does not come from its input comes out of its own ground."""
        found = np.zeros(len(self.node))
        taken = view.supply_in_a(supply) / amps if isinstance(supply, Regulator) else 1.0
        if isinstance(supply, Regulator):
            found[self.node[supply.board]] -= 1 - taken
        for name in self.plan.inputs_of(supply)[:1]:
            rail = graph_of(self.plan).feeding_rail(name)
            if rail is not None:
                found += taken * self._leaves(rail, view, memo, above)
        return found

    @cached_property
    def rise_of_an_edge(self) -> Floats:
        """Rise of every ground at the end of an edge of one ampere by each device [V] (nodes, devices): `R ΔI + L ΔI/Δt`."""
        rises: Floats = (self.by_ampere + self.by_slope / self.plan.policy.edge_s) @ self.sudden
        return rises

    @cached_property
    def loops(self) -> list[Loop]:
        """The independent rings of returns."""
        return find_loops(self.plan, {wire.id: ohm for (_, wire), ohm in zip(self.wires, self.ohm, strict=True)})

    @cached_property
    def sudden(self) -> Floats:
        """One ampere of fast change of each device (nodes, devices): in at its ground, out at the one whose capacitors feed it.

        An edge is fed from the output capacitor of the regulator above, or the bulk capacitor of the pack's rail; our
        assumption, since neither is slower than the edge nor further than its board.
        """
        matrix = np.zeros((len(self.node), len(self.plan.devices)))
        for column, device in enumerate(self.plan.devices):
            if device.feed:
                matrix[self.node[device.id], column] += 1
                matrix[self.node[graph_of(self.plan).reservoir(device.feed.rail)], column] -= 1
        return matrix


def edge_a(device: Device) -> float:
    """Step of a device's current from idle to peak at its nominal volts [A]; motors step with their throttle instead."""
    if device.throttle:
        return 0.0
    volts = device.nominal_v
    return max(device.draws.peak.amps_at(volts) - device.draws.idle.amps_at(volts), 0.0)


LEAST_DUTY = 0.05


def motor_edge_a(plan: Plan, device: Device, throttle_frac: float, amps: float) -> float:
    """Step of the current in an ESC's leads as a bridge switches or commutates [A], for a group that draws `amps`.

    One motor's phase current, supply current over duty, steps at each edge (textbook); the ESC's own capacitors give
    all of it but the policy's share. Edges of several motors do not meet.
    """
    phase_a = amps / (device.motors or Motors()).count / max(throttle_frac, LEAST_DUTY)
    return plan.policy.esc_edge_frac * phase_a
