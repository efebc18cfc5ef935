"""Loops: what resets, tries again or loses its input over and over is followed for a few rounds, then skipped until something else is due."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from yardmeter.core.solver.circuit import Bools, Floats
from yardmeter.core.solver.transient.machines import NEVER, Machines
from yardmeter.core.solver.transient.trace import Event, Happening

ROUNDS = 3
"""Equal rounds in a row that make a loop."""
MOST_IN_ROUND = 6
"""A round may be so many of an element's own events: two loops that fall into step, three of one to two of the other."""
EQUAL_FRAC = 0.05
"""How equal they have to be."""
FILLS_FRAC, SETTLES_FRAC = 1e-4, 0.01
"""What capacitors may be lifted by from round to round, and still in all, of the most any of them holds: where they gain more,
it is no loop but a slow way up, or down."""
RAMP_FRAC = 0.01
"""What is ramped, or starts softly, is looked at again after so much of its way: what follows it lags no further behind."""
AGAIN = (Happening.RESET, Happening.HICCUPS, Happening.STOPS)
LOOP_OF = {
    Happening.RESET: Happening.LOOPS,
    Happening.HICCUPS: Happening.RETRIES,
    Happening.STOPS: Happening.CHATTERS,
}


@dataclass(frozen=True)
class _Round:
    at_s: float
    slow: Floats
    charge_c: Floats
    patience_s: Floats
    """How long each converter still stands its limit (m,)."""


@dataclass(frozen=True)
class Slow:
    """What moves by a time constant of its own while a loop goes round (S,): temperatures, heat of fuses, the cell's slow part.

    `ends` is where it ends the loop by itself, a trip or a melting fuse; infinite where it never does. What shapes the loop,
    a filament or an NTC, moves no further than its own of `steps` before the loop is looked at again; infinite for all else.
    """

    tau_s: Floats
    ends: Floats
    steps: Floats


@dataclass(frozen=True)
class Skip:
    """A row may go on `rounds` rounds of `period_s` later, with these slow things and charges."""

    row: int
    period_s: float
    rounds: int
    slow: Floats
    charge_c: Floats
    renewed: Bools
    """Converters that come to their limit anew in each round, and never stand it for as long as they would (m,)."""


