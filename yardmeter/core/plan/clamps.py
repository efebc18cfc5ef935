"""Clamps against spikes: what conducts above its breakdown volts and keeps them off what stands behind it."""

from __future__ import annotations

from pydantic import Field, model_validator

from yardmeter.core.plan.parts import Id, Model, Name, Note
from yardmeter.core.plan.text import CLEAN


class ClampValues(Model):
    """Of a suppressor (TVS): nothing up to its stand-off, breakdown volts plus amps times ohms above."""

    standoff_v: float = Field(gt=0, le=200, description="Up to here it draws next to nothing.")
    breakdown_v: float = Field(gt=0, le=300, description="From here on it conducts.")
    dynamic_ohm: float = Field(default=0.1, ge=0.001, le=100, description="Rise of its volts for each ampere more.")
    pulse_j: float = Field(
        default=0.5,
        gt=0,
        le=1000,
        description="Energy of one pulse it survives; watts of a 10/1000 µs pulse times 1 ms.",
    )

    @model_validator(mode="after")
    def _in_order(self) -> ClampValues:
        if self.breakdown_v < self.standoff_v:
            raise ValueError(
                f"breakdown_v {self.breakdown_v} V is below standoff_v {self.standoff_v} V; a clamp stands off less than it breaks down at"
            )
        return self


class Clamp(ClampValues):
    """A suppressor between a rail or a device's pins and the ground beside it."""

    id: Id
    name: Name
    at: Id = Field(description="The rail or device it is fitted at.")
    fitted: bool = True
    part: str = Field(default="", max_length=64, pattern=CLEAN)
    weight_g: float = Field(default=0, ge=0, le=1000)
    note: Note = ""
