"""A device's draw in a condition as the value of a load law."""

from __future__ import annotations

import math
from typing import TypeVar

import numpy as np

from yardmeter.core.elements.load import LoadKind
from yardmeter.core.plan import Condition, Device, Draw, LoadLaw
from yardmeter.core.solver.circuit import Floats

Number = TypeVar("Number", float, Floats)
KINDS: dict[LoadLaw, LoadKind] = {
    "current": LoadKind.CURRENT,
    "power": LoadKind.POWER,
    "resistance": LoadKind.RESISTANCE,
    "led": LoadKind.LED,
}
MOTOR_KNEE_FRAC = 0.5
"""Motors hold their current down to half their nominal volts; our choice."""


def load_kind(device: Device) -> LoadKind:
    return KINDS[device.law]


def load_knee_v(device: Device) -> float:
    """Voltage below which the law turns into a resistance [V]; for LEDs the forward voltage of a string."""
    if device.law == "led" and device.led:
        return device.led.forward_v * device.led.series
    if device.kind == "motor":
        return MOTOR_KNEE_FRAC * device.nominal_v
    return min(device.min_v, device.reset_v)


def throttle_amps(device: Device, throttle_frac: float) -> float:
    """Current of a motor group at this throttle [A], straight lines between its points and the origin."""
    points = sorted({(0.0, 0.0), *((p.throttle_frac, p.amps) for p in device.throttle if p.throttle_frac > 0)})
    return float(np.interp(throttle_frac, [p[0] for p in points], [p[1] for p in points]))


def active_draw(device: Device, condition: Condition) -> Draw | None:
    """The draw of the state this condition puts the device in; None when it is off."""
    state = condition.state_of(device.id)
    draws = device.draws
    return {
        "off": draws.off,
        "boot": draws.boot or draws.typical,
        "idle": draws.idle,
        "typical": draws.typical,
        "peak": draws.peak,
    }[state]


def goes_by_ohms(device: Device) -> bool:
    """Whether the value of a device's law goes down as its load goes up."""
    return device.law in ("resistance", "led")


def scaled_by(device: Device, factor: Number) -> Number:
    """What the value of a device's law is multiplied with for `factor` times its load."""
    return 1 / factor if goes_by_ohms(device) else factor


def load_value(device: Device, condition: Condition, *, averaged: bool = False) -> float:
    """Amps, watts or ohms of the device's law; a burst counts at its peak, or averaged over its period."""
    off = math.inf if device.law in ("resistance", "led") else 0.0
    if device.throttle:
        return throttle_amps(device, condition.throttle_frac) if condition.state_of(device.id) != "off" else off
    draw = active_draw(device, condition)
    if draw is None or (draw.value == 0 and device.law in ("resistance", "led")):
        return off
    if device.law == "led" and device.led:
        return device.led.resistor_ohm / device.led.strings
    value = _in_law(device, draw)
    if averaged and device.burst and condition.state_of(device.id) == "peak":
        value = device.burst.duty_frac * value + (1 - device.burst.duty_frac) * _in_law(device, device.draws.idle)
    if device.law == "resistance":
        volts = draw.at_v or device.nominal_v
        return volts**2 / value if value else math.inf
    return value


def _in_law(device: Device, draw: Draw) -> float:
    """Amps for the current law, watts for the power and resistance laws."""
    return draw.amps_at(device.nominal_v) if device.law == "current" else draw.watts_at(device.nominal_v)
