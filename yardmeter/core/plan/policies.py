"""What the builder decides where schools differ, and the margins findings are judged by."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from yardmeter.core.plan.parts import Model, Provenance

FaultKind = Literal[
    "short", "whisker", "open joint", "poor joint", "wrong pad", "plus and minus swapped", "no ground", "regulator open",
    "regulator shorted", "regulator low", "capacitor reversed", "capacitor shorted", "capacitor forgotten", "device shorted",
    "connector half in", "wrong strap", "plug reversed",
]  # fmt: skip


class Policy(Model):
    """Adjustable judgement of a plan. Defaults are common practice, no source, unless a field says otherwise."""

    board_derate_frac: float = Field(
        default=0.7, gt=0, le=1, description="On-board and ESC regulators: small pads, heat."
    )
    alone_derate_frac: float = Field(default=0.9, gt=0, le=1, description="Stand-alone regulators.")
    over_voltage_frac: float = Field(
        default=0.10,
        ge=0,
        le=0.5,
        description="What volts on the pack must stay under a maximum: plug and braking go above the pack's own; our choice.",
    )
    thin_margin_frac: float = Field(default=0.15, ge=0, le=1)
    thin_headroom_v: float = Field(default=1.0, ge=0, le=5)
    still_air_c: float = Field(default=30, ge=-30, le=60)
    moving_air_c: float = Field(default=25, ge=-30, le=60)
    hot_margin_k: float = Field(default=15, ge=0, le=60)
    wire_rise_k: float = Field(default=60, gt=0, le=150)
    punch_s: float = Field(
        default=10, gt=0, le=600, description="How long full throttle is held: wires and connectors heat for that long."
    )
    connector_burst_frac: float = Field(
        default=1.6, ge=1, le=4, description="What a connector stands for that long over its steady rating."
    )
    copper_c: float = Field(
        default=40,
        ge=-30,
        le=150,
        description="At which the resistance of copper is taken: moving air and some 15 K of its own; our choice.",
    )
    wire_drop_frac: float = Field(default=0.03, gt=0, le=0.5)
    paralleling: Literal["never", "linear", "any"] = Field(
        default="linear", description="Which regulators may share a rail."
    )
    cascade: Literal["allowed", "never"] = Field(
        default="allowed", description="A regulator before a device or regulator with its own."
    )
    video_shift_v: float = Field(
        default=0.01, gt=0, le=0.5, description="Shift of a video reference that shows: 1 % of 1 Vpp, −40 dB."
    )
    edge_s: float = Field(
        default=1e-6, ge=1e-8, le=1e-2, description="Time a load's current takes from idle to peak; our choice."
    )
    esc_edge_frac: float = Field(
        default=0.2,
        ge=0,
        le=1,
        description="Share of a motor's phase current that steps in the leads at an edge; the ESC's capacitors give the rest; our choice.",
    )
    pwm_hz: float = Field(default=24_000, ge=1_000, le=200_000, description="Switching frequency of the ESCs.")
    stray_m: float = Field(
        default=0.03, gt=0, le=1, description="How near the motor wires pass a ground loop; our choice."
    )
    earth_field_t: float = Field(
        default=20e-6, gt=0, le=1e-4, description="Horizontal part of the earth's field, mid-latitude."
    )
    compass_limit_deg: float = Field(default=5, gt=0, le=45, description="Heading error that is still flown with.")
    fault_weights: dict[FaultKind, Annotated[float, Field(ge=0, le=100)]] = Field(
        default_factory=dict,
        description="How often a kind of fault happens beside the others, where it is not as common practice has it.",
    )
    guess_share_frac: float = Field(default=0.4, ge=0, le=1)
    tol_measured_frac: float = Field(default=0.05, ge=0, le=1)
    tol_sheet_frac: float = Field(default=0.20, ge=0, le=1)
    tol_reported_frac: float = Field(default=0.30, ge=0, le=1)
    tol_guess_frac: float = Field(default=0.50, ge=0, le=1)

    def band_frac(self, provenance: Provenance) -> float:
        """Half-width of the tolerance band of a number of this provenance [fraction]."""
        bands: dict[Provenance, float] = {
            "measured": self.tol_measured_frac,
            "sheet": self.tol_sheet_frac,
            "reported": self.tol_reported_frac,
            "guess": self.tol_guess_frac,
        }
        return bands[provenance]
