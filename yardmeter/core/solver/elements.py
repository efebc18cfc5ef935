"""Current laws of loads and converters with their derivatives, vectorised over rows and elements."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.solver.circuit import (
    LAMP,
    LED,
    OFF,
    POWER,
    RESISTANCE,
    SOURCE,
    SWITCHING,
    Bools,
    Converters,
    Floats,
    Ints,
    Loads,
)

LAMP_EXPONENT = 0.55
"""Filament law I ∝ V^0.55; from memory of incandescent lamp tables."""
LAMP_COLD_FRAC = 0.02
"""Part of its volts below which a filament counts as cold, a resistance; our estimate."""
MIN_INPUT_V = 0.3
"""Below this a switching input counts as a resistance, which keeps its current finite [V]."""


def cold_lamp_ohm(rated_v: Floats, rated_a: Floats) -> Floats:
    """Resistance of cold filaments (n,) [Ω]."""
    found: Floats = rated_v / np.maximum(rated_a, 1e-9) * LAMP_COLD_FRAC ** (1 - LAMP_EXPONENT)
    return found


def load_current(loads: Loads, volts: Floats) -> tuple[Floats, Floats]:
    """Current [A] and its slope [S] of every load at `volts` (rows, n) across it."""
    law, knee = loads.law, loads.knee_v
    value = np.where(np.isfinite(loads.value), loads.value, 0.0)  # ohms without end are told as none, as of what is off
    above = volts >= knee
    safe = np.where(above, volts, knee)
    powered = law == POWER
    at_knee = np.where(powered, value / knee, value)
    drawn = np.where(powered, value / safe, value)
    below = at_knee / knee
    amps = np.where(above, drawn, below * np.maximum(volts, 0))
    slope = np.where(above, np.where(powered, -drawn / safe, 0.0), np.where(volts > 0, below, 0.0))
    ohms = np.where(value == 0, np.inf, value)  # only read where the law is resistive
    mine = law == RESISTANCE
    if mine.any():
        amps = np.where(mine, volts / ohms, amps)
        slope = np.where(mine, 1 / ohms, slope)
    mine = law == LED
    if mine.any():
        lit = mine & above
        amps = np.where(mine, np.where(lit, (volts - knee) / ohms, 0.0), amps)
        slope = np.where(mine, np.where(lit, 1 / ohms, 0.0), slope)
    mine = law == LAMP
    if mine.any():
        ratio = np.abs(volts) / knee
        bend = LAMP_COLD_FRAC
        root = np.maximum(ratio, bend) ** LAMP_EXPONENT
        cold = bend ** (LAMP_EXPONENT - 1) / knee
        amps = np.where(mine, np.where(ratio > bend, np.sign(volts) * value * root, value * cold * volts), amps)
        steep = value * LAMP_EXPONENT * root / np.maximum(ratio, bend) / knee
        slope = np.where(mine, np.where(ratio > bend, steep, value * cold), slope)
    return amps, slope


@dataclass(frozen=True)
class Target:
    """Where a conducting converter wants its output: volts above gnd, and slopes by input volts and by its current."""

    volts: Floats
    by_input: Floats
    by_current: Floats
    regulating: Bools


def converter_target(c: Converters, input_v: Floats, amps: Floats) -> Target:
    """Target voltage of every converter (rows, m) at these input volts and output currents."""
    wanted = c.set_v - c.out_ohm * amps
    through = input_v - c.drop_v - c.drop_ohm * amps
    passing = c.passes & (through > wanted)
    wanted_now = np.where(passing, through, wanted)
    by_input = np.where(passing, 1.0, 0.0)
    by_current = np.where(passing, -c.drop_ohm, -c.out_ohm)
    ceiling = c.ceil_gain * input_v - np.where(c.passes, 0.0, c.drop_v) - c.drop_ohm * amps
    sourced = c.kind == SOURCE
    low = (ceiling < wanted_now) & ~sourced
    return Target(
        np.where(low, ceiling, wanted_now),
        np.where(low, c.ceil_gain, by_input),
        np.where(low, -c.drop_ohm, by_current),
        ~low & ~passing,
    )


def target_volts(c: Converters, input_v: Floats, amps: Floats | float) -> Floats:
    """Only the volts of `converter_target`, for the many times nothing else is asked."""
    through = input_v - c.drop_v - c.drop_ohm * amps
    wanted = np.where(c.passes, np.maximum(c.set_v - c.out_ohm * amps, through), c.set_v - c.out_ohm * amps)
    ceiling = c.ceil_gain * input_v - np.where(c.passes, 0.0, c.drop_v) - c.drop_ohm * amps
    return np.where((ceiling < wanted) & (c.kind != SOURCE), ceiling, wanted)


def converter_loss(c: Converters, amps: Floats) -> tuple[Floats, Floats]:
    """Load-dependent loss of switching converters [W] and its slope by output current [W/A], quiescent not counted."""
    size = np.abs(amps)
    fitted = c.k1_v * size + c.k2_ohm * size**2
    floor = c.drop_v * size + c.drop_ohm * size**2
    low = fitted < floor
    slope = np.where(low, c.drop_v + 2 * c.drop_ohm * size, c.k1_v + 2 * c.k2_ohm * size)
    return np.where(low, floor, fitted), np.where(amps < 0, -slope, slope)


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
    takes = c.kind != SOURCE
    on = ((modes != OFF) & takes).astype(float)
    loss_w, loss_slope = converter_loss(c, amps)
    guarded = np.maximum(input_v, MIN_INPUT_V)
    power_w = output_v * amps + loss_w
    switching = c.kind == SWITCHING
    through = np.where(c.sinks, np.maximum(amps, 0.0), amps)  # what a linear one sinks goes to its ground
    current = np.where(switching, power_w / guarded, through)
    by_input = np.where(switching & (input_v > MIN_INPUT_V), -power_w / guarded**2, 0.0)
    by_output = np.where(switching, amps / guarded, 0.0)
    by_amps = np.where(switching, (output_v + loss_slope) / guarded, np.where(c.sinks & (amps < 0), 0.0, 1.0))
    idle = np.where(powered & takes, c.quiescent_a, 0.0)
    return InputCurrent(on * current + idle, on * by_input, on * by_output, on * by_amps)
