"""Wires: open, poor, on the wrong pad, swapped, without their ground; connectors and the pack's plug."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardmeter.core.faults.effects import Case, Consequence, cut, harmless, over, rail_v, volts_of
from yardmeter.core.faults.model import OPEN_OHM, POOR_OHM, Fault, Joint, Landing
from yardmeter.core.faults.reach import reach
from yardmeter.core.faults.record import FaultRecord, Place, enter
from yardmeter.core.network.keys import feed_key, ground_node, pin_node, rail_node, return_key
from yardmeter.core.plan import Device, Feed, Plan, Return
from yardmeter.core.plan.devices import DeviceKind
from yardmeter.core.plan.operations import Edit, Remove, SetValue
from yardmeter.core.probing.passive import PassiveTable

UNWIRED: tuple[DeviceKind, ...] = ("logic", "motor")
"""What sits on a board, and what an ESC drives: no plus wire of theirs can be wrong."""


def _fed(plan: Plan) -> Iterator[tuple[int, Device, Feed]]:
    """Devices with a plus wire of their own."""
    for d, device in enumerate(plan.devices):
        if device.kind not in UNWIRED and device.feed:
            yield d, device, device.feed


def _grounds(plan: Plan) -> Iterator[tuple[int, str, Return]]:
    for o, owner in enumerate(plan.owners):
        if not (isinstance(owner, Device) and owner.kind in UNWIRED):
            yield from ((o, owner.id, wire) for wire in owner.returns)


def _open_joints(table: PassiveTable) -> Iterator[Place]:
    for d, device, _ in _fed(table.plan):
        yield Place((1, 0, d, 0), f"open-joint-{device.id}", (device.id,), (Joint(feed_key(device.id), OPEN_OHM),))
    for k, one in enumerate(table.resistances):
        if one.key and one.key.role == "link" and one.element in table.plan.supply_of and one.key.part == 0:
            yield Place((1, 2, k), f"open-joint-{one.element}", (one.element,), (Joint(one.key, OPEN_OHM),))


def _poor_joints(table: PassiveTable) -> Iterator[Place]:
    for d, device, _ in _fed(table.plan):
        yield Place((1, 0, d, 1), f"poor-joint-{device.id}", (device.id,), (Joint(feed_key(device.id), POOR_OHM),))
    for o, owner, wire in _grounds(table.plan):
        key = return_key(wire.id)
        yield Place((1, 1, o, 1), f"poor-joint-{wire.id}", (owner, wire.id), (Joint(key, POOR_OHM),))


def _half_in(table: PassiveTable) -> Iterator[Place]:
    for d, device, feed in _fed(table.plan):
        if feed.wire.connector:
            cut_off = Joint(feed_key(device.id), OPEN_OHM)
            yield Place((1, 0, d, 2), f"connector-half-in-{device.id}", (device.id,), (cut_off,))


def neighbours(plan: Plan, device: Device) -> tuple[str, ...]:
    """Other rails of the board it is soldered to."""
    if device.feed is None:
        return ()
    board = plan.rail_of[device.feed.rail].board
    return tuple(rail.id for rail in plan.rails if rail.board == board and rail.id != device.feed.rail)


def _wrong_pads(table: PassiveTable) -> Iterator[Place]:
    for d, device, feed in _fed(table.plan):
        for k, other in enumerate(neighbours(table.plan, device)):
            moved = Landing(feed_key(device.id), table.node[rail_node(feed.rail)], table.node[rail_node(other)])
            yield Place((1, 0, d, 3, k), f"wrong-pad-{device.id}-{other}", (device.id, other), (moved,))


def _swapped(table: PassiveTable) -> Iterator[Place]:
    for d, device, _ in _fed(table.plan):
        if device.returns:
            plus, ground = table.node[pin_node(device.id)], table.node[ground_node(device.id)]
            back = return_key(device.returns[0].id)
            ends = Landing(feed_key(device.id), plus, ground), Landing(back, ground, plus)
            yield Place((1, 0, d, 4), f"swapped-{device.id}", (device.id,), ends)


def _no_grounds(table: PassiveTable) -> Iterator[Place]:
    for o, owner, wire in _grounds(table.plan):
        key = return_key(wire.id)
        yield Place((1, 1, o, 0), f"no-ground-{wire.id}", (owner, wire.id), (Joint(key, OPEN_OHM),))


def _turned_plug(table: PassiveTable) -> Iterator[Place]:
    yield Place((9,), "plug-reversed", ("pack",), _turned(table))


def _turned(table: PassiveTable) -> tuple[Landing, ...]:
    """Every wire of the plug on the other of its two pins."""
    other = {table.plug: table.minus, table.minus: table.plug}
    return tuple(
        Landing(one.key, end, other[end])
        for one in table.resistances
        for end in (one.a, one.b)
        if one.key and end in other and {one.a, one.b} != set(other)
    )


# What they do


def _reversed_plug(case: Case) -> Consequence:
    plan = case.plan
    return Consequence(True, volts_v=-plan.pack.rest_v("full"), lost=tuple(d.id for d in plan.devices))


def _backwards(case: Case) -> Consequence:
    device = case.plan.device_of[case.fault.elements[0]]
    volts = rail_v(case.solved, device.feed.rail) if device.feed else 0.0
    return Consequence(True, volts_v=-volts, lost=(device.id,))


def _on_another(case: Case) -> Consequence:
    """The device alone is on the other rail; what it hands on goes with it."""
    device, rail = case.fault.elements
    found = reach(case.plan, {device: rail_v(case.solved, rail)}, volts_of(case.solved))
    return over(case.plan, found, rail_v(case.solved, rail))


def _comes_home_by_signals(case: Case) -> Consequence:
    """Its current comes home through a signal's pin, which is not made for it."""
    plan, owner = case.plan, case.fault.elements[0]
    alone = not _still_grounded(case.table, case.fault, owner)
    signals = any(plan.owner_of[end].id == owner for s in plan.signals for end in (s.source, s.sink))
    return Consequence(alone and signals, lost=(owner,) if alone and signals else ())


