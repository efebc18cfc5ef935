"""One call for everything a screen shows of a plan: budget, windows, findings."""

from yardmeter.core.review.analysis import Analysis, analyse
from yardmeter.core.review.changes import Change, changes_between

__all__ = ["Analysis", "Change", "analyse", "changes_between"]
