"""The steps of an operating point's iteration as machine code, one row after another.

The laws are those of `core.elements`, and the stamps those of `assembly`, which a test holds these to; what is done here is
only faster. Every row goes its own way, so that one that creeps keeps no other waiting.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.elements.regulator import SOURCE
from yardmeter.core.solver import iteration as rules
from yardmeter.core.solver.assembly import Assembly
from yardmeter.core.solver.circuit import CONDUCTING, LIMIT_SLACK, LIMITING, OFF, Bools, Circuit, Floats, Ints
from yardmeter.core.solver.elimination import SOUND, Program
from yardmeter.core.solver.law_loops import input_law, load_law, target_law

NEWTON_STEPS, PATIENCE, RESTLESS_FLIPS, MAX_FLIPS = (
    rules.NEWTON_STEPS,
    rules.PATIENCE,
    rules.RESTLESS_FLIPS,
    rules.MAX_FLIPS,
)
NEAR_A, CREEP_SIEMENS, CALM_V, FALLEN_STEPS = rules.NEAR_A, rules.CREEP_SIEMENS, rules.CALM_V, rules.FALLEN_STEPS
DOUBT_FRAC = rules.DOUBT_FRAC


CHORD_FROM_V = 0.01
"""Volts below which a load's current over its volts is taken at these."""


class Wiring(NamedTuple):
    """What all circuits of a topology share: ends, where each element's slopes belong, and the order in which unknowns are eliminated."""

    nodes: int
    size: int
    wire_a: Ints
    wire_b: Ints
    emf_a: Ints
    emf_b: Ints
    load_p: Ints
    load_n: Ints
    inp: Ints
    out: Ints
    gnd: Ints
    wire_at: Ints
    """(n, 4): a by a, a by b, b by a, b by b; −1 at the reference."""
    emf_at: Ints
    load_at: Ints
    by_at: Ints
    """(m, 14): input and ground by input, ground, output, own; output and ground by own; own by output, input, ground, own."""
    diagonal: Ints
    slot_row: Ints
    slot_column: Ints
    program: Program


class Values(NamedTuple):
    """What circuits and rows of one topology differ in: kinds (elements,), the rest (rows, elements)."""

    law: Ints
    knee_v: Floats
    kind: Ints
    passes: Bools
    sinks: Bools
    siemens: Floats
    emf_v: Floats
    emf_siemens: Floats
    load: Floats
    enabled: Bools
    set_v: Floats
    out_ohm: Floats
    ceil_gain: Floats
    drop_v: Floats
    drop_ohm: Floats
    limit_a: Floats
    stop_v: Floats
    quiescent_a: Floats
    k1_v: Floats
    k2_ohm: Floats
    leak: float


class Bench(NamedTuple):
    """Arrays a row is worked out in, written over and over."""

    f: Floats
    dx: Floats
    slots: Floats
    under: Floats
    """(loads,): volts across them."""


def ready(assembly: Assembly, circuit: Circuit) -> tuple[Wiring, Values, Bench]:
    """What the loops take; the wiring is made once for each topology."""
    kept = assembly.__dict__
    if "wiring" not in kept:
        kept["wiring"] = wiring_of(assembly, circuit)
    w: Wiring = kept["wiring"]
    return w, values_of(circuit), bench_of(w)


def wiring_of(assembly: Assembly, circuit: Circuit) -> Wiring:
    """The wiring of a topology, with its order of elimination: converters first, as a rail may have nothing else to steady it."""
    c, wires, emfs, loads = circuit.converters, circuit.conductors, circuit.emfs, circuit.loads
    elimination = assembly.elimination
    slot, n = elimination.slot, assembly.nodes

    def at(row: int, column: int) -> int:
        return slot[row, column] if row >= 0 and column >= 0 else -1

    def pairs(a: Ints, b: Ints) -> Ints:
        found = [[at(i, i), at(i, j), at(j, i), at(j, j)] for i, j in zip(a.tolist(), b.tolist(), strict=True)]
        return np.array(found, np.int64).reshape(-1, 4)

    by = []
    for k, (i, o, g) in enumerate(zip(c.inp.tolist(), c.out.tolist(), c.gnd.tolist(), strict=True)):
        own = n + k
        by.append([*(at(r, q) for r in (i, g) for q in (i, g, o, own)), at(o, own), at(g, own), at(own, o), at(own, i), at(own, g), at(own, own)])  # fmt: skip
    given = sorted((s, place) for place, s in slot.items() if s < elimination.given)
    return Wiring(
        n, assembly.size, wires.a, wires.b, emfs.a, emfs.b, loads.p, loads.n,
        c.inp, c.out, c.gnd,
        pairs(wires.a, wires.b), pairs(emfs.a, emfs.b), pairs(loads.p, loads.n), np.array(by, np.int64).reshape(-1, 14),
        np.array([slot[k, k] for k in range(n)], np.int64),
        np.array([row for _, (row, _) in given], np.int64), np.array([column for _, (_, column) in given], np.int64),
        elimination.program,
    )  # fmt: skip


