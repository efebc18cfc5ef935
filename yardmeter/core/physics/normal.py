"""The normal distribution, with no more than Python's own error function: a library of special functions takes fourteen megabytes
of every server and a tenth of a second of every start."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

_erfc = np.frompyfunc(math.erfc, 1, 1)


def below(z: Any) -> NDArray[np.float64]:
    """Chance that what is normal is less than `z` standard deviations above its mean: Φ(z) = erfc(−z/√2)/2."""
    return np.asarray(_erfc(np.asarray(z, float) / -math.sqrt(2)), float) / 2
