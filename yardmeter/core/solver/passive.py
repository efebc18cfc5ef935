"""A network of resistances, junctions and capacitors between two probes: arrays in, arrays out; knows no plan.

A leading axis holds variants of the same network (tolerance corners, faults) or places of the probes. The black probe is
the reference.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from yardmeter.core.solver.charging import Parts, Touch, rises
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
from yardmeter.core.solver.transient.order import new_factors, order_between

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


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

    `red` and `black` are one node for all rows, or one for each. Raises ArithmeticError where the iteration does not settle.
    """
    batch = net.siemens.shape[0]
    reds, blacks = np.broadcast_to(red, batch), np.broadcast_to(black, batch)
    volts = settle(
        (net.jun_a, net.jun_k, net.forward_v),
        _stamped(net),
        reds,
        blacks,
        open_v,
        source_ohm,
        np.zeros((batch, net.nodes)),
    )
    rows = np.arange(batch)
    across = volts[rows, reds] - volts[rows, blacks]
    return Probed(volts, across, (open_v - across) / source_ohm)


def repeated(net: PassiveNetwork, times: int) -> PassiveNetwork:
    """The same variants so many times over, one block after the other, for as many places of the probes."""
    siemens, forward_v, farad = (np.tile(one, (times, 1)) for one in (net.siemens, net.forward_v, net.farad))
    return replace(net, siemens=siemens, forward_v=forward_v, farad=farad)


def charge_until(
    net: PassiveNetwork, red: int, black: int, open_v: float, source_ohm: float, until_v: Sequence[float], *, from_s: float,
    to_s: float, held_v: Floats | None = None,
) -> Floats:  # fmt: skip
    """When the volts between the probes rise through each of `until_v` [s; K, B].

    Capacitors are empty at first, or at what they have between nodes at `held_v` [B, n].

    0 where they are above it at once, infinite where they are not after `to_s`.
    """
    parts = Parts(net.res_a, net.res_b, net.jun_a, net.jun_k, net.cap_a, net.cap_b, net.esr_ohm)
    order = order_between(net.nodes, [*parts[:6], np.array([red]), np.array([black])])
    held = np.zeros_like(net.farad) if held_v is None else held_v[:, net.cap_a] - held_v[:, net.cap_b]
    found = np.full((len(until_v), net.siemens.shape[0]), np.inf)
    touch = Touch(red, black, open_v, source_ohm, from_s, to_s)
    levels = np.asarray(until_v, np.float64)
    if not rises(order, new_factors(order), parts, touch, net.siemens, net.forward_v, net.farad, held, levels, found):
        raise ArithmeticError("the network between the probes did not settle")
    return found


def _stamped(net: PassiveNetwork) -> Floats:
    return stamped(net.nodes, net.res_a, net.res_b, net.siemens)


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
    raise ArithmeticError("the network between the probes did not settle")


def junction_a(volts: Floats, knee_v: Floats) -> Floats:
    """Amps of junctions with so many volts across them; above the knee no more than a decade is taken for true."""
    return np.asarray(KNEE_A * 10 ** (np.minimum(volts - knee_v, DECADE_V) / DECADE_V), np.float64)


def across(volts: Floats, anode: Ints, cathode: Ints) -> Floats:
    """Volts over junctions [B, J]."""
    return np.asarray(np.take_along_axis(volts, anode, 1) - np.take_along_axis(volts, cathode, 1), np.float64)
