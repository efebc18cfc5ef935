"""Edits of single values: fields, typed quantities, draws, device states."""

from __future__ import annotations

from typing import Any

from yardmeter.core.errors import EditError
from yardmeter.core.plan import Plan
from yardmeter.core.plan.document import COLLECTIONS
from yardmeter.core.plan.operations import ChooseWay, SetDraw, SetQuantity, SetState, SetValue
from yardmeter.core.units import parse_draw, parse_quantity

UNIT_OF_SUFFIX = {"_v": "V", "_a": "A", "_ohm": "Ω", "_m": "m", "_f": "F", "_s": "s", "_g": "g", "_w": "W"}
"""How a field's name tells its unit."""


def find(plan: Plan, document: dict[str, Any], element: str) -> dict[str, Any]:
    """The plain data of an element; `pack`, `policy` and `plan` name the parts that have no id of their own."""
    if element == "plan":
        return document
    if element in ("pack", "policy"):
        part: dict[str, Any] = document[element]
        return part
    if element not in set(plan.inner_ids()):
        plan.element(element)
    for name in COLLECTIONS:
        for item in document[name]:
            for candidate in (item, *item.get("pads", ()), *item.get("pins", ()), *item.get("returns", ())):
                if candidate["id"] == element:
                    found: dict[str, Any] = candidate
                    return found
    raise EditError(f"“{element}” was not found.", where=element, remedy="Reload the plan.")


def set_value(plan: Plan, document: dict[str, Any], edit: SetValue) -> None:
    """Set the field at a dotted path; list positions are numbers. Ids stay as they are."""
    *path, last = edit.field.split(".")
    if last == "id" or (edit.element == "plan" and edit.field in ("format", "version")):
        raise EditError(
            f"{edit.field} cannot be changed.", where=edit.element, remedy="Duplicate the element to get another id."
        )
    target: Any = find(plan, document, edit.element)
    for step in path:
        target = _step(target, step, edit)
        if target is None:
            raise EditError(
                f"{edit.field} leads nowhere: {step} is empty.", where=edit.element, remedy="Set the whole of it first."
            )
    if isinstance(target, list):
        target[_position(target, last, edit)] = edit.value
    elif isinstance(target, dict) and (last in target or path):
        target[last] = edit.value
        if not path and last in WAY_FIELDS and target.get("way"):
            _keep_way(target, last)
    else:
        raise EditError(
            f"{edit.element} has no field {edit.field}.", where=edit.element, remedy="Check the field's name."
        )


WAY_FIELDS = {"nominal_v", "min_v", "max_v", "brownout_v"}
"""What a device has of the way it is powered by."""


def _keep_way(device: dict[str, Any], field: str) -> None:
    """The way in use is as the device is: a window that is changed is that of the way."""
    for way in device.get("ways") or ():
        if way["name"] == device["way"]:
            way[field] = device[field]


def _step(target: Any, step: str, edit: SetValue) -> Any:
    if isinstance(target, list):
        return target[_position(target, step, edit)]
    if isinstance(target, dict) and step in target:
        return target[step]
    raise EditError(f"{edit.element} has no field {edit.field}.", where=edit.element, remedy="Check the field's name.")


def _position(target: list[Any], step: str, edit: SetValue) -> int:
    if not step.isdigit() or int(step) >= len(target):
        raise EditError(f"{edit.field}: there is no entry {step}.", where=edit.element, remedy=f"It has {len(target)}.")
    return int(step)


def set_quantity(plan: Plan, document: dict[str, Any], edit: SetQuantity) -> None:
    """Read the text in the unit the field's name tells, then set the field."""
    suffix = "_" + edit.field.rsplit("_", 1)[-1]
    unit = UNIT_OF_SUFFIX.get(suffix)
    if unit is None:
        raise EditError(
            f"{edit.field} is not a quantity with a unit.", where=edit.element, remedy="Set its plain value."
        )
    value = parse_quantity(edit.text, unit)
    set_value(plan, document, SetValue(element=edit.element, field=edit.field, value=value))


def set_draw(plan: Plan, document: dict[str, Any], edit: SetDraw) -> None:
    """A typed draw keeps the state's provenance unless a new one is given."""
    if edit.device not in plan.device_of:
        raise EditError(f"“{edit.device}” is no device of this plan.", where=edit.device, remedy="Select a device.")
    typed = parse_draw(edit.text)
    item = find(plan, document, edit.device)
    old = item["draws"].get(edit.state) or {"provenance": "sheet", "tol_frac": None}
    new = {
        "value": typed.value,
        "unit": typed.unit,
        "at_v": typed.at_v,
        "provenance": edit.provenance or old["provenance"],
    }
    item["draws"][edit.state] = {**new, "tol_frac": old["tol_frac"] if edit.provenance is None else None}


def choose_way(plan: Plan, document: dict[str, Any], edit: ChooseWay) -> None:
    """The window of the chosen way in place of the device's own."""
    device = plan.device_of.get(edit.device)
    way = next((one for one in device.ways if one.name == edit.way), None) if device else None
    if device is None or way is None:
        has = ", ".join(one.name for one in device.ways) if device else ""
        raise EditError(
            f"“{edit.way}” is no way to power {device.name if device else edit.device}.",
            where=edit.device,
            remedy=f"It has: {has}." if has else "It has one way in only.",
        )
    item = find(plan, document, edit.device)
    item |= device.by(way).model_dump(mode="json")


def set_state(plan: Plan, document: dict[str, Any], edit: SetState) -> None:
    condition = plan.condition(edit.condition)
    item = next(c for c in document["conditions"] if c["id"] == condition.id)
    if edit.device not in plan.device_of:
        raise EditError(f"“{edit.device}” is no device of this plan.", where=edit.device, remedy="Select a device.")
    item["states"].pop(edit.device, None)
    if edit.state is not None:
        item["states"][edit.device] = edit.state
