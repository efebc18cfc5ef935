"""The smallest gauge that holds drop and heat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

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


def smallest_gauge(
    length_m: float, connector_ohm: float, duties: Sequence[Duty], *, drop_limit_v: float, rise_limit_k: float
) -> int | None:
    """The thinnest gauge whose drop and rise stay within both limits at every duty; None when no gauge does."""
    most = max((duty.amps_a for duty in duties), default=0.0)
    for gauge in GAUGES:
        drop_v = most * (wire_ohm(gauge, length_m) + connector_ohm)
        if drop_v <= drop_limit_v and all(duty.limit_a(gauge, rise_limit_k) >= duty.amps_a for duty in duties):
            return gauge
    return None
