"""Noise: millivolts at every pin, by source, and on every picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise_solutions import SHOWN, NoiseSolution, Throttles
from yardmeter.core.answers.pictures import VideoNoise, videos_of
from yardmeter.core.network.keys import ground_node, pin_node
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


def noise_of(plan: Plan, solutions: list[NoiseSolution], swept: Throttles | None = None) -> Noise:
    """The noise of a plan from its solved solutions, one per condition; pictures' worst throttle where one was `swept`."""
    videos, bare = videos_of(plan, solutions, swept)
    return Noise(
        pins=_pins([device for device in plan.devices if device.feed], solutions), videos=videos, bare_videos=bare
    )


def tolerated_v(device: Device) -> float:
    return device.ripple_max_v or TOLERATED_V.get(device.kind, OTHER_TOLERATED_V)


def _pins(devices: list[Device], solutions: list[NoiseSolution]) -> tuple[PinNoise, ...]:
    heard = {at.condition.id: _heard(devices, at) for at in solutions}
    return tuple(
        PinNoise(
            device=device.id,
            tolerated_v=tolerated_v(device),
            total_v={condition: found[k][0] for condition, found in heard.items()},
            lines={condition: found[k][1] for condition, found in heard.items()},
        )
        for k, device in enumerate(devices)
    )


def _heard(devices: list[Device], at: NoiseSolution) -> list[tuple[float, tuple[Heard, ...]]]:
    """Of each device all lines together [V peak to peak], and each, loudest first."""
    node = at.network.node
    pins = [node[pin_node(device.id)] for device in devices]
    grounds = [node[ground_node(device.id)] for device in devices]
    sizes = 2 * np.abs(at.volts[:, pins] - at.volts[:, grounds])
    totals = np.sqrt(np.sum(sizes**2, axis=0)).tolist()
    order = np.argsort(-sizes, axis=0, kind="stable")[:SHOWN].T.tolist()
    found = []
    for total, places, own in zip(totals, order, sizes.T.tolist(), strict=True):
        loud = [(at.lines[k], own[k]) for k in places if own[k] > QUIET_V]
        found.append((total, tuple(Heard(line.element, line.kind, line.words, line.hz, pp_v) for line, pp_v in loud)))
    return found
