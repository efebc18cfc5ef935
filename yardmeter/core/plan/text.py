"""What text in a document may be, and how it goes safely into formats that other programs obey."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

CLEAN = r"^[^\u0000-\u001f\u007f-\u009f\u2028\u2029\ufffe\uffff]*$"
"""One line: no line breaks, no control characters, nothing that is no character."""
CLEAN_LINES = r"^[^\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u2028\u2029\ufffe\uffff]*$"
"""The same over several lines."""

UNITS = {
    "a": "A", "ah": "Ah", "c": "°C", "db": "dB", "f": "F", "frac": "", "g": "g", "h": "H", "hz": "Hz", "m": "m", "ohm": "Ω",
    "s": "s", "v": "V", "w": "W",
}  # fmt: skip
"""Ends of the names of fields, and how they are said."""

_CONTROL = re.compile("[\x00-\x1f\x7f-\x9f\u2028\u2029\ud800-\udfff\ufffe\uffff]+")


def plain_message(kind: str, message: str, context: Mapping[str, object], where: Sequence[object] = ()) -> str:
    """What a validation complains of, with the name of the field at the end of `where`.

    Its own words would show a regular expression, and call whatever it is an input.
    """
    if kind == "string_pattern_mismatch" and context.get("pattern") in (CLEAN, CLEAN_LINES):
        return "holds a line break or a control character"
    field = next((part for part in reversed(where) if isinstance(part, str)), "input")
    told = (
        message.removeprefix("Value error, ")
        .replace(", unable to parse string as a number", "")
        .replace("a valid tuple", "a list")
    )
    return re.sub("^Input should", f"{_in_words(field)} should", told)


def _in_words(field: str) -> str:
    """The name of a field as it is said: `limit_a` is a limit in A."""
    name, _, unit = field.rpartition("_")
    if not name or unit not in UNITS:
        return field.replace("_", " ")
    return name.replace("_", " ") + (f" in {UNITS[unit]}" if UNITS[unit] else "")


def one_line(text: str) -> str:
    """The text on one line: runs of line breaks, control characters and what is no character become a space.

    Every writer of a format calls it, whatever the document was checked for: nothing may end a line or begin a command.
    """
    return _CONTROL.sub(" ", text)
