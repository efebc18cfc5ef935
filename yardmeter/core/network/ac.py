"""The small-signal network of a plan at an operating point, and many of them as one circuit to solve.

Node names are those of the direct-current network; ripple is a deviation from its solution.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from yardmeter.core.elements.transfer import NOTHING, Inserted, TransferFunction, coefficients
from yardmeter.core.network.keys import Key, Node
from yardmeter.core.once import cached_property
from yardmeter.core.solver.ac import AcCircuit
from yardmeter.core.solver.circuit import Complex, Floats, Ints
from yardmeter.core.solver.law_table import table


class Branch(NamedTuple):
    key: Key
    a: int
    b: int
    siemens: TransferFunction
    new: TransferFunction | None = None
    """The same when new and warm, where years and cold make a difference."""
    inserted: Inserted | None = None
    """What `siemens` is made of, where filters stand in a conductor."""


class Controlled(NamedTuple):
    """Current from p to n of `gain · (v(c) − v(d))`."""

    key: Key
    p: int
    n: int
    c: int
    d: int
    gain: TransferFunction


class Change(NamedTuple):
    """A branch with what is left of its admittance."""

    branch: Branch
    left: TransferFunction


@dataclass(frozen=True)
class AcNetwork:
    node: dict[Node, int]
    branches: tuple[Branch, ...]
    controlled: tuple[Controlled, ...]

    @cached_property
    def laws(self) -> tuple[Floats, Floats]:
        """Coefficients of all branches, then of all controlled sources."""
        return coefficients([*(b.siemens for b in self.branches), *(c.gain for c in self.controlled)])

    def circuit(self, hertz: Floats) -> AcCircuit:
        """The network at these frequencies (f,) [Hz]."""
        return Stack([self], [hertz]).circuit

    def changes(self, taken: Collection[str]) -> list[Change]:
        """What taking these filters out, at the same operating point, leaves of each branch concerned."""
        found = []
        for one, branch in self._capacitors:
            if one in taken:
                found.append(Change(branch, NOTHING))
        for branch in self._interrupted:
            if branch.inserted and any(name in taken for name, _ in branch.inserted.filters):
                found.append(Change(branch, branch.inserted.without(taken)))
        return found

    @cached_property
    def _capacitors(self) -> list[tuple[str, Branch]]:
        """Filters between two nodes, by their ids."""
        return [(b.key.element, b) for b in self.branches if b.key.role == "filter"]

    @cached_property
    def _interrupted(self) -> list[Branch]:
        """Conductors with filters in them."""
        return [b for b in self.branches if b.inserted]

    def renewed(self) -> list[Change]:
        """What new and warm capacitors make of each branch concerned."""
        return [Change(b, b.new) for b in self.branches if b.new]


class Stack:
    """Networks of one plan, each at frequencies of its own, as one circuit: a row for each network and frequency.

    Where a network lacks a branch that another has, its admittance is zero.
    """

    def __init__(self, networks: Sequence[AcNetwork], hertz: Sequence[Floats]) -> None:
        self.block: Ints = np.repeat(np.arange(len(networks)), [one.size for one in hertz])
        self.omega: Floats = 2 * math.pi * np.concatenate(hertz)
        places: dict[tuple[Key, int, int], int] = {}
        ends: dict[tuple[Key, int, int, int, int], int] = {}
        for one in networks:
            for b in one.branches:
                places.setdefault((b.key, b.a, b.b), len(places))
            for c in one.controlled:
                ends.setdefault((c.key, c.p, c.n, c.c, c.d), len(ends))
        count = len(places)
        parts = []
        for one in networks:
            own = [places[b.key, b.a, b.b] for b in one.branches]
            own += [count + ends[c.key, c.p, c.n, c.c, c.d] for c in one.controlled]
            parts.append((np.array(own, np.int64), *one.laws))
        every = table(parts, count + len(ends), self.omega, self.block)
        first, then = np.array([key[1:] for key in places], np.int64).reshape(-1, 2).T
        p, n, c_, d = np.array([key[1:] for key in ends], np.int64).reshape(-1, 4).T
        self.circuit = AcCircuit(len(networks[0].node), first, then, every[:, :count], p, n, c_, d, every[:, count:])
        self._column = {key[0]: column for key, column in places.items()}

    def column(self, branch: Branch) -> int:
        return self._column[branch.key]

    def added(self, columns: list[int], changes: Sequence[Sequence[Change]]) -> Complex:
        """What changes of each network add to the admittances of these columns (rows, columns) [S]."""
        place = {column: k for k, column in enumerate(columns)}
        own = [np.array([place[self.column(one.branch)] for one in mine], np.int64) for mine in changes]
        parts = [(mine, *coefficients([one.left for one in laws])) for mine, laws in zip(own, changes, strict=True)]
        concerned = np.zeros((len(changes), len(columns)), bool)
        for k, mine in enumerate(own):
            concerned[k, mine] = True
        left = table(parts, len(columns), self.omega, self.block)
        found: Complex = np.where(concerned[self.block], left - self.circuit.siemens[:, columns], 0)
        return found
