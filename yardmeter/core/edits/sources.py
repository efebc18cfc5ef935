"""A source with the condition that uses it: a port is of use only where it is plugged in."""

from __future__ import annotations

from typing import Any

from yardmeter.core.errors import EditError
from yardmeter.core.plan import Condition, Inlet, Plan, fresh_id
from yardmeter.core.plan.operations import AddSource
from yardmeter.core.plan.sources import AddedKind

NAMES: dict[AddedKind, str] = {
    "usb": "USB port",
    "bench": "Bench supply",
    "lamp": "Test lamp",
    "fuse": "Current limiter",
}
LIMITS_A: dict[AddedKind, float] = {"usb": 0.5, "bench": 2.0, "lamp": 1.7, "fuse": 1.0}
"""USB 2.0 host port; a small bench supply; a 21 W 12 V lamp; a limiter for first power: common practice, no source."""
USB_V = 5.0


def add_source(plan: Plan, document: dict[str, Any], edit: AddSource) -> None:
    """Put the inlet and its condition into the plain document."""
    port = edit.kind in ("usb", "bench")
    rail = edit.rail if port else plan.pack.rail
    if rail is None or rail not in plan.rail_of:
        raise EditError("A port needs the rail it enters.", where="rail", remedy="Choose one of the plan's rails.")
    name = NAMES[edit.kind]
    key = fresh_id(plan, edit.kind)
    nominal_v = round(plan.pack.rest_v("nominal"), 1)
    volts = USB_V if edit.kind == "usb" else plan.rail_of[rail].nominal_v or nominal_v if port else nominal_v
    inlet = Inlet(id=key, name=name, kind=edit.kind, rail=rail, volts=volts, limit_a=LIMITS_A[edit.kind])
    document["inlets"].append(inlet.model_dump(mode="json"))
    title = f"{name} only" if port else f"First power, {name.lower()}"
    condition = Condition(
        id=fresh_id(plan, title, {key}),
        name=title,
        energy=(key,) if port else ("pack", key),
        pack_state="nominal" if port else "full",
        air="still",
        default_state="typical" if port else "idle",
    )
    document["conditions"].append(condition.model_dump(mode="json"))
