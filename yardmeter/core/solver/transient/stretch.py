"""A stretch of the march: every row goes on by steps of its own until something switches in it, or is due.

What switches is decided outside (`machines`); in here nothing but volts, currents and temperatures moves.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.elements.load import LAMP
from yardmeter.core.elements.regulator import SWITCHING
from yardmeter.core.physics import inline
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.law_loops import filament_aim_ohm, loss_law
from yardmeter.core.solver.transient.currents import (
    Stage,
    ask,
    fill_slots,
    flow,
    new_stage,
)
from yardmeter.core.solver.transient.errors import step_error
from yardmeter.core.solver.transient.machines import SAME_S
from yardmeter.core.solver.transient.order import Factors, Order, factor, new_factors, order_of, solve
from yardmeter.core.solver.transient.packed import Net, Records
from yardmeter.core.solver.transient.scheme import RUNNING, STARTING, D
from yardmeter.core.solver.transient.signals import OF_BRANCHES, OF_CONSUMERS, OF_CONVERTERS, write_signals

EVENT_S, EVENT_FRAC = 1e-6, 1e-4
"""How exactly a switch is located: to a microsecond or this part of the step, whichever is larger."""
LEAST_S = 1e-13
SETTLED_A = 1e-5
NEWTON_STEPS = 24
BACK_STEPS = 1 / 32
GROWS, EASES, SHRINKS = 6.0, 2.0, 0.15
"""How much a step grows after one whose error was next to nothing, after any other, and how much it shrinks at most."""
CALM = 0.01
FUSE_FRAC = 0.02
"""Part of its melting heat a fuse may take in a step."""
NTC_STEP_K = 0.5
"""What an NTC may warm in a step: some 2 % of its resistance."""
FILAMENT_FRAC = 0.1
"""Part of a filament's warming time a step may be while it warms."""
GOES_ON, SWITCHES, STUCK = 0, 1, 2
"""How a row came out of a stretch."""

ntc_ohm = compiled(inline.ntc_ohm)

ROW = np.dtype(
    [(name, np.float64) for name in ("t", "h", "cell_a")]
    + [(name, np.int64) for name in ("outcome", "steps", "refused", "recorded")]
    + [(name, np.bool_) for name in ("starting", "eased")],
    align=True,
)
"""A row's time and next step, the pack's current as it was last, how it came out, and how often it stepped.

`starting`: a step after a switch, the slope before it is worth nothing. `eased`: the last step was taken at once, so the
next may grow.
"""
BRANCH_STATE = np.dtype([("heat", np.float64), ("ohm", np.float64)])
"""Of a fuse or NTC: its heat, and the ohms an NTC adds to its branch."""
NODE_STATE = np.dtype([("volts", np.float64), ("drift", np.float64)])
STATE = np.dtype([("value", np.float64), ("slope", np.float64)])
CONSUMER_STATE = np.dtype([(name, np.float64) for name in ("lamp_ohm", "least_v", "most_v", "energy_j")])
CONVERTER_STATE = np.dtype([("temp_c", np.float64), ("at_limit", np.bool_)], align=True)
BRANCH_RECORD = np.dtype([("amps", np.float64), ("charge_c", np.float64)])
CONSUMER_RECORD = np.dtype([("amps", np.float64), ("asked", np.float64)])
CONVERTER_RECORD = np.dtype([(name, np.float64) for name in ("taken", "given", "temp_c", "set_v")])


class State(NamedTuple):
    """Where every row stands (B, ·); a stretch moves it on."""

    row: Records
    """(B,)."""
    node: Records
    state: Records
    branch: Records
    consumer: Records
    converter: Records


class Record(NamedTuple):
    """Row 0 step by step (t, ·)."""

    times_s: Floats
    volts: Floats
    branch: Records
    consumer: Records
    converter: Records


class Bench(NamedTuple):
    """What a row is worked on with."""

    first: Stage
    second: Stage
    order: Order
    factors: Factors
    raw: Floats
    """The error of a step's states."""
    warm: Floats
    heat: Floats
    """Of converters, and of what is in line with branches, at a step's end."""
    before: Floats
    after: Floats
    """Signals before and after a step."""
    origin: Floats
    change: Floats
    """Of the chord: volts it starts from, and where to."""


def new_bench(net: Net) -> Bench:
    """What the rows of a net are worked on with."""
    ns, nl, m = net.branch.shape[1], net.consumer.shape[1], net.converter.shape[1]
    size = OF_BRANCHES * ns + OF_CONSUMERS * nl + OF_CONVERTERS * m
    one, n, order = new_stage(net), net.nodes, order_of(net)
    return Bench(
        one, new_stage(net), order, new_factors(order), np.zeros(one.states.size), np.zeros(m), np.zeros(ns),
        np.zeros(size), np.zeros(size), np.zeros(n + 1), np.zeros(n + 1),
    )  # fmt: skip


