"""Feeding a device from another rail."""

from __future__ import annotations

from yardmeter.core.errors import EditError
from yardmeter.core.plan.devices import Feed
from yardmeter.core.plan.document import Plan
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.parts import Return


def fed_from(plan: Plan, device_id: str, rail_id: str, pad_id: str | None = None, *, with_return: bool = True) -> Plan:
    """The plan with a device fed from that rail; its main return follows to the rail's board, and one is made where it has none.

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
        old_board = plan.rail_of[device.feed.rail].board if device.feed else None
        changed["returns"] = _following(plan, device_id, device.returns, old_board, rail.board)
    moved = device.model_copy(update=changed)
    return plan.model_copy(update={"devices": tuple(moved if one.id == device_id else one for one in plan.devices)})


def _following(
    plan: Plan, device_id: str, returns: tuple[Return, ...], old_board: str | None, board: str
) -> tuple[Return, ...]:
    """The return that went to the old feed's board goes to the new one's; a device without any gets one."""
    if not returns:
        return (Return(id=fresh_id(plan, f"{device_id}-gnd"), to=board),)
    main = next((k for k, wire in enumerate(returns) if wire.to == old_board), None)
    return tuple(wire.model_copy(update={"to": board}) if k == main else wire for k, wire in enumerate(returns))
