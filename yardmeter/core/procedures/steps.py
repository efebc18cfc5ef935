"""One step of a bench list: what is looked at or read, and what passes."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from typing import Literal, get_args

from yardmeter.core.probing.points import Point
from yardmeter.core.probing.reading import Mode, Reading

Gate = Literal["eyes", "meter", "plug", "rails", "branches", "grounds", "cross", "pins", "states", "limiter", "volts", "usb", "function", "pack", "still", "load"]  # fmt: skip
GATES: tuple[Gate, ...] = get_args(Gate)


def powered_gate(gate: Gate) -> bool:
    """Whether power is on there: from the first power through a limiter on."""
    return GATES.index(gate) >= GATES.index("limiter")


Look = Literal[
    "props", "heat", "neighbours", "polarity", "capacitor", "tantalum", "coil", "clamp", "diode", "bridges", "resistor", "red wire", "motor wires", "leads touch", "antenna", "limiter", "unplugged",
    "signal", "overlay", "fail-safe", "still", "pack in", "props on", "hover", "punch",
]  # fmt: skip
Unforeseen = Literal["no point", "dead"]
"""Why nobody can say what a step reads: the condition has no operating point, or the plan has nothing come out there."""


@dataclass(frozen=True)
class Step:
    """One step: a look, or a reading between two points. `elements` are what it is about.

    `least` and `most` bound a reading that passes; `most` is None where more is as good. At `limit_a` a supply holds the
    current, and nothing passes. `condition` is where power is on. `touches` names every joint whose change makes it another
    step. `unforeseen` says why it has no bounds: it is never passed, only skipped with a reason.
    """

    id: str
    gate: Gate
    look: Look | None
    elements: tuple[str, ...]
    red: Point | None = None
    black: Point | None = None
    mode: Mode | None = None
    expected: Reading | None = None
    least: float = 0.0
    most: float | None = None
    condition: str | None = None
    limit_a: float | None = None
    volts_v: float | None = None
    """Of a bench supply that stands in for the pack."""
    charge_s: float = 0.0
    """How long capacitors may hold that supply at its limit."""
    unforeseen: Unforeseen | None = None
    touches: tuple[str, ...] = field(default=(), repr=False)
    signed: str = ""
    """Bounds it is told apart by, where those it is judged by follow what was measured."""

    @property
    def bounds(self) -> str:
        """What passes, as text."""
        return f"{self.least:.3g} {self.most if self.most is None else f'{self.most:.3g}'}{self.unforeseen or ''}"

    @property
    def signature(self) -> str:
        """What the step asks, expects and touches: when an edit changes it, what was done of it has to be done again."""
        ends = [one.id if one else "" for one in (self.red, self.black)]
        text = " ".join(
            [self.id, self.gate, *ends, self.mode or "", self.signed or self.bounds, *self.elements, *self.touches]
        )
        return hashlib.sha256(text.encode()).hexdigest()[:16]
