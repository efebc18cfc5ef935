"""Lines of a run as a picture draws them: least and most of each stretch, so that no peak is lost."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.physics.pack import charge_left_frac
from yardmeter.core.plan import Regulator
from yardmeter.core.plan.scenarios import Throttle
from yardmeter.core.runs.run import Run
from yardmeter.core.solver.circuit import Floats

WARMS_K, NEAR_TRIP_FRAC = 15.0, 0.6
"""A regulator's temperature is drawn where it warms by so much, or comes to this part of its trip temperature; our choice."""


@dataclass(frozen=True, eq=False)
class More:
    """What is drawn below the volts: a quantity over the run's steps, and what it should stay below where there is such a thing."""

    id: str
    name: str
    unit: Literal["A", "%", "°C"]
    values: Floats
    limit: float | None = None


def more_of(run: Run) -> Iterator[More]:
    """Throttle, amps of the motors and of the pack, its charge, and regulators that warm."""
    plan, pack, times = run.plan, run.plan.pack, run.times_s
    if not times.size:
        return
    motors = [one.id for one in plan.devices if one.throttle]
    stick = throttle_frac(run)
    if motors and stick is not None:
        yield More("throttle", "Throttle", "%", 100 * stick)
    if motors:
        yield More("motors-amps", "Motors, amps", "A", sum((run.load_a(one) for one in motors), np.zeros(times.size)))
    yield More("pack-amps", "Pack, amps", "A", run.pack_a, pack.limit_a)
    begun = charge_left_frac(pack.chemistry, run.rest_v(0) / pack.series)
    left = 100 * np.maximum(begun - run.charge_c / (pack.charge_ah * 3600), 0.0)
    yield More("pack-charge", "Pack, charge left", "%", left)
    for one in plan.supplies:
        if isinstance(one, Regulator) and run.converter(one.id) is not None:
            temp = run.temp_c(one.id)
            if temp.max() - temp.min() > WARMS_K or temp.max() > NEAR_TRIP_FRAC * one.trip_c:
                yield More(f"{one.id}-heat", f"{plan.title(one.id)}, heat", "°C", temp, one.trip_c)


def throttle_frac(run: Run) -> Floats | None:
    """Where the stick stands at every step (t,); None where nothing moves it and it is down, as in a flight played by its amps."""
    acts = sorted((one for one in run.scenario.acts if isinstance(one, Throttle)), key=lambda one: one.at_s)
    stands = run.timetable.condition.throttle_frac if run.scenario.begins is not None else 0.0
    if not acts and stands == 0:
        return None
    at, to = [0.0], [stands]
    for act in acts:
        now = float(np.interp(act.at_s, at, to))
        kept = [k for k, when in enumerate(at) if when <= act.at_s]  # a ramp that is on its way ends here
        at, to = [at[k] for k in kept], [to[k] for k in kept]
        at += [act.at_s, act.at_s + act.over_s]
        to += [now, act.to_frac]
    found: Floats = np.interp(run.times_s, at, to)
    return found


def envelope(values: Floats, times_s: Floats, edges_s: Floats) -> tuple[Floats, Floats]:
    """Least and most of values between each two edges, straight lines between the steps; NaN beyond the last step."""
    at = np.interp(edges_s, times_s, values, right=np.nan)
    low, high = np.fmin(at[:-1], at[1:]), np.fmax(at[:-1], at[1:])
    which = np.searchsorted(edges_s, times_s, side="right") - 1
    inside = (which >= 0) & (which < low.size)
    np.fmin.at(low, which[inside], values[inside])
    np.fmax.at(high, which[inside], values[inside])
    return low, high
