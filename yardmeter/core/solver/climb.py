"""How much of its load a circuit carries, come to as a craft comes to it: from nothing, with more and more of the load put on.

Tries go by Newton's steps from the greatest share that stood, in machine code. What is taken at a share is that share of what
is taken at the same volts under all of the load, so the first step is the tangent there; where loads only take more as their
volts fall, the tangent lies above the branch and all steps come down on it from above (monotone convergence, textbook). One
that finds a load under its volts or the slopes' determinant turned is past a fold then. But beyond a fold volts may snap down
and everything still be carried, and where regulators start and stop a try may fail that would have stood: so where tries end a
little more is put on with patience, and if that stands they go on from there.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.solver.assembly import Assembly, with_reference
from yardmeter.core.solver.circuit import Bools, Circuit, Floats, Ints, Solution, having
from yardmeter.core.solver.dc import solve_dc
from yardmeter.core.solver.iteration import CREEP_STEPS, Probe, bound_a
from yardmeter.core.solver.law_loops import grown
from yardmeter.core.solver.laws import load_current
from yardmeter.core.solver.rows import scaled, take_rows, take_solution
from yardmeter.core.solver.rowwise import (
    CALM_V,
    Bench,
    Values,
    Wiring,
    advance,
    eliminate,
    fill,
    full_slopes,
    ready,
    settled,
)

WHOLE = 2048
"""Parts of the load that a share is found in."""
TRY_STEPS = 12
"""Newton's steps of a try: near a fold each halves the way to it, so that a part in 2,000 is come by in nine."""
NEARLY = 64
"""With so much of its share more a row past a fold is looked at with patience: nearer to it that takes long."""
WIDEST_V = 40.0
"""No step of a try goes farther [V], as none of an iteration's first does."""
ALIVE_V = 0.5
"""What has less without a load is not fed at all."""
FOLD_FRAC = 0.5
"""A constant power through a resistance folds at half the unloaded volts (circuit theory); below that it has collapsed."""


@dataclass
class Carried:
    """What rows carry: `share` (rows,) in parts of `WHOLE`, and how far the volts of nodes have gone up when something has fallen
    with a little more (rows, nodes) [V]."""

    share: Ints
    going_v: Floats


def carried(assembly: Assembly, circuit: Circuit, unloaded: Solution) -> Carried:
    """The greatest shares of a `circuit`'s whole load up to which everything that draws keeps half its `unloaded` volts.

    Rows that have no unloaded point carry nothing.
    """
    fallen_v = _fallen_v(circuit, unloaded)
    x = np.ascontiguousarray(np.concatenate([unloaded.volts, unloaded.converter_a], axis=1))
    modes, share = unloaded.modes.copy(), np.zeros(circuit.rows, np.int64)
    going_v = np.zeros((circuit.rows, circuit.nodes))
    w, v, on = ready(assembly, circuit)
    whole, bound = v.load.copy(), bound_a(circuit)

    def stood(rows: Ints) -> Solution:
        volts, amps = x[rows, : circuit.nodes], x[rows, circuit.nodes :]
        return having(take_solution(unloaded, rows), volts=volts, converter_a=amps, modes=modes[rows])

    rows = np.flatnonzero(unloaded.converged)
    while rows.size:
        climb_rows(w, v, rows, whole, share, x, modes, fallen_v, bound, on)
        rows = rows[share[rows] < WHOLE]
        farther = np.minimum(share[rows] + 1 + share[rows] // NEARLY, WHOLE)
        found, stands = _with_more(assembly, take_rows(circuit, rows), farther, stood(rows), fallen_v[rows])
        going_v[rows] = found.volts - x[rows, : circuit.nodes]
        rows = rows[stands]
        share[rows] = farther[stands]
        x[rows] = np.concatenate([found.volts, found.converter_a], axis=1)[stands]
        modes[rows] = found.modes[stands]
    return Carried(share, going_v)


def _with_more(
    assembly: Assembly, circuit: Circuit, share: Ints, near: Solution, fallen_v: Floats
) -> tuple[Solution, Bools]:
    """Where rows come to with so much of their load, and which of them stand there."""
    more = having(circuit, loads=scaled(circuit.loads, share[:, None] / WHOLE))
    found = solve_dc(more, assembly, near, probe=Probe(CREEP_STEPS, fallen_v))
    return found, found.converged & (_load_v(circuit, found.volts) >= fallen_v).all(axis=1)


def _load_v(circuit: Circuit, volts: Floats) -> Floats:
    at = with_reference(volts)
    return at[:, circuit.loads.p] - at[:, circuit.loads.n]


def _fallen_v(circuit: Circuit, unloaded: Solution) -> Floats:
    """Volts under which a load is not carried any more (rows, loads); none for what does not draw where it has all its volts."""
    load_v = _load_v(circuit, unloaded.volts)
    fed = (load_v > ALIVE_V) & (load_current(circuit.loads, load_v)[0] > 0)
    return np.ascontiguousarray(np.where(fed, FOLD_FRAC * load_v, -np.inf))


@compiled
def climb_rows(
    w: Wiring, v: Values, rows: Ints, whole: Floats, share: Ints, x: Floats, modes: Ints, fallen_v: Floats, bound: Floats, on: Bench
) -> None:  # fmt: skip
    """Move rows as far up as tries stand, in place; `v.load` is written over with what the `whole` load is at the shares tried."""
    for r in rows:
        reach, over = WHOLE // 2, WHOLE
        while share[r] < WHOLE:
            tried = share[r] + reach
            at, state = x[r].copy(), modes[r].copy()
            if _stands(w, v, r, tried / WHOLE, whole[r], at, state, fallen_v[r], bound, on):
                share[r] = tried
                x[r], modes[r] = at, state
                if tried >= over:  # what failed there stands when it is come to from nearer
                    over = WHOLE
                reach *= 2
            elif reach == 1:
                break
            else:
                over = tried
            reach = max(1, min(reach, (over - share[r]) // 2))


@compiled
def _stands(
    w: Wiring, v: Values, r: int, share: float, whole: Floats, x: Floats, modes: Ints, fallen_v: Floats, bound: Floats, on: Bench
) -> bool:  # fmt: skip
    """Whether Newton's steps from `x` arrive at a point where everything is carried, written into `x` and `modes`."""
    for k in range(w.load_p.size):
        v.load[r, k] = grown(v.law[k], whole[k], share)
    flips, calm = np.zeros(modes.size, np.int64), False
    for step in range(TRY_STEPS):
        fill(w, v, r, x, modes, False, False, on)
        if step:
            for k in range(w.load_p.size):
                if on.under[k] < fallen_v[k]:
                    return False
            if settled(w, bound, calm, on)[1]:
                return True
        if not _step(w, on):
            return False
        moved, changed = advance(w, v, r, x, modes, flips, WIDEST_V, on)
        calm = not changed and moved < CALM_V
    return False


@compiled
def _step(w: Wiring, on: Bench) -> bool:
    """The Newton step from slopes that are filled, into `dx`; False where their determinant has turned: past a fold."""
    kept = on.slots.copy()
    on.dx[:] = -on.f
    if eliminate(w, on):
        turned = False
        for step in range(w.program.order.size):
            if on.slots[w.program.pivot[step]] < 0:
                turned = not turned
        return not turned
    on.slots[:] = kept
    full = full_slopes(w, on)
    sign, _ = np.linalg.slogdet(full)
    if sign > 0:
        on.dx[:] = np.linalg.solve(full, -on.f)
    return bool(sign > 0)