def _still_grounded(table: PassiveTable, fault: Fault, owner: str) -> bool:
    """Whether other copper leads from its ground to the plug once that wire is open."""
    cut = {one.key for one in fault.overlays if isinstance(one, Joint)}
    left = replace(table, resistances=tuple(one for one in table.resistances if one.key not in cut))
    return left.copper_way(table.node[ground_node(owner)], table.minus) is not None


# With power on


def _cut_off(plan: Plan, fault: Fault) -> list[Edit]:
    name = fault.elements[0]
    if name in plan.device_of:
        return [SetValue(element=name, field="feed", value=None)]
    return [Remove(element=name)]


def _poor(plan: Plan, fault: Fault) -> list[Edit]:
    ohm = POOR_OHM[1]
    name = fault.elements[-1]
    if name in plan.return_of:
        wire = plan.return_of[name][1].wire
        return [SetValue(element=name, field="wire.connector_ohm", value=min(wire.connector_ohm + ohm, 10.0))]
    device = plan.device_of[name]
    had = device.feed.wire.connector_ohm if device.feed else 0.0
    return [SetValue(element=name, field="feed.wire.connector_ohm", value=min(had + ohm, 10.0))]


def _ungrounded(_: Plan, fault: Fault) -> list[Edit]:
    return [Remove(element=fault.elements[-1])]


def _moved(_: Plan, fault: Fault) -> list[Edit]:
    device, rail = fault.elements
    return [
        SetValue(element=device, field="feed.pad", value=None),
        SetValue(element=device, field="feed.rail", value=rail),
    ]


enter(FaultRecord("open joint", 2.0, 0.3, _open_joints, _cut_off, cut))
enter(FaultRecord("poor joint", 3.0, 0.2, _poor_joints, _poor, harmless))
enter(FaultRecord("connector half in", 1.0, 0.6, _half_in, _cut_off, cut))
enter(FaultRecord("wrong pad", 1.5, 0.5, _wrong_pads, _moved, _on_another))
enter(FaultRecord("plus and minus swapped", 1.0, 0.6, _swapped, None, _backwards))
enter(FaultRecord("no ground", 1.5, 0.6, _no_grounds, _ungrounded, _comes_home_by_signals))
enter(FaultRecord("plug reversed", 0.2, 0.7, _turned_plug, None, _reversed_plug))
