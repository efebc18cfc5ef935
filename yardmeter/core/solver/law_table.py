"""Many laws of frequency worked out at once, each at frequencies of its own."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardmeter.core.solver.circuit import Complex, Floats, Ints


def table(parts: Sequence[tuple[Ints, Floats, Floats]], columns: int, omega: Floats, block: Ints) -> Complex:
    """Laws of several blocks at many frequencies: each row of the answer at its own ω (rows,) and from its own block (rows,).

    Of each block: the columns its laws stand in, their numerators and denominators (see `transfer.coefficients`). The answer is
    (rows, columns), zero where a block has no law.
    """
    from yardmeter.core.solver import system_loops  # compiled code is loaded when there is something to work out

    degree = max((num.shape[0] for _, num, _ in parts), default=1)
    above, below = np.zeros((len(parts), columns, degree)), np.zeros((len(parts), columns, degree))
    below[:, :, 0] = 1.0
    for k, (place, num, den) in enumerate(parts):
        above[k, place, : num.shape[0]] = num.T
        below[k, place, : den.shape[0]] = den.T
    found = np.empty((block.size, columns), complex)
    system_loops.laws_at(above, below, omega, block, found)
    return found
