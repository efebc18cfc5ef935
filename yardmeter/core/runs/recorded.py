"""The table a flight recorder wrote: separators, decimals, units in headings, gaps, remarks. What is doubtful is refused with both
readings, never guessed."""

from __future__ import annotations

import codecs
import csv
import io
import math
import re
import warnings
from array import array
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.errors import YardError
from yardmeter.core.patience import go_on
from yardmeter.core.solver.circuit import Floats, Ints
from yardmeter.core.units import plain_number

Quantity = Literal["throttle", "amps"]
MOST_ROWS = 2_000_000
MOST_COLUMNS = 200
SHOWN = 12
"""First rows a preview draws."""
LOOKED_AT = 400
"""Rows by which columns are picked."""
EVERY = 20_000
"""Rows between two looks at whether the reading was stopped."""
SECONDS = {"s": 1.0, "sec": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "min": 60.0}
AMPERES = {"a": 1.0, "ma": 1e-3, "ka": 1e3}
TIME = ("time", "t")
NAMES: dict[Quantity, tuple[str, ...]] = {
    "throttle": ("throttle", "thr"),
    "amps": ("amps", "amp", "current", "curr", "amperage", "a", "ma"),
}
GAPS = {"", "nan", "-nan", "+nan", "null", "none", "n/a", "na", "-", "--", "?"}
"""What loggers write where they know nothing: such a row says nothing of it."""
DECIMAL = re.compile(r"(?<![\d.,])0,\d|\d,\d{1,2}(?!\d)|\d,\d{4}", re.ASCII)
"""A comma that can only stand before decimals."""
GROUPED = re.compile(r"\d,\d{3},\d{3}(?!\d)|(?<![\d,])[1-9]\d{0,2},\d{3}\.\d", re.ASCII)
"""One that can only part thousands."""
QUOTED = re.compile(r'"([^"\n]*\d,\d[^"\n]*)"', re.ASCII)
BARE = re.compile(r"[-+0-9.eE \t]*")


@dataclass(frozen=True)
class Column:
    """A column of numbers, NaN in its gaps; `unit` as its heading says, empty where it says nothing."""

    heading: str
    unit: str
    values: Floats


@dataclass(frozen=True)
class Table:
    """Columns over time [s] as it was written, and the line of the file each row stands in."""

    times_s: Floats
    columns: dict[Quantity, Column]
    lines: Ints


