"""The inverse of a small dense matrix, by Gauss and Jordan with pivots by row.

The library's own is as quick at these sizes, but takes longer to compile than all the rest of the march together.
"""

from __future__ import annotations

from yardmeter.compiled import compiled
from yardmeter.core.solver.circuit import Floats


@compiled
def inverse_of(matrix: Floats, n: int, inverse: Floats) -> bool:
    """Write the inverse of the first `n` rows and columns; False where there is none. The matrix is used up."""
    for i in range(n):
        for j in range(n):
            inverse[i, j] = 1.0 if i == j else 0.0
    for k in range(n):
        best = k
        for i in range(k + 1, n):
            if abs(matrix[i, k]) > abs(matrix[best, k]):
                best = i
        pivot = matrix[best, k]
        if not 0 < abs(pivot) < 1e300:
            return False
        if best != k:
            for j in range(n):
                matrix[k, j], matrix[best, j] = matrix[best, j], matrix[k, j]
                inverse[k, j], inverse[best, j] = inverse[best, j], inverse[k, j]
        for j in range(n):
            matrix[k, j] /= pivot
            inverse[k, j] /= pivot
        for i in range(n):
            factor = matrix[i, k]
            if i != k and factor != 0.0:
                for j in range(k, n):
                    matrix[i, j] -= factor * matrix[k, j]
                for j in range(n):
                    inverse[i, j] -= factor * inverse[k, j]
    return True
