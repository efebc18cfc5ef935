"""Everything the Noise view shows of a plan."""

from __future__ import annotations

from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.answers.filtering import FilterAnswer, filter_answers
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise import PinNoise, VideoNoise, moment, noise_of
from yardmeter.core.checks.finding import Finding
from yardmeter.core.checks.noise import VISIBLE_DB
from yardmeter.core.checks.noise_case import NoiseCase, run_noise_rules
from yardmeter.core.plan import Plan


class NoiseReview(Answer):
    """Noise at pins and on pictures, filters, and findings, worst first."""

    pins: tuple[PinNoise, ...]
    videos: tuple[VideoNoise, ...]
    filters: tuple[FilterAnswer, ...]
    findings: tuple[Finding, ...]
    visible_db: float = VISIBLE_DB


def noise_case(solved: Solved) -> NoiseCase:
    """The solved plan with its noise, as rules of noise see it."""
    moments = [moment(solved, condition) for condition in solved.plan.conditions]
    return NoiseCase(solved, moments, noise_of(solved.plan, moments), filter_answers(solved, moments))


def review_noise(solved: Solved) -> NoiseReview:
    case = noise_case(solved)
    return NoiseReview(
        pins=case.noise.pins, videos=case.noise.videos, filters=case.filters, findings=run_noise_rules(case)
    )


def review_plan_noise(plan: Plan) -> NoiseReview:
    """The same from a plan that is not solved yet."""
    return review_noise(solve_conditions(plan))
