"""Everything the Noise view shows of a plan."""

from __future__ import annotations

import json
from typing import Any

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.filtering import FilterAnswer, filter_answers
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.moments import moments_and_throttles
from yardmeter.core.answers.noise import PinNoise, noise_of
from yardmeter.core.answers.pictures import VideoNoise
from yardmeter.core.checks.finding import Finding
from yardmeter.core.checks.noise import VISIBLE_DB
from yardmeter.core.checks.noise_case import NoiseCase
from yardmeter.core.checks.registry import run_rules
from yardmeter.core.plan import Plan


class NoiseReview(Answer):
    """Noise at pins and on pictures, filters, and findings, worst first. `bare_videos` are without any filter."""

    pins: tuple[PinNoise, ...]
    videos: tuple[VideoNoise, ...]
    bare_videos: tuple[VideoNoise, ...]
    filters: tuple[FilterAnswer, ...]
    findings: tuple[Finding, ...]
    visible_db: float = VISIBLE_DB


def noise_case(solved: Solved) -> NoiseCase:
    """The solved plan with its noise, as rules of noise see it."""
    moments, swept = moments_and_throttles(solved)
    return NoiseCase(solved, moments, noise_of(solved.plan, moments, swept), filter_answers(solved, moments))


def review_noise(solved: Solved) -> NoiseReview:
    case = noise_case(solved)
    return NoiseReview(
        pins=case.noise.pins,
        videos=case.noise.videos,
        bare_videos=case.noise.bare_videos,
        filters=case.filters,
        findings=run_rules(case, noise=True),
    )


NOT_ELECTRICAL = frozenset({"note", "colour", "revision", "weight_g", "part"})
"""Fields that change no voltage. Names count, since findings carry them."""


def electrical_key(plan: Plan) -> str:
    """What the noise of a plan depends on, as text: equal for plans that differ in nothing electrical."""
    return json.dumps(_electrical(plan.model_dump(mode="json")), sort_keys=True)


def _electrical(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: _electrical(v) for k, v in value.items() if k not in NOT_ELECTRICAL}
    return [_electrical(one) for one in value] if isinstance(value, list) else value
