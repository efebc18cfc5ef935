"""Edits in words: one line for the history."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from yardmeter.core.edits.sources import NAMES
from yardmeter.core.plan import Plan
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
from yardmeter.words.fields import field_words, value_words


def describe_edit(plan: Plan, edit: Edit) -> str:
    """One line for the history, in the words of the screen; `plan` is the one before the edit."""

    def title(element: str) -> str:
        return {"pack": "Pack", "policy": "Policy", "plan": "Plan"}.get(element) or (
            plan.elements[element].name if element in plan.elements else element
        )

    words: dict[type, Callable[[Any], str]] = {
        SetDraw: lambda e: f"{title(e.device)}: {e.state} draw {e.text.strip()}",
        SetQuantity: lambda e: f"{title(e.element)}: {field_words(e.field)} {e.text.strip()}",
        SetValue: lambda e: f"{title(e.element)}: {field_words(e.field)} {_short(value_words(plan, e.field, e.value))}",
        SetState: lambda e: f"{title(e.condition)}: {title(e.device)} {e.state or 'as usual'}",
        Add: lambda e: f"Add {e.kind} {e.value.get('name') or e.value.get('label') or ''}".strip(),
        AddSource: lambda e: f"Add {NAMES[e.kind].lower()}",
        Remove: lambda e: f"Remove {title(e.element)}",
        Duplicate: lambda e: f"Duplicate {title(e.element)}",
        ChooseWay: lambda e: f"{title(e.device)}: powered by {e.way}",
        Move: lambda e: f"{title(e.device)} → {title(e.rail)}",
    }
    return words[type(edit)](edit)


def _short(text: str) -> str:
    return text if len(text) <= 40 else text[:37] + "…"
