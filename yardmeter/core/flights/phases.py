"""Phases of a flight: rest, hover, punch, landing; by throttle, or by amps where none was recorded."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.flights.flight import Flight
from yardmeter.core.solver.circuit import Floats

PhaseKind = Literal["rest", "hover", "punch", "landing"]
REST_FRAC, PUNCH_FRAC = 0.08, 0.75
"""Throttle below which a craft rests, and from which it is punched; our choice."""
OF_AMPS = 0.9
"""Amps are measured by what nine tenths of a percentile reach: one spike is no scale; our choice."""
BRIEF_S = 0.4
"""What is shorter joins what was before it."""
LANDS_S = 20.0
"""How long before the last rest a landing may begin; our choice."""


class Phase(Answer):
    kind: PhaseKind
    from_s: float
    to_s: float
    amps_a: float | None
    """Mean of what was recorded in it; None where nothing was."""
    least_v: float | None


def phases(flight: Flight) -> tuple[Phase, ...]:
    """Stretches that follow each other from the first row to the last; none where neither throttle nor amps were recorded."""
    level = _level(flight)
    if level is None:
        return ()
    kinds = np.where(level < REST_FRAC, 0, np.where(level >= PUNCH_FRAC, 2, 1))
    cuts = [0, *(np.flatnonzero(np.diff(kinds)) + 1).tolist(), kinds.size]
    runs = [[int(kinds[a]), a, b] for a, b in pairwise(cuts)]
    times = flight.times_s
    joined: list[list[int]] = []
    for kind, a, b in runs:
        brief = times[min(b, times.size - 1)] - times[a] < BRIEF_S
        if joined and (brief or joined[-1][0] == kind):
            joined[-1][2] = b
        else:
            joined.append([kind, a, b])
    named: list[PhaseKind] = ["rest", "hover", "punch"]
    found = [_phase(flight, named[kind], a, b) for kind, a, b in joined]
    return tuple(_landed(flight, level, found))


def _level(flight: Flight) -> Floats | None:
    """How hard it is flown, a part of one; what is not known is what was before."""
    if "throttle" in flight.series:
        own = flight.series["throttle"]
    elif "amps" in flight.series:
        amps = flight.series["amps"]
        top = float(np.nanpercentile(amps, 99.5)) if np.isfinite(amps).any() else 0.0
        if top <= 0:
            return None
        own = amps / (top / OF_AMPS)
    else:
        return None
    known = np.isfinite(own)
    if not known.any():
        return None
    return np.interp(flight.times_s, flight.times_s[known], own[known])


def _phase(flight: Flight, kind: PhaseKind, a: int, b: int) -> Phase:
    times = flight.times_s
    amps, volts = flight.series.get("amps"), flight.series.get("volts")
    mean = float(np.nanmean(amps[a:b])) if amps is not None and np.isfinite(amps[a:b]).any() else None
    least = float(np.nanmin(volts[a:b])) if volts is not None and np.isfinite(volts[a:b]).any() else None
    return Phase(
        kind=kind, from_s=float(times[a]), to_s=float(times[min(b, times.size - 1)]), amps_a=mean, least_v=least
    )


def _landed(flight: Flight, level: Floats, found: list[Phase]) -> list[Phase]:
    """The end of the last hover under its own usual throttle, before a rest, is a landing."""
    flown = [k for k, one in enumerate(found) if one.kind == "hover"]
    if not flown or flown[-1] + 1 >= len(found) or found[flown[-1] + 1].kind != "rest":
        return found
    k, times = flown[-1], flight.times_s
    last = found[k]
    inside = (times >= max(last.from_s, last.to_s - LANDS_S)) & (times < last.to_s)
    usual = float(np.median(level[(level >= REST_FRAC) & (level < PUNCH_FRAC)]))
    above = np.flatnonzero(inside & (level >= usual))
    begin = int(above[-1]) + 1 if above.size else int(np.flatnonzero(inside)[0]) if inside.any() else 0
    end = int(np.searchsorted(times, last.to_s))
    if end - begin < 2 or times[min(end, times.size - 1)] - times[begin] < BRIEF_S:
        return found
    a = int(np.searchsorted(times, last.from_s))
    before = [_phase(flight, "hover", a, begin)] if begin > a else []
    return [*found[:k], *before, _phase(flight, "landing", begin, end), *found[k + 1 :]]
