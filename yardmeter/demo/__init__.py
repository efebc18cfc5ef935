"""The invented demo builds, as data files beside this module."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from yardmeter.core.errors import UnknownElementError
from yardmeter.core.formats.plan_json import read_plan
from yardmeter.core.parts import Part, load_part
from yardmeter.core.plan import Plan


@dataclass(frozen=True)
class Demo:
    """One demo build: its plans in the order they are shown."""

    key: str
    name: str
    note: str
    files: tuple[str, ...]
    log: str = ""
    """Its story, where it has one."""


DEMOS = (
    Demo(
        "marshlight",
        "Marshlight",
        "6S quad that counts night herons over a reed marsh.",
        ("marshlight-as-soldered.json", "marshlight-second-wiring.json"),
        log="marshlight-log.json",
    ),
    Demo(
        "culvert",
        "Culvert",
        "4S tunnel-inspection quad with a digital video unit, floodlights and a batteryless action camera.",
        ("culvert-first-wiring.json", "culvert-lights-on.json"),
    ),
    Demo(
        "wren",
        "Greenhouse Wren",
        "1S indoor pollination scout: boost to 5 V, a 3.3 V rail that sags, tiny camera and sender.",
        ("wren-straight-from-the-cell.json", "wren-boosted-logic.json"),
    ),
    Demo(
        "heathwatch",
        "Heathwatch",
        "4S quad that looks for smouldering peat at night: a stack on a harness, and an overlay board before the sender.",
        ("heathwatch-as-stacked.json", "heathwatch-own-supply.json"),
    ),
)


def find(key: str) -> Demo:
    """The demo of that key; raises UnknownElementError."""
    for one in DEMOS:
        if one.key == key:
            return one
    raise UnknownElementError(
        f"There is no demo build “{key}”.", where="demo", remedy=f"There are: {', '.join(d.key for d in DEMOS)}."
    )


def plans(demo: Demo) -> list[Plan]:
    """The demo's plans, read and validated."""
    return [read_plan((files(__name__) / name).read_text(encoding="utf-8")) for name in demo.files]


def starter_parts() -> list[Part]:
    """The parts every shelf starts with."""
    return list(_starter_parts())


@cache
def _starter_parts() -> tuple[Part, ...]:
    rows = json.loads((files(__name__) / "shelf.json").read_text(encoding="utf-8"))
    return tuple(load_part(row) for row in rows)


def plan(name: str) -> Plan:
    """One demo plan by file name without ending."""
    return read_plan((files(__name__) / f"{name}.json").read_text(encoding="utf-8"))


def story(found: Demo) -> list[dict[str, Any]]:
    """Entries of its log, oldest first: `days_ago`, the plan by its place, and of a flight the recorder's `table`."""
    if not found.log:
        return []
    entries: list[dict[str, Any]] = json.loads(files(__name__).joinpath(found.log).read_text())
    for one in entries:
        if "file" in one:
            one["table"] = files(__name__).joinpath(one["file"]).read_text()
    return entries