@compiled
def stretch(
    net: Net, state: State, record: Record, bench: Bench, due_s: Floats, signals: Floats, turns: int, tight: float
) -> None:
    """Take rows on until something switches in them, or what is due at `due_s` (B,), at most `turns` steps.

    Rows go whose outcome is `GOES_ON`; how each came out is written there, and its signals into `signals` (B, ·).
    """
    for row in range(due_s.size):
        own = state.row[row]
        own.recorded = 0
        if own.outcome == GOES_ON:
            own.outcome = _row(net, row, state, record, bench, due_s[row], turns, tight)
            for k in range(bench.after.size):
                signals[row, k] = bench.after[k]


@compiled
def signals_now(net: Net, row: int, state: State, bench: Bench, found: Floats) -> None:
    """Write a row's signals as it stands into `found` (·,)."""
    _stand(net, row, state, bench.second)
    for k in range(bench.warm.size):
        bench.warm[k] = state.converter[row, k].temp_c
    for k in range(bench.heat.size):
        bench.heat[k] = state.branch[row, k].heat
    write_signals(net, row, bench.second, bench.warm, bench.heat, found)


@compiled
def _stand(net: Net, row: int, state: State, stage: Stage) -> None:
    """Make a stage show what a row has come to."""
    for k in range(net.nodes):
        stage.node[k].volts = state.node[row, k].volts
    for k in range(stage.states.size):
        stage.states[k] = state.state[row, k].value
    for k in range(net.converter.shape[1]):
        stage.converter[k].at_limit = state.converter[row, k].at_limit


@compiled
def _row(net: Net, row: int, state: State, record: Record, bench: Bench, due_s: float, turns: int, tight: float) -> int:
    own, one, two, after = state.row[row], bench.first, bench.second, bench.after
    _take_ohms(state, row, one, two)
    signals_now(net, row, state, bench, bench.before)
    matrix_dh = 0.0
    """The D·h the matrix at hand was taken apart for; 0 when it is worth nothing."""
    for _ in range(turns):
        room = due_s - own.t
        h = min(own.h, max(room, LEAST_S))
        if 0.6 * room < h < room:  # no crumbs before what is known to come
            h = 0.6 * room
        dh = D * h
        if not _stages(net, row, state, h, matrix_dh == dh, bench):
            matrix_dh = 0.0
            own.refused += 1
            own.h = h * 0.25
            own.starting, own.eased = True, False
            for k in range(two.states.size):
                state.state[row, k].slope = 0.0
            if own.h < LEAST_S:
                return STUCK
            continue
        matrix_dh = dh
        size = step_error(net, row, dh, bench.raw, two, bench.order, bench.factors, bench.change, bench.origin) / tight
        most = (GROWS if size < CALM else EASES) if own.eased else 1.0
        share = min(max(0.85 / max(size, 1e-9) ** (1 / 3), SHRINKS), most)
        h_next = h * share
        good = size <= 1.0
        _warm(net, row, h, one, state, bench.warm)
        _heat(net, row, h, one, state, bench.heat)
        write_signals(net, row, two, bench.warm, bench.heat, after)
        if good:
            part = _crossed(bench.before, after)
            tolerance = max(EVENT_S, EVENT_FRAC * h)
            if (1 - part) * h > tolerance:
                good = False
                h_next = max(part * h + 0.5 * tolerance, LEAST_S)
        if not good:
            own.refused += 1
            own.eased = False
            own.h = h_next
            if h_next < LEAST_S:
                return STUCK
            continue
        own.eased = True
        if not (0.9 < share < 1.3 and h == own.h):  # a step a little longer is not worth a new matrix
            own.h = max(h_next, min(own.h, GROWS * h)) if h < own.h else h_next
        _accept(net, row, h, state, one, two, bench.warm)
        lamps, ntcs = _filaments(net, row, h, state, two), _in_line(net, row, h, state, bench.heat)
        if lamps or ntcs:
            _take_ohms(state, row, one, two)
            matrix_dh = 0.0
        if row == 0 and record.times_s.size > 0:
            _keep(record, state, two)
        falls = False
        for k in range(after.size):
            falls = falls or after[k] >= 0
            bench.before[k] = after[k]
        if falls or own.t >= due_s - SAME_S:
            return SWITCHES
    return GOES_ON


