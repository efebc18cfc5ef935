"""Every condition solved three ways: what is asked, what is given, and what it averages to."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.answers.operating import Operating, exceeds_limits, operate
from yardmeter.core.network import Layout, Situation, lay_out
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
    """Views per condition id. `asked`: supplies never cut off; `given`: they do; `mean`: bursts averaged, for heat."""

    plan: Plan
    layout: Layout
    asked: dict[str, View]
    given: dict[str, View]
    mean: dict[str, View]

    def conditions(self) -> tuple[Condition, ...]:
        return self.plan.conditions


def solve_conditions(plan: Plan) -> Solved:
    """Solve all conditions of a plan; the rows with limits or averages are solved only where they differ."""
    situations = [Situation(condition, limited=False) for condition in plan.conditions]
    layout = lay_out(plan)
    free = operate(layout, situations)
    asked = {s.condition.id: View(free, row) for row, s in enumerate(situations)}
    given, mean = dict(asked), dict(asked)
    again = [(s, False) for s, over in zip(situations, exceeds_limits(free), strict=True) if over]
    bursting = any(device.burst for device in plan.devices)
    again += [
        (s, True)
        for s in situations
        if bursting and any(d.burst and s.condition.state_of(d.id) == "peak" for d in plan.devices)
    ]
    if again:
        limited = operate(layout, [replace(s, limited=True, averaged=averaged) for s, averaged in again])
        for row, (situation, averaged) in enumerate(again):
            (mean if averaged else given)[situation.condition.id] = View(limited, row)
    for condition_id, view in given.items():
        if view.op is not free and mean[condition_id].op is free:
            mean[condition_id] = view
        if not asked[condition_id].converged:
            asked[condition_id] = view
    return Solved(plan, layout, asked, given, mean)


@dataclass(frozen=True)
class Collapse:
    """Where an operating point disappears: the share of the load that can still be carried, and the rail that goes."""

    load_factor: float
    rail: str


def find_collapse(layout: Layout, condition: Condition) -> Collapse:
    """Load factor [0…1] at which the operating point disappears, by four rounds of batched subdivision."""
    low, high = 0.0, 1.0
    for _ in range(4):
        factors = np.linspace(low, high, 9)
        op = operate(layout, [Situation(condition, limited=False, load_factor=float(f)) for f in factors])
        good = op.solution.converged
        last = int(np.flatnonzero(good)[-1]) if good.any() else 0
        if last == len(factors) - 1:
            return Collapse(1.0, "")
        low, high = float(factors[last]), float(factors[last + 1])
    return Collapse(low, _weakest_rail(layout, condition, low))


def _weakest_rail(layout: Layout, condition: Condition, factor: float) -> str:
    """The rail that has lost the largest share of its volts between no load and the last load that works."""
    op = operate(layout, [Situation(condition, limited=False, load_factor=f) for f in (1e-6, factor)])
    rails = layout.plan.rails
    lost = {rail.id: 1 - op.rail_v(1, rail.id) / op.rail_v(0, rail.id) for rail in rails if op.rail_v(0, rail.id) > 0.5}
    return max(lost, key=lambda one: lost[one]) if lost else rails[0].id
