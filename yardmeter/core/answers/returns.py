"""Returns: how high every ground stands, whose current flows where, which loops close, what lands on each signal."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.grounded import Flowing, Grounded, SegmentState
from yardmeter.core.answers.loops import Loop, loop_current_a, loop_emf_v, motor_ripple_a
from yardmeter.core.answers.model import Answer
from yardmeter.core.graph import graph_of
from yardmeter.core.physics.conductors import wire_outer_m
from yardmeter.core.physics.levels import LogicMargin, logic_margin
from yardmeter.core.plan import Device, Diode, Pin, Plan, Regulator, Signal
from yardmeter.core.solver.circuit import Floats

LOGIC_V = 3.3
"""Level of a pin that does not state one [V]; common practice, no source."""


@dataclass(frozen=True, slots=True)
class GroundState:
    """A ground above the pack's negative: steady, and at the steepest at of one device's step."""

    volts_v: float
    step_v: float
    step_by: str | None


class GroundAnswer(Answer):
    id: str
    name: str
    kind: str
    states: dict[str, GroundState]


class SegmentAnswer(Answer):
    """One return wire; shared when another's current flows through it too."""

    id: str
    owner: str
    to: str
    ohm: float
    henry_h: float
    shared: bool
    states: dict[str, SegmentState]


class LoopAnswer(Answer):
    """A ring of returns with what the motor leads would drive around it, per condition."""

    id: str
    wires: tuple[str, ...]
    owners: tuple[str, ...]
    ohm: float
    henry_h: float
    area_m2: float
    emf_v: dict[str, float]
    noise_a: dict[str, float]


@dataclass(frozen=True, slots=True)
class SignalState:
    """What lands on a signal: the difference of its two grounds, steady, what changes in it, and at the worst step."""

    shift_v: float
    changing_v: float
    """Peak to peak of what changes while nothing is switched: commutation and bursts, all at once."""
    step_v: float
    step_by: str | None
    on_signal_v: float
    """What it is judged by: a picture by what changes, since a clamped input takes the rest off; logic by shift and edge together."""
    share_frac: float
    """The same as a share of its margin; 0 where it has none."""


class SignalAnswer(Answer):
    """`margin_v` is the shift that shows, or is misread; `worst` the condition in which most lands on it."""

    id: str
    margin_v: float
    worst: str
    states: dict[str, SignalState]


class Returns(Answer):
    grounds: tuple[GroundAnswer, ...]
    segments: tuple[SegmentAnswer, ...]
    loops: tuple[LoopAnswer, ...]
    signals: tuple[SignalAnswer, ...]
    worst: str
    """The condition in which some signal uses up most of its margin, or, without signals, some ground is highest."""


def returns(at: Grounded) -> Returns:
    """The return network in every condition."""
    plan = at.net.plan
    grounds, signals = tuple(_grounds(at)), _signals(at)
    return Returns(
        grounds=grounds,
        segments=tuple(_segment(at, row) for row in range(len(at.net.wires))),
        loops=tuple(_loop(plan, f"loop-{n}", loop, at.flowing) for n, loop in enumerate(at.net.loops, 1)),
        signals=signals,
        worst=max((c.id for c in plan.conditions), key=lambda c: _size(c, signals, grounds)),
    )


def _size(condition: str, signals: Sequence[SignalAnswer], grounds: Sequence[GroundAnswer]) -> float:
    if signals:
        return max(one.states[condition].share_frac for one in signals)
    return max((one.states[condition].volts_v for one in grounds), default=0.0)


def _grounds(at: Grounded) -> list[GroundAnswer]:
    plan, node = at.net.plan, at.net.node
    table: dict[str, dict[str, GroundState]] = {owner.id: {} for owner in plan.owners}
    for one in at.flowing:
        worst, sizes = _worst(at.steps_v[one.condition.id])
        for name, k in node.items():
            by = plan.devices[worst[k]].id if sizes[k] > 1e-6 else None
            table[name][one.condition.id] = GroundState(one.rises_v[k], sizes[k], by)
    boards = plan.board_of
    return [
        GroundAnswer(id=o.id, name=o.name, kind="board" if o.id in boards else "device", states=table[o.id])
        for o in plan.owners
    ]


def _worst(steps_v: Floats) -> tuple[list[int], list[float]]:
    """Per row the device whose step is largest, and its size [V]."""
    if not steps_v.shape[1]:
        return [0] * steps_v.shape[0], [0.0] * steps_v.shape[0]
    sizes = np.abs(steps_v)
    return sizes.argmax(axis=1).tolist(), sizes.max(axis=1).tolist()


