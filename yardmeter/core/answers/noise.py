"""Noise: millivolts at every pin, by source, and on every picture."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.moments import Moment, loudest, rss
from yardmeter.core.answers.pictures import VideoNoise, videos_of
from yardmeter.core.plan import Device, Plan

TOLERATED_V: dict[str, float] = {
    "camera": 0.05,
    "sender": 0.1,
    "digital": 0.2,
    "logic": 0.1,
    "receiver": 0.1,
    "gnss": 0.1,
}
"""Ripple a device stands where its sheet gives none [V, peak to peak]; common practice, no source."""
OTHER_TOLERATED_V = 0.25
QUIET_V = 1e-6


@dataclass(frozen=True, slots=True)
class Heard:
    """One line as it arrives: which source, at which frequency, how large, peak to peak [V]."""

    element: str
    kind: str
    words: str
    hz: float
    pp_v: float


class PinNoise(Answer):
    """Ripple at a device's pins per condition: all lines together by root of squares, and each, loudest first."""

    device: str
    tolerated_v: float
    total_v: dict[str, float]
    lines: dict[str, tuple[Heard, ...]]


class Noise(Answer):
    """Noise at pins and on pictures; `bare_videos` are without any filter."""

    pins: tuple[PinNoise, ...]
    videos: tuple[VideoNoise, ...]
    bare_videos: tuple[VideoNoise, ...]


def noise_of(plan: Plan, moments: list[Moment]) -> Noise:
    """The noise of a plan from its solved moments, one per condition."""
    videos, bare = videos_of(plan, moments)
    return Noise(
        pins=tuple(_pin(device, moments) for device in plan.devices if device.feed), videos=videos, bare_videos=bare
    )


def tolerated_v(device: Device) -> float:
    return device.ripple_max_v or TOLERATED_V.get(device.kind, OTHER_TOLERATED_V)


def _pin(device: Device, moments: list[Moment]) -> PinNoise:
    total, lines = {}, {}
    for at in moments:
        sizes = at.across_pp_v(f"pin:{device.id}", f"gnd:{device.id}")
        total[at.condition.id] = rss(sizes)
        lines[at.condition.id] = tuple(
            Heard(line.element, line.kind, line.words, line.hz, float(sizes[k]))
            for k, line in ((k, at.lines[k]) for k in loudest(sizes, QUIET_V))
        )
    return PinNoise(device=device.id, tolerated_v=tolerated_v(device), total_v=total, lines=lines)