class Loops:
    """Remembers when each element last reset, and what of the slow things changed from round to round."""

    def __init__(self, machines: Machines, kinds: Slow, elastance: Floats) -> None:
        """`elastance` of the series branches (ns,), 0 of those that are no capacitors [1/F]."""
        self.machines, self.kinds, self.elastance = machines, kinds, elastance
        self._rounds: dict[tuple[int, Happening, int], list[_Round]] = {}
        self._read = 0

    def forget(self, row: int) -> None:
        """Something was done from outside: what went round may go otherwise now."""
        for key in [one for one in self._rounds if one[0] == row]:
            del self._rounds[key]

    def skips(self, slow: Floats, charge_c: Floats, due_s: Floats) -> Iterator[Skip]:
        """Rows that have gone round often enough, with how far they may skip before what is due from outside (B,).

        `slow` (B, S) and `charge_c` (B, ns) as they stand now.
        """
        events = self.machines.events
        fresh, self._read = events[self._read :], len(events)
        for one in fresh:
            if one.what is Happening.ACT:
                self.forget(one.row)
            if one.what not in AGAIN:
                continue
            key = (one.row, one.what, one.index)
            seen = self._rounds.setdefault(key, [])
            patience_s = self.machines.blank_at[one.row] - one.at_s
            seen.append(_Round(one.at_s, slow[one.row].copy(), charge_c[one.row].copy(), patience_s))
            del seen[: -ROUNDS * MOST_IN_ROUND - 1]
            count = _in_round([each.at_s for each in seen])
            skip = self._skip(one.row, seen, count, due_s) if count else None
            if skip:
                what, each_s = LOOP_OF[one.what], skip.period_s / count
                events.append(Event(one.row, one.at_s, what, one.index, each_s, skip.rounds * count))
                self._read = len(events)
                self.forget(one.row)
                yield skip

    def _skip(self, row: int, seen: list[_Round], count: int, due_s: Floats) -> Skip | None:
        now, before = seen[-1], seen[-1 - count]
        if self._fills(seen[-1 - 2 * count], before, now):
            return None
        period_s = now.at_s - before.at_s
        with np.errstate(invalid="ignore"):  # what never ends, less what never ends
            renewed: Bools = np.abs(now.patience_s - before.patience_s) < EQUAL_FRAC * period_s
        foreign = min(float(due_s[row]), self._deadline(row, now.at_s + 1.5 * period_s, renewed))
        rounds = min(int((foreign - now.at_s) / period_s) - 1, int(self._still_s(row, now.at_s) / period_s))
        left = np.exp(-period_s / self.kinds.tau_s)
        aim = (now.slow - left * before.slow) / np.maximum(1 - left, 1e-15)
        with np.errstate(all="ignore"):
            until = np.log((self.kinds.ends - aim) / (now.slow - aim)) / np.log(left)
            within = np.log1p(-self.kinds.steps / np.abs(aim - now.slow)) / np.log(left)
        hot = np.isfinite(until) & (aim > self.kinds.ends) & (until > 0)
        if hot.any():
            rounds = min(rounds, int(until[hot].min()) - 1)
        moves = np.abs(aim - now.slow) > self.kinds.steps
        if moves.any():
            rounds = min(rounds, int(within[moves].min()))
        if rounds < 2:
            return None
        slow = aim + (now.slow - aim) * left**rounds
        charge_c = now.charge_c + rounds * (now.charge_c - before.charge_c)
        return Skip(row, period_s, rounds, slow, charge_c, renewed)

    def _fills(self, first: _Round, before: _Round, now: _Round) -> bool:
        """Whether capacitors are still on their way from round to round: by more than a little, and with more than a little to go
        where each round moves them by the same part of the one before."""
        held, then, earlier = (self.elastance * one.charge_c for one in (now, before, first))
        most_v = max(float(np.abs(held).max(initial=0.0)), 1.0)
        step, last = np.abs(held - then), np.abs(then - earlier)
        shrinks = np.minimum(step / np.maximum(last, 1e-15), 1 - 1e-9)
        to_go = step * shrinks / (1 - shrinks)
        return bool(((step > FILLS_FRAC * most_v) & (to_go > SETTLES_FRAC * most_v)).any())

    def _still_s(self, row: int, at_s: float) -> float:
        """How long nothing that is ramped from outside, or still starts softly, moves by more than `RAMP_FRAC` of its way."""
        m = self.machines
        ramps = (m.from_s[row] < at_s) & (at_s < m.to_s[row]) & (m.from_value[row] != m.to_value[row])
        soft_s = m.circuit.converting.soft_s
        starts = m.on[row] & (m.on_at[row] <= at_s) & (at_s < m.on_at[row] + soft_s)
        ways = np.concatenate([np.where(ramps, m.to_s[row] - m.from_s[row], NEVER), np.where(starts, soft_s, NEVER)])
        return RAMP_FRAC * float(ways.min(initial=1e9))

    def _deadline(self, row: int, after_s: float, renewed: Bools) -> float:
        """The nearest deadline that does not belong to the loop."""
        m = self.machines
        soft_end = np.where(m.on[row], m.on_at[row] + m.circuit.converting.soft_s, NEVER)
        every = np.concatenate(
            [
                m.ready_at[row],
                m.begin_at[row],
                m.from_s[row],
                m.to_s[row],
                m.retry_at[row],
                np.where(renewed, NEVER, m.blank_at[row]),
                m.arc_at[row],
                soft_end,
            ]
        )
        later = every[every > after_s]
        return float(later.min()) if later.size else NEVER

    def shift(self, row: int, by_s: float, since_s: float, until_s: float, renewed: Bools) -> None:
        """Move the loop's own deadlines, those before `until_s` or `renewed`, and starts, those after `since_s`, along with the row."""
        m = self.machines
        m.blank_at[row] = np.where(renewed & (m.blank_at[row] > until_s), m.blank_at[row] + by_s, m.blank_at[row])
        for deadline in (m.reset_at, m.ready_at, m.begin_at, m.retry_at, m.blank_at):
            mine = deadline[row]
            deadline[row] = np.where(mine <= until_s, mine + by_s, mine)
        m.on_at[row] = np.where(m.on_at[row] >= since_s, m.on_at[row] + by_s, m.on_at[row])


def _in_round(times_s: list[float]) -> int:
    """How many events make a round, where the last of them are `ROUNDS` equal ones; 0 where they are not."""
    gaps = np.diff(times_s)
    for count in range(1, gaps.size // ROUNDS + 1):
        rounds = gaps[-ROUNDS * count :].reshape(ROUNDS, count)
        if (np.ptp(rounds, axis=0) <= EQUAL_FRAC * rounds.mean(axis=0)).all():
            return count
    return 0
