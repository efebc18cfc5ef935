"""A recorder's table with all its columns, and what each of them seems to be: by its heading and by its values. What is doubtful
is asked, never guessed silently."""

from __future__ import annotations

import csv
import math
import warnings
from array import array
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.errors import YardError
from yardmeter.core.patience import go_on
from yardmeter.core.runs.recorded import (
    GAPS,
    MOST_ROWS,
    SECONDS,
    Lines,
    as_wide,
    comma_meaning,
    heading_words,
    take_row,
)
from yardmeter.core.solver.circuit import Floats, Ints

Role = Literal["time", "volts", "amps", "throttle", "rail volts", "temperature", "charge", "event"]
ROLES: tuple[Role, ...] = get_args(Role)
SHOWN = 12
"""First rows a preview draws."""
LOOKED_AT = 400
"""Rows whose cells say whether a column holds numbers."""
MOST_COLUMNS = 200
EVERY = 20_000
"""Rows between two looks at whether the reading was stopped."""
SPOKEN: dict[Role, tuple[str, ...]] = {
    "time": ("time", "t", "timestamp", "zeit", "clock"),
    "volts": ("vbat", "voltage", "volts", "volt", "vpack", "pack", "battery", "batt", "v"),
    "amps": ("amps", "amp", "current", "curr", "amperage", "a", "ma", "ibat"),
    "throttle": ("throttle", "thr", "gas", "power"),
    "temperature": ("temperature", "temp", "tesc", "degc"),
    "charge": ("mah", "charge", "capacity", "consumed", "used", "drawn"),
    "event": ("event", "mode", "flag", "flags", "state"),
    "rail volts": ("rail", "bec", "five", "5v", "9v", "12v", "vcc", "vrail"),
}
UNITS: dict[Role, dict[str, float]] = {
    "time": SECONDS,
    "volts": {"v": 1.0, "mv": 1e-3, "cv": 1e-2, "dv": 0.1},
    "rail volts": {"v": 1.0, "mv": 1e-3, "cv": 1e-2, "dv": 0.1},
    "amps": {"a": 1.0, "ma": 1e-3, "ca": 1e-2, "da": 0.1},
    "throttle": {"": 1.0, "frac": 1.0, "%": 0.01, "percent": 0.01, "pct": 0.01, "us": 0.0, "µs": 0.0},
    "temperature": {"c": 1.0, "°c": 1.0, "degc": 1.0, "dc": 0.1},
    "charge": {"mah": 1e-3, "ah": 1.0},
    "event": {"": 1.0},
}
"""Units of a role with what they are in SI, or in amp-hours and °C; 0 for pulses of 1000 to 2000 µs."""


class Guess(Answer):
    """What a column seems to be. `doubt` says what has to be confirmed; empty where name and values agree."""

    index: int
    heading: str
    role: Role | None
    unit: str
    rail: str | None = None
    doubt: str = ""


@dataclass(frozen=True)
class Sheet:
    """Columns of numbers by their place, NaN in their gaps; `first` rows as they were written; `lines` of the file."""

    heading: tuple[str, ...]
    columns: dict[int, Floats]
    lines: Ints
    first: tuple[tuple[str, ...], ...]

    @property
    def rows(self) -> int:
        return int(self.lines.size)


