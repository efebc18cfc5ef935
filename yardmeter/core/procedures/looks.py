"""Steps that are looked at, in the order of the work: eyes before power, functions one by one, the bench, the air."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.plan import CapacitorFilter, Device, Diode, LcFilter, Link, Plan, Regulator, Strap
from yardmeter.core.probing.points import is_motor
from yardmeter.core.procedures.steps import Look, Step

HEAVY_AWG = 16
"""From this on a joint needs more heat than what stands beside it may get; common practice, no source."""
POLARISED = ("electrolytic", "polymer", "tantalum")


def wired(plan: Plan) -> list[Device]:
    """Devices with a plus and a ground of their own: no logic on a board, no motors."""
    return [one for one in plan.devices if one.kind != "logic" and not is_motor(plan, one.id)]


def eyes(plan: Plan) -> Iterator[Step]:
    yield Step("eyes-props", "eyes", "props", ())
    for board in plan.boards:
        rails = tuple(rail.id for rail in plan.rails if rail.board == board.id)
        if len(rails) > 1:
            yield Step(f"eyes-neighbours-{board.id}", "eyes", "neighbours", (board.id, *rails))
    heavy = [one for one in plan.boards if any(wire.wire.gauge_awg <= HEAVY_AWG for wire in one.returns)]
    if heavy:
        yield Step("eyes-heat", "eyes", "heat", tuple(one.id for one in heavy))
    for device in wired(plan):
        if device.feed:
            joints = (device.feed.rail, device.feed.pad or "", *(f"{one.id} {one.to}" for one in device.returns))
            yield Step(f"eyes-polarity-{device.id}", "eyes", "polarity", (device.id,), touches=joints)
    yield from _fitted(plan)
    for supply in lifted(plan):
        yield Step(f"eyes-lifted-{supply.id}", "eyes", "red wire", (supply.id, supply.board))
    for device in plan.devices:
        if device.kind == "motor":
            yield Step(f"eyes-motors-{device.id}", "eyes", "motor wires", (device.id,))


def _fitted(plan: Plan) -> Iterator[Step]:
    """What is fitted beside the wires, and can be fitted the wrong way round or in the wrong lead."""
    for one in plan.filters:
        if one.fitted:
            if not isinstance(one, CapacitorFilter):
                yield Step(f"eyes-coil-{one.id}", "eyes", "coil", (one.id, one.at))
            if isinstance(one, CapacitorFilter | LcFilter) and one.dielectric in POLARISED:
                look: Look = "tantalum" if one.dielectric == "tantalum" else "capacitor"
                yield Step(f"eyes-capacitor-{one.id}", "eyes", look, (one.id, one.at))
    for clamp in plan.clamps:
        if clamp.fitted:
            yield Step(f"eyes-clamp-{clamp.id}", "eyes", "clamp", (clamp.id, clamp.at))
    for supply in plan.supplies:
        if isinstance(supply, Diode) and is_loose(plan, supply):
            yield Step(f"eyes-diode-{supply.id}", "eyes", "diode", (supply.id, supply.output), touches=(supply.input,))
        elif isinstance(supply, Strap):
            yield Step(f"eyes-bridges-{supply.id}", "eyes", "bridges", (supply.id, *supply.selected))
    for device in plan.devices:
        if has_resistor(device):
            yield Step(f"eyes-resistor-{device.id}", "eyes", "resistor", (device.id,))


def is_loose(plan: Plan, one: Diode) -> bool:
    """Whether a diode is a part to be soldered in: in a wire, or between two boards; on one board it is part of that."""
    return bool(one.feed or one.lead) or joins_boards(plan, one)


def joins_boards(plan: Plan, one: Link | Diode) -> bool:
    """Whether it goes from one board to another."""
    return one.input in plan.rail_of and plan.rail_of[one.input].board != plan.rail_of[one.output].board


def has_resistor(device: Device) -> bool:
    """Whether LEDs have a resistor of their own in their lead."""
    return device.led is not None and device.law == "led" and device.led.resistor_ohm > 0


def lifted(plan: Plan) -> list[Regulator]:
    """BECs of ESCs whose red wire feeds nothing: it was lifted, and has to be insulated."""
    found = [one for one in plan.supplies if isinstance(one, Regulator) and one.place == "esc"]
    return [one for one in found if not plan.supplies_from(one.output) and not plan.devices_on(one.output)]


def states(plan: Plan) -> Iterator[Step]:
    senders = tuple(d.id for d in plan.devices if d.kind in ("sender", "digital", "receiver"))
    if senders:
        yield Step("states-antennas", "states", "antenna", senders)


def function(plan: Plan) -> Iterator[Step]:
    for board in plan.boards:
        if board.osd:
            yield Step(f"function-overlay-{board.id}", "function", "overlay", (board.id,))
    for signal in plan.signals:
        ends = (signal.source, signal.sink, signal.ground or "")
        yield Step(f"function-{signal.id}", "function", "signal", (signal.id,), touches=ends)
    receivers = tuple(one.id for one in plan.devices if one.kind == "receiver")
    if receivers and any(one.kind == "motor" for one in plan.devices):
        yield Step("function-fail-safe", "function", "fail-safe", receivers)


def bench_and_air(plan: Plan) -> Iterator[Step]:
    """Ten minutes in still air before anything turns; propellers last of all."""
    yield Step("load-still", "still", "still", ())
    if any(device.throttle for device in plan.devices):
        yield Step("load-props", "load", "props on", ())
        yield Step("load-hover", "load", "hover", ())
        yield Step("load-punch", "load", "punch", ())
