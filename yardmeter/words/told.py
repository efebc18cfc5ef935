"""A verdict in words, as the screen and the command line show it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Facts, Fix, Sense, Severity, Verdict
from yardmeter.words import fixes


class Number(Answer):
    """A number in SI units, with its text as on the bench."""

    label: str
    value: float
    unit: str
    text: str


def number(label: str, value: float, unit: str) -> Number:
    return Number(label=label, value=value, unit=unit, text=format_si(value, unit))


class ToldFix(Answer):
    """A remedy as edit operations that can be previewed and applied."""

    title: str
    edits: tuple[Edit, ...]


class Finding(Answer):
    """A verdict with its words. Its numbers are those of the worst condition: observed, limit, then what explains them."""

    key: str
    """The same across edits: rule and elements."""
    code: str
    sense: Sense
    """Which way the first number should stand to the second."""
    severity: Severity
    by_condition: dict[str, Severity]
    """How much it weighs in each condition it is true in; empty for what is true whatever the condition."""
    worst: str | None
    elements: tuple[str, ...]
    title: str
    cause: str
    remedy: str
    numbers: tuple[Number, ...]
    under: str | None = None
    """Key of the finding it follows from and goes with."""
    proposed: int
    """Fixes it has that are still to be tried."""


@dataclass(frozen=True)
class Told:
    """What a catalogue entry makes of a verdict. `labels` are of the observed and of the limit."""

    title: str
    cause: str
    remedy: str
    labels: tuple[str, str]
    more: tuple[Number, ...] = ()


Entry = Callable[[Plan, Verdict, Any], Told]
CATALOGUE: dict[str, tuple[type[Facts], Entry]] = {}

F = TypeVar("F", bound=Facts)


def tells(*codes: str, facts: type[F]) -> Callable[[Callable[[Plan, Verdict, F], Told]], Callable[[Plan, Verdict, F], Told]]:  # fmt: skip
    """Enter the words of rules with these facts; a code with two entries fails at import."""

    def enter(words: Callable[[Plan, Verdict, F], Told]) -> Callable[[Plan, Verdict, F], Told]:
        for code in codes:
            if code in CATALOGUE:
                raise RuntimeError(f"rule {code} has words twice")
            CATALOGUE[code] = (facts, words)
        return words

    return enter


def tell(plan: Plan, verdict: Verdict, under: str | None = None) -> Finding:
    """A verdict of a plan in words, `under` that which causes it. Its fixes are proposals; they are told when they have been tried."""
    _, words = CATALOGUE[verdict.code]
    told = words(plan, verdict, verdict.facts)
    compared = verdict.compared
    sides = zip(told.labels, (compared.observed, compared.limit), strict=True)
    if verdict.sense is None:
        raise RuntimeError("only what a rule has stamped can be told")
    return Finding(
        key=verdict.key,
        code=verdict.code,
        sense=verdict.sense,
        severity=verdict.severity,
        by_condition=dict(verdict.by_condition),
        worst=verdict.worst,
        elements=verdict.elements,
        title=told.title,
        cause=told.cause,
        remedy=told.remedy,
        numbers=(*(number(label, value, compared.unit) for label, value in sides), *told.more),
        proposed=len(verdict.fixes),
        under=under,
    )


def tell_fixes(plan: Plan, tried: tuple[Fix, ...]) -> tuple[ToldFix, ...]:
    """Fixes that have been tried, each with its line."""
    return tuple(ToldFix(title=fixes.title(plan, fix), edits=fix.edits) for fix in tried)


def titles(plan: Plan, ids: tuple[str, ...], joint: str = ", ") -> str:
    """Names of elements, one after the other."""
    return joint.join(plan.title(one) for one in ids)


def name_of(plan: Plan, element: str) -> str:
    """A board, device or the pack in a sentence."""
    return "the pack" if element == "pack" else plan.title(element)


def pin_words(plan: Plan, pin: str) -> str:
    """“Flight controller TX2”."""
    return f"{plan.owner_of[pin].name} {plan.pin_of[pin].label}"


def plural(count: int, one: str, many: str) -> str:
    return one if count == 1 else many
