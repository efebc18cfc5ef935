"""Small-signal solution over frequency: admittances and controlled sources in, node voltages out. Knows no plan."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from yardmeter.core.solver.circuit import Floats, Ints

Complex = NDArray[Any]
"""Complex values; NumPy's own types lose that in mixed arithmetic."""
LEAK_SIEMENS = 1e-9
CHUNK = 128
"""Frequencies solved together; bounds the memory of a sweep."""


@dataclass(frozen=True)
class AcCircuit:
    """Two-terminal branches from `a` to `b` and controlled sources that carry `gain · (v(c) − v(d))` from `p` to `n`.

    Node −1 is the reference. `siemens` (frequencies, branches) and `gain` (frequencies, sources) are complex.
    """

    nodes: int
    a: Ints
    b: Ints
    siemens: Complex
    p: Ints
    n: Ints
    c: Ints
    d: Ints
    gain: Complex


def solve_ac(circuit: AcCircuit, injected: Complex) -> Complex:
    """Node voltages (frequencies, nodes + 1, cases), the last node the reference.

    `injected` are currents into nodes, (nodes, cases) or (frequencies, nodes, cases).
    """
    matrix = admittance_matrix(circuit)
    count, size = matrix.shape[:2]
    right = np.broadcast_to(injected, (count, *injected.shape[-2:]))
    found: Complex = np.zeros((count, size + 1, right.shape[2]), complex)
    for k in range(0, count, CHUNK):
        found[k : k + CHUNK, :-1] = np.linalg.solve(matrix[k : k + CHUNK], right[k : k + CHUNK])
    return found


def ports(nodes: int, a: Ints, b: Ints) -> Complex:
    """One ampere from node `b` to node `a` for each pair (nodes, pairs): what `changed` needs solved with the rest."""
    found: Complex = np.zeros((nodes + 1, a.size), complex)
    found[a, np.arange(a.size)] += 1
    found[b, np.arange(a.size)] -= 1
    return found[:-1]


def changed(volts: Complex, reach: Complex, a: Ints, b: Ints, siemens: Complex) -> Complex:
    """What `volts` (frequencies, nodes + 1, cases) become when branches from `a` to `b` get `siemens` (frequencies, branches) more.

    `reach` is the solution for `ports` of the same branches. Woodbury's identity: exact, without solving again.
    """
    across = reach[:, a] - reach[:, b]
    inner = np.eye(a.size) + siemens[:, :, None] * across
    flowing = np.linalg.solve(inner, siemens[:, :, None] * (volts[:, a] - volts[:, b]))
    found: Complex = volts - reach @ flowing
    return found


def admittance_matrix(circuit: AcCircuit) -> Complex:
    """The node admittance matrices (frequencies, nodes, nodes)."""
    size = circuit.nodes
    filled, scatter = _pattern(size, *(tuple(ends.tolist()) for ends in (circuit.a, circuit.b, circuit.p, circuit.n, circuit.c, circuit.d)))  # fmt: skip
    entries = np.concatenate([circuit.siemens, circuit.gain], axis=1)
    matrix: Complex = np.zeros((entries.shape[0], size * size), complex)
    matrix[:, filled] = (scatter @ entries.T).T
    matrix[:, np.arange(size) * (size + 1)] += LEAK_SIEMENS
    return matrix.reshape(-1, size, size)


@lru_cache(64)
def _pattern(size: int, *ends: tuple[int, ...]) -> tuple[Ints, csr_matrix]:
    """Which places of the matrix are ever filled, and how branches and sources add up to them.

    Conditions of a plan, and its edits, mostly differ in values alone, so it is kept.
    """
    a, b, p, n, c, d = (np.array(one, np.int64) for one in ends)
    first, then = np.arange(a.size), a.size + np.arange(p.size)
    stamps = [(a, a, first, 1), (b, b, first, 1), (a, b, first, -1), (b, a, first, -1)]
    stamps += [(p, c, then, 1), (p, d, then, -1), (n, c, then, -1), (n, d, then, 1)]
    place = np.concatenate([np.where((i < 0) | (j < 0), -1, i * size + j) for i, j, _, _ in stamps])
    column = np.concatenate([k for _, _, k, _ in stamps])
    sign = np.concatenate([np.full(k.size, one, float) for _, _, k, one in stamps])
    keep = place >= 0
    filled, slot = np.unique(place[keep], return_inverse=True)
    return filled, csr_matrix((sign[keep], (slot, column[keep])), shape=(filled.size, a.size + p.size))


def log_sweep(start_hz: float, stop_hz: float, count: int) -> Floats:
    """Frequencies evenly spaced on a logarithmic scale [Hz]."""
    found: Floats = np.logspace(np.log10(start_hz), np.log10(stop_hz), count)
    return found
