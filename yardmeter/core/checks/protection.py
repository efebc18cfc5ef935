"""`protect.` rules: clamps against the volts where they stand and what they are to protect."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.plan import Clamp, Device, Plan
from yardmeter.core.verdict import Comparison, Facts, Severity, Verdict, always, under


@dataclass(frozen=True)
class StandsOnClamp(Facts):
    breakdown_v: float
    conducts: bool
    """Whether the volts reach its breakdown, so that it burns and fails short across them."""


@rule("protect.standoff", StandsOnClamp, sense="at most")
def stands_on_clamp(case: SolvedPlan) -> Iterator[Verdict]:
    """A clamp whose stand-off the rail's own volts exceed, the full pack included whether or not a condition uses it."""
    for clamp in (one for one in case.plan.clamps if one.fitted):
        seen = _seen(case, clamp)
        swept = [(p.rails_v | p.pins_v)[clamp.at][0] for p in case.windows.patterns]
        highest = max([*seen.values(), *swept])
        if highest <= clamp.standoff_v:
            continue
        compared = Comparison(highest, clamp.standoff_v, "V")
        facts = StandsOnClamp(clamp.breakdown_v, highest > clamp.breakdown_v)
        over = {c: v for c, v in seen.items() if v > clamp.standoff_v}
        elements = (clamp.id, clamp.at)
        if not over or max(over.values()) < highest:
            yield always("danger" if facts.conducts else "caution", elements, compared, facts)
            continue
        worst = max(over, key=lambda c: over[c])
        weights: dict[str, Severity] = {c: "danger" if v > clamp.breakdown_v else "caution" for c, v in over.items()}
        yield under(weights, worst, elements, compared, facts)


def _seen(case: SolvedPlan, clamp: Clamp) -> dict[str, float]:
    """Volts across it by condition."""
    if clamp.at in case.plan.rail_of:
        return {c.id: case.rail(clamp.at).states[c.id].volts_v for c in case.plan.conditions}
    return {c.id: s.pin_v for c, s in case.device_states(case.plan.device_of[clamp.at])}


@dataclass(frozen=True)
class ClampsTooLate(Facts):
    device: str


@rule("protect.late", ClampsTooLate, sense="at most")
def clamps_too_late(case: SolvedPlan) -> Iterator[Verdict]:
    """A clamp that lets through more than what stands behind it takes."""
    for clamp in (one for one in case.plan.clamps if one.fitted):
        behind = [case.plan.device_of[clamp.at]] if clamp.at in case.plan.device_of else _on(case.plan, clamp.at)
        weakest = min(behind, key=lambda one: one.max_v, default=None)
        # The pack's own volts are a finding of their own; here it is about spikes.
        if weakest and clamp.breakdown_v > weakest.max_v:
            compared = Comparison(clamp.breakdown_v, weakest.max_v, "V")
            yield always("caution", (clamp.id, weakest.id), compared, ClampsTooLate(weakest.id))


def _on(plan: Plan, rail: str) -> list[Device]:
    return [one for one in plan.devices_on(rail) if one.kind != "motor"]
