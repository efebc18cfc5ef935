"""Capacitors, LC sections and ferrites, and what has been measured of noise."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from yardmeter.core.physics.capacitors import Dielectric
from yardmeter.core.plan.parts import Id, Model, Name, Note
from yardmeter.core.plan.text import CLEAN

FilterKind = Literal["capacitor", "lc", "ferrite"]
NoiseKind = Literal["pwm", "commutation", "switching", "burst"]


class Filter(Model):
    """A part against noise.

    `at` is a rail (a capacitor at its board), a device (a capacitor at its pins; an LC section or ferrite in its feed), or
    a regulator (in its input wire). An LC section stands with its capacitor on the consumer's side.
    """

    id: Id
    name: Name
    kind: FilterKind
    at: Id
    fitted: bool = Field(default=True, description="Off for one that is claimed, on a pad's print, and not there.")
    farad: float = Field(default=0, ge=0, le=1)
    count: int = Field(default=1, ge=1, le=20, description="Capacitors in parallel.")
    esr_ohm: float = Field(default=0.03, ge=0, le=100)
    rated_v: float = Field(default=35, gt=0, le=1000)
    dielectric: Dielectric = "electrolytic"
    lead_m: float = Field(default=0.005, ge=0, le=1, description="Length of each leg or wire to it.")
    ripple_a: float | None = Field(default=None, gt=0, le=100, description="Ripple current it is rated for, rms.")
    henry: float = Field(default=0, ge=0, le=1)
    dcr_ohm: float = Field(default=0, ge=0, le=100)
    saturation_a: float = Field(default=100, gt=0, le=1000)
    heating_a: float | None = Field(
        default=None,
        gt=0,
        le=1000,
        description="Direct current that warms the coil or bead by 40 K, as sheets state it.",
    )
    resonance_hz: float = Field(default=20e6, gt=0, le=1e10, description="Self-resonance of the inductor.")
    damping_ohm: float | None = Field(default=None, gt=0, le=1000, description="Resistor of a parallel Rd–Cd branch.")
    damping_farad: float = Field(default=0, ge=0, le=1)
    ohm_100mhz: float = Field(default=0, ge=0, le=1e5)
    part: str = Field(default="", max_length=64, pattern=CLEAN)
    weight_g: float = Field(default=0, ge=0, le=1000)
    note: Note = ""

    @model_validator(mode="after")
    def _has_its_values(self) -> Filter:
        if self.kind == "capacitor" and self.farad <= 0:
            raise ValueError("a capacitor needs its farads")
        if self.kind == "lc" and (self.farad <= 0 or self.henry <= 0):
            raise ValueError("an LC section needs its henries and its farads")
        if self.kind == "ferrite" and self.ohm_100mhz <= 0:
            raise ValueError("a ferrite needs its ohms at 100 MHz")
        return self


class MeasuredNoise(Model):
    """A line measured at an element's own pins; it takes the place of the estimate of that kind."""

    id: Id
    name: Name
    element: Id = Field(description="The device or regulator that makes it.")
    kind: NoiseKind
    hz: float = Field(gt=0, le=1e9)
    amplitude_pp: float = Field(gt=0, le=1000, description="Peak to peak, in volts at its pins or in amps.")
    unit: Literal["V", "A"] = "V"
