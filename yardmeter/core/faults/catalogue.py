"""Every fault this build can have, from its own rails, wires, straps, regulators, capacitors and devices."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from yardmeter.core.errors import UnknownElementError
from yardmeter.core.faults.model import (
    DEAD_OHM,
    LEAKS_OHM,
    OPEN_OHM,
    POOR_OHM,
    SHORT_OHM,
    WHISKER_OHM,
    Bridge,
    Fault,
    Gone,
    Joint,
    Landing,
)
from yardmeter.core.network.keys import Key, feed_key, ground_node, pin_node, rail_node, return_key
from yardmeter.core.plan import Device, FerriteFilter, Plan, Regulator, Strap
from yardmeter.core.plan.devices import DeviceKind
from yardmeter.core.plan.policies import FaultKind
from yardmeter.core.probing.passive import PassiveTable

WEIGHT: dict[FaultKind, float] = {
    "short": 2.0, "whisker": 1.0, "open joint": 2.0, "poor joint": 3.0, "wrong pad": 1.5, "plus and minus swapped": 1.0,
    "no ground": 1.5, "regulator open": 0.3, "regulator shorted": 0.1, "regulator low": 0.2, "capacitor reversed": 0.5,
    "capacitor shorted": 0.1, "capacitor forgotten": 1.0, "device shorted": 0.2, "connector half in": 1.0,
    "wrong strap": 1.0, "plug reversed": 0.2,
}  # fmt: skip
"""How often each happens beside the others, for each place it can; common practice, no source."""


UNWIRED: tuple[DeviceKind, ...] = ("logic", "motor")
"""What sits on a board, and what an ESC drives: no plus wire of theirs can be wrong."""


def every_fault(table: PassiveTable) -> tuple[Fault, ...]:
    """All faults in the order of the plan, each with its weight; the plan's policy may say otherwise than common practice."""
    chosen = {**WEIGHT, **table.plan.policy.fault_weights}
    found = [*_shorts(table), *_wires(table), *_supplies(table), *_capacitors(table), *_devices(table)]
    found.append(Fault("plug-reversed", "plug reversed", ("pack",), 1.0, _turned(table)))
    return tuple(replace(one, weight=one.weight * chosen[one.kind]) for one in found)


def _turned(table: PassiveTable) -> tuple[Landing, ...]:
    """Every wire of the plug on the other of its two pins."""
    other = {table.plug: table.minus, table.minus: table.plug}
    return tuple(
        Landing(one.key, end, other[end])
        for one in table.resistances
        for end in (one.a, one.b)
        if one.key and end in other and {one.a, one.b} != set(other)
    )


def find_fault(table: PassiveTable, name: str) -> Fault:
    """The fault of that id; raises UnknownElementError."""
    for one in every_fault(table):
        if one.id == name:
            return one
    raise UnknownElementError(
        f"This build has no fault “{name}”.", where=name, remedy="List its faults and name one by its id."
    )


def _shorts(table: PassiveTable) -> Iterator[Fault]:
    """Neighbours on one board: each rail with its ground, and with the other rails there."""
    plan, node = table.plan, table.node
    for board in plan.boards:
        here = [rail for rail in plan.rails if rail.board == board.id]
        ground = node[ground_node(board.id)]
        for rail in here:
            at = node[rail_node(rail.id)]
            yield Fault(f"short-{rail.id}-ground", "short", (rail.id, board.id), 1.0, (Bridge(at, ground, SHORT_OHM),))
        for one, other in combinations(here, 2):
            ends = node[rail_node(one.id)], node[rail_node(other.id)]
            yield Fault(
                f"whisker-{one.id}-{other.id}", "whisker", (one.id, other.id), 1.0, (Bridge(*ends, WHISKER_OHM),)
            )


