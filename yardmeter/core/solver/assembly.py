"""Stamping: every element adds its currents and slopes to the node equations through fixed scatter matrices.

The scatter matrices depend on the topology alone, so one Assembly serves all rows and steps of a solution.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass

import numpy as np

from yardmeter.core.elements.regulator import SOURCE
from yardmeter.core.once import cached_property
from yardmeter.core.solver.circuit import CONDUCTING, LIMIT_SLACK, LIMITING, Bools, Circuit, Floats, Ints
from yardmeter.core.solver.elimination import Elimination
from yardmeter.core.solver.laws import InputCurrent, Target, converter_input, converter_target, load_current
from yardmeter.core.solver.scatter import Scatter, scatter_of

SPARSE_FROM = 120
"""Unknowns from which the sign of a determinant is had sparsely."""


@dataclass(frozen=True)
class Terminals:
    """Voltages that matter to converters, each (rows, m)."""

    input_v: Floats
    output_v: Floats
    powered: Bools


@dataclass(frozen=True)
class Evaluation:
    """Residual `f` (current missing at every node [A], error of every converter's own row) and its ingredients."""

    f: Floats
    circuit: Circuit
    conducting: Bools
    load_slope: Floats
    taken: InputCurrent
    target: Target


class Assembly:
    """Residual and Jacobian of one circuit topology."""

    def __init__(self, circuit: Circuit) -> None:
        c, wires, emfs, loads = circuit.converters, circuit.conductors, circuit.emfs, circuit.loads
        n, m = circuit.nodes, c.inp.size
        self.nodes, self.size = n, n + m
        own = n + np.arange(m)
        ends = [(wires.a, 1), (wires.b, -1), (emfs.a, 1), (emfs.b, -1), (loads.p, 1), (loads.n, -1)]
        branches = [np.arange(wires.a.size), np.arange(emfs.a.size) + wires.a.size]
        branches.append(np.arange(loads.p.size) + wires.a.size + emfs.a.size)
        base = wires.a.size + emfs.a.size + loads.p.size
        entries: list[tuple[Ints, Ints, float]] = [
            (nodes, branches[i // 2], sign) for i, (nodes, sign) in enumerate(ends)
        ]
        entries += [(c.inp, base + np.arange(m), 1), (c.gnd, base + np.arange(m), -1)]
        entries += [(c.out, base + m + np.arange(m), -1), (c.gnd, base + m + np.arange(m), 1)]
        self._currents = _scatter([(row, col, sign) for row, col, sign in entries], n, base + 2 * m)

        pairs: list[tuple[Ints, Ints, Ints, float]] = []
        for group, (a, b) in enumerate(((wires.a, wires.b), (emfs.a, emfs.b), (loads.p, loads.n))):
            pairs += [
                (a, a, branches[group], 1),
                (a, b, branches[group], -1),
                (b, a, branches[group], -1),
                (b, b, branches[group], 1),
            ]
        # Converter slopes, in the order of `_slopes`: by_in, by_out, by_amps of the input current, then the own row.
        first = base + np.arange(m)
        for row, sign in ((c.inp, 1.0), (c.gnd, -1.0)):
            pairs += [(row, c.inp, first, sign), (row, c.gnd, first, -sign)]
            pairs += [(row, c.out, first + m, sign), (row, c.gnd, first + m, -sign)]
            pairs += [(row, own, first + 2 * m, sign)]
        pairs += [(c.out, own, first + 6 * m, -1), (c.gnd, own, first + 6 * m, 1)]
        pairs += [(own, c.out, first + 3 * m, 1), (own, c.gnd, first + 3 * m, -1)]
        pairs += [(own, c.inp, first + 4 * m, 1), (own, c.gnd, first + 4 * m, -1), (own, own, first + 5 * m, 1)]
        # Only the entries that are ever filled are kept, column by column; the node diagonals always are.
        nodes = np.arange(n)
        slots = [(np.where((r < 0) | (k < 0), -1, k * self.size + r), col, sign) for r, k, col, sign in pairs]
        filled = np.unique(np.concatenate([*(slot for slot, _, _ in slots), nodes * (self.size + 1)]))
        filled = filled[filled >= 0]
        self.row, self.column = filled % self.size, filled // self.size
        self.column_ends = np.searchsorted(self.column, np.arange(self.size + 1))
        self.diagonal = np.searchsorted(filled, nodes * (self.size + 1))
        found = [(np.where(slot < 0, -1, np.searchsorted(filled, slot)), col, sign) for slot, col, sign in slots]
        self._slopes = _scatter(found, filled.size, base + 7 * m)

    @staticmethod
    def terminals(circuit: Circuit, x: Floats) -> Terminals:
        c = circuit.converters
        volts = with_reference(x[:, : circuit.nodes])
        input_v = volts[:, c.inp] - volts[:, c.gnd]
        powered = c.enabled & ((input_v >= c.stop_v) | (c.kind == SOURCE))
        return Terminals(input_v, volts[:, c.out] - volts[:, c.gnd], powered)

    def evaluate(self, circuit: Circuit, x: Floats, modes: Ints) -> Evaluation:
        """Residual at `x` (rows, n+m), with what the Jacobian needs kept for when it is asked for."""
        n, c = self.nodes, circuit.converters
        volts, amps = with_reference(x[:, :n]), x[:, n:]
        at = self.terminals(circuit, x)
        load_v = volts[:, circuit.loads.p] - volts[:, circuit.loads.n]
        drawn, load_slope = load_current(circuit.loads, load_v)
        taken = converter_input(c, modes, at.powered, at.input_v, at.output_v, amps)
        flows = np.concatenate([*branch_currents(circuit, volts), drawn, taken.amps, amps], axis=1)
        f = np.empty((x.shape[0], self.size))
        f[:, :n] = self._currents.onto(flows) + circuit.stiff_siemens * x[:, :n]
        target = converter_target(c, at.input_v, amps)
        limited = np.where(modes == LIMITING, amps - c.limit_a * (1 + LIMIT_SLACK), amps)
        conducting = modes == CONDUCTING
        f[:, n:] = np.where(conducting, at.output_v - target.volts, limited)
        return Evaluation(f, circuit, conducting, load_slope, taken, target)

    def jacobian(self, at: Evaluation) -> Floats:
        """Derivative of the residual by x: the entries at (`row`, `column`), (rows, filled)."""
        circuit, conducting, rows = at.circuit, at.conducting, at.f.shape[0]
        slopes = [circuit.conductors.siemens, circuit.emfs.siemens, at.load_slope]
        slopes += [at.taken.by_input, at.taken.by_output, at.taken.by_amps]
        slopes += [conducting.astype(float), np.where(conducting, -at.target.by_input, 0.0)]
        slopes += [np.where(conducting, -at.target.by_current, 1.0), np.ones(conducting.shape)]
        stacked = np.concatenate(
            [one if one.ndim == 2 else np.broadcast_to(one, (rows, one.size)) for one in slopes], axis=1
        )
        entries = self._slopes.onto(stacked)
        entries[:, self.diagonal] += circuit.stiff_siemens
        return entries

    def dense(self, entries: Floats) -> Floats:
        """The Jacobians as full matrices, (rows, n+m, n+m)."""
        full: Floats = np.zeros((entries.shape[0], self.size, self.size))
        full[:, self.row, self.column] = entries
        return full

    @cached_property
    def elimination(self) -> Elimination:
        """The order in which unknowns are eliminated: a rail may have nothing that steadies it but its converters, so their
        currents are expressed by volts first."""
        places = list(zip(self.row.tolist(), self.column.tolist(), strict=True))
        return Elimination(self.size, places, range(self.nodes, self.size))


_KNOWN: OrderedDict[tuple[object, ...], Assembly] = OrderedDict()
KEPT = 32


def assembly_of(circuit: Circuit) -> Assembly:
    """The assembly of a circuit's topology: most edits of a plan change values alone, so the last ones are kept."""
    c, wires, emfs, loads = circuit.converters, circuit.conductors, circuit.emfs, circuit.loads
    ends = wires.a, wires.b, emfs.a, emfs.b, loads.p, loads.n, c.inp, c.out, c.gnd
    key = (circuit.nodes, *(one.tobytes() for one in ends))
    found = _KNOWN.pop(key, None) or Assembly(circuit)
    _KNOWN[key] = found
    while len(_KNOWN) > KEPT:
        _KNOWN.popitem(last=False)
    return found


def with_reference(volts: Floats) -> Floats:
    """Append a zero column, so that node −1 reads 0 V."""
    return np.concatenate([volts, np.zeros((volts.shape[0], 1))], axis=1)


def branch_currents(circuit: Circuit, volts: Floats) -> tuple[Floats, Floats]:
    """Currents a→b of conductors and into `a` of EMFs [A]; `volts` (rows, n+1) with the reference column."""
    wires, emfs = circuit.conductors, circuit.emfs
    flow = (volts[:, wires.a] - volts[:, wires.b]) * wires.siemens
    emf_flow = (volts[:, emfs.a] - volts[:, emfs.b] - emfs.volts) * emfs.siemens
    return flow, emf_flow


def _scatter(entries: list[tuple[Ints, Ints, float]], rows: int, columns: int) -> Scatter:
    """Adds column values into rows."""
    row, column = (np.concatenate([one[k] for one in entries]) for k in (0, 1))
    return scatter_of(rows, columns, row, column, np.concatenate([np.full(r.size, sign) for r, _, sign in entries]))