def values_of(circuit: Circuit) -> Values:
    """Arrays of one kind each, whatever they were: another kind, as one that cannot be written, would be compiled for anew."""
    rows, c = circuit.rows, circuit.converters

    def full(values: Floats) -> Floats:
        if values.ndim == 2 and values.shape[0] == rows:
            return np.array(values, float, order="C")
        return np.array(np.broadcast_to(values, (rows, values.shape[-1])), float, order="C")

    return Values(
        np.array(circuit.loads.law, np.int64), np.array(circuit.loads.knee_v, float),
        np.array(c.kind, np.int64), np.array(c.passes, bool), np.array(c.sinks, bool),
        full(circuit.conductors.siemens), full(circuit.emfs.volts), full(circuit.emfs.siemens), full(circuit.loads.value),
        np.array(c.enabled, bool, order="C"), full(c.set_v), full(c.out_ohm), full(c.ceil_gain), full(c.drop_v), full(c.drop_ohm),
        full(c.limit_a * (1 + LIMIT_SLACK)), full(c.stop_v), full(c.quiescent_a), full(c.k1_v), full(c.k2_ohm), float(circuit.stiff_siemens),
    )  # fmt: skip


def bench_of(w: Wiring) -> Bench:
    program = w.program
    named = (program.inner, program.along, program.down, program.pivot)
    slots = max(int(one.max(initial=0)) for one in named) + 1
    return Bench(np.zeros(w.size), np.zeros(w.size), np.zeros(slots), np.zeros(w.load_p.size))


@compiled
def target_of(v: Values, r: int, k: int, input_v: float, amps: float) -> tuple[float, float, float, bool]:
    """Where a conducting converter wants its output: `elements.regulator.target_law`."""
    found: tuple[float, float, float, bool] = target_law(
        v.kind[k] == SOURCE, v.passes[k], v.set_v[r, k], v.out_ohm[r, k], v.ceil_gain[r, k], v.drop_v[r, k], v.drop_ohm[r, k],
        input_v, amps,
    )  # fmt: skip
    return found


@compiled
def _volts(x: Floats, node: int) -> float:
    return float(x[node]) if node >= 0 else 0.0


@compiled
def _powered(v: Values, r: int, k: int, input_v: float) -> bool:
    return bool(v.enabled[r, k]) and (v.kind[k] == SOURCE or input_v >= v.stop_v[r, k])


@compiled
def _branch(f: Floats, slots: Floats, a: int, b: int, at: Ints, amps: float, siemens: float) -> None:
    if a >= 0:
        f[a] += amps
        slots[at[0]] += siemens
    if b >= 0:
        f[b] -= amps
        slots[at[3]] += siemens
    if a >= 0 and b >= 0:
        slots[at[1]] -= siemens
        slots[at[2]] -= siemens


@compiled
def _add(slots: Floats, slot: int, value: float) -> None:
    if slot >= 0:
        slots[slot] += value


