"""Older documents brought up to today's form, a step for every version that ever landed.

A step takes plain data of one version and gives plain data of the next; it never sees today's models, which go on
changing. A new version is a new step at the end of the list, a kept document of the old one in `tests/core/kept`, and
`SCHEMA_VERSION` one higher.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from yardmeter.core.errors import PlanError
from yardmeter.core.plan.text import one_line

SCHEMA_VERSION = 2
"""Of the document as this program writes it."""

Step = Callable[[Any], Any]
SHORTEST_WIRE_M = 0.001
NOTES = ("note",)


def bring_up(data: Any, version: object) -> Any:
    """Plain data of a plan or a shelf part of that version, in today's form; what is no document is given back as it is.

    Raises PlanError for a version of a newer program, and for one that never was.
    """
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise PlanError(
            f"“{version}” is no version of a document.", where="version", remedy="It is a whole number from 1."
        )
    if version > SCHEMA_VERSION:
        raise PlanError(
            f"The document is of format version {version}; this program reads up to {SCHEMA_VERSION}.",
            where="version",
            remedy="Update the program.",
        )
    for step in STEPS[version - 1 :]:
        data = step(data)
    if isinstance(data, dict) and "version" in data:
        data = {**data, "version": SCHEMA_VERSION}
    return data


def _from_1(data: Any) -> Any:
    """Version 2: wires have a least length and can be none at all; text holds no control characters."""
    if isinstance(data, list):
        return [_from_1(one) for one in data]
    if not isinstance(data, dict):
        return data
    made = {key: _line(key, value) if isinstance(value, str) else _from_1(value) for key, value in data.items()}
    length = made.get("length_m")
    if isinstance(length, int | float) and 0 < length < SHORTEST_WIRE_M:
        made |= {"length_m": SHORTEST_WIRE_M, "joined": True}
    return made


def _line(key: str, text: str) -> str:
    if key in NOTES:
        return "\n".join(one_line(line) for line in text.split("\n"))
    cleaned = one_line(text)
    return cleaned if cleaned.strip() or not text else "unnamed"


STEPS: tuple[Step, ...] = (_from_1,)
if len(STEPS) != SCHEMA_VERSION - 1:
    raise RuntimeError("every version of the document but the last needs a step to the next")
