"""Laws of frequency: rational functions of s = jω, which every lumped element is to an alternating current."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Complex = NDArray[Any]
Coefficients = tuple[float, ...]
"""Of a polynomial in s, lowest power first."""


@dataclass(frozen=True, slots=True)
class TransferFunction:
    """A rational function of the Laplace variable s = jω [rad/s]: what every lumped element is. Many are worked out at once by `table`."""

    num: Coefficients
    den: Coefficients = (1.0,)

    def __call__(self, s: Complex) -> Complex:
        """The law at every s (f,)."""
        found: Complex = _polynomial(self.num, s) / _polynomial(self.den, s)
        return found

    def __add__(self, other: TransferFunction) -> TransferFunction:
        return TransferFunction(
            _plus(_times(self.num, other.den), _times(other.num, self.den)),
            _times(self.den, other.den),
        )

    def __mul__(self, other: TransferFunction) -> TransferFunction:
        return TransferFunction(_times(self.num, other.num), _times(self.den, other.den))

    def inverse(self) -> TransferFunction:
        return TransferFunction(self.den, self.num)


NOTHING = TransferFunction((0.0,))


def _polynomial(coefficients: Coefficients, s: Complex) -> Complex:
    found: Complex = np.full(s.shape, coefficients[-1], complex)
    for one in coefficients[-2::-1]:
        found = found * s + one
    return found


def _times(one: Coefficients, other: Coefficients) -> Coefficients:
    found = [0.0] * (len(one) + len(other) - 1)
    for k, a in enumerate(one):
        for m, b in enumerate(other):
            found[k + m] += a * b
    return tuple(found)


def _plus(one: Coefficients, other: Coefficients) -> Coefficients:
    longer, shorter = (one, other) if len(one) >= len(other) else (other, one)
    return tuple(a + b for a, b in zip(longer, shorter + (0.0,) * (len(longer) - len(shorter)), strict=True))


def constant(value: float) -> TransferFunction:
    return TransferFunction((value,))


def series(ohm: float, henry: float) -> TransferFunction:
    """Admittance of a resistance and an inductance one behind the other."""
    return TransferFunction((1.0,), (ohm, henry))


@dataclass(frozen=True, slots=True)
class Inserted:
    """A conductor with impedances of filters in series, each under its filter's id."""

    own: TransferFunction
    filters: tuple[tuple[str, TransferFunction], ...]

    def without(self, taken: Collection[str] = ()) -> TransferFunction:
        """Its admittance, these filters taken out."""
        left = [law for name, law in self.filters if name not in taken]
        return sum(left, self.own.inverse()).inverse() if left else self.own


def coefficients(laws: Sequence[TransferFunction]) -> tuple[Floats, Floats]:
    """Numerators and denominators of laws, each (powers, laws), as long as the longest needs."""
    degree = max((max(len(law.num), len(law.den)) for law in laws), default=1)
    pad = [(0.0,) * k for k in range(degree + 1)]
    num = np.array([law.num + pad[degree - len(law.num)] for law in laws], float).reshape(-1, degree).T
    den = np.array([law.den + pad[degree - len(law.den)] for law in laws], float).reshape(-1, degree).T
    return num, den


def table(parts: Sequence[tuple[Ints, Floats, Floats]], columns: int, omega: Floats, block: Ints) -> Complex:
    """Laws of several blocks at many frequencies: each row of the answer at its own ω (rows,) and from its own block (rows,).

    Of each block: the columns its laws stand in, their numerators and denominators (see `coefficients`). The answer is
    (rows, columns), zero where a block has no law.
    """
    degree = max((num.shape[0] for _, num, _ in parts), default=1)
    above, below = np.zeros((degree, len(parts), columns)), np.zeros((degree, len(parts), columns))
    below[0] = 1.0
    for k, (place, num, den) in enumerate(parts):
        above[: num.shape[0], k, place] = num
        below[: den.shape[0], k, place] = den
    found: Complex = _at(above, omega, block) / _at(below, omega, block)
    return found


def _at(values: Floats, omega: Floats, block: Ints) -> Complex:
    """Polynomials (powers, blocks, columns) at s = jω: even powers make the real part, odd ones the imaginary."""
    square = -(omega[:, None] ** 2)
    halves: list[Floats] = []
    for start in (0, 1):
        half: Floats = np.zeros((block.size, values.shape[2]))
        for power in reversed(values[start::2]):
            half = half * square + power.take(block, axis=0)
        halves.append(half)
    found: Complex = halves[0] + 1j * omega[:, None] * halves[1]
    return found
