"""Least, usual and most of what a part looks like to a meter while nothing is powered.

All values of the elements are from memory and common practice, no source; a part of one's own may now and then lie outside.
"""

from __future__ import annotations

Band = tuple[float, float, float]
"""Least, usual, most."""

BODY_V: Band = (0.4, 0.5, 0.6)
"""A body diode or a clamp diode of logic."""


def about(value: float, frac: float) -> Band:
    """A value with so much up and down."""
    return value * (1 - frac), value, value * (1 + frac)
