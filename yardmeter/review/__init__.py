"""What a screen or command shows: answers of the core put together, with their words."""

from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.review.analysis import Analysis, Reviewed, analyse, review
from yardmeter.review.changes import Change, changes_between
from yardmeter.review.working import working
from yardmeter.review.workings.model import Quantity, Working

__all__ = [
    "Analysis",
    "Change",
    "Quantity",
    "Reviewed",
    "SolvedPlan",
    "Working",
    "analyse",
    "changes_between",
    "review",
    "solve_plan",
    "working",
]
