"""Small-signal solution over frequency: admittances and controlled sources in, node voltages out. Knows no plan."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from yardmeter.core.solver.circuit import Complex, Floats, Ints
from yardmeter.core.solver.elimination import Elimination
from yardmeter.core.solver.scatter import Scatter, scatter_of

LEAK_SIEMENS = 1e-9


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
    volts: Complex = np.zeros((circuit.siemens.shape[0], circuit.nodes + 1, injected.shape[-1]), complex)
    volts[:, :-1] = injected
    solve_in_place(circuit, volts)
    return volts


def solve_in_place(circuit: AcCircuit, driven: Complex) -> None:
    """Turn injected currents (frequencies, nodes + 1, cases), zero at the reference, into node voltages."""
    pattern = _pattern_of(circuit)
    sound = pattern.elimination.solve(pattern.values(circuit), driven)
    if not sound.all():
        bad = np.flatnonzero(~sound)
        driven[bad, :-1] = np.linalg.solve(admittance_matrix(circuit)[bad], driven[bad, :-1])


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


@dataclass(frozen=True)
class _Pattern:
    """Which places of the matrix are ever filled, and how branches and sources add up to them."""

    elimination: Elimination
    adds: Scatter

    def values(self, circuit: AcCircuit) -> Complex:
        """Entries of the node admittance matrices (frequencies, slots)."""
        from yardmeter.core.solver import system_loops  # compiled code is loaded when there is something to solve

        given = np.concatenate([circuit.siemens, circuit.gain], axis=1).astype(complex, copy=False)
        found = np.empty((given.shape[0], self.elimination.slots), complex)
        adds = self.adds
        system_loops.fill_systems(adds.ends, adds.columns, adds.signs, circuit.nodes, LEAK_SIEMENS, given, found)
        return found


def admittance_matrix(circuit: AcCircuit) -> Complex:
    """The node admittance matrices (frequencies, nodes, nodes)."""
    pattern = _pattern_of(circuit)
    values = pattern.values(circuit)
    matrix: Complex = np.zeros((values.shape[0], circuit.nodes, circuit.nodes), complex)
    i, j = np.array(list(pattern.elimination.slot), np.int64).reshape(-1, 2).T
    matrix[:, i, j] = values
    return matrix


def _pattern_of(circuit: AcCircuit) -> _Pattern:
    ends = circuit.a, circuit.b, circuit.p, circuit.n, circuit.c, circuit.d
    return _pattern(circuit.nodes, *(tuple(one.tolist()) for one in ends))


@lru_cache(64)
def _pattern(size: int, *ends: tuple[int, ...]) -> _Pattern:
    """Conditions of a plan, and its edits, mostly differ in values alone, so it is kept."""
    a, b, p, n, c, d = ends
    stamps: list[tuple[int, int, int, float]] = []
    for k, (i, j) in enumerate(zip(a, b, strict=True)):
        stamps += [(i, i, k, 1), (j, j, k, 1), (i, j, k, -1), (j, i, k, -1)]
    for k, (i, j, u, v) in enumerate(zip(p, n, c, d, strict=True), len(a)):
        stamps += [(i, u, k, 1), (i, v, k, -1), (j, u, k, -1), (j, v, k, 1)]
    kept = [one for one in stamps if one[0] >= 0 and one[1] >= 0]
    elimination = Elimination(size, [(i, j) for i, j, _, _ in kept])
    slot = [elimination.slot[i, j] for i, j, _, _ in kept]
    adds = scatter_of(elimination.slots, len(a) + len(p), slot, [k for _, _, k, _ in kept], [one[3] for one in kept])
    return _Pattern(elimination, adds)


def log_sweep(start_hz: float, stop_hz: float, count: int) -> Floats:
    """Frequencies evenly spaced on a logarithmic scale [Hz]."""
    found: Floats = np.logspace(np.log10(start_hz), np.log10(stop_hz), count)
    return found
