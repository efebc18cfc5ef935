"""Every proposed fix applied and solved before it is offered, and those that hold ranked by what they leave; one more pack to charge comes last.

A device that a fix moves has to be able to live where it comes to.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.noise_case import noise_case
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.fitness import fitness_of_all
from yardmeter.core.once import cached_property
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Device, Plan
from yardmeter.core.verdict import SEVERITY_ORDER, Fix, Severity, Verdict

SHARPENED_FRAC = 0.25
"""How much further over, as a share of what it was, an old fault may come by a fix for another; our choice."""

Judge = Callable[[Plan], Sequence[Verdict]]
Left = tuple[int, ...]
"""How many verdicts of each severity are left, heaviest first: the smaller the better."""
Trials = dict[tuple[str, ...], Left | None]
"""By a verdict's key and the edits of a fix for it: what that leaves, None where it does not hold. Filled as trials end, so that work
that was called off is gone on with; good for one plan and the parts it was asked with."""


def vetted(before: SolvedPlan, verdicts: Sequence[Verdict], trials: Trials | None = None) -> dict[str, tuple[Fix, ...]]:
    """By key of a verdict the fixes that cure it, best first; verdicts without any are not in it."""
    return _vet(before, verdicts, lambda plan: run_rules(solve_plan(plan, before)), trials)


def vetted_noise(
    before: SolvedPlan, verdicts: Sequence[Verdict], trials: Trials | None = None
) -> dict[str, tuple[Fix, ...]]:
    """The same for verdicts of noise, judged by the noise and by everything else."""

    def judge(plan: Plan) -> Sequence[Verdict]:
        after = solve_plan(plan, before)
        return (*run_rules(after), *run_rules(noise_case(after.solved), sees="noise"))

    return _vet(before, (*verdicts, *run_rules(before)), judge, trials, among={one.key for one in verdicts})


def _vet(
    before: SolvedPlan,
    verdicts: Sequence[Verdict],
    judge: Judge,
    trials: Trials | None,
    among: set[str] | None = None,
) -> dict[str, tuple[Fix, ...]]:
    tried: dict[tuple[str, ...], _Tried | None] = {}
    trials = {} if trials is None else trials

    def after(fix: Fix, edits: tuple[str, ...]) -> _Tried | None:
        """The plan with a fix, worked out once however often it is proposed; None where it cannot be."""
        if edits not in tried:
            try:
                made = apply_edits(before.plan, fix.edits)
                tried[edits] = _Tried(before, made, judge(made))
            except YardError:
                tried[edits] = None
        return tried[edits]

    known = {one.key: one for one in verdicts}
    found = {}
    for verdict in verdicts:
        if among is not None and verdict.key not in among:
            continue
        good = []
        for fix in verdict.fixes:
            edits = tuple(one.model_dump_json() for one in fix.edits)
            pair = verdict.key, fix.kind, *edits
            if pair not in trials:
                go_on()
                made = after(fix, edits)
                holds = (
                    made and cures(verdict, known, made.left) and made.lives and not _runs_out(fix, known, made.left)
                )
                trials[pair] = _left(made.left) if made and holds else None
            if (left := trials[pair]) is not None:
                good.append((fix.kind == "own cell", left, fix))
        if good:
            found[verdict.key] = tuple(fix for _, _, fix in sorted(good, key=lambda one: one[:2]))
    return found


@dataclass(frozen=True)
class _Tried:
    """A plan with a fix made, and what is left to say of it."""

    before: SolvedPlan
    plan: Plan
    left: Sequence[Verdict]

    @cached_property
    def lives(self) -> bool:
        """Whether what hangs on another rail now can live there."""
        was = self.before.plan.device_of
        moved = [d.id for d in self.plan.devices if d.id in was and _rail(d) != _rail(was[d.id])]
        return not moved or all(one.fits for one in fitness_of_all(self.plan, moved, self.before).values())


def _rail(device: Device) -> str | None:
    return device.feed.rail if device.feed else None


def cures(verdict: Verdict, before: dict[str, Verdict], after: Sequence[Verdict]) -> bool:
    """Whether a verdict is gone or lighter, and nothing that is as heavy as it was came or got worse."""
    heavy = SEVERITY_ORDER[verdict.severity]
    for now in after:
        was = before.get(now.key)
        if now.key == verdict.key:
            if SEVERITY_ORDER[now.severity] <= heavy:
                return False
        elif (SEVERITY_ORDER[now.severity] <= heavy and (was is None or _heavier(was.severity, now.severity))) or (
            was and now.severity in ("danger", "fault") and _sharpened(was, now)
        ):
            return False
    return True


def _runs_out(fix: Fix, before: dict[str, Verdict], after: Sequence[Verdict]) -> bool:
    """Whether it brings a cell that is empty before the pack is."""
    return fix.kind == "own cell" and any(one.code == "source.empty_first" and one.key not in before for one in after)


def _sharpened(was: Verdict, now: Verdict) -> bool:
    """Whether a fault that was there before is noticeably further over its limit."""
    return now.short_of - was.short_of > SHARPENED_FRAC * (1 + max(was.short_of, 0.0))


def _heavier(was: Severity, now: Severity) -> bool:
    return SEVERITY_ORDER[now] < SEVERITY_ORDER[was]


def _left(verdicts: Sequence[Verdict]) -> Left:
    return tuple(sum(one.severity == severity for one in verdicts) for severity in SEVERITY_ORDER)
