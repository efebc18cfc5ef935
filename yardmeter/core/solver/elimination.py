"""Many sparse complex systems of one pattern, eliminated side by side.

A wiring is nearly a tree: most nodes touch two others, and eliminating the ones with the fewest neighbours first fills
in almost nothing. Nodes that do not touch each other go in one step, and every step is done for all systems at once.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

import numpy as np

from yardmeter.core.solver.circuit import Bools, Complex, Floats, Ints

Place = tuple[int, int]
SOUND = 1e-8
"""Least pivot over the largest entry left in its row; below it the system wants its rows exchanged."""
LOST = 1e-14
"""Least pivot over the largest entry its row ever had; below it nothing but rounding is left of it."""


class _Spread:
    """Where contributions go: those of one target are summed first, so that each target is written once."""

    def __init__(self, targets: list[int]) -> None:
        given = np.array(targets, np.int64)
        self.order = np.argsort(given, kind="stable")
        self.targets, self.starts = np.unique(given[self.order], return_index=True)
        self.once = self.targets.size == given.size

    def take_from(self, values: Complex, contributions: Complex) -> None:
        """Subtract contributions (targets, …) from the values at their targets."""
        if not self.targets.size:
            return
        sorted_ones = contributions.take(self.order, axis=0)
        values[self.targets] -= sorted_ones if self.once else np.add.reduceat(sorted_ones, self.starts, axis=0)


@dataclass(frozen=True)
class _Step:
    """Nodes (p,) that do not touch each other, each with as many neighbours (p, d), and the slots of their entries."""

    nodes: Ints
    beside: Ints
    pivot: Ints
    row: Ints
    column: Ints
    inner: _Spread
    """For what each pair of neighbours gets (p · d · d)."""
    right: _Spread
    """For what each neighbour's right-hand sides get (p · d)."""


class Elimination:
    """The order of elimination and the slots of a pattern: places that may be filled, the diagonal always.

    `slot` tells where the entry of a place belongs in the values handed to `solve`; there are `slots` of them. Unknowns
    named `early` go first: what they leave behind makes the others' pivots sound.
    """

    def __init__(self, size: int, places: Iterable[Place], early: Iterable[int] = ()) -> None:
        self.size = size
        self.slot: dict[Place, int] = {}
        for place in (*((k, k) for k in range(size)), *places):
            self.slot.setdefault(place, len(self.slot))
        self.given = len(self.slot)
        given = np.array(sorted((i, s) for (i, _), s in self.slot.items()), np.int64).reshape(-1, 2)
        self._by_row, self._rows = given[:, 1], np.searchsorted(given[:, 0], np.arange(size))
        self._steps = [self._step(nodes, beside) for nodes, beside in self._order(set(early))]
        self._order_of_pivots = np.concatenate([step.nodes for step in self._steps])
        self.slots = len(self.slot)

    @property
    def program(self) -> tuple[Ints, Ints, Ints, Ints, Ints, Ints, Ints, Ints]:
        """The steps one unknown after another: unknowns, their pivots' slots; where each one's neighbours end; neighbours, slots of
        its row and of its column by them; where each one's pairs of neighbours end; slots of what the pairs get."""
        order, beside, along, down, inner = [], [], [], [], []
        ends, inner_ends = [0], [0]
        for step in self._steps:
            for k, mine, row, column in zip(step.nodes.tolist(), step.beside.tolist(), step.row.tolist(), step.column.tolist(), strict=True):  # fmt: skip
                order.append(k)
                beside += mine
                along += row
                down += column
                inner += [self.slot[i, j] for i in mine for j in mine]
                ends.append(len(beside))
                inner_ends.append(len(inner))
        pivots = [self.slot[k, k] for k in order]
        lists = (order, pivots, ends, beside, along, down, inner_ends, inner)
        a, b, c, d, e, f, g, h = (np.array(one, np.int64) for one in lists)
        return a, b, c, d, e, f, g, h

    def _order(self, early: set[int]) -> Iterable[tuple[list[int], list[list[int]]]]:
        """Nodes step by step with their neighbours still left: the fewest first."""
        beside: list[set[int]] = [set() for _ in range(self.size)]
        for i, j in self.slot:
            if i != j:
                beside[i].add(j)
                beside[j].add(i)
        left = set(range(self.size))
        while left:
            choice = sorted(left & early or left)
            fewest = min(len(beside[k]) for k in choice)
            nodes: list[int] = []
            taken: set[int] = set()
            for k in choice:
                if len(beside[k]) == fewest and k not in taken:
                    nodes.append(k)
                    taken |= beside[k]
            neighbours = [sorted(beside[k]) for k in nodes]
            left -= set(nodes)
            for k, mine in zip(nodes, neighbours, strict=True):
                for i in mine:
                    beside[i] |= set(mine)
                    beside[i] -= {i, k}
            yield nodes, neighbours

    def _step(self, nodes: list[int], beside: list[list[int]]) -> _Step:
        def slots(places: Collection[Place]) -> list[int]:
            return [self.slot.setdefault(place, len(self.slot)) for place in places]

        shape = len(nodes), len(beside[0])
        pairs = list(zip(nodes, beside, strict=True))
        inner = [slot for _, mine in pairs for slot in slots([(i, j) for i in mine for j in mine])]
        return _Step(
            np.array(nodes, np.int64),
            np.array(beside, np.int64).reshape(shape),
            np.array(slots([(k, k) for k in nodes]), np.int64),
            np.array(slots([(k, j) for k, mine in pairs for j in mine]), np.int64).reshape(shape),
            np.array(slots([(i, k) for k, mine in pairs for i in mine]), np.int64).reshape(shape),
            _Spread(inner),
            _Spread([i for mine in beside for i in mine]),
        )

    def solve(self, values: Complex, right: Complex) -> Bools:
        """Turn right-hand sides (size, cases, systems) into solutions, in place, from values (slots, systems), which are used up.

        Rows are not exchanged. The answer tells in which systems that was sound (systems,).
        """
        largest: Floats = np.maximum.reduceat(np.abs(values.take(self._by_row, axis=0)), self._rows, axis=0)
        pivots, done = [], []
        sound: Bools = np.ones(values.shape[1], bool)
        with np.errstate(all="ignore"):  # what goes wrong is not sound
            for step in self._steps:
                pivot, row = values.take(step.pivot, axis=0), values.take(step.row, axis=0)
                pivots.append(pivot)
                inverse = 1 / pivot
                done.append((step, inverse, row))
                if step.beside.size:
                    sound &= (np.abs(pivot) >= SOUND * np.abs(row).max(axis=1)).all(axis=0)
                    factor = values.take(step.column, axis=0) * inverse[:, None]
                    inner = factor[:, :, None] * row[:, None]
                    step.inner.take_from(values, inner.reshape(-1, inner.shape[-1]))
                    moved = factor[:, :, None] * right.take(step.nodes, axis=0)[:, None]
                    step.right.take_from(right, moved.reshape(-1, *moved.shape[2:]))
            for step, inverse, row in done[::-1]:
                own = right.take(step.nodes, axis=0)
                for k in range(step.beside.shape[1]):
                    own -= row[:, k, None] * right.take(step.beside[:, k], axis=0)
                right[step.nodes] = own * inverse[:, None]
            left = np.abs(np.concatenate(pivots)) > LOST * largest.take(self._order_of_pivots, axis=0)
            sound &= left.all(axis=0)
        return sound
