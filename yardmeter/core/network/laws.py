"""Laws of frequency: what wires, capacitors, inductors and ferrites are to an alternating current."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.physics.capacitors import BODY_H, leads_h, left_f
from yardmeter.core.physics.filters import ferrite_ohm_h, inductor_left_h
from yardmeter.core.plan import Filter
from yardmeter.core.solver.ac import Complex
from yardmeter.core.solver.circuit import Ints

LOAD_CONTROL_HZ = 20e3
"""Above this a constant-power load no longer follows, and its negative resistance fades; our choice."""
CORE_LOSS = 50.0
"""Parallel resistance of an inductor over its reactance at self-resonance: its quality there; our choice."""
Coefficients = tuple[float, ...]
"""Of a polynomial in s, lowest power first."""


@dataclass(frozen=True, slots=True)
class Law:
    """A rational function of the Laplace variable s = jω [rad/s]: what every lumped element is. Many are worked out at once by `table`."""

    num: Coefficients
    den: Coefficients = (1.0,)

    def __call__(self, s: Complex) -> Complex:
        """The law at every s (f,)."""
        found: Complex = _polynomial(self.num, s) / _polynomial(self.den, s)
        return found

    def __add__(self, other: Law) -> Law:
        return Law(
            _plus(_times(self.num, other.den), _times(other.num, self.den)),
            _times(self.den, other.den),
        )

    def __mul__(self, other: Law) -> Law:
        return Law(_times(self.num, other.num), _times(self.den, other.den))

    def inverse(self) -> Law:
        return Law(self.den, self.num)


NOTHING = Law((0.0,))


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


def constant(value: float) -> Law:
    return Law((value,))


def series(ohm: float, henry: float) -> Law:
    """Admittance of a resistance and an inductance one behind the other."""
    return Law((1.0,), (ohm, henry))


def capacitor(farad: float, esr_ohm: float, esl_h: float) -> Law:
    """Admittance of a real capacitor."""
    return Law((0.0, 1.0), (1 / farad, esr_ohm, esl_h))


def inductor_ohm(one: Filter, amps: float) -> Law:
    """Impedance of a filter's inductor at a direct current, with its self-resonance; resistance counts with the wire."""
    left = inductor_left_h(one.henry, amps, one.saturation_a)
    rise = 2 * math.pi * one.resonance_hz
    own_f, loss_ohm = 1 / (rise**2 * one.henry), CORE_LOSS * rise * one.henry
    return Law((0.0, left), (1.0, left / loss_ohm, left * own_f))


def ferrite_ohm(one: Filter) -> Law:
    """Impedance of a bead: a resistance beside an inductance."""
    resistive, henry = ferrite_ohm_h(one.ohm_100mhz)
    return Law((0.0, resistive * henry), (resistive, henry))


def shunt(one: Filter, bias_v: float, *, aged: bool = True) -> Law:
    """Admittance of a filter's capacitors, with derating by bias, and by cold and years when `aged`, and its damping branch."""
    farad = left_f(one.farad, one.dielectric, bias_v, one.rated_v, aged=aged)
    own = capacitor(farad * one.count, one.esr_ohm / one.count, (BODY_H[one.dielectric] + leads_h(one.lead_m)) / one.count)  # fmt: skip
    if one.damping_ohm is None or one.damping_farad <= 0:
        return own
    return own + capacitor(one.damping_farad, one.damping_ohm, BODY_H[one.dielectric])


def fading(slope: float, corner_hz: float = LOAD_CONTROL_HZ) -> Law:
    """The slope of what holds its power only as far as its control reaches [S]."""
    return Law((slope,), (1.0, 1 / (2 * math.pi * corner_hz)))


@dataclass(frozen=True, slots=True)
class Inserted:
    """A conductor with impedances of filters in series, each under its filter's id."""

    own: Law
    filters: tuple[tuple[str, Law], ...]

    def without(self, taken: Collection[str] = ()) -> Law:
        """Its admittance, these filters taken out."""
        left = [law for name, law in self.filters if name not in taken]
        return sum(left, self.own.inverse()).inverse() if left else self.own


def table(laws: Sequence[tuple[int, int, Law]], shape: tuple[int, int], s: Complex, block: Ints) -> Complex:
    """Laws at their places (block, column) of a table of that shape, each row of the answer at its own s and from its own block.

    `s` and `block` are (rows,); the answer is (rows, columns), zero where a block has no law.
    """
    degree = max((max(len(law.num), len(law.den)) for *_, law in laws), default=1)
    num, den = np.zeros((degree, *shape)), np.zeros((degree, *shape))
    den[0] = 1.0
    if laws:
        blocks, columns = np.array([one[:2] for one in laws], np.int64).T
        pad = [(0.0,) * k for k in range(degree + 1)]
        num[:, blocks, columns] = np.array([law.num + pad[degree - len(law.num)] for *_, law in laws]).T
        den[:, blocks, columns] = np.array([law.den + pad[degree - len(law.den)] for *_, law in laws]).T
    at = s[:, None]
    above: Complex = num[-1, block].astype(complex)
    below: Complex = den[-1, block].astype(complex)
    for k in range(degree - 2, -1, -1):
        above = above * at + num[k, block]
        below = below * at + den[k, block]
    found: Complex = above / below
    return found
