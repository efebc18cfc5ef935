"""Fixes of a plan, tried and told: by finding, those that cure it, best first."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.model import Answer
from yardmeter.core.fixes import Trials, from_shelf, vetted, vetted_noise
from yardmeter.core.fixes.filters import with_filters
from yardmeter.core.parts import Part
from yardmeter.review.analysis import Reviewed
from yardmeter.review.noise_review import NoiseReviewed
from yardmeter.words.told import ToldFix, tell_fixes


class FixesOf(Answer):
    """What cures one finding, by its key."""

    key: str
    fixes: tuple[ToldFix, ...]


def tried_fixes(
    found: Reviewed, noise: NoiseReviewed, parts: Sequence[Part] = (), trials: Trials | None = None
) -> tuple[FixesOf, ...]:
    """Every fix there is for the findings of a plan and of its noise; takes as long as solving the plan once for each.

    `parts` are the shelf's stand-alone regulators, proposed before generic ones, and its filters. `trials` are those of the same
    plan and parts that have ended already.
    """
    verdicts = from_shelf(found.plan, found.verdicts, parts)
    filtered = with_filters(found.plan, noise.verdicts, parts)
    good = vetted(found.solved, verdicts, trials) | vetted_noise(found.solved, filtered, trials)
    return tuple(FixesOf(key=key, fixes=tell_fixes(found.plan, fixes)) for key, fixes in good.items())
