"""Twins of a plan, many of them and quickly: the one element an edit is about is made anew, the rest is the plan's own."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import ValidationError

from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.plan import Device, Plan
from yardmeter.core.plan.document import COLLECTIONS
from yardmeter.core.plan.operations import Add, Edit, SetValue


def twin(plan: Plan, edits: Sequence[Edit]) -> Plan:
    """The plan after these edits, as `apply_edits` makes it but for the names that follow volts. Raises EditError, PlanError."""
    try:
        return _made(plan, edits)
    except ValidationError as error:
        raise EditError(f"No plan can have it: {error.errors()[0]['msg']}.", where=error.title) from None


def _made(plan: Plan, edits: Sequence[Edit]) -> Plan:
    for edit in edits:
        if isinstance(edit, SetValue):
            plan = _set(plan, edit) or apply_edits(plan, [edit])
        elif isinstance(edit, Add) and edit.kind == "device":
            plan = plan.model_copy(update={"devices": (*plan.devices, Device.model_validate(edit.value))})
        else:
            plan = apply_edits(plan, [edit])
    return plan


def _set(plan: Plan, edit: SetValue) -> Plan | None:
    """One value set; None where it stands in something this does not know."""
    if edit.element == "pack":
        return plan.model_copy(update={"pack": _with(plan.pack, "", edit)})
    holder = plan.return_of[edit.element][0] if edit.element in plan.return_of else edit.element
    for name in COLLECTIONS:
        found = getattr(plan, name)
        for k, one in enumerate(found):
            if one.id == holder:
                inner = edit.element if holder != edit.element else ""
                return plan.model_copy(update={name: (*found[:k], _with(one, inner, edit), *found[k + 1 :])})
    return None


def _with(model: Any, inner: str, edit: SetValue) -> Any:
    document = model.model_dump()
    target: Any = next(one for one in document["returns"] if one["id"] == inner) if inner else document
    *path, last = edit.field.split(".")
    for step in path:
        target = target[step]
    target[last] = edit.value
    return type(model).model_validate(document)
