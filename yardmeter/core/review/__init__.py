"""One call for everything a screen shows of a plan: budget, windows, returns, findings."""

from yardmeter.core.review.analysis import Analysis, analyse, of_case, solve_case
from yardmeter.core.review.changes import Change, changes_between
from yardmeter.core.review.working import working
from yardmeter.core.review.workings.model import Quantity, Working

__all__ = [
    "Analysis",
    "Change",
    "Quantity",
    "Working",
    "analyse",
    "changes_between",
    "of_case",
    "solve_case",
    "working",
]
