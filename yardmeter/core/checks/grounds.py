"""`ground.` rules: a way back for everything, no chains, no motor current in a video return, loops, grounds of signals."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.grounded import Carried
from yardmeter.core.answers.returns import LoopAnswer
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.signal_grounds import ground_fix
from yardmeter.core.checks.stouter import stiffer_fixes
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import VIDEO_KINDS, Device, Plan, Return
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.operations import Add, SetValue
from yardmeter.core.plan.signals import Signal
from yardmeter.core.verdict import Comparison, Facts, Fix, Severity, Verdict, always, under

MOTOR_SHARE_A = 0.02
"""Motor current in a video part's return from which it is found [A]; our choice."""
MUCH_MOTOR_A = 1.0
"""Motor current in it from which that is a fault [A]; our choice."""
CHAIN_V = 1e-4
CHAIN_TOLD_V = 1e-3
"""Shared drop from which a chain is found at all, and from which a condition counts among those it is told in [V]; our choice."""


@dataclass(frozen=True)
class NoReturn(Facts):
    pass


@rule("ground.none", NoReturn, sense="at least")
def no_return(case: SolvedPlan) -> Iterator[Verdict]:
    """A board or device whose ground has no path to the pack's negative."""
    for owner in graph_of(case.plan).ungrounded:
        yield always("fault", (owner,), Comparison(0, 1, ""), NoReturn())


def reroute(wire: Return, to: str) -> Fix:
    """The return ends at another ground."""
    return Fix("return", (SetValue(element=wire.id, field="to", value=to),))


def brought_home(plan: Plan, device: Device, home: str) -> Fix:
    """The device's return at the ground of what feeds it; a wire of its own where it hangs on another's alone."""
    if device.returns:
        return reroute(device.returns[0], home)
    wire = device.feed.wire.model_dump(mode="json", include={"gauge_awg", "length_m"}) if device.feed else {}
    value = {"id": fresh_id(plan, f"{device.id[:50]}-gnd"), "to": home, "wire": wire}
    return Fix("own ground", (Add(kind="return", owner=device.id, value=value),))


@dataclass(frozen=True)
class Chained(Facts):
    home: str
    """The ground of what feeds it."""
    others: tuple[Carried, ...]
    """Whose current flows in the shared way, most first."""


@rule("ground.chain", Chained, sense="at most")
def chained(case: SolvedPlan) -> Iterator[Verdict]:
    """A device whose every way back leads through another that does not feed it, over boards or not."""
    plan, graph = case.plan, graph_of(case.plan)
    for device in plan.devices:
        home = graph.feeding_ground(device)
        through = graph.chained_through(device.id, home) if home else None
        if home is None or through is None:
            continue
        shifts = {
            c.id: case.ground[through].states[c.id].volts_v - case.ground[home].states[c.id].volts_v
            for c in plan.conditions
        }
        worst = max(shifts, key=lambda c: abs(shifts[c]))
        if abs(shifts[worst]) < CHAIN_V:
            continue
        told = [c for c, v in shifts.items() if abs(v) > CHAIN_TOLD_V] or [worst]
        yield under(
            dict.fromkeys(told, "caution"),
            worst,
            (device.id, through),
            Comparison(abs(shifts[worst]), 0, "V"),
            Chained(home, _others(case, device, through, worst)),
            (brought_home(plan, device, home),),
        )


def _others(case: SolvedPlan, device: Device, through: str, condition: str) -> tuple[Carried, ...]:
    shared = [one for segment in case.returns.segments if segment.owner == through for one in segment.states[condition].carries]  # fmt: skip
    return tuple(sorted((one for one in shared if one.element != device.id), key=lambda one: -abs(one.amps_a)))


@dataclass(frozen=True)
class MotorShare(Facts):
    to: str


@rule("ground.motor", MotorShare, sense="at most")
def motor_current(case: SolvedPlan) -> Iterator[Verdict]:
    """Motor current that finds its way through the return of a video part, because it closes a second path."""
    plan = case.plan
    motors = {d.id for d in plan.devices if d.throttle}
    for segment in case.returns.segments:
        owner = plan.device_of.get(segment.owner)
        if owner is None or owner.kind not in VIDEO_KINDS:
            continue
        amps = {
            c: abs(sum(one.amps_a for one in state.carries if one.element in motors))
            for c, state in segment.states.items()
        }
        worst = max(amps, key=lambda c: amps[c])
        weights: dict[str, Severity] = {
            c: "fault" if a > MUCH_MOTOR_A else "caution" for c, a in amps.items() if a > MOTOR_SHARE_A
        }
        if weights:
            compared = Comparison(amps[worst], MOTOR_SHARE_A, "A")
            yield under(weights, worst, (segment.id, owner.id), compared, MotorShare(segment.to))


