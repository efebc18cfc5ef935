"""Removing an element with what cannot stand without it."""

from __future__ import annotations

from typing import Any

from yardmeter.core.errors import EditError
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Plan
from yardmeter.core.plan.document import COLLECTIONS

ACTED_ON = ("device", "inlet", "supply", "element")
"""Fields of a scenario's act that name an element."""


def dependants(plan: Plan, element: str) -> tuple[str, ...]:
    """Ids that go when `element` goes: a board's rails and supplies, a rail's supplies. Devices stay and lose their feed."""
    return graph_of(plan).dependants(element)


def remove(plan: Plan, document: dict[str, Any], element: str) -> None:
    """Take the element and its dependants out of the plain document; cut feeds, returns and states that named them."""
    if _remove_inner(document, element):
        return
    plan.element(element)
    gone = {element, *dependants(plan, element)}
    if plan.pack.rail in gone:
        raise EditError(
            f"{plan.title(element)} carries the rail the pack is soldered to.",
            where=element,
            remedy="Connect the pack to another rail first.",
        )
    if len(plan.conditions) == 1 and plan.conditions[0].id in gone:
        raise EditError("The last condition cannot be removed.", where=element, remedy="Add another one first.")
    for name in COLLECTIONS:
        document[name] = [item for item in document[name] if item["id"] not in gone]
    for device in document["devices"]:
        if device["feed"] and device["feed"]["rail"] in gone:
            device["feed"] = None
    for owner in (*document["boards"], *document["devices"]):
        owner["returns"] = [wire for wire in owner["returns"] if wire["to"] not in gone]
    left = {wire["id"] for owner in (*document["boards"], *document["devices"]) for wire in owner["returns"]}
    for signal in document["signals"]:
        if signal["ground"] not in left:
            signal["ground"] = None
    for condition in document["conditions"]:
        condition["energy"] = [one for one in condition["energy"] if one not in gone]
        condition["states"] = {name: state for name, state in condition["states"].items() if name not in gone}
    for scenario in document["scenarios"]:
        if scenario["begins"] in gone:
            scenario["begins"] = document["conditions"][0]["id"]
        scenario["acts"] = [act for act in scenario["acts"] if not gone & {act.get(key) for key in ACTED_ON}]
        for act in scenario["acts"]:
            if "selected" in act:
                act["selected"] = [one for one in act["selected"] if one not in gone]


def _remove_inner(document: dict[str, Any], element: str) -> bool:
    """Pads, pins and return wires live inside their owner."""
    places = (("rails", "pads"), ("boards", "pins"), ("devices", "pins"), ("boards", "returns"), ("devices", "returns"))
    for name, field in places:
        for item in document[name]:
            left = [inner for inner in item[field] if inner["id"] != element]
            if len(left) != len(item[field]):
                item[field] = left
                _forget_inner(document, element, item["id"])
                return True
    return False


def _forget_inner(document: dict[str, Any], element: str, owner: str) -> None:
    """Nothing names the pad, pin or return any more; a signal that ended at a pin ends at its owner."""
    for device in document["devices"]:
        for key in ("pad", "pin"):
            if device["feed"] and device["feed"][key] == element:
                device["feed"][key] = None
    for one in (*document["boards"], *document["devices"]):
        for wire in one["returns"]:
            if wire["pin"] == element:
                wire["pin"] = None
    for signal in document["signals"]:
        for key, instead in (("source", owner), ("sink", owner), ("ground", None)):
            if signal[key] == element:
                signal[key] = instead
