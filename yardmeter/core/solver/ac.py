"""Small-signal solution over frequency: admittances and controlled sources in, node voltages out. Knows no plan."""

from __future__ import annotations

from dataclasses import dataclass
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
    """Node voltages (frequencies, nodes, cases) for currents injected into nodes, (nodes, cases) or (frequencies, nodes, cases)."""
    matrix = admittance_matrix(circuit)
    count = matrix.shape[0]
    right = np.broadcast_to(injected, (count, *injected.shape[-2:]))
    parts = [np.linalg.solve(matrix[k : k + CHUNK], right[k : k + CHUNK]) for k in range(0, count, CHUNK)]
    found: Complex = np.concatenate(parts)
    return found


def admittance_matrix(circuit: AcCircuit) -> Complex:
    """The node admittance matrices (frequencies, nodes, nodes)."""
    size = circuit.nodes
    first, then = np.arange(circuit.a.size), circuit.a.size + np.arange(circuit.p.size)
    a, b, p, n, c, d = circuit.a, circuit.b, circuit.p, circuit.n, circuit.c, circuit.d
    stamps = [(a, a, first, 1), (b, b, first, 1), (a, b, first, -1), (b, a, first, -1)]
    stamps += [(p, c, then, 1), (p, d, then, -1), (n, c, then, -1), (n, d, then, 1)]
    place = np.concatenate([np.where((i < 0) | (j < 0), -1, i * size + j) for i, j, _, _ in stamps])
    column = np.concatenate([k for _, _, k, _ in stamps])
    sign = np.concatenate([np.full(k.size, one, float) for _, _, k, one in stamps])
    keep = place >= 0
    # Few of the places are ever filled; only those are worked out.
    filled, slot = np.unique(place[keep], return_inverse=True)
    scatter = csr_matrix((sign[keep], (slot, column[keep])), shape=(filled.size, a.size + p.size))
    entries = np.concatenate([circuit.siemens, circuit.gain], axis=1)
    matrix: Complex = np.zeros((entries.shape[0], size * size), complex)
    matrix[:, filled] = (scatter @ entries.T).T
    matrix[:, np.arange(size) * (size + 1)] += LEAK_SIEMENS
    return matrix.reshape(-1, size, size)


def log_sweep(start_hz: float, stop_hz: float, count: int) -> Floats:
    """Frequencies evenly spaced on a logarithmic scale [Hz]."""
    found: Floats = np.logspace(np.log10(start_hz), np.log10(stop_hz), count)
    return found
