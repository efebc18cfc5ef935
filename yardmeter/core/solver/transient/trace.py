"""What a march leaves behind: the nominal run step by step, extremes and events of every row."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from yardmeter.core.solver.circuit import Floats, Ints


class Happening(StrEnum):
    """What switches by itself."""

    UNDER = "under"
    """A device's pins fall under its brown-out volts; it may live on for its hold time."""
    BACK = "back"
    """They come back before it resets."""
    RESET = "reset"
    BOOTS = "boots"
    RUNS = "runs"
    STARTS = "starts"
    """A converter starts."""
    STOPS = "stops"
    """Its input falls under its stop volts."""
    LIMITS = "limits"
    FREE = "free"
    """It leaves its limit."""
    HICCUPS = "hiccups"
    LATCHES = "latches"
    TRIPS = "trips"
    """It is too hot."""
    COOLS = "cools"
    MELTS = "melts"
    """A fuse; `index` is its branch."""
    LOOPS = "loops"
    """A device boots and resets over and over: so many rounds were skipped."""
    RETRIES = "retries"
    """A converter starts and gives up over and over."""
    CHATTERS = "chatters"
    """A converter starts, takes its own input down and stops, over and over."""
    ACT = "act"


@dataclass(frozen=True, slots=True)
class Event:
    """Something that switched in row `row`; `index` is the consumer's, converter's or act's."""

    row: int
    at_s: float
    what: Happening
    index: int
    period_s: float = 0.0
    rounds: int = 0


@dataclass(repr=False)
class Trace:
    """Row 0 step by step; what all rows had at most and at least.

    `times_s` (t,); `volts` (t, nodes); currents (t, ·); `temp_c` (t, m); `modes` (t, k) of consumers: off, boots, runs; `on`
    (t, m) of converters. Extremes are over steps and stages of each row (B, ·).
    """

    times_s: list[float] = field(default_factory=list)
    volts: list[Floats] = field(default_factory=list)
    series_a: list[Floats] = field(default_factory=list)
    load_a: list[Floats] = field(default_factory=list)
    input_a: list[Floats] = field(default_factory=list)
    output_a: list[Floats] = field(default_factory=list)
    temp_c: list[Floats] = field(default_factory=list)
    charge_c: list[Floats] = field(default_factory=list)
    modes: list[Ints] = field(default_factory=list)
    on: list[Ints] = field(default_factory=list)
    asked: list[Floats] = field(default_factory=list)
    """What each consumer's law asked (t, k)."""
    set_v: list[Floats] = field(default_factory=list)
    events: list[Event] = field(default_factory=list)
    least_v: Floats = field(default_factory=lambda: np.zeros(0))
    """Over each consumer (B, k)."""
    most_v: Floats = field(default_factory=lambda: np.zeros(0))
    energy_j: Floats = field(default_factory=lambda: np.zeros(0))
    """Taken by each consumer (B, k): what a clamp has to swallow."""
    lost_j: Floats = field(default_factory=lambda: np.zeros(0))
    """Energy that was in coils and left with a contact that opened (B,)."""
    steps: int = 0
    refused: int = 0
    stuck_s: Floats = field(default_factory=lambda: np.zeros(0))
    """Where a row found no next step (B,); infinite where it came to its end."""

    def column(self, name: str) -> Floats:
        """A quantity of the nominal run over its steps (t, ·)."""
        return np.array(getattr(self, name))
