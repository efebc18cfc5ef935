"""What a rule saw: code, severity, conditions, elements, numbers, cause, remedy, fixes."""

from __future__ import annotations

from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan.operations import Edit
from yardmeter.core.units import format_si

Severity = Literal["danger", "fault", "caution", "note"]
SEVERITY_ORDER: dict[Severity, int] = {"danger": 0, "fault": 1, "caution": 2, "note": 3}


class Number(Answer):
    """One side of a comparison, in SI units, with its text as on the bench."""

    label: str
    value: float
    unit: str
    text: str


def number(label: str, value: float, unit: str) -> Number:
    return Number(label=label, value=value, unit=unit, text=format_si(value, unit))


class Fix(Answer):
    """A remedy as edit operations that can be previewed and applied."""

    title: str
    edits: tuple[Edit, ...]


class Finding(Answer):
    """A finding over all conditions it holds in; its numbers are those of the worst one."""

    code: str
    severity: Severity
    conditions: tuple[str, ...]
    worst: str | None
    elements: tuple[str, ...]
    title: str
    cause: str
    remedy: str
    numbers: tuple[Number, ...]
    fixes: tuple[Fix, ...] = ()
    by_condition: dict[str, Severity] = {}
    """Where it weighs less in some of its conditions than in the worst."""

    @property
    def key(self) -> str:
        """Identity across edits: the rule and the elements it speaks of."""
        return f"{self.code}:{','.join(self.elements)}"
