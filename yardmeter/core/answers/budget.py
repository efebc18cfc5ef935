"""The budget: per rail and condition what is asked, usable and spare, and what every pin sees."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TypeVar

from yardmeter.core.answers.collapse import Collapse, find_collapses
from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.model import (
    Budget,
    ConditionAnswer,
    DeviceAnswer,
    DeviceState,
    DeviceVerdict,
    RailAnswer,
    RailState,
)
from yardmeter.core.answers.pins import is_off, verdict, weight, worst_state
from yardmeter.core.answers.rails import InCondition, rail_states, unfed_is_zero
from yardmeter.core.answers.sources import back_flows, flows, trace_sources
from yardmeter.core.answers.supplies import supply_answer, supply_states
from yardmeter.core.graph import graph_of
from yardmeter.core.physics.pack import charge_left_frac
from yardmeter.core.plan import Device, Plan, Rail

State = TypeVar("State")


def budget(solved: Solved, before: Budget | None = None, stands: frozenset[str] = frozenset()) -> Budget:
    """All numbers of the plan from its solved conditions; those that `stand` are as they were in the budget `before`."""
    plan = solved.plan
    if before is None:
        stands = frozenset()
    cases = []
    for condition in plan.conditions:
        if condition.id in stands:
            continue
        asked, given = solved.asked[condition.id], solved.given[condition.id]
        sources = trace_sources(plan, condition, given)
        cases.append(InCondition(plan, condition, asked, given, sources, flows(plan, asked), flows(plan, given)))
    found = {case.condition.id: rail_states(plan, case) for case in cases}
    kept = _Kept(before)
    collapses = find_collapses(solved, [(case.condition, case.asked) for case in cases])
    heads = {case.condition.id: _head(plan, case, collapses.get(case.condition.id)) for case in cases}

    heads = {**kept.heads, **heads}

    def whole(old: Mapping[str, Mapping[str, State]], element: str, new: Mapping[str, State]) -> dict[str, State]:
        """An element's states in every condition, in order."""
        return {c.id: new[c.id] if c.id in new else old[element][c.id] for c in plan.conditions}

    rails = tuple(
        _rail(plan, rail, whole(kept.rails, rail.id, {name: states[rail.id] for name, states in found.items()}))
        for rail in sorted(plan.rails, key=lambda r: graph_of(plan).track_order[r.id])
    )
    devices = tuple(
        _device(one, whole(kept.devices, one.id, {case.condition.id: _device_state(one, case) for case in cases}))
        for one in plan.devices
    )
    supplies = tuple(
        supply_answer(one, whole(kept.supplies, one.id, supply_states(solved, one, stands))) for one in plan.supplies
    )
    conditions = tuple(heads[c.id] for c in plan.conditions)
    return Budget(conditions=conditions, rails=rails, supplies=supplies, devices=devices)


class _Kept:
    """The states of a budget by element and condition; of none there are none."""

    def __init__(self, before: Budget | None) -> None:
        self.heads = {one.id: one for one in before.conditions} if before else {}
        self.rails = {one.id: one.states for one in before.rails} if before else {}
        self.devices = {one.id: one.states for one in before.devices} if before else {}
        self.supplies = {one.id: one.states for one in before.supplies} if before else {}


def _rail(plan: Plan, rail: Rail, states: dict[str, RailState]) -> RailAnswer:
    shares = {c: s.own_spare_a / s.usable_a if s.usable_a > 0 else math.inf for c, s in states.items()}
    return RailAnswer(
        id=rail.id,
        name=rail.name,
        board=rail.board,
        parent=graph_of(plan).parent(rail.id),
        depth=len(graph_of(plan).climb(rail.id)) - 1,
        supplies=tuple(supply.id for supply in plan.supplies_into(rail.id)),
        worst=min(shares, key=lambda c: shares[c]),
        states=states,
    )


def _device(device: Device, states: dict[str, DeviceState]) -> DeviceAnswer:
    seen = [state.pin_v for state in states.values() if state.verdict not in ("off", "dead", "unknown")]
    return DeviceAnswer(
        id=device.id,
        name=device.name,
        rail=device.feed.rail if device.feed else None,
        min_v=device.min_v,
        max_v=device.max_v,
        reset_v=device.reset_v,
        seen_min_v=min(seen, default=None),
        seen_max_v=max(seen, default=None),
        worst=worst_state(states),
        states=states,
    )


def _device_state(device: Device, case: InCondition) -> DeviceState:
    view = case.given
    pin = unfed_is_zero(view.pin_v(device.id), case.sources[device.id])
    state = "off" if is_off(device, case.condition) else case.condition.state_of(device.id)
    found: DeviceVerdict = "unknown"
    if view.converged:
        trying = device.feed is not None and device.feed.rail in case.trying
        found = verdict(device, pin, off=state == "off", fed=bool(case.sources[device.id]), trying=trying)
    drop = view.rail_v(device.feed.rail) - pin if device.feed and case.sources[device.id] else 0.0
    return DeviceState(
        state=state,
        asked_a=case.device_asked_a(device),
        given_a=max(view.device_a(device.id), 0.0),
        pin_v=pin,
        ground_v=view.ground_v(device.id),
        drop_v=drop,
        verdict=found,
        sources=case.sources[device.id],
        weight=weight(device, case.condition, found),
    )


def _head(plan: Plan, case: InCondition, collapse: Collapse | None) -> ConditionAnswer:
    condition, view = case.condition, case.given
    pack_a = view.pack_a if condition.on_pack else 0.0
    rest = view.rest_v
    inlets = [i for i in plan.inlets if i.id in condition.energy and i.is_port]
    inlet_a = sum(view.inlet_a(i.id) for i in inlets)
    left = charge_left_frac(plan.pack.chemistry, rest / plan.pack.series) if condition.on_pack else None
    minutes = left * plan.pack.charge_ah / pack_a * 60 if left is not None and pack_a > 1e-3 else None
    lead = view.rail_v(plan.pack.rail)
    return ConditionAnswer(
        id=condition.id,
        name=condition.name,
        solved=view.converged and collapse is None,
        known=view.converged,
        collapse_rail=collapse.rail if collapse else None,
        load_factor=collapse.load_factor if collapse else None,
        pack_v=lead,
        pack_rest_v=rest,
        pack_a=pack_a,
        source_a=pack_a + inlet_a,
        source_v=lead if condition.on_pack else max((view.rail_v(i.rail) for i in inlets), default=0.0),
        charge_left_frac=left,
        minutes=minutes if minutes is None or math.isfinite(minutes) else None,
        back_flows=back_flows(plan, view),
    )
