"""A flight that was recorded, as a scenario: its throttle or its amps over time become the acts of the motors."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.errors import YardError
from yardmeter.core.network.in_time import MOTOR_S
from yardmeter.core.network.loads import throttle_amps
from yardmeter.core.plan import Condition, Device, Plan, Scenario
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.scenarios import LONGEST_S, ScenarioAct, StepOfCurrent, Throttle
from yardmeter.core.runs.recorded import AMPERES, Column, Quantity, Table, read_table
from yardmeter.core.runs.shipped import scenarios_of
from yardmeter.core.solver.circuit import Floats, Ints

MOST_ACTS = 390
"""Points a recording is drawn with, over all motor groups: a scenario has room for 400 acts."""
LEAST_FRAC = 0.005
"""What of its range a line may be off before a point is spent on it."""
MOST_A = 10_000.0
UNLIKELY, UNLIKELY_A = 3.0, 50.0
"""Amps without a unit that are over so much of what the motors take at full throttle, and over so many, are asked about."""


def read_recording(plan: Plan, text: str, name: str, use: Quantity | None = None) -> Scenario:
    """A scenario of a plan from a table with a heading: a column of time, one of throttle or one of the pack's amps.

    Time is in seconds unless its heading says `ms`, `us` or `min`; throttle a part of one, per cent, or a servo pulse of
    1000 to 2000 µs. Amps go before throttle where both are there, unless `use` says otherwise. Raises YardError with what,
    where, and what to do.
    """
    return scenario_of(plan, read_table(text), name, use)


def scenario_of(plan: Plan, table: Table, name: str, use: Quantity | None = None) -> Scenario:
    """A scenario of a plan from a table that was read, likewise."""
    motors = [one for one in plan.devices if one.throttle]
    if not motors:
        raise YardError("This craft has no motors with a throttle curve: a recording has nothing to act on.", where="plan", remedy="Give a motor group its amps over throttle first.")  # fmt: skip
    quantity = use or ("amps" if "amps" in table.columns else "throttle")
    if quantity not in table.columns:
        raise YardError(f"The recording has no column of {quantity}.", where="heading", remedy=f"It has time and {' and '.join(table.columns)}.")  # fmt: skip
    begins = _begins(plan)
    times, values = _rising(table, quantity)
    name = " ".join(name.split())[:80]
    if quantity == "throttle":
        values = _as_frac(values)
        keep = _kept(times, values, MOST_ACTS)
        acts = tuple(_ramps(times[keep], values[keep], _throttle))
    else:
        values = _as_amps(plan, motors, replace(table.columns["amps"], values=values))
        keep = _kept(times, values, MOST_ACTS // len(motors))
        acts = tuple(_of_amps(plan, motors, begins, times[keep], values[keep]))
    scenario_id = fresh_id(plan, name or "recording", {one.id for one in scenarios_of(plan)})
    return Scenario(
        id=scenario_id, name=name or "Recording", begins=begins.id, duration_s=float(times[-1]), pack_state="full", air="moving",
        acts=acts, note=f"From a recording of {times.size} rows, by its {quantity}.",
    )  # fmt: skip


def _begins(plan: Plan) -> Condition:
    """The condition a flight begins in: on the pack alone, with the least throttle."""
    found = [one for one in plan.conditions if tuple(one.energy) == ("pack",)]
    if not found:
        raise YardError("No condition of this plan is on the pack alone.", where="conditions", remedy="Add one: a recording begins in it.")  # fmt: skip
    return min(found, key=lambda one: one.throttle_frac)


def _rising(table: Table, name: Quantity) -> tuple[Floats, Floats]:
    """Time from nothing on, rising, and a column where it has numbers."""
    values = table.columns[name].values
    known = np.isfinite(values)
    times, values, lines = table.times_s[known], values[known], table.lines[known]
    if times.size < 2:
        raise YardError("The recording has fewer than two rows with numbers in them.", where="file")
    times = times - times[0]
    back = np.flatnonzero(np.diff(times) < 0)
    if back.size:
        at = int(back[0])
        raise YardError(f"Time runs backwards after row {lines[at]}.", where=f"row {lines[at + 1]}", remedy="One flight in one file: cut it there.")  # fmt: skip
    fresh = np.concatenate([[True], np.diff(times) > 0])
    times, values = times[fresh], values[fresh]
    if times.size < 2 or times[-1] > LONGEST_S:
        raise YardError(f"The recording lasts {times[-1]:g} s; more than nothing and at most a day can be run.", where="time", remedy="Say in its heading what time is in: time_s, time_ms or time_us.")  # fmt: skip
    return times, values


def _as_amps(plan: Plan, motors: Sequence[Device], column: Column) -> Floats:
    """Amperes; milliamperes where the heading says so. A column that says nothing is doubted where no craft like this draws so much."""
    if column.unit:
        amps = column.values * AMPERES[column.unit]
    else:
        amps, full_a = column.values, sum(throttle_amps(one, 1.0) for one in motors)
        most = float(np.nanmax(amps, initial=0.0))
        if most > max(UNLIKELY * full_a, UNLIKELY_A):
            raise YardError(f"Amps go up to {most:g}, and the motors of {plan.name} take {full_a:g} A at full throttle.", where="heading", remedy="Say in the heading what they are in: amps_ma where they are milliamperes, amps_a where they are right.")  # fmt: skip
    if float(np.nanmax(amps, initial=0.0)) > MOST_A:
        raise YardError(f"Amps go up to {np.nanmax(amps):g}; {MOST_A:g} are the most.", where="amps", remedy="Give them in amperes, not milliamperes or counts.")  # fmt: skip
    return amps


def _as_frac(throttle: Floats) -> Floats:
    """Throttle as a part of one, whatever it was written in."""
    least, most = float(throttle.min()), float(throttle.max())
    if least >= -0.05 and most <= 1.05:
        found = throttle
    elif least >= -5.0 and most <= 105.0:
        found = throttle / 100
    elif least >= 700 and most <= 2300:
        found = (throttle - 1000) / 1000
    else:
        raise YardError(
            f"Throttle goes from {least:g} to {most:g}: neither a part of one, per cent, nor a pulse of 1000 to 2000 µs.",
            where="throttle",
            remedy="Give it in one of these.",
        )
    clipped: Floats = np.clip(found, 0.0, 1.0)
    return clipped


def _kept(times: Floats, values: Floats, most: int) -> Ints:
    """The points a line is drawn through: those the line is farthest from first (Douglas and Peucker 1973), at most so many."""
    kept = [0, times.size - 1]
    allowed = LEAST_FRAC * max(float(np.ptp(values)), 1e-9)
    stretches = [_farthest(times, values, 0, times.size - 1)]
    while len(kept) < most and stretches:
        off, at, a, b = stretches.pop(max(range(len(stretches)), key=lambda k: stretches[k][0]))
        if off <= allowed:
            break
        kept.append(at)
        stretches += [_farthest(times, values, a, at), _farthest(times, values, at, b)]
    return np.array(sorted(kept), np.int64)


def _farthest(times: Floats, values: Floats, a: int, b: int) -> tuple[float, int, int, int]:
    """How far the recording is off a line from point `a` to `b` at most, where, and the two."""
    if b - a < 2:
        return 0.0, a, a, b
    line = np.interp(times[a : b + 1], [times[a], times[b]], [values[a], values[b]])
    off = np.abs(values[a : b + 1] - line)
    at = int(off.argmax())
    return float(off[at]), a + at, a, b


def _ramps(
    times: Floats, values: Floats, act: Callable[[float, float, float], list[ScenarioAct]]
) -> Iterator[ScenarioAct]:
    """Straight lines from point to point."""
    yield from act(0.0, float(values[0]), 0.0)
    for k in range(1, times.size):
        if values[k] != values[k - 1]:
            yield from act(float(times[k - 1]), float(values[k]), float(times[k] - times[k - 1]))


def _throttle(at_s: float, to: float, over_s: float) -> list[ScenarioAct]:
    return [Throttle(at_s=at_s, to_frac=to, over_s=over_s)]


def _draw(device: str, at_s: float, to: float, over_s: float) -> list[ScenarioAct]:
    return [StepOfCurrent(at_s=at_s, device=device, value=to, over_s=over_s)]


def _of_amps(plan: Plan, motors: list[Device], begins: Condition, times: Floats, amps: Floats) -> Iterator[ScenarioAct]:
    """The pack's amps but for what the electronics take, shared out as the motors would at full throttle."""
    still = begins.model_copy(update={"throttle_frac": 0.0})
    rest_a = solve_plan(plan.model_copy(update={"conditions": (still,)})).budget.conditions[0].pack_a
    full = [throttle_amps(one, 1.0) for one in motors]
    asked_s = np.maximum(times - MOTOR_S, 0.0)  # what motors draw lags what they ask, and recorded is what they drew
    for motor, own in zip(motors, full, strict=True):
        share = own / sum(full)
        values = np.maximum(amps - rest_a, 0.0) * share
        yield from _ramps(asked_s, values, partial(_draw, motor.id))
