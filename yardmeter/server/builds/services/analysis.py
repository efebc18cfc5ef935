"""Analyses of stored revisions, kept in memory: a revision never changes, so neither does its analysis."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass
from functools import cached_property

from yardmeter.core.answers.spread import Spread, SpreadRun
from yardmeter.core.checks.registry import Case
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.plan import load_plan
from yardmeter.core.review import Analysis, of_case, solve_case
from yardmeter.core.review.noise_review import NoiseReview, electrical_key, review_noise
from yardmeter.server.builds.models import Revision

KEPT = 32
RUNS_KEPT = 4


@dataclass(frozen=True)
class Known:
    """A plan document with its solved case and analysis."""

    document: PlanDocument
    case: Case

    @cached_property
    def analysis(self) -> Analysis:
        return of_case(self.case)


_kept: OrderedDict[int, Known] = OrderedDict()
_noises: OrderedDict[str, NoiseReview] = OrderedDict()
_runs: OrderedDict[tuple[str, int], tuple[SpreadRun, threading.Lock]] = OrderedDict()
_lock = threading.Lock()


def study(document: PlanDocument, before: Known | None = None) -> Known:
    """Solve a document that is not stored; `before` is what it was made from."""
    return Known(document, solve_case(document, before.case if before else None))


def known(revision: Revision) -> Known:
    """The analysis of a stored revision, from memory or solved now."""
    with _lock:
        found = _kept.get(revision.pk)
        if found:
            _kept.move_to_end(revision.pk)
            return found
    found = study(document_of(revision))
    remember(revision, found)
    return found


def document_of(revision: Revision) -> PlanDocument:
    """A stored revision's document, brought up from whatever version of the format it was written in."""
    data = revision.document()
    data["version"] = revision.schema_version
    return load_plan(data)


def remember(revision: Revision, found: Known) -> None:
    with _lock:
        _kept[revision.pk] = found
        while len(_kept) > KEPT:
            _kept.popitem(last=False)


def forget_all() -> None:
    """Drop everything kept; another data file has other revisions under the same numbers."""
    with _lock:
        _kept.clear()
        _noises.clear()
        _runs.clear()


def spread_of(found: Known, samples: int, seed: int) -> Spread:
    """A tolerance run of a plan, gone on with where fewer samples of it are solved already."""
    key = (found.document.model_dump_json(), seed)
    with _lock:
        if key not in _runs:
            _runs[key] = (SpreadRun(found.document, seed), threading.Lock())
        _runs.move_to_end(key)
        run, turn = _runs[key]
        while len(_runs) > RUNS_KEPT:
            _runs.popitem(last=False)
    with turn:
        return run.answer(samples)


def noise_of_case(found: Known) -> NoiseReview:
    """The noise of a plan, kept as long as nothing electrical changes: names, notes and colours do not count."""
    key = electrical_key(found.document)
    with _lock:
        if key in _noises:
            _noises.move_to_end(key)
            return _noises[key]
    made = review_noise(found.case.solved)
    with _lock:
        _noises[key] = made
        while len(_noises) > KEPT:
            _noises.popitem(last=False)
    return made
