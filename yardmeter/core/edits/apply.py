"""Applying edits: each works on the plain document, the result is validated as a whole, nothing is changed in place."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from yardmeter.core.edits.removal import remove
from yardmeter.core.edits.renaming import rename_after_volts
from yardmeter.core.edits.sources import add_source
from yardmeter.core.edits.touched import edited_plan
from yardmeter.core.edits.values import choose_way, set_draw, set_quantity, set_state, set_value
from yardmeter.core.errors import EditError, PlanError, QuantityError
from yardmeter.core.plan import Plan, fed_from
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.operations import (
    Add,
    AddSource,
    ChooseWay,
    Duplicate,
    Edit,
    Move,
    Remove,
    SetDraw,
    SetQuantity,
    SetState,
    SetValue,
)

Document = dict[str, Any]

COLLECTION = {
    "board": "boards",
    "rail": "rails",
    "supply": "supplies",
    "device": "devices",
    "inlet": "inlets",
    "condition": "conditions",
    "scenario": "scenarios",
    "signal": "signals",
    "filter": "filters",
    "clamp": "clamps",
    "noise": "noises",
}
INNER: dict[str, tuple[tuple[str, ...], str]] = {
    "return": (("boards", "devices"), "returns"),
    "pin": (("boards", "devices"), "pins"),
    "pad": (("rails",), "pads"),
}
"""What lives inside another element: the collections of its owner, and the field it stands in."""


def apply_edits(plan: Plan, edits: Sequence[Edit]) -> Plan:
    """The plan after all edits in order. Raises EditError or PlanError, naming the edit that failed; `plan` stays as it is."""
    current = plan
    for position, edit in enumerate(edits):
        document = current.model_dump(mode="json")
        try:
            _apply_one(current, document, edit)
            current = edited_plan(current, document, edit)
        except (PlanError, QuantityError) as error:
            raise EditError(
                error.what, where=error.where or _where(current, edit, position), remedy=error.remedy
            ) from None
    return current


def _where(plan: Plan, edit: Edit, position: int) -> str:
    """The field an edit speaks of, for its error."""
    match edit:
        case SetDraw():
            return f"{plan.title(edit.device)}, {edit.state} draw"
        case SetQuantity() | SetValue():
            return f"{edit.element}, {edit.field}"
        case _:
            return f"edit {position + 1}"


def _apply_one(plan: Plan, document: Document, edit: Edit) -> None:
    match edit:
        case SetDraw():
            set_draw(plan, document, edit)
        case SetQuantity():
            set_quantity(plan, document, edit)
            rename_after_volts(plan, document, edit)
        case SetValue():
            set_value(plan, document, edit)
            rename_after_volts(plan, document, edit)
        case ChooseWay():
            choose_way(plan, document, edit)
        case SetState():
            set_state(plan, document, edit)
        case Add():
            _add(plan, document, edit)
        case AddSource():
            add_source(plan, document, edit)
        case Remove():
            remove(plan, document, edit.element)
        case Duplicate():
            _duplicate(plan, document, edit)
        case Move():
            _move(plan, document, edit)


def _add(plan: Plan, document: Document, edit: Add) -> None:
    value: dict[str, Any] = dict(edit.value)
    value.setdefault("id", fresh_id(plan, str(value.get("name") or value.get("label") or edit.kind)))
    if edit.kind in COLLECTION:
        document[COLLECTION[edit.kind]].append(value)
        return
    if edit.owner is None:
        raise EditError(f"A new {edit.kind} needs the element it belongs to.", remedy="Name its owner.")
    plan.element(edit.owner)
    if edit.kind == "return":  # a wire has no name of its own; what came with it only made its id
        value.pop("label", None)
    collections, field = INNER[edit.kind]
    for name in collections:
        for item in document[name]:
            if item["id"] == edit.owner:
                item[field].append(value)
                return
    raise EditError(
        f"{plan.title(edit.owner)} cannot have a {edit.kind}.", where=edit.owner, remedy="Choose another owner."
    )


def _duplicate(plan: Plan, document: Document, edit: Duplicate) -> None:
    source = plan.element(edit.element)
    for name in COLLECTION.values():
        for item in document[name]:
            if item["id"] == edit.element:
                copy = source.model_dump(mode="json")
                copy["name"] = edit.name or f"{source.name} copy"
                taken: set[str] = set()
                copy["id"] = fresh_id(plan, copy["name"], taken)
                taken.add(copy["id"])
                renamed: dict[str, str] = {}
                for inner in (*copy.get("returns", ()), *copy.get("pads", ()), *copy.get("pins", ())):
                    renamed[inner["id"]] = fresh_id(plan, inner["id"], taken)
                    inner["id"] = renamed[inner["id"]]
                    taken.add(inner["id"])
                for landing in (*copy.get("returns", ()), copy.get("feed") or {}):
                    if landing.get("pin"):
                        landing["pin"] = renamed[landing["pin"]]
                document[name].append(copy)
                return


def _move(plan: Plan, document: Document, edit: Move) -> None:
    moved = fed_from(plan, edit.device, edit.rail, edit.pad, with_return=edit.with_return)
    item = next(d for d in document["devices"] if d["id"] == edit.device)
    item |= moved.device_of[edit.device].model_dump(mode="json")
    ground = {one.id: one.ground for one in moved.signals}
    for signal in document["signals"]:
        signal["ground"] = ground[signal["id"]]
