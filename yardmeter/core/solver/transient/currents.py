"""One stage of a step as node equations: every element is a conductance and a current, so only node volts are unknown.

A stage asks for states `y` with `y = Y + D h f(y)`, `Y` holding all that is known. An element's state is taken out of its
own equation, which leaves its current as a function of the volts at its ends. Node −1, the reference, is the last of
every array over nodes.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.elements.load import CURRENT, LAMP, POWER
from yardmeter.core.elements.regulator import SOURCE, SWITCHING
from yardmeter.core.solver.circuit import Floats, Ints
from yardmeter.core.solver.law_loops import (
    ceiling_v,
    ceramic_v,
    core_flux,
    given_back,
    load_law,
    loss_law,
    most_law,
    passed_v,
    rest_fall_v,
    series_law,
    switching_law,
)
from yardmeter.core.solver.transient.arrays import BACK_SIEMENS, BACK_V, FOLD
from yardmeter.core.solver.transient.packed import Net, Records

LEAK_SIEMENS = 1e-9
LEAST_OHM = 1e-5
SWITCH_H = 2e-9
"""Inductance in line with a switch that is fully on [H]; our choice."""


NODE = np.dtype([("volts", np.float64), ("missing", np.float64)])
FLOW = np.dtype([(name, np.float64) for name in ("amps", "siemens", "henry", "inline_ohm")])
"""A branch's current, its slope, the inductance its coil has at this current, and what an NTC adds to its ohms for now."""
DRAW = np.dtype([(name, np.float64) for name in ("asked", "lamp_ohm", "amps", "siemens", "by_state")])
"""What a consumer asks, its filament's ohms, its current with its slope by the volts across it and by the state it lags with."""
GIVE = np.dtype(
    [(name, np.float64) for name in ("set_v", "taken", "given", "kept", "share")]
    + [(name, np.float64) for name in ("taken_in", "taken_out", "given_in", "given_out")]
    + [("at_limit", np.bool_)],
    align=True,
)
"""What a converter takes and gives, with slopes by its input and output volts; what its current keeps of an error in the one
held, and what its input current takes of its output current."""


class Stage(NamedTuple):
    """A stage of one row: what is held, what is asked, and what comes of it. Its arrays are written over and over."""

    held: Floats
    """(states,) `Y`."""
    states: Floats
    node: Records
    """(nodes + 1,), the reference last."""
    branch: Records
    consumer: Records
    converter: Records


def new_stage(net: Net) -> Stage:
    """A stage with nothing in it."""
    ns, nl, m = net.branch.shape[1], net.consumer.shape[1], net.converter.shape[1]
    states = 3 * ns + nl + 3 * m
    found = Stage(
        np.zeros(states), np.zeros(states), np.zeros(net.nodes + 1, NODE), np.zeros(ns, FLOW), np.zeros(nl, DRAW), np.zeros(m, GIVE)
    )  # fmt: skip
    found.consumer["lamp_ohm"] = 1.0
    return found


@compiled
def asked_at(one: Records, time_s: float) -> float:
    """The value of a consumer's law at this time: a device asks by its mode, a ramp in a straight line."""
    if one.machine and one.mode == 0:
        return float(one.off)
    if one.machine and one.mode == 1:
        return float(one.boot)
    share = (time_s - one.from_s) / max(one.to_s - one.from_s, 1e-12)
    if share >= 1:
        return float(one.to_value)
    if share <= 0:
        return float(one.from_value)
    return between(float(one.from_value), float(one.to_value), share)


@compiled
def between(old: float, new: float, share: float) -> float:
    """A value on its way, in a straight line; what is switched on or off by its ohms, endless at one end, by its siemens."""
    if not math.isfinite(old):
        return new / share
    if not math.isfinite(new):
        return old / (1 - share)
    return old + share * (new - old)


@compiled
def ask(net: Net, row: int, time_s: float, stage: Stage) -> None:
    """What consumers and converters ask in a row at this time, written into the stage."""
    for k in range(net.consumer.shape[1]):
        stage.consumer[k].asked = asked_at(net.consumer[row, k], time_s)
    for k in range(net.converter.shape[1]):
        one = net.converter[row, k]
        soft = (time_s - one.on_at) / max(one.soft_s, 1e-12) if one.soft_s > 0 else 1.0
        stage.converter[k].set_v = one.set_v * min(max(soft, 0.0), 1.0)


@compiled
def share_of(dh: float, tau_s: float) -> float:
    """How far a first-order lag follows within a stage: 1 where there is none."""
    return dh / (tau_s + dh) if tau_s > 0 else 1.0


@compiled
def flow(net: Net, row: int, dh: float, cell_a: float, first: bool, stage: Stage) -> None:
    """All currents at the stage's volts, their slopes, and the states that come of them.

    `first` is the first time in this stage: nothing has been bent yet at the currents of this stage.
    """
    for k in range(net.nodes):
        stage.node[k].missing = LEAK_SIEMENS * stage.node[k].volts
    _branches(net, row, dh, cell_a, first, stage)
    _consumers(net, row, dh, stage)
    _converters(net, row, dh, stage)


