"""Batched DC operating point by Newton's method with remembered converter modes.

Unknowns of a row: node voltages, then one output current per converter. Each converter has a row of its own and a
mode that changes only when its own answer contradicts it, after a Newton step. Where Newton does not arrive, the row
restarts with pseudo-transient continuation (a capacitance at every node, shrinking) and so follows a collapse as it
would happen.
"""

from __future__ import annotations

import numpy as np

from yardmeter.core.solver.assembly import Assembly, assembly_of
from yardmeter.core.solver.circuit import (
    CONDUCTING,
    LIMIT_SLACK,
    LIMITING,
    OFF,
    Bools,
    Circuit,
    Floats,
    Ints,
    Solution,
    having,
)
from yardmeter.core.solver.iteration import (
    CREEP_STEPS,
    MAX_FLIPS,
    Probe,
    State,
    bound_a,
    creep,
    creep_on,
    newton,
    start,
    start_from,
    take_over,
)
from yardmeter.core.solver.laws import open_volts
from yardmeter.core.solver.rows import held_off, put_rows, scaled, take_rows, take_solution
from yardmeter.core.solver.stability import unstable

CONVERTER_STEPS = 40
"""Converters that start and stop for ever are found out one after another: the first way is so much longer for each."""
HICCUP_V = 1e-3
RAMP_STEPS = 20
"""Loads grow in so many steps when a point has to be come at as a craft powers up."""
LOST_STEPS, LOST_CREEP_STEPS = 2, 20
"""Rows without a point under so many loads in a row creep only so far under the next ones, and all the way under the last."""
FLOATS_V = 0.5
SAME_V = 1e-3
"""Converters that reach their stop within this of each other stop together [V]."""


def solve_dc(
    circuit: Circuit, assembly: Assembly | None = None, free: Solution | None = None, *, probe: Probe | None = None
) -> Solution:
    """Operating points of all rows. Never raises for an overload: look at `converged`, `modes`, `hiccup` and `gives_up`.

    An `assembly` of the same topology may be handed in to save making it again, and the solution of the same rows
    without current limits (`free`) as a nearer start: what was over its limit there starts at it. Who only wants to
    know whether rows stand asks with a `probe`; rows that it finds fallen are not converged.
    """
    assembly = assembly or assembly_of(circuit)
    found = _solved(assembly, circuit, free, probe)
    return found if probe else _without_given_up(assembly, circuit, found)


def solve_as_given(circuit: Circuit, assembly: Assembly) -> Solution:
    """Operating points of all rows by the way a condition's is found: without current limits, then those over one with them."""
    unlimited = np.full_like(circuit.converters.limit_a, np.inf)
    free = solve_dc(having(circuit, converters=having(circuit.converters, limit_a=unlimited)), assembly)
    rows = np.flatnonzero(over_limits(free, circuit.converters.limit_a))
    if not rows.size:
        return free
    found = solve_dc(take_rows(circuit, rows), assembly, take_solution(free, rows))
    return put_rows(free, rows, found)


def over_limits(free: Solution, limit_a: Floats) -> Bools:
    """Per row of a solution without limits, whether a converter would cut off, or no steady point was found (rows,).

    One that takes its own input down may, at its limit, take less.
    """
    over: Bools = (
        (free.converter_a > limit_a * (1 + LIMIT_SLACK)).any(axis=1) | ~free.converged | free.hiccup.any(axis=1)
    )
    return over


def _solved(assembly: Assembly, circuit: Circuit, free: Solution | None = None, probe: Probe | None = None) -> Solution:
    state = start(circuit) if free is None else start_from(circuit, free)
    if probe is None:  # where nothing stands Newton's steps may end at a point that is never come to
        newton(assembly, circuit, state)
    return _finish(assembly, circuit, state, free, probe)


def _without_given_up(assembly: Assembly, circuit: Circuit, found: Solution) -> Solution:
    """Rows in which a converter stands at a limit it does not stand at: again with it held off, until none does.

    Those at their limit together give up together: each stands it as long as the others.
    """
    held = np.zeros_like(found.gives_up)
    for _ in range(circuit.converters.inp.size):
        at_limit = found.converged[:, None] & (found.modes == LIMITING) & circuit.converters.gives_up
        rows = np.flatnonzero(at_limit.any(axis=1))
        if not rows.size:
            break
        held[rows] |= at_limit[rows]
        again = _held(assembly, held_off(take_rows(circuit, rows), held[rows]), take_solution(found, rows))
        found = put_rows(found, rows, again)
    return having(found, gives_up=held)


