"""What makes noise in a condition: lines with their frequency, size and where they are driven in.

Estimates: motor bridges by duty and Kv, regulators by their ripple, bursts by their duty. A measured line replaces its own.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.operating import View
from yardmeter.core.network.keys import Node, ground_node, input_node, pin_node, rail_node
from yardmeter.core.network.loads import throttle_amps
from yardmeter.core.physics.ripple import electrical_hz, pulse_lines
from yardmeter.core.plan import Condition, Device, Motors, NoiseKind, Plan, Regulator

HARMONICS = 3
BURST_HARMONICS = 5
LOUD_A = 1e-3
FOLLOWING = ("pwm", "commutation")
"""Kinds of lines that follow the throttle."""


@dataclass(frozen=True)
class Line:
    """One spectral line. `peak` in amps driven from node `p` to `n`, or in volts between them when `in_volts`."""

    element: str
    kind: NoiseKind
    words: str
    hz: float
    peak: float
    p: Node
    n: Node
    in_volts: bool = False
    measured: bool = False


def noise_lines(plan: Plan, condition: Condition, view: View) -> list[Line]:
    """All lines of a condition."""
    found: list[Line] = []
    for device in plan.devices:
        if device.throttle:
            found += _motors(plan, device, condition.throttle_frac, view)
        elif device.burst and view.device_a(device.id) > LOUD_A:
            found += _burst(device, condition)
    for supply in plan.supplies:
        if isinstance(supply, Regulator) and supply.switching and view.supply_a(supply) > LOUD_A:
            found += _switching(plan, supply, view)
    return [*_unmeasured(plan, found), *_measured(plan, view, condition)]


def motor_lines(plan: Plan, condition: Condition, view: View, throttle_frac: float) -> list[Line]:
    """Those lines of a condition that follow the throttle, at another one; measured ones stay as measured."""
    motors = [device for device in plan.devices if device.throttle]
    found = [line for device in motors for line in _motors(plan, device, throttle_frac, view)]
    measured = [line for line in _measured(plan, view, condition) if line.kind in FOLLOWING]
    return [*_unmeasured(plan, found), *measured]


def _motors(plan: Plan, device: Device, throttle: float, view: View) -> Iterator[Line]:
    """Bridges chop the motor current at the PWM frequency; several are not in step, so their lines add by root."""
    amps = throttle_amps(device, throttle)
    if amps < LOUD_A or view.pin_v(device.id) < 1:
        return
    motors = device.motors or Motors()
    p, n = pin_node(device.id), ground_node(device.id)
    for hz, peak in pulse_lines(amps, min(throttle, 0.999), plan.policy.pwm_hz, HARMONICS):
        name = f"PWM{_times(hz / plan.policy.pwm_hz)}"
        yield Line(device.id, "pwm", f"{device.name}, {name}", hz, peak / math.sqrt(motors.count), p, n)
    volts = view.pin_v(device.id)
    hz = electrical_hz(motors.kv_rpm_v, volts, throttle, motors.loaded_frac, motors.pole_pairs)
    peak = amps * motors.commutation_frac / math.sqrt(motors.count)
    yield Line(device.id, "commutation", f"{device.name}, commutation", hz, peak, p, n)


def _burst(device: Device, condition: Condition) -> Iterator[Line]:
    if device.burst is None or condition.state_of(device.id) != "peak":
        return
    volts = device.nominal_v
    height = max(device.draws.peak.amps_at(volts) - device.draws.idle.amps_at(volts), 0.0)
    for hz, peak in pulse_lines(height, device.burst.duty_frac, 1 / device.burst.period_s, BURST_HARMONICS):
        name = f"bursts{_times(hz * device.burst.period_s)}"
        yield Line(device.id, "burst", f"{device.name}, {name}", hz, peak, pin_node(device.id), ground_node(device.id))


def _times(order: float) -> str:
    """Which harmonic it is; at half duty there are no even ones."""
    return "" if round(order) == 1 else f" × {round(order)}"


def _switching(plan: Plan, supply: Regulator, view: View) -> Iterator[Line]:
    """Ripple it leaves at its output, and the pulses of current it takes at its input."""
    gnd = ground_node(supply.board)
    yield Line(
        supply.id, "switching", f"{supply.name}, output ripple", supply.switch_hz, supply.ripple_v / 2,
        rail_node(supply.output), gnd, in_volts=True,
    )  # fmt: skip
    amps, inp = view.supply_a(supply), view.supply_in_v(supply)
    if supply.kind == "buck" and inp > supply.set_v:
        node = input_node(supply.id) if supply.feed else rail_node(supply.input)
        for hz, peak in pulse_lines(amps, supply.set_v / inp, supply.switch_hz, 1):
            if supply.feed or supply.input in plan.rail_of:
                yield Line(supply.id, "switching", f"{supply.name}, input pulses", hz, peak, node, gnd)


def _unmeasured(plan: Plan, lines: list[Line]) -> list[Line]:
    known = {(one.element, one.kind) for one in plan.noises}
    return [line for line in lines if (line.element, line.kind) not in known]


def _measured(plan: Plan, view: View, condition: Condition) -> Iterator[Line]:
    for one in plan.noises:
        supply = plan.supply_of.get(one.element)
        if isinstance(supply, Regulator):
            if view.supply_a(supply) < LOUD_A:
                continue
            p, n = rail_node(supply.output), ground_node(supply.board)
        else:
            device = plan.device_of[one.element]
            idle = device.throttle and condition.throttle_frac == 0
            if idle or condition.state_of(device.id) == "off":
                continue
            p, n = pin_node(device.id), ground_node(device.id)
        yield Line(one.element, one.kind, f"{one.name}, measured", one.hz, one.amplitude_pp / 2, p, n, one.unit == "V", True)  # fmt: skip