def read_sheet(text: str) -> Sheet:
    """Every column that holds numbers. Raises YardError with what, where in the file, and what to do."""
    text = text.lstrip("\ufeff")
    mark, heading, places, first = _looked_at(text)
    if (quick := _plain_table(text, mark, len(heading), places)) is not None:
        return Sheet(tuple(heading), dict(zip(places, quick.T, strict=True)), np.arange(2, len(quick) + 2), first)
    comma = comma_meaning(text, mark)
    lines = Lines(text)
    next(iter(lines), "")
    found, numbers = [array("d") for _ in places], array("q")
    exact = text.isascii() and "_" not in text[text.find("\n") :]
    try:
        for row in csv.reader(lines, delimiter=mark):
            as_wide(row, len(heading), mark, lines.at)
            take_row(row, places, comma, exact, lines.at, found)
            numbers.append(lines.at)
            if len(numbers) % EVERY == 0:
                go_on()
            if len(numbers) > MOST_ROWS:
                raise YardError(f"The recording has more than {MOST_ROWS:,} rows.", where="file", remedy="Thin it out, or cut a flight out of it.")  # fmt: skip
    except csv.Error as error:
        raise YardError(f"The table breaks off: {error}.", where=f"row {lines.at}", remedy="Look at that row: a quote that is not closed, or what is no text.") from None  # fmt: skip
    if len(numbers) < 2:
        raise YardError("A recording needs a heading and two rows at least.", where="file")
    columns = {k: np.frombuffer(own, float) for k, own in zip(places, found, strict=True)}
    return Sheet(tuple(heading), columns, np.frombuffer(numbers, np.int64), first)


def _plain_table(text: str, mark: str, width: int, places: Sequence[int]) -> Floats | None:
    """All rows at once (t, k), where there is nothing in them but numbers with points; None where each has to be looked at."""
    rows = text.count("\n") - text.endswith("\n")
    odd = '#"' + ("," if mark != "," else "")
    body = text[text.find("\n") + 1 :]
    if not text.isascii() or not 2 <= rows <= MOST_ROWS or any(one in body for one in f"{odd}_"):
        return None
    raw = np.frombuffer(text.encode() if text.endswith("\n") else f"{text}\n".encode(), np.uint8)
    ends = np.flatnonzero(raw == ord("\n"))
    marks = np.searchsorted(np.flatnonzero(raw == ord(mark)), ends)
    if not places or (np.diff(marks, prepend=0) != width - 1).any():
        return None
    go_on()
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")  # what is no number only warns
            found = np.fromstring(body.replace(mark, " "), sep=" ")
    except (ValueError, DeprecationWarning):
        return None
    if found.size != rows * width or not np.isfinite(found).all():
        return None
    picked: Floats = found.reshape(rows, width)[:, list(places)]
    return picked


def _looked_at(text: str) -> tuple[str, list[str], list[int], tuple[tuple[str, ...], ...]]:
    """What parts the columns, the heading, the columns that hold numbers, and the first rows."""
    lines = Lines(text)
    first = next(iter(lines), "")
    if not first:
        raise YardError("A recording needs a heading and two rows at least.", where="file")
    mark = max(";\t,", key=first.count)
    heading = [one.strip() for one in next(csv.reader([first], delimiter=mark), [])]
    if not 2 <= len(heading) <= MOST_COLUMNS:
        raise YardError(f"A recording is a table with a heading of 2 to {MOST_COLUMNS} columns; this has {len(heading)}.", where=f"row {lines.at}", remedy="Columns stand apart by comma, semicolon or tab.")  # fmt: skip
    rows = []
    try:
        for row in csv.reader(lines, delimiter=mark):
            rows.append([one.strip() for one in row])
            if len(rows) == LOOKED_AT:
                break
    except csv.Error as error:
        raise YardError(f"The table breaks off: {error}.", where=f"row {lines.at}", remedy="Look at that row: a quote that is not closed, or what is no text.") from None  # fmt: skip
    places = [k for k in range(len(heading)) if _holds_numbers([row[k] for row in rows if k < len(row)])]
    return mark, heading, places, tuple(tuple(one[:60] for one in row) for row in rows[:SHOWN])


def _holds_numbers(cells: Sequence[str]) -> bool:
    told = [one for one in cells if one.lower() not in GAPS]
    like = sum(one.replace(",", "").replace(".", "").lstrip("+-").replace("e", "").replace("-", "").isdigit() for one in told)  # fmt: skip
    return bool(told) and like > 0.9 * len(told)


