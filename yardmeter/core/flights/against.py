"""Before and after: two flights at equal throttle and charge, and whether their difference is more than chance."""

from __future__ import annotations

from typing import Literal

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.flights.fits import charge_taken_ah, lagging, robust_line, steady, stretches_of
from yardmeter.core.flights.flight import Flight
from yardmeter.core.network.in_time import POLARISED_FRAC, POLARISED_S
from yardmeter.core.solver.circuit import Floats

KNOTS = tuple(round(0.075 * k, 3) for k in range(1, 13))
"""Throttle between which a craft's amps are taken as straight; our choice."""
TOGETHER_S = 10.0
"""What is left over of two flights hangs together longer than of one: they do not share their curves. Our choice."""
Verdict = Literal["difference", "no difference shown", "not comparable"]


Part = tuple[Floats, Floats, Floats, Floats]


class Difference(Answer):
    """After less before, with its error at 95 %; `percent` of what it was before where that is an amount."""

    name: str
    unit: str
    before: float | None
    after: float | None
    by: float | None
    error: float | None
    percent: float | None
    verdict: Verdict
    why: str = ""


def against(before: Flight, after: Flight) -> tuple[Difference, ...]:
    """What changed between two flights: amps at equal throttle, volts at equal amps and charge."""
    return (_amps(before, after), _volts(before, after))


def _none(name: str, unit: str, why: str) -> Difference:
    return Difference(name=name, unit=unit, before=None, after=None, by=None, error=None, percent=None, verdict="not comparable", why=why)  # fmt: skip


def _amps(before: Flight, after: Flight) -> Difference:
    """Amps at equal throttle, as a share of what they were; a lower pack draws what regulators feed with more amps, in both."""
    name, unit = "amps at equal throttle", "A"
    if any(not {"amps", "throttle"} <= one.series.keys() for one in (before, after)):
        return _none(name, unit, "Both flights need throttle and amps.")
    parts = [_steady(one) for one in (before, after)]
    if min(times.size for times, *_ in parts) < 60:
        return _none(name, unit, "The throttle hardly stood still in one of them.")
    low = max(float(np.percentile(throttle, 2)) for _, throttle, *_ in parts)
    high = min(float(np.percentile(throttle, 98)) for _, throttle, *_ in parts)
    if high - low < 0.02:
        return _none(name, unit, "They were flown at different throttle.")
    kept = [_within(part, low, high) for part in parts]
    both_a = np.concatenate([amps for _, _, amps, _ in kept])
    both_t = np.concatenate([throttle for _, throttle, *_ in kept])
    inverse = np.concatenate([one for *_, one in kept])
    of = np.concatenate([np.full(one[0].size, float(k)) for k, one in enumerate(kept)])
    first = stretches_of(kept[0][0], TOGETHER_S)
    stretch = np.concatenate([first, (first.max() if first.size else 0) + 1 + stretches_of(kept[1][0], TOGETHER_S)])
    shape = _tents(both_t, low, high)
    usual = float(np.median(both_a))
    fed = [inverse / inverse.mean() - 1] if float(np.ptp(inverse)) > 1e-6 else []
    line = robust_line(np.column_stack([shape, *fed, of]), both_a, stretch)
    if line is None or kept[0][2].size < 30 or kept[1][2].size < 30:
        return _none(name, unit, "Too little of both was flown at the same throttle.")
    by, error = float(line.beta[-1]), float(line.error[-1])
    return _told(name, unit, usual, by, error)


def _steady(flight: Flight) -> Part:
    """Times, throttle, amps, and one over the pack's volts, which what regulators feed goes by."""
    ok = steady(flight) & flight.known("amps", "throttle")
    volts = flight.series["volts"][ok] if "volts" in flight.series else np.ones(int(ok.sum()))
    filled = np.where(
        np.isfinite(volts) & (volts > 0.1),
        volts,
        max(float(np.nanmedian(volts)), 0.1) if np.isfinite(volts).any() else 1.0,
    )
    return flight.times_s[ok], flight.series["throttle"][ok], flight.series["amps"][ok], 1 / filled


def _within(part: Part, low: float, high: float) -> Part:
    times, throttle, amps, inverse = part
    inside = (throttle >= low) & (throttle <= high)
    return times[inside], throttle[inside], amps[inside], inverse[inside]


def _tents(values: Floats, low: float, high: float) -> Floats:
    """A line broken at knots that both flights reach (t, k)."""
    knots = [low, *(one for one in KNOTS if low + 0.02 < one < high - 0.02), high]
    columns = [np.interp(values, knots, np.eye(len(knots))[k]) for k in range(len(knots))]
    used = [one for one in columns if (one > 0.05).sum() >= 20]
    return np.column_stack(used if len(used) > 1 else [np.ones(values.size), values])


def _volts(before: Flight, after: Flight) -> Difference:
    """The pack's volts at equal amps and charge taken."""
    name, unit = "pack volts at equal amps and charge", "V"
    if any(not {"amps", "volts"} <= one.series.keys() for one in (before, after)):
        return _none(name, unit, "Both flights need volts and amps.")
    if any(one.known("amps", "volts").sum() < 60 for one in (before, after)):
        return _none(name, unit, "One of them knows too little of its volts and amps.")
    rows = []
    for k, one in enumerate((before, after)):
        known = one.known("amps", "volts")
        amps = one.series["amps"][known]
        through = (1 - POLARISED_FRAC) * amps + POLARISED_FRAC * lagging(one.times_s[known], amps, POLARISED_S)
        rows.append((one.times_s[known], through, one.series["volts"][known], charge_taken_ah(one)[known], np.full(int(known.sum()), float(k))))  # fmt: skip
    most = min(float(charge.max()) for *_, charge, _ in rows if charge.size) if all(r[0].size for r in rows) else 0.0
    kept = [
        tuple(part[charge <= most] for part in (times, amps, volts, charge, of))
        for times, amps, volts, charge, of in rows
    ]
    if most <= 0 or min(one[0].size for one in kept) < 60:
        return _none(name, unit, "One of them took no charge to speak of.")
    amps, volts, charge, of = (np.concatenate([one[k] for one in kept]) for k in (1, 2, 3, 4))
    first = stretches_of(kept[0][0], TOGETHER_S)
    stretch = np.concatenate([first, first.max() + 1 + stretches_of(kept[1][0], TOGETHER_S)])
    design = [np.ones(amps.size), amps] + [(charge / most) ** k for k in range(1, 5)]
    line = robust_line(np.column_stack([*design, of]), volts, stretch)
    if line is None:
        return _none(name, unit, "Their amps and charge cannot be told apart.")
    return _told(name, unit, float(np.median(volts)), float(line.beta[-1]), float(line.error[-1]))


def _told(name: str, unit: str, usual: float, by: float, error: float) -> Difference:
    shown = abs(by) > error
    return Difference(
        name=name, unit=unit, before=usual - by / 2, after=usual + by / 2, by=by, error=error,
        percent=100 * by / (usual - by / 2) if usual else None, verdict="difference" if shown else "no difference shown",
    )  # fmt: skip
