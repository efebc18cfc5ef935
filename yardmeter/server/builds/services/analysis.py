"""Analyses of stored revisions, kept in memory: a revision never changes, so neither does its analysis."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass
from functools import cached_property

from yardmeter.core.checks.registry import Case
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.plan import load_plan
from yardmeter.core.review import Analysis, of_case, solve_case
from yardmeter.server.builds.models import Revision

KEPT = 32


@dataclass(frozen=True)
class Known:
    """A plan document with its solved case and analysis."""

    document: PlanDocument
    case: Case

    @cached_property
    def analysis(self) -> Analysis:
        return of_case(self.case)


_kept: OrderedDict[int, Known] = OrderedDict()
_lock = threading.Lock()


def study(document: PlanDocument) -> Known:
    """Solve a document that is not stored."""
    return Known(document, solve_case(document))


def known(revision: Revision) -> Known:
    """The analysis of a stored revision, from memory or solved now."""
    with _lock:
        found = _kept.get(revision.pk)
        if found:
            _kept.move_to_end(revision.pk)
            return found
    found = study(load_plan(revision.document))
    remember(revision, found)
    return found


def remember(revision: Revision, found: Known) -> None:
    with _lock:
        _kept[revision.pk] = found
        while len(_kept) > KEPT:
            _kept.popitem(last=False)


def forget_all() -> None:
    """Drop everything kept; another data file has other revisions under the same numbers."""
    with _lock:
        _kept.clear()
