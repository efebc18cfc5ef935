"""Pieces every element of a plan is made of."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from yardmeter.core.plan.inline import InlinePart
from yardmeter.core.plan.plain import Plain
from yardmeter.core.plan.text import CLEAN, CLEAN_LINES

Provenance = Literal["measured", "sheet", "reported", "guess"]
"""How far a number can be trusted: measured here, maker's sheet, reported by others, guess."""

Id = Annotated[
    str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,63}$", description="Unique in the plan: a-z, 0-9 and hyphens.")
]
Name = Annotated[str, Field(min_length=1, max_length=80, pattern=CLEAN)]
Note = Annotated[str, Field(max_length=2000, pattern=CLEAN_LINES)]


class Model(Plain):
    """Base of the plan document."""


Colour = Literal["red", "black", "yellow", "white", "green", "blue", "orange", "brown", "grey", "violet"]
Lay = Literal["beside", "twisted", "apart"]
"""How a wire runs to the one that carries its current back: touching it, twisted with it, or a way of its own."""


class Wire(Model):
    """One conductor of a feed, return or signal, with the connector in it."""

    gauge_awg: int = Field(default=26, ge=0, le=40)
    length_m: float = Field(default=0.1, ge=0.001, le=10)
    joined: bool = Field(
        default=False, description="No wire at all: pad on pad or plug on plug. Gauge and length then say nothing."
    )
    colour: Colour | None = Field(default=None, description="Insulation; left out, the usual one for its purpose.")
    lay: Lay = "beside"
    connector: str = Field(default="", max_length=60, pattern=CLEAN, description="Connector in it, in words.")
    connector_ohm: float = Field(default=0.0, ge=0, le=10)
    connector_limit_a: float | None = Field(default=None, gt=0, le=1000)
    inline: InlinePart | None = Field(default=None, description="What reacts in it; none where left out.")

    @model_validator(mode="after")
    def _inline_has_its_numbers(self) -> Wire:
        if self.inline is None or self.inline.kind == "spark":
            return self
        if self.connector_limit_a is None:
            raise ValueError(f"a {self.inline.kind} in line needs the amps it carries, in connector_limit_a")
        if self.inline.kind == "ntc" and not 0 < self.connector_ohm < self.inline.cold_ohm:
            raise ValueError(
                f"an NTC in line needs its warm resistance in connector_ohm, below its {self.inline.cold_ohm:g} Ω when cold"
            )
        return self

    @property
    def run_m(self) -> float:
        """Length of copper it adds [m]; none where the two are joined."""
        return 0.0 if self.joined else self.length_m


class Return(Model):
    """A ground wire from a board or device to a ground point: a board, another device, or `pack`."""

    id: Id
    to: Id
    pin: Id | None = Field(default=None, description="Pin of its owner it is soldered to, where that is known.")
    wire: Wire = Wire()
