"""One record for each kind of fault: how often, where, what the build is with power on, what it would do, what eyes find."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import get_args

from yardmeter.core.faults.effects import Case, Consequence
from yardmeter.core.faults.model import Fault, Overlay
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.core.plan.policies import FaultKind
from yardmeter.core.probing.passive import PassiveTable


@dataclass(frozen=True)
class Place:
    """Somewhere a kind can be. `walk` is where one comes to it, going round the build: faults are told in that order."""

    walk: tuple[int, ...]
    id: str
    elements: tuple[str, ...]
    overlays: tuple[Overlay, ...]


@dataclass(frozen=True)
class FaultRecord:
    """Everything about a kind. `powered` is None where power destroys what is connected before anything can be read."""

    kind: FaultKind
    weight: float
    """How often it happens beside the others, for each place it can; common practice, no source."""
    seen_frac: float
    """Share of them a careful look finds; common practice, no source. What is inside a part nobody sees."""
    places: Callable[[PassiveTable], Iterator[Place]]
    powered: Callable[[Plan, Fault], list[Edit]] | None
    consequence: Callable[[Case], Consequence]


RECORDS: dict[FaultKind, FaultRecord] = {}


def enter(record: FaultRecord) -> None:
    """Enter a kind. Raises RuntimeError where it is entered twice, or is no kind a plan may weigh."""
    if record.kind in RECORDS or record.kind not in get_args(FaultKind):
        raise RuntimeError(f"fault “{record.kind}” is entered twice, or is none a plan's policy knows")
    RECORDS[record.kind] = record


def complete() -> None:
    """Raises RuntimeError where a kind that a plan may weigh has no record."""
    if missing := set(get_args(FaultKind)) - set(RECORDS):
        raise RuntimeError(f"faults without a record: {', '.join(sorted(missing))}")
