"""`load.` rules: amps asked against amps a rail, pad or port can give."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.answers.limits import pad_limit_a
from yardmeter.core.answers.model import RailState
from yardmeter.core.checks.finding import Finding, Fix, Severity, number
from yardmeter.core.checks.places import better_rails
from yardmeter.core.checks.registry import Case, rails_below, rule
from yardmeter.core.checks.relief import overload_fix
from yardmeter.core.plan import Condition, Device, Link, Rail, Regulator, Strap, rail_title
from yardmeter.core.plan.boards import Pad
from yardmeter.core.plan.operations import Move
from yardmeter.core.units import format_si


def _states(case: Case, rail: Rail) -> list[tuple[Condition, RailState]]:
    return [(c, case.rail(rail.id).states[c.id]) for c in case.plan.conditions]


def _hanging(case: Case, rail_id: str) -> list[Device]:
    """Every device that hangs on this rail, directly or through further supplies."""
    below = rails_below(case.plan, {rail_id})
    return [d for d in case.plan.devices if d.feed and d.feed.rail in below]


@rule("load.over", sense="at most")
def over_rating(case: Case) -> Iterator[Finding]:
    """A rail asked for more than its usable rating."""
    for rail in case.plan.rails:
        over = [
            (s.asked_a / s.usable_a, c, s)
            for c, s in _states(case, rail)
            if s.limits and s.asked_a > s.usable_a * (1 + 1e-6)
        ]
        over = [item for item in over if not _port(case, rail, item[1])]
        if over:
            # The flight is worse than the bench, however far the bench is over.
            _, worst, state = max(over, key=lambda item: (item[1].on_pack, item[0]))
            yield _overload(case, "load.over", rail, [c for _, c, _ in over], worst, state)


@rule("load.usb", sense="at most")
def over_port(case: Case) -> Iterator[Finding]:
    """A USB port or bench supply asked for more than it gives."""
    for rail in case.plan.rails:
        over = [
            (s.asked_a, c, s)
            for c, s in _states(case, rail)
            if s.asked_a > s.usable_a * (1 + 1e-6) and _port(case, rail, c)
        ]
        if over:
            _, worst, state = max(over, key=lambda item: item[0])
            yield _overload(case, "load.usb", rail, [c for _, c, _ in over], worst, state)


def _port(case: Case, rail: Rail, condition: Condition) -> bool:
    return any(i.rail == rail.id and i.id in condition.energy for i in case.plan.inlets)


def _cut(state: RailState) -> bool:
    """Whether supplies cut off, so that less is given than asked."""
    return state.given_a < state.asked_a * 0.98


def _overload(
    case: Case, code: str, rail: Rail, conditions: list[Condition], worst: Condition, state: RailState
) -> Finding:
    cut = _cut(state)
    hanging = _hanging(case, rail.id)
    resets = [d for d in hanging if case.device(d.id).states[worst.id].verdict in ("reset", "dead")]
    control = any(d.keeps_control for d in hanging)
    by_condition: dict[str, Severity] = {}
    for condition in conditions:
        falls = control and condition.throttle_frac > 0 and _cut(case.rail(rail.id).states[condition.id])
        by_condition[condition.id] = "danger" if falls else "fault"
    severity: Severity = "danger" if "danger" in by_condition.values() else "fault"
    cause = f"Usable is {min(state.limits, key=lambda limit: limit.amps_a).reason}."
    if cut:
        cause += f" Past its limit the supply cuts off and the rail falls to {format_si(state.volts_v, 'V')}"
        cause += f": {', '.join(d.name for d in resets)} reset." if resets else "."
    elif code == "load.over":
        cause += " It overheats, and may fail short and hand its input on."
    return Finding(
        severity=severity,
        conditions=tuple(c.id for c in conditions),
        worst=worst.id,
        elements=(rail.id,),
        title=f"{rail_title(rail.name)}: {format_si(state.asked_a, 'A')} asked, {format_si(state.usable_a, 'A')} usable",
        cause=cause,
        remedy=_remedy(state)
        if code == "load.over"
        else "Work on the bench with fewer loads on, or use a port that gives more.",
        numbers=(
            number("asked", state.asked_a, "A"),
            number("usable", state.usable_a, "A"),
            number("short by", -state.spare_a, "A"),
        ),
        fixes=tuple(_relief(case, rail, worst)) if code == "load.over" else (),
        by_condition=by_condition,
    )


def _remedy(state: RailState) -> str:
    movable = [w for w in state.wagons if w.kind == "device"]
    if not movable:
        return "Cut the load or fit a larger supply."
    return f"Move {movable[0].name} ({format_si(movable[0].asked_a, 'A')}) elsewhere, or fit a larger supply."


def _relief(case: Case, rail: Rail, condition: Condition) -> Iterator[Fix]:
    """A regulator of their own for the biggest consumers, and the first move of one that is enough, to a rail with room."""
    own = overload_fix(case, rail, condition.id)
    if own:
        yield own
    state = case.rail(rail.id).states[condition.id]
    over = state.asked_a > state.usable_a
    wanted_a = state.usable_a * (1.0 if over else 1 - case.plan.policy.thin_margin_frac)
    for wagon in state.wagons:
        device = case.plan.device_of.get(wagon.id)
        enough = state.asked_a - wagon.asked_a <= wanted_a
        targets = better_rails(case, device, leaving=rail.id) if device and enough else []
        if targets:
            yield Fix(title=f"{wagon.name} → {targets[0].name}", edits=(Move(device=wagon.id, rail=targets[0].id),))
            return


@rule("load.thin", sense="at least")
def thin_margin(case: Case) -> Iterator[Finding]:
    """A rail whose spare amps are a small share of its usable rating."""
    frac = case.plan.policy.thin_margin_frac
    for rail in case.plan.rails:
        states = [(c, s) for c, s in _states(case, rail) if s.limits]
        if any(s.asked_a > s.usable_a * (1 + 1e-6) for _, s in states):
            continue
        thin = [
            (s.spare_a / s.usable_a, c, s)
            for c, s in states
            if s.usable_a > 0 and 0 <= s.spare_a < frac * s.usable_a and not _held_briefly(c, s)
        ]
        if thin:
            _, worst, state = min(thin, key=lambda item: item[0])
            yield Finding(
                severity="caution",
                conditions=tuple(c.id for _, c, _ in thin),
                worst=worst.id,
                elements=(rail.id,),
                title=f"{rail_title(rail.name)}: only {format_si(state.spare_a, 'A')} spare of {format_si(state.usable_a, 'A')}",
                cause=f"Usable is {min(state.limits, key=lambda limit: limit.amps_a).reason}. Draws are known to a few tens of percent at best.",
                remedy="Measure the biggest draws, or move one of them.",
                numbers=(number("spare", state.spare_a, "A"), number("wanted", frac * state.usable_a, "A")),
                fixes=tuple(_relief(case, rail, worst)),
            )


def _held_briefly(condition: Condition, state: RailState) -> bool:
    """A punch against a wire's or connector's short-time limit: that limit has its reserve built in."""
    return condition.is_punch and min(state.limits, key=lambda limit: limit.amps_a).kind in ("wire", "connector")


@rule("load.pad", sense="at most")
def pad_limit(case: Case) -> Iterator[Finding]:
    """Everything soldered to one pad against the pad's own limit or the copper behind it."""
    for rail in case.plan.rails:
        for pad in rail.pads:
            bound = pad_limit_a(pad)
            fed = [d for d in case.plan.devices if d.feed and d.feed.pad == pad.id]
            if bound is None or not fed:
                continue
            sums = [(sum(case.device(d.id).states[c.id].asked_a for d in fed), c) for c in case.plan.conditions]
            amps, worst = max(sums, key=lambda item: item[0])
            if amps > bound[0]:
                yield Finding(
                    severity="fault",
                    conditions=tuple(c.id for total, c in sums if total > bound[0]),
                    worst=worst.id,
                    elements=(pad.id, *(d.id for d in fed)),
                    title=f"Pad {pad.label} of {rail.name}: {format_si(amps, 'A')} through {format_si(bound[0], 'A')}",
                    cause=f"{bound[1]}; {', '.join(d.name for d in fed)} hang on it.",
                    remedy="Spread them over the other pads of the rail.",
                    numbers=(number("through the pad", amps, "A"), number("limit", bound[0], "A")),
                    fixes=tuple(_spread_over_pads(case, rail, pad, fed)),
                )