@compiled
def _take_ohms(state: State, row: int, one: Stage, two: Stage) -> None:
    """Hand the resistances that move slowly to both stages."""
    for k in range(one.branch.size):
        one.branch[k].inline_ohm = two.branch[k].inline_ohm = state.branch[row, k].ohm
    for k in range(one.consumer.size):
        one.consumer[k].lamp_ohm = two.consumer[k].lamp_ohm = state.consumer[row, k].lamp_ohm


@compiled
def _stages(net: Net, row: int, state: State, h: float, inverted: bool, bench: Bench) -> bool:
    """Both stages of a step and the error of its states; False where one of them has no solution.

    `inverted` tells whether the matrix at hand, taken apart, belongs to a step of this length.
    """
    own, one, two, n, dh = state.row[row], bench.first, bench.second, net.nodes, D * h
    weights, at = STARTING if own.starting else RUNNING
    for k in range(one.held.size):
        was = state.state[row, k]
        one.held[k] = was.value + h * weights[0] * was.slope
    for k in range(n):
        node = state.node[row, k]
        one.node[k].volts = node.volts + node.drift * (at[0] * h)
    inverted = _solved(net, row, own.t + at[0] * h, dh, own.cell_a, inverted, one, bench)
    if not inverted:
        return False
    for k in range(two.held.size):
        was, mid = state.state[row, k], (one.states[k] - one.held[k]) / dh
        two.held[k] = was.value + h * (weights[1] * was.slope + weights[2] * mid)
    for k in range(n):
        volts = state.node[row, k].volts
        two.node[k].volts = volts + (one.node[k].volts - volts) / at[0]
    if not _solved(net, row, own.t + h, dh, own.cell_a, inverted, two, bench):
        return False
    for k in range(two.held.size):
        mid, end = (one.states[k] - one.held[k]) / dh, (two.states[k] - two.held[k]) / dh
        bench.raw[k] = h * (at[1] * state.state[row, k].slope + at[2] * mid + at[3] * end)
    return True


@compiled
def _solved(
    net: Net, row: int, time_s: float, dh: float, cell_a: float, inverted: bool, stage: Stage, bench: Bench
) -> bool:
    """Solve a stage by chords from the volts it stands at; its matrix is at hand then, taken apart. False where it has no solution."""
    n, origin, change = net.nodes, bench.origin, bench.change
    ask(net, row, time_s, stage)
    left_before, part = np.inf, 1.0
    for step in range(NEWTON_STEPS):
        flow(net, row, dh, cell_a, step == 0, stage)
        left, carried = 0.0, 1.0
        for k in range(n):
            missing = abs(stage.node[k].missing)
            if not math.isfinite(missing):
                return False
            left = max(left, missing)
        for k in range(stage.branch.size):
            carried = max(carried, abs(stage.branch[k].amps))
        fine = left <= SETTLED_A * carried
        if step > 0 and fine:
            return True
        if left > left_before and not fine and step > 2:  # across a bend the slope lied: not so far
            part, inverted = part / 2, False  # nor is it worth anything from there on
            for k in range(n):
                stage.node[k].volts = origin[k] - change[k] * part
            if part > BACK_STEPS:
                continue
        if not inverted or (step > 0 and left > 0.2 * left_before and not fine):
            fill_slots(net, row, stage, bench.order.at, bench.factors.slots)
            inverted = factor(bench.order, bench.factors)
            if not inverted:
                return False
        part, left_before = 1.0, left
        for k in range(n):
            origin[k] = stage.node[k].missing
        solve(bench.order, bench.factors, origin, change)
        for k in range(n):
            origin[k] = stage.node[k].volts
            stage.node[k].volts = origin[k] - change[k]
    return False


@compiled
def _crossed(before: Floats, after: Floats) -> float:
    """Where in the step the first switch fell, as a part of it; 1 where none did."""
    nearest = 1.0
    for k in range(before.size):
        if before[k] < 0 <= after[k] and math.isfinite(before[k]):
            nearest = min(nearest, before[k] / (before[k] - after[k]))
    return nearest


@compiled
def _warm(net: Net, row: int, h: float, stage: Stage, state: State, warm: Floats) -> None:
    """Temperatures of converters at the end of a step, from what they turn into heat near its middle."""
    for k in range(net.converter.shape[1]):
        one, amps = net.converter[row, k], stage.converter[k].given
        gnd = stage.node[one.gnd].volts
        vin, vo = stage.node[one.inp].volts - gnd, stage.node[one.out].volts - gnd
        watts = (
            loss_law(one.k1_v, one.k2_ohm, one.drop_v, one.drop_ohm, amps)[0]
            if one.kind == SWITCHING
            else (vin - vo) * amps
        )
        if one.on:
            watts += one.quiescent_a * max(vin, 0.0)
        aim = one.air_c + max(watts, 0.0) * one.theta_k_w
        warm[k] = aim + (state.converter[row, k].temp_c - aim) * math.exp(-h / one.tau_s)