def decoded(data: bytes) -> str:
    """The text of a file: UTF-8, UTF-16 by its mark or by its zeros, else each byte a letter."""
    for mark, name in (
        (codecs.BOM_UTF8, "utf-8-sig"),
        (codecs.BOM_UTF16_LE, "utf-16"),
        (codecs.BOM_UTF16_BE, "utf-16"),
    ):
        if data.startswith(mark):
            return data.decode(name, errors="replace")
    zeros = data[:200]
    if zeros[1::2].count(0) > len(zeros) // 4:
        return data.decode("utf-16-le", errors="replace")
    if zeros[0::2].count(0) > len(zeros) // 4:
        return data.decode("utf-16-be", errors="replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("latin-1")


class Lines:
    """Lines with something in them but remarks, and where the last one stands in the file."""

    def __init__(self, text: str) -> None:
        self.source, self.at = enumerate(io.StringIO(text), 1), 0

    def __iter__(self) -> Iterator[str]:
        for number, line in self.source:
            if line.strip() and not line.lstrip().startswith("#"):
                self.at = number
                yield line


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


def read_columns(text: str, picked: Callable[[Sequence[str], Sequence[Sequence[str]]], Sequence[int]]) -> Sheet:
    """The columns `picked` chooses by the heading and the first rows. Raises YardError with what, where in the file, and what to do."""
    text = text.lstrip("\ufeff")
    mark, heading, rows = _looked_at(text)
    places = list(picked(heading, rows))
    first = tuple(tuple(one[:60] for one in row) for row in rows[:SHOWN])
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
        raise _broken(error, lines) from None
    if len(numbers) < 2:
        raise YardError("A recording needs a heading and two rows at least.", where="file")
    columns = {k: np.frombuffer(own, float) for k, own in zip(places, found, strict=True)}
    return Sheet(tuple(heading), columns, np.frombuffer(numbers, np.int64), first)


def _broken(error: csv.Error, lines: Lines) -> YardError:
    return YardError(f"The table breaks off: {error}.", where=f"row {lines.at}", remedy="Look at that row: a quote that is not closed, or what is no text.")  # fmt: skip


def _plain_table(text: str, mark: str, width: int, places: Sequence[int]) -> Floats | None:
    """All rows at once (t, k), where there is nothing in them but numbers with points; None where each has to be looked at."""
    rows = text.count("\n") - text.endswith("\n")
    odd = '#"' + ("," if mark != "," else "")
    body = text[text.find("\n") + 1 :]
    if not text.isascii() or not 2 <= rows <= MOST_ROWS or any(one in body for one in f"{odd}_"):
        return None
    tight = body.replace(f"{mark} ", mark)
    if " " in tight or ("\t" in tight and mark != "\t"):  # two numbers in one cell would stand for two cells
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


def _looked_at(text: str) -> tuple[str, list[str], list[list[str]]]:
    """What parts the columns, the heading, and the first rows."""
    lines = Lines(text)
    first = next(iter(lines), "")
    if not first:
        raise YardError("A recording needs a heading and two rows at least.", where="file")
    mark = max(";\t,", key=first.count)
    heading = [one.strip() for one in next(csv.reader([first], delimiter=mark), [])]
    if not 2 <= len(heading) <= MOST_COLUMNS:
        raise YardError(f"A recording is a table with a heading of 2 to {MOST_COLUMNS} columns; this has {len(heading)}.", where=f"row {lines.at}", remedy="Columns stand apart by comma, semicolon or tab.")  # fmt: skip
    rows: list[list[str]] = []
    try:
        for row in csv.reader(lines, delimiter=mark):
            rows.append([one.strip() for one in row])
            if len(rows) == LOOKED_AT:
                break
    except csv.Error as error:
        raise _broken(error, lines) from None
    return mark, heading, rows


def read_table(text: str) -> Table:
    """Time, throttle and amps of a table by their names. Raises YardError with what, where in the file, and what to do."""
    sheet = read_columns(text, lambda heading, _: [(found := _wanted(_low(heading)))[0], *found[2].values()])
    heading = _low(sheet.heading)
    time_at, unit_s, wanted = _wanted(heading)
    times = sheet.columns[time_at]
    known = np.isfinite(times)
    columns = {name: Column(heading[at], _unit(heading[at]), sheet.columns[at][known]) for name, at in wanted.items()}
    return Table(times[known] * unit_s, columns, sheet.lines[known])


def _low(heading: Sequence[str]) -> list[str]:
    return [one.lower() for one in heading]


def _wanted(heading: Sequence[str]) -> tuple[int, float, dict[Quantity, int]]:
    """Where time is and what it is in; where throttle and amps are."""
    at = next((k for k, word in enumerate(heading) if heading_words(word)[:1] and heading_words(word)[0] in TIME), None)
    if at is None:
        raise YardError("The recording has no column of time.", where="heading", remedy="Call it time_s, time_ms or time_us.")  # fmt: skip
    unit_s = next((SECONDS[one] for one in heading_words(heading[at])[1:] if one in SECONDS), 1.0)
    wanted: dict[Quantity, int] = {}
    for k, word in enumerate(heading):
        words = heading_words(word)
        for name, spoken in NAMES.items():
            if words and words[0] in spoken and k != at:
                wanted.setdefault(name, k)
    if not wanted:
        raise YardError("The recording has neither throttle nor amps.", where="heading", remedy=f"Call a column throttle or amps; it has {', '.join(heading)[:200]}.")  # fmt: skip
    return at, unit_s, wanted


def heading_words(heading: str) -> list[str]:
    return [one for one in re.split(r"[\s_()\[\]{}.,:/-]+", heading) if one]


def _unit(heading: str) -> str:
    """The unit a heading names: `amps_ma`, `current (A)`."""
    return next((one for one in heading_words(heading) if one in AMPERES), "")


def comma_meaning(text: str, mark: str) -> Literal["", "decimal", "group", "doubtful"]:
    """What a comma inside a number means in this file; nothing where there is none."""
    inside = "\n".join(QUOTED.findall(text)) if mark == "," else text
    if not re.search(r"\d,\d", inside):
        return ""
    decimal, grouped = DECIMAL.search(inside), GROUPED.search(inside)
    if decimal and not grouped:
        return "decimal"
    return "group" if grouped and not decimal else "doubtful"


def as_wide(row: Sequence[str], width: int, mark: str, line: int) -> None:
    if len(row) > width and any(one.strip() for one in row[width:]):
        decimals = mark == "," and all(BARE.fullmatch(one) for one in row)
        raise YardError(
            f"It has {len(row)} fields where the heading has {width}"
            + (": decimal commas and commas between columns cannot be told apart." if decimals else "."),
            where=f"row {line}",
            remedy="Write the table with semicolons, or the numbers with points." if decimals else "Give every column a heading.",
        )  # fmt: skip


def take_row(
    row: Sequence[str], picks: Sequence[int], comma: str, exact: bool, line: int, found: list[array[float]]
) -> None:
    """Append one row's numbers; gaps are NaN."""
    for k, own in zip(picks, found, strict=True):
        cell = row[k] if k < len(row) else ""
        if exact:
            try:
                value = float(cell)
            except ValueError:
                value = _number(cell, comma, line)
        else:
            value = _number(cell, comma, line)
        own.append(value if math.isfinite(value) else math.nan)


def _number(cell: str, comma: str, line: int) -> float:
    text = cell.strip()
    if text.lower() in GAPS:
        return math.nan
    if "," in text:
        if comma == "doubtful":
            raise YardError(f"“{text[:40]}” may have decimals behind its comma, or thousands.", where=f"row {line}", remedy="Write decimals with a point, and thousands without a mark.")  # fmt: skip
        text = text.replace(",", "." if comma == "decimal" else "")
    try:
        return plain_number(text)
    except ValueError:
        raise YardError(f"“{cell.strip()[:40]}” is no number.", where=f"row {line}", remedy="Numbers alone, one for each column; an empty cell where nothing is known.") from None  # fmt: skip
