"""What an edit did to the noise: findings that came or went, pictures that got better or worse, ripple that moved."""

from __future__ import annotations

import math
from collections.abc import Collection

from yardmeter.core.answers.noise import PinNoise
from yardmeter.core.answers.pictures import VideoNoise
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_db, format_si
from yardmeter.review.changes import SHOWN, Change, finding_changes
from yardmeter.review.noise_review import NoiseReviewed

MOVED_DB = 0.5
PINS_SHOWN = 3


Dead = Collection[tuple[str, str]]
"""Devices that get nothing, each with the condition: silence there is no improvement."""


def noise_changes(plan: Plan, before: NoiseReviewed, after: NoiseReviewed, dead: Dead = ()) -> tuple[Change, ...]:
    """Findings first, then pictures, then the pins whose ripple moved most; each in the condition it moved most in."""
    findings = finding_changes(before.told, after.told, {device for device, _ in dead})
    was, now = before.review, after.review
    told = {change.element for change in findings}
    pictures = _moved(plan, dead, {v.signal: v for v in was.videos}, {v.signal: v for v in now.videos})
    pins = _moved(plan, dead, {p.device: p for p in was.pins}, {p.device: p for p in now.pins})
    moved = [change for change in (*pictures, *pins[:PINS_SHOWN]) if change.element not in told]
    return (*findings, *moved)[:SHOWN]


def _moved(plan: Plan, dead: Dead, before: dict[str, PinNoise] | dict[str, VideoNoise], after: dict[str, PinNoise] | dict[str, VideoNoise]) -> list[Change]:  # fmt: skip
    """Places whose noise moved by more than is worth a word, most moved first."""
    found = []
    for key, now in after.items():
        was = before.get(key)
        if was is None:
            continue
        ends = _ends(plan, key)
        lit = [c for c in now.total_v if c in was.total_v and not any((end, c) in dead for end in ends)]
        moves = {c: _db(now.total_v[c]) - _db(was.total_v[c]) for c in lit}
        condition = max(moves, key=lambda c: abs(moves[c]), default=None)
        if condition is None or abs(moves[condition]) < MOVED_DB:
            continue
        sizes = " → ".join(format_si(one.total_v[condition], "V") for one in (was, now))
        what = "interference" if isinstance(now, VideoNoise) else "ripple"
        text = f"{plan.title(key)}: {what} {sizes} ({format_db(moves[condition], 1, signed=True)})"
        direction = "worse" if moves[condition] > 0 else "better"
        found.append((abs(moves[condition]), Change(direction=direction, text=text, element=key, condition=condition)))
    return [change for _, change in sorted(found, key=lambda one: -one[0])]


def _ends(plan: Plan, key: str) -> tuple[str, ...]:
    """The device of a pin, or both ends of a picture's signal."""
    signal = plan.signal_of.get(key)
    return (plan.owner_of[signal.source].id, plan.owner_of[signal.sink].id) if signal else (key,)


def _db(volts: float) -> float:
    """Level over a microvolt; what is less is silence."""
    return 20 * math.log10(max(volts, 1e-6) / 1e-6)
