"""Heat of what reacts in line with a wire: fuses and NTCs."""

from __future__ import annotations

import math

MELTS_FRAC = 1.35
"""A fuse carries this much over its print for long and no more; ISO 8820 asks blades for it, from memory."""
NTC_B_K = 3000.0
"""How an NTC's resistance falls, `R = R25 exp(B (1/T − 1/T25))`; typical of inrush limiters, from memory."""
ZERO_K = 273.15
COLD_K = ZERO_K + 25.0


def fuse_s(rated_a: float, melts_a2s: float) -> float:
    """Time constant of a fuse [s], so that a short melts it at its I²t.

    Its heat is counted as the square of the current it would carry for ever, in parts of its print: it follows
    `τ dx/dt = (I/In)² − x` and melts at 1.35². For short times `x = I² t / (τ In²)`. Textbook, first order.
    """
    return melts_a2s / (MELTS_FRAC**2 * rated_a**2)


def fuse_burst_frac(rated_a: float, melts_a2s: float, held_s: float) -> float:
    """How many times its print a cold fuse carries for so long, as far from melting as it is at its print for ever."""
    return 1 / math.sqrt(1 - math.exp(-held_s / fuse_s(rated_a, melts_a2s)))


def ntc_ohm(cold_ohm: float, temp_c: float) -> float:
    """Resistance at a temperature [Ω]."""
    return cold_ohm * math.exp(NTC_B_K * (1 / (temp_c + ZERO_K) - 1 / COLD_K))


def ntc_temp_c(cold_ohm: float, ohm: float) -> float:
    """Temperature at which it has this resistance [°C]."""
    return 1 / (1 / COLD_K + math.log(ohm / cold_ohm) / NTC_B_K) - ZERO_K


def ntc_w_k(cold_ohm: float, warm_ohm: float, warm_a: float) -> float:
    """Heat it gives off for each kelvin over 25 °C [W/K], from its resistance at its greatest current."""
    return warm_a**2 * warm_ohm / (ntc_temp_c(cold_ohm, warm_ohm) + ZERO_K - COLD_K)


def ntc_settled_c(cold_ohm: float, w_k: float, amps: float, air_c: float) -> float:
    """Temperature at which a current keeps it [°C]: what it makes, `I² R`, it gives off. By halving."""
    low, high = air_c, air_c + 1000.0
    for _ in range(60):
        middle = (low + high) / 2
        if amps**2 * ntc_ohm(cold_ohm, middle) > w_k * (middle - air_c):
            low = middle
        else:
            high = middle
    return (low + high) / 2