def guesses(sheet: Sheet, rails: Sequence[tuple[str, float]] = ()) -> tuple[Guess, ...]:
    """What each column seems to be; `rails` are the plan's, by id with their volts, the pack's first."""
    found = [_guess(sheet, k, rails) for k in range(len(sheet.heading))]
    for role in ("time", "volts", "amps", "throttle", "charge"):
        mine = [one for one in found if one.role == role]
        for other in mine[1:]:  # the first of a name is taken, and the others are asked about
            found[other.index] = other.model_copy(update={"role": None, "doubt": f"There is another column of {role}; choose which counts."})  # fmt: skip
    return tuple(found)


def _guess(sheet: Sheet, index: int, rails: Sequence[tuple[str, float]]) -> Guess:
    heading = sheet.heading[index]
    words = heading_words(heading.lower().replace("°", " °").replace("%", " % "))
    values = sheet.columns.get(index)
    role = next((role for role, spoken in SPOKEN.items() if words and words[0] in spoken), None)
    role = role or next((role for role, spoken in SPOKEN.items() if any(word in spoken for word in words)), None)
    bare = Guess(index=index, heading=heading, role=None, unit="")
    if role is None or values is None or not np.isfinite(values).any():
        return bare
    unit, doubt = _unit(role, words, values)
    rail = None
    if role in ("volts", "rail volts") and UNITS[role].get(unit):
        role, rail, more = _which_volts(role, values * UNITS[role][unit], rails)
        doubt = doubt or more
    return Guess(index=index, heading=heading, role=role, unit=unit, rail=rail, doubt=doubt)


def _unit(role: Role, words: Sequence[str], values: Floats) -> tuple[str, str]:
    """The unit a heading names, or the one its values fit; and what is doubtful about it."""
    named = next((one for one in words[1:] if one in UNITS[role]), None)
    if role == "charge" and "mah" in words:
        named = "mah"
    most, least = float(np.nanmax(values)), float(np.nanmin(values))
    if named is not None:
        return named, ""
    match role:
        case "time":
            step = float(np.nanmedian(np.abs(np.diff(values)))) if values.size > 1 else 1.0
            unit = "s" if step < 2 else "ms" if step < 1500 else "us"
            return unit, "" if step < 0.6 else f"Steps of {step:g}: read as {unit}."
        case "throttle":
            if least >= 700:
                return "us", ""
            return ("", "") if most <= 1.05 else ("%", "" if most > 5 else f"It goes to {most:g}: read as per cent.")
        case "volts" | "rail volts":
            unit = "v" if most < 70 else "cv" if most < 7000 else "mv"
            return unit, "" if unit == "v" else f"It goes to {most:g}: read as {'hundredths of a volt' if unit == 'cv' else 'millivolts'}."  # fmt: skip
        case "amps":
            return ("a", "") if most <= 400 else ("ca" if most < 4000 else "ma", f"It goes to {most:g} and its heading names no unit: amperes, hundredths or milliamperes?")  # fmt: skip
        case "charge":
            return ("mah", "") if most > 20 else ("ah", "Read as ampere-hours.")
        case "temperature":
            return "c", ""
        case "event":
            return "", ""


def _which_volts(role: Role, volts: Floats, rails: Sequence[tuple[str, float]]) -> tuple[Role, str | None, str]:
    """Whether volts are the pack's or a rail's: the nearest of the plan's own."""
    if not rails:
        return role, None, ""
    middle = float(np.nanmedian(volts))
    pack = rails[0]
    near = min(rails, key=lambda one: abs(math.log(max(middle, 0.1) / max(one[1], 0.1))))
    if near is pack or (role == "volts" and abs(middle - pack[1]) < 0.35 * pack[1]):
        return "volts", None, "" if role == "volts" else "Its volts are the pack's."
    return "rail volts", near[0], "" if role == "rail volts" else "Its volts are a rail's, not the pack's."