def _segment(at: Grounded, row: int) -> SegmentAnswer:
    owner, wire = at.net.wires[row]
    states = {one.condition.id: one.segments[row] for one in at.flowing}
    return SegmentAnswer(
        id=wire.id,
        owner=owner,
        to=wire.to,
        ohm=at.net.ohm[row],
        henry_h=at.net.henry[row],
        shared=any(len(one.carries) > 1 for one in states.values()),
        states=states,
    )


def _loop(plan: Plan, name: str, loop: Loop, flowing: Sequence[Flowing]) -> LoopAnswer:
    motors = [d for d in plan.devices if d.throttle and d.feed]
    spacing = max((wire_outer_m(d.feed.wire.gauge_awg) for d in motors if d.feed), default=0.0)
    emf = {}
    for one in flowing:
        amps = max((one.device_a[d.id] for d in motors), default=0.0)
        emf[one.condition.id] = loop_emf_v(plan, loop, motor_ripple_a(one.condition, amps), spacing)
    return LoopAnswer(
        id=name,
        wires=loop.ring.wires,
        owners=loop.ring.owners,
        ohm=loop.ohm,
        henry_h=loop.henry,
        area_m2=loop.area_m2,
        emf_v=emf,
        noise_a={c: loop_current_a(plan, loop, v) for c, v in emf.items()},
    )


def _signals(at: Grounded) -> tuple[SignalAnswer, ...]:
    plan, node = at.net.plan, at.net.node
    start, end = (
        [node[plan.owner_of[getattr(signal, side)].id] for signal in plan.signals] for side in ("source", "sink")
    )
    states: list[dict[str, SignalState]] = [{} for _ in plan.signals]
    margins_v = [signal_margin_v(plan, signal) for signal in plan.signals]
    for one in at.flowing:
        steps_v, changing_v = at.steps_v[one.condition.id], at.changing_v[one.condition.id]
        worst, sizes = _worst(steps_v[start] - steps_v[end])
        changing = np.abs(changing_v[start] - changing_v[end]).sum(axis=1).tolist()
        for k, (a, b) in enumerate(zip(start, end, strict=True)):
            by = plan.devices[worst[k]].id if sizes[k] > 1e-6 else None
            shift_v = one.rises_v[a] - one.rises_v[b]
            judged_v = changing[k] if plan.signals[k].kind == "video" else abs(shift_v) + sizes[k]
            share = judged_v / margins_v[k] if margins_v[k] > 0 else 0.0
            states[k][one.condition.id] = SignalState(shift_v, changing[k], sizes[k], by, judged_v, share)
    answers = []
    for signal, margin_v, found in zip(plan.signals, margins_v, states, strict=True):
        most = {c: state.on_signal_v for c, state in found.items()}
        answers.append(
            SignalAnswer(id=signal.id, margin_v=margin_v, worst=max(most, key=lambda c: most[c]), states=found)
        )
    return tuple(answers)


@dataclass(frozen=True)
class LogicLevels:
    """What a logic signal is driven to, and the thresholds it is read with."""

    driven_v: float
    thresholds: str
    margin: LogicMargin


def reads_at_v(plan: Plan, pin: Pin | None) -> float:
    """The supply an input's thresholds go by [V]: what its pin says; of a device's CMOS input the most its rail comes to under load,
    less what diodes take; else 3.3 V logic."""
    if pin is None or pin.level_v is not None:
        return (pin.level_v if pin else None) or LOGIC_V
    owner = plan.owner_of[pin.id]
    if pin.input_levels != "cmos" or not isinstance(owner, Device):
        return LOGIC_V
    if owner.feed is None:
        return owner.nominal_v
    graph = graph_of(plan)
    above = graph.supplies_above(owner.feed.rail)
    taken = itertools.takewhile(lambda one: not isinstance(one, Regulator), above)
    return graph.most_v[owner.feed.rail] - sum(one.drop_v for one in taken if isinstance(one, Diode))


def logic_levels(plan: Plan, signal: Signal) -> LogicLevels:
    """Levels of a signal by its pins, 3.3 V logic where they do not say."""
    driver, reader = plan.pin_of.get(signal.source), plan.pin_of.get(signal.sink)
    driven = (driver.level_v if driver else None) or LOGIC_V
    read = reads_at_v(plan, reader)
    thresholds = reader.input_levels if reader else "ttl"
    return LogicLevels(driven, thresholds, logic_margin(driven, read, thresholds))


def signal_margin_v(plan: Plan, signal: Signal) -> float:
    """Shift of the reference a signal stands [V]: until it shows in the picture, or is misread by the input."""
    if signal.kind == "video":
        return plan.policy.video_shift_v
    return max(logic_levels(plan, signal).margin.least_v, 0.0)
