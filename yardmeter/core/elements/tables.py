"""Tables of a netlist: what bends as points a simulator draws straight lines between."""

from __future__ import annotations

import numpy as np

MOST = 30.0
"""How far tables go, in parts of where the thing bends."""
POINTS = 60


def both_ways(most: float) -> list[float]:
    """Points on both sides of nothing, closer where it bends."""
    side = most * np.linspace(0, 1, POINTS) ** 3
    return [*(-side[:0:-1]).tolist(), *side.tolist()]


def points(pairs: list[tuple[float, float]]) -> str:
    return ",".join(f"{x:.9g},{y:.9g}" for x, y in pairs)
