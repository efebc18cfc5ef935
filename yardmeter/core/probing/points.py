"""Where a probe can be put: plug pins, rails and their pads, grounds, device and signal pins, regulators' inputs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.errors import EditError
from yardmeter.core.network.keys import PACK_NODE, ground_node, input_node, pin_node, rail_node
from yardmeter.core.plan import Link, Plan, Strap
from yardmeter.core.probing.passive import PassiveTable

PointKind = Literal["plug", "rail", "pad", "supply pin", "ground", "shell", "signal pin", "input"]


@dataclass(frozen=True)
class Point:
    """A place for a probe. `owner` is the board, device or pack it is on; `node` its number in the passive table."""

    id: str
    kind: PointKind
    owner: str
    name: str
    node: int


SHELLED = ("sender", "digital")
"""Devices whose antenna has a metal shell."""


def is_motor(plan: Plan, device_id: str) -> bool:
    """Whether a device is motors: what a meter finds of them it finds at their ESC."""
    return plan.device_of[device_id].kind == "motor"


def shells(plan: Plan) -> Iterator[tuple[str, str]]:
    """Metal shells that are ground, the easiest to touch: of USB ports, by their board, and of antennas."""
    boards = [plan.rail_of[one.rail].board for one in plan.inlets if one.kind == "usb"]
    yield from ((name, "USB shell") for name in dict.fromkeys(boards))
    yield from ((one.id, "antenna shell") for one in plan.devices if one.kind in SHELLED)


def points(table: PassiveTable) -> tuple[Point, ...]:
    """Every place, the plug first, then in the order of the plan."""
    return tuple(_points(table))


def find_point(table: PassiveTable, name: str) -> Point:
    """The point of that id; raises EditError with some that are there."""
    known = {one.id: one for one in points(table)}
    if name in known:
        return known[name]
    some = ", ".join(list(known)[:6])
    raise EditError(f"“{name}” is no place for a probe.", where=name, remedy=f"There are {some} … Ask for all points.")


def _points(table: PassiveTable) -> Iterator[Point]:
    plan = table.plan
    node = table.node
    yield Point("plug:plus", "plug", "pack", f"{plan.pack.name} plug, plus", node[PACK_NODE])
    yield Point("plug:minus", "plug", "pack", f"{plan.pack.name} plug, minus", table.minus)
    for rail in plan.rails:
        board = plan.title(rail.board)
        yield Point(rail.id, "rail", rail.board, f"{board}, {rail.name}", node[rail_node(rail.id)])
        for pad in rail.pads:
            yield Point(pad.id, "pad", rail.board, f"{board}, pad {pad.label}", node[rail_node(rail.id)])
    for supply in plan.supplies:
        if supply.feed and not isinstance(supply, Link | Strap):
            yield Point(f"{supply.id}:in", "input", supply.id, f"{supply.name}, input", node[input_node(supply.id)])
    # Motors have three wires and neither a plus nor a ground: what an ESC feeds them is no place for a probe.
    owners = [one for one in plan.owners if one.id in plan.board_of or not is_motor(plan, one.id)]
    for owner in owners:
        yield Point(f"{owner.id}:ground", "ground", owner.id, f"{owner.name}, ground", node[ground_node(owner.id)])
    for name, words in shells(plan):
        yield Point(f"{name}:shell", "shell", name, f"{plan.title(name)}, {words}", node[ground_node(name)])
    for device in plan.devices:
        if not is_motor(plan, device.id):
            yield Point(f"{device.id}:plus", "supply pin", device.id, f"{device.name}, plus", node[pin_node(device.id)])
    for owner in plan.owners:
        for pin in owner.pins:
            if pin.id in table.pin_at:
                yield Point(pin.id, "signal pin", owner.id, f"{owner.name}, {pin.label}", table.pin_at[pin.id])
