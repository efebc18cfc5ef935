"""Where an operating point disappears: how much of the load a condition could still carry, and which rail goes first.

All conditions that have lost theirs are searched together. The fold is enclosed by halves, each share tried from the point of
the greatest that stood: as a craft comes to it, with more and more switched on.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import UNLOADED, Solved
from yardmeter.core.answers.operating import Operating, View, operate_like
from yardmeter.core.graph import graph_of
from yardmeter.core.network import Situation
from yardmeter.core.network.keys import device_key, pin_node
from yardmeter.core.network.loads import load_knee_v
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Condition, Device, Plan
from yardmeter.core.solver.circuit import Floats, Solution
from yardmeter.core.solver.iteration import Probe
from yardmeter.core.solver.rows import joined, take_solution


@dataclass(frozen=True)
class Collapse:
    """The share of the load that can still be carried, and the rail that goes."""

    load_factor: float
    rail: str


FOLD_FRAC = 0.5
"""A constant power through a resistance folds at half the unloaded volts (circuit theory); below that it has collapsed."""
ROUNDS = 11
"""Halvings of the share: to a part in 2,000."""
ENOUGH_STEPS = 25
"""Creeping steps after which a try counts as fallen: nearer to the fold than that is nearer than a part in 1,000."""


@dataclass
class _Search:
    """One condition's fold, enclosed ever closer. `fallen` are the volts below which a device has collapsed; `stood` is the point
    at the share `under`, from which more load is put on."""

    condition: Condition
    fallen: dict[str, float]
    unloaded: View
    stood: Solution
    under: float = 0.0
    over: float = 1.0

    @property
    def middle(self) -> float:
        return (self.under + self.over) / 2

    @cached_property
    def fallen_v(self) -> Floats:
        """Volts of every load below which there is no way back, in the order of the network's loads."""
        network = self.unloaded.op.network
        found: Floats = np.full(network.circuit.loads.p.size, -np.inf)
        for device, volts in self.fallen.items():
            found[network.table.load[device_key(device)]] = volts
        return found

    def stands(self, op: Operating, row: int) -> bool:
        return op.converged(row) and bool((op.load_v[row] >= self.fallen_v).all())


def find_collapses(solved: Solved, asked: Sequence[tuple[Condition, View]]) -> Mapping[str, Collapse]:
    """By condition, where it has lost its operating point, at which load factor [0…1]; those that stand are not in it.

    A collapsed load sits on the resistive tail of its law, below half its unloaded volts.
    """
    views = {condition.id: view for condition, view in asked}
    suspects = [(c, v, low) for c, v in asked if (low := _suspects(solved.plan, c, v)) or not v.converged]
    if not suspects:
        return {}
    row_of = {one.id: row for row, one in enumerate(solved.plan.conditions)}

    def at_shares(
        tried: Sequence[tuple[Condition, float]], near: Solution | None = None, probe: Probe | None = None
    ) -> Operating:
        rows = np.array([row_of[one.id] for one, _ in tried])
        shares = [Situation(one, limited=False, load_factor=share) for one, share in tried]
        return operate_like(solved.free.network, rows, shares, near, probe=probe)

    free = at_shares([(c, UNLOADED) for c, _, _ in suspects])
    searches = []
    for row, (condition, view, low) in enumerate(suspects):
        fallen = {d.id: volts for d in low if view.pin_v(d.id) < (volts := FOLD_FRAC * free.pin_v(row, d.id))}
        if fallen or not view.converged:
            stood = take_solution(free.solution, np.array([row]))
            searches.append(_Search(condition, fallen, View(free, row), stood))
    for _ in range(ROUNDS if searches else 0):
        probe = Probe(ENOUGH_STEPS, np.array([one.fallen_v for one in searches]))
        near = joined([one.stood for one in searches])
        op = at_shares([(one.condition, one.middle) for one in searches], near, probe)
        for row, one in enumerate(searches):
            if one.stands(op, row):
                one.under, one.stood = one.middle, take_solution(op.solution, np.array([row]))
            else:
                one.over = one.middle
    return {
        one.condition.id: Collapse(one.under, _weakest_rail(solved.plan, one, views[one.condition.id]))
        for one in searches
    }


def _suspects(plan: Plan, condition: Condition, asked: View) -> list[Device]:
    """Devices that sit on the resistive tail, below half the volts their source could give at most."""
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


def _weakest_rail(plan: Plan, search: _Search, asked: View) -> str:
    """The rail that has lost most of its unloaded volts; that of the fallen device when the loss is in its own feed."""
    free, row = search.unloaded.op, search.unloaded.row
    lost = {r.id: 1 - asked.rail_v(r.id) / free.rail_v(row, r.id) for r in plan.rails if free.rail_v(row, r.id) > 0.5}
    worst = max(lost, key=lambda one: lost[one], default=plan.pack.rail)
    feed = plan.device_of[next(iter(search.fallen))].feed if search.fallen else None
    return feed.rail if feed and lost.get(worst, 0.0) < 1 - FOLD_FRAC else worst
