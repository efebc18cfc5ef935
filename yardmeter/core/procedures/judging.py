"""Whether a reading passes its step."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.probing.meter import METER
from yardmeter.core.procedures.steps import Step

AT_LIMIT_FRAC = 0.97
"""From this share of its limit on a supply holds the current, and no longer the volts."""
Reason = Literal["low", "high", "at the limit", "unforeseen", ""]


@dataclass(frozen=True)
class Judged:
    passed: bool
    reason: Reason


def judge(step: Step, value: float | None) -> Judged:
    """A reading, None for one where the meter shows that nothing conducts, against what passes."""
    if step.unforeseen:
        return Judged(False, "unforeseen")
    seen = math.inf if value is None else value
    if step.limit_a is not None and seen >= AT_LIMIT_FRAC * step.limit_a:
        return Judged(False, "at the limit")
    if not seen >= step.least:
        return Judged(False, "low")
    if step.most is not None and seen > step.most:
        return Judged(False, "high")
    return Judged(True, "")


Sound = Literal["beep", "silent", ""]


def must_beep(step: Step) -> bool:
    """Whether copper is expected there."""
    return step.most is not None and step.most < METER.beep_low_ohm


def judge_heard(step: Step, value: float | None, sound: Sound) -> Judged:
    """The same where it was only heard: silence says no more than that it is not below what a meter beeps at."""
    if sound == "silent" and not must_beep(step) and not step.unforeseen:
        return Judged(step.least <= METER.beep_high_ohm, "" if step.least <= METER.beep_high_ohm else "low")
    return judge(step, value)


def beep_says_little(step: Step) -> bool:
    """Whether a beep may be this build's own parts there, and no short: only ohms tell."""
    return step.expected is not None and not must_beep(step) and step.expected.low < METER.beep_high_ohm


USUAL_LEADS_OHM = (METER.leads_low_ohm + METER.leads_high_ohm) / 2
"""What expectations and the search take the leads for."""


def without_leads(value: float | None, leads_ohm: float | None) -> float | None:
    """A reading of ohms as it would be with usual leads, where the builder's own were read on each other."""
    if value is None or leads_ohm is None:
        return value
    return max(value - leads_ohm, 0.0) + USUAL_LEADS_OHM