def _held(assembly: Assembly, part: Circuit, before: Solution) -> Solution:
    """Rows from where they stood `before` some converters were held off: what nothing feeds any more falls, and nothing else is raised."""
    state = start(part)
    state.x[:] = np.concatenate([before.volts, before.converter_a * part.converters.enabled], axis=1)
    state.modes[:] = np.where(part.converters.enabled, before.modes, OFF)
    newton(assembly, part, state)
    return _finish(assembly, part, state)


def solve_dc_near(circuit: Circuit, base: Solution, group: Ints, assembly: Assembly | None = None) -> Solution:
    """Operating points of many rows that lie near known ones: row r starts at row `group[r]` of `base`.

    Those that arrive from there in the base's own modes are trusted to be as stable.
    """
    assembly = assembly or assembly_of(circuit)
    x = np.concatenate([base.volts, base.converter_a], axis=1)[group]
    rows = circuit.rows
    state = State(
        x,
        base.modes[group].copy(),
        np.zeros_like(base.modes[group]),
        np.zeros(rows, bool),
        np.full(rows, np.inf),
        bound_a(circuit),
        np.zeros(rows, bool),
    )
    newton(assembly, circuit, state)
    near = state.converged & base.converged[group] & ~state.flips.any(axis=1)
    return _without_given_up(assembly, circuit, _finish(assembly, circuit, state, trusted=near))


def solve_after_dip(circuit: Circuit, assembly: Assembly | None = None) -> Solution:
    """Where rows end that have fallen to nothing and come back under their whole load, as after a short or a bad contact.

    A row whose way back ends nowhere, or where no circuit stands, is not converged.
    """
    assembly = assembly or assembly_of(circuit)
    return _handed_out(assembly, circuit, _from_nothing(assembly, circuit))


def _from_nothing(assembly: Assembly, circuit: Circuit) -> State:
    state = start(circuit)
    state.x[:] = 0.0
    state.modes[:] = np.where(assembly.terminals(circuit, state.x).powered, CONDUCTING, OFF)
    creep(assembly, circuit, state)
    state.converged &= ~unstable(assembly, circuit, state.x, state.modes)
    return state


def _finish(
    assembly: Assembly,
    circuit: Circuit,
    state: State,
    free: Solution | None = None,
    probe: Probe | None = None,
    trusted: Bools | None = None,
) -> Solution:
    """Creep along the rows Newton left over, leave what no circuit stands at, then hand everything out.

    `trusted` rows lie so near a stable point, in the same modes, that they are not looked at again.
    """
    bad = np.flatnonzero(~state.converged)
    if bad.size:
        part = take_rows(circuit, bad)
        again = start(part) if free is None else start_from(part, take_solution(free, bad))
        steps = CREEP_STEPS + CONVERTER_STEPS * circuit.converters.inp.size
        creep(assembly, part, again, probe and Probe(probe.steps, probe.fallen_v[bad]), steps)
        take_over(state, bad, again)
        if probe is None:
            _leave_off(assembly, circuit, state)
            _let_on_again(assembly, circuit, state)
    if probe is None:
        _power_up_again(assembly, circuit, state, trusted)
    return _handed_out(assembly, circuit, state)


def _leave_off(assembly: Assembly, circuit: Circuit, state: State) -> None:
    """Rows left over in which converters have stopped, or are off with an input that floats about their stop: those sleep.

    What such a one takes to be awake may move its input over its stop and back for ever.
    """
    at_stop = np.abs(assembly.terminals(circuit, state.x).input_v - circuit.converters.stop_v) < FLOATS_V
    asleep = ((state.flips > MAX_FLIPS) | at_stop) & (state.modes == OFF)
    rows = np.flatnonzero(~state.converged & asleep.any(axis=1))
    if not rows.size:
        return
    part = held_off(take_rows(circuit, rows), asleep[rows])
    again = start(part)
    again.x[:], again.flips[:], again.modes[:] = (
        state.x[rows],
        state.flips[rows],
        np.where(part.converters.enabled, state.modes[rows], OFF),
    )
    again.x[:, part.nodes :] *= part.converters.enabled
    newton(assembly, part, again)
    creep_on(assembly, part, again, LOST_CREEP_STEPS)
    take_over(state, rows[again.converged], again, again.converged)


