"""What of a plan's answers stands after an edit of what a device draws: conditions that read none of it, and their points."""

from __future__ import annotations

import copy
from dataclasses import replace

import numpy as np

from yardmeter.core.answers.conditions import Solved, solved_of
from yardmeter.core.answers.operating import Operating, View, exceeds_limits, operate_limited
from yardmeter.core.graph import graph_of
from yardmeter.core.network import BranchTable, Network
from yardmeter.core.network.build import load_values
from yardmeter.core.network.loads import active_draw
from yardmeter.core.plan import Condition, Device, Plan
from yardmeter.core.plan.devices import Draw
from yardmeter.core.solver.dc import solve_dc
from yardmeter.core.solver.rows import put_rows, take_rows

SAYS_NOTHING = frozenset({"name", "note", "scenarios"})
"""Fields of a plan that no number of a condition is read from."""


def standing(plan: Plan, before: Plan) -> frozenset[str]:
    """Conditions (ids) that read nothing in which two plans differ; none where those differ in more than what devices draw."""
    if len(plan.devices) != len(before.devices):
        return frozenset()
    for name in Plan.model_fields:
        if name not in SAYS_NOTHING and name != "devices" and getattr(plan, name) != getattr(before, name):
            return frozenset()
    changed: list[tuple[Device, Device]] = []
    for now, was in zip(plan.devices, before.devices, strict=True):
        if now != was:
            if now.model_copy(update={"draws": was.draws}) != was:
                return frozenset()
            changed.append((now, was))
    return frozenset(c.id for c in plan.conditions if all(_read(now, c) == _read(was, c) for now, was in changed))


def _read(device: Device, condition: Condition) -> tuple[Draw | None, ...]:
    """The draws a condition's numbers are made of: that of its state, what a burst falls back to, what stands in for none."""
    draw = active_draw(device, condition)
    return (draw, device.draws.idle if device.burst else None, device.draws.typical if draw is None else None)


def take_over_graph(plan: Plan, before: Plan) -> None:
    """The graph of a plan that differs from another in draws alone: it holds ids, and reads none."""
    if "_graph" not in plan.__dict__:
        found = copy.copy(graph_of(before))
        found.plan = plan
        plan.__dict__["_graph"] = found


def solve_changed(plan: Plan, before: Solved, stands: frozenset[str]) -> Solved:
    """A plan's conditions, of which some stand as they were solved `before`: the others' rows alone are solved."""
    table = _drawn_again(before.table, plan)
    old = before.free.network
    situations, count = old.situations, len(plan.conditions)
    fresh = np.array([row for row, one in enumerate(situations) if one.condition.id not in stands], np.int64)
    loads = old.circuit.loads
    value = loads.value.copy()
    if fresh.size:
        value[fresh] = load_values(table, [situations[row] for row in fresh.tolist()])
    circuit = replace(old.circuit, loads=replace(loads, value=value))
    network = Network(table, situations, circuit, old.assembly)
    solution = before.free.solution
    if fresh.size:
        solution = put_rows(solution, fresh, solve_dc(take_rows(circuit, fresh), old.assembly))
    free = Operating(network, solution)
    views = [View(free, row) for row in range(len(situations))]
    over = np.flatnonzero(exceeds_limits(free))
    again = np.intersect1d(over, fresh)
    if again.size:
        limited = operate_limited(free, again)
        for row, index in enumerate(again.tolist()):
            views[index] = View(limited, row)
    for index in np.setdiff1d(over, fresh).tolist():
        name = situations[index].condition.id
        views[index] = before.given[name] if index < count else before.mean[name]
    return solved_of(plan, table, free, views)


def _drawn_again(table: BranchTable, plan: Plan) -> BranchTable:
    """The branches of a plan that differs in draws alone: the same, but for the devices its loads are."""
    loads = [replace(one, device=plan.device_of[one.device.id]) if one.device else one for one in table.loads]
    made = replace(table, plan=plan, loads=loads)
    # By keys, nodes and laws, which are the same.
    kept = ("capacitors", "conductor", "load", "ohmic", "lamps", "converter")
    made.__dict__.update({name: table.__dict__[name] for name in kept if name in table.__dict__})
    return made
