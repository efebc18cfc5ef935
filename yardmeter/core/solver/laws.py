"""The laws of elements over whole arrays of loads and converters, as answers ask for them.

Compiled code is loaded when there is something to work out, not when a program starts.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.elements.regulator import SOURCE
from yardmeter.core.solver.circuit import OFF, Bools, Converters, Floats, Ints, Loads


def load_current(loads: Loads, volts: Floats) -> tuple[Floats, Floats]:
    """Current [A] and its slope [S] of every load at `volts` (rows, n) across it."""
    from yardmeter.core.solver import law_loops

    amps, slope = np.empty(volts.shape), np.empty(volts.shape)
    value = _full(loads.value, volts)
    law_loops.load_currents(
        np.asarray(loads.law, np.int64), _plain(volts), value, np.asarray(loads.knee_v, float), amps, slope
    )
    return amps, slope


@dataclass(frozen=True)
class Target:
    """Where a conducting converter wants its output: volts above gnd, slopes by input volts and by its current, and whether
    it holds its set point there."""

    volts: Floats
    by_input: Floats
    by_current: Floats
    regulating: Bools


def converter_target(c: Converters, input_v: Floats, amps: Floats) -> Target:
    """Target voltage of every converter (rows, m) at these input volts and output currents."""
    from yardmeter.core.solver import law_loops

    found = np.empty((3, *input_v.shape))
    holds = np.empty(input_v.shape, np.bool_)
    values = [_full(one, input_v) for one in (c.set_v, c.out_ohm, c.ceil_gain, c.drop_v, c.drop_ohm)]
    law_loops.targets(
        np.asarray(c.kind, np.int64), c.passes, np.array(values), _plain(input_v), _full(amps, input_v), found, holds
    )
    return Target(found[0], found[1], found[2], holds)


def open_volts(c: Converters, input_v: Floats) -> Floats:
    """The volts alone every converter wants with nothing drawn (rows, m)."""
    return converter_target(c, input_v, np.zeros(input_v.shape)).volts


@dataclass(frozen=True)
class InputCurrent:
    """Input current of converters [A] and its slopes by input volts, output volts and output current."""

    amps: Floats
    by_input: Floats
    by_output: Floats
    by_amps: Floats


def converter_input(
    c: Converters, modes: Ints, powered: Bools, input_v: Floats, output_v: Floats, amps: Floats
) -> InputCurrent:
    """What every converter (rows, m) takes from its input; the quiescent current flows whenever it is powered."""
    from yardmeter.core.solver import law_loops

    found = np.empty((4, *input_v.shape))
    values = [_full(one, input_v) for one in (c.k1_v, c.k2_ohm, c.drop_v, c.drop_ohm)]
    volts = np.array([input_v, output_v, amps])
    law_loops.inputs(
        np.asarray(c.kind, np.int64),
        c.sinks,
        np.array(np.broadcast_to(modes != OFF, input_v.shape), bool, order="C"),
        np.array(values),
        volts,
        found,
    )
    found[0] += np.where(powered & (c.kind != SOURCE), c.quiescent_a, 0.0)
    return InputCurrent(found[0], found[1], found[2], found[3])


def _plain(values: Floats) -> Floats:
    """One kind of array whatever it was: another would be compiled for anew."""
    return np.ascontiguousarray(values, float)


def _full(values: Floats, like: Floats) -> Floats:
    if values.shape == like.shape:
        return _plain(values)
    return np.array(np.broadcast_to(values, like.shape), float, order="C")
