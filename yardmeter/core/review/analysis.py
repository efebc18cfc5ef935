"""Plan in, analysis out."""

from __future__ import annotations

from dataclasses import replace

from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import solve_conditions, solved_like
from yardmeter.core.answers.model import Answer, Budget
from yardmeter.core.answers.returns import Returns, returns
from yardmeter.core.answers.windows import Windows, windows
from yardmeter.core.checks import Finding, run_rules
from yardmeter.core.checks.registry import Case
from yardmeter.core.plan import Plan


class Analysis(Answer):
    """Numbers over all conditions, the pack sweep, and the findings, worst first."""

    budget: Budget
    windows: Windows
    returns: Returns
    findings: tuple[Finding, ...]


def analyse(plan: Plan) -> Analysis:
    """Solve every condition and the pack sweep, and run every rule. Unsolvable conditions are results, not errors."""
    case = solve_case(plan)
    return of_case(case)


def of_case(case: Case) -> Analysis:
    """What a screen shows of a solved plan; the rules run now."""
    return Analysis(budget=case.budget, windows=case.windows, returns=case.returns, findings=run_rules(case))


def solve_case(plan: Plan, before: Case | None = None) -> Case:
    """The solved plan as rules and answers see it. What was solved `before` an edit serves again where no direct current can differ."""
    same = before and solved_like(plan, before.solved)
    if before and same:
        return replace(before, plan=plan, solved=same)
    solved = solve_conditions(plan)
    return Case(plan, solved, budget(solved), windows(solved), returns(solved))
