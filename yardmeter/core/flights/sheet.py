"""A recorder's table with all its columns, and what each of them seems to be: by its heading and by its values. What is doubtful
is asked, never guessed silently."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, get_args

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.runs.recorded import GAPS, SECONDS, Sheet, heading_words, read_columns
from yardmeter.core.solver.circuit import Floats

Role = Literal["time", "volts", "amps", "throttle", "rail volts", "temperature", "charge", "event"]
ROLES: tuple[Role, ...] = get_args(Role)
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


def read_sheet(text: str) -> Sheet:
    """Every column that holds numbers. Raises YardError with what, where in the file, and what to do."""
    return read_columns(text, _numbers)


def _numbers(heading: Sequence[str], rows: Sequence[Sequence[str]]) -> list[int]:
    return [k for k in range(len(heading)) if _holds_numbers([row[k] for row in rows if k < len(row)])]


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
