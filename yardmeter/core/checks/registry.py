"""One registry of rules. A duplicate code fails at import."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Literal, TypeVar

from yardmeter.core.patience import go_on
from yardmeter.core.verdict import SEVERITY_ORDER, Facts, Sense, Verdict

Sees = Literal["plan", "noise", "runs"]
"""What a rule looks at."""
RuleOf = Callable[[Any], Iterable[Verdict]]


@dataclass(frozen=True)
class Rule:
    """A registered function. Rules that look at noise or at runs are asked for by themselves, not at every edit; they see a
    NoiseCase or a RunCase."""

    code: str
    facts: type[Facts]
    sense: Sense
    sees: Sees
    function: RuleOf


RULES: dict[str, Rule] = {}

Function = TypeVar("Function", bound=RuleOf)


def rule(code: str, facts: type[Facts], *, sense: Sense, sees: Sees = "plan") -> Callable[[Function], Function]:
    """Register a rule; every verdict it returns is stamped with this code, and with `sense` where it has none of its own."""

    def register(function: Function) -> Function:
        if code in RULES:
            raise RuntimeError(f"rule code {code} is registered twice")
        RULES[code] = Rule(code, facts, sense, sees, function)
        return function

    return register


def run_rules(case: object, sees: Sees = "plan") -> tuple[Verdict, ...]:
    """All verdicts, worst first; one with other facts than its rule's, or under a code of its own, is a defect and raises."""
    found: list[Verdict] = []
    for one in RULES.values():
        if one.sees != sees:
            continue
        go_on()
        for verdict in one.function(case):
            if verdict.code or type(verdict.facts) is not one.facts:
                raise RuntimeError(f"rule {one.code} returned a verdict that is not its own")
            found.append(verdict.stamped(one.code, one.sense))
    return tuple(sorted(found, key=lambda v: (SEVERITY_ORDER[v.severity], v.code, v.elements)))
