"""What feeds a rail from another rail or from a device's output."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from yardmeter.core.elements import regulator
from yardmeter.core.plan.parts import Id, Model, Name, Note, Provenance, Wire

LimitStyle = Literal["constant", "fold back", "hiccup", "latch"]
"""Past its limit: holds the current, lowers it with the volts, stops and tries again, or stops until power is cycled."""


class EfficiencyPoint(Model):
    """One point of a data sheet's efficiency curve."""

    amps: float = Field(gt=0, le=100)
    efficiency_frac: float = Field(gt=0, lt=1)
    at_v: float | None = Field(
        default=None,
        gt=0,
        le=100,
        description="Input volts it was measured at; twice the output where not said, half for a boost.",
    )


class SupplyBase(Model):
    """`input` is a rail, or a device that passes power on; `board` is whose ground the supply stands on."""

    id: Id
    name: Name
    input: Id
    output: Id
    board: Id
    feed: Wire | None = Field(default=None, description="Wire into the input; none on the board itself.")
    lead: Wire | None = Field(default=None, description="Wire from the output to the rail; none on the board itself.")
    weight_g: float = Field(default=0, ge=0, le=1000)
    note: Note = ""


class Regulator(SupplyBase):
    """Linear, buck, boost or buck-boost, on a board, in an ESC or standing alone."""

    kind: Literal["linear", "buck", "boost", "buckboost"]
    place: Literal["board", "esc", "alone", "device"] = "board"
    set_v: float = Field(gt=0.5, le=60)
    adjustable: bool | None = Field(
        default=None, description="Whether its volts can be set; where not said, those of stand-alone ones can."
    )
    set_tol_frac: float = Field(default=0.03, ge=0, le=0.2)
    rating_a: float = Field(gt=0, le=100, description="The printed rating.")
    derate_frac: float | None = Field(default=None, gt=0, le=1, description="Overrides the plan's policy.")
    current_limit_a: float | None = Field(default=None, gt=0, le=200)
    quiescent_a: float = Field(default=0.005, ge=0, le=1)
    dropout_v: float = Field(default=0.3, ge=0, le=5)
    dropout_ohm: float = Field(default=0.08, ge=0, le=5)
    output_ohm: float = Field(default=0.02, ge=0.001, le=2)
    duty_max_frac: float = Field(default=1.0, gt=0.5, le=1)
    gain_max: float = Field(default=8.0, gt=1, le=50, description="Largest output to input ratio of a boost.")
    start_v: float = Field(default=3.0, ge=0, le=60)
    stop_v: float = Field(default=2.8, ge=0, le=60)
    soft_start_s: float | None = Field(
        default=None, ge=0, le=1, description="Time its output takes to rise; by kind where left out."
    )
    limit_style: LimitStyle | None = Field(
        default=None, description="What it does past its current limit; by kind where left out."
    )
    retry_s: float = Field(default=0.1, gt=0, le=10, description="Pause between tries of one that hiccups.")
    input_max_v: float = Field(default=30, gt=0, le=100)
    efficiency: tuple[EfficiencyPoint, ...] = Field(default=(), max_length=2)
    theta_still_k_w: float = Field(default=60, gt=0, le=500)
    theta_moving_k_w: float = Field(default=25, gt=0, le=500)
    tau_s: float = Field(default=60, gt=0, le=3600)
    trip_c: float = Field(default=125, gt=40, le=200)
    fails: Literal["open", "short"] = "short"
    backfeeds: bool = Field(
        default=False, description="A body diode lets current flow from the output back to the input."
    )
    two_way: bool = Field(
        default=False,
        description="Holds its volts against current that comes in at its output: a switching one hands it to its input, a linear one burns it.",
    )
    noisy: bool = True
    switch_hz: float = Field(default=500e3, ge=10e3, le=1e7)
    ripple_v: float = Field(default=0.02, ge=0, le=2, description="Output ripple, peak to peak, at full load.")
    rejection_db: float = Field(default=45, ge=0, le=120, description="Line rejection at low frequency.")
    bandwidth_hz: float = Field(default=20e3, gt=0, le=1e7, description="Where rejection and stiffness begin to fall.")
    output_f: float = Field(default=22e-6, ge=0, le=0.1, description="Its output capacitors.")
    output_esr_ohm: float = Field(default=0.01, ge=0, le=10)
    provenance: Provenance = "sheet"

    @property
    def limit_a(self) -> float:
        """Current the regulator cuts off at [A]; 1.3 × print when not stated (common practice, no source)."""
        return self.current_limit_a if self.current_limit_a is not None else 1.3 * self.rating_a

    @property
    def can_be_set(self) -> bool:
        """Whether its volts can be set: stand-alone ones have a trimmer or a bridge, those on boards do not (common practice, no source)."""
        return self.adjustable if self.adjustable is not None else self.place == "alone"

    @property
    def switching(self) -> bool:
        return self.kind != "linear"

    @property
    def ceil_gain(self) -> float:
        """What its switch that is fully on makes of its input."""
        return regulator.ceil_gain(self.kind, self.duty_max_frac, self.gain_max)

    def ceiling_v(self, input_v: float, amps: float = 0.0) -> float:
        """The most it can hold at this input, giving so many amps [V]."""
        most_v = regulator.ceiling_v(input_v, self.ceil_gain, self.dropout_v, self.kind == "boost")
        return most_v - self.dropout_ohm * amps

    def most_a(self, output_v: float) -> float:
        """The most it gives at these output volts [A]."""
        return regulator.most_law(self.limit_a, self.limiting == "fold back", self.set_v, output_v)[0]

    def standing(self, runs: bool, amps: float, input_v: float, output_v: float) -> regulator.Standing:
        """What it does at a moment at which it gives so many amps."""
        return regulator.standing(
            runs, amps, self.most_a(output_v), self.set_v, output_v, self.ceiling_v(input_v, max(amps, 0.0))
        )

    @property
    def limiting(self) -> LimitStyle:
        """What it does past its limit: linear ones hold the current, switching ones hiccup (common practice, no source)."""
        return self.limit_style or ("hiccup" if self.switching else "constant")

    @property
    def rises_s(self) -> float:
        """Time its output takes to rise [s]: 1 ms of a switching one, 0.1 ms of a linear one (common practice, no source)."""
        return self.soft_start_s if self.soft_start_s is not None else 1e-3 if self.switching else 1e-4

    @model_validator(mode="after")
    def _thresholds_in_order(self) -> Regulator:
        if self.stop_v > self.start_v:
            raise ValueError(
                f"stop_v {self.stop_v} V is above start_v {self.start_v} V; the stop voltage is the lower one"
            )
        return self


