"""`source.` rules: nothing, too much or backwards."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.relief import feed_fixes, leave_out_fixes, move_fixes, source_fixes
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.graph import graph_of
from yardmeter.core.network.build import Situation, own_cells_v
from yardmeter.core.network.keys import link_key
from yardmeter.core.physics.pack import charge_left_frac
from yardmeter.core.plan import Condition, Inlet, Link, Plan, Regulator, Strap
from yardmeter.core.plan.operations import Remove, SetValue
from yardmeter.core.plan.sources import Cells
from yardmeter.core.verdict import Comparison, Facts, Fix, Severity, Verdict, always, under

MANY = 20
"""Dead devices from which it is their rail that wants a source, not each of them another one; our choice."""
POWERED_V = 0.5
SAME_FRAC = 0.02
"""Cells that last as long as the pack but for this are as good as that."""
GIVES_A = 1e-3


@dataclass(frozen=True)
class NoSource(Facts):
    fed: bool
    works_in: str | None
    """A condition without the pack in which it has a source."""


@rule("source.none", NoSource, sense="at least")
def no_source(case: SolvedPlan) -> Iterator[Verdict]:
    """A device that is switched on but gets nothing in a condition with the pack connected."""
    lost = {
        device.id: dead
        for device in case.plan.devices
        if (
            dead := [
                c.id
                for c, state in case.device_states(device)
                if state.verdict == "dead" and c.on_pack and not (device.feed and case.starved(device.feed.rail, c))
            ]
        )
    }
    for name, dead in lost.items():
        device = case.plan.device_of[name]
        states = case.device(name).states
        usb = next((c.id for c, state in case.device_states(device) if not c.on_pack and state.sources), None)
        yield under(
            {c: weight for c in dead if (weight := states[c].weight)},
            dead[0],
            (name,),
            Comparison(max(0.0, *(states[c].pin_v for c in dead)), device.min_v, "V"),
            NoSource(device.feed is not None, usb),
            (*source_fixes(case, device), *move_fixes(case, device)) if len(lost) <= MANY else (),
        )


@dataclass(frozen=True)
class LimiterLit(Facts):
    lamp: bool
    pack_v: float
    """What is left for the craft."""


@rule("source.limiter", LimiterLit, sense="at most")
def limiter_lit(case: SolvedPlan) -> Iterator[Verdict]:
    """A fuse or lamp at first power that holds the craft back though nothing is wrong with it: more is asked than it lets through."""
    state_of = case.rail(case.plan.pack.rail).states
    for inlet in case.plan.inlets:
        if not inlet.in_line:
            continue
        mine = {c: (s, one) for c, s in state_of.items() for one in s.limits if one.kind == "limiter" and one.element == inlet.id and exceeds(s.asked_a, one.amps_a)}  # fmt: skip
        if mine:
            worst = max(mine, key=lambda c: mine[c][0].asked_a)
            state, limit = mine[worst]
            compared = Comparison(state.asked_a, limit.amps_a, "A")
            facts = LimiterLit(inlet.kind == "lamp", state.volts_v)
            pack = case.plan.rail_of[case.plan.pack.rail]
            fixes = tuple(leave_out_fixes(case, pack, worst, limit.amps_a))
            yield under(dict.fromkeys(mine, "caution"), worst, (inlet.id,), compared, facts, fixes)


@dataclass(frozen=True)
class EmptyFirst(Facts):
    pass


@rule("source.empty_first", EmptyFirst, sense="at least")
def empty_first(case: SolvedPlan) -> Iterator[Verdict]:
    """A cell of its own that is empty before the pack is, at what both give in flight; of what has no motors, whenever it is on."""
    flown = [one for one in case.budget.conditions if case.plan.condition(one.id).throttle_frac > 0]
    for inlet in case.plan.inlets:
        if inlet.cells is None:
            continue
        short: dict[str, tuple[float, float]] = {}
        for head in flown or case.budget.conditions:
            if head.minutes is None or head.charge_left_frac is None:
                continue
            lasts = own_minutes(case, inlet, inlet.cells, case.plan.condition(head.id))
            if lasts is not None and lasts < head.minutes * (1 - SAME_FRAC):
                short[head.id] = lasts, head.minutes
        if short:
            worst = min(short, key=lambda c: short[c][0] / short[c][1])
            lasts, wanted = short[worst]
            yield under(
                dict.fromkeys(short, "caution"),
                worst,
                (inlet.id,),
                Comparison(lasts * 60, wanted * 60, "s"),
                EmptyFirst(),
            )


def own_minutes(case: SolvedPlan, inlet: Inlet, cells: Cells, condition: Condition) -> float | None:
    """How long a cell of its own lasts from where it stands in a condition, at what it gives there [min]; None where it gives nothing."""
    amps = case.solved.given[condition.id].inlet_a(inlet.id)
    rest_v = own_cells_v(case.plan, cells, Situation(condition)) / cells.series
    return charge_left_frac(cells.chemistry, rest_v) * cells.capacity_ah / amps * 60 if amps > GIVES_A else None


@dataclass(frozen=True)
class SeveralSources(Facts):
    shares: tuple[tuple[str, float], ...]
    """Each regulator with its share of the net's current in the worst condition."""
    spread_v: float
    """How far set points may lie apart."""