@dataclass(frozen=True)
class Looped(Facts):
    owners: tuple[str, ...]
    area_m2: float
    ohm: float
    henry_h: float
    around_a: float


@rule("ground.loop", Looped, sense="at most")
def loops(case: SolvedPlan) -> Iterator[Verdict]:
    """A ring of returns: its size, and what the motor leads would drive around it."""
    plan = case.plan
    for loop in case.returns.loops:
        worst = max(loop.emf_v, key=lambda c: loop.emf_v[c])
        video = any(plan.device_of[o].kind in VIDEO_KINDS for o in loop.owners if o in plan.device_of)
        drops = {c: _across_wires(loop, c) for c in loop.emf_v}
        limit = plan.policy.video_shift_v
        weights: dict[str, Severity] = {
            c: "caution" if video and drop > limit else "note" for c, drop in drops.items() if drop > 0 or c == worst
        }
        yield under(
            weights,
            worst,
            tuple(o for o in loop.owners if o != "pack") + loop.wires[:1],
            Comparison(drops[worst], limit, "V"),
            Looped(loop.owners, loop.area_m2, loop.ohm, loop.henry_h, loop.noise_a[worst]),
        )


def _across_wires(loop: LoopAnswer, condition: str) -> float:
    """The part of the picked-up voltage that stands across the wires' resistance, as shifts of grounds [V]."""
    return loop.noise_a[condition] * loop.ohm


def shift_weight(signal: Signal, share: float) -> Severity | None:
    """How a shift weighs by its share of what the signal stands: a picture from all of it, logic from half, since edges add up."""
    if signal.kind == "video":
        return "fault" if share > 4.0 else "caution" if share > 1.0 else None
    return "fault" if share > 1.0 else "caution" if share > 0.5 else None


@dataclass(frozen=True)
class Shifted(Facts):
    shift_v: float
    changing_v: float
    step_v: float
    step_by: str | None


@rule("ground.shift", Shifted, sense="at most")
def shifted(case: SolvedPlan) -> Iterator[Verdict]:
    """Two ends of a signal whose grounds differ by more than the signal stands.

    Video is judged by what changes in it, since a clamped input takes off what is steady; logic by shift and one edge together.
    """
    plan = case.plan
    for signal in plan.signals:
        answer = case.signal[signal.id]
        if not answer.margin_v:
            continue
        sizes = {c: state.on_signal_v for c, state in answer.states.items()}
        weights = {c: weight for c, v in sizes.items() if (weight := shift_weight(signal, v / answer.margin_v))}
        if not weights:
            continue
        worst = max(sizes, key=lambda c: sizes[c])
        state = answer.states[worst]
        source, sink = plan.owner_of[signal.source], plan.owner_of[signal.sink]
        yield under(
            weights,
            worst,
            (signal.id, source.id, sink.id),
            Comparison(sizes[worst], answer.margin_v, "V"),
            Shifted(state.shift_v, state.changing_v, state.step_v, state.step_by),
            tuple(_level_fixes(plan, signal, source.id, sink.id)),
        )


def _level_fixes(plan: Plan, signal: Signal, source: str, sink: str) -> Iterator[Fix]:
    """A device's only return, brought to the other end's ground where it goes elsewhere now; one that goes there made thicker, or
    a second beside the signal."""
    for one, other in ((source, sink), (sink, source)):
        device = plan.device_of.get(one)
        if device and len(device.returns) == 1 and device.returns[0].to != other and other in plan.board_of:
            wire = device.returns[0]
            yield reroute(wire, other)
        there = [w for w in device.returns if w.to == other] if device else []
        if device and len(there) == 1:
            yield from stiffer_fixes(device, there, feed=False)
            yield ground_fix(
                plan, [s for s in plan.signals if s.ground == signal.ground and _ends(plan, s) == {source, sink}]
            )


def _ends(plan: Plan, signal: Signal) -> set[str]:
    return {plan.owner_of[signal.source].id, plan.owner_of[signal.sink].id}
