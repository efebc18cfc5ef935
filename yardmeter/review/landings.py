"""Where wires really land: which of several pads alike, and which pads carry more than one wire."""

from __future__ import annotations

from collections import defaultdict

from yardmeter.core.plan import Device, Link, Pad, Plan, Rail

ORDINAL = ("1st", "2nd", "3rd")


def landing(plan: Plan, rail_id: str, device: Device | None = None) -> str:
    """The pad a supply wire lands on, told apart from others of the same label; one that is free where none is named."""
    rail = plan.rail_of[rail_id]
    named = plan.pad_of.get(device.feed.pad or "") if device and device.feed else None
    if named:
        return pad_words(plan, rail, named[1])
    suggested = _suggested(plan, rail).get(device.id) if device else None
    if suggested:
        return f"{pad_words(plan, rail, suggested)} (free)"
    full = device is not None and any(pad.direction == "out" for pad in rail.pads)
    return f"{rail.name}, spliced: no pad is free" if full else rail.name


def own_output(plan: Plan, rail_id: str) -> str | None:
    """The device whose own output a rail is, so that its pads are the device's: its volts are above that one's ground, or it is fed
    by that one alone with no wire between."""
    if (ground := plan.ground_of(rail_id)) in plan.device_of:
        return ground
    supplies = plan.supplies_into(rail_id)
    inside = [one for one in supplies if one.input in plan.device_of and one.feed is None]
    return inside[0].input if inside and len(inside) == len(supplies) else None


def on_its_esc(plan: Plan, motors: Device) -> bool:
    """Whether motors hang on an ESC that is a board of the plan, or part of one: no plus and minus goes to them, but phases."""
    if motors.feed is None:
        return False
    board = plan.board_of[plan.rail_of[motors.feed.rail].board]
    told = any(
        plan.owner_of[signal.sink].id == motors.id for signal in plan.signals
    )  # an ESC of its own has a signal wire
    return board.kind == "esc" or board.esc_limit_a is not None or (board.kind == "controller" and not told)


CABLE_AWG = 22
"""Thicker than this is a lead to solder, and nothing else runs in it; common practice, no source."""


def harness(plan: Plan, board: str, other: str) -> str | None:
    """The cable between two boards that carries supply: what else goes between them runs in it."""
    for one in plan.supplies:
        boards = {plan.rail_of[name].board for name in (*plan.inputs_of(one), one.output) if name in plan.rail_of}
        thin = one.feed is not None and one.feed.gauge_awg >= CABLE_AWG
        if isinstance(one, Link) and thin and board != other and {board, other} <= boards:
            return one.name
    return None


def pad_words(plan: Plan, rail: Rail, pad: Pad) -> str:
    """Its label, and which one of several on the same board that bear it."""
    alike = [one for r in plan.rails if r.board == rail.board for one in r.pads if one.label == pad.label]
    if len(alike) == 1:
        return pad.label
    at = alike.index(pad)
    return f"{pad.label}, {ORDINAL[at] if at < len(ORDINAL) else f'{at + 1}th'} of {len(alike)}"


def _suggested(plan: Plan, rail: Rail) -> dict[str, Pad]:
    """A pad that nothing is on for each device whose pad is not named, in the order of the plan."""
    taken = {device.feed.pad for device in plan.devices_on(rail.id) if device.feed}
    free = [pad for pad in rail.pads if pad.direction == "out" and pad.id not in taken]
    loose = [d.id for d in plan.devices_on(rail.id) if d.feed and d.feed.pad is None and d.kind != "logic"]
    return dict(zip(loose, free, strict=False))


def shared_pads(plan: Plan) -> dict[str, tuple[str, ...]]:
    """Pads with more than one wire on them, in words, with whose wires they are."""
    users: dict[str, list[str]] = defaultdict(list)
    for device in plan.devices:
        found = plan.pad_of.get(device.feed.pad or "") if device.feed else None
        if found:
            rail, pad = found
            users[f"{plan.title(rail.board)} {pad_words(plan, rail, pad)}"].append(device.name)
    return {place: tuple(names) for place, names in users.items() if len(names) > 1}


def phases(plan: Plan) -> dict[str, tuple[str, ...]]:
    """Motors whose three phases go to each ESC."""
    found: dict[str, list[str]] = defaultdict(list)
    for device in plan.devices:
        if device.kind == "motor" and device.feed:
            found[plan.rail_of[device.feed.rail].board].append(device.name)
    return {board: tuple(names) for board, names in found.items()}
