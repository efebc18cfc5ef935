"""What a rule saw: code, severity, conditions, elements, numbers, cause, remedy, fixes."""

from __future__ import annotations

from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan.operations import Edit
from yardmeter.core.units import format_si

Severity = Literal["danger", "fault", "caution", "note"]
Sense = Literal["at most", "at least", "equal"]
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

    code: str = ""
    """The rule's; stamped by the registry, like the sense of its comparison."""
    sense: Sense | None = None
    """Which way the first number should stand to the second; nothing where they are no comparison."""
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

    def severity_in(self, condition: str | None) -> Severity:
        """How much it weighs in one condition, or at its worst."""
        return self.by_condition.get(condition, self.severity) if condition else self.severity

    @property
    def short_of(self) -> float | None:
        """How far its comparison is from being kept: 0 and less is kept, 1 is the whole limit; None for no comparison.

        Only its order is meant: of two findings of one rule the larger is the worse.
        """
        if self.sense is None or len(self.numbers) < 2:
            return None
        observed, limit = (one.value for one in self.numbers[:2])
        scale = abs(limit) or 1.0
        over = (observed - limit) / scale
        return {"at most": over, "at least": -over, "equal": abs(over)}[self.sense]

    @property
    def key(self) -> str:
        """Identity across edits: the rule and the elements it speaks of."""
        return f"{self.code}:{','.join(self.elements)}"
