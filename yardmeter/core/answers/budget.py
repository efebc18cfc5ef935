"""The budget: per rail and condition what is asked, usable and spare, and what every pin sees."""

from __future__ import annotations

import math
from dataclasses import dataclass

from yardmeter.core.answers.collapse import Collapse, find_collapses
from yardmeter.core.answers.conditions import Solved, View
from yardmeter.core.answers.limits import inlet_limit, pack_limits, printed_a, supply_limits
from yardmeter.core.answers.model import (
    Budget,
    ConditionAnswer,
    DeviceAnswer,
    DeviceState,
    DeviceVerdict,
    Limit,
    RailAnswer,
    RailState,
    Wagon,
)
from yardmeter.core.answers.sources import LIVE_V, back_flows, trace_sources
from yardmeter.core.answers.supplies import supply_answers
from yardmeter.core.network.build import rest_pack_v
from yardmeter.core.network.loads import active_draw
from yardmeter.core.physics.pack import charge_left_frac
from yardmeter.core.plan import Condition, Device, Link, Plan, Provenance, Rail, Strap

CARRYING_A = 1e-4
"""Current from which a supply counts among those that carry a rail [A]."""


@dataclass(frozen=True)
class _Case:
    """One condition with its views and source trace."""

    condition: Condition
    asked: View
    given: View
    sources: dict[str, tuple[str, ...]]


def budget(solved: Solved) -> Budget:
    """All numbers of the plan from its solved conditions."""
    plan = solved.plan
    cases = []
    for condition in plan.conditions:
        given = solved.given[condition.id]
        cases.append(_Case(condition, solved.asked[condition.id], given, trace_sources(plan, condition, given)))
    parents = rail_parents(plan)
    rails = tuple(
        _rail(plan, rail, cases, parents)
        for rail in sorted(plan.rails, key=lambda r: _track_order(plan, parents, r.id))
    )
    devices = tuple(_device(device, cases) for device in plan.devices)
    collapses = find_collapses(solved.layout, [(case.condition, case.asked) for case in cases])
    return Budget(
        conditions=tuple(_head(plan, case, collapses.get(case.condition.id)) for case in cases),
        rails=rails,
        supplies=supply_answers(solved),
        devices=devices,
    )


def rail_parents(plan: Plan) -> dict[str, str | None]:
    """The rail each rail hangs from: its first supply's input (the feeding rail, when a device passes power on)."""
    parents: dict[str, str | None] = {}
    for rail in plan.rails:
        parents[rail.id] = None
        for supply in plan.supplies_into(rail.id) if rail.id != plan.pack.rail else ():
            feeding = _feeding_rail(plan, supply.input)
            if feeding and not _above(parents, feeding, rail.id):
                parents[rail.id] = feeding
                break
    return parents


def _feeding_rail(plan: Plan, name: str) -> str | None:
    if name in plan.rail_of:
        return name
    feed = plan.device_of[name].feed
    return feed.rail if feed else None


def _above(parents: dict[str, str | None], start: str, wanted: str) -> bool:
    """Whether `wanted` is found when climbing from `start`; guards against cycles of links."""
    at: str | None = start
    while at is not None:
        if at == wanted:
            return True
        at = parents.get(at)
    return False


def _path(parents: dict[str, str | None], rail_id: str) -> list[str]:
    path = [rail_id]
    while (up := parents[path[-1]]) is not None:
        path.append(up)
    return path[::-1]


def _track_order(plan: Plan, parents: dict[str, str | None], rail_id: str) -> tuple[int, ...]:
    """Depth-first order: the pack's rail first, children below their parent in the order of the plan."""
    position = {rail.id: index for index, rail in enumerate(plan.rails)}
    position[plan.pack.rail] = -1
    return tuple(position[one] for one in _path(parents, rail_id))


def _rail(plan: Plan, rail: Rail, cases: list[_Case], parents: dict[str, str | None]) -> RailAnswer:
    return RailAnswer(
        id=rail.id,
        name=rail.name,
        board=rail.board,
        parent=parents[rail.id],
        depth=len(_path(parents, rail.id)) - 1,
        supplies=tuple(supply.id for supply in plan.supplies_into(rail.id)),
        states={case.condition.id: _rail_state(plan, rail, case) for case in cases},
    )


