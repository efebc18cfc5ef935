"""Conditions: energy source, pack state, air, throttle and device states."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from yardmeter.core.physics.pack import PackState
from yardmeter.core.plan.devices import DrawState
from yardmeter.core.plan.parts import Id, Model, Name
from yardmeter.core.plan.sources import Inlet


class Condition(Model):
    """One situation the whole plan is solved in. `energy` lists `pack` and inlet ids that are connected; cells of
    their own go with the pack."""

    id: Id
    name: Name
    energy: tuple[Id, ...] = ("pack",)
    pack_state: PackState = "nominal"
    cell_v: float | None = Field(default=None, gt=0, le=5, description="Rest voltage of a cell instead of the state's.")
    pack_v: float | None = Field(
        default=None, gt=0, le=80, description="Measured rest voltage of the pack instead of either."
    )
    air: Literal["still", "moving"] = "moving"
    throttle_frac: float = Field(default=0, ge=0, le=1)
    powered_up: bool | None = Field(
        default=None,
        description="Whether the craft is switched on in it, so that regulators must start; else they only must not stop. Left out, it is where the motors stand.",
    )
    default_state: DrawState = "typical"
    states: dict[Id, DrawState] = Field(default_factory=dict, description="Devices in another state than the default.")

    @property
    def on_pack(self) -> bool:
        return "pack" in self.energy

    def uses(self, inlet: Inlet) -> bool:
        """Whether it is connected: what is plugged in, and a cell of its own whenever the pack is."""
        return inlet.id in self.energy or (inlet.kind == "cell" and self.on_pack)

    @property
    def is_punch(self) -> bool:
        """High throttle is held for seconds only, so wires and connectors count with their short-time limit."""
        return self.throttle_frac >= PUNCH_THROTTLE_FRAC

    @property
    def starts(self) -> bool:
        """Whether regulators and devices must start in it."""
        return self.powered_up if self.powered_up is not None else self.throttle_frac == 0

    def state_of(self, device_id: str) -> DrawState:
        return self.states.get(device_id, self.default_state)


PUNCH_THROTTLE_FRAC = 0.8
HOVER_THROTTLE_FRAC = 0.35
"""Throttle of a hover; common practice, no source (a quad that hovers near a third has twice its weight in reserve)."""

STANDARD_CONDITIONS: tuple[Condition, ...] = (
    Condition(
        id="usb-bench", name="USB bench", energy=("usb",), pack_state="nominal", air="still", default_state="typical"
    ),
    Condition(id="pack-bench", name="Pack bench", pack_state="full", air="still", default_state="typical"),
    Condition(id="hover", name="Hover", air="moving", throttle_frac=HOVER_THROTTLE_FRAC),
    Condition(
        id="punch-fresh", name="Punch, fresh", pack_state="full", air="moving", throttle_frac=1,
        default_state="peak",
    ),
    Condition(
        id="punch-low", name="Punch, low", pack_state="low", air="moving", throttle_frac=1,
        default_state="peak",
    ),
    Condition(
        id="landing", name="Landing", pack_state="low", air="moving", throttle_frac=HOVER_THROTTLE_FRAC
    ),
)  # fmt: skip
"""The six that decide; a plan without a USB inlet does without the first."""

CRUISE_THROTTLE_FRAC, CLIMB_THROTTLE_FRAC = 0.45, 0.7
"""Throttle a wing holds its height with, and one it climbs with for minutes: unlike a punch it is held for as long as a wire takes
to warm; common practice, no source."""

WING_CONDITIONS: tuple[Condition, ...] = (
    *STANDARD_CONDITIONS[:2],
    Condition(id="hover", name="Cruise", air="moving", throttle_frac=CRUISE_THROTTLE_FRAC),
    Condition(id="climb", name="Climb", air="moving", throttle_frac=CLIMB_THROTTLE_FRAC),
    STANDARD_CONDITIONS[3].model_copy(update={"name": "Launch, fresh"}),
    STANDARD_CONDITIONS[4].model_copy(update={"name": "Full throttle, low"}),
    Condition(id="glide", name="Glide, servos working", pack_state="low", air="moving", powered_up=False, default_state="peak"),
)  # fmt: skip
"""Of a craft that flies on its wings: it cruises, climbs, and glides home with its motor still."""

UNFLOWN_CONDITIONS: tuple[Condition, ...] = (
    *STANDARD_CONDITIONS[:2],
    Condition(id="off", name="Plugged in, all off", pack_state="full", air="still", default_state="off"),
    Condition(id="on-full", name="On, full pack", pack_state="full", air="still", default_state="peak"),
    Condition(id="on-low", name="On, low pack", pack_state="low", air="still", default_state="peak"),
)
"""Of what has no motor, a lamp or a station on the ground: it is on or off, in still air."""
