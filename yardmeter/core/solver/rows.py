"""Selecting and repeating rows of a batched circuit."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from yardmeter.core.elements.load import LAMP, LED, RESISTANCE
from yardmeter.core.solver.circuit import (
    Bools,
    Circuit,
    Conductors,
    Converters,
    Emfs,
    Floats,
    Ints,
    Loads,
    Mode,
    Solution,
    having,
)

CONVERTER_VALUES = (
    "enabled", "set_v", "out_ohm", "ceil_gain", "drop_v", "drop_ohm", "limit_a", "stop_v", "quiescent_a", "k1_v", "k2_ohm",
)  # fmt: skip


def take_rows(circuit: Circuit, rows: Ints) -> Circuit:
    """The circuit with only these rows, in this order; an index may repeat."""

    def pick(values: Floats) -> Floats:
        return values[rows] if values.ndim == 2 and values.shape[0] == circuit.rows else values

    wires, emfs, loads, conv = circuit.conductors, circuit.emfs, circuit.loads, circuit.converters
    values: dict[str, Any] = {name: pick(getattr(conv, name)) for name in CONVERTER_VALUES}
    picked: Converters = having(conv, **values)
    return having(
        circuit,
        rows=int(rows.size),
        conductors=Conductors(wires.a, wires.b, pick(wires.siemens)),
        emfs=Emfs(emfs.a, emfs.b, pick(emfs.volts), pick(emfs.siemens)),
        loads=Loads(loads.p, loads.n, loads.law, pick(loads.value), loads.knee_v),
        converters=picked,
        start_v=circuit.start_v[rows],
    )


def held_off(circuit: Circuit, held: Bools) -> Circuit:
    """The circuit with some converters (rows, m) switched off."""
    own = circuit.converters
    return having(circuit, converters=having(own, enabled=own.enabled & ~held)) if held.any() else circuit


def scaled(loads: Loads, share: float | Floats) -> Loads:
    """Loads at a share of what they draw, or one each row (rows, 1): amps and watts go down with it, ohms up; a lamp in line with
    the pack is no load."""
    return having(loads, value=loads.value * scales(loads.law, share))


def scales(law: Ints, share: float | Floats) -> Floats:
    """What the values of laws are multiplied with at a share of their loads: `elements.load.grown`, over arrays."""
    ohmic = (law == RESISTANCE) | (law == LED)
    return np.where(law == LAMP, 1.0, np.where(ohmic, 1 / share, share))


OF_ROWS = ("volts", "converter_a", "modes", "converged", "residual_a", "hiccup", "gives_up")


def take_solution(solution: Solution, rows: Ints) -> Solution:
    """The solution with only these rows."""
    return having(solution, **{name: getattr(solution, name)[rows] for name in OF_ROWS})


def joined(solutions: Sequence[Solution]) -> Solution:
    """Rows of several solutions of one topology, one after the other."""
    values: dict[str, Any] = {name: np.concatenate([getattr(one, name) for one in solutions]) for name in OF_ROWS}
    return having(solutions[0], **values)


def put_rows(solution: Solution, rows: Ints, other: Solution) -> Solution:
    """The solution with these rows out of another one that has just them."""
    made = {name: getattr(solution, name).copy() for name in OF_ROWS}
    for name, values in made.items():
        values[rows] = getattr(other, name)
    return having(solution, **made)


def only_found(solution: Solution) -> Solution:
    """The solution with nothing in the rows that found no operating point: where an iteration gave up is no answer."""
    if solution.converged.all():
        return solution
    found = solution.converged[:, None]
    return having(
        solution,
        volts=np.where(found, solution.volts, 0.0),
        converter_a=np.where(found, solution.converter_a, 0.0),
        modes=np.where(found, solution.modes, int(Mode.OFF)),
    )
