"""One call for everything a screen shows of a plan: budget, windows, findings."""

from yardmeter.core.review.analysis import Analysis, analyse, solve_case
from yardmeter.core.review.changes import Change, changes_between
from yardmeter.core.review.working import Quantity, Working, working

__all__ = ["Analysis", "Change", "Quantity", "Working", "analyse", "changes_between", "solve_case", "working"]