@compiled
def fill(w: Wiring, v: Values, r: int, x: Floats, modes: Ints, flat: bool, ohmic: bool, on: Bench) -> None:
    """Residual and slopes of a row: `assembly.evaluate` and `jacobian`.

    `flat`: falling slopes are left out; `ohmic`: every flat or falling load is the resistance it is now.
    """
    n, f, slots = w.nodes, on.f, on.slots
    slots[:] = 0.0
    for i in range(n):
        f[i] = v.leak * x[i]
        slots[w.diagonal[i]] = v.leak
    for k in range(w.wire_a.size):
        siemens = v.siemens[r, k]
        across = _volts(x, w.wire_a[k]) - _volts(x, w.wire_b[k])
        _branch(f, slots, w.wire_a[k], w.wire_b[k], w.wire_at[k], across * siemens, siemens)
    for k in range(w.emf_a.size):
        siemens = v.emf_siemens[r, k]
        across = _volts(x, w.emf_a[k]) - _volts(x, w.emf_b[k]) - v.emf_v[r, k]
        _branch(f, slots, w.emf_a[k], w.emf_b[k], w.emf_at[k], across * siemens, siemens)
    for k in range(w.load_p.size):
        across = _volts(x, w.load_p[k]) - _volts(x, w.load_n[k])
        amps, slope = load_law(v.law[k], across, v.load[r, k], v.knee_v[k])
        on.under[k] = across
        if flat:
            slope = max(slope, 0.0)
        if ohmic and slope <= 0:
            slope = amps / (CHORD_FROM_V if abs(across) < CHORD_FROM_V else across)
        _branch(f, slots, w.load_p[k], w.load_n[k], w.load_at[k], amps, slope)
    for k in range(w.inp.size):
        _converter(w, v, r, k, x, modes[k], flat, on)


@compiled
def _converter(w: Wiring, v: Values, r: int, k: int, x: Floats, mode: int, flat: bool, on: Bench) -> None:
    f, slots, at, own = on.f, on.slots, w.by_at[k], w.nodes + k
    inp, out, gnd, amps = w.inp[k], w.out[k], w.gnd[k], x[own]
    input_v, output_v = _volts(x, inp) - _volts(x, gnd), _volts(x, out) - _volts(x, gnd)
    powered = _powered(v, r, k, input_v)
    taken, by_input, by_output, by_amps = input_law(
        v.kind[k],
        v.sinks[k],
        mode != OFF,
        v.k1_v[r, k],
        v.k2_ohm[r, k],
        v.drop_v[r, k],
        v.drop_ohm[r, k],
        input_v,
        output_v,
        amps,
    )
    if powered and v.kind[k] != SOURCE:
        taken += v.quiescent_a[r, k]
    if flat:
        by_input = max(by_input, 0.0)
    if inp >= 0:
        f[inp] += taken
    if out >= 0:
        f[out] -= amps
    if gnd >= 0:
        f[gnd] += amps - taken
    for row in range(2):
        sign = 1.0 if row == 0 else -1.0
        _add(slots, at[4 * row], sign * by_input)
        _add(slots, at[4 * row + 1], -sign * (by_input + by_output))
        _add(slots, at[4 * row + 2], sign * by_output)
        _add(slots, at[4 * row + 3], sign * by_amps)
    _add(slots, at[8], -1.0)
    _add(slots, at[9], 1.0)
    if mode == CONDUCTING:
        wanted, from_input, by_current, _ = target_of(v, r, k, input_v, amps)
        f[own] = output_v - wanted
        _add(slots, at[10], 1.0)
        _add(slots, at[11], -from_input)
        _add(slots, at[12], from_input - 1.0)
        slots[at[13]] += -by_current
    else:
        f[own] = amps - v.limit_a[r, k] if mode == LIMITING else amps
        slots[at[13]] += 1.0


@compiled
def eliminate(w: Wiring, on: Bench) -> bool:
    """Solve for `dx` in place, from slopes that are used up; False where the equations want to be exchanged."""
    program = w.program
    slots, dx, sound = on.slots, on.dx, True
    for step in range(program.order.size):
        k, first, last = program.order[step], program.ends[step], program.ends[step + 1]
        pivot, largest = slots[program.pivot[step]], 0.0
        for q in range(first, last):
            largest = max(largest, abs(slots[program.along[q]]))
        if not abs(pivot) >= SOUND * largest or pivot == 0:
            sound = False
        inverse, place = 1 / pivot, program.inner_ends[step]
        for p in range(first, last):
            factor = slots[program.down[p]] * inverse
            if factor != 0:
                for q in range(first, last):
                    slots[program.inner[place + q - first]] -= factor * slots[program.along[q]]
                dx[program.beside[p]] -= factor * dx[k]
            place += last - first
    for step in range(program.order.size - 1, -1, -1):
        k = program.order[step]
        left = dx[k]
        for q in range(program.ends[step], program.ends[step + 1]):
            left -= slots[program.along[q]] * dx[program.beside[q]]
        dx[k] = left / slots[program.pivot[step]]
        sound = sound and np.isfinite(dx[k])
    return sound


