"""Pins: where signals and supply wires land on a board or device."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from yardmeter.core.plan.parts import Id, Model, Name
from yardmeter.core.plan.text import CLEAN

PinRole = Literal[
    "video-in", "video-out", "tx", "rx", "servo-out", "servo-in", "esc-out", "esc-in", "one-wire", "sda", "scl",
    "led-out", "led-in", "buzzer-out", "buzzer-in", "camera-out", "camera-in",
    "power-in", "power-out", "ground", "ident", "keep-off", "other",
]  # fmt: skip
Direction = Literal["out", "in", "both", "power", "ground", "never", "unknown"]
DIRECTION: dict[PinRole, Direction] = {
    "video-in": "in",
    "video-out": "out",
    "tx": "out",
    "rx": "in",
    "servo-out": "out",
    "servo-in": "in",
    "esc-out": "out",
    "esc-in": "in",
    "led-out": "out",
    "led-in": "in",
    "buzzer-out": "out",
    "buzzer-in": "in",
    "camera-out": "out",
    "camera-in": "in",
    "one-wire": "both",
    "sda": "both",
    "scl": "both",
    "power-in": "power",
    "power-out": "power",
    "ground": "ground",
    "ident": "never",
    "keep-off": "never",
    "other": "unknown",
}


class Pin(Model):
    """One pin of a board or device, as its pin-out gives it."""

    id: Id
    label: Name
    role: PinRole = "other"
    port: str = Field(
        default="", max_length=40, pattern=CLEAN, description="The port it belongs to, as the firmware counts them."
    )
    level_v: float | None = Field(default=None, gt=0, le=60, description="High level it drives [V].")
    tolerant_v: float | None = Field(default=None, gt=0, le=60, description="Most volts it stands as an input [V].")
    input_levels: Literal["ttl", "cmos"] = Field(
        default="ttl", description="Thresholds as an input: TTL-compatible, or 0.3 and 0.7 of its supply."
    )
    inverted: bool = Field(default=False, description="Idles low: an inverted serial protocol.")
    inverts: bool = Field(default=False, description="An input that can be told to invert.")
    default: bool = Field(default=False, description="Of several inputs, the one that is shown at power-up.")

    @property
    def direction(self) -> Direction:
        return DIRECTION[self.role]

    @property
    def takes_power(self) -> bool:
        """Whether a plus wire may land here: on an input for power, or on a pin nothing is known of."""
        return self.direction == "unknown" or self.role == "power-in"
