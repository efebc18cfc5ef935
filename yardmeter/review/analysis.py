"""Plan in, analysis out."""

from __future__ import annotations

from dataclasses import dataclass

import yardmeter.words.findings  # noqa: F401 - enters the words of every rule
from yardmeter.core.answers.model import Answer, Budget
from yardmeter.core.answers.returns import Returns
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.answers.windows import Windows
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.consequences import causes
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Plan
from yardmeter.core.verdict import Verdict
from yardmeter.review.captions import Captions, captions
from yardmeter.words.told import Finding, tell


class Analysis(Answer):
    """Numbers over all conditions, the pack sweep, and the findings, worst first, with the words beside the numbers."""

    budget: Budget
    windows: Windows
    returns: Returns
    findings: tuple[Finding, ...]
    captions: Captions


Told = tuple[tuple[Verdict, Finding], ...]
"""Verdicts, each with its words."""


@dataclass(frozen=True)
class Reviewed:
    """A plan, solved and judged; its words are made when they are asked for."""

    solved: SolvedPlan

    @property
    def plan(self) -> Plan:
        return self.solved.plan

    @cached_property
    def verdicts(self) -> tuple[Verdict, ...]:
        return run_rules(self.solved)

    @cached_property
    def analysis(self) -> Analysis:
        """What a screen shows."""
        return Analysis(
            budget=self.solved.budget,
            windows=self.solved.windows,
            returns=self.solved.returns,
            findings=self._findings,
            captions=captions(self.solved),
        )

    @property
    def _findings(self) -> tuple[Finding, ...]:
        cause_of = causes(self.plan, self.verdicts)
        return tuple(tell(self.plan, one, cause_of.get(one.key)) for one in self.verdicts)

    @property
    def told(self) -> Told:
        return tuple(zip(self.verdicts, self.analysis.findings, strict=True))


def review(plan: Plan, before: Reviewed | None = None) -> Reviewed:
    """Solve every condition and the pack sweep. What was solved `before` an edit serves again where it still holds.

    Unsolvable conditions are results, not errors.
    """
    return Reviewed(solve_plan(plan, before.solved if before else None))


def analyse(plan: Plan) -> Analysis:
    """Solve a plan, run every rule, and put all of it in words."""
    return review(plan).analysis