@rule("source.several", SeveralSources, sense="at most")
def several_sources(case: SolvedPlan) -> Iterator[Verdict]:
    """Two regulators tied to one net without diodes. The plan's paralleling policy decides how bad that is."""
    plan = case.plan
    for net in graph_of(plan).nets:
        tied = [s for s in plan.supplies if isinstance(s, Regulator) and s.output in net]
        powered = [
            c.id
            for c in plan.conditions
            if sum(case.supply(s.id).states[c.id].in_v > max(s.stop_v, POWERED_V) for s in tied) > 1
        ]
        if len(tied) < 2 or not powered:
            continue
        worst = max(powered, key=lambda c: sum(case.supply(s.id).states[c].out_a for s in tied))
        spread = max(s.set_v * (1 + s.set_tol_frac) for s in tied) - min(s.set_v * (1 - s.set_tol_frac) for s in tied)
        yield under(
            dict.fromkeys(powered, _tied_weight(plan, tied)),
            worst,
            tuple(s.id for s in tied),
            Comparison(len(tied), 1, ""),
            SeveralSources(_shares(case, tied, worst), spread),
            tuple(_lift(plan, net, tied)),
        )


def _tied_weight(plan: Plan, tied: list[Regulator]) -> Severity:
    switching = sum(s.switching for s in tied)
    if plan.policy.paralleling == "any" or (plan.policy.paralleling == "linear" and not switching):
        return "note"
    return "danger" if switching > 1 else "fault"


def _shares(case: SolvedPlan, tied: list[Regulator], condition: str) -> tuple[tuple[str, float], ...]:
    amps = {s.id: max(case.supply(s.id).states[condition].out_a, 0.0) for s in tied}
    total = sum(amps.values())
    return tuple((name, a / total if total > 1e-6 else 0.0) for name, a in amps.items())


def _lift(plan: Plan, net: frozenset[str], tied: list[Regulator]) -> Iterator[Fix]:
    links = [s for s in plan.supplies if isinstance(s, Link) and s.input in net and s.output in net]
    extra = [link for link in links if any(s.output == link.input for s in tied) and link.input != plan.pack.rail]
    keep = 0 if any(s.output not in {link.input for link in extra} for s in tied) else 1
    if extra[keep:]:
        yield Fix("lift", tuple(Remove(element=link.id) for link in extra[keep:]))
    direct: dict[str, list[Regulator]] = {}
    for supply in tied:
        direct.setdefault(supply.output, []).append(supply)
    for group in direct.values():
        if len(group) > 1:
            best = max(group, key=lambda s: s.rating_a)
            yield Fix("keep one", tuple(Remove(element=s.id) for s in group if s is not best))


