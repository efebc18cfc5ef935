"""How heavily a condition is marked: by what is true in it; beside it, what is true whatever the condition."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Protocol

from yardmeter.core.verdict import SEVERITY_ORDER, Severity


class Weighed(Protocol):
    """A verdict, or the finding it became. `by_condition` is empty for what is true whatever the condition."""

    @property
    def severity(self) -> Severity: ...

    @property
    def by_condition(self) -> Mapping[str, Severity]: ...


def mark_in(told: Iterable[Weighed], condition: str) -> Severity | None:
    """The heaviest that is true in a condition because of it; None where it is clear, for a note is no mark."""
    return _heaviest(one.by_condition.get(condition) for one in told)


def mark_anywhere(told: Iterable[Weighed]) -> Severity | None:
    """The heaviest that is true whatever the condition; None where there is nothing such."""
    return _heaviest(one.severity for one in told if not one.by_condition)


def _heaviest(weights: Iterable[Severity | None]) -> Severity | None:
    return min((one for one in weights if one and one != "note"), key=lambda one: SEVERITY_ORDER[one], default=None)
