"""The way of a picture in words."""

from __future__ import annotations

import math

from yardmeter.core.graph import Picture
from yardmeter.core.physics.video import Standard, cycles_per_line, drift_rows_s, stripe_pitch_lines
from yardmeter.core.plan import Plan


def path_words(plan: Plan, picture: Picture) -> str:
    """“Camera → Controller (on-screen display) → Sender”."""
    boards = plan.board_of
    written = (" (on-screen display)" if one in boards and boards[one].osd else "" for one in picture.owners)
    return " → ".join(f"{plan.title(one)}{display}" for one, display in zip(picture.owners, written, strict=True))


def bar_words(standard: Standard, hertz: float) -> str:
    """What the bars an interference draws look like."""
    pitch = stripe_pitch_lines(standard, hertz)
    if hertz < standard.line_hz / 2:
        count, rolling = standard.visible_lines / 2 / pitch, drift_rows_s(standard, hertz)
        return f"{count:.1f} bars lying across the picture, rolling {rolling:.1f} a second"
    across = cycles_per_line(standard, hertz)
    slant = f"shifting one period every {pitch:.1f} lines" if math.isfinite(pitch) else "standing upright"
    return f"{across:.0f} {'wave' if across < 1.5 else 'waves'} across a line, {slant}"
