"""The predicted picture: its level under full picture and what its bars look like, for each line standard."""

from __future__ import annotations

import math
from collections.abc import Sequence

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise import Noise
from yardmeter.core.answers.pictures import Seen, VideoNoise
from yardmeter.core.physics.video import STANDARDS, level_db
from yardmeter.words.pictures import bar_words

WORST_THROTTLE = "worst throttle"
"""Key beside the conditions' ids, which hold no space."""


class LineStandard(Answer):
    """What a drawing of the picture needs of a line standard."""

    name: str
    line_hz: float
    lines: int
    visible_lines: int
    active_s: float
    picture_v: float


LINE_STANDARDS = {
    key: LineStandard(
        name=one.name, line_hz=one.line_hz, lines=one.lines, visible_lines=one.visible_lines, active_s=one.active_s,
        picture_v=one.picture_v,
    )
    for key, one in STANDARDS.items()
}  # fmt: skip


class PredictedPicture(Answer):
    """Levels under full picture [dB] with the filters and without, volts on it peak to peak, and its loudest bars in words."""

    total_v: float
    level_db: float
    bare_level_db: float
    bars: str


def predicted(noise: Noise) -> dict[str, dict[str, dict[str, PredictedPicture]]]:
    """Every picture in every condition, and at its worst throttle where one was looked for."""
    found = {}
    for video, bare in zip(noise.videos, noise.bare_videos, strict=True):
        shown = {c: (video.lines[c], video.total_v[c], bare.total_v[c]) for c in video.lines}
        if video.worst_throttle_frac is not None:
            shown[WORST_THROTTLE] = (video.worst_lines, _total_v(video), _total_v(bare))
        found[video.signal] = {name: {key: _picture(key, *one) for key in STANDARDS} for name, one in shown.items()}
    return found


def _total_v(video: VideoNoise) -> float:
    return math.sqrt(sum(one.pp_v**2 for one in video.worst_lines))


def _picture(standard: str, lines: Sequence[Seen], total_v: float, bare_v: float) -> PredictedPicture:
    rules = STANDARDS[standard]
    bars = bar_words(rules, lines[0].hz) if lines else ""
    levels = level_db(total_v, rules), level_db(bare_v, rules)
    return PredictedPicture(total_v=total_v, level_db=levels[0], bare_level_db=levels[1], bars=bars)
