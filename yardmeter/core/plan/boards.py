"""Boards, their rails and pads."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from yardmeter.core.plan.parts import Id, Model, Name, Note, Return
from yardmeter.core.plan.pins import Pin
from yardmeter.core.plan.text import CLEAN


class Trace(Model):
    """The copper behind a pad, for its IPC-2221 limit."""

    width_m: float = Field(gt=0, le=0.1)
    copper_m: float = Field(default=35e-6, gt=0, le=1e-3)
    rise_k: float = Field(default=20, gt=0, le=150)


class Pad(Model):
    """One solder pad or pin of a rail."""

    id: Id
    label: Name
    direction: Literal["out", "in"] = "out"
    limit_a: float | None = Field(default=None, gt=0, le=1000)
    trace: Trace | None = None


def rail_title(name: str) -> str:
    """“5 V rail” in a sentence, without saying rail twice."""
    return name if name.lower().endswith("rail") else f"{name} rail"


class Rail(Model):
    """One positive net at one voltage. All pads of a rail are the same net."""

    id: Id
    name: Name
    board: Id
    nominal_v: float | None = Field(default=None, gt=0, le=100, description="Left out on a rail at pack voltage.")
    pads: tuple[Pad, ...] = ()


Pinout = Literal["unverified", "document", "print", "measured"]
"""What a pin-out was taken from: nothing yet, the maker's document, the print on the board, a meter."""


class Board(Model):
    """Anything with one ground and pads: controller, power board, ESC, stand-alone regulator."""

    id: Id
    name: Name
    kind: Literal["power", "controller", "esc", "regulator", "other"] = "other"
    returns: tuple[Return, ...] = ()
    pins: tuple[Pin, ...] = Field(default=(), max_length=120)
    osd: bool = Field(default=False, description="Video passes through its on-screen-display chip.")
    revision: str = Field(default="", max_length=40, pattern=CLEAN, description="As printed on the board.")
    pinout: Pinout = Field(default="unverified", description="What its pin-out is trusted by.")
    esc_limit_a: float | None = Field(
        default=None,
        gt=0,
        le=5000,
        description="What its ESCs carry for long, all motors on it together; left out, nobody has said.",
    )
    weight_g: float = Field(default=0, ge=0, le=10_000)
    fitting: Note = Field(default="", description="How it sits: screws, shells near metal, where its leads leave.")
    note: Note = ""