def _let_on_again(assembly: Assembly, circuit: Circuit, state: State) -> None:
    """Converters held off for switching too often: again those that stand, in the order in which they would stop last.

    On the way to a point one that idles may switch as often as the one that starts and stops for ever. Of several that a source
    cannot feed together the one stops whose input comes to its stop first; what comes there at once stops at once.
    """
    held = (state.flips > MAX_FLIPS) & (state.modes == OFF) & assembly.terminals(circuit, state.x).powered
    for row in np.flatnonzero(state.converged & held.any(axis=1)).tolist():
        part = take_rows(circuit, np.array([row]))
        margins: list[tuple[float, int]] = []
        for k in np.flatnonzero(held[row]).tolist():
            alone = _with_on(assembly, part, state, row, [k])
            if alone is not None:
                at = assembly.terminals(part, alone.x)
                margins.append((float(at.input_v[0, k] - part.converters.stop_v[0, k]), k))
        margins.sort(reverse=True)
        while margins:
            together = [k for margin, k in margins if margin > margins[0][0] - SAME_V]
            margins = margins[len(together) :]
            found = _with_on(assembly, part, state, row, together)
            if found is None:
                break
            take_over(state, np.array([row]), found)


def _with_on(assembly: Assembly, part: Circuit, state: State, row: int, on: list[int]) -> State | None:
    """One row with some converters on, its others as they are; None where no circuit stands so."""
    again, n = start(part), part.nodes
    again.x[:], again.modes[:], again.flips[:] = state.x[row], state.modes[row], state.flips[row]
    again.modes[:, on], again.flips[:, on] = CONDUCTING, 0
    volts = open_volts(part.converters, assembly.terminals(part, again.x).input_v)
    for k in on:
        out, gnd = int(part.converters.out[k]), int(part.converters.gnd[k])
        again.x[:, out] = volts[:, k] + (again.x[:, gnd] if 0 <= gnd < n else 0.0)
    newton(assembly, part, again)
    creep_on(assembly, part, again, LOST_CREEP_STEPS)
    stands = again.converged & ~unstable(assembly, part, again.x, again.modes) & (again.modes[:, on] != OFF).all(axis=1)
    return again if stands[0] else None


def _handed_out(assembly: Assembly, circuit: Circuit, state: State) -> Solution:
    n = circuit.nodes
    at = assembly.terminals(circuit, state.x)
    wanted = at.powered & (at.output_v < open_volts(circuit.converters, at.input_v) - HICCUP_V)
    # Held off, its input has to come back to where it starts, or it has stopped for good.
    hiccup: Bools = (
        (state.flips > MAX_FLIPS) & (state.modes == OFF) & wanted & (at.input_v >= circuit.converters.start_v)
    )
    return Solution(
        state.x[:, :n],
        state.x[:, n:],
        state.modes,
        state.converged,
        state.residual,
        state.steps,
        hiccup,
        np.zeros_like(hiccup),
    )


def _power_up_again(assembly: Assembly, circuit: Circuit, state: State, trusted: Bools | None) -> None:
    """Rows without a point, or at one where no circuit stands: again under little load that grows, as a craft powers up.

    One that finds no stable point on that way, nor on the way from nothing under its whole load, is not converged.
    """
    asked = np.flatnonzero(state.converged if trusted is None else state.converged & ~trusted)
    part = take_rows(circuit, asked)
    left = asked[unstable(assembly, part, state.x[asked], state.modes[asked])] if asked.size else asked
    rows = np.concatenate([left, np.flatnonzero(~state.converged)])
    if not rows.size:
        return
    part = take_rows(circuit, rows)
    again, failed = start(part), np.zeros(rows.size, np.int64)
    for share in np.linspace(1 / RAMP_STEPS, 1.0, RAMP_STEPS):
        loaded = having(part, loads=scaled(part.loads, float(share)))
        again.converged[:] = False
        again.calm[:] = False
        again.flips[:] = 0
        newton(assembly, loaded, again)
        hopeful = share == 1.0 or (failed < LOST_STEPS)[~again.converged].any()
        creep_on(assembly, loaded, again, CREEP_STEPS if hopeful else LOST_CREEP_STEPS)
        failed = np.where(again.converged, 0, failed + 1)
    again.converged &= ~unstable(assembly, part, again.x, again.modes)
    take_over(state, rows, again)
    fallen = rows[~again.converged]
    if fallen.size:  # the point it had is gone, so it has fallen: what it comes back to from nothing is where it ends
        back = _from_nothing(assembly, take_rows(circuit, fallen))
        take_over(state, fallen[back.converged], back, back.converged)
