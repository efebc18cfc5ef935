"""`window.` rules: volts at pins and regulator inputs against what they are allowed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial

from yardmeter.core.answers.model import DeviceState
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.answers.windows import MARGIN_FRAC
from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.relief import feed_fixes, move_fixes
from yardmeter.core.checks.stouter import stiffer_fixes
from yardmeter.core.elements.load import over_volts
from yardmeter.core.elements.wire import ROUNDING
from yardmeter.core.graph import graph_of
from yardmeter.core.physics.pack import CELL_STATE_V
from yardmeter.core.plan import Device, Regulator
from yardmeter.core.verdict import Comparison, Facts, Fix, Verdict, always, under

LANDING_FRAC = 0.6
"""Where pilots land between an empty cell (0) and a low one (1); our choice."""


@dataclass(frozen=True)
class OverVoltage(Facts):
    by_the_pack: bool
    """Whether it is the pack's own volts, nearly, that it gets."""


@rule("window.over", OverVoltage, sense="at most")
def over_voltage(case: SolvedPlan) -> Iterator[Verdict]:
    """Against the full pack, whether or not a condition uses it: the label's volts are the nominal ones."""
    for device in case.plan.devices:
        seen = {c.id: s.pin_v for c, s in case.device_states(device)}
        highest = case.most_pin_v(device)
        if not over_volts(highest, device.max_v):
            continue
        facts = OverVoltage(highest > 0.9 * case.plan.pack.rest_v("full"))
        yield _destroyed(
            {c: v for c, v in seen.items() if over_volts(v, device.max_v)},
            device.id,
            highest,
            device.max_v,
            facts,
            case,
            device,
        )


def _destroyed(
    over: dict[str, float], element: str, highest: float, maximum: float, facts: Facts, case: SolvedPlan, device: Device | None
) -> Verdict:  # fmt: skip
    fixes = move_fixes(case, device) if device else ()
    if not over:
        return always("danger", (element,), Comparison(highest, maximum, "V"), facts, fixes)
    worst = max(over, key=lambda c: over[c])
    return under(dict.fromkeys(over, "danger"), worst, (element,), Comparison(over[worst], maximum, "V"), facts, fixes)


@dataclass(frozen=True)
class NearMaximum(Facts):
    maximum_v: float


@rule("window.margin", NearMaximum, sense="at most")
def near_maximum(case: SolvedPlan) -> Iterator[Verdict]:
    """What follows the pack's volts and stays under its maximum by less than plug and braking usually take."""
    plan, graph = case.plan, graph_of(case.plan)
    room = 1 - plan.policy.over_voltage_frac
    for device in plan.devices:
        # A motor hangs on its ESC, whose own maximum counts.
        if device.feed is None or device.kind == "motor" or not graph.follows_the_pack(device.feed.rail):
            continue
        seen = {c.id: s.pin_v for c, s in case.device_states(device)}
        yield from _near(
            seen, case.most_pin_v(device), device.id, device.max_v, room, partial(move_fixes, case, device)
        )
    for supply in plan.supplies:
        rail = graph.feeding_rail(supply.input)
        if isinstance(supply, Regulator) and rail and graph.follows_the_pack(rail):
            seen = {c.id: s.in_v for c, s in case.supply_states(supply)}
            elsewhere = partial(feed_fixes, case, supply)
            yield from _near(seen, case.most_in_v(supply), supply.id, supply.input_max_v, room, elsewhere)


def _near(
    seen: dict[str, float],
    highest: float,
    element: str,
    maximum: float,
    room: float,
    fixes: Callable[[], Iterable[Fix]],
) -> Iterator[Verdict]:
    if not maximum * room < highest <= maximum * (1 + ROUNDING):
        return
    compared, facts = Comparison(highest, maximum * room, "V"), NearMaximum(maximum)
    near = {c: v for c, v in seen.items() if v > maximum * room}
    if near:
        worst = max(near, key=lambda c: near[c])
        yield under(dict.fromkeys(near, "caution"), worst, (element,), compared, facts, tuple(fixes()))
    else:
        yield always("caution", (element,), compared, facts, tuple(fixes()))


