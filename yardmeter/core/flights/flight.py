"""A flight: series over time in SI units, as its columns were confirmed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from pydantic import Field

from yardmeter.core.errors import YardError
from yardmeter.core.flights.sheet import UNITS, Role
from yardmeter.core.plan.parts import Model
from yardmeter.core.runs.recorded import Column, Sheet, Table
from yardmeter.core.solver.circuit import Bools, Floats

GAP_TIMES = 20.0
"""A pause of so many usual steps, and of a second, is a gap: nothing is drawn across it."""
ONCE: tuple[Role, ...] = ("time", "volts", "amps", "throttle", "charge")


class Confirmed(Model):
    """What a column is, as the builder says."""

    index: int = Field(ge=0, le=1000)
    role: Role
    unit: str = Field(default="", max_length=12)
    rail: str | None = Field(default=None, max_length=64)


@dataclass(frozen=True)
class Flight:
    """Times [s] from nothing on and rising. Series by name: `volts`, `amps`, `throttle` (part of one), `charge` [Ah], `rail:<id>` [V],
    `temp:<heading>` [°C], `event:<heading>`; NaN where nothing is known. `notes` say what was mended."""

    times_s: Floats
    series: Mapping[str, Floats]
    notes: tuple[str, ...] = ()
    gaps: tuple[int, ...] = field(default=())
    """Steps before which something is missing."""

    @property
    def duration_s(self) -> float:
        return float(self.times_s[-1])

    def known(self, *names: str) -> Bools:
        """Where all of these series say something."""
        found: Bools = np.ones(self.times_s.size, bool)
        for name in names:
            found &= np.isfinite(self.series[name]) if name in self.series else False
        return found

    def steps_s(self) -> Floats:
        """Length of each step, none across a gap (t,)."""
        steps = np.diff(self.times_s, prepend=self.times_s[0])
        steps[list(self.gaps)] = 0.0
        return steps

    def table(self) -> Table:
        """Throttle and amps as *Run* reads them."""
        columns = {
            n: Column(n, {"amps": "a"}.get(n, ""), self.series[n]) for n in ("throttle", "amps") if n in self.series
        }
        return Table(self.times_s, columns, np.arange(2, self.times_s.size + 2))  # type: ignore[arg-type]


def flight_of(sheet: Sheet, confirmed: Sequence[Confirmed]) -> Flight:
    """The flight of a table; raises YardError where time is missing, or a column is none of numbers."""
    by_role = {one.role: one for one in confirmed}
    for role in ONCE:
        if sum(one.role == role for one in confirmed) > 1:
            raise YardError(f"Two columns are said to be {role}.", where="columns", remedy="Choose one of them.")
    if "time" not in by_role:
        raise YardError("No column is said to be time.", where="columns", remedy="Choose the one that counts seconds.")
    if not any(one.role in ("volts", "amps", "throttle", "rail volts") for one in confirmed):
        raise YardError("A flight needs volts, amps or throttle.", where="columns", remedy="Choose at least one.")
    for one in confirmed:
        if one.index not in sheet.columns:
            name = sheet.heading[one.index] if one.index < len(sheet.heading) else str(one.index)
            raise YardError(f"“{name[:40]}” holds no numbers.", where="columns", remedy="Leave it out.")
        if one.unit not in UNITS[one.role]:
            raise YardError(f"“{one.unit}” is no unit of {one.role}.", where="columns", remedy=f"Choose one of {', '.join(UNITS[one.role])}.")  # fmt: skip
    times, keep, notes = _times(sheet, by_role["time"])
    series = {_name(sheet, one): _in_si(sheet.columns[one.index][keep], one) for one in confirmed if one.role != "time"}
    usual = float(np.median(np.diff(times)))
    gaps = tuple((np.flatnonzero(np.diff(times) > max(GAP_TIMES * usual, 1.0)) + 1).tolist())
    if gaps:
        notes.append(
            f"{len(gaps)} gap{'s' if len(gaps) > 1 else ''} in time, the longest {np.diff(times).max():.3g} s."
        )
    return Flight(times, series, tuple(notes), gaps)


def _name(sheet: Sheet, one: Confirmed) -> str:
    if one.role == "rail volts":
        return f"rail:{one.rail}" if one.rail else f"rail:{sheet.heading[one.index]}"
    return (
        one.role
        if one.role in ONCE
        else f"{'temp' if one.role == 'temperature' else one.role}:{sheet.heading[one.index]}"
    )


def _times(sheet: Sheet, time: Confirmed) -> tuple[Floats, np.ndarray, list[str]]:
    """Rising seconds and the rows they are of; a clock that starts anew goes on where it was."""
    own = sheet.columns[time.index] * UNITS["time"][time.unit]
    keep = np.flatnonzero(np.isfinite(own))
    times, notes = own[keep], []
    if times.size < 2:
        raise YardError("Fewer than two rows have a time.", where="columns", remedy="Choose another column of time.")
    steps = np.diff(times)
    back = np.flatnonzero(steps < 0)
    if back.size:
        forward = steps[steps > 0]
        usual = float(np.median(forward)) if forward.size else 1.0
        if back.size > max(20, times.size // 100):
            raise YardError("Time runs backwards again and again.", where=f"row {sheet.lines[keep[back[0] + 1]]}", remedy="Choose another column of time.")  # fmt: skip
        steps[back] = usual
        times = times[0] + np.concatenate([[0.0], np.cumsum(steps)])
        rows = ", ".join(str(sheet.lines[keep[k + 1]]) for k in back[:3])
        notes.append(f"The clock starts anew at row {rows}: what follows goes on behind what was before.")
    fresh = np.concatenate([[True], np.diff(times) > 0])
    times, keep = times[fresh] - times[0], keep[fresh]
    if times.size < 2:
        raise YardError("Time does not move.", where="columns", remedy="Choose another column of time.")
    return times, keep, notes


def _in_si(values: Floats, one: Confirmed) -> Floats:
    factor = UNITS[one.role][one.unit]
    found: Floats = (values - 1000) / 1000 if factor == 0.0 else values * factor
    return np.clip(found, 0.0, 1.0) if one.role == "throttle" else found


def thinned(times_s: Floats, values: Floats, from_s: float, to_s: float, buckets: int) -> tuple[Floats, Floats, Floats]:
    """Edges (buckets + 1,) and the least and most value within each two of them (buckets,): every extreme is kept; NaN where nothing is."""
    edges = np.linspace(from_s, to_s, buckets + 1)
    low, high = np.full(buckets, np.nan), np.full(buckets, np.nan)
    a, b = int(np.searchsorted(times_s, from_s, "left")), int(np.searchsorted(times_s, to_s, "right"))
    at = np.clip(np.searchsorted(edges, times_s[a:b], side="right") - 1, 0, buckets - 1)
    np.fmin.at(low, at, values[a:b])
    np.fmax.at(high, at, values[a:b])
    return edges, low, high
