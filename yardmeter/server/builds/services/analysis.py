"""Analyses of stored revisions, kept in memory: a revision never changes, so neither does its analysis."""

from __future__ import annotations

import threading
from collections.abc import Sequence

from yardmeter.core.answers.spread import Spread, SpreadRun
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.plan import load_plan
from yardmeter.review import Reviewed, review
from yardmeter.review.fixes import FixesOf, tried_fixes
from yardmeter.review.noise_review import NoiseReviewed, electrical_key, review_noise
from yardmeter.server.builds.models import Revision
from yardmeter.server.kept import Kept

OF_A_PLAN = 30
"""Bytes of a review with all its answers, over those of its plan's document; of its noise over what is told of it; of a tolerance run as a review. Measured."""
OF_ITS_NOISE, OF_ITS_RUN = 3, 30


def _bytes_of(plan: PlanDocument) -> int:
    return len(plan.model_dump_json())


_reviews: Kept[Reviewed] = Kept("reviews", lambda one: OF_A_PLAN * _bytes_of(one.plan))
_noises: Kept[NoiseReviewed] = Kept("noise", lambda one: OF_ITS_NOISE * len(one.review.model_dump_json()))
_fixes: Kept[tuple[FixesOf, ...]] = Kept("fixes", lambda all_of: sum(len(one.model_dump_json()) for one in all_of))
_runs: Kept[tuple[SpreadRun, threading.Lock]] = Kept("tolerance runs", lambda one: OF_ITS_RUN * _bytes_of(one[0].plan))


def reviewed(revision: Revision) -> Reviewed:
    """The analysis of a stored revision, from memory or solved now."""
    found = _reviews.get(revision.pk)
    return found or _reviews.put(revision.pk, review(document_of(revision)))


def document_of(revision: Revision) -> PlanDocument:
    """A stored revision's document, brought up from whatever version of the format it was written in."""
    data = revision.document()
    data["version"] = revision.schema_version
    return load_plan(data)


def remember(revision: Revision, found: Reviewed) -> None:
    _reviews.put(revision.pk, found)


def forget_all() -> None:
    """Drop everything kept; another data file has other revisions under the same numbers."""
    for kept in (_reviews, _noises, _fixes, _runs):
        kept.clear()


def spread_of(found: Reviewed, samples: int, seed: int) -> Spread:
    """A tolerance run of a plan, gone on with where fewer samples of it are solved already."""
    key = (found.plan.model_dump_json(), seed)
    run, turn = _runs.get(key) or _runs.put(key, (SpreadRun(found.plan, seed), threading.Lock()))
    with turn:
        return run.answer(samples)


def reviewed_noise(found: Reviewed) -> NoiseReviewed:
    """The noise of a plan, kept as long as nothing electrical changes: names, notes and colours do not count."""
    key = electrical_key(found.plan)
    return _noises.get(key) or _noises.put(key, review_noise(found.solved.solved))


def fixes_of(found: Reviewed, parts: Sequence[Part]) -> tuple[FixesOf, ...]:
    """The fixes of a plan that hold, kept as long as nothing but colours and notes changes, nor the regulators on the shelf.

    Broken off, nothing is kept.
    """
    key = electrical_key(found.plan), tuple(one.model_dump_json() for one in parts)
    kept = _fixes.get(key)
    return kept if kept is not None else _fixes.put(key, tried_fixes(found, reviewed_noise(found), parts))
