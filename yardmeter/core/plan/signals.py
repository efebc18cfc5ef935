"""Signals: links between two pins, with or without a ground wire of their own."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from yardmeter.core.plan.parts import Id, Model, Name, Note, Wire
from yardmeter.core.plan.pins import PinRole

SignalKind = Literal[
    "video", "serial", "servo", "esc", "receiver", "one-wire", "i2c", "led", "buzzer", "camera", "other"
]

SIGNAL_ENDS: dict[SignalKind, tuple[tuple[PinRole, ...], tuple[PinRole, ...]]] = {
    "video": (("video-out",), ("video-in",)),
    "serial": (("tx",), ("rx",)),
    "receiver": (("tx",), ("rx",)),
    "servo": (("servo-out", "esc-out"), ("servo-in",)),
    "esc": (("esc-out", "servo-out"), ("esc-in",)),
    "one-wire": (("one-wire", "tx", "rx"), ("one-wire", "tx", "rx")),
    "i2c": (("sda", "scl"), ("sda", "scl")),
    "led": (("led-out", "esc-out", "servo-out"), ("led-in",)),
    "buzzer": (("buzzer-out",), ("buzzer-in",)),
    "camera": (("camera-out",), ("camera-in",)),
}
"""Roles of pins that can drive a kind of signal, and that can read it; of any other kind, and on a pin whose role nobody
said, all can. `camera` is the line a camera's menu is worked by. Outputs for motors, servos and lights can be remapped: common practice, no source."""


def belong_together(drives: PinRole, reads: PinRole) -> bool:
    """Whether some kind of signal goes from a pin of the one role to a pin of the other."""
    return any(drives in sources and reads in sinks for sources, sinks in SIGNAL_ENDS.values())


class Signal(Model):
    """A link from what drives it (`source`) to what reads it (`sink`).

    Each end is a pin, or the board or device itself where the pin is not known. `ground` names the return that runs
    beside the signal as its own ground wire.
    """

    id: Id
    name: Name
    kind: SignalKind
    source: Id
    sink: Id
    wire: Wire = Wire(gauge_awg=28)
    ground: Id | None = Field(default=None, description="The return wire that is this signal's own ground.")
    note: Note = ""
