"""Readings that enter themselves: a steady one, after the meter has shown that it was elsewhere before.

Probes in the air read open, probes on each other read nothing: both are steady, and both would pass some step. So a reading
only counts after the opposite was seen since the step began: touching the probes before a place that should be silent, lifting
them before one that should beep.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from yardmeter.core.procedures.checklist import Step

STEADY_FRAC = 0.02
STEADY_COUNT = 4
"""So many readings in a row that agree."""
TOUCHING_OHM = 1.0
RESTING_FRAC = 0.1
"""Volts below this share of what is expected are probes in the air."""

LINGERS_COUNT = 12
"""After so many readings at rest it may be the place itself that reads so: a short looks like probes on each other."""

Waits = Literal[
    "touch the probes together", "lift the probes", "put the probes on", "keep it, if the probes are on", "hold still", ""
]  # fmt: skip


@dataclass
class Watch:
    """Follows one step; `least` is the meter's last digit in the step's unit."""

    step: Step
    least: float
    armed: bool = False
    run: list[float | None] = field(default_factory=list)
    rests: int = 0

    def _rests(self, value: float | None) -> bool:
        """Whether the meter shows what it shows before this step's probes are on."""
        if self.step.mode in ("volts", "amps"):
            usual = self.step.expected.usual if self.step.expected else 1.0
            return value is None or abs(value) < RESTING_FRAC * abs(usual)
        if self.step.most is not None and self.step.most < TOUCHING_OHM * 50:
            return value is None
        return value is not None and value < TOUCHING_OHM

    def feed(self, value: float | None) -> Waits:
        """One more reading, None for open; an empty answer says that the last one may be entered."""
        if self._rests(value):
            self.armed = True
            self.run = []
            self.rests += 1
            return "put the probes on" if self.rests < LINGERS_COUNT else "keep it, if the probes are on"
        self.rests = 0
        if not self.armed:
            low = self.step.most is not None and self.step.most < TOUCHING_OHM * 50
            if self.step.mode in ("volts", "amps"):
                return "lift the probes"
            return "lift the probes" if low else "touch the probes together"
        if self.run and not self._agree(value):
            self.run = []
        self.run.append(value)
        return "" if len(self.run) >= STEADY_COUNT else "hold still"

    def _agree(self, value: float | None) -> bool:
        return agree(self.run[0], value, self.least)


def agree(first: float | None, value: float | None, least: float) -> bool:
    """Whether two readings are one: within the noise and two of the last digit."""
    if value is None or first is None:
        return value is first
    return abs(value - first) <= STEADY_FRAC * abs(first) + 2 * least


@dataclass
class Steady:
    """Follows a reading nobody has a bound for, as in a search: it is entered by hand, once it holds still."""

    least: float
    run: list[float | None] = field(default_factory=list)

    def feed(self, value: float | None) -> Waits:
        """One more reading; empty once enough of them agree."""
        if self.run and not agree(self.run[0], value, self.least):
            self.run = []
        self.run.append(value)
        return "" if len(self.run) >= STEADY_COUNT else "hold still"
