"""`ground.` rules: a way back for everything, no chains, no motor current in a video return, loops, grounds of signals."""

from __future__ import annotations

from collections.abc import Iterator

import networkx as nx

from yardmeter.core.answers.returns import LoopAnswer
from yardmeter.core.checks.finding import Finding, Fix, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.plan import Device, Plan, Return
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.units import format_si

VIDEO_KINDS = ("camera", "sender", "digital")
WORTH_FRAC = 0.7
"""What may be left of a shift for a change of wiring to be offered; our choice."""
MOTOR_SHARE_A = 0.02
"""Motor current in a video part's return from which it is found [A]; our choice."""


@rule("ground.none", sense="at least")
def no_return(case: Case) -> Iterator[Finding]:
    """A board or device whose ground has no path to the pack's negative."""
    plan = case.plan
    graph: nx.Graph[str] = nx.Graph()
    graph.add_node("pack")
    graph.add_edges_from((owner, wire.to) for owner, wire in plan.returns())
    reached = nx.node_connected_component(graph, "pack")
    for owner in plan.owners:
        if owner.id in reached:
            continue
        yield Finding(
            severity="fault",
            conditions=tuple(c.id for c in plan.conditions),
            worst=plan.conditions[0].id,
            elements=(owner.id,),
            title=f"{owner.name} has no ground return",
            cause="Without a wire back to the pack no current flows; it may find a way through a signal line instead.",
            remedy="Run a return to the ground of the board that feeds it.",
            numbers=(number("ways back to the pack", 0, ""), number("needed", 1, "")),
        )


def feeding_ground(plan: Plan, device: Device) -> str | None:
    """The board or device on whose ground this device's supply stands; the rail's board where nothing regulates."""
    if device.feed is None:
        return None
    supplies = plan.supplies_into(device.feed.rail)
    return supplies[0].board if supplies else plan.rail_of[device.feed.rail].board


def reroute(plan: Plan, wire: Return, to: str) -> Fix:
    """The return ends at another ground."""
    return Fix(
        title=f"Return to {plan.title(to)} instead of {plan.title(wire.to)}",
        edits=(SetValue(element=wire.id, field="to", value=to),),
    )


@rule("ground.chain", sense="at most")
def chained(case: Case) -> Iterator[Finding]:
    """A device whose only way back leads through another device that does not feed it."""
    plan = case.plan
    for device in plan.devices:
        home = feeding_ground(plan, device)
        if home is None or not device.returns or any(wire.to not in plan.device_of for wire in device.returns):
            continue
        wire = device.returns[0]
        if any(one.to == home for one in device.returns):
            continue
        shifts = {
            c.id: case.ground[wire.to].states[c.id].volts_v - case.ground[home].states[c.id].volts_v
            for c in plan.conditions
        }
        worst = max(shifts, key=lambda c: abs(shifts[c]))
        if abs(shifts[worst]) < 1e-4:
            continue
        others = sorted(
            (
                one
                for segment in case.returns.segments
                if segment.owner == wire.to
                for one in segment.states[worst].carries
                if one.element != device.id
            ),
            key=lambda one: -abs(one.amps_a),
        )
        whose = ", ".join(f"{plan.title(one.element)} {format_si(abs(one.amps_a), 'A')}" for one in others[:3])
        yield Finding(
            severity="caution",
            conditions=tuple(c for c, v in shifts.items() if abs(v) > 1e-3) or (worst,),
            worst=worst,
            elements=(device.id, wire.to),
            title=f"{device.name}'s ground is chained through {plan.title(wire.to)}: {format_si(abs(shifts[worst]), 'V')}",
            cause=f"Whatever flows there lifts its ground too: {whose}. It moves with their load and shows as flicker.",
            remedy=f"Run its return to {plan.title(home)}, which feeds it.",
            numbers=(number("shared drop", shifts[worst], "V"), number("with a way of its own", 0, "V")),
            fixes=(reroute(plan, wire, home),),
        )


@rule("ground.motor", sense="at most")
def motor_current(case: Case) -> Iterator[Finding]:
    """Motor current that finds its way through the return of a video part, because it closes a second path."""
    plan = case.plan
    motors = {d.id for d in plan.devices if d.throttle}
    for segment in case.returns.segments:
        owner = plan.device_of.get(segment.owner)
        if owner is None or owner.kind not in VIDEO_KINDS:
            continue
        amps = {
            c: sum(one.amps_a for one in state.carries if one.element in motors) for c, state in segment.states.items()
        }
        worst = max(amps, key=lambda c: abs(amps[c]))
        if abs(amps[worst]) < MOTOR_SHARE_A:
            continue
        yield Finding(
            severity="fault" if abs(amps[worst]) > 1 else "caution",
            conditions=tuple(c for c, v in amps.items() if abs(v) > MOTOR_SHARE_A),
            worst=worst,
            elements=(segment.id, owner.id),
            title=f"{format_si(abs(amps[worst]), 'A')} of motor current in {owner.name}'s return to {plan.title(segment.to)}",
            cause="The wire bridges two grounds between which the motor current makes a drop; a share of it takes this way.",
            remedy="Let one return of the video part go, so that no second path is closed.",
            numbers=(
                number("motor current in it", abs(amps[worst]), "A"),
                number("wanted below", MOTOR_SHARE_A, "A"),
            ),
        )


