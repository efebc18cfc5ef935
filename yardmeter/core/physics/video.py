"""Composite video: levels, lines, and where an interference lands in the picture.

Sources: SMPTE ST 170 (525 lines, 15 734.27 Hz, 714 mV of picture) and ITU-R BT.1700 / BT.470 (625 lines, 15 625 Hz, 700 mV).
"""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Standard:
    """One line standard: seconds and counts of what is seen."""

    name: str
    line_hz: float
    lines: int
    visible_lines: int
    active_s: float
    picture_v: float

    @property
    def field_hz(self) -> float:
        return 2 * self.line_hz / self.lines


S525 = Standard("525 lines", 4.5e6 / 286, 525, 486, 52.66e-6, 0.714)
S625 = Standard("625 lines", 15_625.0, 625, 576, 52.0e-6, 0.700)
STANDARDS: dict[str, Standard] = {"525": S525, "625": S625}
BANDWIDTH_HZ = 5.0e6
"""Above this an interference is no longer drawn; nominal video bandwidth of both systems."""


def stripe_pitch_lines(standard: Standard, hertz: float) -> float:
    """Distance of the bars an interference draws down the picture [lines of a field]: `f_line / |f − k f_line|`.

    Below half the line frequency these are horizontal bars; near a multiple of it they are slow, far from one they slant.
    """
    offset = hertz - round(hertz / standard.line_hz) * standard.line_hz
    return math.inf if abs(offset) < 1e-9 else abs(standard.line_hz / offset)


def cycles_per_line(standard: Standard, hertz: float) -> float:
    """Periods of an interference across the visible part of one line."""
    return hertz * standard.active_s


def level_db(peak_to_peak_v: float, standard: Standard) -> float:
    """Level of an interference under full picture [dB], peak to peak against black to white."""
    return 20 * math.log10(max(peak_to_peak_v, 1e-9) / standard.picture_v)


def drift_rows_s(standard: Standard, hertz: float) -> float:
    """How fast its bars roll [bars per second]: the distance to the nearest multiple of the field frequency."""
    return abs(hertz - round(hertz / standard.field_hz) * standard.field_hz)