def _rail_state(plan: Plan, rail: Rail, case: _Case) -> RailState:
    wagons = _wagons(plan, rail, case)
    asked = sum(w.asked_a for w in wagons)
    guessed = sum(w.asked_a for w in wagons if w.provenance in ("guess", "reported"))
    limits = rail_limits(plan, rail, case.condition, case.given)
    usable = min((limit.amps_a for limit in limits), default=0.0)
    return RailState(
        volts_v=case.given.op.rail_v(case.given.row, rail.id),
        asked_a=asked,
        given_a=sum(w.given_a for w in wagons),
        usable_a=usable,
        printed_a=_printed(plan, rail, case),
        spare_a=usable - asked,
        guess_frac=guessed / asked if asked > 1e-6 else 0.0,
        limits=limits,
        wagons=wagons,
        sources=case.sources[rail.id],
    )


def rail_limits(
    plan: Plan, rail: Rail, condition: Condition, view: View, above: tuple[str, ...] = ()
) -> tuple[Limit, ...]:
    """Bounds on what may be taken from a rail in a condition. Supplies that carry it together add up.

    A wire or strap gives no more than the rail it comes from; `above` are the rails already climbed through.
    """
    if rail.id == plan.pack.rail and condition.on_pack:
        return pack_limits(plan, condition)
    ports = [inlet_limit(inlet) for inlet in plan.inlets if inlet.rail == rail.id and inlet.id in condition.energy]
    feeding = [s for s in plan.supplies_into(rail.id) if view.op.supply_in_v(view.row, s) > LIVE_V]
    carrying = [s for s in feeding if view.op.supply_a(view.row, s) > CARRYING_A]
    if not carrying and not ports:
        carrying = feeding[:1]
    groups = []
    for supply in carrying:
        group = supply_limits(plan, supply, condition, view.op.supply_in_v(view.row, supply))
        if isinstance(supply, Link | Strap):
            for name in plan.inputs_of(supply):
                if name in plan.rail_of and name not in above:
                    group += rail_limits(plan, plan.rail_of[name], condition, view, (*above, rail.id))
        groups.append(group)
    if len(groups) == 1 and not ports:
        return groups[0]
    least = [min(group, key=lambda limit: limit.amps_a) for group in groups if group]
    total = [*least, *ports]
    if not total:
        return ()
    words = " + ".join(limit.reason for limit in total)
    return (Limit(kind=total[0].kind, amps_a=sum(limit.amps_a for limit in total), reason=words),)


def _printed(plan: Plan, rail: Rail, case: _Case) -> float:
    if rail.id == plan.pack.rail and case.condition.on_pack:
        return plan.pack.limit_a
    ports = sum(inlet.limit_a for inlet in plan.inlets if inlet.rail == rail.id and inlet.id in case.condition.energy)
    view = case.given
    return ports + sum(
        printed_a(s) or 0.0 for s in plan.supplies_into(rail.id) if view.op.supply_in_v(view.row, s) > LIVE_V
    )


def _wagons(plan: Plan, rail: Rail, case: _Case) -> tuple[Wagon, ...]:
    asked, given = case.asked, case.given
    wagons = []
    for device in plan.devices_on(rail.id):
        passed = plan.supplies_from(device.id)
        extra = [sum(v.op.supply_in_a(v.row, s) for s in passed) for v in (asked, given)]
        wagons.append(
            Wagon(
                id=device.id,
                kind="device",
                name=device.name,
                asked_a=max(asked.op.device_a(asked.row, device.id) + extra[0], 0.0),
                given_a=max(given.op.device_a(given.row, device.id) + extra[1], 0.0),
                provenance=_provenance(device, case.condition),
                tol_frac=draw_band_frac(plan, device, case.condition),
            )
        )
    for supply in plan.supplies_from(rail.id):
        amps = [v.op.supply_in_a(v.row, supply) for v in (asked, given)]
        if max(amps) > 1e-6 or view_live(given, rail.id):
            wagons.append(
                Wagon(
                    id=supply.id,
                    kind="supply",
                    name=supply.name,
                    asked_a=max(amps[0], 0.0),
                    given_a=max(amps[1], 0.0),
                    provenance=None,
                    tol_frac=0.0,
                )
            )
    return tuple(sorted(wagons, key=lambda w: -w.asked_a))


