"""Steps that are looked at, in the order of the work: eyes before power, functions one by one, the bench, the air."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.plan import CapacitorFilter, Device, LcFilter, Plan, Regulator
from yardmeter.core.probing.points import is_motor
from yardmeter.core.procedures.steps import Step

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
    for one in plan.filters:
        if one.fitted and isinstance(one, CapacitorFilter | LcFilter) and one.dielectric in POLARISED:
            yield Step(f"eyes-capacitor-{one.id}", "eyes", "capacitor", (one.id, one.at))
    for supply in lifted(plan):
        yield Step(f"eyes-lifted-{supply.id}", "eyes", "red wire", (supply.id, supply.board))
    for device in plan.devices:
        if device.kind == "motor":
            yield Step(f"eyes-motors-{device.id}", "eyes", "motor wires", (device.id,))


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