def _spread_over_pads(case: Case, rail: Rail, pad: Pad, fed: list[Device]) -> Iterator[Fix]:
    """The largest device that another pad still holds, to each pad that does."""
    for device in sorted(fed, key=lambda d: -max(s.asked_a for _, s in case.device_states(d))):
        holding = [
            one for one in rail.pads if one.id != pad.id and one.direction == "out" and _holds(case, one, device)
        ]
        if holding:
            for one in holding:
                edits = (Move(device=device.id, rail=rail.id, pad=one.id, with_return=False),)
                yield Fix(title=f"{device.name} → pad {one.label}", edits=edits)
            return


def _holds(case: Case, pad: Pad, more: Device) -> bool:
    """Whether a pad stands what hangs on it and this device beside, in every condition."""
    bound = pad_limit_a(pad)
    on_it = [d for d in case.plan.devices if d.feed and d.feed.pad == pad.id]
    sums = (sum(case.device(d.id).states[c.id].asked_a for d in (*on_it, more)) for c in case.plan.conditions)
    return bound is None or max(sums) <= bound[0]


@rule("load.inrush", sense="at most")
def inrush(case: Case) -> Iterator[Finding]:
    """Input capacitance a regulator or port must charge before its rail stands, at the current its load leaves over."""
    for rail in case.plan.rails:
        farads = sum(d.input_f for d in case.plan.devices if d.feed and d.feed.rail == rail.id)
        for supply in case.plan.supplies_into(rail.id):
            if not isinstance(supply, Regulator) or farads <= 0:
                continue
            idle = (
                min(case.rail(rail.id).states[c.id].asked_a for c in case.pack_conditions())
                if case.pack_conditions()
                else 0.0
            )
            left = supply.limit_a - idle
            start_s = farads * supply.set_v / left if left > 0 else 1e9
            if start_s > 0.05:
                yield Finding(
                    severity="caution",
                    conditions=(),
                    worst=None,
                    elements=(supply.id,),
                    title=f"{supply.name} has {format_si(max(left, 0), 'A')} left to charge {format_si(farads, 'F')}",
                    cause="While it charges the capacitors it sits at its limit; many regulators then give up and try again for ever.",
                    remedy="Switch loads on later, or fit a larger regulator.",
                    numbers=(number("time to charge", min(start_s, 1e6), "s"), number("wanted", 0.05, "s")),
                )


