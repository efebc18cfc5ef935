"""Plans side by side: each column holds the numbers of that plan's own views."""

from __future__ import annotations

import math

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from tools.random_plans import edited
from yardmeter.review import review
from yardmeter.review.compare import Side, compare
from yardmeter.review.noise_review import review_noise


@statement("Compare holds each plan's own numbers, and tells the difference in the direction of its columns", share=0.4)
def columns_true(case: Case) -> Told:
    plan = edited(case.plan, case.rng)
    other = review(plan)
    sides = [
        Side(case.plan, case.found.analysis, case.noise.review),
        Side(plan, other.analysis, review_noise(other.solved.solved).review),
    ]
    made = compare(sides)
    for k, (side, found) in enumerate(zip(sides, (case.found, other), strict=True)):
        rows = {(row.group, row.label): row.cells[k] for row in made.rows if row.cells[k].value is not None}
        on_pack = [c.id for c in side.plan.conditions if c.on_pack]
        for rail in side.analysis.budget.rails:
            cell = rows.get(("spare amps, worst", rail.name))
            spare = [rail.states[c].spare_a for c in on_pack if rail.states[c].limits]
            if (
                cell
                and spare
                and len({r.name for r in side.plan.rails}) == len(side.plan.rails)
                and not math.isclose(cell.value or 0.0, min(spare), abs_tol=1e-9)
            ):
                yield f"spare of {rail.id} in column {k + 1}: {cell.value}, its own view {min(spare)}"
        heavy = rows["whole plan", "dangers and faults"].value
        own = sum(one.severity in ("danger", "fault") for one in (*found.analysis.findings, *side.noise.findings))
        if heavy != own:
            yield f"column {k + 1} counts {heavy} dangers and faults, its findings {own}"
    for k, side in enumerate(sides):
        own_of = {one.title: one.severity for one in side.findings if one.severity != "note"}
        shown = {
            row.titles[k]: row.severities[k] for row in made.findings if row.titles[k] and row.severities[k] != "note"
        }
        if shown != own_of:
            yield f"column {k + 1} lists {shown.items() ^ own_of.items()} otherwise than its plan"
    packs = case.plan.pack != plan.pack
    if packs and not any("pack" in words.lower() for words in made.differences[0]):
        yield "the packs differ and nothing says so"
    if (
        case.plan.plain != plan.plain
        and not made.differences[0]
        and case.plan.model_copy(update={"conditions": plan.conditions}).plain != plan.plain
    ):
        yield "the plans differ and nothing says so"
