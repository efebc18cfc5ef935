"""`load.` rules: amps asked against amps a rail, pad or port can give."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from yardmeter.core.answers.limits import pad_limit
from yardmeter.core.answers.model import Limit, RailState
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.relief import feed_fixes, leave_out_fixes, relief_fixes
from yardmeter.core.checks.stouter import lead_fixes
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Condition, Device, Link, Pad, Rail, Regulator, Strap
from yardmeter.core.plan.operations import Move
from yardmeter.core.verdict import Comparison, Facts, Fix, Severity, Verdict, always, under

CUT_FRAC = 0.98
"""Share of what is asked below which what is given shows that a supply cuts off; our choice."""
CHARGE_S = 0.05
"""Time a regulator may sit at its limit to charge its rail [s]; many give up after some tens of milliseconds; common practice, no source."""


def binding(state: RailState) -> Limit:
    """The least of a rail's limits: the one that counts."""
    return min(state.limits, key=lambda limit: limit.amps_a)


def _states(case: SolvedPlan, rail: Rail) -> list[tuple[Condition, RailState]]:
    return [(c, case.rail(rail.id).states[c.id]) for c in case.plan.conditions]


@dataclass(frozen=True)
class Overload(Facts):
    limit: Limit
    hard_a: float
    cut: bool
    """Whether the supply cuts off, so that less is given than asked."""
    volts_v: float
    resets: tuple[str, ...]
    over_usable_only: bool
    """Over what counts as usable, and under the print, the trip temperature and every wire."""
    movable: str | None
    movable_a: float


@rule("load.over", Overload, sense="at most")
def over_rating(case: SolvedPlan) -> Iterator[Verdict]:
    """A rail asked for more than its usable rating."""
    for rail in case.plan.rails:
        over = {
            c: s
            for c, s in _over_in(case, rail).items()
            if not _port(case, rail, case.plan.condition(c)) and binding(s).kind != "limiter"
        }
        if over:
            # The flight is worse than the bench, however far the bench is over.
            worst = max(
                over, key=lambda c: (case.plan.condition(c).on_pack, over[c].asked_a / max(over[c].usable_a, 1e-9))
            )
            yield _overload(
                case,
                rail,
                over,
                worst,
                (*lead_fixes(case, rail, worst), *relief_fixes(case, rail, worst), *_fed_elsewhere(case, rail)),
            )


def _fed_elsewhere(case: SolvedPlan, rail: Rail) -> Iterator[Fix]:
    """Regulators that hang on an overloaded rail, each fed from another."""
    if rail.id != case.plan.pack.rail:
        for supply in case.plan.supplies_from(rail.id):
            if isinstance(supply, Regulator):
                yield from feed_fixes(case, supply)


@rule("load.usb", Overload, sense="at most")
def over_port(case: SolvedPlan) -> Iterator[Verdict]:
    """A USB port or bench supply asked for more than it gives."""
    for rail in case.plan.rails:
        over = {c: s for c, s in _over_in(case, rail).items() if _port(case, rail, case.plan.condition(c))}
        if over:
            worst = max(over, key=lambda c: over[c].asked_a)
            yield _overload(case, rail, over, worst, tuple(leave_out_fixes(case, rail, worst, over[worst].usable_a)))


def _over_in(case: SolvedPlan, rail: Rail) -> dict[str, RailState]:
    return {c.id: s for c, s in _states(case, rail) if s.over}


def _port(case: SolvedPlan, rail: Rail, condition: Condition) -> bool:
    return any(i.rail == rail.id and i.id in condition.energy and i.is_port for i in case.plan.inlets)


def _cut(state: RailState) -> bool:
    return state.given_a < state.asked_a * CUT_FRAC


def _overload(
    case: SolvedPlan, rail: Rail, over: Mapping[str, RailState], worst: str, fixes: tuple[Fix, ...]
) -> Verdict:
    below = graph_of(case.plan).rails_below({rail.id})
    hanging = [d for d in case.plan.devices if d.feed and d.feed.rail in below]
    control = any(d.keeps_control for d in hanging)
    weights: dict[str, Severity] = {}
    for name, at in over.items():
        falls = control and case.plan.condition(name).throttle_frac > 0 and _cut(at)
        hard = exceeds(at.asked_a, at.hard_a) or _cut(at)
        weights[name] = "danger" if falls else "fault" if hard else "caution"
    state = over[worst]
    movable = next((one for one in state.consumers if one.kind == "device"), None)
    resets = tuple(d.id for d in hanging if case.device(d.id).states[worst].verdict in ("reset", "dead"))
    facts = Overload(
        binding(state), state.hard_a, _cut(state), state.volts_v, resets, not exceeds(state.asked_a, state.hard_a), movable.id if movable else None, movable.asked_a if movable else 0.0
    )  # fmt: skip
    return under(weights, worst, (rail.id,), Comparison(state.asked_a, state.usable_a, "A"), facts, fixes)