@compiled
def _branches(net: Net, row: int, dh: float, cell_a: float, first: bool, stage: Stage) -> None:
    ns = net.branch.shape[1]
    for k in range(ns):
        one = net.branch[row, k]
        flux, charge, lag = stage.held[k], stage.held[ns + k], stage.held[2 * ns + k]
        across = stage.node[one.a].volts - stage.node[one.b].volts
        lags = share_of(dh, one.lag_s) if one.lag_s > 0 else 0.0
        fixed = one.ohm + one.contact_ohm + stage.branch[k].inline_ohm + one.lag_ohm * lags
        drive = one.emf + flux / dh - one.elastance * charge - one.lag_ohm * (1 - lags) * lag
        if k == net.cell:  # its rest volts hardly move in a step: as they will be with the last current
            drive -= rest_fall_v(charge + dh * cell_a, net.taken_c, net.rest_v)
        inertia, stiff, henry = one.henry / dh, one.elastance * dh, one.henry
        if one.farad > 0 or one.bend_a > 0:
            last = stage.branch[k].amps
            if first:
                last = (across + drive) / max(fixed + inertia + stiff, LEAST_OHM) if one.closed else 0.0
            if one.farad > 0:
                volts, slope = ceramic_v(charge + dh * last, one.farad, one.loss, one.rated_v)
                drive += one.elastance * charge + slope * dh * last - volts
                stiff = slope * dh
            if one.bend_a > 0:
                bent, henry = core_flux(last, one.henry, one.bend_a)
                drive += (henry * last - bent) / dh
                inertia = henry / dh
        siemens = 1 / max(fixed + inertia + stiff, LEAST_OHM) if one.closed else 0.0
        amps = siemens * (across + drive)
        stage.branch[k].siemens, stage.branch[k].amps, stage.branch[k].henry = siemens, amps, henry
        stage.node[one.a].missing += amps
        stage.node[one.b].missing -= amps
        stage.states[k] = core_flux(amps, one.henry, one.bend_a)[0] if one.bend_a > 0 else amps * one.henry
        stage.states[ns + k] = charge + dh * amps
        stage.states[2 * ns + k] = (1 - lags) * lag + lags * amps


@compiled
def _consumers(net: Net, row: int, dh: float, stage: Stage) -> None:
    ns, nl = net.branch.shape[1], net.consumer.shape[1]
    for k in range(nl):
        one = net.consumer[row, k]
        across = stage.node[one.p].volts - stage.node[one.n].volts
        follow, held, asked = share_of(dh, one.lag_s), stage.held[3 * ns + k], stage.consumer[k].asked
        if one.law == CURRENT:  # what it asks lags, and bends with the volts that are there
            asked = (1 - follow) * held + follow * (asked if math.isfinite(asked) else 0.0)
            amps, slope = consumer_law(one, asked, across, 1.0)
            stage.states[3 * ns + k] = asked
            stage.consumer[k].by_state = amps / asked if asked != 0 else 1.0
        else:
            amps, slope = consumer_law(one, asked, across, stage.consumer[k].lamp_ohm)
            amps = (1 - follow) * held + follow * amps
            slope *= follow
            stage.states[3 * ns + k] = amps
            stage.consumer[k].by_state = 1.0
        if amps < 0 and (one.law == POWER or one.law == CURRENT):
            amps, slope = given_back(amps, across, net.regen_v)
        under = across + BACK_V
        if one.lag_s > 0 and under < 0:
            amps += BACK_SIEMENS * under
            slope += BACK_SIEMENS
        stage.consumer[k].amps, stage.consumer[k].siemens = amps, slope
        stage.node[one.p].missing += amps
        stage.node[one.n].missing -= amps


@compiled
def consumer_law(one: Records, value: float, across: float, lamp_ohm: float) -> tuple[float, float]:
    """Current and slope a consumer asks at the volts across it: `elements.load.load_law`.

    Motors that brake ask less than nothing, whatever their volts; a lamp is what its filament is.
    """
    if one.law == LAMP:
        return (across / lamp_ohm, 1 / lamp_ohm) if value > 0 else (0.0, 0.0)
    if value < 0 and (one.law == POWER or one.law == CURRENT):
        return value, 0.0
    found: tuple[float, float] = load_law(one.law, across, value, one.knee_v if one.knee_v > 0 else 1.0)
    return found


