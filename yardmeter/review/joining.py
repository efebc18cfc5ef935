"""Links the pins of a plan are usually joined by, offered where both ends are still free.

Common practice, no source: cameras into what draws the overlay (the controller, else a board of its own) and from there to the
sender, one serial port for each talker, the sender's settings line, a strip's data, a buzzer's switch, the line a camera's menu is worked by, one motor signal per ESC input. Nothing is joined by itself; the builder takes what fits.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from yardmeter.core.plan import Board, Device, Owner, Pin, Plan
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.operations import Add, Edit
from yardmeter.core.plan.pins import PinRole
from yardmeter.core.plan.signals import SignalKind
from yardmeter.words.told import ToldFix

WORDS: dict[SignalKind, str] = {
    "one-wire": "control", "servo": "control", "led": "data", "buzzer": "switch", "camera": "menu",
}  # fmt: skip
SHARED: tuple[PinRole, ...] = ("one-wire", "sda", "scl")
TALKERS = ("receiver", "gnss", "digital", "computer", "sensor", "recorder", "other")
"""Kinds of devices that get a serial port of the controller, receivers first."""


@dataclass
class _Bench:
    """Pins not taken yet, and the edits proposed so far."""

    plan: Plan
    used: set[str]
    ids: set[str] = field(default_factory=set)

    def free(self, owner: Owner, role: PinRole) -> list[Pin]:
        """Free pins of a role, the one shown at power-up first; shared ones are always free."""
        found = [p for p in owner.pins if p.role == role and (role in SHARED or p.id not in self.used)]
        return sorted(found, key=lambda p: not p.default)

    def join(self, kind: SignalKind, source: Pin, sink: Pin, name: str) -> Edit:
        self.used |= {source.id, sink.id}
        key = fresh_id(self.plan, f"signal-{name}", self.ids)
        self.ids.add(key)
        owners = {self.plan.owner_of[source.id].id, self.plan.owner_of[sink.id].id}
        beside = next((wire.id for owner, wire in self.plan.returns() if {owner, wire.to} == owners), None)
        value = {"id": key, "name": name[:80], "kind": kind, "source": source.id, "sink": sink.id, "ground": beside}
        return Add(kind="signal", value=value)


def usual_signals(plan: Plan) -> tuple[ToldFix, ...]:
    """What could be joined, one proposal per device or board; together they never use a pin twice."""
    controller = max((b for b in plan.boards if b.pins), key=_signal_pins, default=None)
    if controller is None:
        return ()
    bench = _Bench(plan, {end for one in plan.signals for end in (one.source, one.sink)})
    return tuple(_proposals(bench, controller))


def motor_signals(plan: Plan) -> tuple[Edit, ...]:
    """The signals an ESC's own lead carries, for every ESC that the controller has an output left for."""
    controller = next((b for b in plan.boards if b.kind == "controller" and b.pins), None)
    if controller is None:
        return ()
    bench = _Bench(plan, {end for one in plan.signals for end in (one.source, one.sink)})
    return tuple(e for b in plan.boards if b.kind == "esc" for e in _motors(bench, controller, b))


def _signal_pins(board: Board) -> tuple[bool, int]:
    return board.kind == "controller", len(board.pins)


def _proposals(bench: _Bench, controller: Board) -> Iterator[ToldFix]:
    devices = bench.plan.devices
    senders = [d for d in devices if bench.free(d, "video-in")]
    between = _overlay(bench.plan, controller)
    for device in devices:
        if edits := _picture(bench, between, device, senders):
            yield ToldFix(title=f"{device.name}: its picture", edits=tuple(edits))
    for sender in senders:
        pairs = list(zip(bench.free(between, "video-out"), bench.free(sender, "video-in"), strict=False))
        if pairs:
            edit = bench.join("video", *pairs[0], f"Picture to {sender.name}")
            yield ToldFix(title=f"{sender.name}: the picture from {between.name}", edits=(edit,))
    if between is not controller and (edits := _port(bench, controller, between)):
        yield ToldFix(title=f"{between.name}: a serial port", edits=tuple(edits))
    talkers = [d for d in devices if d.kind in TALKERS]
    for device in sorted(talkers, key=lambda d: TALKERS.index(d.kind)):
        if edits := _port(bench, controller, device):
            yield ToldFix(title=f"{device.name}: a serial port", edits=tuple(edits))
    for device in devices:
        if edits := _lines(bench, controller, device):
            yield ToldFix(title=f"{device.name}: its control line", edits=tuple(edits))
    for board in bench.plan.boards:
        if board is not controller and (edits := _motors(bench, controller, board)):
            yield ToldFix(title=f"{board.name}: {len(edits)} motor signals", edits=tuple(edits))


def _overlay(plan: Plan, controller: Board) -> Board:
    """What pictures pass through: the controller that draws on them, else a board that does."""
    drawing = [b for b in (controller, *plan.boards) if b.osd and any(p.role == "video-out" for p in b.pins)]
    return drawing[0] if drawing else controller


def _picture(bench: _Bench, between: Board, camera: Device, senders: list[Device]) -> list[Edit]:
    """A camera into what draws the overlay; straight to a sender where that has no input left."""
    for out in bench.free(camera, "video-out")[:1]:
        places: list[Owner] = [between, *senders]
        inputs = [pin for owner in places for pin in bench.free(owner, "video-in")]
        if inputs:
            return [bench.join("video", out, inputs[0], f"{camera.name} video")]
    return []


def _port(bench: _Bench, controller: Board, device: Owner) -> list[Edit]:
    """Both wires of one port of which neither pin is taken: TX to RX, crossed."""
    talks, hears = bench.free(device, "tx"), bench.free(device, "rx")
    if not talks or any(p.id in bench.used for p in device.pins if p.role in ("tx", "rx")):
        return []
    inputs, outputs = bench.free(controller, "rx"), bench.free(controller, "tx")
    for rx in inputs:
        tx = next((p for p in outputs if p.port == rx.port), None)
        if tx is None:
            continue
        kind: SignalKind = "receiver" if device.kind == "receiver" else "serial"
        edits = [bench.join(kind, talks[0], rx, f"{device.name} out")]
        if hears:
            edits.append(bench.join("serial", tx, hears[0], f"{device.name} in"))
        return edits
    return []


def _lines(bench: _Bench, controller: Board, device: Device) -> list[Edit]:
    """A settings line, or a servo signal."""
    roles: tuple[tuple[SignalKind, PinRole, PinRole], ...] = (
        ("one-wire", "one-wire", "one-wire"),
        ("servo", "servo-out", "servo-in"),
        ("led", "led-out", "led-in"),
        ("buzzer", "buzzer-out", "buzzer-in"),
        ("camera", "camera-out", "camera-in"),
        ("i2c", "sda", "sda"),
        ("i2c", "scl", "scl"),
    )
    edits = []
    for kind, out, into in roles:
        taken = [p for p in device.pins if p.role == into and p.id in bench.used]
        pairs = list(zip(bench.free(controller, out), bench.free(device, into), strict=False))
        if pairs and not taken:
            word = WORDS.get(kind, into.upper())
            edits.append(bench.join(kind, *pairs[0], f"{device.name} {word}"))
    return edits


def _motors(bench: _Bench, controller: Board, board: Board) -> list[Edit]:
    taken = sum(1 for pin in controller.pins if pin.role == "esc-out" and pin.id in bench.used)
    pairs = list(zip(bench.free(controller, "esc-out"), bench.free(board, "esc-in"), strict=False))
    return [bench.join("esc", out, into, f"Motor signal {k}") for k, (out, into) in enumerate(pairs, taken + 1)]
