"""Where a condition ends after a dip: a rail at its regulator's limit may stay down though it held before."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.operating import View, operate_after_dip
from yardmeter.core.elements.regulator import MIN_INPUT_V
from yardmeter.core.graph import graph_of
from yardmeter.core.network.loads import load_knee_v
from yardmeter.core.plan import Regulator

LOSS_FRAC = 0.25
"""What switching regulators below may take at lower volts beside what they take now; our choice, on the safe side."""
WIRE_FRAC = 0.05
"""What wires below may take beside what their devices draw; our choice, on the safe side."""
LOST_FRAC = 0.03
"""By how much a rail's volts have to differ for the two points to be two; our choice."""


@dataclass(frozen=True)
class Latch:
    """A regulator that holds its rail, and would sit at its limit after a dip."""

    supply: str
    condition: str
    holds_v: float
    stays_v: float
    limit_a: float


def latches(solved: Solved) -> tuple[Latch, ...]:
    """Every regulator and condition with a second point to stand at."""
    plan = solved.plan
    views = [(c.id, view) for c in plan.conditions if (view := solved.given[c.id]).converged and _may_latch(view)]
    found: list[Latch] = []
    for op in {id(view.op): view.op for _, view in views}.values():
        mine = [(name, view) for name, view in views if view.op is op]
        after = operate_after_dip(op, np.array([view.row for _, view in mine], dtype=np.int64))
        for row, (condition, view) in enumerate(mine):
            if after.converged(row):
                found += _second_points(condition, view, View(after, row))
    return tuple(found)


def _may_latch(view: View) -> bool:
    """Whether some regulator could be asked for its limit at low volts: a bound, so that few conditions are solved again."""
    plan = view.op.plan
    return any(
        view.supply_on(s.id) and not view.supply_limits(s.id) and _most_a(view, s) > s.limit_a
        for s in plan.supplies
        if isinstance(s, Regulator)
    )


def _most_a(view: View, supply: Regulator) -> float:
    """The most that is asked of a regulator at any volts on its output, each consumer below it taken at its hungriest.

    What stands behind a switching regulator is constant power down to where that one stops; a constant current stays.
    Loads of constant power grow as the volts fall, down to their knee; the rest fall with them.
    """
    plan, graph = view.op.plan, graph_of(view.op.plan)
    below = graph.rails_below([supply.output])
    stages = [s for s in plan.supplies if isinstance(s, Regulator) and s.input in below]
    fed = {s.id: graph.rails_below([s.output]) for s in stages}
    behind = set().union(*(fed[s.id] for s in stages if s.switching))
    flat_a = 0.0
    hungry: list[_Hungry] = []
    for device in (d for name in below - behind for d in plan.devices_on(name)):
        amps, rail = view.device_a(device.id), device.feed.rail if device.feed else ""
        if device.law == "power":
            held_v = min((s.set_v for s in stages if rail in fed[s.id]), default=math.inf)
            hungry.append(_Hungry(amps * view.pin_v(device.id), load_knee_v(device), held_v))
        else:
            flat_a += amps
    for stage in (s for s in stages if s.switching and s.input not in behind):
        asked_w = sum(view.device_a(d.id) * view.pin_v(d.id) for name in fed[stage.id] for d in plan.devices_on(name))
        watts = max(view.supply_in_a(stage) * view.supply_in_v(stage), asked_w)  # now, losses and all
        hungry.append(_Hungry(watts * (1 + LOSS_FRAC), stage.stop_v))
    return (1 + WIRE_FRAC) * (flat_a + max((sum(h.amps(at.least_v) for h in hungry) for at in hungry), default=0.0))


@dataclass(frozen=True)
class _Hungry:
    """Constant power down to the least volts; behind a linear regulator its volts are held, and so are its amps."""

    watts: float
    least_v: float
    held_v: float = math.inf

    def amps(self, volts: float) -> float:
        """What it asks for with so many volts on the rail above; what has given up asks for nothing."""
        return self.watts / max(min(volts, self.held_v), MIN_INPUT_V) if self.least_v <= volts else 0.0


def _second_points(condition: str, before: View, after: View) -> list[Latch]:
    """The regulators that hold before, and sit at their limit after."""
    plan = before.op.plan
    stuck = [
        s
        for s in plan.supplies
        if isinstance(s, Regulator) and after.supply_limits(s.id) and not before.supply_limits(s.id)
    ]
    return [
        Latch(s.id, condition, holds, stays, after.supply_a(s))
        for s in stuck
        if (holds := before.rail_v(s.output)) > 0 and (stays := after.rail_v(s.output)) < holds * (1 - LOST_FRAC)
    ]
