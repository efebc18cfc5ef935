"""The smallest gauge that holds drop and heat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.physics.conductors import wire_burst_limit_a, wire_limit_a, wire_ohm

GAUGES = (36, 34, 32, 30, 28, 26, 24, 22, 20, 18, 16, 14, 12, 10, 8)
"""Gauges on a builder's spools, thinnest first; common practice, no source."""


@dataclass(frozen=True)
class Duty:
    """A current through a wire [A], steady or held for some seconds from cold [s]."""

    amps_a: float
    held_s: float | None = None

    def limit_a(self, gauge_awg: int, rise_k: float) -> float:
        """Current that warms the copper by `rise_k` [K] in that time, in still air (`physics.conductors`)."""
        if self.held_s is None:
            return wire_limit_a(gauge_awg, rise_k)
        return wire_burst_limit_a(gauge_awg, self.held_s, rise_k)

    def rise_k(self, gauge_awg: int, rise_limit_k: float) -> float:
        """Rise of the copper [K], scaled from its limit by the square of the current; an estimate within a few kelvin."""
        return rise_limit_k * (self.amps_a / self.limit_a(gauge_awg, rise_limit_k)) ** 2


Basis = Literal["drop", "heat", "handling"]
Use = Literal["pack", "cell", "motor", "power"]
HANDLING_AWG: dict[Use, int] = {"pack": 16, "cell": 22, "motor": 20, "power": 28}
"""No thinner by hand, whatever the numbers say: the lead of a pack, that of a single cell, what leads to motors, anything else
that carries power. Common practice, no source."""


@dataclass(frozen=True)
class Smallest:
    """The thinnest gauge that will do, and what speaks against the next thinner."""

    gauge_awg: int
    by: Basis


def smallest_gauge(
    length_m: float,
    connector_ohm: float,
    duties: Sequence[Duty],
    *,
    drop_limit_v: float,
    rise_limit_k: float,
    copper_c: float,
    use: Use = "power",
) -> Smallest | None:
    """The thinnest gauge that can be handled and stays within drop and rise at every duty, its copper at `copper_c`; None when
    no gauge does."""
    most = max((duty.amps_a for duty in duties), default=0.0)
    against: Basis = "handling"
    for gauge in GAUGES:
        if gauge > HANDLING_AWG[use]:
            continue
        if most * (wire_ohm(gauge, length_m, copper_c) + connector_ohm) > drop_limit_v:
            against = "drop"
        elif any(duty.limit_a(gauge, rise_limit_k) < duty.amps_a for duty in duties):
            against = "heat"
        else:
            return Smallest(gauge, against)
    return None
