"""A passive network between two probes, settled or while its capacitors charge, row by row in machine code; see `passive`.

The source stands between the red probe and the reference, and the black probe's tie is in line with it: so the order in
which a network's nodes are eliminated is one for all places of the probes.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.solver.circuit import Floats, Ints
from yardmeter.core.solver.junctions import (
    DECADE_V,
    FLOOR_S,
    JUNCTION_SHARE,
    KNEE_A,
    ROUNDS,
    SETTLED_V,
    TIED_S,
    TRACE_A,
)
from yardmeter.core.solver.transient.order import Factors, Order, factor, solve

LEAST_F = 1e-18
STEPS_A_DECADE = 48
"""Time steps of charging."""


class Parts(NamedTuple):
    """Ends of a network's parts, the same for all rows."""

    res_a: Ints
    res_b: Ints
    jun_a: Ints
    jun_k: Ints
    cap_a: Ints
    cap_b: Ints
    esr_ohm: Floats


class Touch(NamedTuple):
    """Two probes and the source behind them."""

    red: int
    black: int
    open_v: float
    source_ohm: float


@compiled
def probes(
    order: Order, kept: Factors, parts: Parts, reds: Ints, blacks: Ints, open_v: float, source_ohm: float, siemens: Floats,
    forward_v: Floats, found_v: Floats,
) -> bool:  # fmt: skip
    """Volts of all nodes, capacitors carrying nothing, into `found_v` [P, n] for each place of the probes [P]; False where one
    does not settle.

    Variants [V] follow each other over and over: a place is one of the variant of its number modulo V.
    """
    nodes = order.at.shape[0] - 1
    base, junction = np.zeros(kept.slots.size), np.zeros(parts.jun_a.size)
    new, right, pushed = np.zeros(nodes), np.zeros(nodes), np.zeros(nodes)
    for place in range(reds.size):
        row, touch = place % siemens.shape[0], Touch(reds[place], blacks[place], open_v, source_ohm)
        _lay(order, parts, touch, siemens[row], base)
        pushed[:] = 0.0
        pushed[touch.red] = open_v / (source_ohm - 1 / _tied_s(source_ohm))
        volts, forward = found_v[place], forward_v[row]
        volts[:] = 0.0
        junction[:] = np.minimum(forward, 0.0)
        if not _settle(order, kept, parts, touch, base, pushed, forward, junction, volts, new, right):
            return False
    return True


@compiled
def rises(
    order: Order, kept: Factors, parts: Parts, touch: Touch, siemens: Floats, forward_v: Floats, farad: Floats, held_v: Floats,
    levels_v: Floats, from_s: float, to_s: float, found_s: Floats,
) -> bool:  # fmt: skip
    """When the volts between the probes rise through each level [K], into `found_s` [K, B]; False where a step does not settle.

    `held_v` [B, C] are the capacitors' own volts, which are used up.
    """
    nodes = order.at.shape[0] - 1
    base, stepped = np.zeros(kept.slots.size), np.zeros(kept.slots.size)
    volts, new, right, pushed = np.zeros(nodes), np.zeros(nodes), np.zeros(nodes), np.zeros(nodes)
    conduct, junction = np.zeros(parts.cap_a.size), np.zeros(parts.jun_a.size)
    growth = 10.0 ** (1.0 / STEPS_A_DECADE)
    red, black = touch.red, touch.black
    for row in range(siemens.shape[0]):
        _lay(order, parts, touch, siemens[row], base)
        held, forward = held_v[row], forward_v[row]
        volts[:] = 0.0
        before_v, before_s, at_s = 0.0, 0.0, from_s
        while at_s <= to_s * growth:
            step = at_s - before_s
            stepped[:] = base
            pushed[:] = 0.0
            for c in range(conduct.size):
                a, b = parts.cap_a[c], parts.cap_b[c]
                conduct[c] = 1 / (parts.esr_ohm[c] + step / max(farad[row, c], LEAST_F))
                _tie(stepped, order.at, a, b, conduct[c])
                pushed[a] += conduct[c] * held[c]
                pushed[b] -= conduct[c] * held[c]
            pushed[red] += touch.open_v / (touch.source_ohm - 1 / _tied_s(touch.source_ohm))
            for j in range(junction.size):
                junction[j] = min(volts[parts.jun_a[j]] - volts[parts.jun_k[j]], forward[j])
            if not _settle(order, kept, parts, touch, stepped, pushed, forward, junction, volts, new, right):
                return False
            for c in range(conduct.size):
                across = volts[parts.cap_a[c]] - volts[parts.cap_b[c]]
                held[c] += conduct[c] * (across - held[c]) * step / max(farad[row, c], LEAST_F)
            now, left = volts[red] - volts[black], 0
            for k in range(levels_v.size):
                if now >= levels_v[k] and math.isinf(found_s[k, row]):
                    share = (levels_v[k] - before_v) / max(now - before_v, 1e-12)
                    found_s[k, row] = before_s + share * step if before_s > 0 else 0.0
                left += math.isinf(found_s[k, row])
            if left == 0:
                break
            before_v, before_s, at_s = now, at_s, at_s * growth
    return True


