"""What the volts at a device's pins mean for it: at one point, and from a full pack down to its floor."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from yardmeter.core.answers.model import DeviceState, DeviceVerdict, Weight
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.elements.motor import turns
from yardmeter.core.plan import Condition, Device

NEAR_V = 1e-3
"""So near to a limit a sweep is looked at point by point: one that is met exactly may be kept at one end only."""
HEAVIEST_FIRST: tuple[Weight | None, ...] = ("danger", "fault", "caution", None)


@dataclass(frozen=True, slots=True)
class VerdictSpan:
    """What its volts mean for a device from this cell voltage down to where the next span begins."""

    cell_v: float
    verdict: DeviceVerdict


def verdict(device: Device, pin_v: float, *, off: bool, fed: bool, trying: bool = False) -> DeviceVerdict:
    """What the volts at its pins mean for a device; over-voltage counts whether it is switched on or not.

    On a rail that is brought up and let fall over and over (`trying`) it resets every time.
    """
    found = device.at_volts(pin_v)
    if found == "high":
        return found
    if off:
        return "off"
    if not fed or pin_v < LIVE_V:
        return "reset" if trying else "dead"
    return found


def is_off(device: Device, condition: Condition) -> bool:
    """Whether nothing runs in it there; a motor's ESC at no throttle is off too."""
    return condition.state_of(device.id) == "off" or bool(device.throttle and not turns(condition.throttle_frac))


def weight(device: Device, condition: Condition, found: DeviceVerdict) -> Weight | None:
    """How heavily what its volts mean weighs in a condition; None where it is as it should be.

    Without the pack, on USB say, most of a craft is dead as it is meant to be. Where no point was found the craft fails.
    """
    match found:
        case "high" | "unknown":
            return "danger"
        case "reset":
            return "danger" if device.keeps_control and condition.throttle_frac > 0 else "fault"
        case "dead" if condition.on_pack:
            return "danger" if device.keeps_control else "fault"
        case "low":
            return "caution"
        case _:
            return None


def worst_state(states: dict[str, DeviceState]) -> str | None:
    """The condition that weighs heaviest, of equal ones that furthest outside the window; None where none weighs."""
    heavy = {c: s for c, s in states.items() if s.weight}

    def order(condition: str) -> tuple[int, float]:
        state = heavy[condition]
        return HEAVIEST_FIRST.index(state.weight), -state.pin_v if state.verdict == "high" else state.pin_v

    return min(heavy, key=order, default=None)


def verdict_spans(
    device: Device,
    cells_v: Sequence[float],
    pins_v: Sequence[float],
    known: Sequence[bool],
    *,
    off: bool,
    fed: bool = True,
    trying: Sequence[bool] | None = None,
) -> tuple[VerdictSpan, ...]:
    """The verdicts on a sweep whose cell volts fall, its pins on straight lines between its points.

    Lines from or to a point that is not `known` are “unknown”. One that is not `fed` is dead, whatever volts float there.
    """
    trying = trying or [False] * len(pins_v)
    low_v, high_v = min(pins_v), max(pins_v)
    if (
        all(known)
        and len({*trying}) == 1
        and not any(low_v - NEAR_V <= limit <= high_v + NEAR_V for limit in _limits(device))
    ):
        return (VerdictSpan(cells_v[0], verdict(device, high_v, off=off, fed=fed, trying=trying[0])),)
    spans: list[VerdictSpan] = []
    for k in range(1, len(cells_v)):
        (top, bottom), (start, end) = cells_v[k - 1 : k + 1], pins_v[k - 1 : k + 1]
        crossed = [(start - limit) / (start - end) for limit in _limits(device) if min(start, end) < limit < max(start, end)]  # fmt: skip
        edges = [0.0, *sorted(crossed), 1.0]
        for share, until in itertools.pairwise(edges):
            pin_v = start + (end - start) * (share + until) / 2
            sees = known[k - 1] and known[k]
            found: DeviceVerdict = verdict(device, pin_v, off=off, fed=fed, trying=trying[k]) if sees else "unknown"
            if not spans or spans[-1].verdict != found:
                spans.append(VerdictSpan(cell_v=top + (bottom - top) * share, verdict=found))
    return tuple(spans)


def _limits(device: Device) -> tuple[float, ...]:
    return LIVE_V, device.reset_v, device.min_v, device.max_v
