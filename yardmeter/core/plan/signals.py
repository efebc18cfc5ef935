"""Signals: links between two pins, with or without a ground wire of their own."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from yardmeter.core.plan.parts import Id, Model, Name, Note, Wire

SignalKind = Literal["video", "serial", "servo", "esc", "receiver", "one-wire", "i2c", "other"]


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
