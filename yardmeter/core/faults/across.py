"""Ohms from a rail or a device to the ground beside it, as a part a plan can have."""

from __future__ import annotations

from collections.abc import Callable

from yardmeter.core.errors import EditError
from yardmeter.core.faults.model import Fault
from yardmeter.core.plan import Device, Plan, Rail
from yardmeter.core.plan.operations import Add, Edit

JOINED = {"joined": True}


def across(ohm: float) -> Callable[[Plan, Fault], list[Edit]]:
    def edits(plan: Plan, fault: Fault) -> list[Edit]:
        return [_resistor(plan, fault.elements, ohm)]

    return edits


def _resistor(plan: Plan, elements: tuple[str, ...], ohm: float) -> Add:
    """So many ohms from a rail, or from where a device is fed, to the ground beside it."""
    at = plan.elements[elements[-1] if elements[-1] in plan.rail_of or elements[-1] in plan.device_of else elements[0]]
    rail = at if isinstance(at, Rail) else plan.rail_of[at.feed.rail] if isinstance(at, Device) and at.feed else None
    if rail is None:
        raise EditError("It is fed from nothing.", where=elements[0], remedy="Feed it first.")
    ground = at.id if isinstance(at, Device) else plan.ground_of(rail.id)
    volts = rail.nominal_v or plan.pack.rest_v("nominal")
    draw = {"value": volts**2 / ohm, "unit": "W", "at_v": volts}
    value = {
        "id": "fault-short",
        "name": "Short",
        "law": "resistance",
        "nominal_v": volts,
        "min_v": 0.01,
        "max_v": 100,
        "draws": {"idle": draw, "typical": draw, "peak": draw},
        "feed": {"rail": rail.id, "wire": JOINED},
        "returns": [{"id": "fault-short-gnd", "to": ground, "wire": JOINED}],
    }
    return Add(kind="device", value=value)
