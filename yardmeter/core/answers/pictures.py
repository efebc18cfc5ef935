"""What noise does to pictures: by the supplies of a signal's two ends and by their grounds, at every throttle."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise_solutions import NoiseSolution, Throttles, loudest, rss
from yardmeter.core.network.keys import ground_node, pin_node
from yardmeter.core.physics.video import BANDWIDTH_HZ, S525, level_db
from yardmeter.core.plan import Plan, Signal
from yardmeter.core.solver.circuit import Floats

INVISIBLE_V = 1e-7


@dataclass(frozen=True, slots=True)
class Seen:
    """One line on a picture: by the supplies of its two ends, and by their grounds, peak to peak [V]."""

    element: str
    words: str
    hz: float
    supply_v: float
    ground_v: float

    @property
    def pp_v(self) -> float:
        return self.supply_v + self.ground_v


class VideoNoise(Answer):
    """A video signal per condition: level under full picture, and its lines, loudest first."""

    signal: str
    level_db: dict[str, float]
    total_v: dict[str, float]
    lines: dict[str, tuple[Seen, ...]]
    worst_throttle_frac: float | None
    worst_lines: tuple[Seen, ...]


def videos_of(plan: Plan, solutions: list[NoiseSolution], swept: Throttles | None = None) -> tuple[tuple[VideoNoise, ...], tuple[VideoNoise, ...]]:  # fmt: skip
    """Every picture, as planned and without any filter; its worst throttle where one was `swept`."""
    signals = [s for s in plan.signals if s.kind == "video"]
    planned = tuple(_video(plan, s, solutions, swept) for s in signals)
    if not any(at.others for at in solutions):
        return planned, planned
    bare = [at.without() for at in solutions], swept and replace(swept, at=swept.at.without())
    return planned, tuple(_video(plan, s, *bare) for s in signals)


def _video(plan: Plan, signal: Signal, solutions: list[NoiseSolution], swept: Throttles | None) -> VideoNoise:
    shares = {at.condition.id: (at, *_on_picture(plan, signal, at)) for at in solutions}
    total = {c: rss(supply + ground) for c, (_, supply, ground) in shares.items()}
    throttle, worst = _worst(plan, signal, swept) if swept else (None, ())
    return VideoNoise(
        signal=signal.id,
        level_db={c: level_db(v, S525) for c, v in total.items()},
        total_v=total,
        lines={c: _seen(*share) for c, share in shares.items()},
        worst_throttle_frac=throttle,
        worst_lines=worst,
    )


def _worst(plan: Plan, signal: Signal, swept: Throttles) -> tuple[float, tuple[Seen, ...]]:
    """The throttle at which most is seen, and what is seen there."""
    supply, ground = _on_picture(plan, signal, swept.at)
    throttle, mine = max(swept.together, key=lambda one: rss((supply + ground)[one[1]]))
    return throttle, _seen(swept.at, supply, ground, mine)


def _on_picture(plan: Plan, signal: Signal, at: NoiseSolution) -> tuple[Floats, Floats]:
    """What every line does to a picture (lines,), peak to peak [V]: by the supplies of both ends, by their grounds."""
    ends = [plan.owner_of[one].id for one in (signal.source, signal.sink)]
    passes = np.array([line.hz < BANDWIDTH_HZ for line in at.lines], float)
    ground = at.across_pp_v(ground_node(ends[0]), ground_node(ends[1]))
    supply = np.zeros(len(at.lines))
    for end in ends:
        device = plan.device_of.get(end)
        if device and device.feed:
            supply += 10 ** (-device.rejection_db / 20) * at.across_pp_v(pin_node(end), ground_node(end))
    return passes * supply, passes * ground


def _seen(at: NoiseSolution, supply: Floats, ground: Floats, among: list[int] | None = None) -> tuple[Seen, ...]:
    places = np.arange(len(at.lines)) if among is None else np.array(among, np.int64)
    return tuple(
        Seen(at.lines[k].element, at.lines[k].words, at.lines[k].hz, float(supply[k]), float(ground[k]))
        for k in places[loudest((supply + ground)[places], INVISIBLE_V)]
    )
