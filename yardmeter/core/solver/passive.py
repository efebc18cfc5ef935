"""A network of resistances, junctions and capacitors between two probes: arrays in, arrays out; knows no plan.

A leading axis holds variants of the same network (tolerance corners, faults) or places of the probes. The black probe is
the reference.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

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
from yardmeter.core.solver.passive_loops import Parts, Touch, probes, rises
from yardmeter.core.solver.transient.order import Order, new_factors, order_between

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


UNSETTLED = "the network between the probes did not settle"


@dataclass(frozen=True)
class PassiveNetwork:
    """`nodes` counts them. Resistances a–b [B, R] in siemens; junctions from anode to cathode with forward volts [B, J];
    capacitors a–b [B, C] in farad with a series resistance [C]. Ends are one list for all rows."""

    nodes: int
    res_a: Ints
    res_b: Ints
    siemens: Floats
    jun_a: Ints
    jun_k: Ints
    forward_v: Floats
    cap_a: Ints
    cap_b: Ints
    farad: Floats
    esr_ohm: Floats

    def row(self, index: int) -> PassiveNetwork:
        """One variant alone."""
        one = slice(index, index + 1)
        return replace(self, siemens=self.siemens[one], forward_v=self.forward_v[one], farad=self.farad[one])


@dataclass(frozen=True)
class Probed:
    """Volts at all nodes [B, n] and between the probes [B], and the current the source drives [B]."""

    volts: Floats
    across: Floats
    amps: Floats

    def rows(self, which: slice) -> Probed:
        """Some of the rows."""
        return Probed(self.volts[which], self.across[which], self.amps[which])


def probe(net: PassiveNetwork, red: int | Ints, black: int | Ints, open_v: float, source_ohm: float) -> Probed:
    """The settled state under a source of `open_v` [V] behind `source_ohm` [Ω]; capacitors carry nothing.

    `red` and `black` are one node for all rows, or one for each; where there are more of them than variants, the variants
    follow each other over and over. Raises ArithmeticError where the iteration does not settle.
    """
    batch = max(net.siemens.shape[0], np.size(red), np.size(black))
    reds, blacks = (np.array(np.broadcast_to(one, batch), np.int64) for one in (red, black))
    order, volts = _order(net), np.zeros((batch, net.nodes))
    siemens, forward_v = _in_rows(net.siemens), _in_rows(net.forward_v)
    if not probes(order, new_factors(order), _parts(net), reds, blacks, open_v, source_ohm, siemens, forward_v, volts):
        raise ArithmeticError(UNSETTLED)
    rows = np.arange(batch)
    across = volts[rows, reds] - volts[rows, blacks]
    return Probed(volts, across, (open_v - across) / source_ohm)


def charge_until(
    net: PassiveNetwork, red: int, black: int, open_v: float, source_ohm: float, until_v: Sequence[float], *, from_s: float,
    to_s: float, held_v: Floats | None = None,
) -> Floats:  # fmt: skip
    """When the volts between the probes rise through each of `until_v` [s; K, B].

    Capacitors are empty at first, or at what they have between nodes at `held_v` [B, n].

    0 where they are above it at once, infinite where they are not after `to_s`.
    """
    order = _order(net)
    held = np.zeros(net.farad.shape) if held_v is None else _in_rows(held_v[:, net.cap_a] - held_v[:, net.cap_b])
    found = np.full((len(until_v), net.siemens.shape[0]), np.inf)
    touch, levels = Touch(red, black, open_v, source_ohm), np.asarray(until_v, np.float64)
    siemens, forward_v, farad = _in_rows(net.siemens), _in_rows(net.forward_v), _in_rows(net.farad)
    kept, parts = new_factors(order), _parts(net)
    if not rises(order, kept, parts, touch, siemens, forward_v, farad, held, levels, from_s, to_s, found):
        raise ArithmeticError(UNSETTLED)
    return found


def _in_rows(values: Floats) -> Floats:
    """One row after the other in memory: machine code is made once for that and never again for another way."""
    return np.ascontiguousarray(values, np.float64)


def _parts(net: PassiveNetwork) -> Parts:
    return Parts(net.res_a, net.res_b, net.jun_a, net.jun_k, net.cap_a, net.cap_b, net.esr_ohm)


def _order(net: PassiveNetwork) -> Order:
    return order_between(net.nodes, [net.res_a, net.res_b, net.jun_a, net.jun_k, net.cap_a, net.cap_b])


def stamped(nodes: int, a: Ints, b: Ints, siemens: Floats) -> Floats:
    """Conductance matrices [B, n, n] of resistances a–b [R] or [B, R], every node tied by a leak."""
    matrix = np.zeros((siemens.shape[0], nodes, nodes))
    matrix[:, np.arange(nodes), np.arange(nodes)] = FLOOR_S
    _stamp(matrix, a, b, siemens)
    return matrix


def _stamp(matrix: Floats, a: Ints, b: Ints, siemens: Floats) -> None:
    """Conductances [B, K] between nodes a and b, each [K] or [B, K], added in place."""
    batch, nodes, _ = matrix.shape
    flat = matrix.reshape(-1)
    row = np.arange(batch)[:, None] * nodes
    for i, j, sign in ((a, a, 1.0), (b, b, 1.0), (a, b, -1.0), (b, a, -1.0)):
        at = np.broadcast_to((row + i) * nodes + j, siemens.shape)
        np.add.at(flat, at.reshape(-1), (sign * siemens).reshape(-1))


def push(right: Floats, node: Ints, amps: Floats) -> None:
    """Amps [B, K] added to nodes [K] or [B, K] of a right side [B, n], in place."""
    batch, nodes = right.shape
    at = np.broadcast_to(np.arange(batch)[:, None] * nodes + node, amps.shape)
    np.add.at(right.reshape(-1), at.reshape(-1), amps.reshape(-1))


def settle(
    junctions: tuple[Ints, Ints, Floats], base: Floats, red: Ints, black: Ints, open_v: float, source_ohm: float,
    start: Floats,
) -> Floats:  # fmt: skip
    """Volts of all nodes [B, n]: Newton's iteration with junction volts limited from step to step, as circuit simulators do.

    `junctions` are anodes and cathodes, [J] or [B, J], and forward volts [B, J]; `base` [B, n, n] holds all else. A row that
    has settled is left alone. Raises ArithmeticError where one does not.
    """
    batch, nodes = start.shape
    rows = np.arange(batch)
    base = base.copy()
    for i, j, sign in ((red, red, 1.0), (black, black, 1.0), (red, black, -1.0), (black, red, -1.0)):
        base[rows, i, j] += sign / source_ohm
    base[rows, black, black] += TIED_S
    driven = np.zeros((batch, nodes))
    driven[rows, red] += open_v / source_ohm
    driven[rows, black] -= open_v / source_ohm
    forward = junctions[2]
    anode, cathode = (np.broadcast_to(one, forward.shape) for one in junctions[:2])
    volts = start.copy()
    junction = np.minimum(across(volts, anode, cathode), forward)
    live = rows
    for _ in range(ROUNDS):
        a, k, knee, at = anode[live], cathode[live], forward[live], junction[live]
        amps = KNEE_A * 10 ** ((at - knee) / DECADE_V)
        slope = amps * np.log(10) / DECADE_V
        matrix = base[live]
        _stamp(matrix, a, k, slope)
        right = driven[live]
        extra = amps - slope * at
        push(right, a, -extra)
        push(right, k, extra)
        new = np.asarray(np.linalg.solve(matrix, right[..., None])[..., 0], np.float64)
        wanted = across(new, a, k)
        # Above its knee a junction is led up by decades of current, never by volts.
        least = knee - 3 * DECADE_V
        limited = np.where((wanted > least) & (wanted > at + DECADE_V), np.maximum(at, least) + DECADE_V, wanted)
        # What floats, tied by leaks alone, is rounding; the probes and the junctions that conduct are what counts.
        carries = KNEE_A * 10 ** ((np.minimum(wanted, knee) - knee) / DECADE_V) > TRACE_A
        here = np.arange(len(live))
        probes = new[here, red[live]] - new[here, black[live]]
        before = volts[live, red[live]] - volts[live, black[live]]
        moved = np.maximum(
            np.abs(probes - before), JUNCTION_SHARE * (np.abs(wanted - at) * carries).max(axis=1, initial=0.0)
        )
        volts[live], junction[live] = new, limited
        live = live[moved >= SETTLED_V]
        if not len(live):
            return volts
    raise ArithmeticError(UNSETTLED)


def junction_a(volts: Floats, knee_v: Floats) -> Floats:
    """Amps of junctions with so many volts across them; above the knee no more than a decade is taken for true."""
    return np.asarray(KNEE_A * 10 ** (np.minimum(volts - knee_v, DECADE_V) / DECADE_V), np.float64)


def across(volts: Floats, anode: Ints, cathode: Ints) -> Floats:
    """Volts over junctions [B, J]."""
    return np.asarray(np.take_along_axis(volts, anode, 1) - np.take_along_axis(volts, cathode, 1), np.float64)
