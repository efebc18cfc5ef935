"""What switches: devices that boot, brown out and reset; converters that start, stop, limit, trip and try again.

A switch falls where a signal (see `signals`) passes zero from below, or when a deadline is reached. Deadlines and modes
are arrays, a row for each run.
"""

from __future__ import annotations

import numpy as np

from yardmeter.core.solver.assembly import with_reference
from yardmeter.core.solver.circuit import Bools, Floats, Ints
from yardmeter.core.solver.transient.arrays import HICCUP, LATCH, TransientCircuit
from yardmeter.core.solver.transient.trace import Event, Happening

OFF, BOOTS, RUNS = 0, 1, 2
NEVER = np.inf
POWER_ON_S = 100e-6
"""How long its volts have to be there before a device begins to boot; common practice, no source."""
SAME_S = 1e-12
ARC_OHM = (0.5, 20.0, 1000.0)
ARC_S = 50e-6
"""What an opening contact goes through, each for so long: it takes up what is in the coils of the circuit; our estimate."""


class Machines:
    """Modes of devices and converters, their deadlines, and the values they go by in time."""

    def __init__(self, circuit: TransientCircuit, *, powered: bool) -> None:
        self.circuit = circuit
        own, conv, rows = circuit.consumers, circuit.converting, circuit.rows
        _, k, m = circuit.sizes
        self.mode: Ints = np.full((rows, k), RUNS if powered else OFF, np.int64)
        self.wanted: Bools = np.ones((rows, k), bool)
        self.scale: Floats = np.ones((rows, k))
        """What tolerance makes of each value that is asked later."""
        self.from_value, self.to_value = own.run.copy(), own.run.copy()
        self.from_s, self.to_s = np.zeros((rows, k)), np.full((rows, k), -1.0)
        self.reset_at, self.ready_at, self.begin_at = (np.full((rows, k), NEVER) for _ in range(3))
        self.enabled: Bools = conv.law.enabled.copy()
        self.on: Bools = conv.law.enabled & (powered | (conv.start_v < 0))
        self.on_at: Floats = np.full((rows, m), -1e9)
        self.latched, self.tripped = np.zeros((rows, m), bool), np.zeros((rows, m), bool)
        self.failed: Bools = np.zeros((rows, m), bool)
        self.limiting: Bools = np.zeros((rows, m), bool)
        self.retry_at, self.blank_at = np.full((rows, m), NEVER), np.full((rows, m), NEVER)
        self.arc_at: Floats = np.full((rows, circuit.sizes[0]), NEVER)
        """When the arc of a fuse that melts comes to its next part (B, ns)."""
        self.arc_part: Ints = np.zeros((rows, circuit.sizes[0]), np.int64)
        self.opened: list[tuple[Bools, int]] = []
        """Branches that opened with what was in their coils, and the rows, until somebody has seen to it."""
        self.events: list[Event] = []

    def wake(self, volts: Floats) -> None:
        """Where a run begins with everything on, devices without their volts are off all the same."""
        ve = with_reference(volts)
        law = self.circuit.consumers.law
        short = (ve[:, law.p] - ve[:, law.n] < self.circuit.consumers.reset_v) & self.circuit.consumers.machine
        self.mode[short] = OFF

    def next_at(self, time_s: Floats) -> Floats:
        """The nearest deadline after these times (B,)."""
        soft = np.where(
            self.on & (self.circuit.converting.soft_s > 0), self.on_at + self.circuit.converting.soft_s, NEVER
        )
        every = np.concatenate(
            [
                self.reset_at,
                self.ready_at,
                self.begin_at,
                self.from_s,
                self.to_s,
                self.retry_at,
                self.blank_at,
                soft,
                self.arc_at,
            ],
            axis=1,
        )
        ahead = np.where(every > time_s[:, None] + SAME_S, every, NEVER)
        found: Floats = ahead.min(axis=1, initial=NEVER)
        return found

    def fall(self, rows: Bools, time_s: Floats, signals: Floats) -> Bools:
        """Let what is at nothing or above in these rows fall; returns rows in which a current jumps."""
        ns, k, m = self.circuit.sizes
        hit = (signals >= 0) & rows[:, None]
        if not hit.any():
            return np.zeros(rows.shape, bool)
        cuts = np.cumsum([ns, k, k, k, k, m, m, m, m, m])
        melts, under, back, restart, drop, start, stop, trip, cool, limit, free = np.split(hit, cuts, axis=1)
        own, conv, t = self.circuit.consumers, self.circuit.converting, time_s[:, None]
        at = np.broadcast_to(t, self.mode.shape)
        self.arc_at[melts] = np.broadcast_to(t, self.arc_at.shape)[melts] + ARC_S
        self.circuit.series.contact_ohm[melts] += ARC_OHM[0]
        self.reset_at[under] = (at + own.hold_s)[under]
        self.reset_at[back] = NEVER
        self.begin_at[restart] = (at + POWER_ON_S)[restart]
        self.begin_at[drop] = NEVER
        at_conv = np.broadcast_to(t, self.on.shape)
        self.on[start] = True
        self.on_at[start] = at_conv[start]
        self.limiting[start] = False
        self.on[stop | trip] = False
        self.latched[stop] = False
        self.retry_at[stop] = NEVER
        self.tripped[trip], self.tripped[cool] = True, False
        self.limiting[limit], self.limiting[free | stop | trip] = True, False
        counts = limit & ((conv.style == HICCUP) | (conv.style == LATCH))
        begun = np.maximum(at_conv, self.on_at + conv.soft_s)
        self.blank_at[counts] = (begun + conv.blank_s)[counts]
        self.blank_at[free | stop | trip] = NEVER
        for what, which in (
            (Happening.MELTS, melts), (Happening.UNDER, under), (Happening.BACK, back), (Happening.STARTS, start),
            (Happening.STOPS, stop), (Happening.TRIPS, trip), (Happening.COOLS, cool), (Happening.LIMITS, limit),
            (Happening.FREE, free),
        ):  # fmt: skip
            self._note(time_s, what, which)
        hard = start & (conv.soft_s <= 0)
        jumps = melts.any(axis=1) | hard.any(axis=1) | stop.any(axis=1) | trip.any(axis=1)
        return np.asarray(jumps)

    def reach(self, rows: Bools, time_s: Floats) -> Bools:
        """What the deadlines up to these times bring; returns rows in which a current jumps."""
        now = time_s[:, None] + SAME_S
        mine = rows[:, None]
        dies = (self.reset_at <= now) & mine
        ready = (self.ready_at <= now) & mine
        begins = (self.begin_at <= now) & mine
        gives_up = (self.blank_at <= now) & mine
        retries = (self.retry_at <= now) & mine
        self.mode[dies] = OFF
        self.reset_at[dies] = self.ready_at[dies] = NEVER
        ready &= self.mode == BOOTS
        self.mode[ready] = RUNS
        self.ready_at[ready] = NEVER
        self.mode[begins] = BOOTS
        self.ready_at[begins] = (np.broadcast_to(time_s[:, None], self.mode.shape) + self.circuit.consumers.boot_s)[
            begins
        ]
        self.begin_at[begins] = NEVER
        latches = gives_up & (self.circuit.converting.style == LATCH)
        hiccups = gives_up & ~latches
        at = np.broadcast_to(time_s[:, None], self.on.shape)
        self.on[gives_up] = False
        self.limiting[gives_up] = False
        self.blank_at[gives_up] = NEVER
        self.latched[latches] = True
        self.retry_at[hiccups] = (at + self.circuit.converting.retry_s)[hiccups]
        self.retry_at[retries] = NEVER
        for what, which in (
            (Happening.RESET, dies), (Happening.BOOTS, begins), (Happening.RUNS, ready), (Happening.LATCHES, latches), (Happening.HICCUPS, hiccups),
        ):  # fmt: skip
            self._note(time_s, what, which)
        arcs = self._burn(rows, time_s)
        return np.asarray((dies | ready | begins).any(axis=1) | gives_up.any(axis=1) | arcs)

    def _burn(self, rows: Bools, time_s: Floats) -> Bools:
        """Arcs of fuses go on to their next part, and out; returns rows in which one did."""
        due = (self.arc_at <= time_s[:, None] + SAME_S) & rows[:, None]
        series = self.circuit.series
        self.arc_part[due] += 1
        out = due & (self.arc_part >= len(ARC_OHM))
        burns = due & ~out
        series.contact_ohm[burns] = np.array(ARC_OHM)[self.arc_part[burns]]
        self.arc_at[burns] += ARC_S
        self.arc_at[out] = NEVER
        series.closed[out] = False
        self.opened += [(out[:, k], k) for k in np.flatnonzero(out.any(axis=0)).tolist()]
        return np.asarray(due.any(axis=1))

    def _note(self, time_s: Floats, what: Happening, which: Bools) -> None:
        for row, index in zip(*(one.tolist() for one in np.nonzero(which)), strict=True):
            self.events.append(Event(row, float(time_s[row]), what, index))
