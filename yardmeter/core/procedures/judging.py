"""Whether a reading passes its step."""

from __future__ import annotations

import math
from dataclasses import dataclass

from yardmeter.core.procedures.checklist import Step


@dataclass(frozen=True)
class Judged:
    passed: bool
    reason: str
    """`low`, `high` or empty."""


def judge(step: Step, value: float | None) -> Judged:
    """A reading, None for one where the meter shows that nothing conducts, against what passes."""
    seen = math.inf if value is None else value
    if seen < step.least:
        return Judged(False, "low")
    if step.most is not None and seen > step.most:
        return Judged(False, "high")
    return Judged(True, "")
