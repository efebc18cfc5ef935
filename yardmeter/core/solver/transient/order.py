"""The node equations of a step, eliminated in an order that fills in next to nothing; turned round densely where a pivot is too small."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.solver.circuit import Floats, Ints
from yardmeter.core.solver.elimination import SOUND, Elimination, Place, Program
from yardmeter.core.solver.transient.inverse import inverse_of
from yardmeter.core.solver.transient.packed import Net

KEPT = 32


class Order(NamedTuple):
    """Where each place of the matrix is kept, and in which order its unknowns go; see `elimination.Program`."""

    at: Ints
    """(nodes + 1, nodes + 1): slots; what is nobody's, or the reference's, has the last."""
    program: Program


class Factors(NamedTuple):
    """A matrix taken apart, as long as it serves: by `slots`, or where `dense[0]` is set by its `inverse`."""

    slots: Floats
    whole: Floats
    """The slots before they were taken apart."""
    dense: Ints
    matrix: Floats
    inverse: Floats


_KNOWN: OrderedDict[tuple[int, int, bytes], Order] = OrderedDict()


def order_of(net: Net) -> Order:
    """The order of a circuit's nodes: they are the same for all its runs, so the last ones are kept."""
    branch, consumer, converter = net.branch[0], net.consumer[0], net.converter[0]
    ends = [
        branch["a"],
        branch["b"],
        consumer["p"],
        consumer["n"],
        converter["inp"],
        converter["out"],
        converter["gnd"],
    ]
    return _known(net.nodes, ends, order_of_ends)


def order_of_ends(nodes: int, ends: list[Ints]) -> Order:
    """The order of nodes by what touches them: both ends of branches, of consumers, and the three of converters."""
    a, b, p, n, inp, out, gnd = (one.tolist() for one in ends)
    return _order(nodes, [*zip(a, b, strict=True), *zip(p, n, strict=True), *zip(inp, out, gnd, strict=True)])


def order_between(nodes: int, ends: list[Ints]) -> Order:
    """The order of nodes by parts of two ends each: of every kind all its first ends, then all its second ones."""
    return _known(nodes, ends, _order_of_pairs)


def _order_of_pairs(nodes: int, ends: list[Ints]) -> Order:
    pairs = zip(ends[::2], ends[1::2], strict=True)
    return _order(nodes, [two for a, b in pairs for two in zip(a.tolist(), b.tolist(), strict=True)])


def _known(nodes: int, ends: list[Ints], found_by: Callable[[int, list[Ints]], Order]) -> Order:
    """Kept by what it is made from."""
    key = nodes, len(ends), np.concatenate([np.append(one, -2) for one in ends]).tobytes()
    found = _KNOWN.pop(key, None) or found_by(nodes, ends)
    _KNOWN[key] = found
    while len(_KNOWN) > KEPT:
        _KNOWN.popitem(last=False)
    return found


def _order(nodes: int, touching: Sequence[tuple[int, ...]]) -> Order:
    places: dict[Place, None] = {}
    for each in touching:
        here = [one for one in each if 0 <= one < nodes]
        places.update(dict.fromkeys((i, j) for i in here for j in here))
    elimination = Elimination(nodes, places)
    at = np.full((nodes + 1, nodes + 1), elimination.slots, np.int64)
    for (i, j), slot in elimination.slot.items():
        at[i, j] = slot
    return Order(at, elimination.program)


def new_factors(order: Order) -> Factors:
    n, slots = order.at.shape[0] - 1, int(order.at.max()) + 1
    return Factors(np.zeros(slots), np.zeros(slots), np.zeros(1, np.int64), np.zeros((n, n)), np.zeros((n, n)))


@compiled
def factor(order: Order, kept: Factors) -> bool:
    """Take apart what stands in the slots, in place; False where the matrix has no inverse."""
    program, slots = order.program, kept.slots
    n = program.order.size
    slots[slots.size - 1] = 0.0
    kept.whole[:] = slots
    kept.dense[0] = 0
    for step in range(n):
        first, last, place = program.ends[step], program.ends[step + 1], program.inner_ends[step]
        pivot, largest = slots[program.pivot[step]], 0.0
        for q in range(first, last):
            largest = max(largest, abs(slots[program.along[q]]))
        if not (abs(pivot) >= SOUND * largest and 0 < abs(pivot) < 1e300):
            kept.dense[0] = 1
            for i in range(n):
                for j in range(n):
                    kept.matrix[i, j] = kept.whole[order.at[i, j]]
            found: bool = inverse_of(kept.matrix, n, kept.inverse)
            return found
        inverse = 1 / pivot
        for p in range(first, last):
            share = slots[program.down[p]] * inverse
            slots[program.down[p]] = share
            if share != 0:
                for q in range(first, last):
                    slots[program.inner[place + q - first]] -= share * slots[program.along[q]]
            place += last - first
    return True


@compiled
def solve(order: Order, kept: Factors, right: Floats, found: Floats) -> None:
    """The solution for a right-hand side (n,), into `found` (n,)."""
    program = order.program
    n = program.order.size
    if kept.dense[0] != 0:
        for i in range(n):
            found[i] = 0.0
            for j in range(n):
                found[i] += kept.inverse[i, j] * right[j]
        return
    for i in range(n):
        found[i] = right[i]
    for step in range(n):
        value = found[program.order[step]]
        if value != 0:
            for p in range(program.ends[step], program.ends[step + 1]):
                found[program.beside[p]] -= kept.slots[program.down[p]] * value
    for step in range(n - 1, -1, -1):
        k = program.order[step]
        left = found[k]
        for q in range(program.ends[step], program.ends[step + 1]):
            left -= kept.slots[program.along[q]] * found[program.beside[q]]
        found[k] = left / kept.slots[program.pivot[step]]
