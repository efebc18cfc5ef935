"""The pack: a voltage that falls with the charge taken, behind its cells' ohms."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def rest_fall_v(charge: float, taken_c: NDArray[np.float64], rest_v: NDArray[np.float64]) -> float:
    """What of a pack's rest volts is gone after this charge, along its curve of points (points,)."""
    k = 0
    while k < taken_c.size - 2 and charge >= taken_c[k + 1]:
        k += 1
    slope = (rest_v[k] - rest_v[k + 1]) / (taken_c[k + 1] - taken_c[k])
    return float(rest_v[0] - rest_v[k] + slope * (charge - taken_c[k]))
