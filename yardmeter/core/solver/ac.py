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
    rows, columns, signs = [], [], []
    first = np.arange(circuit.a.size)
    for i, j, sign in ((circuit.a, circuit.a, 1), (circuit.b, circuit.b, 1), (circuit.a, circuit.b, -1), (circuit.b, circuit.a, -1)):  # fmt: skip
        rows.append(np.where((i < 0) | (j < 0), -1, i * size + j))
        columns.append(first)
        signs.append(np.full(i.size, sign, float))
    then = circuit.a.size + np.arange(circuit.p.size)
    for i, j, sign in ((circuit.p, circuit.c, 1), (circuit.p, circuit.d, -1), (circuit.n, circuit.c, -1), (circuit.n, circuit.d, 1)):  # fmt: skip
        rows.append(np.where((i < 0) | (j < 0), -1, i * size + j))
        columns.append(then)
        signs.append(np.full(i.size, sign, float))
    row, column, value = (np.concatenate(one) for one in (rows, columns, signs))
    keep = row >= 0
    scatter = csr_matrix((value[keep], (row[keep], column[keep])), shape=(size * size, circuit.a.size + circuit.p.size))
    entries = np.concatenate([circuit.siemens, circuit.gain], axis=1)
    matrix: Complex = np.ascontiguousarray((scatter @ entries.T).T).reshape(-1, size, size)
    matrix[:, np.arange(size), np.arange(size)] += LEAK_SIEMENS
    return matrix


def log_sweep(start_hz: float, stop_hz: float, count: int) -> Floats:
    """Frequencies evenly spaced on a logarithmic scale [Hz]."""
    found: Floats = np.logspace(np.log10(start_hz), np.log10(stop_hz), count)
    return found
