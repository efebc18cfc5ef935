"""What is done to a circuit from outside, at times known beforehand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.solver.circuit import Bools, Floats
from yardmeter.core.solver.transient.currents import between
from yardmeter.core.solver.transient.machines import NEVER, OFF, Machines

SHORTED_V = 1e3
SHORTED_A = 1e6
SHORTED_OHM = 0.05


@dataclass(frozen=True)
class Contact:
    """A series branch opens or closes, with so many ohms in the contact."""

    at_s: float
    branch: int
    closed: bool
    ohm: float = 0.0
    parts: bool = False
    """Its ohms alone change, as in an arc or once a resistor is bridged: what is open stays so."""

    def apply(self, machines: Machines, rows: Bools, time_s: Floats) -> None:
        del time_s
        series = machines.circuit.series
        if self.parts:
            rows = rows & series.closed[:, self.branch]
        series.closed[rows, self.branch] = self.closed
        series.contact_ohm[rows, self.branch] = self.ohm


@dataclass(frozen=True)
class Enable:
    """A port or bench supply is plugged in or out, or a converter is switched by its own switch."""

    at_s: float
    converter: int
    on: bool

    def apply(self, machines: Machines, rows: Bools, time_s: Floats) -> None:
        k = self.converter
        machines.enabled[rows, k] = self.on
        machines.limiting[rows, k] = False
        if not self.on:
            machines.on[rows, k] = False
            machines.blank_at[rows, k] = machines.retry_at[rows, k] = NEVER
        elif machines.circuit.converting.start_v[k] < 0:
            machines.on[rows, k] = True
            machines.on_at[rows, k] = time_s[rows]


@dataclass(frozen=True)
class Ask:
    """A consumer's law takes another value, in a straight line over `over_s`."""

    at_s: float
    consumer: int
    value: float
    over_s: float = 0.0

    def apply(self, machines: Machines, rows: Bools, time_s: Floats) -> None:
        k = self.consumer
        t = time_s[rows]
        span = max(machines.to_s[0, k] - machines.from_s[0, k], 1e-12)
        share = np.clip((t - machines.from_s[rows, k]) / span, 0.0, 1.0)
        old, to = machines.from_value[rows, k], machines.to_value[rows, k]
        ways = zip(old.tolist(), to.tolist(), share.tolist(), strict=True)
        machines.from_value[rows, k] = [b if s >= 1 else a if s <= 0 else between(a, b, s) for a, b, s in ways]
        scale = machines.scale[rows, k]
        machines.to_value[rows, k] = self.value * scale
        machines.from_s[rows, k] = t
        machines.to_s[rows, k] = t + self.over_s


@dataclass(frozen=True)
class Turn:
    """A device is switched on, to boot once its volts allow, or off."""

    at_s: float
    consumer: int
    on: bool

    def apply(self, machines: Machines, rows: Bools, time_s: Floats) -> None:
        del time_s
        k = self.consumer
        machines.wanted[rows, k] = self.on
        if not self.on:
            machines.mode[rows, k] = OFF
            machines.reset_at[rows, k] = machines.ready_at[rows, k] = machines.begin_at[rows, k] = NEVER


@dataclass(frozen=True)
class Fail:
    """A converter fails: open it is gone, short its output follows its input."""

    at_s: float
    converter: int
    how: Literal["open", "short"]

    def apply(self, machines: Machines, rows: Bools, time_s: Floats) -> None:
        del time_s
        k = self.converter
        if self.how == "open":
            machines.on[rows, k] = False
            machines.failed[rows, k] = True
            return
        law = machines.circuit.converting.law
        law.set_v[rows, k], law.limit_a[rows, k] = SHORTED_V, SHORTED_A
        law.drop_v[rows, k], law.drop_ohm[rows, k], law.ceil_gain[rows, k] = 0.0, SHORTED_OHM, 1.0
        law.passes[k] = False
        machines.circuit.thermal.trip_c[k] = np.inf
        machines.on[rows, k] = True


Act = Contact | Enable | Ask | Turn | Fail