@compiled
def _converters(net: Net, row: int, dh: float, stage: Stage) -> None:
    """What regulates, follows its input, passes it on or stands at its limit each has a current and slopes of its own."""
    ns, nl, m = net.branch.shape[1], net.consumer.shape[1], net.converter.shape[1]
    base = 3 * ns + nl
    for k in range(m):
        one = net.converter[row, k]
        held, line, entry = stage.held[base + k], stage.held[base + m + k], stage.held[base + 2 * m + k]
        gnd = stage.node[one.gnd].volts
        vin, vo = stage.node[one.inp].volts - gnd, stage.node[one.out].volts - gnd
        lines, enters = share_of(dh, one.line_s), share_of(dh, one.entry_s)
        followed, entered = (1 - lines) * line + lines * vin, (1 - enters) * entry + enters * vin
        takes = one.kind != SOURCE
        inertia, soft = one.henry / dh, SWITCH_H / dh
        siemens, on_siemens = 1 / (one.out_ohm + inertia), 1 / (one.drop_ohm + soft)
        through = vin - followed if one.line_s > 0 else 0.0
        straight_v, most_v = passed_v(vin, one.drop_v), ceiling_v(vin, one.ceil_gain, one.drop_v, one.passes)
        amps = (stage.converter[k].set_v + through - vo + inertia * held) * siemens
        by_in = (1 - lines) * siemens if one.line_s > 0 else 0.0
        by_out, kept = -siemens, inertia * siemens
        passing = (straight_v - vo + soft * held) * on_siemens
        if one.passes and passing > amps:
            amps, by_in, by_out, kept = passing, on_siemens, -on_siemens, soft * on_siemens
        following = (most_v - vo + soft * held) * on_siemens
        if takes and following < amps:
            amps, by_in, by_out, kept = following, one.ceil_gain * on_siemens, -on_siemens, soft * on_siemens
        runs = one.on and (one.sinks or amps >= 0)
        most, slope = most_law(one.limit_a, one.style == FOLD, one.set_v, vo)
        over = amps > most
        if over:
            amps, by_in, by_out, kept = most, 0.0, slope, 0.0
        if not runs:
            amps, by_in, by_out, kept = 0.0, 0.0, 0.0, 0.0
        taken, taken_in, taken_out, share = _input(one, vin, vo, amps, entered, enters)
        stage.converter[k].given, stage.converter[k].taken, stage.converter[k].at_limit = amps, taken, over and runs
        stage.converter[k].kept, stage.converter[k].share = kept, share
        stage.converter[k].taken_in, stage.converter[k].taken_out = taken_in + share * by_in, taken_out + share * by_out
        stage.converter[k].given_in, stage.converter[k].given_out = by_in, by_out
        stage.node[one.inp].missing += taken
        stage.node[one.gnd].missing += amps - taken
        stage.node[one.out].missing -= amps
        stage.states[base + k] = amps
        stage.states[base + m + k], stage.states[base + 2 * m + k] = followed, entered


@compiled
def _input(
    one: Records, vin: float, vo: float, amps: float, entered: float, enters: float
) -> tuple[float, float, float, float]:
    """What a converter takes, and its slopes by input volts, output volts and output current."""
    if not one.on or one.kind == SOURCE:
        return 0.0, 0.0, 0.0, 0.0
    idle = one.quiescent_a * min(max(vin, 0.0), 1.0)
    if one.kind != SWITCHING:
        through, straight = series_law(one.sinks, amps)
        return through + idle, 0.0, 0.0, straight
    watts, slope = loss_law(one.k1_v, one.k2_ohm, one.drop_v, one.drop_ohm, amps)
    taken, by_in, by_out, by_amps = switching_law(vo, amps, watts, slope, entered)
    gain = max(one.ceil_gain, 1.0)
    if taken > gain * abs(amps):  # a switch that is on passes its coil's current and no more
        return gain * abs(amps) + idle, 0.0, 0.0, gain * (1.0 if amps > 0 else -1.0 if amps < 0 else 0.0)
    return taken + idle, by_in * enters, by_out, by_amps


@compiled
def fill_slots(net: Net, row: int, stage: Stage, at: Ints, slots: Floats) -> None:
    """The node equations' matrix at the stage's slopes, each place in its slot `at` (nodes + 1, nodes + 1); the last is nobody's."""
    slots[:] = 0.0
    for i in range(net.nodes):
        slots[at[i, i]] = LEAK_SIEMENS
    for k in range(net.branch.shape[1]):
        wire = net.branch[row, k]
        _tie(slots, at, wire.a, wire.b, stage.branch[k].siemens)
    for k in range(net.consumer.shape[1]):
        load = net.consumer[row, k]
        _tie(slots, at, load.p, load.n, stage.consumer[k].siemens)
    for k in range(net.converter.shape[1]):
        one = net.converter[row, k]
        flows = stage.converter[k]
        _drive(slots, at, one.inp, one.gnd, one.inp, one.gnd, flows.taken_in)
        _drive(slots, at, one.inp, one.gnd, one.out, one.gnd, flows.taken_out)
        _drive(slots, at, one.gnd, one.out, one.inp, one.gnd, flows.given_in)
        _drive(slots, at, one.gnd, one.out, one.out, one.gnd, flows.given_out)


@compiled
def _tie(slots: Floats, at: Ints, a: int, b: int, siemens: float) -> None:
    _drive(slots, at, a, b, a, b, siemens)


@compiled
def _drive(slots: Floats, at: Ints, start: int, end: int, plus: int, minus: int, siemens: float) -> None:
    """A current from `start` to `end` by the volts from `plus` to `minus`."""
    slots[at[start, plus]] += siemens
    slots[at[start, minus]] -= siemens
    slots[at[end, plus]] -= siemens
    slots[at[end, minus]] += siemens
