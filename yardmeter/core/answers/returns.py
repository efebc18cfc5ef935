"""Returns: how high every ground stands, whose current flows where, which loops close, what lands on each signal."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.ground_net import GroundNet, edge_a, motor_edge_a
from yardmeter.core.answers.loops import Loop, find_loops, loop_current_a, loop_emf_v, motor_ripple_a
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.operating import View
from yardmeter.core.graph import graph_of
from yardmeter.core.network.keys import return_key
from yardmeter.core.physics.conductors import wire_outer_m
from yardmeter.core.physics.levels import LogicMargin, logic_margin
from yardmeter.core.plan import Condition, Device, Diode, Motors, Pin, Plan, Regulator, Signal
from yardmeter.core.solver.circuit import Floats

SHOWN_A = 1e-3
"""Current from which a device is listed among those a piece carries [A]."""
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


@dataclass(frozen=True)
class _InCondition:
    """One condition: rises (nodes,), and by device flows (wires, devices), rises at its edge and of what changes in its
    current (nodes, devices)."""

    condition: Condition
    view: View
    rises_v: list[float]
    flows_a: Floats
    steps_v: Floats
    changing_v: Floats


def returns(solved: Solved) -> Returns:
    """The return network in every condition."""
    plan = solved.plan
    net = GroundNet(solved.table)
    rise_v = _rise_of_an_ampere(net)
    found_in = [_at(net, c, solved.given[c.id], rise_v) for c in plan.conditions]
    loops = find_loops(plan, {wire.id: ohm for (_, wire), ohm in zip(net.wires, net.ohm, strict=True)})
    grounds, signals = tuple(_grounds(net, found_in)), _signals(net, found_in)
    return Returns(
        grounds=grounds,
        segments=tuple(_segment(net, row, found_in) for row in range(len(net.wires))),
        loops=tuple(_loop(plan, f"loop-{n}", loop, found_in) for n, loop in enumerate(loops, 1)),
        signals=signals,
        worst=max((c.id for c in plan.conditions), key=lambda c: _size(c, signals, grounds)),
    )


def _size(condition: str, signals: Sequence[SignalAnswer], grounds: Sequence[GroundAnswer]) -> float:
    if signals:
        return max(one.states[condition].share_frac for one in signals)
    return max((one.states[condition].volts_v for one in grounds), default=0.0)


def _rise_of_an_ampere(net: GroundNet) -> Floats:
    """Rise of every ground at the end of an edge of one ampere by each device [V] (nodes, devices): `R ΔI + L ΔI/Δt`."""
    rises: Floats = (net.by_ampere + net.by_slope / net.plan.policy.edge_s) @ net.sudden
    return rises


def _at(net: GroundNet, condition: Condition, view: View, rise_v: Floats) -> _InCondition:
    rises = [view.ground_v(owner.id) for owner in net.plan.owners]
    by_device = net.by_ampere @ net.steady(view)
    edges = np.array([_edge_a(net.plan, condition, view, device) for device in net.plan.devices])
    changing = by_device * np.array([_changing_frac(condition, device) for device in net.plan.devices])[None, :]
    return _InCondition(condition, view, rises, net.flows(by_device), rise_v * edges[None, :], changing)


def _edge_a(plan: Plan, condition: Condition, view: View, device: Device) -> float:
    amps = view.device_a(device.id)
    if condition.state_of(device.id) == "off" or amps <= SHOWN_A:
        return 0.0
    return motor_edge_a(plan, device, condition.throttle_frac, amps) if device.throttle else edge_a(device)


def _changing_frac(condition: Condition, device: Device) -> float:
    """Peak to peak of what changes in a device's current, as a share of it: commutation, and bursts from idle to peak."""
    if device.throttle:
        return 2 * (device.motors or Motors()).commutation_frac
    if device.burst and condition.state_of(device.id) == "peak":
        peak = device.draws.peak.amps_at(device.nominal_v)
        return edge_a(device) / peak if peak > 0 else 0.0
    return 0.0


def _grounds(net: GroundNet, found_in: list[_InCondition]) -> list[GroundAnswer]:
    table: dict[str, dict[str, GroundState]] = {owner.id: {} for owner in net.plan.owners}
    for at in found_in:
        worst, sizes = _worst(at.steps_v)
        for name, node in net.node.items():
            by = net.plan.devices[worst[node]].id if sizes[node] > 1e-6 else None
            table[name][at.condition.id] = GroundState(at.rises_v[node], sizes[node], by)
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


def _segment(net: GroundNet, row: int, found_in: list[_InCondition]) -> SegmentAnswer:
    owner, wire = net.wires[row]
    states = {}
    shared = False
    for at in found_in:
        flows = at.flows_a[row]
        shown = np.flatnonzero(np.abs(flows) > SHOWN_A).tolist()
        carried = [Carried(net.plan.devices[k].id, float(flows[k])) for k in shown]
        carried.sort(key=lambda one: -abs(one.amps_a))
        shared = shared or len(carried) > 1
        amps = at.view.conductor_a(return_key(wire.id))
        states[at.condition.id] = SegmentState(amps, amps * net.ohm[row], tuple(carried))
    return SegmentAnswer(
        id=wire.id,
        owner=owner,
        to=wire.to,
        ohm=net.ohm[row],
        henry_h=net.henry[row],
        shared=shared,
        states=states,
    )


def _loop(plan: Plan, name: str, loop: Loop, found_in: list[_InCondition]) -> LoopAnswer:
    motors = [d for d in plan.devices if d.throttle and d.feed]
    spacing = max((wire_outer_m(d.feed.wire.gauge_awg) for d in motors if d.feed), default=0.0)
    emf = {}
    for at in found_in:
        amps = max((at.view.device_a(d.id) for d in motors), default=0.0)
        emf[at.condition.id] = loop_emf_v(plan, loop, motor_ripple_a(at.condition, amps), spacing)
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


def _signals(net: GroundNet, found_in: list[_InCondition]) -> tuple[SignalAnswer, ...]:
    plan = net.plan
    start, end = (
        [net.node[plan.owner_of[getattr(signal, side)].id] for signal in plan.signals] for side in ("source", "sink")
    )
    states: list[dict[str, SignalState]] = [{} for _ in plan.signals]
    margins_v = [signal_margin_v(plan, signal) for signal in plan.signals]
    for at in found_in:
        worst, sizes = _worst(at.steps_v[start] - at.steps_v[end])
        for k, (a, b) in enumerate(zip(start, end, strict=True)):
            by = plan.devices[worst[k]].id if sizes[k] > 1e-6 else None
            shift_v = at.rises_v[a] - at.rises_v[b]
            changing_v = float(np.abs(at.changing_v[a] - at.changing_v[b]).sum())
            judged_v = changing_v if plan.signals[k].kind == "video" else abs(shift_v) + sizes[k]
            share = judged_v / margins_v[k] if margins_v[k] > 0 else 0.0
            states[k][at.condition.id] = SignalState(shift_v, changing_v, sizes[k], by, judged_v, share)
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