@dataclass(frozen=True)
class BackFeed(Facts):
    pass


@rule("source.backfeed", BackFeed, sense="at most")
def back_feed(case: SolvedPlan) -> Iterator[Verdict]:
    """Current that enters a supply at its output. A wire has no backwards of its own: a port that feeds what lies beyond it, the
    pack out, is as it is meant."""
    flows: dict[str, dict[str, float]] = {}
    for head in case.budget.conditions:
        for flow in head.back_flows:
            if isinstance(case.plan.supply_of[flow.supply], Link) and not case.plan.condition(head.id).on_pack:
                continue
            most = flows.setdefault(flow.supply, {})
            most[head.id] = max(flow.amps_a, most.get(head.id, 0.0))
    for name, amps in flows.items():
        supply = case.plan.supply_of[name]
        if isinstance(supply, Strap) and len(supply.selected) > 1:
            continue  # a bridged strap is its own finding
        worst = max(amps, key=lambda c: amps[c])
        yield under(
            dict.fromkeys(amps, "fault" if isinstance(supply, Regulator) else "caution"),
            worst,
            (name,),
            Comparison(amps[worst], 0.0, "A"),
            BackFeed(),
            (Fix("lift", (Remove(element=name),)),) if isinstance(supply, Link) else (),
        )


@dataclass(frozen=True)
class Latched(Facts):
    limit_a: float


@rule("source.latch", Latched, sense="at least")
def latched(case: SolvedPlan) -> Iterator[Verdict]:
    """A rail that holds its volts, and would not come back to them after a dip."""
    for supply in case.plan.supplies:
        mine = {one.condition: one for one in case.latches if one.supply == supply.id}
        if not mine:
            continue
        worst = min(mine.values(), key=lambda one: one.stays_v / one.holds_v)
        compared = Comparison(worst.stays_v, worst.holds_v, "V")
        fed = [s for s in case.plan.supplies_from(supply.output) if isinstance(s, Regulator)]
        fixes = tuple(fix for one in fed for fix in feed_fixes(case, one))
        yield under(
            dict.fromkeys(mine, "caution"), worst.condition, (supply.id,), compared, Latched(worst.limit_a), fixes
        )


@dataclass(frozen=True)
class Bridged(Facts):
    amps_a: float
    volts_v: float


@rule("source.strap", Bridged, sense="at most")
def strap_bridged(case: SolvedPlan) -> Iterator[Verdict]:
    """A strap that bridges all its pads: a dead short between its choices."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Strap) or len(supply.selected) < 2:
            continue
        amps = {
            c.id: max(
                abs(case.solved.asked[c.id].conductor_a(link_key(supply, k))) for k in range(len(supply.selected))
            )
            for c in case.plan.conditions
        }
        worst = max(amps, key=lambda c: (amps[c], c))
        volts = max(s.volts_v for s in case.rail(supply.output).states.values())
        fixes = (Fix("bridge", (SetValue(element=supply.id, field="selected", value=[one]),)) for one in supply.choices)
        compared = Comparison(len(supply.selected), 1, "")
        yield always("danger", (supply.id,), compared, Bridged(amps[worst], volts), tuple(fixes), worst=worst)


@dataclass(frozen=True)
class Cascade(Facts):
    feeding: tuple[str, ...]
    least_headroom_v: float


@rule("source.cascade", Cascade, sense="at most")
def cascade(case: SolvedPlan) -> Iterator[Verdict]:
    """A regulator fed by a regulator, where the plan's school calls that a no-no."""
    if case.plan.policy.cascade != "never":
        return
    for supply in case.plan.supplies:
        feeding = tuple(s.id for s in case.plan.supplies_into(supply.input) if isinstance(s, Regulator))
        if not isinstance(supply, Regulator) or not feeding:
            continue
        states = case.supply(supply.id).states
        least = min((s.headroom_v for s in states.values() if s.headroom_v is not None), default=0.0)
        yield always("caution", (supply.id,), Comparison(2, 1, ""), Cascade(feeding, least))
