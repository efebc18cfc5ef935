"""What a fix or an edit is said to do: it does it, and the change lists tell it as it is."""

from __future__ import annotations

from tools.agree.cases import BECS, Case
from tools.agree.statements import Told, statement
from tools.random_plans import edited
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.noise_case import noise_case
from yardmeter.core.edits import apply_edits
from yardmeter.core.fixes import from_shelf, vetted
from yardmeter.core.verdict import SEVERITY_ORDER, Verdict
from yardmeter.review import changes_between, review

FIXES = 3
"""Fixes of one plan that are made; trying all of them takes as long as a plan for each."""


def _heavy(verdicts: tuple[Verdict, ...]) -> int:
    return sum(one.severity in ("danger", "fault") for one in verdicts)


def _weight(one: Verdict, condition: str) -> int:
    if one.by_condition and condition not in one.by_condition:
        return len(SEVERITY_ORDER)
    return SEVERITY_ORDER[one.severity_in(condition)]


@statement(
    "A fix that is offered cures its finding, and nothing of the same elements is worse in any condition", share=0.12
)
def fixes_cure(case: Case) -> Told:
    was = case.found.verdicts
    if not any(one.fixes for one in was):
        return
    good = vetted(case.found.solved, from_shelf(case.plan, tuple(case.rng.sample(was, min(len(was), 4))), BECS))
    for key, fixes in list(good.items())[:FIXES]:
        mine = next(one for one in was if one.key == key)
        made = review(apply_edits(case.plan, fixes[0].edits))
        now = {one.key: one for one in made.verdicts}
        left = now.get(key)
        if left and SEVERITY_ORDER[left.severity] <= SEVERITY_ORDER[mine.severity]:
            yield f"{key} is still a {left.severity} after {fixes[0].kind}"
        if _heavy(made.verdicts) > _heavy(was):
            yield f"{key}: {fixes[0].kind} leaves {_heavy(made.verdicts)} dangers and faults where {_heavy(was)} were"
        old = {one.key: one for one in was}
        for other in made.verdicts:
            before = old.get(other.key)
            if not set(other.elements) & set(mine.elements) or other.severity in ("note", "caution"):
                continue
            for condition in [c.id for c in case.plan.conditions]:
                if _weight(other, condition) < (_weight(before, condition) if before else 9) and _weight(
                    other, condition
                ) <= min(_weight(mine, c.id) for c in case.plan.conditions):
                    yield f"{key}: after {fixes[0].kind} {other.key} is worse in {condition}"
                    break


@statement(
    "A change list tells what is gone as cured, what is lighter as better, and compares one condition with itself",
    share=0.6,
)
def changes_true(case: Case) -> Told:
    plan = edited(case.plan, case.rng)
    after = review(plan, case.found)
    fresh = review(plan)
    if [one.key for one in after.verdicts] != [one.key for one in fresh.verdicts]:
        yield "what is judged from what was solved before differs from what is judged afresh"
    old, new = ({one.title for one in found.analysis.findings} for found in (case.found, after))
    known = {one.key for one in case.found.analysis.findings}
    told_before = {one.title for one in after.analysis.findings if one.key in known}  # of another device of that name
    fresh_titles = {one.title for one in after.analysis.findings if one.key not in known} - told_before
    for change in changes_between(case.found, after):
        if change.text.startswith("Cured: "):
            title = change.text.removeprefix("Cured: ")
            if sum(one.title == title for one in case.found.analysis.findings) > 1:
                continue  # two boards of one name
            if title in new or title not in old:
                yield f"“{change.text}”, and it is there"
            gone = next(one for one in case.found.analysis.findings if one.title == title)
            family = gone.code.split(".")[0]
            for one in after.analysis.findings:
                if (
                    one.severity != "note"
                    and one.elements[:1] == gone.elements[:1]
                    and one.code.split(".")[0] == family
                    and one.key not in known
                    and SEVERITY_ORDER[one.severity] <= SEVERITY_ORDER[gone.severity]
                ):
                    yield f"“{change.text}” while {one.title} came in its place ({one.severity})"
        elif (
            change.element in case.plan.rail_of
            and change.condition
            and ": spare " in change.text
            and change.element in plan.rail_of
        ):
            was, now = (
                found.solved.rail(change.element).states[change.condition].spare_a for found in (case.found, after)
            )
            if change.direction == "better" and now < was:
                yield f"“{change.text}” is told as better"
        elif change.direction == "better" and change.text in fresh_titles:
            yield f"“{change.text}” is new and told as better"


@statement("What is kept from before an edit is what a fresh look finds", share=0.2)
def kept_noise(case: Case) -> Told:
    plan = edited(case.plan, case.rng)
    after, fresh = review(plan, case.found), review(plan)
    kept, new = (
        tuple(one.key for one in run_rules(noise_case(found.solved.solved), sees="noise")) for found in (after, fresh)
    )
    if kept != new:
        yield f"{kept} kept, {new} fresh"