@compiled
def _accept(net: Net, row: int, h: float, state: State, one: Stage, two: Stage, warm: Floats) -> None:
    own = state.row[row]
    own.t += h
    own.starting = False
    own.steps += 1
    for k in range(net.nodes):
        node = state.node[row, k]
        node.drift = (two.node[k].volts - node.volts) / h
        node.volts = two.node[k].volts
    for k in range(two.states.size):
        now = state.state[row, k]
        now.value, now.slope = two.states[k], (two.states[k] - two.held[k]) / (D * h)
    for k in range(warm.size):
        conv = state.converter[row, k]
        conv.temp_c, conv.at_limit = warm[k], two.converter[k].at_limit
    if net.cell >= 0:
        own.cell_a = two.branch[net.cell].amps
    for k in range(net.consumer.shape[1]):
        load, so_far = net.consumer[row, k], state.consumer[row, k]
        mid = one.node[load.p].volts - one.node[load.n].volts
        end = two.node[load.p].volts - two.node[load.n].volts
        so_far.least_v, so_far.most_v = min(so_far.least_v, mid, end), max(so_far.most_v, mid, end)
        so_far.energy_j += h * (mid * one.consumer[k].amps + end * two.consumer[k].amps) / 2


@compiled
def _filaments(net: Net, row: int, h: float, state: State, last: Stage) -> bool:
    """A lamp's resistance follows the power it takes; True where a row has lamps."""
    found = False
    for k in range(net.consumer.shape[1]):
        one, lamp = net.consumer[row, k], state.consumer[row, k]
        if one.law != LAMP or one.lamp_a <= 0:
            continue
        found = True
        watts = max((last.node[one.p].volts - last.node[one.n].volts) * last.consumer[k].amps, 0.0)
        now, aim, tau = lamp.lamp_ohm, filament_aim_ohm(one.knee_v, one.lamp_a, watts), max(one.filament_s, 1e-6)
        lamp.lamp_ohm = aim + (now - aim) * math.exp(-h / tau)
        if watts > 0 and abs(aim - now) > 0.01 * now:
            state.row[row].h = min(state.row[row].h, FILAMENT_FRAC * tau)
    return found


@compiled
def _heat(net: Net, row: int, h: float, stage: Stage, state: State, heat: Floats) -> None:
    """Heat of fuses and NTCs at the end of a step, from the current near its middle."""
    for k in range(heat.size):
        one, now = net.branch[row, k], state.branch[row, k].heat
        heat[k] = now
        if one.tau_s <= 0:
            continue
        amps = stage.branch[k].amps
        aim = (
            (amps / one.rated_a) ** 2
            if one.melts > 0
            else one.air_c + amps**2 * (one.warm_ohm + state.branch[row, k].ohm) / one.w_k
        )
        heat[k] = aim + (now - aim) * math.exp(-h / one.tau_s)


@compiled
def _in_line(net: Net, row: int, h: float, state: State, heat: Floats) -> bool:
    """Take the heat of fuses and NTCs on, and what NTCs are at it; True where a row has NTCs."""
    found = False
    for k in range(heat.size):
        one, now = net.branch[row, k], state.branch[row, k]
        if one.tau_s <= 0:
            continue
        moved = abs(heat[k] - now.heat)
        now.heat = heat[k]
        if one.melts > 0:
            slow = FUSE_FRAC * one.melts
        else:
            found = True
            now.ohm = ntc_ohm(one.cold_ohm, heat[k]) - one.warm_ohm
            slow = NTC_STEP_K
        if moved > 0.1 * slow:  # what it is at moves: no step that moves it far
            state.row[row].h = min(state.row[row].h, h * slow / moved)
    return found


@compiled
def _keep(record: Record, state: State, last: Stage) -> None:
    """Write a step of row 0 down."""
    own = state.row[0]
    k, ns = own.recorded, last.branch.size
    record.times_s[k] = own.t
    for i in range(last.node.size - 1):
        record.volts[k, i] = last.node[i].volts
    for i in range(ns):
        branch = record.branch[k, i]
        branch.amps, branch.charge_c = last.branch[i].amps, last.states[ns + i]
    for i in range(last.consumer.size):
        consumer = record.consumer[k, i]
        consumer.amps, consumer.asked = last.consumer[i].amps, last.consumer[i].asked
    for i in range(last.converter.size):
        conv, now = record.converter[k, i], last.converter[i]
        conv.taken, conv.given, conv.set_v = now.taken, now.given, now.set_v
        conv.temp_c = state.converter[0, i].temp_c
    own.recorded += 1
