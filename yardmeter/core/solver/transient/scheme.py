"""The step: TR-BDF2 with its third-order companion, and the two-stage method a run starts again with after a switch.

Both are L-stable, of second order, and have the same diagonal `D`, so one factored matrix serves all stages of a step.
Sources: R. E. Bank et al., Transient simulation of silicon devices and circuits (1985); M. E. Hosea, L. F. Shampine,
Analysis and implementation of TR-BDF2 (1996); R. Alexander, Diagonally implicit Runge-Kutta methods (1977).
"""

from __future__ import annotations

import math

RTOL = 3e-3
"""Error allowed in a step, as part of a current or voltage."""
D = 1 - math.sqrt(2) / 2
"""Diagonal of both methods."""
W = math.sqrt(2) / 4
RUNNING = (
    (D, W, W),  # of the slope at the start in the first stage, of it and the first stage's in the second
    (2 * D, W - (1 - W) / 3, W - (3 * W + 1) / 3, D - D / 3),  # where the first stage stands, and the error's weights
)
STARTING = (
    (0.0, 0.0, 1 - D),
    (D, 0.0, -D, D),  # against the first-order companion that takes the first stage's slope alone
)
