"""Where each switch stands: below nothing it waits, at nothing or above it falls; unarmed is −∞."""

from __future__ import annotations

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.transient.currents import Stage
from yardmeter.core.solver.transient.packed import Net

OF_BRANCHES, OF_CONSUMERS, OF_CONVERTERS = 1, 4, 6
"""Signals of each: its fuse melts; falls under its brown-out volts, comes back, may boot, may not after all; may start, stops, trips, has
cooled, is at its limit, is free of it."""
LIMITS = 2
"""The last two of every converter, known after a step only."""
UNARMED = -np.inf
HYSTERESIS_V = 1e-3
"""Beyond a threshold before what came back counts as back."""
COOLS_BY_K = 20.0
"""A regulator that tripped starts again so much cooler; common practice, no source."""


@compiled
def write_signals(net: Net, row: int, stage: Stage, warm: Floats, heat: Floats, found: Floats) -> None:
    """Write the signals of a row at the end of a stage, one kind after the other, into `found` (ns + 4 k + 6 m,).

    Converters answer to the input volts that have entered: what is shorter than their control neither starts nor stops
    them. `warm` (m,) are their temperatures, `heat` (ns,) is that of fuses.
    """
    nl, m = net.consumer.shape[1], net.converter.shape[1]
    ns = net.branch.shape[1]
    entered = 3 * ns + nl + 2 * m
    for k in range(found.size):
        found[k] = UNARMED
    for k in range(ns):
        fuse = net.branch[row, k]
        if fuse.melts > 0 and fuse.closed and not fuse.melting:
            found[k] = heat[k] - fuse.melts
    for k in range(nl):
        one = net.consumer[row, k]
        if not one.machine:
            continue
        pin = stage.node[one.p].volts - stage.node[one.n].volts
        if one.mode != 0:
            if np.isinf(one.reset_at):
                found[ns + k] = one.reset_v - pin
            else:
                found[ns + nl + k] = pin - one.reset_v - HYSTERESIS_V
        elif one.wanted:
            if np.isinf(one.begin_at):
                found[ns + 2 * nl + k] = pin - one.restart_v
            else:
                found[ns + 3 * nl + k] = one.restart_v - HYSTERESIS_V - pin
    base = OF_BRANCHES * ns + OF_CONSUMERS * nl
    for k in range(m):
        conv, entry_v = net.converter[row, k], stage.states[entered + k]
        held = conv.latched or conv.tripped or conv.failed
        if conv.enabled and not conv.on and not held and np.isinf(conv.retry_at):
            found[base + k] = entry_v - conv.start_v
        if (conv.on or conv.latched) and conv.stop_v > 0:
            found[base + m + k] = conv.stop_v - entry_v
        if conv.on:
            found[base + 2 * m + k] = warm[k] - conv.trip_c
            if conv.limiting:
                found[base + 5 * m + k] = -1.0 if stage.converter[k].at_limit else 0.0
            else:
                found[base + 4 * m + k] = 0.0 if stage.converter[k].at_limit else -1.0
        if conv.tripped:
            found[base + 3 * m + k] = conv.trip_c - COOLS_BY_K - warm[k]
