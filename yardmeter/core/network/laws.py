"""Laws of frequency: what wires, capacitors, inductors and ferrites are to an alternating current."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection
from dataclasses import dataclass

import numpy as np

from yardmeter.core.physics.capacitors import BODY_H, leads_h, left_f
from yardmeter.core.physics.filters import ferrite_ohm_h, inductor_left_h
from yardmeter.core.plan import Filter
from yardmeter.core.solver.ac import Complex

Law = Callable[[Complex], Complex]
"""The Laplace variable s = jω (f,) [rad/s] to a complex quantity (f,)."""
LOAD_CONTROL_HZ = 20e3
"""Above this a constant-power load no longer follows, and its negative resistance fades; our choice."""
CORE_LOSS = 50.0
"""Parallel resistance of an inductor over its reactance at self-resonance: its quality there; our choice."""


@dataclass(frozen=True)
class Series:
    """Admittance of R, L and C one behind the other; the capacitor by its elastance 1/C, none at 0."""

    ohm: float
    henry: float
    elastance: float = 0.0

    def __call__(self, s: Complex) -> Complex:
        return 1 / (self.ohm + s * self.henry + self.elastance / s)


@dataclass(frozen=True)
class Filtered:
    """Admittance of a conductor with impedances of filters in series, each under its filter's id."""

    own: Series
    inserted: tuple[tuple[str, Law], ...]

    def __call__(self, s: Complex) -> Complex:
        return 1 / (1 / self.own(s) + sum((law(s) for _, law in self.inserted), np.zeros(s.shape)))

    def without(self, taken: Collection[str]) -> Law:
        left = tuple(one for one in self.inserted if one[0] not in taken)
        return Filtered(self.own, left) if left else self.own


def less(whole: Law, left: Law | None) -> Law:
    """What to add to a whole admittance so that `left`, or nothing, is left of it."""
    return (lambda s: left(s) - whole(s)) if left else (lambda s: -whole(s))


def constant(value: complex) -> Law:
    return lambda s: np.full(s.shape, value, complex)


def capacitor(farad: float, esr_ohm: float, esl_h: float) -> Law:
    """Admittance of a real capacitor."""
    return Series(esr_ohm, esl_h, 1 / farad)


def inductor_ohm(one: Filter, amps: float) -> Law:
    """Impedance of a filter's inductor at a direct current, with its self-resonance; resistance counts with the wire."""
    left = inductor_left_h(one.henry, amps, one.saturation_a)
    rise = 2 * math.pi * one.resonance_hz
    own_f, loss_ohm = 1 / (rise**2 * one.henry), CORE_LOSS * rise * one.henry
    return lambda s: 1 / (1 / (s * left) + s * own_f + 1 / loss_ohm)


def ferrite_ohm(one: Filter) -> Law:
    resistive, henry = ferrite_ohm_h(one.ohm_100mhz)
    return lambda s: 1 / (1 / resistive + 1 / (s * henry))


def shunt(one: Filter, bias_v: float, *, aged: bool = True) -> Law:
    """Admittance of a filter's capacitors, with derating by bias, and by cold and years when `aged`, and its damping branch."""
    farad = left_f(one.farad, one.dielectric, bias_v, one.rated_v, aged=aged)
    own = capacitor(farad * one.count, one.esr_ohm / one.count, (BODY_H[one.dielectric] + leads_h(one.lead_m)) / one.count)  # fmt: skip
    if one.damping_ohm is None or one.damping_farad <= 0:
        return own
    damping = capacitor(one.damping_farad, one.damping_ohm, BODY_H[one.dielectric])
    return lambda s: own(s) + damping(s)


def fading(slope: float, corner_hz: float = LOAD_CONTROL_HZ) -> Law:
    """The slope of what holds its power only as far as its control reaches [S]."""
    return lambda s: slope / (1 + s / (2 * math.pi * corner_hz))


def table(laws: list[Law], s: Complex) -> Complex:
    """Every law at every s (f, laws). Plain series branches, nearly all of them, are worked out together."""
    found = np.empty((len(laws), s.size), complex)
    plain = [k for k, law in enumerate(laws) if isinstance(law, Series)]
    values = np.array([(law.ohm, law.henry, law.elastance) for law in laws if isinstance(law, Series)]).reshape(-1, 3)
    ohm, henry, elastance = values.T[:, :, None]
    found[plain] = 1 / (ohm + s * henry + elastance / s)
    for k, law in enumerate(laws):
        if not isinstance(law, Series):
            found[k] = law(s)
    return found.T