@rule("ground.loop", sense="at most")
def loops(case: Case) -> Iterator[Finding]:
    """A ring of returns: its size, and what the motor leads would drive around it."""
    plan = case.plan
    for loop in case.returns.loops:
        worst = max(loop.emf_v, key=lambda c: loop.emf_v[c])
        drop_v = _across_wires(loop, worst)
        video = any(plan.device_of[o].kind in VIDEO_KINDS for o in loop.owners if o in plan.device_of)
        heavy = video and drop_v > plan.policy.video_shift_v
        names = ", ".join(plan.title(o) if o != "pack" else "the pack" for o in loop.owners)
        yield Finding(
            severity="caution" if heavy else "note",
            conditions=(worst,),
            worst=worst,
            elements=tuple(o for o in loop.owners if o != "pack") + loop.wires[:1],
            title=f"Ground loop of {loop.area_m2 * 1e4:.0f} cm² over {names}",
            cause=(
                f"{format_si(loop.ohm, 'Ω')} and {format_si(loop.henry_h, 'H')}: motor leads {format_si(plan.policy.stray_m, 'm')} "
                f"away drive {format_si(loop.noise_a[worst], 'A')} around it. An estimate: it grows with the area."
            ),
            remedy="Lay its wires against each other, or leave one of them out where the signal allows it.",
            numbers=(
                number("across its wires", drop_v, "V"),
                number("shows in the picture from", plan.policy.video_shift_v, "V"),
            ),
        )


def _across_wires(loop: LoopAnswer, condition: str) -> float:
    """The part of the picked-up voltage that stands across the wires' resistance, as shifts of grounds [V]."""
    return loop.noise_a[condition] * loop.ohm


@rule("ground.shift", sense="at most")
def shifted(case: Case) -> Iterator[Finding]:
    """Two ends of a signal whose grounds differ by more than the signal stands.

    Video is judged by its steady shift, which changes with load and throttle; logic by that and one device's edge together.
    """
    plan = case.plan
    for signal in plan.signals:
        answer = case.signal[signal.id]
        sizes = {c: abs(s.shift_v) + (0.0 if signal.kind == "video" else s.step_v) for c, s in answer.states.items()}
        worst = max(sizes, key=lambda c: sizes[c])
        share = sizes[worst] / answer.margin_v if answer.margin_v else 0.0
        told_from = 1.0 if signal.kind == "video" else 0.5
        if share <= told_from:
            continue
        state = answer.states[worst]
        by = (
            f" One edge of {plan.title(state.step_by)} alone makes {format_si(state.step_v, 'V')}."
            if state.step_by
            else ""
        )
        source, sink = plan.owner_of[signal.source], plan.owner_of[signal.sink]
        yield Finding(
            severity="fault" if share > (4.0 if signal.kind == "video" else 1.0) else "caution",
            conditions=tuple(c for c, v in sizes.items() if v > told_from * answer.margin_v),
            worst=worst,
            elements=(signal.id, source.id, sink.id),
            title=f"{signal.name}: its grounds differ by {format_si(abs(state.shift_v), 'V')}",
            cause=f"{source.name} and {sink.name} measure the signal from different heights; {answer.reason}.{by}",
            remedy="Bring both grounds to one point, shorten or thicken the wire that carries the current, or move the load.",
            numbers=(number("shift", sizes[worst], "V"), number("margin", answer.margin_v, "V")),
            fixes=tuple(_level_fixes(case, source.id, sink.id, worst, sizes[worst])),
        )


def _level_fixes(case: Case, source: str, sink: str, worst: str, shift_v: float) -> Iterator[Fix]:
    """A device's only return, brought to the other end's ground where it goes elsewhere now.

    Its own drop stays between them, so it is offered only where that is well below the shift there is.
    """
    plan = case.plan
    for one, other in ((source, sink), (sink, source)):
        device = plan.device_of.get(one)
        if device and len(device.returns) == 1 and device.returns[0].to != other and other in plan.board_of:
            wire = device.returns[0]
            if abs(case.segment[wire.id].states[worst].drop_v) < WORTH_FRAC * shift_v:
                yield reroute(plan, wire, other)
