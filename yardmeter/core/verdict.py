"""What is judged, as data: which rule, how bad in which condition, what was compared with what. Words are made elsewhere."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from yardmeter.core.plan.operations import Edit

Severity = Literal["danger", "fault", "caution", "note"]
Sense = Literal["at most", "at least", "equal"]
SEVERITY_ORDER: dict[Severity, int] = {"danger": 0, "fault": 1, "caution": 2, "note": 3}

Direction = Literal["better", "worse", "moved"]
TOLD_FRAC = 1e-3
"""A comparison that moved by less than this share of its limit stands."""

FixKind = Literal[
    "move", "own regulator", "pad", "return", "set volts", "buck-boost", "gauge", "damp", "fit", "rewire", "exchange",
    "swap ends", "signal ground", "own ground", "land there", "lift", "keep one", "bridge", "resistor", "feed rail", "leave out", "larger",
    "split motors", "power pin", "filter", "exchange part", "feed it", "connector", "own cell", "larger pack",
]  # fmt: skip


def worst_of(severities: Mapping[str, Severity]) -> Severity:
    """The heaviest; raises ValueError for none."""
    return min(severities.values(), key=lambda one: SEVERITY_ORDER[one])


@dataclass(frozen=True, slots=True)
class Comparison:
    """What was observed, at its worst, and the limit it should keep, both in `unit` (SI, or none for counts)."""

    observed: float
    limit: float
    unit: str


@dataclass(frozen=True, slots=True)
class Fix:
    """A remedy as edit operations that can be previewed and applied."""

    kind: FixKind
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Facts:
    """Parameters of a verdict beside its comparison; every rule has a type of its own."""


@dataclass(frozen=True)
class Verdict:
    """One judgement.

    `by_condition` holds how much it weighs in each condition it is true in; empty means it is true whatever the condition.
    `severity` is the heaviest of them. `code` and `sense` are stamped by the registry.
    """

    severity: Severity
    elements: tuple[str, ...]
    compared: Comparison
    facts: Facts
    by_condition: Mapping[str, Severity]
    worst: str | None = None
    """The condition the comparison is of."""
    fixes: tuple[Fix, ...] = ()
    code: str = ""
    sense: Sense | None = None
    """Which way the observed should stand to the limit."""

    @property
    def conditions(self) -> tuple[str, ...]:
        return tuple(self.by_condition)

    @property
    def key(self) -> str:
        """Identity across edits: the rule and the elements it speaks of."""
        return f"{self.code}:{','.join(self.elements)}"

    def severity_in(self, condition: str | None) -> Severity:
        """How much it weighs in one condition, or at its worst."""
        return self.by_condition.get(condition, self.severity) if condition else self.severity

    @property
    def short_of(self) -> float:
        """How far its comparison is from being kept: 0 and less is kept, 1 is the whole limit.

        Only its order is meant: of two verdicts of one rule the larger is the worse.
        """
        if self.sense is None:
            raise RuntimeError("a verdict is judged after its rule has stamped it")
        over = (self.compared.observed - self.compared.limit) / (abs(self.compared.limit) or 1.0)
        return {"at most": over, "at least": -over, "equal": abs(over)}[self.sense]

    def stamped(self, code: str, sense: Sense) -> Verdict:
        return replace(self, code=code, sense=self.sense or sense)


def under(
    by_condition: Mapping[str, Severity], worst: str, elements: tuple[str, ...], compared: Comparison, facts: Facts,
    fixes: tuple[Fix, ...] = (),
) -> Verdict:  # fmt: skip
    """A verdict that is true in some conditions, each with its weight."""
    return Verdict(worst_of(by_condition), elements, compared, facts, by_condition, worst, fixes)


def always(
    severity: Severity, elements: tuple[str, ...], compared: Comparison, facts: Facts, fixes: tuple[Fix, ...] = (), *,
    worst: str | None = None, sense: Sense | None = None,
) -> Verdict:  # fmt: skip
    """A verdict that is true whatever the condition; `worst` is the one its comparison is of, where it is of one."""
    return Verdict(severity, elements, compared, facts, {}, worst, fixes, sense=sense)


def direction_of(was: Verdict, now: Verdict) -> Direction | None:
    """Whether a verdict got better or worse, by its severity, then by the sense of its comparison; None where it stands.

    What is worse in some condition and better in none is worse; the other way round better; a mixture goes by the worst.
    """
    if was.compared == now.compared and was.by_condition == now.by_condition and was.severity == now.severity:
        return None  # nearly all, after an edit
    weights = [SEVERITY_ORDER[one.severity] for one in (was, now)]
    if weights[0] != weights[1]:
        return "worse" if weights[1] < weights[0] else "better"
    steps = {_weight(now, c) - _weight(was, c) for c in {*was.conditions, *now.conditions}} - {0}
    if steps and (max(steps) < 0 or min(steps) > 0):
        return "worse" if max(steps) < 0 else "better"
    sizes = was.short_of, now.short_of
    if abs(sizes[1] - sizes[0]) > TOLD_FRAC * max(1.0, abs(sizes[0])):
        return "worse" if sizes[1] > sizes[0] else "better"
    return None


def _weight(verdict: Verdict, condition: str) -> int:
    """Its severity in a condition, lower is worse; one that is not true there weighs nothing."""
    if verdict.by_condition and condition not in verdict.by_condition:
        return len(SEVERITY_ORDER)
    return SEVERITY_ORDER[verdict.severity_in(condition)]
