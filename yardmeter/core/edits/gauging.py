"""Wires of a new build: as long as the craft is large, as thick as what they carry asks for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.edits.apply import apply_edits
from yardmeter.core.network.keys import LEAD_KEY, Key, feed_key, link_key, return_key
from yardmeter.core.plan import Link, Pack, Plan, Wire
from yardmeter.core.plan.operations import Edit, SetValue
from yardmeter.core.sizing.gauges import duties, enough
from yardmeter.core.sizing.wire import Duty

RESERVE = 1.25
"""What a wire is sized for, of what it carries: devices come later; our choice."""
THICKEST_AWG = 8
LEAST_AWG = {"device": 26, "board": 24}
"""No thinner on what is larger than a whoop, though less would carry it: what feeds a device, what feeds a board and all on it;
common practice, no source."""
LONGEST_BY_SIZE = ((0.4, 1, 0.6), (0.7, 3, 0.9), (1.0, 6, 4.0))
"""Length of a wire, of what is usual on a craft of five inches, up to so many cells and so much charge [Ah]: whoop, toothpick,
five inches; common practice, no source."""
LARGE = 2.5
"""Likewise on whatever is larger."""


@dataclass(frozen=True)
class _Laid:
    """One wire of a plan: its place in the document, what it carries, the rail it belongs to; none for the pack's own."""

    element: str
    field: str
    key: Key
    wire: Wire
    owner: str
    rail: str | None = None
    at_pack: bool = False


def size_of(pack: Pack) -> float:
    """How long the wires of a craft with this pack are, of what they are on one of five inches."""
    fitting = (size for size, cells, charge in LONGEST_BY_SIZE if pack.series <= cells and pack.charge_ah <= charge)
    return next(fitting, LARGE)


def fitted_wires(plan: Plan, known: Plan | None = None) -> tuple[Edit, ...]:
    """Edits that cut the wires of what is not in `known` to the craft's size, each of the thinnest gauge that will do.

    What is a cable with a plug keeps the gauge it comes with, and copper on a board is no wire.
    """
    size, old = size_of(plan.pack), {"pack", *known.elements, *known.return_of} if known else set()
    laid = [one for one in _laid(plan) if one.element not in old]
    cut = [_set(one, "length_m", round(one.wire.length_m * size, 3)) for one in laid if size != 1]
    shorter = apply_edits(plan, cut) if cut else plan
    case = solve_plan(shorter)
    now = [one for one in _laid(shorter) if one.element not in old]
    thick = [_set(one, "gauge_awg", gauge) for one in now if (gauge := _gauge(case, one)) != one.wire.gauge_awg]
    return (*cut, *thick)


def _set(one: _Laid, field: str, value: float) -> Edit:
    return SetValue(element=one.element, field=f"{one.field}.{field}", value=value)


def _gauge(case: SolvedPlan, one: _Laid) -> int:
    plan = case.plan
    volts = max(s.volts_v for s in case.rail(one.rail).states.values()) if one.rail else plan.pack.rest_v("nominal")
    carried = [Duty(duty.amps_a * RESERVE, duty.held_s) for duty in duties(case, one.key)]
    found = enough(plan, one.wire, carried, volts, one.owner, at_pack=one.at_pack)
    least = 40 if plan.pack.series == 1 else LEAST_AWG["device" if one.owner in plan.device_of else "board"]
    return min(found.gauge_awg, least) if found else THICKEST_AWG


def _laid(plan: Plan) -> Iterator[_Laid]:
    """Every wire that a builder lays; not cables with a plug, whose gauge is given."""
    for one in _all(plan):
        if not one.wire.joined and (not one.wire.connector or one.at_pack) and _is_wire(plan, one.owner):
            yield one


def _is_wire(plan: Plan, owner: str) -> bool:
    device = plan.device_of.get(owner)
    return device is None or device.kind != "logic"


def _all(plan: Plan) -> Iterator[_Laid]:
    yield _Laid("pack", "lead", LEAD_KEY, plan.pack.lead, "pack", at_pack=True)
    for supply in plan.supplies:
        if supply.feed:
            key = link_key(supply) if isinstance(supply, Link) else feed_key(supply.id)
            yield _Laid(supply.id, "feed", key, supply.feed, supply.id, supply.output)
    for device in plan.devices:
        if device.feed:
            yield _Laid(device.id, "feed.wire", feed_key(device.id), device.feed.wire, device.id, device.feed.rail)
    for owner in plan.owners:
        feed = plan.device_of[owner.id].feed if owner.id in plan.device_of else None
        for back in owner.returns:
            rail = feed.rail if feed else None
            yield _Laid(back.id, "wire", return_key(back.id), back.wire, owner.id, rail, back.to == "pack")
