"""Analyses of stored revisions, kept in memory: a revision never changes, so neither does its analysis."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Sequence

from yardmeter.core.answers.spread import Spread, SpreadRun
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.plan import load_plan
from yardmeter.review import Reviewed, review
from yardmeter.review.fixes import FixesOf, tried_fixes
from yardmeter.review.noise_review import NoiseReviewed, electrical_key, review_noise
from yardmeter.server.builds.models import Revision

KEPT = 32
RUNS_KEPT = 4


_kept: OrderedDict[int, Reviewed] = OrderedDict()
_noises: OrderedDict[str, NoiseReviewed] = OrderedDict()
_fixes: OrderedDict[tuple[str, tuple[str, ...]], tuple[FixesOf, ...]] = OrderedDict()
_runs: OrderedDict[tuple[str, int], tuple[SpreadRun, threading.Lock]] = OrderedDict()
_lock = threading.Lock()


def reviewed(revision: Revision) -> Reviewed:
    """The analysis of a stored revision, from memory or solved now."""
    with _lock:
        found = _kept.get(revision.pk)
        if found:
            _kept.move_to_end(revision.pk)
            return found
    found = review(document_of(revision))
    remember(revision, found)
    return found


def document_of(revision: Revision) -> PlanDocument:
    """A stored revision's document, brought up from whatever version of the format it was written in."""
    data = revision.document()
    data["version"] = revision.schema_version
    return load_plan(data)


def remember(revision: Revision, found: Reviewed) -> None:
    with _lock:
        _kept[revision.pk] = found
        while len(_kept) > KEPT:
            _kept.popitem(last=False)


def forget_all() -> None:
    """Drop everything kept; another data file has other revisions under the same numbers."""
    with _lock:
        _kept.clear()
        _noises.clear()
        _fixes.clear()
        _runs.clear()


def spread_of(found: Reviewed, samples: int, seed: int) -> Spread:
    """A tolerance run of a plan, gone on with where fewer samples of it are solved already."""
    key = (found.plan.model_dump_json(), seed)
    with _lock:
        if key not in _runs:
            _runs[key] = (SpreadRun(found.plan, seed), threading.Lock())
        _runs.move_to_end(key)
        run, turn = _runs[key]
        while len(_runs) > RUNS_KEPT:
            _runs.popitem(last=False)
    with turn:
        return run.answer(samples)


def reviewed_noise(found: Reviewed) -> NoiseReviewed:
    """The noise of a plan, kept as long as nothing electrical changes: names, notes and colours do not count."""
    key = electrical_key(found.plan)
    with _lock:
        if key in _noises:
            _noises.move_to_end(key)
            return _noises[key]
    made = review_noise(found.solved.solved)
    with _lock:
        _noises[key] = made
        while len(_noises) > KEPT:
            _noises.popitem(last=False)
    return made


def fixes_of(found: Reviewed, becs: Sequence[Part]) -> tuple[FixesOf, ...]:
    """The fixes of a plan that hold, kept as long as nothing but colours and notes changes, nor the regulators on the shelf.

    Broken off, nothing is kept.
    """
    key = electrical_key(found.plan), tuple(one.model_dump_json() for one in becs)
    with _lock:
        if key in _fixes:
            _fixes.move_to_end(key)
            return _fixes[key]
    made = tried_fixes(found, reviewed_noise(found), becs)
    with _lock:
        _fixes[key] = made
        while len(_fixes) > KEPT:
            _fixes.popitem(last=False)
    return made
