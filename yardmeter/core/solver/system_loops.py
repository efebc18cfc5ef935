"""Alternating currents as machine code: laws at their frequencies, and sparse systems of one pattern, each filled and eliminated by
the same program."""

from __future__ import annotations

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.solver.circuit import Bools, Complex, Floats, Ints
from yardmeter.core.solver.elimination import LOST, SOUND, Program


@compiled
def laws_at(above: Floats, below: Floats, omega: Floats, block: Ints, found: Complex) -> None:
    """`law_table.table`: polynomials (blocks, columns, powers) at s = jω into (rows, columns)."""
    for row in range(omega.size):
        for column in range(found.shape[1]):
            num, den = _at(above[block[row], column], omega[row]), _at(below[block[row], column], omega[row])
            found[row, column] = _over(num, den) if den != 0 else complex(np.inf, 0.0)


@compiled
def _over(num: complex, den: complex) -> complex:
    """A quotient; neither is so large or small that its square would not be a number."""
    share = 1.0 / (den.real * den.real + den.imag * den.imag)
    return complex(
        (num.real * den.real + num.imag * den.imag) * share, (num.imag * den.real - num.real * den.imag) * share
    )


@compiled
def _at(powers: Floats, omega: float) -> complex:
    """A polynomial at s = jω: even powers make the real part, odd ones the imaginary."""
    square, even, odd = -omega * omega, 0.0, 0.0
    for power in range(powers.size - 1, -1, -1):
        if power % 2:
            odd = odd * square + powers[power]
        else:
            even = even * square + powers[power]
    return complex(even, omega * odd)


@compiled
def fill_systems(
    ends: Ints, columns: Ints, signs: Floats, nodes: int, leak: float, given: Complex, values: Complex
) -> None:
    """Values (systems, slots) from admittances and gains (systems, columns): each slot's own `columns` up to its end, with signs;
    the first `nodes` slots, the diagonal, leak."""
    for system in range(values.shape[0]):
        for slot in range(ends.size - 1):
            total = complex(leak if slot < nodes else 0.0, 0.0)
            for k in range(ends[slot], ends[slot + 1]):
                total += signs[k] * given[system, columns[k]]
            values[system, slot] = total


@compiled
def solve_systems(p: Program, given_row: Ints, values: Complex, right: Complex, sound: Bools) -> None:
    """`Elimination.solve`: values (systems, slots), right-hand sides (systems, size, cases), soundness (systems,)."""
    largest = np.empty(right.shape[1])
    for system in range(values.shape[0]):
        slots = values[system]
        largest[:] = 0.0
        for slot in range(given_row.size):
            largest[given_row[slot]] = max(largest[given_row[slot]], _size(slots[slot]))
        x = right[system].copy()
        sound[system] = _eliminate(p, slots, x, largest)
        if sound[system]:
            right[system] = x


@compiled
def _size(value: complex) -> float:
    """About how large a value is: what it is compared by need not be exact."""
    return abs(value.real) + abs(value.imag)


@compiled
def _eliminate(p: Program, slots: Complex, x: Complex, largest: Floats) -> bool:
    """One system solved in place; False where its equations want to be exchanged, or nothing but rounding is left of one."""
    for step in range(p.order.size):
        k, first, last = p.order[step], p.ends[step], p.ends[step + 1]
        pivot, most = slots[p.pivot[step]], 0.0
        for q in range(first, last):
            most = max(most, _size(slots[p.along[q]]))
        if not (_size(pivot) >= SOUND * most and _size(pivot) > LOST * largest[k]):
            return False
        inverse, place = _over(1.0 + 0.0j, pivot), p.inner_ends[step]
        slots[p.pivot[step]] = inverse
        for a in range(first, last):
            factor = slots[p.down[a]] * inverse
            for q in range(first, last):
                slots[p.inner[place + q - first]] -= factor * slots[p.along[q]]
            for case in range(x.shape[1]):
                if x[k, case] != 0:  # most of what is driven is driven at one place
                    x[p.beside[a], case] -= factor * x[k, case]
            place += last - first
    for step in range(p.order.size - 1, -1, -1):
        k, inverse = p.order[step], slots[p.pivot[step]]
        for case in range(x.shape[1]):
            left = x[k, case]
            for q in range(p.ends[step], p.ends[step + 1]):
                left -= slots[p.along[q]] * x[p.beside[q], case]
            x[k, case] = left * inverse
    return True
