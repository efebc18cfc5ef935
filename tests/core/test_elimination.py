"""Sparse elimination against NumPy's dense solution."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from yardmeter.core.elements.transfer import TransferFunction, coefficients
from yardmeter.core.solver.ac import AcCircuit, admittance_matrix, solve_ac
from yardmeter.core.solver.elimination import Elimination
from yardmeter.core.solver.law_table import table

PAIRS = st.lists(st.tuples(st.integers(0, 11), st.integers(0, 11)), max_size=40)


@given(PAIRS, st.integers(0, 2**32 - 1))
def test_any_pattern_solves_as_numpy_does(places: list[tuple[int, int]], seed: int) -> None:
    size, systems, cases = 12, 5, 3
    made = np.random.default_rng(seed)
    order = Elimination(size, places)
    values = np.zeros((systems, order.slots), complex)
    dense = np.zeros((systems, size, size), complex)
    for place in {*places, *((k, k) for k in range(size))}:
        # Diagonals that outweigh the rest, as admittances do.
        entry = made.normal(size=systems) + 1j * made.normal(size=systems) + (30 if place[0] == place[1] else 0)
        values[:, order.slot[place]] = entry
        dense[:, place[0], place[1]] = entry
    right = made.normal(size=(systems, size, cases)) + 0j
    wanted = np.linalg.solve(dense, right)
    assert order.solve(values, right).all()
    np.testing.assert_allclose(right, wanted, rtol=1e-9, atol=1e-12)


@given(st.lists(st.lists(st.floats(-3, 3), min_size=1, max_size=5), min_size=2, max_size=2), st.floats(1, 1e4))
def test_laws_worked_out_together_are_those_of_each(num: list[list[float]], omega: float) -> None:
    """Laws of several degrees in two blocks, one of which lacks the second; each row by its own block and frequency."""
    laws = [TransferFunction(tuple(one), (2.0, 0.5, 1e-3)[: 1 + len(one) % 3]) for one in num]
    first = (np.array([0, 2]), *coefficients(laws))
    second = (np.array([2]), *coefficients(laws[:1]))
    omegas, block = np.array([omega, omega, 2 * omega]), np.array([0, 1, 1])
    found = table([first, second], 3, omegas, block)
    s = 1j * omegas
    wanted = [[laws[0](s[:1])[0], 0, laws[1](s[:1])[0]], [0, 0, laws[0](s[1:2])[0]], [0, 0, laws[0](s[2:])[0]]]
    np.testing.assert_allclose(found, wanted, rtol=1e-9, atol=1e-9 * np.abs(wanted).max())


def test_what_wants_its_rows_exchanged_is_solved_all_the_same() -> None:
    """A node with nothing of its own, tied to another by sources alone: its pivot is the leak, 10⁻⁹ of the row."""
    ends = np.array([1, 1]), np.array([-1, -1])
    p, n, c, d = np.array([0, 1]), np.array([-1, -1]), np.array([1, 0]), np.array([-1, -1])
    circuit = AcCircuit(2, *ends, np.array([[0.3 + 0j, 0.4j]]), p, n, c, d, np.array([[7.0 + 0j, -7.0]]))
    driven = np.array([[1.0 + 0j], [0.1]])
    found = solve_ac(circuit, driven)[:, :-1]
    np.testing.assert_allclose(found, np.linalg.solve(admittance_matrix(circuit), driven[None]), rtol=1e-13)
    order = Elimination(2, [(0, 1), (1, 0)])
    values = np.array([[1e-12, 1.0, 1.0, 1.0]], complex)
    assert not order.solve(values, np.ones((1, 2, 1), complex)).any()
    nothing_left = np.array([[1e6, 1e6, -1e6, -1e6]], complex)
    assert not order.solve(nothing_left, np.ones((1, 2, 1), complex)).any(), (
        "what cancels leaves a pivot of rounding alone"
    )


def test_a_node_that_nothing_touches_has_its_leak() -> None:
    none = np.zeros(0, np.int64)
    circuit = AcCircuit(
        2, np.array([0]), np.array([-1]), np.array([[0.5 + 0j]]), none, none, none, none, np.zeros((1, 0), complex)
    )
    found = solve_ac(circuit, np.array([[1.0 + 0j], [1e-6]]))[0, :, 0]
    np.testing.assert_allclose(found, [2.0, 1e3, 0.0], rtol=1e-8)
