"""Where the states of a circuit stand in their one row."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from yardmeter.core.solver.transient.arrays import TransientCircuit


class Layout:
    """Slices of a row of states: flux, charge and lag of every series branch, current of every consumer, current and input
    volts as followed and as entered of every converter."""

    def __init__(self, circuit: TransientCircuit) -> None:
        ns, nl, m = circuit.sizes
        ends = np.cumsum([0, ns, ns, ns, nl, m, m, m])
        self.flux, self.charge, self.lag, self.load, self.conv, self.line, self.entry = (
            slice(a, b) for a, b in pairwise(ends.tolist())
        )
        self.states = int(ends[-1])
