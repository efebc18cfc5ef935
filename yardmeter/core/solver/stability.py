"""Whether an operating point is one a circuit can stand at.

With a capacitance at every node the volts move by `C dv/dt = −G dv`, G being the slopes of the node currents with the
converters' own unknowns eliminated. A point is left for good as soon as one eigenvalue of G has a negative real part
(linear stability, textbook): a constant power behind a source at its current limit is the usual case.
"""

from __future__ import annotations

import numpy as np

from yardmeter.core.solver.assembly import SPARSE_FROM, Assembly
from yardmeter.core.solver.circuit import LIMITING, Bools, Circuit, Floats, Ints
from yardmeter.core.solver.rows import take_rows

NEGATIVE_S = -1e-6
"""An eigenvalue below this is no rounding [S]: nodes that nothing steadies stand at their leak, just above zero."""


def unstable(assembly: Assembly, circuit: Circuit, x: Floats, modes: Ints) -> Bools:
    """Which rows stand at a point they would leave (rows,), from unknowns `x` (rows, n+m) and modes (rows, m).

    The sign of the determinant tells an odd number of negative eigenvalues and costs next to nothing; they are worked out
    where a converter sits at its limit, without which two at once are hard to come by. Large circuits are looked at only
    there, and by the determinant's sign alone.
    """
    from yardmeter.core.solver import rowwise  # compiled code is loaded when there is something to solve

    found = np.zeros(circuit.rows, bool)
    limiting: Bools = (modes == LIMITING).any(axis=1)
    large = assembly.size >= SPARSE_FROM
    rows = np.flatnonzero(limiting) if large else np.arange(circuit.rows)
    if not rows.size:
        return found
    x, modes = np.ascontiguousarray(x), np.ascontiguousarray(modes)
    w, v, on = rowwise.ready(assembly, circuit)
    signs = rowwise.signs_rows(w, v, rows, x, modes, on)
    for at in np.flatnonzero(signs == 0).tolist():
        one = rows[at : at + 1]
        entries = assembly.jacobian(assembly.evaluate(take_rows(circuit, one), x[one], modes[one]))
        signs[at] = _sparse_sign(assembly, entries[0]) if large else np.linalg.slogdet(assembly.dense(entries)[0])[0]
    found[rows] = signs < 0
    for row in np.flatnonzero(limiting & ~found).tolist() if not large else ():
        full = rowwise.slopes_row(w, v, row, x[row], modes[row], on)
        found[row] = np.linalg.eigvals(_reduced(full, assembly.nodes)).real.min(initial=0.0) < NEGATIVE_S
    return found


def _reduced(full: Floats, nodes: int) -> Floats:
    """Node slopes with the converters' own unknowns eliminated (n, n)."""
    own = full[nodes:, nodes:]
    if not own.size:
        return full
    return np.asarray(full[:nodes, :nodes] - full[:nodes, nodes:] @ np.linalg.solve(own, full[nodes:, :nodes]))


def _sparse_sign(assembly: Assembly, entries: Floats) -> int:
    """Sign of one sparse Jacobian's determinant."""
    from scipy.sparse import csc_matrix
    from scipy.sparse.linalg import splu  # loaded by a large plan alone

    shape = assembly.size, assembly.size
    factors = splu(csc_matrix((entries, assembly.row, assembly.column_ends), shape=shape))
    negative = int((factors.U.diagonal() < 0).sum())
    return -1 if (negative + _parity(factors.perm_r) + _parity(factors.perm_c)) % 2 else 1


def _parity(order: Ints) -> int:
    """Whether a permutation is odd: its length less its cycles."""
    seen = np.zeros(order.size, bool)
    cycles = 0
    for start in range(order.size):
        if not seen[start]:
            cycles += 1
            at = start
            while not seen[at]:
                seen[at] = True
                at = int(order[at])
    return (order.size - cycles) % 2
