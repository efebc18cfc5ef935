"""Analyses of stored revisions, kept in memory by what they say: a revision never changes, and copies of it are analysed alike."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import sha256

from yardmeter.core.answers.spread import Spread, SpreadRun
from yardmeter.core.fixes import Trials
from yardmeter.core.parts import Part
from yardmeter.core.plan import SCHEMA_VERSION, load_plan
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.review import Reviewed, review
from yardmeter.review.fixes import FixesOf, tried_fixes
from yardmeter.review.noise_review import NoiseReviewed, electrical_key, review_noise
from yardmeter.server.builds.documents import Document
from yardmeter.server.builds.models import Revision
from yardmeter.server.kept import Kept

OF_AN_ELEMENT, IN_A_CONDITION = 15_000, 550
"""Bytes of a review with all its answers for every element, and for every element in every condition. Measured."""
OF_ITS_NOISE = 3
"""Bytes of a plan's noise over what is told of it. Measured."""


def bytes_of_review(plan: PlanDocument) -> int:
    """About what the review of a plan, or a tolerance run of it, is held in."""
    return len(plan.elements) * (OF_AN_ELEMENT + IN_A_CONDITION * len(plan.conditions))


@dataclass(frozen=True)
class Whole:
    """A revision that is stored whole: its plain document, and the bytes it is stored in."""

    revision_id: int
    document: Document
    packed_bytes: int


OF_ITS_PLAIN_DATA = 30
"""Bytes of a plain document over those it is stored in. Measured."""
_wholes: Kept[Whole] = Kept("documents", lambda one: OF_ITS_PLAIN_DATA * one.packed_bytes)
_contents: Kept[str] = Kept("contents", len)
_reviews: Kept[Reviewed] = Kept("reviews", lambda one: bytes_of_review(one.plan))
_edited: Kept[Reviewed] = Kept("reviews of edits", lambda one: bytes_of_review(one.plan))
_noises: Kept[NoiseReviewed] = Kept("noise", lambda one: OF_ITS_NOISE * len(one.review.model_dump_json()))
_fixes: Kept[tuple[FixesOf, ...]] = Kept("fixes", lambda all_of: sum(len(one.model_dump_json()) for one in all_of))
OF_TRIALS = 200_000
"""Bytes of the trials of a plan that has many; reckoned before there are any. Of the demos 42,000 at most."""
_trials: Kept[Trials] = Kept("trials", lambda _: OF_TRIALS)
_runs: Kept[tuple[SpreadRun, threading.Lock]] = Kept("tolerance runs", lambda one: bytes_of_review(one[0].plan))


def reviewed(revision: Revision) -> Reviewed:
    """The analysis of a stored revision, from memory or solved now."""
    if (found := _edited.get(revision.pk)) is not None:
        return found
    key, plan = _content(revision)
    return _reviews.get(key) or _reviews.put(key, review(plan or document_of(revision)))


def content_key(revision: Revision) -> str:
    """Equal for revisions that say the same, of whatever plan: what is known of one of them is known of all."""
    return _content(revision)[0]


def _content(revision: Revision) -> tuple[str, PlanDocument | None]:
    """The key of what a revision says, and what that is where it had to be read for it."""
    if (found := _contents.get(revision.pk)) is not None:
        return found, None
    plan = document_of(revision)
    return _contents.put(revision.pk, sha256(plan.model_dump_json().encode()).hexdigest()), plan


def document_of(revision: Revision) -> PlanDocument:
    """A stored revision's document, brought up from whatever version of the format it was written in."""
    data = revision.document()
    data["version"] = revision.schema_version
    return load_plan(data)


def whole_behind(head: Revision) -> Whole | None:
    """The revision stored whole that a head differs from, itself where it is one; none of an older format."""
    whole_id = head.base_id or head.pk
    known = _wholes.get(whole_id)
    if known is None:
        found = Revision.objects.get(pk=whole_id)
        if found.schema_version != SCHEMA_VERSION:
            return None
        known = _wholes.put(whole_id, Whole(whole_id, found.document(), len(found.packed)))
    return known


def remember(revision: Revision, found: Reviewed) -> None:
    """The analysis a revision came into being with; under its own number, since an edit does not wait for the key of its content."""
    _edited.put(revision.pk, found)


def forget_revisions() -> None:
    """Another data file has other revisions under the same numbers. What is kept by content stays."""
    for kept in (_wholes, _contents, _edited):
        kept.clear()


def spread_of(found: Reviewed, samples: int, seed: int) -> Spread:
    """A tolerance run of a plan, gone on with where fewer samples of it are solved already."""
    key = (sha256(found.plan.model_dump_json().encode()).hexdigest(), seed)
    run, turn = _runs.get(key) or _runs.put(key, (SpreadRun(found.plan, seed), threading.Lock()))
    with turn:
        return run.answer(samples)


def reviewed_noise(found: Reviewed) -> NoiseReviewed:
    """The noise of a plan, kept as long as nothing electrical changes: names, notes and colours do not count."""
    key = electrical_key(found.plan)
    return _noises.get(key) or _noises.put(key, review_noise(found.solved.solved))


def fixes_of(found: Reviewed, parts: Sequence[Part]) -> tuple[FixesOf, ...]:
    """The fixes of a plan that hold, kept as long as nothing but colours and notes changes, nor the regulators on the shelf.

    Broken off, they are gone on with: a page that is left, or shows another condition, asks anew.
    """
    key = electrical_key(found.plan), tuple(one.model_dump_json() for one in parts)
    if (kept := _fixes.get(key)) is not None:
        return kept
    trials = _trials.get(key)
    if trials is None:
        trials = _trials.put(key, {})
    made = _fixes.put(key, tried_fixes(found, reviewed_noise(found), parts, trials))
    _trials.drop(key)
    return made