@compiled
def signs_rows(w: Wiring, v: Values, rows: Ints, x: Floats, modes: Ints, on: Bench) -> Ints:
    """By row the sign of the determinant of its slopes; 0 where the equations want to be exchanged, or nothing is left of them.

    Rows and columns are eliminated in one order, so the sign is that of the pivots alone.
    """
    program = w.program
    signs = np.zeros(rows.size, np.int64)
    for at in range(rows.size):
        r = rows[at]
        fill(w, v, r, x[r], modes[r], False, False, on)
        on.dx[:] = 0.0
        if eliminate(w, on):
            sign = 1
            for step in range(program.order.size):
                if on.slots[program.pivot[step]] < 0:
                    sign = -sign
            signs[at] = sign
    return signs


@compiled
def slopes_row(w: Wiring, v: Values, r: int, x: Floats, modes: Ints, on: Bench) -> Floats:
    """The slopes of a row as a full matrix (size, size)."""
    fill(w, v, r, x, modes, False, False, on)
    return full_slopes(w, on)


@compiled
def full_slopes(w: Wiring, on: Bench) -> Floats:
    full = np.zeros((w.size, w.size))
    for k in range(w.slot_row.size):
        full[w.slot_row[k], w.slot_column[k]] = on.slots[k]
    return full


@compiled
def solve_step(w: Wiring, v: Values, r: int, x: Floats, modes: Ints, flat: bool, ohmic: bool, brake: float, on: Bench) -> None:  # fmt: skip
    """The Newton step of a row whose slopes are filled, into `dx`."""
    _brake(w, brake, on)
    on.dx[:] = -on.f
    if eliminate(w, on):
        return
    fill(w, v, r, x, modes, flat, ohmic, on)
    _brake(w, brake, on)
    on.dx[:] = np.linalg.solve(full_slopes(w, on), -on.f)


@compiled
def _brake(w: Wiring, brake: float, on: Bench) -> None:
    if brake > 0:
        for i in range(w.nodes):
            on.slots[w.diagonal[i]] += brake


@compiled
def change_modes(w: Wiring, v: Values, r: int, x: Floats, modes: Ints, flips: Ints, wide: bool) -> bool:
    """Modes after a step, in place; whether any changed. A mode changes only when its own answer contradicts it.

    After a `wide` step the answer is only half one: a row that has gone back and forth waits for a better.
    """
    restless = False
    for k in range(w.inp.size):
        restless = restless or flips[k] > RESTLESS_FLIPS
    doubt = DOUBT_FRAC if restless and wide else 0.0
    changed = False
    for k in range(w.inp.size):
        mode, amps, gnd = modes[k], x[w.nodes + k], _volts(x, w.gnd[k])
        input_v, output_v = _volts(x, w.inp[k]) - gnd, _volts(x, w.out[k]) - gnd
        powered, after = _powered(v, r, k, input_v), mode
        if mode == CONDUCTING:
            if amps > v.limit_a[r, k] * (1 + doubt):
                after = LIMITING
            if amps < -1e-6 and not v.sinks[k]:
                after = OFF
        elif mode == LIMITING:
            if output_v > target_of(v, r, k, input_v, v.limit_a[r, k])[0] + 1e-6:
                after = CONDUCTING
        elif powered and flips[k] <= MAX_FLIPS and output_v < target_of(v, r, k, input_v, 0.0)[0] - 1e-6:
            after = CONDUCTING
        if not powered:
            after = OFF
        if after != mode:
            modes[k] = after
            flips[k] += 1
            changed = True
            if restless:  # several changing at once can go round in circles; the first alone cannot (least-index rule)
                return True
    return changed


