"""How near to a reset the plug and a punch bring what hangs on a wiring: two short runs, and of them the device with the least room."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.errors import YardError
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Plan
from yardmeter.core.runs import run_scenario
from yardmeter.core.runs.shipped import scenarios_of
from yardmeter.core.solver.circuit import Floats

RUN: tuple[str, ...] = ("plug-in", "punch-on-low-pack")
FALLEN_FRAC = 0.01
"""A fall of less is ripple."""


@dataclass(frozen=True)
class Dip:
    """The least volts at a device's pins once it was up, and those it resets at [V]; `room_frac` is by how much they are more."""

    device: str
    scenario: str
    least_v: float
    reset_v: float

    @property
    def room_frac(self) -> float:
        return self.least_v / self.reset_v - 1


def least_since_up_v(volts: Floats, up_v: float) -> float:
    """The least of pin volts (t,) that come up to `up_v`: where they have fallen from what they had, or at the end. The rise is no dip."""
    since = volts[int((volts >= up_v).argmax()) :]
    fallen = since < (1 - FALLEN_FRAC) * np.maximum.accumulate(since)
    return float(min(since[fallen].min(initial=np.inf), since[-1]))


def deepest_dip(plan: Plan) -> Dip | None:
    """Of all devices but motors, in the runs of the plug and of a punch on a low pack. None where nothing comes up or nothing can be run."""
    found = []
    for scenario in scenarios_of(plan):
        if scenario.id not in RUN:
            continue
        go_on()
        try:
            run = run_scenario(plan, scenario)
        except YardError:
            continue
        on = run.timetable.condition
        for device in plan.devices:
            if device.throttle or on.state_of(device.id) == "off":
                continue
            volts = run.pin_v(device.id)
            # What never has the volts to run is told by itself; a dip is of what was up.
            if volts.size and float(volts.max()) > device.restarts_v:
                found.append(Dip(device.id, scenario.name, least_since_up_v(volts, device.restarts_v), device.reset_v))
    return min(found, key=lambda one: one.room_frac, default=None)
