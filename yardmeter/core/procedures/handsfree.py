"""Readings that enter themselves: a steady one, after the meter has shown that the probes were elsewhere before.

Probes in the air read open, probes on each other read nothing: both are steady, and both would pass some step. So a reading
only counts after the opposite was seen since the step began: touching the probes before a place that should be silent, lifting
them before one that should beep. The opposite has to hold for longer than a meter needs to change its range or its mode, which
shows the same for a moment.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from yardmeter.core.procedures.judging import AT_LIMIT_FRAC
from yardmeter.core.procedures.steps import Step

STEADY_FRAC = 0.02
STEADY_COUNT = 4
"""So many readings in a row that agree."""
STEADY_S = 0.4
TOUCHING_OHM = 1.0
RESTING_FRAC = 0.1
"""Volts below this share of what is expected are probes in the air."""
RESTS_S = 0.6
"""A range that changes shows what probes in the air do for half a second; from memory."""
SETTLED_S = 1.0
"""After a change of mode nothing that is shown counts for so long."""

LINGERS_S = 4.0
"""After so long at rest it may be the place itself that reads so: a short looks like probes on each other."""

Waits = Literal[
    "touch the probes together", "lift the probes", "put the probes on", "keep it, if the probes are on", "hold still",
    "switch the supply on", "capacitors are charging", "at its limit: a short", "",
]  # fmt: skip


@dataclass
class Watch:
    """Follows one step; `least` is the meter's last digit in the step's unit. Times are of any clock that only goes on."""

    step: Step
    least: float
    armed: bool = False
    run: list[tuple[float, float | None]] = field(default_factory=list)
    rests_from_s: float | None = None

    def _rests(self, value: float | None) -> bool:
        """Whether the meter shows what it shows before this step's probes are on."""
        if self.step.mode in ("volts", "amps"):
            usual = self.step.expected.usual if self.step.expected else 1.0
            return value is None or abs(value) < RESTING_FRAC * max(abs(usual), 1.0)
        if self._low():
            return value is None
        return value is not None and value < TOUCHING_OHM

    def _low(self) -> bool:
        return self.step.most is not None and self.step.most < TOUCHING_OHM * 50

    @property
    def probed(self) -> bool:
        """Whether what is shown may be kept as this step's, by hand at least: the probes were elsewhere, and are so no more."""
        return self.armed and self.rests_from_s is None

    def feed(self, value: float | None, at_s: float, mode_s: float = SETTLED_S) -> Waits:
        """One more reading, None for open, at a time, so long after the mode was changed; an empty answer says that it may
        be entered."""
        if mode_s < SETTLED_S:
            self.run, self.rests_from_s = [], None
            return "hold still"
        if self._rests(value):
            return self._resting(at_s)
        self.rests_from_s = None
        if not self.armed:
            return (
                "lift the probes" if self._low() or self.step.mode in ("volts", "amps") else "touch the probes together"
            )
        if self.run and not agree(self.run[0][1], value, self.least):
            self.run = []
        self.run.append((at_s, value))
        held = len(self.run) >= STEADY_COUNT and at_s - self.run[0][0] >= STEADY_S
        return "" if held else "hold still"

    def _resting(self, at_s: float) -> Waits:
        self.run = []
        if self.rests_from_s is None:
            self.rests_from_s = at_s
        rested = at_s - self.rests_from_s
        self.armed = self.armed or rested >= RESTS_S
        return "put the probes on" if rested < LINGERS_S else "keep it, if the probes are on"


def agree(first: float | None, value: float | None, least: float) -> bool:
    """Whether two readings are one: within the noise and two of the last digit."""
    if value is None or first is None:
        return value is first
    return abs(value - first) <= STEADY_FRAC * abs(first) + 2 * least


@dataclass
class Steady:
    """Follows a reading nobody has a bound for, as in a search: it is entered by hand, once it holds still.

    What the meter showed when the trial began is where the probes were before: it counts once something else was seen.
    """

    least: float
    moved: bool = False
    first: list[float | None] = field(default_factory=list)
    run: list[tuple[float, float | None]] = field(default_factory=list)

    @property
    def probed(self) -> bool:
        return self.moved

    def feed(self, value: float | None, at_s: float, mode_s: float = SETTLED_S) -> Waits:
        """One more reading; empty once enough of them agree, and the probes were moved."""
        if mode_s < SETTLED_S:
            return "hold still"
        if not self.first:
            self.first = [value]
        self.moved = self.moved or not agree(self.first[0], value, self.least)
        if self.run and not agree(self.run[0][1], value, self.least):
            self.run = []
        self.run.append((at_s, value))
        if len(self.run) < STEADY_COUNT or at_s - self.run[0][0] < STEADY_S:
            return "hold still"
        if self.moved:
            return ""
        return "put the probes on" if at_s - self.run[0][0] < LINGERS_S else "keep it, if the probes are on"


SETTLE_AMPS_S = 1.0


@dataclass
class LimiterWatch:
    """Follows the amps of the first power: capacitors take all the limit lets through for a while, then what idles is left.

    A supply that stays at its limit for longer than the capacitors need feeds a short. `limit_a` is what it is set to,
    `charge_s` how long the build's capacitors may hold it there.
    """

    step: Step
    limit_a: float
    charge_s: float
    from_s: float | None = None
    run: list[tuple[float, float]] = field(default_factory=list)

    @property
    def probed(self) -> bool:
        return self.from_s is not None

    def feed(self, value: float | None, at_s: float, *, on: bool) -> Waits:
        """One more reading of the supply's amps; empty where it has settled."""
        if not on or value is None:
            self.from_s, self.run = None, []
            return "switch the supply on"
        if self.from_s is None:
            self.from_s = at_s
        if value >= AT_LIMIT_FRAC * self.limit_a:
            self.run = []
            return "capacitors are charging" if at_s - self.from_s <= self.charge_s else "at its limit: a short"
        if self.run and not agree(self.run[0][1], value, 2e-3):
            self.run = []
        self.run.append((at_s, value))
        held = len(self.run) >= STEADY_COUNT and at_s - self.run[0][0] >= SETTLE_AMPS_S
        return "" if held else "hold still"
