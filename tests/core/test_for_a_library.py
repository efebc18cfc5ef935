"""What stands in for SciPy, so that no server has to load it, against SciPy."""

from __future__ import annotations

import os
import subprocess
import sys

import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.special import ndtr

from yardmeter.core.physics.normal import below
from yardmeter.core.probing.lumped import nets_of
from yardmeter.core.solver.scatter import scatter_of


@pytest.mark.parametrize(("seed", "rows", "columns", "count"), [(1, 6, 9, 40), (2, 9, 4, 5), (3, 5, 5, 0), (4, 0, 3, 0), (5, 70, 90, 300)])  # fmt: skip
def test_a_scatter_is_a_sparse_matrix(seed: int, rows: int, columns: int, count: int) -> None:
    """Rows with nothing in them, places that are met twice or cancel, and what is at the reference."""
    rng = np.random.default_rng(seed)
    row, column = rng.integers(-1, rows, count), rng.integers(0, columns, count)
    sign = rng.choice([-1.0, 1.0], count)
    kept = row >= 0
    theirs = coo_matrix((sign[kept], (row[kept], column[kept])), shape=(rows, columns)).tocsr()
    ours = scatter_of(rows, columns, row, column, sign)
    assert ours.ends.tolist() == theirs.indptr.tolist()
    assert (ours.columns.tolist(), ours.signs.tolist()) == (theirs.indices.tolist(), theirs.data.tolist())
    values = rng.normal(size=(3, columns))
    np.testing.assert_allclose(ours.onto(values), (theirs @ values.T).T, rtol=1e-13, atol=1e-13)


@pytest.mark.parametrize(("seed", "nodes", "count"), [(1, 1, 0), (2, 30, 12), (3, 60, 45), (4, 400, 380)])
def test_nets_are_what_hangs_together(seed: int, nodes: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    a, b = rng.integers(0, nodes, (2, count))
    number, theirs = connected_components(coo_matrix((np.ones(count), (a, b)), shape=(nodes, nodes)), directed=False)
    assert nets_of(nodes, a, b).tolist() == theirs.tolist()
    assert nets_of(nodes, a, b).max() + 1 == number


def test_a_long_wire_of_short_ones_is_one_net_whatever_their_order() -> None:
    order = np.random.default_rng(7).permutation(300)
    assert set(nets_of(301, order[:-1], order[1:]).tolist()) == {0, 1}
    assert nets_of(301, order[:-1], order[1:])[300] == 1


def test_the_normal_distribution_keeps_its_tails() -> None:
    z = np.linspace(-37, 9, 93)
    np.testing.assert_allclose(below(z), ndtr(z), rtol=1e-12)
    assert below(0.0) == 0.5
    assert (below(-np.inf), below(np.inf)) == (0.0, 1.0)
    assert below(np.zeros((2, 0))).shape == (2, 0)


def test_a_server_that_starts_loads_no_library_it_may_never_need() -> None:
    heavy = ("scipy.sparse", "scipy.special", "scipy.optimize", "pyvisa", "networkx", "matplotlib")
    said = f"import sys, django; django.setup(); import yardmeter.server.wsgi, yardmeter.server.api; print([m for m in {heavy} if m in sys.modules])"
    env = {**os.environ, "DJANGO_SETTINGS_MODULE": "yardmeter.server.settings", "YARD_DATA": os.devnull}
    done = subprocess.run([sys.executable, "-c", said], capture_output=True, text=True, check=True, env=env)
    assert done.stdout.strip() == "[]"
