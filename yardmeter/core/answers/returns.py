"""Returns: how high every ground stands, whose current flows where, which loops close, what lands on each signal."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import Solved, View
from yardmeter.core.answers.ground_net import GroundNet, edge_a
from yardmeter.core.answers.loops import Ring, find_rings, motor_ripple_a, ring_current_a, ring_emf_v
from yardmeter.core.answers.model import Answer
from yardmeter.core.physics.conductors import wire_outer_m
from yardmeter.core.physics.levels import logic_margin
from yardmeter.core.plan import Condition, Plan, Signal
from yardmeter.core.solver.circuit import Floats

SHOWN_A = 1e-3
"""Current from which a device is listed among those a piece carries [A]."""
LOGIC_V = 3.3
"""Level of a pin that does not state one [V]; common practice, no source."""


@dataclass(frozen=True, slots=True)
class GroundState:
    """A ground above the pack's negative: steady, and at the steepest moment of one device's step."""

    volts_v: float
    step_v: float
    step_by: str | None


class GroundAnswer(Answer):
    id: str
    name: str
    kind: str
    states: dict[str, GroundState]


@dataclass(frozen=True, slots=True)
class Carried:
    """Whose current flows through a piece, and how much of it."""

    element: str
    amps_a: float


@dataclass(frozen=True, slots=True)
class SegmentState:
    amps_a: float
    drop_v: float
    carries: tuple[Carried, ...]


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
    """What lands on a signal: the difference of its two grounds, steady and at the worst step."""

    shift_v: float
    step_v: float
    step_by: str | None


class SignalAnswer(Answer):
    """`margin_v` is the shift that shows, or is misread; `reason` says where it comes from."""

    id: str
    margin_v: float
    reason: str
    states: dict[str, SignalState]


class Returns(Answer):
    grounds: tuple[GroundAnswer, ...]
    segments: tuple[SegmentAnswer, ...]
    loops: tuple[LoopAnswer, ...]
    signals: tuple[SignalAnswer, ...]


@dataclass(frozen=True)
class _Moment:
    """One condition: rises (nodes,), flows by device (wires, devices) as lists, step rises by device (nodes, devices)."""

    condition: Condition
    view: View
    rises_v: list[float]
    flows_a: Floats
    steps_v: Floats


def returns(solved: Solved) -> Returns:
    """The return network in every condition."""
    plan = solved.plan
    net = GroundNet(plan)
    steps = _step_rises(net)
    moments = [_moment(net, c, solved.given[c.id], steps) for c in plan.conditions]
    rings = find_rings(plan, {wire.id: ohm for (_, wire), ohm in zip(net.wires, net.ohm, strict=True)})
    return Returns(
        grounds=tuple(_grounds(net, moments)),
        segments=tuple(_segment(net, row, moments) for row in range(len(net.wires))),
        loops=tuple(_loop(plan, f"loop-{n}", ring, moments) for n, ring in enumerate(rings, 1)),
        signals=_signals(net, moments),
    )


def _step_rises(net: GroundNet) -> Floats:
    """Rise of every ground at the end of each device's edge [V] (nodes, devices): `R ΔI + L ΔI/Δt`."""
    step_a = np.array([edge_a(device) for device in net.plan.devices])
    by_step = net.by_ampere + net.by_slope / net.plan.policy.edge_s
    rises: Floats = (by_step @ net.sudden) * step_a[None, :]
    return rises


def _moment(net: GroundNet, condition: Condition, view: View, steps: Floats) -> _Moment:
    rises = [view.op.ground_v(view.row, owner.id) for owner in net.plan.owners]
    flows = net.flows(net.by_ampere @ net.steady(view))
    live = [condition.state_of(d.id) != "off" and view.op.device_a(view.row, d.id) > SHOWN_A for d in net.plan.devices]
    return _Moment(condition, view, rises, flows, steps * np.array(live, float)[None, :])


def _grounds(net: GroundNet, moments: list[_Moment]) -> list[GroundAnswer]:
    table: dict[str, dict[str, GroundState]] = {owner.id: {} for owner in net.plan.owners}
    for moment in moments:
        worst, sizes = _worst(moment.steps_v)
        for name, node in net.node.items():
            by = net.plan.devices[worst[node]].id if sizes[node] > 1e-6 else None
            table[name][moment.condition.id] = GroundState(moment.rises_v[node], sizes[node], by)
    boards = net.plan.board_of
    return [
        GroundAnswer(id=o.id, name=o.name, kind="board" if o.id in boards else "device", states=table[o.id])
        for o in net.plan.owners
    ]


