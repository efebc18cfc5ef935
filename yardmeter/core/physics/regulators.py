"""Loss of a switching regulator, fitted to the one or two efficiency points a data sheet gives."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np


@dataclass(frozen=True)
class LossFit:
    """`P(I) = Iq Vin + k1 I + k2 I²` [W] with I the output current [A]."""

    k1_v: float
    k2_ohm: float


def fit_loss(points: Sequence[tuple[float, float]], output_v: float, quiescent_w: float) -> LossFit:
    """Fit the load-dependent loss to (output amps, efficiency) points with non-negative coefficients.

    Points at one current put all loss on the linear term (a diode- or switch-like drop); others give both terms.
    No point means a lossless converter but for its quiescent power. Source: textbook loss model, linear plus ohmic.
    """
    return _fit(tuple(points), output_v, quiescent_w)


@lru_cache(maxsize=512)
def _fit(points: tuple[tuple[float, float], ...], output_v: float, quiescent_w: float) -> LossFit:
    """The same few regulators are asked for over and over."""
    rows = [(amps, output_v * amps * (1 / eff - 1) - quiescent_w) for amps, eff in points]
    if not rows:
        return LossFit(0.0, 0.0)
    amps = np.array([amps for amps, _ in rows])
    losses_w = np.array([max(loss_w, 0.0) for _, loss_w in rows])

    def alone(column: np.ndarray) -> float:
        return float(losses_w @ column / (column @ column))

    if len(set(amps)) == 1:
        return LossFit(alone(amps), 0.0)
    k1_v, k2_ohm = np.linalg.lstsq(np.column_stack([amps, amps**2]), losses_w)[0]
    # Least squares are convex: where the best term is negative, the best without negative terms has none of it.
    if k1_v < 0:
        return LossFit(0.0, alone(amps**2))
    if k2_ohm < 0:
        return LossFit(alone(amps), 0.0)
    return LossFit(float(k1_v), float(k2_ohm))


def current_for_loss_a(fit: LossFit, budget_w: float, drop_v: float, drop_ohm: float) -> float:
    """Output current [A] at which the load-dependent loss reaches `budget_w` [W].

    The loss is the larger of the fit and the conduction floor `drop_v I + drop_ohm I²`, so the smaller current counts.
    """
    return min(_positive_root(fit.k1_v, fit.k2_ohm, budget_w), _positive_root(drop_v, drop_ohm, budget_w))


def _positive_root(linear: float, square: float, target: float) -> float:
    if target <= 0:
        return 0.0
    if square <= 0:
        return target / linear if linear > 0 else math.inf
    return (-linear + math.sqrt(linear**2 + 4 * square * target)) / (2 * square)
