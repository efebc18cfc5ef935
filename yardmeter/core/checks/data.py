"""`data.` rules: how far the numbers themselves can be trusted."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.checks.finding import Finding, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.units import format_si


@rule("data.guess", sense="at most")
def guess_dominates(case: Case) -> Iterator[Finding]:
    """A rail whose load rests on guesses, or whose margin disappears at the top of the bands."""
    for rail in case.plan.rails:
        best: tuple[float, str, float, float, float, str] | None = None
        for condition in case.plan.conditions:
            state = case.rail(rail.id).states[condition.id]
            if not state.limits or state.asked_a < 0.02:
                continue
            unsure = [w for w in state.wagons if w.provenance in ("guess", "reported")]
            top = state.asked_a + sum(w.asked_a * w.tol_frac for w in state.wagons)
            flips = state.asked_a <= state.usable_a < top and bool(unsure)
            if unsure and (state.guess_frac > case.plan.policy.guess_share_frac or flips):
                biggest = max(unsure, key=lambda w: w.asked_a * w.tol_frac)
                found = (state.guess_frac, condition.id, top, state.usable_a, state.asked_a, biggest.name)
                best = max(best, found) if best else found
        if best:
            share, worst, top, usable, asked, name = best
            flips = asked <= usable < top
            yield Finding(
                severity="caution" if flips else "note",
                conditions=(worst,),
                worst=worst,
                elements=(rail.id,),
                title=f"{share:.0%} of the {rail.name} load is hearsay",
                cause=f"At the top of the bands the rail is asked for {format_si(top, 'A')}{', past what it can give' if flips else ''}.",
                remedy=f"Measure next: {name}.",
                numbers=(
                    number("top of the bands", top, "A"),
                    number("usable", usable, "A"),
                    number("guessed share", share * 100, "%"),
                ),
            )
