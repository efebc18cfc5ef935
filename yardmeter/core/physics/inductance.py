"""Inductance of straight wires, pairs and square loops at low frequency.

Source: E. B. Rosa, The self and mutual inductances of linear conductors, Bulletin of the Bureau of Standards 4 (1908);
the square loop also in Grover, Inductance Calculations. Copper, uniform current; valid while the length is many radii.
"""

from __future__ import annotations

import math

MU0_H_M = 4e-7 * math.pi
"""Magnetic constant [H/m]; the old exact value is within 1e-9 of the measured one."""


def straight_wire_h(length_m: float, radius_m: float) -> float:
    """Self-inductance of a lone straight wire [H]: `µ0 l/2π (ln(2l/r) − 3/4)`, never below zero."""
    return max(MU0_H_M * length_m / (2 * math.pi) * (math.log(2 * length_m / radius_m) - 0.75), 0.0)


def pair_h(length_m: float, spacing_m: float, radius_m: float) -> float:
    """Inductance of a go-and-return pair [H], centre to centre `spacing_m` apart: `µ0 l/π (ln(s/r) + 1/4)`.

    Raises ValueError when the wires would overlap.
    """
    if spacing_m < 2 * radius_m:
        raise ValueError(f"wires of radius {radius_m} m cannot lie {spacing_m} m apart")
    return MU0_H_M * length_m / math.pi * (math.log(spacing_m / radius_m) + 0.25)


def square_loop_h(side_m: float, radius_m: float) -> float:
    """Inductance of a square of round wire [H]: `2 µ0 a/π (ln(a/r) − 0.77401 + 1/4)`, the 1/4 from inside the wire."""
    return max(2 * MU0_H_M * side_m / math.pi * (math.log(side_m / radius_m) - 0.77401 + 0.25), 0.0)
