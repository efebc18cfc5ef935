"""`data.` rules: how far the numbers themselves can be trusted."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.plan import Rail
from yardmeter.core.verdict import Comparison, Facts, Severity, Verdict, under

WORTH_A = 0.02
"""Load below which a rail's guesses are not worth a word [A]; our choice."""


@dataclass(frozen=True)
class Hearsay(Facts):
    share_frac: float
    flips: bool
    """Whether its margin disappears at the top of the bands."""
    measure: str
    """The consumer whose band is widest."""


@rule("data.guess", Hearsay, sense="at most")
def guess_dominates(case: SolvedPlan) -> Iterator[Verdict]:
    """A rail whose load rests on guesses, or whose margin disappears at the top of the bands."""
    for rail in case.plan.rails:
        found = {c.id: one for c in case.plan.conditions if (one := _hearsay(case, rail, c.id))}
        if found:
            worst = max(found, key=lambda c: (found[c][0].share_frac, c))
            weights: dict[str, Severity] = {c: "caution" if one.flips else "note" for c, (one, _) in found.items()}
            yield under(weights, worst, (rail.id,), found[worst][1], found[worst][0])


def _hearsay(case: SolvedPlan, rail: Rail, condition: str) -> tuple[Hearsay, Comparison] | None:
    state = case.rail(rail.id).states[condition]
    unsure = [one for one in state.consumers if one.provenance in ("guess", "reported")]
    if not state.limits or state.asked_a < WORTH_A or not unsure:
        return None
    top = state.asked_a + sum(one.asked_a * one.tol_frac for one in state.consumers)
    flips = state.asked_a <= state.usable_a < top
    if not flips and state.guess_frac <= case.plan.policy.guess_share_frac:
        return None
    widest = max(unsure, key=lambda one: one.asked_a * one.tol_frac)
    return Hearsay(state.guess_frac, flips, widest.id), Comparison(top, state.usable_a, "A")