def _wires(table: PassiveTable) -> Iterator[Fault]:
    plan, node = table.plan, table.node
    for device in plan.devices:
        if device.kind in UNWIRED:
            continue
        plus, ground = node[pin_node(device.id)], node[ground_node(device.id)]
        if device.feed:
            key, rail = feed_key(device.id), node[rail_node(device.feed.rail)]
            yield _joint(device.id, key, "open joint", (device.id,), OPEN_OHM)
            yield _joint(device.id, key, "poor joint", (device.id,), POOR_OHM)
            if device.feed.wire.connector:
                yield _joint(device.id, key, "connector half in", (device.id,), OPEN_OHM)
            for other in neighbours(plan, device):
                moved = Landing(key, rail, node[rail_node(other)])
                yield Fault(f"wrong-pad-{device.id}-{other}", "wrong pad", (device.id, other), 1.0, (moved,))
            if device.returns:
                back = return_key(device.returns[0].id)
                swapped = (Landing(key, plus, ground), Landing(back, ground, plus))
                yield Fault(f"swapped-{device.id}", "plus and minus swapped", (device.id,), 1.0, swapped)
    for owner in plan.owners:
        if isinstance(owner, Device) and owner.kind in UNWIRED:
            continue
        for wire in owner.returns:
            yield _joint(wire.id, return_key(wire.id), "no ground", (owner.id, wire.id), OPEN_OHM)
            yield _joint(wire.id, return_key(wire.id), "poor joint", (owner.id, wire.id), POOR_OHM)
    for one in table.resistances:
        if one.key and one.key.role == "link" and one.element in plan.supply_of and one.key.part == 0:
            yield _joint(one.element, one.key, "open joint", (one.element,), OPEN_OHM)


def _joint(name: str, key: Key, kind: FaultKind, elements: tuple[str, ...], ohm: tuple[float, float, float]) -> Fault:
    return Fault(f"{kind.replace(' ', '-')}-{name}", kind, elements, 1.0, (Joint(key, ohm),))


def neighbours(plan: Plan, device: Device) -> tuple[str, ...]:
    """Other rails of the board it is soldered to."""
    if device.feed is None:
        return ()
    board = plan.rail_of[device.feed.rail].board
    return tuple(rail.id for rail in plan.rails if rail.board == board and rail.id != device.feed.rail)


def _supplies(table: PassiveTable) -> Iterator[Fault]:
    plan, node = table.plan, table.node
    for supply in plan.supplies:
        out = node[rail_node(supply.output)]
        if isinstance(supply, Regulator):
            source = node[rail_node(supply.input)] if supply.input in plan.rail_of else node[pin_node(supply.input)]
            yield Fault(f"regulator-open-{supply.id}", "regulator open", (supply.id,), 1.0, (Gone(supply.id),))
            bridge = Bridge(source, out, DEAD_OHM)
            yield Fault(f"regulator-shorted-{supply.id}", "regulator shorted", (supply.id,), 1.0, (bridge,))
            yield Fault(f"regulator-low-{supply.id}", "regulator low", (supply.id,), 1.0, ())
        if isinstance(supply, Strap):
            keys = [
                one.key for one in table.resistances if one.key and one.key.role == "link" and one.element == supply.id
            ]
            cuts = tuple(Joint(key, OPEN_OHM) for key in keys)
            for choice in supply.choices:
                if choice not in supply.selected:
                    there = Bridge(node[rail_node(choice)], out, SHORT_OHM)
                    yield Fault(
                        f"wrong-strap-{supply.id}-{choice}", "wrong strap", (supply.id, choice), 1.0, (*cuts, there)
                    )


def _capacitors(table: PassiveTable) -> Iterator[Fault]:
    filters = {one.id: one for one in table.plan.filters if one.fitted and not isinstance(one, FerriteFilter)}
    for store in table.storages:
        one = filters.get(store.element)
        if one is None:
            continue
        shorted = Bridge(store.a, store.b, DEAD_OHM)
        yield Fault(f"capacitor-shorted-{one.id}", "capacitor shorted", (one.id, one.at), 1.0, (shorted,))
        yield Fault(f"capacitor-forgotten-{one.id}", "capacitor forgotten", (one.id, one.at), 1.0, (Gone(one.id),))
        if one.dielectric in ("electrolytic", "polymer", "tantalum"):
            leak = Bridge(store.a, store.b, LEAKS_OHM)
            yield Fault(f"capacitor-reversed-{one.id}", "capacitor reversed", (one.id, one.at), 1.0, (leak,))


def _devices(table: PassiveTable) -> Iterator[Fault]:
    for device in table.plan.devices:
        ends = table.node[pin_node(device.id)], table.node[ground_node(device.id)]
        yield Fault(f"device-shorted-{device.id}", "device shorted", (device.id,), 1.0, (Bridge(*ends, DEAD_OHM),))
