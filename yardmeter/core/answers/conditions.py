"""Every condition solved three ways: what is asked, what is given, and what it averages to."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.answers.operating import Operating, exceeds_limits, operate, operate_limited
from yardmeter.core.network import Layout, Situation, lay_out
from yardmeter.core.network.build import rest_pack_v
from yardmeter.core.network.loads import load_knee_v
from yardmeter.core.plan import Condition, Plan


@dataclass(frozen=True)
class View:
    """One row of an operating point."""

    op: Operating
    row: int

    @property
    def converged(self) -> bool:
        return self.op.converged(self.row)


@dataclass(frozen=True)
class Solved:
    """Views per condition id. `asked`: supplies never cut off; `given`: they do; `mean`: bursts averaged, for heat.

    `free` holds the rows without limits, the plan's conditions first and in order.
    """

    plan: Plan
    layout: Layout
    free: Operating
    asked: dict[str, View]
    given: dict[str, View]
    mean: dict[str, View]

    def conditions(self) -> tuple[Condition, ...]:
        return self.plan.conditions


def solve_conditions(plan: Plan) -> Solved:
    """Solve all conditions of a plan at once; the rows in which a supply would cut off are solved again with limits."""
    situations = [Situation(condition, limited=False) for condition in plan.conditions]
    bursting = [d.id for d in plan.devices if d.burst]
    situations += [
        replace(s, averaged=True) for s in situations if any(s.condition.state_of(name) == "peak" for name in bursting)
    ]
    layout = lay_out(plan)
    free = operate(layout, situations)
    views = [View(free, row) for row in range(len(situations))]
    over = np.flatnonzero(exceeds_limits(free))
    if over.size:
        limited = operate_limited(free, over)
        for row, index in enumerate(over.tolist()):
            views[index] = View(limited, row)
    count = len(plan.conditions)
    given = {c.id: views[row] for row, c in enumerate(plan.conditions)}
    asked = {c.id: View(free, row) if free.converged(row) else given[c.id] for row, c in enumerate(plan.conditions)}
    mean = {**given, **{s.condition.id: views[count + k] for k, s in enumerate(situations[count:])}}
    return Solved(plan, layout, free, asked, given, mean)


def knows_full_pack(plan: Plan) -> bool:
    """Whether some condition rests on a full pack: the most volts the craft ever sees."""
    full_v = plan.pack.rest_v("full") - 1e-6
    return any(c.on_pack and c.throttle_frac == 0 and rest_pack_v(plan, Situation(c)) > full_v for c in plan.conditions)


CARRIES_NO_CURRENT = frozenset({"name", "note", "filters", "noises"})
"""Parts of a plan that no direct current depends on, but for the resistance of coils in feeds."""


def same_currents(plan: Plan, other: Plan) -> bool:
    """Whether two plans differ in nothing that a direct current could notice."""
    if any(getattr(plan, name) != getattr(other, name) for name in Plan.model_fields if name not in CARRIES_NO_CURRENT):
        return False
    fed = [*plan.devices, *plan.supplies]
    return all(plan.series_ohm(one.id) == other.series_ohm(one.id) for one in fed)


def solved_like(plan: Plan, other: Solved) -> Solved | None:
    """The solution of another plan for this one, where no direct current can differ."""
    return replace(other, plan=plan) if same_currents(plan, other.plan) else None


@dataclass(frozen=True)
class Collapse:
    """Where an operating point disappears: the share of the load that can still be carried, and the rail that goes."""

    load_factor: float
    rail: str


UNLOADED = 1e-6
FOLD_FRAC = 0.5
"""A constant power through a resistance folds at half the unloaded volts (circuit theory); below that it has collapsed."""


def find_collapse(layout: Layout, condition: Condition, asked: View) -> Collapse | None:
    """Whether the condition has lost its operating point, and at which load factor [0…1]; None while it stands.

    A collapsed load sits on the resistive tail of its law, below half its unloaded volts. The factor is found by rounds
    of batched subdivision, to a part in 6,000.
    """
    low = [
        d
        for d in layout.plan.devices
        if d.law == "power" and d.feed and asked.op.pin_v(asked.row, d.id) < load_knee_v(d)
    ]
    reach = reachable_rails(layout.plan, condition) if low else set()
    low = [d for d in low if d.feed and d.feed.rail in reach and asked.op.device_a(asked.row, d.id) > 0]
    # Before anything is solved: what stands at half the volts its source could give at most has not collapsed.
    start, node = asked.op.network.circuit.start_v[asked.row], asked.op.network.node
    low = [d for d in low if asked.op.pin_v(asked.row, d.id) < FOLD_FRAC * start[node[f"pin:{d.id}"]]]
    if not low and asked.converged:
        return None
    free = operate(layout, [Situation(condition, limited=False, load_factor=UNLOADED)])
    fallen = {
        d.id: FOLD_FRAC * free.pin_v(0, d.id)
        for d in low
        if asked.op.pin_v(asked.row, d.id) < FOLD_FRAC * free.pin_v(0, d.id)
    }
    if not fallen and asked.converged:
        return None
    under, over = 0.0, 1.0
    for _ in range(4):
        factors = np.linspace(under, over, 10)[1:-1]
        op = operate(layout, [Situation(condition, limited=False, load_factor=float(f)) for f in factors])
        good = [
            op.converged(row) and all(op.pin_v(row, d) >= v for d, v in fallen.items()) for row in range(len(factors))
        ]
        first_bad = good.index(False) if False in good else len(good)
        if first_bad > 0:
            under = float(factors[first_bad - 1])
        if first_bad < len(good):
            over = float(factors[first_bad])
    return Collapse(under, _weakest_rail(layout, free, asked, list(fallen)))


def reachable_rails(plan: Plan, condition: Condition) -> set[str]:
    """Rails that some connected source could feed, whatever state the supplies are in."""
    seen = {inlet.rail for inlet in plan.inlets if inlet.id in condition.energy} | (
        {plan.pack.rail} if condition.on_pack else set()
    )
    queue = list(seen)
    while queue:
        at = queue.pop()
        on_it = {at} | {d.id for d in plan.devices if d.feed and d.feed.rail == at}
        for supply in plan.supplies:
            if on_it & set(plan.inputs_of(supply)) and supply.output not in seen:
                seen.add(supply.output)
                queue.append(supply.output)
    return seen


def _weakest_rail(layout: Layout, free: Operating, asked: View, fallen: list[str]) -> str:
    """The rail that has lost most of its unloaded volts; that of the fallen device when the loss is in its own feed."""
    plan = layout.plan
    lost = {
        r.id: 1 - asked.op.rail_v(asked.row, r.id) / free.rail_v(0, r.id)
        for r in plan.rails
        if free.rail_v(0, r.id) > 0.5
    }
    worst = max(lost, key=lambda one: lost[one], default=plan.pack.rail)
    feed = plan.device_of[fallen[0]].feed if fallen else None
    return feed.rail if feed and lost.get(worst, 0.0) < 1 - FOLD_FRAC else worst