def _worst(steps_v: Floats) -> tuple[list[int], list[float]]:
    """Per row the device whose step is largest, and its size [V]."""
    if not steps_v.shape[1]:
        return [0] * steps_v.shape[0], [0.0] * steps_v.shape[0]
    sizes = np.abs(steps_v)
    return sizes.argmax(axis=1).tolist(), sizes.max(axis=1).tolist()


def _segment(net: GroundNet, row: int, moments: list[_Moment]) -> SegmentAnswer:
    owner, wire = net.wires[row]
    states = {}
    shared = False
    for moment in moments:
        flows = moment.flows_a[row]
        shown = np.flatnonzero(np.abs(flows) > SHOWN_A).tolist()
        carried = [Carried(net.plan.devices[k].id, float(flows[k])) for k in shown]
        carried.sort(key=lambda one: -abs(one.amps_a))
        shared = shared or len(carried) > 1
        amps = moment.view.op.conductor_a(moment.view.row, f"return:{wire.id}")
        states[moment.condition.id] = SegmentState(amps, amps * net.ohm[row], tuple(carried))
    return SegmentAnswer(
        id=wire.id,
        owner=owner,
        to=wire.to,
        ohm=net.ohm[row],
        henry_h=net.henry[row],
        shared=shared,
        states=states,
    )


def _loop(plan: Plan, name: str, ring: Ring, moments: list[_Moment]) -> LoopAnswer:
    motors = [d for d in plan.devices if d.throttle and d.feed]
    spacing = max((wire_outer_m(d.feed.wire.gauge_awg) for d in motors if d.feed), default=0.0)
    emf = {}
    for moment in moments:
        amps = max((moment.view.op.device_a(moment.view.row, d.id) for d in motors), default=0.0)
        emf[moment.condition.id] = ring_emf_v(plan, ring, motor_ripple_a(moment.condition, amps), spacing)
    return LoopAnswer(
        id=name,
        wires=ring.wires,
        owners=ring.owners,
        ohm=ring.ohm,
        henry_h=ring.henry,
        area_m2=ring.area_m2,
        emf_v=emf,
        noise_a={c: ring_current_a(plan, ring, v) for c, v in emf.items()},
    )


def _signals(net: GroundNet, moments: list[_Moment]) -> tuple[SignalAnswer, ...]:
    plan = net.plan
    start, end = (
        [net.node[plan.owner_of[getattr(signal, side)].id] for signal in plan.signals] for side in ("source", "sink")
    )
    states: list[dict[str, SignalState]] = [{} for _ in plan.signals]
    for moment in moments:
        worst, sizes = _worst(moment.steps_v[start] - moment.steps_v[end])
        for k, (a, b) in enumerate(zip(start, end, strict=True)):
            by = plan.devices[worst[k]].id if sizes[k] > 1e-6 else None
            states[k][moment.condition.id] = SignalState(moment.rises_v[a] - moment.rises_v[b], sizes[k], by)
    answers = []
    for signal, found in zip(plan.signals, states, strict=True):
        margin, reason = signal_margin(plan, signal)
        answers.append(SignalAnswer(id=signal.id, margin_v=margin, reason=reason, states=found))
    return tuple(answers)


def signal_margin(plan: Plan, signal: Signal) -> tuple[float, str]:
    """Shift of the reference a signal stands [V], and why: visible in the picture, or misread by the input."""
    if signal.kind == "video":
        return plan.policy.video_shift_v, f"{plan.policy.video_shift_v:.1%} of 1 Vpp shows in the picture"
    driver, reader = plan.pin_of.get(signal.source), plan.pin_of.get(signal.sink)
    driven = (driver.level_v if driver else None) or LOGIC_V
    read = (reader.level_v if reader else None) or LOGIC_V
    levels = reader.input_levels if reader else "ttl"
    margin = logic_margin(driven, read, levels)
    words = f"{driven:g} V drives, {levels.upper()} input: {margin.low_v:.2f} V at low, {margin.high_v:.2f} V at high"
    return max(margin.least_v, 0.0), words
