"""Lines of a run as a picture draws them: least and most of each stretch, so that no peak is lost."""

from __future__ import annotations

import numpy as np

from yardmeter.core.solver.circuit import Floats


def envelope(values: Floats, times_s: Floats, edges_s: Floats) -> tuple[Floats, Floats]:
    """Least and most of values between each two edges, straight lines between the steps; NaN beyond the last step."""
    at = np.interp(edges_s, times_s, values, right=np.nan)
    low, high = np.fmin(at[:-1], at[1:]), np.fmax(at[:-1], at[1:])
    which = np.searchsorted(edges_s, times_s, side="right") - 1
    inside = (which >= 0) & (which < low.size)
    np.fmin.at(low, which[inside], values[inside])
    np.fmax.at(high, which[inside], values[inside])
    return low, high
