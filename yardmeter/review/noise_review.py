"""Everything the Noise view shows of a plan."""

from __future__ import annotations

import json
from dataclasses import dataclass
from hashlib import sha256
from typing import Any

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.filtering import FilterAnswer
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise import PinNoise
from yardmeter.core.answers.pictures import VideoNoise
from yardmeter.core.checks.noise import VISIBLE_DB
from yardmeter.core.checks.noise_case import NoiseCase, noise_case
from yardmeter.core.checks.registry import run_rules
from yardmeter.core.plan import VIDEO_KINDS, Plan
from yardmeter.core.verdict import SEVERITY_ORDER, Verdict
from yardmeter.review.analysis import Reviewed, Told
from yardmeter.review.predicted import LINE_STANDARDS, LineStandard, PredictedPicture, predicted
from yardmeter.words.told import Finding, tell


class NoiseReview(Answer):
    """Noise at pins and on pictures, filters, and findings, worst first. `bare_videos` are without any filter."""

    pins: tuple[PinNoise, ...]
    videos: tuple[VideoNoise, ...]
    bare_videos: tuple[VideoNoise, ...]
    filters: tuple[FilterAnswer, ...]
    findings: tuple[Finding, ...]
    visible_db: float = VISIBLE_DB
    worst: str
    """The condition in which a picture is worst, or, without pictures, a pin nearest to what it stands."""
    noisiest: dict[str, str]
    """By condition the device to look at first: a part of the picture, else whatever is nearest to what it stands."""
    pictures: dict[str, dict[str, dict[str, PredictedPicture]]]
    """By signal, by condition or `worst throttle`, by line standard."""
    standards: dict[str, LineStandard]


@dataclass(frozen=True)
class NoiseReviewed:
    """The noise of a plan, judged."""

    verdicts: tuple[Verdict, ...]
    review: NoiseReview

    @property
    def told(self) -> Told:
        return tuple(zip(self.verdicts, self.review.findings, strict=True))


def review_noise(solved: Solved) -> NoiseReviewed:
    """Solve and judge the noise of a plan whose direct currents are solved."""
    case = noise_case(solved)
    verdicts = run_rules(case, sees="noise")
    found = NoiseReview(
        pins=case.noise.pins,
        videos=case.noise.videos,
        bare_videos=case.noise.bare_videos,
        filters=case.filters,
        findings=tuple(tell(solved.plan, one) for one in verdicts),
        worst=_worst(case),
        noisiest=_noisiest(case),
        pictures=predicted(case.noise),
        standards=LINE_STANDARDS,
    )
    return NoiseReviewed(verdicts, found)


def all_findings(found: Reviewed, noise: NoiseReviewed) -> tuple[Finding, ...]:
    """What is said of a plan without running it in time: of its currents and of its noise, worst first."""
    told = (*found.analysis.findings, *noise.review.findings)
    return tuple(sorted(told, key=lambda one: SEVERITY_ORDER[one.severity]))


def _worst(case: NoiseCase) -> str:
    def size(condition: str) -> float:
        if case.noise.videos:
            return max(one.total_v[condition] for one in case.noise.videos)
        return max((one.total_v[condition] / one.tolerated_v for one in case.noise.pins), default=0.0)

    return max((one.id for one in case.plan.conditions), key=size)


def _noisiest(case: NoiseCase) -> dict[str, str]:
    plan = case.plan
    heard = [one for one in case.noise.pins if not plan.device_of[one.device].throttle]

    def rank(pin: PinNoise, condition: str) -> tuple[bool, float]:
        return plan.device_of[pin.device].kind in VIDEO_KINDS, pin.total_v[condition] / pin.tolerated_v

    return {c.id: max(heard, key=lambda one: rank(one, c.id)).device for c in plan.conditions} if heard else {}


NOT_ELECTRICAL = frozenset({"note", "colour", "revision", "weight_g", "part"})
"""Fields that change no voltage. Names count, since findings carry them."""


def electrical_key(plan: Plan) -> str:
    """What the noise of a plan depends on, in short: equal for plans that differ in nothing electrical."""
    said = json.dumps(_electrical(plan.model_dump(mode="json")), sort_keys=True)
    return sha256(said.encode()).hexdigest()


def _electrical(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: _electrical(v) for k, v in value.items() if k not in NOT_ELECTRICAL}
    return [_electrical(one) for one in value] if isinstance(value, list) else value