@compiled
def _tied_s(source_ohm: float) -> float:
    """What ties the black probe to the reference [S]: a tenth of the source at most, which may be a pack of under a milliohm."""
    return max(TIED_S, 10 / source_ohm)


@compiled
def _lay(order: Order, parts: Parts, touch: Touch, siemens: Floats, base: Floats) -> None:
    """What stays from step to step: leaks, resistances, the source."""
    base[:] = 0.0
    for i in range(order.at.shape[0] - 1):
        base[order.at[i, i]] = FLOOR_S
    for r in range(siemens.size):
        _tie(base, order.at, parts.res_a[r], parts.res_b[r], siemens[r])
    base[order.at[touch.red, touch.red]] += 1 / (touch.source_ohm - 1 / _tied_s(touch.source_ohm))
    base[order.at[touch.black, touch.black]] += _tied_s(touch.source_ohm)


@compiled
def _tie(slots: Floats, at: Ints, a: int, b: int, siemens: float) -> None:
    slots[at[a, a]] += siemens
    slots[at[b, b]] += siemens
    slots[at[a, b]] -= siemens
    slots[at[b, a]] -= siemens


@compiled
def _settle(
    order: Order, kept: Factors, parts: Parts, touch: Touch, stepped: Floats, pushed: Floats, forward: Floats, junction: Floats,
    volts: Floats, new: Floats, right: Floats,
) -> bool:  # fmt: skip
    """Newton's iteration of one row as in `passive.settle`, from `volts` and into them."""
    for _ in range(ROUNDS):
        kept.slots[:] = stepped
        right[:] = pushed
        for j in range(junction.size):
            a, k = parts.jun_a[j], parts.jun_k[j]
            amps = KNEE_A * 10.0 ** ((junction[j] - forward[j]) / DECADE_V)
            slope = amps * math.log(10.0) / DECADE_V
            _tie(kept.slots, order.at, a, k, slope)
            right[a] -= amps - slope * junction[j]
            right[k] += amps - slope * junction[j]
        if not factor(order, kept):
            return False
        solve(order, kept, right, new)
        moved = abs(new[touch.red] - new[touch.black] - volts[touch.red] + volts[touch.black])
        for j in range(junction.size):
            at, wanted = junction[j], new[parts.jun_a[j]] - new[parts.jun_k[j]]
            if KNEE_A * 10.0 ** ((min(wanted, forward[j]) - forward[j]) / DECADE_V) > TRACE_A:
                moved = max(moved, JUNCTION_SHARE * abs(wanted - at))
            # Above its knee a junction is led up by decades of current, never by volts.
            least = forward[j] - 3 * DECADE_V
            junction[j] = max(at, least) + DECADE_V if wanted > least and wanted > at + DECADE_V else wanted
        volts[:] = new
        if moved < SETTLED_V:
            return True
    return False
