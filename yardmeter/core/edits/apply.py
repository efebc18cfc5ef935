"""Applying edits: each works on the plain document, the result is validated as a whole, nothing is changed in place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from yardmeter.core.edits.ids import fresh_id
from yardmeter.core.edits.removal import remove
from yardmeter.core.edits.values import set_draw, set_quantity, set_state, set_value
from yardmeter.core.errors import EditError, PlanError, QuantityError
from yardmeter.core.plan import Plan, Rail, load_plan
from yardmeter.core.plan.operations import Add, Duplicate, Edit, Move, Remove, SetDraw, SetQuantity, SetState, SetValue

Document = dict[str, Any]

COLLECTION = {
    "board": "boards",
    "rail": "rails",
    "supply": "supplies",
    "device": "devices",
    "inlet": "inlets",
    "condition": "conditions",
    "signal": "signals",
    "filter": "filters",
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
            current = load_plan(document)
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
        case SetValue():
            set_value(plan, document, edit)
        case SetState():
            set_state(plan, document, edit)
        case Add():
            _add(plan, document, edit)
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
    device = plan.device_of.get(edit.device)
    if device is None:
        raise EditError(
            f"“{edit.device}” is no device of this plan.", where=edit.device, remedy="Only devices move between rails."
        )
    rail = plan.rail_of.get(edit.rail)
    if rail is None:
        raise EditError(f"“{edit.rail}” is no rail of this plan.", where=edit.rail, remedy="Choose one of its rails.")
    if any(s.input == device.id and s.output == rail.id for s in plan.supplies):
        raise EditError(
            f"{device.name} feeds {rail.name} itself.",
            where=device.id,
            remedy="Choose a rail that does not hang on it.",
        )
    item = next(d for d in document["devices"] if d["id"] == device.id)
    old_board = plan.rail_of[device.feed.rail].board if device.feed else None
    feed = item["feed"] or {}
    item["feed"] = {**feed, "rail": rail.id, "pad": edit.pad}
    if edit.with_return:
        _follow(plan, item, old_board, rail)


def _follow(plan: Plan, item: dict[str, Any], old_board: str | None, rail: Rail) -> None:
    """The return that went to the old feed's board goes to the new one's; a device without any gets one."""
    ground = rail.board
    for wire in item["returns"]:
        if wire["to"] == old_board:
            wire["to"] = ground
            return
    if not item["returns"]:
        item["returns"].append({"id": fresh_id(plan, f"{item['id']}-gnd"), "to": ground})


def describe_edit(plan: Plan, edit: Edit) -> str:
    """One line for the history, in the words of the screen; `plan` is the one before the edit."""

    def title(element: str) -> str:
        return {"pack": "Pack", "policy": "Policy", "plan": "Plan"}.get(element) or (
            plan.elements[element].name if element in plan.elements else element
        )

    words: dict[type, Callable[[Any], str]] = {
        SetDraw: lambda e: f"{title(e.device)}: {e.state} draw {e.text.strip()}",
        SetQuantity: lambda e: f"{title(e.element)}: {e.field} {e.text.strip()}",
        SetValue: lambda e: f"{title(e.element)}: {e.field} {_short(e.value)}",
        SetState: lambda e: f"{title(e.condition)}: {title(e.device)} {e.state or 'as usual'}",
        Add: lambda e: f"Add {e.kind} {e.value.get('name') or e.value.get('label') or ''}".strip(),
        Remove: lambda e: f"Remove {title(e.element)}",
        Duplicate: lambda e: f"Duplicate {title(e.element)}",
        Move: lambda e: f"{title(e.device)} → {title(e.rail)}",
    }
    return words[type(edit)](edit)


def _short(value: object) -> str:
    text = str(value)
    return text if len(text) <= 40 else text[:37] + "…"
