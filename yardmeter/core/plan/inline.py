"""What reacts in line with a wire: a fuse, an NTC against inrush, the resistor of an anti-spark plug."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from yardmeter.core.plan.plain import Plain


class Inline(Plain):
    """Base of what reacts in line."""


class Fuse(Inline):
    """Carries the amps its connector stands; a short melts it at so many ampere²seconds."""

    kind: Literal["fuse"] = "fuse"
    melts_a2s: float = Field(
        gt=0, le=1e7, description="Of a short, where no heat leaves it meanwhile (its sheet's I²t)."
    )


class Ntc(Inline):
    """Cold it holds the inrush back; warm, at the amps its connector stands, it has the connector's resistance."""

    kind: Literal["ntc"] = "ntc"
    cold_ohm: float = Field(gt=0, le=1000)
    cools_s: float = Field(default=40.0, gt=0, le=3600, description="Time constant in still air.")


class AntiSpark(Inline):
    """A contact with a resistor that comes first, in the pack's plug."""

    kind: Literal["spark"] = "spark"
    ohm: float = Field(gt=0, le=1000)
    for_s: float = Field(default=5e-3, gt=0, le=10, description="How long before the other contact.")


InlinePart = Annotated[Fuse | Ntc | AntiSpark, Field(discriminator="kind")]
