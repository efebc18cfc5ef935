"""The laws of elements in machine code, and over whole arrays: what both solvers and `laws` call."""

from __future__ import annotations

from yardmeter.compiled import compiled, in_machine_code
from yardmeter.core.elements import capacitor, coil, inline, led, load, motor, pack, regulator
from yardmeter.core.elements.regulator import SOURCE, SWITCHING
from yardmeter.core.solver.circuit import Bools, Floats, Ints

lamp_law, led_law, held_law, resistor_law, load_law, grown = in_machine_code(
    inline.lamp_law, led.led_law, load.held_law, load.resistor_law, load.load_law, load.grown
)
passed_v, ceiling_v, target_law = in_machine_code(regulator.passed_v, regulator.ceiling_v, regulator.target_law)
loss_law, series_law, switching_law, most_law = in_machine_code(
    regulator.loss_law, regulator.series_law, regulator.switching_law, regulator.most_law
)
ceramic_v, core_flux, rest_fall_v, filament_aim_ohm, given_back = in_machine_code(
    capacitor.ceramic_v, coil.core_flux, pack.rest_fall_v, inline.filament_aim_ohm, motor.given_back
)


@compiled
def input_law(kind: int, sinks: bool, on: bool, k1_v: float, k2_ohm: float, drop_v: float, drop_ohm: float, input_v: float, output_v: float, amps: float) -> tuple[float, float, float, float]:  # fmt: skip
    """What a converter takes beside its quiescent current [A], with slopes by input volts, output volts and its current."""
    if kind == SOURCE or not on:
        return 0.0, 0.0, 0.0, 0.0
    if kind != SWITCHING:
        taken, by_amps = series_law(sinks, amps)
        return taken, 0.0, 0.0, by_amps
    watts, slope = loss_law(k1_v, k2_ohm, drop_v, drop_ohm, amps)
    found: tuple[float, float, float, float] = switching_law(output_v, amps, watts, slope, input_v)
    return found


@compiled
def load_currents(law: Ints, volts: Floats, value: Floats, knee_v: Floats, amps: Floats, slope: Floats) -> None:
    for r in range(volts.shape[0]):
        for k in range(volts.shape[1]):
            amps[r, k], slope[r, k] = load_law(law[k], volts[r, k], value[r, k], knee_v[k])


@compiled
def targets(
    kind: Ints, passes: Bools, values: Floats, input_v: Floats, amps: Floats, found: Floats, holds: Bools
) -> None:
    for r in range(input_v.shape[0]):
        for k in range(input_v.shape[1]):
            set_v, out_ohm, gain, drop_v, drop_ohm = values[0, r, k], values[1, r, k], values[2, r, k], values[3, r, k], values[4, r, k]  # fmt: skip
            found[0, r, k], found[1, r, k], found[2, r, k], holds[r, k] = target_law(
                kind[k] == SOURCE, passes[k], set_v, out_ohm, gain, drop_v, drop_ohm, input_v[r, k], amps[r, k]
            )


@compiled
def inputs(kind: Ints, sinks: Bools, on: Bools, values: Floats, volts: Floats, found: Floats) -> None:
    for r in range(volts.shape[1]):
        for k in range(volts.shape[2]):
            k1_v, k2_ohm, drop_v, drop_ohm = values[0, r, k], values[1, r, k], values[2, r, k], values[3, r, k]
            found[0, r, k], found[1, r, k], found[2, r, k], found[3, r, k] = input_law(
                kind[k],
                sinks[k],
                on[r, k],
                k1_v,
                k2_ohm,
                drop_v,
                drop_ohm,
                volts[0, r, k],
                volts[1, r, k],
                volts[2, r, k],
            )
