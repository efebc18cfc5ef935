"""Every condition solved three ways: what is asked, what is given, and what it averages to."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.answers.operating import Operating, View, exceeds_limits, operate, operate_limited
from yardmeter.core.network import BranchTable, Situation, branch_table
from yardmeter.core.network.build import rest_pack_v
from yardmeter.core.network.keys import Key
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Plan

UNLOADED = 1e-6
"""Share of its loads a craft is left with that carries nothing: next to none, so that what is off stays what it is."""


@dataclass(frozen=True)
class Solved:
    """Views per condition id. `asked`: supplies never cut off; `given`: they do; `mean`: bursts averaged, for heat.

    `free` holds the rows without limits, the plan's conditions first and in order.
    """

    plan: Plan
    table: BranchTable
    """Of the plan itself; `free` may stand on another one's that direct current cannot tell from it."""
    free: Operating
    asked: dict[str, View]
    given: dict[str, View]
    mean: dict[str, View]

    def carried_a(self, key: Key) -> dict[str, float]:
        """Amps of a wire by condition, bursts averaged, whichever way they flow."""
        return {name: abs(amps[column[key]]) for name, amps, column in self._flows}

    @cached_property
    def _flows(self) -> list[tuple[str, list[float], dict[Key, int]]]:
        """By condition the amps of all wires, and where each one's are."""
        means = self.mean.items()
        return [(name, view.op.flows_a(view.row), view.op.network.table.conductor) for name, view in means]

    @cached_property
    def unloaded(self) -> View | None:
        """The plan on a full pack that carries nothing, as at every change of packs; None where a condition rests on a full one,
        or none is on the pack."""
        flown = next((one for one in self.plan.conditions if one.on_pack), None)
        if flown is None or knows_full_pack(self.plan):
            return None
        full_v = self.plan.pack.rest_v("full") / self.plan.pack.series
        still = Situation(flown, limited=False, cell_v=full_v, load_factor=UNLOADED)
        return View(operate(self.table, [still]), 0)


def solve_conditions(plan: Plan) -> Solved:
    """Solve all conditions of a plan at once; the rows in which a supply would cut off are solved again with limits."""
    situations = [Situation(condition, limited=False) for condition in plan.conditions]
    bursting = [d.id for d in plan.devices if d.burst]
    situations += [
        replace(s, averaged=True) for s in situations if any(s.condition.state_of(name) == "peak" for name in bursting)
    ]
    table = branch_table(plan)
    free = operate(table, situations)
    views = [View(free, row) for row in range(len(situations))]
    over = np.flatnonzero(exceeds_limits(free))
    if over.size:
        limited = operate_limited(free, over)
        for row, index in enumerate(over.tolist()):
            views[index] = View(limited, row)
    return solved_of(plan, table, free, views)


def solved_of(plan: Plan, table: BranchTable, free: Operating, views: list[View]) -> Solved:
    """Conditions by id from the views of all situations: the plan's conditions in order, then those that are averaged."""
    count = len(plan.conditions)
    given = {c.id: views[row] for row, c in enumerate(plan.conditions)}
    asked = {c.id: View(free, row) if free.converged(row) else given[c.id] for row, c in enumerate(plan.conditions)}
    averaged = enumerate(free.network.situations[count:], count)
    mean = {**given, **{one.condition.id: views[row] for row, one in averaged}}
    return Solved(plan, table, free, asked, given, mean)


def knows_full_pack(plan: Plan) -> bool:
    """Whether some condition rests on a full pack: the most volts the craft ever sees."""
    full_v = plan.pack.rest_v("full") - 1e-6
    return any(c.on_pack and c.throttle_frac == 0 and rest_pack_v(plan, Situation(c)) > full_v for c in plan.conditions)


CARRIES_NO_CURRENT = frozenset({"name", "note", "filters", "clamps", "noises", "scenarios"})
"""Parts of a plan that no direct current depends on, but for the resistance of coils in feeds."""


def same_currents(plan: Plan, other: Plan) -> bool:
    """Whether two plans differ in nothing that a direct current could notice."""
    if any(getattr(plan, name) != getattr(other, name) for name in Plan.model_fields if name not in CARRIES_NO_CURRENT):
        return False
    fed = [*plan.devices, *plan.supplies]
    return all(plan.series_ohm(one.id) == other.series_ohm(one.id) for one in fed)


def solved_like(plan: Plan, other: Solved) -> Solved | None:
    """The solution of another plan for this one, where no direct current can differ."""
    return replace(other, plan=plan, table=branch_table(plan)) if same_currents(plan, other.plan) else None
