"""`failure.` rules: what one broken part takes with it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.elements.regulator import is_hot
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Regulator
from yardmeter.core.verdict import Comparison, Facts, Severity, Verdict, always, under

FEW_OTHERS = 1
"""Other devices a regulator that keeps control may feed without a note; our choice."""


@dataclass(frozen=True)
class FailsShort(Facts):
    killed: tuple[str, ...]
    vital: bool
    stressed: bool


@rule("failure.short", FailsShort, sense="at most")
def fails_short(case: SolvedPlan) -> Iterator[Verdict]:
    """A regulator that fails short hands its input to every device behind it that the craft needs to stay up."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator) or supply.fails != "short":
            continue
        inputs = {c.id: s.in_v for c, s in case.supply_states(supply)}
        worst = max(inputs, key=lambda c: (inputs[c], c))
        killed = [d for d in graph_of(case.plan).consumers_below(supply.output) if d.at_volts(inputs[worst]) == "high"]
        if not killed:
            continue
        stressed = any(
            (s.temp_c is not None and is_hot(s.temp_c, supply.trip_c, case.plan.policy.hot_margin_k))
            or s.mode == "limiting"
            for _, s in case.supply_states(supply)
        )
        vital = any(d.keeps_control for d in killed)
        lowest = min(d.max_v for d in killed)
        severity: Severity = "caution" if vital and stressed else "note"
        yield under(
            {c: severity for c, volts in inputs.items() if volts > lowest},
            worst,
            (supply.id,),
            Comparison(inputs[worst], lowest, "V"),
            FailsShort(tuple(d.id for d in killed), vital, stressed),
        )


@dataclass(frozen=True)
class SinglePoint(Facts):
    vital: tuple[str, ...]


@rule("failure.single", SinglePoint, sense="at most")
def single_point(case: SolvedPlan) -> Iterator[Verdict]:
    """Control hangs on one regulator that also feeds things the craft could do without."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        behind = graph_of(case.plan).consumers_below(supply.output)
        vital = tuple(d.id for d in behind if d.keeps_control)
        others = len(behind) - len(vital)
        if vital and others > FEW_OTHERS:
            yield always("note", (supply.id,), Comparison(others, FEW_OTHERS, ""), SinglePoint(vital))
