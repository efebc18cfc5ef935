"""Fixes of a plan, tried and told: by finding, those that cure it, best first."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.model import Answer
from yardmeter.core.fixes import from_shelf, vetted, vetted_noise
from yardmeter.core.fixes.filters import with_filters
from yardmeter.core.parts import Part
from yardmeter.review.analysis import Reviewed
from yardmeter.review.noise_review import NoiseReviewed
from yardmeter.words.told import ToldFix, tell_fixes


class FixesOf(Answer):
    """What cures one finding, by its key."""

    key: str
    fixes: tuple[ToldFix, ...]


def tried_fixes(found: Reviewed, noise: NoiseReviewed, parts: Sequence[Part] = ()) -> tuple[FixesOf, ...]:
    """Every fix there is for the findings of a plan and of its noise; takes as long as solving the plan once for each.

    `parts` are the shelf's stand-alone regulators, proposed before generic ones, and its filters.
    """
    verdicts = from_shelf(found.plan, found.verdicts, parts)
    good = vetted(found.solved, verdicts) | vetted_noise(found.solved, with_filters(found.plan, noise.verdicts, parts))
    return tuple(FixesOf(key=key, fixes=tell_fixes(found.plan, fixes)) for key, fixes in good.items())
