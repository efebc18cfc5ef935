"""Many sparse complex systems of one pattern, eliminated side by side.

A wiring is nearly a tree: most nodes touch two others, and eliminating the ones with the fewest neighbours first fills
in almost nothing.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np

from yardmeter.core.solver.circuit import Bools, Complex, Ints

Place = tuple[int, int]
SOUND = 1e-8
"""Least pivot over the largest entry left in its row; below it the system wants its rows exchanged."""
LOST = 1e-14
"""Least pivot over the largest entry its row ever had; below it nothing but rounding is left of it."""


class Program(NamedTuple):
    """The elimination as loops run it, one unknown after another."""

    order: Ints
    pivot: Ints
    """Slots of the unknowns' pivots."""
    ends: Ints
    """Where each one's neighbours end."""
    beside: Ints
    along: Ints
    """Slots of an eliminated unknown's row, by `beside`; `down` those of its column."""
    down: Ints
    inner_ends: Ints
    inner: Ints
    """Slots of what every pair of its neighbours gets."""


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
        self.given_row: Ints = np.array([row for row, _ in self.slot], np.int64)
        """Rows of the places that were given, by their slots."""
        self.program = self._program(self._order(set(early)))
        self.slots = len(self.slot)

    def _program(self, steps: Iterable[tuple[int, list[int]]]) -> Program:
        def slots(places: Iterable[Place]) -> list[int]:
            return [self.slot.setdefault(place, len(self.slot)) for place in places]

        order, pivots, beside, along, down, inner = [], [], [], [], [], []
        ends, inner_ends = [0], [0]
        for k, mine in steps:
            order.append(k)
            pivots.append(self.slot[k, k])
            beside += mine
            along += slots((k, j) for j in mine)
            down += slots((i, k) for i in mine)
            inner += slots((i, j) for i in mine for j in mine)
            ends.append(len(beside))
            inner_ends.append(len(inner))
        lists = (order, pivots, ends, beside, along, down, inner_ends, inner)
        return Program(*(np.array(one, np.int64) for one in lists))

    def _order(self, early: set[int]) -> Iterator[tuple[int, list[int]]]:
        """Unknowns with their neighbours still left: the fewest first, and such as do not touch each other in a row."""
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
            left -= set(nodes)
            for k in nodes:
                mine = sorted(beside[k])
                yield k, mine
                for i in mine:
                    beside[i] |= set(mine)
                    beside[i] -= {i, k}

    def solve(self, values: Complex, right: Complex) -> Bools:
        """Turn right-hand sides (systems, size or more, cases) into solutions, in place, from values (systems, slots), which are used up.

        Rows are not exchanged. The answer tells in which systems that was sound (systems,); the others' right-hand sides stay.
        """
        from yardmeter.core.solver import system_loops  # compiled code is loaded when there is something to solve

        sound = np.zeros(values.shape[0], bool)
        system_loops.solve_systems(self.program, self.given_row, values, right, sound)
        return sound