class Diode(SupplyBase):
    """A diode, or an ideal-diode switch when its drop is only millivolts."""

    kind: Literal["diode"]
    drop_v: float = Field(default=0.4, ge=0, le=1.5)
    series_ohm: float = Field(default=0.05, ge=0.001, le=5)
    rating_a: float = Field(default=2, gt=0, le=200)


class Link(SupplyBase):
    """A plain wire, cable or pass-through output from one rail to another; current may flow either way."""

    kind: Literal["link"]
    series_ohm: float = Field(default=0.002, ge=0.0005, le=5)
    rating_a: float | None = Field(default=None, gt=0, le=1000)


class Strap(SupplyBase):
    """A strap-selected rail: `choices` can each be bridged to the output; `selected` are the ones that are."""

    kind: Literal["strap"]
    choices: tuple[Id, ...] = Field(min_length=2, max_length=4)
    selected: tuple[Id, ...] = ()
    series_ohm: float = Field(default=0.002, ge=0.0005, le=5)
    rating_a: float | None = Field(default=None, gt=0, le=1000)

    @model_validator(mode="after")
    def _selected_among_choices(self) -> Strap:
        strange = [one for one in self.selected if one not in self.choices]
        if strange:
            raise ValueError(f"selected {', '.join(strange)} is not among the strap's choices")
        if self.input not in self.choices:
            raise ValueError("input must be one of the strap's choices")
        return self


Supply = Annotated[Regulator | Diode | Link | Strap, Field(discriminator="kind")]
