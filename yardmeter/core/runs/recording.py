"""A flight that was recorded, as a scenario: its throttle or its amps over time become the acts of the motors."""

from __future__ import annotations

import csv
import re
from collections.abc import Callable, Iterator
from functools import partial
from typing import Literal

import numpy as np

from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.errors import YardError
from yardmeter.core.network.loads import throttle_amps
from yardmeter.core.plan import Condition, Device, Plan, Scenario
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.scenarios import LONGEST_S, ScenarioAct, StepOfCurrent, Throttle
from yardmeter.core.runs.shipped import scenarios_of
from yardmeter.core.solver.circuit import Floats, Ints
from yardmeter.core.units import plain_number

Quantity = Literal["throttle", "amps"]
MOST_ACTS = 390
"""Points a recording is drawn with, over all motor groups: a scenario has room for 400 acts."""
LEAST_FRAC = 0.005
"""What of its range a line may be off before a point is spent on it."""
MOST_A = 10_000.0
MOST_ROWS = 2_000_000
UNITS = {"s": 1.0, "sec": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "min": 60.0}
AMPS = ("amps", "amp", "current", "amperage", "a")


def read_recording(plan: Plan, text: str, name: str, use: Quantity | None = None) -> Scenario:
    """A scenario of a plan from a table with a heading: a column of time, one of throttle or one of the pack's amps.

    Time is in seconds unless its heading says `ms`, `us` or `min`; throttle a part of one, per cent, or a servo pulse of
    1000 to 2000 µs. Amps go before throttle where both are there, unless `use` says otherwise. Raises YardError with what,
    where, and what to do.
    """
    motors = [one for one in plan.devices if one.throttle]
    if not motors:
        raise YardError("This craft has no motors with a throttle curve: a recording has nothing to act on.", where="plan", remedy="Give a motor group its amps over throttle first.")  # fmt: skip
    times, columns = _read(text)
    quantity = use or ("amps" if "amps" in columns else "throttle")
    if quantity not in columns:
        raise YardError(f"The recording has no column of {quantity}.", where="heading", remedy=f"It has time and {' and '.join(columns)}.")  # fmt: skip
    begins = _begins(plan)
    values = columns[quantity]
    if quantity == "throttle":
        keep = _kept(times, values, MOST_ACTS)
        acts = tuple(_ramps(times[keep], values[keep], _throttle))
    else:
        keep = _kept(times, values, MOST_ACTS // len(motors))
        acts = tuple(_of_amps(plan, motors, begins, times[keep], values[keep]))
    scenario_id = fresh_id(plan, name or "recording", {one.id for one in scenarios_of(plan)})
    return Scenario(
        id=scenario_id, name=(name or "Recording")[:80], begins=begins.id, duration_s=float(times[-1]), pack_state="full",
        acts=acts, note=f"From a recording of {times.size} rows, by its {quantity}.",
    )  # fmt: skip


def _begins(plan: Plan) -> Condition:
    """The condition a flight begins in: on the pack alone, with the least throttle."""
    found = [one for one in plan.conditions if tuple(one.energy) == ("pack",)]
    if not found:
        raise YardError("No condition of this plan is on the pack alone.", where="conditions", remedy="Add one: a recording begins in it.")  # fmt: skip
    return min(found, key=lambda one: one.throttle_frac)


def _read(text: str) -> tuple[Floats, dict[Quantity, Floats]]:
    """Time from nothing on, rising, and the columns that are there."""
    lines = [one for one in text.lstrip("\ufeff").splitlines() if one.strip() and not one.lstrip().startswith("#")]
    if len(lines) < 3:
        raise YardError("A recording needs a heading and two rows at least.", where="file")
    if len(lines) > MOST_ROWS:
        raise YardError(f"The recording has {len(lines)} rows; {MOST_ROWS} are the most.", where="file", remedy="Thin it out, or cut a flight out of it.")  # fmt: skip
    mark = max(",;\t", key=lines[0].count)
    heading = [one.strip().lower() for one in next(csv.reader(lines[:1], delimiter=mark))]
    time_at, unit_s = _time_column(heading)
    wanted: dict[Quantity, int] = {}
    for k, word in enumerate(heading):
        first = re.split(r"[\s_(\[]", word)[0]
        if first == "throttle":
            wanted.setdefault("throttle", k)
        elif first in AMPS:
            wanted.setdefault("amps", k)
    if not wanted:
        raise YardError("The recording has neither throttle nor amps.", where="heading", remedy=f"Call a column throttle or amps; it has {', '.join(heading)}.")  # fmt: skip
    rows = []
    for number, row in enumerate(csv.reader(lines[1:], delimiter=mark), 2):
        picked = [row[k].strip() if k < len(row) else "" for k in (time_at, *wanted.values())]
        if not all(picked) or "nan" in (one.lower() for one in picked):
            continue  # loggers leave out what did not change, or say that they do not know: such a row says nothing of it
        try:
            rows.append([plain_number(one) for one in picked])
        except ValueError:
            raise YardError(f"“{', '.join(picked)}” is no number.", where=f"row {number}", remedy="Numbers with a point, one for each column.") from None  # fmt: skip
    return _checked(np.array(rows), unit_s, tuple(wanted))


def _time_column(heading: list[str]) -> tuple[int, float]:
    for k, word in enumerate(heading):
        parts = [one for one in re.split(r"[\s_()\[\]]+", word) if one]
        if parts and parts[0] in ("time", "t"):
            return k, next((UNITS[one] for one in parts[1:] if one in UNITS), 1.0)
    raise YardError("The recording has no column of time.", where="heading", remedy="Call it time_s, time_ms or time_us.")  # fmt: skip


def _checked(rows: Floats, unit_s: float, names: tuple[Quantity, ...]) -> tuple[Floats, dict[Quantity, Floats]]:
    if rows.ndim < 2 or rows.shape[0] < 2 or not np.isfinite(rows).all():
        raise YardError("The recording has fewer than two rows with numbers in them.", where="file")
    times = (rows[:, 0] - rows[0, 0]) * unit_s
    back = np.flatnonzero(np.diff(times) < 0)
    if back.size:
        raise YardError(f"Time runs backwards after row {back[0] + 2}.", where=f"row {back[0] + 3}", remedy="One flight in one file: cut it there.")  # fmt: skip
    fresh = np.concatenate([[True], np.diff(times) > 0])
    times, rows = times[fresh], rows[fresh]
    if times.size < 2 or times[-1] > LONGEST_S:
        raise YardError(f"The recording lasts {times[-1]:g} s; more than nothing and at most a day can be run.", where="time", remedy="Say in its heading what time is in: time_s, time_ms or time_us.")  # fmt: skip
    columns = dict(zip(names, rows[:, 1:].T, strict=True))
    if "amps" in columns and float(columns["amps"].max()) > MOST_A:
        raise YardError(f"Amps go up to {columns['amps'].max():g}; {MOST_A:g} are the most.", where="amps", remedy="Give them in amperes, not milliamperes or counts.")  # fmt: skip
    if "throttle" in columns:
        columns["throttle"] = _as_frac(columns["throttle"])
    return times, columns


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
    for motor, own in zip(motors, full, strict=True):
        share = own / sum(full)
        values = np.maximum(amps - rest_a, 0.0) * share
        yield from _ramps(times, values, partial(_draw, motor.id))