@compiled
def advance(w: Wiring, v: Values, r: int, x: Floats, modes: Ints, flips: Ints, widest_v: float, on: Bench) -> tuple[float, bool]:  # fmt: skip
    """Take a bounded step and update modes: how far it would have gone [V], and whether a mode changed."""
    moved = 0.0
    for i in range(w.nodes):
        moved = max(moved, abs(on.dx[i]))
    share = min(1.0, widest_v / max(moved, 1e-12))
    for i in range(w.size):
        x[i] += share * on.dx[i]
    return moved, change_modes(w, v, r, x, modes, flips, moved >= CALM_V)


@compiled
def settled(w: Wiring, bound_a: Floats, calm: bool, on: Bench) -> tuple[float, bool]:
    """The largest residual, and whether the row has arrived."""
    left, inside = 0.0, True
    for i in range(w.size):
        size = abs(on.f[i])
        left = max(left, size)
        inside = inside and size < bound_a[i]
    return left, inside and calm


@compiled
def newton_rows(
    w: Wiring, v: Values, rows: Ints, x: Floats, modes: Ints, flips: Ints, converged: Bools, residual: Floats, calm: Bools,
    bound_a: Floats, on: Bench,
) -> int:  # fmt: skip
    """`iteration.newton` for these rows, in place; the most steps any took."""
    most = 0
    for r in rows:
        for step in range(NEWTON_STEPS):
            fill(w, v, r, x[r], modes[r], False, False, on)
            residual[r], converged[r] = settled(w, bound_a, calm[r], on)
            tired = step >= PATIENCE and flips[r].size > 0 and flips[r].max() > RESTLESS_FLIPS
            if converged[r] or tired:
                break
            near = calm[r] and residual[r] < NEAR_A
            limiting = False
            for k in range(modes.shape[1]):
                limiting = limiting or modes[r, k] == LIMITING
            ohmic = limiting and not near
            if ohmic:
                fill(w, v, r, x[r], modes[r], False, True, on)
            solve_step(w, v, r, x[r], modes[r], False, ohmic, 0.0, on)
            moved, changed = advance(w, v, r, x[r], modes[r], flips[r], 40.0 if step < 5 else 5.0, on)
            calm[r] = not changed and moved < CALM_V
            most = max(most, step + 1)
    return most


@compiled
def creep_rows(
    w: Wiring, v: Values, rows: Ints, x: Floats, modes: Ints, flips: Ints, converged: Bools, residual: Floats, calm: Bools,
    bound_a: Floats, on: Bench, steps: int, fallen_v: Floats,
) -> int:  # fmt: skip
    """`iteration.creep` for these rows, in place; with `fallen_v` (rows, loads) those in which a load stays under it are left."""
    most = 0
    for r in rows:
        storage, fallen, stride, near = CREEP_SIEMENS, 0, 1.0, False
        for step in range(steps):
            flat = not near  # as for the step before: mostly the slopes that are wanted
            fill(w, v, r, x[r], modes[r], flat, False, on)
            before = residual[r]
            residual[r], converged[r] = settled(w, bound_a, calm[r], on)
            if converged[r]:
                break
            if fallen_v.size:
                under = False
                for k in range(w.load_p.size):
                    under = under or on.under[k] < fallen_v[r, k]
                fallen = fallen + 1 if under else 0
                if fallen >= FALLEN_STEPS:
                    break
            near = calm[r] and residual[r] < NEAR_A
            limiting, tired = False, False
            for k in range(modes.shape[1]):
                limiting = limiting or modes[r, k] == LIMITING
                tired = tired or flips[r, k] > RESTLESS_FLIPS
            ohmic = near and limiting and tired
            brake = 0.0 if near else storage
            if ohmic or flat == near:
                fill(w, v, r, x[r], modes[r], not near, ohmic, on)
            solve_step(w, v, r, x[r], modes[r], not near, ohmic, brake, on)
            # Hardly over a limit, a load that keeps its amps misses the same few at all volts down to its knee.
            stride = 2 * stride if ohmic and residual[r] > 0.99 * before else 1.0
            on.dx[:] = stride * on.dx
            moved, changed = advance(w, v, r, x[r], modes[r], flips[r], 5.0, on)
            calm[r] = not changed and moved < CALM_V
            storage *= 0.1 if moved < 0.1 else 0.3 if moved < 1.0 else 1.6
            if changed:  # a changed mode is a new situation, to be approached with the brake on again
                storage = max(storage, CREEP_SIEMENS)
            most = max(most, step + 1)
    return most
