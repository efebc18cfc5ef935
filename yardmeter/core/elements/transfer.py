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
    """A rational function of the Laplace variable s = jω [rad/s]: what every lumped element is. Many are worked out at once by `solver.law_table`."""

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

    def scaled(self, factor: float) -> TransferFunction:
        return TransferFunction(tuple([factor * one for one in self.num]), self.den)

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