@rule("load.collapse", sense="at least")
def collapse(case: Case) -> Iterator[Finding]:
    """A condition without an operating point: the wires cannot carry the power asked for."""
    for head in case.budget.conditions:
        if head.load_factor is None or head.collapse_rail is None:
            continue
        rail = case.plan.rail_of[head.collapse_rail]
        yield Finding(
            severity="danger",
            conditions=(head.id,),
            worst=head.id,
            elements=(rail.id,),
            title=f"{rail.name} collapses at {head.load_factor:.0%} of the load",
            cause="Constant-power loads draw more amps as the volts fall; through this resistance there is no voltage at which both agree (no solution above V²/4R).",
            remedy="Shorten or thicken the feed, or cut the load behind it.",
            numbers=(number("load that still works", head.load_factor * 100, "%"), number("load asked", 100.0, "%")),
        )


@rule("load.rating", sense="at most")
def wire_rating(case: Case) -> Iterator[Finding]:
    """A link or strap that carries more than it is rated for, where its rail does not already say so."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Link | Strap) or not supply.rating_a:
            continue
        amps, worst = max((abs(case.supply(supply.id).states[c.id].asked_a), c.id) for c in case.plan.conditions)
        if amps > supply.rating_a and len(case.plan.supplies_into(supply.output)) != 1:
            yield Finding(
                severity="fault",
                conditions=(worst,),
                worst=worst,
                elements=(supply.id,),
                title=f"{supply.name} carries {format_si(amps, 'A')}, rated {format_si(supply.rating_a, 'A')}",
                cause="Contacts and copper of this connection are made for less.",
                remedy="Use a second wire or connector, or move a load.",
                numbers=(number("carried", amps, "A"), number("rated", supply.rating_a, "A")),
            )
