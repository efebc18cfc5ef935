"""The iteration behind an operating point: Newton with remembered converter modes, and creeping where it does not arrive."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from yardmeter.core.patience import go_on
from yardmeter.core.solver.assembly import Assembly
from yardmeter.core.solver.circuit import CONDUCTING, LIMIT_SLACK, LIMITING, OFF, Bools, Circuit, Floats, Ints, Solution
from yardmeter.core.solver.laws import open_volts
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
DOUBT_FRAC = 0.02
"""By how much a restless converter has to be over its limit for an answer far from settled to be believed."""
MAX_FLIPS = 20
"""Mode changes after which a creeping converter is held off: it would start and stop for ever."""
FALLEN_STEPS = 8
"""Steps in a row that a probe sees a load under its volts before it takes it for fallen: a step may dip and come back."""
TOGETHER = 16
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
    over = known[:, None] & (free.converter_a > circuit.converters.limit_a * (1 + LIMIT_SLACK))
    state.x[known] = np.concatenate([free.volts, free.converter_a], axis=1)[known]
    state.modes[known] = np.where(over, LIMITING, free.modes)[known]
    state.flips[over] = 1
    return state


def start(circuit: Circuit) -> State:
    c = circuit.converters
    none = np.zeros((circuit.rows, c.inp.size))
    x = np.concatenate([circuit.start_v, none], axis=1)
    at = Assembly.terminals(circuit, x)
    ahead = at.output_v <= open_volts(c, at.input_v) + 0.05
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
    """Newton steps for the rows that have not arrived; those whose converters are restless are left over."""
    from yardmeter.core.solver import rowwise  # compiled code is loaded when there is something to solve

    w, v, on = rowwise.ready(assembly, circuit)
    for rows in _parts(state):
        state.steps += rowwise.newton_rows(w, v, rows, *_arrays(state), on)


def creep(
    assembly: Assembly, circuit: Circuit, state: State, probe: Probe | None = None, steps: int = CREEP_STEPS
) -> None:
    """Pseudo-transient continuation: the step is braked by a capacitance at every node that shrinks as it settles.

    Far from a solution the falling current of power loads is left out of the slopes: with it a step may go the wrong
    way, up where the volts are collapsing. Near one it is put back and convergence is quadratic again.
    """
    from yardmeter.core.solver import rowwise

    w, v, on = rowwise.ready(assembly, circuit)
    fallen_v = np.ascontiguousarray(probe.fallen_v, float) if probe else np.zeros((0, 0))
    for rows in _parts(state):
        state.steps += rowwise.creep_rows(w, v, rows, *_arrays(state), on, probe.steps if probe else steps, fallen_v)


def _parts(state: State) -> Iterator[Ints]:
    """The rows that have not arrived, a few at a time: between them whoever waits may give up."""
    rows = np.flatnonzero(~state.converged)
    for first in range(0, rows.size, TOGETHER):
        go_on()
        yield rows[first : first + TOGETHER]


def _arrays(state: State) -> tuple[Floats, Ints, Ints, Bools, Floats, Bools, Floats]:
    return state.x, state.modes, state.flips, state.converged, state.residual, state.calm, state.bound_a
