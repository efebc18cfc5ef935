"""Fields of wire pairs: what they do to a compass and to a loop of wire."""

from __future__ import annotations

import math

from yardmeter.core.physics.inductance import MU0_H_M


def pair_field_t(current_a: float, spacing_m: float, distance_m: float) -> float:
    """Flux density [T] of a go-and-return pair: `µ0 I s/(2π d²)`, for distances of several spacings (textbook dipole line)."""
    return MU0_H_M * current_a * spacing_m / (2 * math.pi * distance_m**2)


def heading_error_deg(field_t: float, earth_t: float) -> float:
    """Largest error of a compass [°] in a stray field across its heading: `atan(B/Bh)`."""
    return math.degrees(math.atan(field_t / earth_t))


def safe_distance_m(current_a: float, spacing_m: float, earth_t: float, limit_deg: float) -> float:
    """Distance [m] from a pair at which the heading error falls to the limit; the inverse of the two above."""
    return math.sqrt(MU0_H_M * current_a * spacing_m / (2 * math.pi * earth_t * math.tan(math.radians(limit_deg))))


def induced_v(field_t: float, area_m2: float, frequency_hz: float) -> float:
    """Voltage induced around a loop [V] by a field that alternates: `2π f B A` (Faraday)."""
    return 2 * math.pi * frequency_hz * field_t * area_m2