@dataclass(frozen=True)
class UnderVoltage(Facts):
    resets: bool


@rule("window.under", UnderVoltage, sense="at least")
def under_voltage(case: SolvedPlan) -> Iterator[Verdict]:
    """A fed device whose pins fall below its window or its brown-out voltage."""
    for device in case.plan.devices:
        # What an overloaded supply does to its devices is told by the overload's own finding.
        bad = {
            c.id: s
            for c, s in case.device_states(device)
            if s.verdict in ("low", "reset") and not (device.feed and case.starved(device.feed.rail, c))
        }
        if not bad:
            continue
        worst = min(bad, key=lambda c: bad[c].pin_v)
        resets = any(s.verdict == "reset" for s in bad.values())
        yield under(
            {c: s.weight for c, s in bad.items() if s.weight},
            worst,
            (device.id,),
            Comparison(bad[worst].pin_v, device.reset_v if resets else device.min_v, "V"),
            UnderVoltage(resets),
            (*_along_its_wires(device, bad), *move_fixes(case, device)),
        )


def _along_its_wires(device: Device, bad: Mapping[str, DeviceState]) -> Iterator[Fix]:
    """Thicker wires where as much as is missing falls along its own."""
    if any(0 < device.min_v - one.pin_v < one.drop_v for one in bad.values()):
        yield from stiffer_fixes(device, device.returns[:1], feed=True)


@dataclass(frozen=True)
class NearMinimum(Facts):
    minimum_v: float


@rule("window.thin", NearMinimum, sense="at least")
def near_minimum(case: SolvedPlan) -> Iterator[Verdict]:
    """On the pack, volts that are in the window and less above its low end than a set point may be off."""
    for device in case.plan.devices:
        on_pack = {c.id: s for c, s in case.device_states(device) if c.on_pack}
        if any(s.verdict in ("low", "reset", "dead") for s in on_pack.values()):
            continue
        good_v = device.min_v * (1 + MARGIN_FRAC)
        near = {c: s.pin_v for c, s in on_pack.items() if s.verdict == "ok" and s.pin_v < good_v * (1 - ROUNDING)}
        if near and not device.throttle:
            worst = min(near, key=lambda c: near[c])
            compared, facts = Comparison(near[worst], good_v, "V"), NearMinimum(device.min_v)
            yield under(dict.fromkeys(near, "caution"), worst, (device.id,), compared, facts, move_fixes(case, device))


@dataclass(frozen=True)
class InputOver(Facts):
    pass


@rule("window.input", InputOver, sense="at most")
def regulator_input(case: SolvedPlan) -> Iterator[Verdict]:
    """A regulator's input against its maximum, at the full pack."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        seen = {c.id: s.in_v for c, s in case.supply_states(supply)}
        highest = case.most_in_v(supply)
        if over_volts(highest, supply.input_max_v):
            over = {c: v for c, v in seen.items() if over_volts(v, supply.input_max_v)}
            yield _destroyed(over, supply.id, highest, supply.input_max_v, InputOver(), case, None)


@dataclass(frozen=True)
class ResetsOnTheWay(Facts):
    pass


@rule("window.floor", ResetsOnTheWay, sense="at most")
def brown_out_on_the_way_down(case: SolvedPlan) -> Iterator[Verdict]:
    """A device that resets at a cell voltage above the landing line, though every condition is met."""
    cell = CELL_STATE_V[case.plan.pack.chemistry]
    line_v = cell["floor"] + (cell["low"] - cell["floor"]) * LANDING_FRAC
    for event in case.windows.events:
        if event.kind != "resets" or event.cell_v < line_v:
            continue
        device = case.plan.device_of[event.element]
        if any(state.verdict in ("low", "reset", "high") for _, state in case.device_states(device)):
            continue
        yield under(
            dict.fromkeys(event.conditions, "caution"),
            event.conditions[0],
            (device.id,),
            Comparison(event.cell_v, line_v, "V"),
            ResetsOnTheWay(),
            move_fixes(case, device),
        )
