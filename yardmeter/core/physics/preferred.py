"""Preferred values: E series of IEC 60063."""

from __future__ import annotations

import math

E12 = (10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82)
E24 = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)


def e_series(count: int) -> tuple[float, ...]:
    """The mantissas of a series within one decade, 10 to 100.

    E12 and E24 are the standard's own roundings; from E48 on the values are `10^(k/n)` rounded to three figures, with 9.20
    for E192's 9.19 (IEC 60063).
    """
    if count == 12:
        return tuple(float(v) for v in E12)
    if count == 24:
        return tuple(float(v) for v in E24)
    if count not in (48, 96, 192):
        raise ValueError(f"there is no series E{count}; choose 12, 24, 48, 96 or 192")
    values = [round(10 * 10 ** (k / count), 1) for k in range(count)]
    return tuple(92.0 if count == 192 and v == 91.9 else v for v in values)


def next_up(value: float, count: int = 24) -> float:
    """The least preferred value not below `value`; raises ValueError unless it is positive."""
    if not value > 0:
        raise ValueError(f"no preferred value for {value}")
    decade = math.floor(math.log10(value)) - 1
    values = (mantissa * 10.0**exponent for exponent in (decade, decade + 1) for mantissa in e_series(count))
    return next(one for one in values if one >= value * (1 - 1e-9))
