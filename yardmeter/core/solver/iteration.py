"""The iteration behind an operating point: Newton with remembered converter modes, and creeping where it does not arrive."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.patience import go_on
from yardmeter.core.solver.assembly import Assembly, Evaluation
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING, OFF, Bools, Circuit, Floats, Ints, Solution
from yardmeter.core.solver.elements import InputCurrent, Target, target_volts
from yardmeter.core.solver.rows import take_rows

RESIDUAL_A = 1e-7
"""Largest current a node may be short of at the solution [A], beside what rounding makes of its volts."""
ROUNDING = 2e-15
"""Part of a voltage that arithmetic cannot tell: a few units in the last place."""
NEWTON_STEPS = 9
PATIENCE = 2
CREEP_STEPS = 120
CREEP_SIEMENS = 0.5
"""Capacitance over time step at every node where creeping starts [S]."""
NEAR_A = 1e-3
"""Residual from which a creeping row takes full Newton steps [A]."""
RESTLESS_FLIPS = 2
"""Mode changes of one converter after which a row creeps, and its converters change one at a time."""
LIMIT_SLACK = 1e-6
"""A converter within this of its limit still regulates: nearer than that no arithmetic tells the two apart."""
DOUBT_FRAC = 0.02
"""By how much a restless converter has to be over its limit for an answer far from settled to be believed."""
MAX_FLIPS = 20
"""Mode changes after which a creeping converter is held off: it would start and stop for ever."""
FALLEN_STEPS = 8
"""Steps in a row that a probe sees a load under its volts before it takes it for fallen: a step may dip and come back."""
CHORD_STEPS = 14
CALM_V = 0.05
"""A Newton step under this that leaves the residual within bounds has arrived: convergence is quadratic [V]."""


@dataclass
class State:
    """Working arrays of an iteration, changed in place row by row."""

    x: Floats
    modes: Ints
    flips: Ints
    converged: Bools
    residual: Floats
    bound_a: Floats
    """Largest residual of every unknown at a solution (n+m,) [A]."""
    calm: Bools
    """The last step was small and changed no mode."""
    steps: int = 0


@dataclass(frozen=True)
class Probe:
    """A question whether rows stand: followed for fewer steps, and no further once a load is under its `fallen_v` (rows, loads)."""

    steps: int
    fallen_v: Floats


def start_from(circuit: Circuit, free: Solution) -> State:
    """The free solution where there is one, with what is over its limit limiting; the nominal start elsewhere."""
    state = start(circuit)
    known = free.converged & ~free.hiccup.any(axis=1)
    over = known[:, None] & (free.converter_a > circuit.converters.limit_a)
    state.x[known] = np.concatenate([free.volts, free.converter_a], axis=1)[known]
    state.modes[known] = np.where(over, LIMITING, free.modes)[known]
    state.flips[over] = 1
    return state


def start(circuit: Circuit) -> State:
    c = circuit.converters
    none = np.zeros((circuit.rows, c.inp.size))
    x = np.concatenate([circuit.start_v, none], axis=1)
    at = Assembly.terminals(circuit, x)
    ahead = at.output_v <= target_volts(c, at.input_v, 0.0) + 0.05
    modes = np.where(at.powered & ahead, CONDUCTING, OFF).astype(np.int64)
    rows = circuit.rows
    flips, flags = np.zeros(none.shape, np.int64), np.zeros(rows, bool)
    return State(x, modes, flips, flags, np.full(rows, np.inf), bound_a(circuit), flags.copy())


def bound_a(circuit: Circuit) -> Floats:
    """What a node may be short of: thick copper makes amps of the last digit of its volts (n+m,) [A]."""
    wires = circuit.conductors
    siemens = np.zeros(circuit.nodes + 1)
    most = np.broadcast_to(wires.siemens, (circuit.rows, wires.a.size)).max(axis=0, initial=0.0)
    np.add.at(siemens, wires.a, most)
    np.add.at(siemens, wires.b, most)
    volts = np.abs(circuit.start_v).max(initial=1.0)
    return np.concatenate(
        [RESIDUAL_A + ROUNDING * volts * siemens[:-1], np.full(circuit.converters.inp.size, RESIDUAL_A)]
    )


def take_over(state: State, rows: Ints, found: State, which: Bools | None = None) -> None:
    """Rows as they were found elsewhere; `which` of those, where not all are taken."""
    for name in ("x", "modes", "flips", "converged", "residual"):
        values = getattr(found, name)
        getattr(state, name)[rows] = values if which is None else values[which]
    state.steps += found.steps


def creep_on(assembly: Assembly, circuit: Circuit, state: State, steps: int) -> None:
    """Creep along the rows Newton left over, from where they stand."""
    bad = np.flatnonzero(~state.converged)
    if not bad.size:
        return
    names = ("x", "modes", "flips", "converged", "residual", "calm")
    part = State(**{name: getattr(state, name)[bad] for name in names}, bound_a=state.bound_a)
    creep(assembly, take_rows(circuit, bad), part, steps=steps)
    for name in names:
        getattr(state, name)[bad] = getattr(part, name)
    state.steps += part.steps


def newton(assembly: Assembly, circuit: Circuit, state: State) -> None:
    active = np.flatnonzero(~state.converged)
    part = take_rows(circuit, active) if active.size < circuit.rows else circuit
    for step in range(NEWTON_STEPS):
        go_on()
        at = assembly.evaluate(part, state.x[active], state.modes[active])
        active, at = _settle(state, active, at)
        if step >= PATIENCE:
            settled: Bools = np.all(state.flips[active] <= RESTLESS_FLIPS, axis=1)
            active, at = _keep(active, at, settled)
        if not active.size:
            return
        part = at.circuit
        limiting = (state.modes[active] == LIMITING).any(axis=1) & ~_is_near(state, active)
        dx = -assembly.solve(assembly.jacobian(_as_resistances(at, limiting)), at.f)
        _advance(assembly, part, state, active, dx, 40.0 if step < 5 else 5.0)


def creep(
    assembly: Assembly, circuit: Circuit, state: State, probe: Probe | None = None, steps: int = CREEP_STEPS
) -> None:
    """Pseudo-transient continuation: the step is braked by a capacitance at every node that shrinks as it settles.

    Far from a solution the falling current of power loads is left out of the slopes: with it a step may go the wrong
    way, up where the volts are collapsing. Near one it is put back and convergence is quadratic again.
    """
    n = circuit.nodes
    storage = np.full(circuit.rows, CREEP_SIEMENS)
    fallen = np.zeros(circuit.rows, np.int64)
    active, part = np.arange(circuit.rows), circuit
    for _ in range(probe.steps if probe else steps):
        go_on()
        at = assembly.evaluate(part, state.x[active], state.modes[active])
        active, at = _settle(state, active, at)
        if probe:
            under = (at.load_v < probe.fallen_v[active]).any(axis=1)
            fallen[active] = np.where(under, fallen[active] + 1, 0)
            followed: Bools = fallen[active] < FALLEN_STEPS
            active, at = _keep(active, at, followed)
        if not active.size:
            return
        part = at.circuit
        near = _is_near(state, active)
        entries = assembly.jacobian(
            _as_resistances(_without_falling(at, ~near), near & _returns_to_limit(state, active))
        )
        entries[:, assembly.diagonal] += np.where(near, 0.0, storage[active])[:, None]
        dx = -assembly.solve(entries, at.f)
        moved = np.abs(dx[:, :n]).max(axis=1)
        flipped = _advance(assembly, part, state, active, dx, 5.0)
        # A changed mode is a new situation, to be approached with the brake on again.
        brake = storage[active] * np.where(moved < 0.1, 0.1, np.where(moved < 1.0, 0.3, 1.6))
        storage[active] = np.where(flipped, np.maximum(brake, CREEP_SIEMENS), brake)


def _is_near(state: State, active: Ints) -> Bools:
    near: Bools = state.calm[active] & (state.residual[active] < NEAR_A)
    return near


def _returns_to_limit(state: State, active: Ints) -> Bools:
    """Rows that have come back to a limit they had left: full steps lead to a point between, where no circuit stands."""
    limiting = (state.modes[active] == LIMITING).any(axis=1)
    back: Bools = limiting & (state.flips[active].max(axis=1, initial=0) > RESTLESS_FLIPS)
    return back


def _as_resistances(at: Evaluation, rows: Bools) -> Evaluation:
    """The evaluation with every flat or falling load taken as the resistance it is now, in these rows.

    Flat loads on a source at its limit give Newton no slope to follow. As resistances they scale the volts by limit over
    demand, which is where the loads' own resistive tails take over.
    """
    if not rows.any():
        return at
    steep = np.where(at.load_slope > 0, at.load_slope, at.load_chord)
    return replace(at, load_slope=np.where(rows[:, None], steep, at.load_slope))


def _without_falling(at: Evaluation, rows: Bools) -> Evaluation:
    """The evaluation with falling slopes flattened in these rows."""
    if not rows.any():
        return at
    flat = rows[:, None]
    load_slope = np.where(flat, np.maximum(at.load_slope, 0.0), at.load_slope)
    by_input = np.where(flat, np.maximum(at.taken.by_input, 0.0), at.taken.by_input)
    return replace(at, load_slope=load_slope, taken=replace(at.taken, by_input=by_input))


def _settle(state: State, active: Ints, at: Evaluation) -> tuple[Ints, Evaluation]:
    """Mark the rows whose currents balance, whose modes held and whose last step was small; return what still moves."""
    left = np.abs(at.f)
    state.residual[active] = left.max(axis=1, initial=0.0)
    done = (left < state.bound_a).all(axis=1) & state.calm[active]
    state.converged[active[done]] = True
    return _keep(active, at, ~done)


def _keep(active: Ints, at: Evaluation, wanted: Bools) -> tuple[Ints, Evaluation]:
    """Go on with the wanted rows only."""
    if wanted.all():
        return active, at
    keep = np.flatnonzero(wanted)
    taken, target = at.taken, at.target
    return active[keep], Evaluation(
        at.f[keep],
        take_rows(at.circuit, keep),
        at.conducting[keep],
        at.load_slope[keep],
        at.load_chord[keep],
        at.load_v[keep],
        InputCurrent(taken.amps[keep], taken.by_input[keep], taken.by_output[keep], taken.by_amps[keep]),
        Target(target.volts[keep], target.by_input[keep], target.by_current[keep], target.regulating[keep]),
    )


def chord(assembly: Assembly, circuit: Circuit, state: State, members: Ints, group: Ints) -> None:
    """Newton steps with one inverse Jacobian per group; modes stay, rows that contradict theirs are left over.

    With another's Jacobian a row may run away: what overflows settles nowhere, and is left over too.
    """
    with np.errstate(over="ignore", invalid="ignore"):
        _chord_steps(assembly, circuit, state, members, group)


def _chord_steps(assembly: Assembly, circuit: Circuit, state: State, members: Ints, group: Ints) -> None:
    groups, which = np.unique(group[members], return_inverse=True)
    first = members[[int(np.flatnonzero(which == k)[0]) for k in range(groups.size)]]
    at = assembly.evaluate(take_rows(circuit, first), state.x[first], state.modes[first])
    corrections = assembly.inverses(assembly.jacobian(at))
    part = take_rows(circuit, members)
    x, modes = state.x[members], state.modes[members]
    f = assembly.evaluate(part, x, modes).f
    for _ in range(CHORD_STEPS):
        go_on()
        if (np.abs(f) < state.bound_a).all():
            break
        for k in range(groups.size):
            mine = slice(None) if groups.size == 1 else which == k
            x[mine] -= corrections[k](f[mine])
        f = assembly.evaluate(part, x, modes).f
    left = np.abs(f)
    _, changed = next_modes(assembly, part, x, modes, np.zeros_like(modes))
    good = (left < state.bound_a).all(axis=1) & ~changed.any(axis=1)
    rows = members[good]
    state.x[rows], state.converged[rows], state.residual[rows] = x[good], True, left[good].max(axis=1)
    state.steps += 1


def _advance(assembly: Assembly, part: Circuit, state: State, active: Ints, dx: Floats, widest_v: float) -> Bools:
    """Take a bounded step and update modes; a row is calm when the step was small and no mode changed.

    Returns the rows in which a mode changed.
    """
    state.steps += 1
    size = np.abs(dx[:, : assembly.nodes]).max(axis=1, initial=0.0)
    state.x[active] += dx * np.minimum(1.0, widest_v / np.maximum(size, 1e-12))[:, None]
    modes, changed = next_modes(
        assembly, part, state.x[active], state.modes[active], state.flips[active], size >= CALM_V
    )
    state.modes[active] = modes
    state.flips[active] += changed
    flipped: Bools = np.any(changed, axis=1)
    state.calm[active] = ~flipped & (size < CALM_V)
    return flipped


def next_modes(
    assembly: Assembly, circuit: Circuit, x: Floats, modes: Ints, flips: Ints, wide: Bools | None = None
) -> tuple[Ints, Bools]:
    """Modes after a step, and which changed. A mode changes only when its own answer contradicts it.

    After a `wide` step (rows,) the answer is only half one: a row that has gone back and forth waits for a better.
    """
    c = circuit.converters
    amps = x[:, circuit.nodes :]
    at = assembly.terminals(circuit, x)
    open_v = target_volts(c, at.input_v, 0.0)
    after = modes.copy()
    conducting, limiting, off = modes == CONDUCTING, modes == LIMITING, modes == OFF
    restless = flips.max(axis=1, initial=0) > RESTLESS_FLIPS
    doubt = np.where(restless & wide, DOUBT_FRAC, 0.0)[:, None] if wide is not None else 0.0
    after[conducting & (amps > c.limit_a * (1 + LIMIT_SLACK + doubt))] = LIMITING
    after[conducting & (amps < -1e-6) & ~c.sinks] = OFF
    if limiting.any():
        after[limiting & (at.output_v > target_volts(c, at.input_v, c.limit_a) + 1e-6)] = CONDUCTING
    after[off & at.powered & (at.output_v < open_v - 1e-6) & (flips <= MAX_FLIPS)] = CONDUCTING
    after[~at.powered] = OFF
    changed = after != modes
    if restless.any():  # several changing at once can go round in circles; the first alone cannot (least-index rule)
        first = np.zeros_like(changed)
        first[np.arange(first.shape[0]), changed.argmax(axis=1)] = True
        changed &= first | ~restless[:, None]
        after = np.where(changed, after, modes)
    return after, changed