@dataclass(frozen=True)
class ThinMargin(Facts):
    limit: Limit
    usable_a: float


@rule("load.thin", ThinMargin, sense="at least")
def thin_margin(case: SolvedPlan) -> Iterator[Verdict]:
    """A rail whose spare amps are a small share of its usable rating."""
    frac = case.plan.policy.thin_margin_frac
    for rail in case.plan.rails:
        states = [(c, s) for c, s in _states(case, rail) if s.limits]
        if any(s.over for _, s in states):
            continue
        thin = {
            c.id: s
            for c, s in states
            if s.usable_a > 0 and s.own_spare_a < frac * s.usable_a and not _held_briefly(c, s)
        }
        if thin:
            worst = min(thin, key=lambda c: thin[c].own_spare_a / thin[c].usable_a)
            state = thin[worst]
            yield under(
                dict.fromkeys(thin, "caution"),
                worst,
                (rail.id,),
                Comparison(state.own_spare_a, frac * state.usable_a, "A"),
                ThinMargin(binding(state), state.usable_a),
                tuple(relief_fixes(case, rail, worst)),
            )


def _held_briefly(condition: Condition, state: RailState) -> bool:
    """A punch against a wire's or connector's short-time limit: that limit has its reserve built in."""
    return condition.is_punch and binding(state).kind in ("wire", "connector")


@dataclass(frozen=True)
class PadOver(Facts):
    limit: Limit
    fed: tuple[str, ...]


@rule("load.pad", PadOver, sense="at most")
def pad_over(case: SolvedPlan) -> Iterator[Verdict]:
    """Everything soldered to one pad against the pad's own limit or the copper behind it."""
    for rail in case.plan.rails:
        for pad in rail.pads:
            limit = pad_limit(pad)
            fed = _on_pad(case, pad)
            if limit is None or not fed:
                continue
            sums = {c.id: _sum_a(case, fed, c) for c in case.plan.conditions}
            over: dict[str, Severity] = {c: "fault" for c, total in sums.items() if exceeds(total, limit.amps_a)}
            if over:
                worst = max(over, key=lambda c: sums[c])
                names = tuple(d.id for d in fed)
                compared = Comparison(sums[worst], limit.amps_a, "A")
                fixes = tuple(_spread_over_pads(case, rail, pad, fed))
                yield under(over, worst, (pad.id, *names), compared, PadOver(limit, names), fixes)


def _on_pad(case: SolvedPlan, pad: Pad) -> list[Device]:
    return [d for d in case.plan.devices if d.feed and d.feed.pad == pad.id]


def _sum_a(case: SolvedPlan, devices: list[Device], condition: Condition) -> float:
    return sum(case.device(d.id).states[condition.id].asked_a for d in devices)


def _spread_over_pads(case: SolvedPlan, rail: Rail, pad: Pad, fed: list[Device]) -> Iterator[Fix]:
    """The largest device that another pad still holds, to each pad that does."""
    for device in sorted(fed, key=lambda d: -max(s.asked_a for _, s in case.device_states(d))):
        others = [one for one in rail.pads if one.id != pad.id and one.direction == "out"]
        holding = [one for one in others if _holds(case, one, device)]
        if holding:
            for one in holding:
                yield Fix("pad", (Move(device=device.id, rail=rail.id, pad=one.id, with_return=False),))
            return


def _holds(case: SolvedPlan, pad: Pad, more: Device) -> bool:
    """Whether a pad stands what hangs on it and this device beside, in every condition."""
    limit = pad_limit(pad)
    together = [*_on_pad(case, pad), more]
    return limit is None or not exceeds(max(_sum_a(case, together, c) for c in case.plan.conditions), limit.amps_a)


@dataclass(frozen=True)
class Inrush(Facts):
    left_a: float
    farad: float


