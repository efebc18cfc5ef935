"""Feeding a device from another rail."""

from __future__ import annotations

from yardmeter.core.errors import EditError
from yardmeter.core.plan.devices import Device, Feed
from yardmeter.core.plan.document import Plan
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.parts import Return
from yardmeter.core.plan.signals import Signal


def fed_from(plan: Plan, device_id: str, rail_id: str, pad_id: str | None = None, *, with_return: bool = True) -> Plan:
    """The plan with a device fed from that rail; its main return follows to the rail's own ground, a board's or of another unit,
    and one is made where it has none. A signal keeps that return as its ground only where it still joins its ends.

    Raises EditError for what is no device or rail, and for a rail the device itself feeds.
    """
    device = plan.device_of.get(device_id)
    if device is None:
        raise EditError(
            f"“{device_id}” is no device of this plan.", where=device_id, remedy="Only devices move between rails."
        )
    rail = plan.rail_of.get(rail_id)
    if rail is None:
        raise EditError(f"“{rail_id}” is no rail of this plan.", where=rail_id, remedy="Choose one of its rails.")
    if any(s.input == device.id and s.output == rail.id for s in plan.supplies):
        raise EditError(
            f"{device.name} feeds {rail.name} itself.",
            where=device.id,
            remedy="Choose a rail that does not hang on it.",
        )
    feed = Feed(rail=rail.id, pad=pad_id)
    if device.feed:
        feed = device.feed.model_copy(update={"rail": rail.id, "pad": pad_id})
    changed: dict[str, object] = {"feed": feed}
    if with_return:
        old = plan.ground_of(device.feed.rail) if device.feed else None
        if device.returns and rail.id in plan.cell_rails:
            old = device.returns[0].to  # both its wires go to the plug of a cell of its own, wherever its ground was
        changed["returns"] = _following(plan, device_id, device.returns, old, plan.ground_of(rail.id))
    moved = device.model_copy(update=changed)
    left = {w.id for w in device.returns} - {w.id for w in moved.returns if w in device.returns}
    return plan.model_copy(
        update={
            "devices": tuple(moved if one.id == device_id else one for one in plan.devices),
            "signals": tuple(_beside(plan, one, moved) if one.ground in left else one for one in plan.signals),
        }
    )


def _beside(plan: Plan, signal: Signal, moved: Device) -> Signal:
    """A signal whose ground went elsewhere with the feed has none any more, unless it still ends where the signal does."""
    ends = {plan.owner_of[one].id for one in (signal.source, signal.sink)}
    to = next(wire.to for wire in moved.returns if wire.id == signal.ground)
    return signal if to in ends else signal.model_copy(update={"ground": None})


def _following(
    plan: Plan, device_id: str, returns: tuple[Return, ...], old: str | None, new: str
) -> tuple[Return, ...]:
    """The return that went to the old feed's ground goes to the new one's; a device without any gets one."""
    if not returns:
        return (Return(id=fresh_id(plan, f"{device_id}-gnd"), to=new),)
    main = next((k for k, wire in enumerate(returns) if wire.to == old), None)
    return tuple(wire.model_copy(update={"to": new}) if k == main else wire for k, wire in enumerate(returns))
