"""Consumers and how they are fed."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from yardmeter.core.elements.load import InWindow, in_window
from yardmeter.core.plan.parts import Id, Model, Name, Note, Provenance, Return, Wire
from yardmeter.core.plan.pins import Pin
from yardmeter.core.plan.text import CLEAN

LoadLaw = Literal["current", "power", "resistance", "led"]
DeviceKind = Literal[
    "camera", "sender", "digital", "receiver", "gnss", "led", "servo", "recorder", "computer", "sensor", "motor", "logic", "other"
]  # fmt: skip
VIDEO_KINDS: tuple[DeviceKind, ...] = ("camera", "sender", "digital")
"""Devices a picture comes from or goes through."""
DrawState = Literal["off", "boot", "idle", "typical", "peak"]
HOLD_S: dict[DeviceKind, float] = {"receiver": 100e-6, "logic": 50e-6, "computer": 500e-6, "motor": 0.1}
OTHER_HOLD_S = 200e-6
"""How long a device lives under its brown-out volts [s]; common practice, no source."""
BOOT_S: dict[DeviceKind, float] = {"receiver": 0.5, "camera": 1.0, "digital": 8.0, "computer": 20.0, "logic": 1.5, "led": 0.0, "motor": 0.0}  # fmt: skip
OTHER_BOOT_S = 1.0
"""Time from power to work [s]; common practice, no source."""


class Draw(Model):
    """Amps or watts in one state; `at_v` is the voltage it was quoted at (the device's nominal when left out)."""

    value: float = Field(ge=0, le=10_000)
    unit: Literal["A", "W"] = "A"
    at_v: float | None = Field(default=None, gt=0, le=100)
    provenance: Provenance = "sheet"
    tol_frac: float | None = Field(default=None, ge=0, le=2, description="Overrides the band of the provenance.")

    def amps_at(self, volts: float) -> float:
        """Current at the quoted voltage [A], `volts` [V] standing in where none was quoted."""
        return self.value if self.unit == "A" else self.value / (self.at_v or volts)

    def watts_at(self, volts: float) -> float:
        """Power at the quoted voltage [W]."""
        return self.value if self.unit == "W" else self.value * (self.at_v or volts)


class BurstDraw(Model):
    """A pulsed draw: the peak state is reached for `duty_frac` of each period, the idle state holds in between."""

    duty_frac: float = Field(gt=0, le=1)
    period_s: float = Field(default=0.02, gt=0, le=3600)


class Draws(Model):
    """Draw in each state a condition can ask for."""

    idle: Draw
    typical: Draw
    peak: Draw
    boot: Draw | None = Field(default=None, description="While it starts; as typical where left out.")
    off: Draw | None = Field(
        default=None,
        description="Switched off by its own switch, still on its feed: charging, standing by; nothing where left out.",
    )


class LedString(Model):
    """`strings` parallel strings of `series` LEDs, each with its own resistor."""

    forward_v: float = Field(gt=0.5, le=6)
    series: int = Field(default=1, ge=1, le=20)
    strings: int = Field(default=1, ge=1, le=200)
    resistor_ohm: float = Field(gt=0, le=1e6)
    max_a: float = Field(
        default=0.03, gt=0, le=10, description="What a LED stands for long: 30 mA for small ones, from memory."
    )


class ThrottlePoint(Model):
    """One point of a motor group's current over throttle."""

    throttle_frac: float = Field(ge=0, le=1)
    amps: float = Field(ge=0, le=1000)


class Motors(Model):
    """What a motor group's noise depends on."""

    count: int = Field(default=4, ge=1, le=16)
    kv_rpm_v: float = Field(default=1000, gt=0, le=50_000)
    pole_pairs: int = Field(default=7, ge=1, le=40)
    loaded_frac: float = Field(default=0.75, gt=0, le=1, description="Speed under a propeller over the unloaded one.")
    commutation_frac: float = Field(
        default=0.05, ge=0, le=1, description="Current that pulses with commutation; our estimate."
    )


class Feed(Model):
    """The positive wire from a rail (and pad, when known) to a device."""

    rail: Id
    pad: Id | None = None
    pin: Id | None = Field(default=None, description="Pin of the device it lands on, where that is known.")
    wire: Wire = Wire()


class WayIn(Model):
    """One of several ways to power a device, of which one is used at a time: a plug, pins, a battery's place."""

    name: Name
    nominal_v: float = Field(gt=0, le=100)
    min_v: float = Field(gt=0, le=100)
    max_v: float = Field(gt=0, le=100)
    brownout_v: float | None = Field(default=None, gt=0, le=100)

    @model_validator(mode="after")
    def _window(self) -> WayIn:
        if not self.min_v <= self.nominal_v <= self.max_v:
            raise ValueError(f"{self.name}: {self.nominal_v} V is not between {self.min_v} V and {self.max_v} V")
        return self


class Compass(Model):
    """A compass and what bends it: its distance from the nearest high-current pair and that pair's spacing."""

    distance_m: float = Field(gt=0, le=2)
    spacing_m: float = Field(default=0.006, gt=0, le=0.5, description="Centre to centre of the pair's two wires.")
    share_frac: float = Field(default=1.0, gt=0, le=1, description="Share of the pack's current in that pair.")


class Device(Model):
    """A consumer. Its window `min_v`…`max_v` is what the maker allows at its pins."""

    id: Id
    name: Name
    kind: DeviceKind = "other"
    law: LoadLaw = "current"
    nominal_v: float = Field(gt=0, le=100)
    min_v: float = Field(gt=0, le=100)
    max_v: float = Field(gt=0, le=100)
    brownout_v: float | None = Field(default=None, gt=0, le=100)
    restart_v: float | None = Field(default=None, gt=0, le=100)
    hold_s: float | None = Field(
        default=None, ge=0, le=1, description="How long it lives under its brown-out volts; by kind where left out."
    )
    boot_s: float | None = Field(
        default=None, ge=0, le=120, description="Time from power to work; by kind where left out."
    )
    draws: Draws
    demand_a: float | None = Field(
        default=None, gt=0, le=100, description="What its maker asks the supply to be able to give; not a draw."
    )
    burst: BurstDraw | None = None
    led: LedString | None = None
    throttle: tuple[ThrottlePoint, ...] = ()
    input_f: float = Field(default=0, ge=0, le=1, description="Capacitance at its input [F].")
    keeps_control: bool = Field(default=False, description="The craft falls when this device loses power.")
    weight_g: float = Field(default=0, ge=0, le=10_000)
    part: str = Field(default="", max_length=64, pattern=CLEAN, description="The shelf part it was taken from.")
    ways: tuple[WayIn, ...] = Field(default=(), max_length=8, description="Ways to power it, one at a time.")
    way: Name | None = Field(default=None, description="The way in use; its volts are the device's.")
    feed: Feed | None = None
    returns: tuple[Return, ...] = ()
    pins: tuple[Pin, ...] = Field(default=(), max_length=60)
    compass: Compass | None = None
    motors: Motors | None = None
    ripple_max_v: float | None = Field(
        default=None, gt=0, le=10, description="Ripple it stands at its pins, peak to peak."
    )
    rejection_db: float = Field(
        default=20, ge=0, le=120, description="From ripple at its pins to its picture; our choice where unknown."
    )
    fitting: Note = Field(default="", description="How it sits: clearance of propellers, where its leads leave.")
    note: Note = ""

    @property
    def reset_v(self) -> float:
        """Voltage below which the device resets [V]: its brown-out voltage, else the bottom of its window."""
        return self.brownout_v if self.brownout_v is not None else self.min_v

    @property
    def restarts_v(self) -> float:
        """Voltage above which it starts again [V]: as stated, else a twentieth above its reset (common practice, no source)."""
        if self.restart_v is not None:
            return self.restart_v
        # One whose nominal volts are hardly above its reset starts below them all the same.
        between_v = (self.reset_v + self.nominal_v) / 2
        return min(1.05 * self.reset_v, between_v) if self.nominal_v > self.reset_v else 1.05 * self.reset_v

    @property
    def holds_s(self) -> float:
        """How long it lives under its brown-out volts [s]."""
        return self.hold_s if self.hold_s is not None else HOLD_S.get(self.kind, OTHER_HOLD_S)

    @property
    def boots_s(self) -> float:
        """Time from power to work [s]."""
        return self.boot_s if self.boot_s is not None else BOOT_S.get(self.kind, OTHER_BOOT_S)

    def by(self, way: WayIn) -> Device:
        """The device powered that way: the window of those pins is its own."""
        update = {"way": way.name, **way.model_dump(exclude={"name"})}
        return self.model_copy(update={**update, "restart_v": None})

    def at_volts(self, pin_v: float) -> InWindow:
        """What volts at its pins mean for it, switched on."""
        return in_window(pin_v, self.reset_v, self.min_v, self.max_v)

    def lives_between(self, low_v: float, high_v: float, margin_frac: float = 0.0) -> bool:
        """Whether it can run at all volts of a range, so far inside its own window."""
        return self.min_v * (1 + margin_frac) <= low_v and high_v <= self.max_v * (1 - margin_frac)

    @model_validator(mode="after")
    def _consistent(self) -> Device:
        if self.min_v >= self.max_v:
            raise ValueError(f"the window {self.min_v} V to {self.max_v} V is empty: min_v must be below max_v")
        if self.law == "led" and self.led is None:
            raise ValueError("the LED law needs the LED string (forward voltage, count, resistor)")
        names = [one.name for one in self.ways]
        if len(set(names)) < len(names):
            raise ValueError("two ways to power it have one name; name each as its own")
        if self.way is not None and self.way not in names:
            raise ValueError(f"way “{self.way}” is none of its ways: {', '.join(names) or 'it has none'}")
        if self.kind == "motor" and not self.throttle:
            raise ValueError("a motor group needs its current over throttle")
        if self.throttle and self.law != "current":
            raise ValueError("its amps go by the throttle, so it draws as current, not as watts or ohms")
        if self.brownout_v and self.restart_v and self.restart_v < self.brownout_v:
            raise ValueError("restart_v is below brownout_v; a device restarts above the voltage it resets at")
        return self
