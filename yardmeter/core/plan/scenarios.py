"""Scenarios: timed acts on a plan's own elements, from a rest or from a condition."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from yardmeter.core.physics.pack import PackState
from yardmeter.core.plan.devices import DrawState
from yardmeter.core.plan.parts import Id, Model, Name, Note

LONGEST_S = 86_400.0
AtS = Annotated[float, Field(ge=0, le=LONGEST_S, description="Time of the act [s], from the scenario's beginning.")]
OverS = Annotated[float, Field(ge=0, le=LONGEST_S, description="Time it takes, in a straight line [s].")]


class PlugPack(Model):
    """The pack goes in: at once, through a resistor for its first moment (anti-spark), or with a plug that bounces."""

    act: Literal["plug"] = "plug"
    at_s: AtS
    anti_spark_ohm: float | None = Field(
        default=None, ge=0, le=1000, description="Left out, what the pack's own plug has; 0 for none."
    )
    anti_spark_s: float = Field(default=0.005, ge=0, le=10, description="How long the resistor stands in the contact.")
    bounces: int = Field(default=0, ge=0, le=20)
    bounce_s: float = Field(default=0.002, gt=0, le=1, description="Each time the contact is open, and closed again.")


class UnplugPack(Model):
    act: Literal["unplug"] = "unplug"
    at_s: AtS


class ConnectInlet(Model):
    """A USB cable or bench supply goes in."""

    act: Literal["connect"] = "connect"
    at_s: AtS
    inlet: Id


class DisconnectInlet(Model):
    act: Literal["disconnect"] = "disconnect"
    at_s: AtS
    inlet: Id


class Throttle(Model):
    """Every motor group goes to this throttle; its current follows with the motors' own time."""

    act: Literal["throttle"] = "throttle"
    at_s: AtS
    to_frac: float = Field(ge=0, le=1)
    over_s: OverS = 0.0


class Brake(Model):
    """Active braking: motors give current back to their rail for a while."""

    act: Literal["brake"] = "brake"
    at_s: AtS
    share_frac: float = Field(default=0.25, gt=0, le=1, description="Of the current at full throttle; our estimate.")
    for_s: float = Field(default=0.15, gt=0, le=60)


class TurnDevice(Model):
    """A device goes to another state: off, booting, idle, typical, peak (a servo that stalls draws its peak)."""

    act: Literal["state"] = "state"
    at_s: AtS
    device: Id
    state: DrawState


class StepOfCurrent(Model):
    """A device draws so many amps (at its nominal volts, where it is a resistance; watts where it holds its power) while it runs."""

    act: Literal["draw"] = "draw"
    at_s: AtS
    device: Id
    value: float = Field(ge=0, le=10_000)
    over_s: OverS = 0.0


class SwitchStrap(Model):
    """A strap is bridged otherwise."""

    act: Literal["strap"] = "strap"
    at_s: AtS
    supply: Id
    selected: tuple[Id, ...] = Field(max_length=4)


class PartFails(Model):
    """A regulator fails open or through, a device shorts, a wire into a device breaks."""

    act: Literal["fail"] = "fail"
    at_s: AtS
    element: Id
    how: Literal["open", "short"] = "open"


ScenarioAct = Annotated[
    PlugPack | UnplugPack | ConnectInlet | DisconnectInlet | Throttle | Brake | TurnDevice | StepOfCurrent | SwitchStrap | PartFails,
    Field(discriminator="act"),
]  # fmt: skip


class Scenario(Model):
    """A timetable. It begins with nothing plugged, or at the operating point of a condition."""

    id: Id
    name: Name
    begins: Id | None = Field(
        default=None, description="The condition it begins in; nothing is plugged where left out."
    )
    duration_s: float = Field(gt=0, le=LONGEST_S)
    pack_state: PackState | None = Field(
        default=None,
        description="Charge of the pack; left out, that of the condition, or full where it begins with nothing.",
    )
    cell_v: float | None = Field(default=None, gt=0, le=5, description="Rest voltage of a cell instead.")
    air: Literal["still", "moving"] | None = Field(
        default=None, description="As in the condition, or still, where left out."
    )
    runs_at: DrawState = Field(
        default="typical", description="What devices draw once they run, where it begins with nothing."
    )
    acts: tuple[ScenarioAct, ...] = Field(default=(), max_length=400)
    note: Note = ""

    @model_validator(mode="after")
    def _within(self) -> Scenario:
        for index, one in enumerate(self.acts):
            if one.at_s > self.duration_s:
                raise ValueError(
                    f"act {index + 1} ({one.act}) is at {one.at_s:g} s, after the scenario's end at {self.duration_s:g} s"
                )
        return self


def named_by(act: ScenarioAct) -> tuple[tuple[Literal["device", "inlet", "strap", "element"], str], ...]:
    """The elements an act names, each with what it has to be."""
    match act:
        case TurnDevice() | StepOfCurrent():
            return (("device", act.device),)
        case ConnectInlet() | DisconnectInlet():
            return (("inlet", act.inlet),)
        case SwitchStrap():
            return (("strap", act.supply),)
        case PartFails():
            return (("element", act.element),)
        case _:
            return ()
