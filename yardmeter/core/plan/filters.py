"""Capacitors, LC sections and ferrites, and what has been measured of noise."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from yardmeter.core.physics.capacitors import Dielectric
from yardmeter.core.plan.parts import Id, Model, Name, Note
from yardmeter.core.plan.text import CLEAN

NoiseKind = Literal["pwm", "commutation", "switching", "burst"]


class FilterBase(Model):
    """A part against noise.

    `at` is a rail (a capacitor at its board), a device (a capacitor at its pins; an LC section or ferrite in its feed), or
    a regulator (in its input wire). An LC section stands with its capacitor on the consumer's side.
    """

    id: Id
    name: Name
    at: Id
    fitted: bool = Field(default=True, description="Off for one that is claimed, on a pad's print, and not there.")
    count: int = Field(default=1, ge=1, le=20, description="Equal parts side by side.")
    part: str = Field(default="", max_length=64, pattern=CLEAN)
    weight_g: float = Field(default=0, ge=0, le=1000)
    note: Note = ""


class CapacitorValues(Model):
    """Of each capacitor."""

    farad: float = Field(gt=0, le=1)
    esr_ohm: float = Field(default=0.03, ge=0, le=100)
    rated_v: float = Field(default=35, gt=0, le=1000)
    dielectric: Dielectric = "electrolytic"
    lead_m: float = Field(default=0.005, ge=0, le=1, description="Length of each leg or wire to it.")
    ripple_a: float | None = Field(default=None, gt=0, le=100, description="Ripple current it is rated for, rms.")
    damping_ohm: float | None = Field(default=None, gt=0, le=1000, description="Resistor of a parallel Rd–Cd branch.")
    damping_farad: float = Field(default=0, ge=0, le=1)


class CoilValues(Model):
    """Of what stands in a feed."""

    dcr_ohm: float = Field(default=0, ge=0, le=100)
    saturation_a: float = Field(default=100, gt=0, le=1000, description="Of a bead: the most it is made for.")
    heating_a: float | None = Field(
        default=None,
        gt=0,
        le=1000,
        description="Direct current that warms the coil or bead by 40 K, as sheets state it.",
    )


class CapacitorFilter(FilterBase, CapacitorValues):
    """Capacitors between a rail, pin or input and the ground beside it."""

    kind: Literal["capacitor"]


class LcFilter(FilterBase, CapacitorValues, CoilValues):
    """A coil in a feed, with a capacitor behind it."""

    kind: Literal["lc"]
    henry: float = Field(gt=0, le=1)
    resonance_hz: float = Field(default=20e6, gt=0, le=1e10, description="Self-resonance of the inductor.")


class FerriteFilter(FilterBase, CoilValues):
    """A bead in a feed."""

    kind: Literal["ferrite"]
    ohm_100mhz: float = Field(gt=0, le=1e5)


Filter = Annotated[CapacitorFilter | LcFilter | FerriteFilter, Field(discriminator="kind")]


class MeasuredNoise(Model):
    """A line measured at an element's own pins; it takes the place of the estimate of that kind."""

    id: Id
    name: Name
    element: Id = Field(description="The device or regulator that makes it.")
    kind: NoiseKind
    hz: float = Field(gt=0, le=1e9)
    amplitude_pp: float = Field(gt=0, le=1000, description="Peak to peak, in volts at its pins or in amps.")
    unit: Literal["V", "A"] = "V"
