"""Pins that are never powered, and those that are free."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan import Plan

USED_WAYS = ("in", "out", "both")
NEVER = (*USED_WAYS, "never")


class PinLine(Answer):
    owner: str
    name: str
    pins: tuple[str, ...]


def never_power(plan: Plan) -> Iterator[PinLine]:
    for owner in plan.owners:
        pins = tuple(pin.label for pin in owner.pins if pin.direction in NEVER)
        if pins:
            yield PinLine(owner=owner.id, name=owner.name, pins=pins)


def free_ports(plan: Plan) -> Iterator[PinLine]:
    """Pins of boards that no signal uses; a port counts as free when none of its pins is used."""
    used = {end for signal in plan.signals for end in (signal.source, signal.sink)}
    for board in plan.boards:
        busy = {pin.port for pin in board.pins if pin.id in used and pin.port}
        free = [p for p in board.pins if p.id not in used and p.direction in USED_WAYS and p.port not in busy]
        names = dict.fromkeys(pin.port or pin.label for pin in free)
        if names:
            yield PinLine(owner=board.id, name=board.name, pins=tuple(names))
