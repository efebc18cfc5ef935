"""Wires and connectors that carry what is asked of them: the thinnest gauge, the next connector that is sold."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from yardmeter.core.answers.limits import wire_bound_a, wire_limits
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.plan import Condition, Device, Link, Plan, Rail, Return, Strap, Wire
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.sizing.wire import GAUGES
from yardmeter.core.verdict import Fix

THICKER = 4
THICKEST_AWG = 16
"""Gauges a wire is made thicker by: four are 2.5 times the copper. And the thickest that is soldered to a pad of a device; common
practice, no source."""
CONNECTORS_A = (3.0, 5.0, 9.0, 15.0, 30.0, 60.0, 90.0, 120.0)
"""What connectors of aircraft are sold for; common practice, no source."""


def stouter(plan: Plan, wire: Wire, condition: Condition, amps: float) -> dict[str, int | float | str]:
    """Fields of a wire with the values with which it carries `amps` in a condition; none where it does, or nothing sold would."""
    over = {one.kind for one in wire_limits(plan, wire, "feed", condition) if exceeds(amps, one.amps_a)}
    gauges = [wire.gauge_awg]
    if "wire" in over:
        gauges = sorted((g for g in GAUGES if g < wire.gauge_awg), reverse=True)
    connectors: list[float | None] = [wire.connector_limit_a]
    if "connector" in over:
        if wire.inline is not None:  # a fuse is as large as what it guards: no larger one is proposed
            return {}
        connectors = [one for one in CONNECTORS_A if one > (wire.connector_limit_a or 0.0)]
    for gauge in gauges:
        for limit_a in connectors:
            made = wire.model_copy(update={"gauge_awg": gauge, "connector_limit_a": limit_a})
            if not exceeds(amps, wire_bound_a(plan, made, condition)):
                return _changed(wire, gauge, limit_a)
    return {}


def _changed(wire: Wire, gauge: int, limit_a: float | None) -> dict[str, int | float | str]:
    values: dict[str, int | float | str] = {}
    if gauge != wire.gauge_awg:
        values["gauge_awg"] = gauge
    if limit_a is not None and limit_a != wire.connector_limit_a:
        values |= {"connector_limit_a": limit_a, "connector": f"{limit_a:g} A connector"}
    return values


def stouter_fix(edits: tuple[SetValue, ...]) -> Fix:
    """A fix by its edits: named for the connector where one is exchanged."""
    return Fix("connector" if any(one.field.endswith("connector_limit_a") for one in edits) else "gauge", edits)


def stiffer_fixes(device: Device, returns: Sequence[Return], *, feed: bool) -> Iterator[Fix]:
    """Thicker wires for what falls too far along them: of two and a half times the copper, then of that again."""
    wires = [(device.id, "feed.wire", device.feed.wire)] if feed and device.feed else []
    wires += [(one.id, "wire", one.wire) for one in returns]
    last: tuple[SetValue, ...] = ()
    for steps in (THICKER, 2 * THICKER):
        edits = tuple(
            SetValue(element=element, field=f"{field}.gauge_awg", value=gauge)
            for element, field, wire in wires
            if not wire.joined and (gauge := max(wire.gauge_awg - steps, THICKEST_AWG)) < wire.gauge_awg
        )
        if edits and edits != last:
            yield Fix("gauge", edits)
        last = edits


def lead_fixes(case: SolvedPlan, rail: Rail, condition: str) -> Iterator[Fix]:
    """Stouter leads and connectors into a rail that is asked for more than they carry."""
    plan, state, where = case.plan, case.rail(rail.id).states[condition], case.plan.condition(condition)
    carried = [("pack", "lead", plan.pack.lead)] if rail.id == plan.pack.rail else []
    for supply in plan.supplies_into(rail.id):
        if supply.lead:
            carried.append((supply.id, "lead", supply.lead))
        if supply.feed and isinstance(supply, Link | Strap):
            carried.append((supply.id, "feed", supply.feed))
    edits = tuple(
        SetValue(element=element, field=f"{field}.{name}", value=value)
        for element, field, wire in carried
        for name, value in stouter(plan, wire, where, state.asked_a).items()
    )
    if edits:
        yield stouter_fix(edits)