@rule("load.inrush", Inrush, sense="at most")
def inrush(case: SolvedPlan) -> Iterator[Verdict]:
    """Input capacitance a regulator must charge before its rail stands, at the current its load leaves over."""
    for rail in case.plan.rails:
        farad = sum(d.input_f for d in case.plan.devices_on(rail.id))
        for supply in case.plan.supplies_into(rail.id):
            if not isinstance(supply, Regulator) or farad <= 0:
                continue
            idle = min((case.rail(rail.id).states[c.id].asked_a for c in case.pack_conditions()), default=0.0)
            left = supply.limit_a - idle
            start_s = farad * supply.set_v / left if left > 0 else 1e6
            if start_s > CHARGE_S:
                compared = Comparison(min(start_s, 1e6), CHARGE_S, "s")
                yield always("caution", (supply.id,), compared, Inrush(max(left, 0.0), farad))


@dataclass(frozen=True)
class Collapsed(Facts):
    pass


@rule("load.collapse", Collapsed, sense="at least")
def collapse(case: SolvedPlan) -> Iterator[Verdict]:
    """A condition without an operating point: the wires cannot carry the power asked for."""
    stands = {h.id: (h.collapse_rail, h.load_factor) for h in case.budget.conditions if h.collapse_rail}
    for rail in dict.fromkeys(name for name, _ in stands.values() if name):
        share = {c: factor for c, (name, factor) in stands.items() if name == rail and factor is not None}
        worst = min(share, key=lambda c: share[c])
        compared = Comparison(share[worst] * 100, 100.0, "%")
        yield under(dict.fromkeys(share, "danger"), worst, (rail,), compared, Collapsed())


@dataclass(frozen=True)
class Unsolved(Facts):
    pass


@rule("load.unsolved", Unsolved, sense="at least")
def unsolved(case: SolvedPlan) -> Iterator[Verdict]:
    """A condition in which no point was found where the craft could stand: nothing is known of it."""
    lost: dict[str, list[str]] = {}
    for head in case.budget.conditions:
        if head.known or head.load_factor is not None:
            continue
        condition = case.plan.condition(head.id)
        energy = next((i for i in condition.energy if i in case.plan.inlet_of), None)
        source = case.plan.pack.rail if condition.on_pack or energy is None else energy
        lost.setdefault(source, []).append(head.id)
    for source, names in lost.items():
        yield under(dict.fromkeys(names, "danger"), names[0], (source,), Comparison(0.0, 1.0, ""), Unsolved())


@dataclass(frozen=True)
class ConnectionOver(Facts):
    pass


ESC_BURST_FRAC = 1.2
"""What an ESC carries in a punch, as a share of what it carries for long; makers print 1.1 to 1.3 for ten seconds, from memory."""


@dataclass(frozen=True)
class EscOver(Facts):
    motors: tuple[str, ...]
    burst: bool


@rule("load.esc", EscOver, sense="at most")
def esc_over(case: SolvedPlan) -> Iterator[Verdict]:
    """What the motors on a board take together, against what its ESCs carry."""
    plan = case.plan
    for board in plan.boards:
        motors = [d for d in plan.devices if d.throttle and d.feed and plan.rail_of[d.feed.rail].board == board.id]
        if board.esc_limit_a is None or not motors:
            continue
        over: dict[str, tuple[float, float]] = {}
        for condition in plan.conditions:
            asked = _sum_a(case, motors, condition)
            limit = board.esc_limit_a * (ESC_BURST_FRAC if condition.is_punch else 1.0)
            if exceeds(asked, limit):
                over[condition.id] = asked, limit
        if over:
            worst = max(over, key=lambda c: over[c][0] / over[c][1])
            facts = EscOver(tuple(d.id for d in motors), plan.condition(worst).is_punch)
            compared = Comparison(*over[worst], "A")
            yield under(dict.fromkeys(over, "fault"), worst, (board.id, *facts.motors), compared, facts)


@rule("load.rating", ConnectionOver, sense="at most")
def wire_rating(case: SolvedPlan) -> Iterator[Verdict]:
    """A link or strap that carries more than it is rated for, where its rail does not already say so."""
    for supply in case.plan.supplies:
        if (
            not isinstance(supply, Link | Strap)
            or not supply.rating_a
            or len(case.plan.supplies_into(supply.output)) == 1
        ):
            continue
        amps = {c: abs(state.asked_a) for c, state in case.supply(supply.id).states.items()}
        over: dict[str, Severity] = {c: "fault" for c, a in amps.items() if exceeds(a, supply.rating_a)}
        if over:
            worst = max(over, key=lambda c: (amps[c], c))
            yield under(over, worst, (supply.id,), Comparison(amps[worst], supply.rating_a, "A"), ConnectionOver())
