"""What branches carry, added up at the nodes: a sparse matrix of signs, row by row.

A library of sparse matrices takes twenty megabytes of every server and a third of a second of every start; this is all that was
asked of it where a plan is small.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.once import cached_property
from yardmeter.core.solver.circuit import Floats, Ints


@dataclass(frozen=True)
class Scatter:
    """Row `k` has the `columns` and `signs` from `ends[k]` to `ends[k + 1]`, columns in order and each once."""

    ends: Ints
    columns: Ints
    signs: Floats

    def onto(self, values: Floats) -> Floats:
        """Sums (…, rows) of what columns have (…, columns)."""
        found = np.zeros((*values.shape[:-1], self.ends.size - 1))
        if self.columns.size:
            found[..., self._filled] = np.add.reduceat(values[..., self.columns] * self.signs, self._starts, axis=-1)
        return found

    @cached_property
    def _filled(self) -> Ints:
        """Rows in which there is anything."""
        return np.flatnonzero(np.diff(self.ends))

    @cached_property
    def _starts(self) -> Ints:
        return self.ends[:-1][self._filled]


def scatter_of(rows: int, columns: int, row: Ints | Sequence[int], column: Ints | Sequence[int], sign: Floats | Sequence[float]) -> Scatter:  # fmt: skip
    """The matrix with `sign` added at each `row` and `column`; what is at row −1, the reference, is left out."""
    row, column, sign = np.asarray(row, np.int64), np.asarray(column, np.int64), np.asarray(sign, float)
    kept = row >= 0
    place, which = np.unique(row[kept] * columns + column[kept], return_inverse=True)
    ends = np.searchsorted(place, np.arange(rows + 1) * columns)
    signs = np.asarray(np.bincount(which, sign[kept], place.size), float)
    return Scatter(ends.astype(np.int64), place % max(columns, 1), signs)
