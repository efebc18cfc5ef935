"""Where an operating point disappears: how much of the load a condition could still carry, and which rail goes first.

That is the greatest share up to which everything that is switched on has its volts. Something falls at a fold, or where a
regulator before it is left with too few volts and stops, whichever comes first as the load grows.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import UNLOADED, Solved
from yardmeter.core.answers.operating import View, operate_like
from yardmeter.core.graph import graph_of
from yardmeter.core.network import Situation, derive
from yardmeter.core.network.keys import Node, ground_node, pin_node, rail_node
from yardmeter.core.network.loads import load_knee_v
from yardmeter.core.plan import Condition, Device, Plan
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.climb import ALIVE_V, FOLD_FRAC, WHOLE, carried
from yardmeter.core.solver.rows import take_solution


@dataclass(frozen=True)
class Collapse:
    """The share of the load that can still be carried, and the rail that goes."""

    load_factor: float
    rail: str


def find_collapses(solved: Solved, asked: Sequence[tuple[Condition, View]]) -> Mapping[str, Collapse]:
    """By condition, where it has lost its operating point, at which load factor [0…1]; those that stand are not in it.

    A collapsed load sits on the resistive tail of its law, below half its unloaded volts. All conditions are searched together.
    """
    suspects = [(c, v, low) for c, v in asked if (low := _suspects(solved.plan, c, v)) or not v.converged]
    if not suspects:
        return {}
    row_of = {one.id: row for row, one in enumerate(solved.plan.conditions)}
    network, rows = solved.free.network, np.array([row_of[condition.id] for condition, _, _ in suspects])
    free = operate_like(network, rows, [Situation(c, limited=False, load_factor=UNLOADED) for c, _, _ in suspects])
    lost = [
        row
        for row, (_, view, low) in enumerate(suspects)
        if not view.converged or any(view.pin_v(d.id) < FOLD_FRAC * free.pin_v(row, d.id) for d in low)
    ]
    if not lost:
        return {}
    whole = derive(network, rows[lost], [Situation(suspects[row][0], limited=False) for row in lost])
    found = carried(whole.assembly, whole.circuit, take_solution(free.solution, np.array(lost)))
    return {
        suspects[row][0].id: Collapse(share / WHOLE, _weakest_rail(View(free, row), suspects[row][1], going_v))
        for row, share, going_v in zip(lost, found.share.tolist(), found.going_v, strict=True)
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


def _weakest_rail(unloaded: View, asked: View, going_v: Floats) -> str:
    """The rail nearest to the pack that ends with less than half of its unloaded volts; where several fall for themselves the one
    that goes fastest as something falls, and where none does that of the device that goes fastest, whose own feed it is."""
    plan, op = unloaded.op.plan, unloaded.op
    before, going = op.volts[unloaded.row].tolist(), [*going_v.tolist(), 0.0]  # and the reference

    def pace(upper: Node, owner: str) -> float:
        a, b = op.network.node[upper], op.network.node[ground_node(owner)]
        was = before[a] - before[b]
        return (going[b] - going[a]) / was if was > ALIVE_V else -math.inf

    def rail_pace(rail: str) -> float:
        return pace(rail_node(rail), plan.ground_of(rail))

    fallen = [
        r.id for r in plan.rails if (was := unloaded.rail_v(r.id)) > ALIVE_V and asked.rail_v(r.id) < FOLD_FRAC * was
    ]
    graph = graph_of(plan)
    roots = [r for r in fallen if not any(r in graph.below(other) for other in fallen if other != r)] or fallen
    if roots:
        return max(roots, key=rail_pace)
    fed = [(pace(pin_node(d.id), d.id), d.feed.rail) for d in plan.devices if d.feed]
    return max(fed)[1] if fed else plan.pack.rail