def view_live(view: View, rail_id: str) -> bool:
    return view.op.rail_v(view.row, rail_id) > LIVE_V


def _provenance(device: Device, condition: Condition) -> Provenance:
    draw = active_draw(device, condition)
    return draw.provenance if draw else device.draws.typical.provenance


def draw_band_frac(plan: Plan, device: Device, condition: Condition) -> float:
    """Half-width of the band of the draw in use [fraction]."""
    draw = active_draw(device, condition) or device.draws.typical
    return draw.tol_frac if draw.tol_frac is not None else plan.policy.band_frac(draw.provenance)


def _device(device: Device, cases: list[_Case]) -> DeviceAnswer:
    states = {case.condition.id: _device_state(device, case) for case in cases}
    seen = [state.pin_v for state in states.values() if state.verdict not in ("off", "dead")]
    return DeviceAnswer(
        id=device.id,
        name=device.name,
        rail=device.feed.rail if device.feed else None,
        min_v=device.min_v,
        max_v=device.max_v,
        reset_v=device.reset_v,
        seen_min_v=min(seen, default=None),
        seen_max_v=max(seen, default=None),
        states=states,
    )


def _device_state(device: Device, case: _Case) -> DeviceState:
    view = case.given
    pin = view.op.pin_v(view.row, device.id)
    state = case.condition.state_of(device.id)
    if device.throttle and case.condition.throttle_frac == 0:
        state = "off"
    drop = view.op.rail_v(view.row, device.feed.rail) - pin if device.feed else 0.0
    return DeviceState(
        state=state,
        asked_a=max(case.asked.op.device_a(case.asked.row, device.id), 0.0),
        given_a=max(view.op.device_a(view.row, device.id), 0.0),
        pin_v=pin,
        ground_v=view.op.ground_v(view.row, device.id),
        drop_v=drop,
        verdict=verdict(device, pin, off=state == "off", fed=bool(case.sources[device.id])),
        sources=case.sources[device.id],
    )


def verdict(device: Device, pin_v: float, *, off: bool, fed: bool) -> DeviceVerdict:
    """What the volts at its pins mean for a device; over-voltage counts whether it is switched on or not."""
    if pin_v > device.max_v * (1 + 1e-6):
        return "high"
    if off:
        return "off"
    if not fed or pin_v < LIVE_V:
        return "dead"
    if pin_v < device.reset_v * (1 - 1e-6):
        return "reset"
    return "low" if pin_v < device.min_v * (1 - 1e-6) else "ok"


def _head(plan: Plan, case: _Case, collapse: Collapse | None) -> ConditionAnswer:
    condition, view = case.condition, case.given
    pack_a = view.op.pack_a(view.row) if condition.on_pack else 0.0
    rest = rest_pack_v(plan, view.op.network.situations[view.row])
    inlets = [i for i in plan.inlets if i.id in condition.energy and i.kind in ("usb", "bench")]
    inlet_a = sum(view.op.inlet_a(view.row, i.id) for i in inlets)
    left = charge_left_frac(plan.pack.chemistry, rest / plan.pack.series) if condition.on_pack else None
    minutes = left * plan.pack.capacity_ah / pack_a * 60 if left is not None and pack_a > 1e-3 else None
    lead = view.op.rail_v(view.row, plan.pack.rail)
    return ConditionAnswer(
        id=condition.id,
        name=condition.name,
        solved=view.converged and collapse is None,
        collapse_rail=collapse.rail if collapse else None,
        load_factor=collapse.load_factor if collapse else None,
        pack_v=lead,
        pack_rest_v=rest,
        pack_a=pack_a,
        source_a=pack_a + inlet_a,
        source_v=lead if condition.on_pack else max((view.op.rail_v(view.row, i.rail) for i in inlets), default=0.0),
        charge_left_frac=left,
        minutes=minutes if minutes is None or math.isfinite(minutes) else None,
        back_flows=back_flows(plan, view),
    )
