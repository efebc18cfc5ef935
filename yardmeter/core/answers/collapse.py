"""Where an operating point disappears: how much of the load a condition could still carry, and which rail goes first.

All conditions that have lost theirs are searched together, so that an overload costs a few batched solutions and not a
few for each condition.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import UNLOADED
from yardmeter.core.answers.operating import Operating, View, operate
from yardmeter.core.graph import graph_of
from yardmeter.core.network import BranchTable, Situation
from yardmeter.core.network.keys import device_key, pin_node
from yardmeter.core.network.loads import load_knee_v
from yardmeter.core.plan import Condition, Device
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.iteration import Probe


@dataclass(frozen=True)
class Collapse:
    """The share of the load that can still be carried, and the rail that goes."""

    load_factor: float
    rail: str


FOLD_FRAC = 0.5
"""A constant power through a resistance folds at half the unloaded volts (circuit theory); below that it has collapsed."""
ROUNDS = 4
ENOUGH_STEPS = 25
"""Creeping steps after which a try counts as fallen: nearer to the fold than that is nearer than a part in 1,000."""
TRIED = 5
"""Each round tries so many factors between the last that stood and the first that did not: to a part in 6⁴."""


@dataclass
class _Search:
    """One condition's fold, enclosed ever closer. `fallen` are the volts below which a device has collapsed."""

    condition: Condition
    fallen: dict[str, float]
    unloaded: View
    under: float = 0.0
    over: float = 1.0

    def factors(self) -> list[float]:
        found: list[float] = np.linspace(self.under, self.over, TRIED + 2)[1:-1].tolist()
        return found

    def fallen_v(self) -> Floats:
        """Volts of every load below which there is no way back, in the order of the network's loads."""
        network = self.unloaded.op.network
        found: Floats = np.full(network.circuit.loads.p.size, -np.inf)
        for device, volts in self.fallen.items():
            found[network.table.load[device_key(device)]] = volts
        return found

    def stands(self, op: Operating, row: int) -> bool:
        return op.converged(row) and all(op.pin_v(row, device) >= volts for device, volts in self.fallen.items())


def find_collapses(table: BranchTable, asked: Sequence[tuple[Condition, View]]) -> Mapping[str, Collapse]:
    """By condition, where it has lost its operating point, at which load factor [0…1]; those that stand are not in it.

    A collapsed load sits on the resistive tail of its law, below half its unloaded volts.
    """
    views = {condition.id: view for condition, view in asked}
    suspects = [(c, v, low) for c, v in asked if (low := _suspects(table, c, v)) or not v.converged]
    if not suspects:
        return {}
    free = operate(table, [Situation(c, limited=False, load_factor=UNLOADED) for c, _, _ in suspects])
    searches = []
    for row, (condition, view, low) in enumerate(suspects):
        fallen = {d.id: volts for d in low if view.pin_v(d.id) < (volts := FOLD_FRAC * free.pin_v(row, d.id))}
        if fallen or not view.converged:
            searches.append(_Search(condition, fallen, View(free, row)))
    for _ in range(ROUNDS if searches else 0):
        tried = [(one, factor) for one in searches for factor in one.factors()]
        op = operate(
            table,
            [Situation(one.condition, limited=False, load_factor=factor) for one, factor in tried],
            probe=Probe(ENOUGH_STEPS, np.array([one.fallen_v() for one, _ in tried])),
        )
        for k, one in enumerate(searches):
            _narrow(one, op, k * TRIED)
    return {
        one.condition.id: Collapse(one.under, _weakest_rail(table, one, views[one.condition.id])) for one in searches
    }


def _narrow(search: _Search, op: Operating, first: int) -> None:
    factors = search.factors()
    good = [search.stands(op, first + k) for k in range(len(factors))]
    first_bad = good.index(False) if False in good else len(good)
    if first_bad > 0:
        search.under = factors[first_bad - 1]
    if first_bad < len(good):
        search.over = factors[first_bad]


def _suspects(table: BranchTable, condition: Condition, asked: View) -> list[Device]:
    """Devices that sit on the resistive tail, below half the volts their source could give at most."""
    plan = table.plan
    low = [d for d in plan.devices if d.law == "power" and d.feed and asked.pin_v(d.id) < load_knee_v(d)]
    reach = graph_of(plan).reachable_rails(condition) if low else set()
    start, node = asked.op.network.circuit.start_v[asked.row], asked.op.network.node
    return [
        d
        for d in low
        if d.feed
        and d.feed.rail in reach
        and asked.device_a(d.id) > 0
        # Before anything is solved: what stands at half the volts its source could give at most has not collapsed.
        and asked.pin_v(d.id) < FOLD_FRAC * start[node[pin_node(d.id)]]
    ]


def _weakest_rail(table: BranchTable, search: _Search, asked: View) -> str:
    """The rail that has lost most of its unloaded volts; that of the fallen device when the loss is in its own feed."""
    plan, (free, row) = table.plan, (search.unloaded.op, search.unloaded.row)
    lost = {r.id: 1 - asked.rail_v(r.id) / free.rail_v(row, r.id) for r in plan.rails if free.rail_v(row, r.id) > 0.5}
    worst = max(lost, key=lambda one: lost[one], default=plan.pack.rail)
    feed = plan.device_of[next(iter(search.fallen))].feed if search.fallen else None
    return feed.rail if feed and lost.get(worst, 0.0) < 1 - FOLD_FRAC else worst
