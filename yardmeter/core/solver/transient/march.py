"""The march through time: steps with error control, switches located, every row by its own clock."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.patience import go_on
from yardmeter.core.solver.assembly import with_reference
from yardmeter.core.solver.circuit import LAMP, SWITCHING, Bools, Floats, Ints
from yardmeter.core.solver.elements import LAMP_EXPONENT, converter_loss
from yardmeter.core.solver.transient.acts import Act, Ask, Contact, Enable
from yardmeter.core.solver.transient.arrays import TransientCircuit
from yardmeter.core.solver.transient.loops import Loops
from yardmeter.core.solver.transient.machines import SAME_S, Machines
from yardmeter.core.solver.transient.scheme import D, Weights
from yardmeter.core.solver.transient.stamps import Known, Stage, Stamps
from yardmeter.core.solver.transient.trace import Event, Happening, Trace

RTOL = 3e-3
ATOL_A, ATOL_V = 20e-3, 3e-3
"""Error allowed in a step: three thousandths of a current or voltage, and so much besides."""
EVENT_S, EVENT_FRAC = 1e-6, 1e-4
"""How exactly a switch is located: to a microsecond or this part of the step, whichever is larger."""
FIRST_S = 1e-8
"""First step after a contact closes or opens."""
AGAIN_S = 1e-6
"""First step after any other jump of a current."""
LEAST_S = 1e-13
SETTLED_A = 1e-5
NEWTON_STEPS = 24
BACK_STEPS = 1 / 32
GROWS, EASES, SHRINKS = 6.0, 2.0, 0.15
"""How much a step grows after one whose error was next to nothing, after any other, and how much it shrinks at most."""
CALM = 0.01
FILAMENT_FRAC = 0.1
"""Part of a filament's warming time a step may be while it warms."""
MOST_STEPS = 200_000


@dataclass
class Start:
    """Where a run begins: node volts (B, nodes), states (B, states), temperatures (B, m), whether devices and converters run."""

    volts: Floats
    states: Floats
    temp_c: Floats
    powered: bool
    lamp_ohm: Floats | None = None
    scale: Floats | None = None
    """What tolerance makes of every value that is asked later (B, k)."""


class _Marching:
    """One march; see `march`."""

    def __init__(
        self, circuit: TransientCircuit, acts: Sequence[Act], end_s: float, start: Start, rtol: float, keep: bool
    ) -> None:
        self.circuit, self.end_s, self.keep = circuit, end_s, keep
        self.acts = sorted(acts, key=lambda one: one.at_s)
        self.act_at = np.array([one.at_s for one in self.acts] + [np.inf])
        self.stamps = Stamps(circuit)
        self.machines = Machines(circuit, powered=start.powered)
        if start.scale is not None:
            self.machines.scale = start.scale
        if start.powered:
            self.machines.wake(start.volts)
        rows = circuit.rows
        self.tight = rtol / RTOL
        self.t: Floats = np.zeros(rows)
        self.h: Floats = np.full(rows, AGAIN_S)
        self.volts, self.y, self.temp_c = start.volts.copy(), start.states.copy(), start.temp_c.copy()
        self.slope: Floats = np.zeros_like(self.y)
        self.drift: Floats = np.zeros_like(self.volts)
        self.starting: Bools = np.ones(rows, bool)
        self.next_act: Ints = np.zeros(rows, np.int64)
        self.done: Bools = np.zeros(rows, bool)
        self.limit: Bools = np.zeros((rows, circuit.sizes[2]), bool)
        k = circuit.sizes[1]
        self.trace = Trace(
            least_v=np.full((rows, k), np.inf), most_v=np.full((rows, k), -np.inf), energy_j=np.zeros((rows, k)),
            lost_j=np.zeros(rows), stuck_s=np.full(rows, np.inf),
        )  # fmt: skip
        self.loops = Loops(self.machines, circuit.thermal.tau_s, circuit.thermal.trip_c)
        self._dh: Floats = np.zeros(rows)
        self._inverse: Floats | None = None
        self._known: Known | None = None
        """What held in the stage solved last."""
        self._signals: Floats | None = None
        self._due: Floats | None = None
        """The nearest thing that is known to come (B,)."""
        self._eased: Bools = np.ones(rows, bool)
        """The last step was taken at once: the next may grow."""
        self._weights: tuple[bytes, Weights] | None = None
        lamps = circuit.consumers.law.law == LAMP
        self.lamps: Ints = np.flatnonzero(lamps)
        self.lamp_ohm = start.lamp_ohm if start.lamp_ohm is not None else self._cold_ohm()

    def run(self, watch: Callable[[float], None] | None = None) -> Trace:
        everyone: Bools = np.ones(self.circuit.rows, bool)
        self._acts(everyone)
        self._settle(everyone)
        if self.keep:
            self._begin()
        while not self.done.all():
            go_on()
            if watch and self.trace.steps % 50 == 0:
                watch(float(self.t.min()))
            self._step()
            if self.trace.steps + self.trace.refused > MOST_STEPS:
                self._stuck(~self.done)
        self.trace.events = sorted(self.machines.events, key=lambda one: one.at_s)
        return self.trace

    # --- a step -----------------------------------------------------------------------------------------------------

    def _step(self) -> None:
        if self._due is None:
            self._due = np.minimum(self.machines.next_at(self.t), np.minimum(self.act_at[self.next_act], self.end_s))
        room = self._due - self.t
        h = np.where(self.done, self.h, np.minimum(self.h, np.maximum(room, LEAST_S)))
        h = np.where((h < room) & (h > 0.6 * room), 0.6 * room, h)  # no crumbs before what is known to come
        weights = self._weighed()
        self._take(D * h)
        if self._signals is None:
            self._signals = self.machines.signals(self.volts, self.y[:, self.stamps.entry], self.temp_c, self.limit)
        signals = self._signals
        wide = h[:, None]
        one = self._stage(self.t + weights.stands * h, self.y + wide * weights.first * self.slope, self.volts + self.drift * (weights.stands * h)[:, None])  # fmt: skip
        if one is None:
            return
        stage, _, held, fine = one
        mid = (stage.states - held) / self.stamps.dh
        held = self.y + wide * (weights.second[0] * self.slope + weights.second[1] * mid)
        guess = self.volts + (stage.volts - self.volts) / weights.stands[:, None]
        two = self._stage(self.t + h, held, guess)
        if two is None:
            return
        last, slopes, held, fine_too = two
        fine &= fine_too
        end = (last.states - held) / self.stamps.dh
        raw = wide * (weights.error[0] * self.slope + weights.error[1] * mid + weights.error[2] * end)
        size = self._size(raw, slopes, last)
        most = np.where(self._eased, np.where(size < CALM, GROWS, EASES), 1.0)
        share = np.where(fine, np.clip(0.85 / np.maximum(size, 1e-9) ** (1 / 3), SHRINKS, most), 0.25)
        good: Bools = fine & (size <= 1.0) & ~self.done
        warm = self._warmed(h, stage)
        after = self.machines.signals(last.volts, last.states[:, self.stamps.entry], warm, last.at_limit)
        crossed = (signals < 0) & (after >= 0)
        some: Bools = crossed.any(axis=1) & good
        if some.any():
            with np.errstate(invalid="ignore", divide="ignore"):
                part = np.where(
                    crossed & np.isfinite(signals), signals / (signals - after), np.where(crossed, 1.0, np.inf)
                )
            nearest = part.min(axis=1, initial=1.0)
            tolerance = np.maximum(EVENT_S, EVENT_FRAC * h)
            late: Bools = some & ((1 - nearest) * h > tolerance)
            good &= ~late
            self.h = np.where(late, np.maximum(nearest * h + 0.5 * tolerance, LEAST_S), self.h)
            share = np.where(late, 1.0, share)
            h_next = np.where(late, self.h, h * share)
        else:
            h_next = h * share
        bad: Bools = ~good & ~self.done
        self._stuck(bad & (h_next < LEAST_S))
        self.trace.refused += int(bad.any())
        self._eased = ~bad
        # A step a little longer is not worth a new matrix.
        same: Bools = good & (share > 0.9) & (share < 1.3) & (h == self.h)
        grown = np.where(good, np.maximum(h_next, np.where(h < self.h, np.minimum(self.h, GROWS * h), 0.0)), h_next)
        self.h = np.where(self.done, self.h, np.where(same, self.h, grown))
        if good.any():
            self._accept(good, h, stage, last, end, warm, after)

    def _accept(self, good: Bools, h: Floats, stage: Stage, last: Stage, end: Floats, warm: Floats, after: Floats) -> None:  # fmt: skip
        pick = good[:, None]
        self.t = np.where(good, self.t + h, self.t)
        self.drift = np.where(pick, (last.volts - self.volts) / h[:, None], self.drift)
        self.volts = np.where(pick, last.volts, self.volts)
        self.y = np.where(pick, last.states, self.y)
        self.slope = np.where(pick, end, self.slope)
        self.temp_c = np.where(pick, warm, self.temp_c)
        self.limit = np.where(pick, last.at_limit, self.limit)
        self.stamps.cell_a = self._cell_a(last)
        if self.lamps.size:
            self._filaments(good, h, last)
        self.starting = np.where(good, False, self.starting)
        self.trace.steps += 1
        self._extremes(good, h, stage, last)
        if self.keep and good[0]:
            self._record(last)
        falls: Bools = good & (after >= 0).any(axis=1)
        arrives: Bools = good & (self.t >= self._due - SAME_S) if self._due is not None else good
        if not (falls.any() or arrives.any()):
            self._signals = np.where(pick, after, self._signals) if self._signals is not None else None
        else:
            self._switch(falls, arrives, after)
        self.done |= self.t >= self.end_s - LEAST_S

    def _switch(self, falls: Bools, arrives: Bools, signals: Floats) -> None:
        """What falls by itself, what is due, and what is done from outside in these rows."""
        jumps = self.machines.fall(falls, self.t, signals)
        jumps |= self.machines.reach(arrives, self.t)
        contact = self._acts(arrives)
        jumps |= contact
        self._again(jumps, contact)
        self._settle(falls | arrives)
        self._skip_loops()
        self._signals = self._due = None

    def _cell_a(self, last: Stage) -> Floats:
        curve = self.circuit.series.curve
        return last.series_a[:, curve.cell] if curve is not None and curve.cell >= 0 else np.zeros(self.circuit.rows)

    def _again(self, jumps: Bools, contact: Bools) -> None:
        if jumps.any():
            self.starting |= jumps
            self.slope[jumps] = 0.0
            self.drift[jumps] = 0.0
            self.h = np.where(jumps, np.minimum(self.h, np.where(contact, FIRST_S, AGAIN_S)), self.h)
            self._inverse = None

    def _skip_loops(self) -> None:
        due = np.minimum(self.act_at[self.next_act], self.end_s)
        charge = self.y[:, self.stamps.charge]
        for skip in self.loops.skips(self.temp_c, charge, due):
            row, by = skip.row, skip.rounds * skip.period_s
            self.loops.shift(row, by, float(self.t[row]) + 1.5 * skip.period_s)
            self.t[row] += by
            self.temp_c[row] = skip.temp_c
            cell = self.circuit.series.curve.cell if self.circuit.series.curve is not None else -1
            if cell >= 0:
                charge[row, cell] = skip.charge_c[cell]

    def _settle(self, rows: Bools) -> None:
        """Switches that stand over their threshold already fall at once; each may set off another."""
        for _ in range(8):
            if not rows.any():
                return
            signals = self.machines.signals(self.volts, self.y[:, self.stamps.entry], self.temp_c, self.limit)
            signals[:, -2 * self.circuit.sizes[2] :] = -np.inf  # limits are known after a step only
            rows = self.machines.fall(rows, self.t, signals)
            self._again(rows, np.zeros_like(rows))

    def _acts(self, rows: Bools) -> Bools:
        """Acts that are due in these rows; returns where a contact moved."""
        moved = np.zeros_like(rows)
        while True:
            due = rows & (self.act_at[self.next_act] <= self.t + LEAST_S)
            if not due.any():
                return moved
            for index in np.unique(self.next_act[due]).tolist():
                mine = due & (self.next_act == index)
                act = self.acts[index]
                if isinstance(act, Contact) and not act.closed:
                    self._lose(mine, act.branch)
                act.apply(self.machines, mine, self.t)
                if mine[0]:
                    self.machines.events.append(Event(0, float(self.t[0]), Happening.ACT, index))
                moved |= mine & isinstance(act, Contact | Enable)
                if isinstance(act, Ask) and act.over_s > 0:
                    continue  # a ramp begins without a jump
                self.starting |= mine
                self.slope[mine] = 0.0
                self.h = np.where(mine, np.minimum(self.h, AGAIN_S), self.h)
            self.next_act[due] += 1
            self._dh = np.zeros_like(self._dh)

    def _lose(self, rows: Bools, branch: int) -> None:
        flux = self.y[:, self.stamps.flux][:, branch]
        henry = np.maximum(self.circuit.series.henry[:, branch], 1e-15)
        self.trace.lost_j += np.where(rows, flux**2 / (2 * henry), 0.0)
        self.y[rows, branch] = 0.0

    def _stuck(self, rows: Bools) -> None:
        if rows.any():
            self.trace.stuck_s[rows] = self.t[rows]
            self.done |= rows

    # --- equations --------------------------------------------------------------------------------------------------

    def _weighed(self) -> Weights:
        key = self.starting.tobytes()
        if self._weights is None or self._weights[0] != key:
            self._weights = key, Weights(self.starting)
        return self._weights[1]

    def _take(self, dh: Floats) -> None:
        if not np.array_equal(dh, self._dh):
            self._dh = dh
            self._inverse = None
            self.stamps.take_step(dh)

    def _stage(self, time_s: Floats, held: Floats, volts: Floats) -> tuple[Stage, Floats, Floats, Bools] | None:
        """A stage solved, its slopes, what was held, and in which rows it is; None when nothing came of it."""
        known = self._known = self.machines.known(time_s)
        if self.lamps.size:
            known.lamp_ohm = self.lamp_ohm
        stamps = self.stamps
        stamps.begin(known, held)
        before: Floats = np.full(volts.shape[0], np.inf)
        origin, change, part = volts, np.zeros_like(volts), np.ones(volts.shape[0])
        for step in range(NEWTON_STEPS):
            missing, slopes, stage = stamps.evaluate(volts)
            left = np.abs(missing).max(axis=1)
            carried = np.abs(stage.series_a).max(axis=1, initial=1.0)
            fine: Bools = (left <= SETTLED_A * np.maximum(carried, 1.0)) | self.done
            if step and fine.all():
                return stage, slopes, held, fine
            worse: Bools = ~fine & (left > before)
            if worse.any() and step > 2:  # across a bend the slope lied: not so far
                part = np.where(worse, part / 2, 1.0)
                volts = np.where(worse[:, None], origin - change * part[:, None], volts)
                if part.min() > BACK_STEPS:
                    continue
            if self._inverse is None or (step > 0 and bool((left > 0.2 * before)[~fine].any())):
                try:
                    self._inverse = inverted(stamps.jacobian(slopes))
                except np.linalg.LinAlgError:
                    break
            origin, part = volts, np.ones(volts.shape[0])
            inverse = self._inverse
            change = (inverse @ missing[:, :, None])[:, :, 0]
            volts = volts - change
            before = left
        self._inverse = None
        fine &= np.isfinite(volts).all(axis=1)  # a row that comes to nothing is tried again by itself
        if not fine.any():
            self.trace.refused += 1
            self.h = np.where(self.done, self.h, self.h * 0.25)
            self.starting |= ~self.done
            self.slope[~self.done] = 0.0
            self._stuck(~self.done & (self.h < LEAST_S))
            return None
        return stage, slopes, held, fine

    def _size(self, raw: Floats, slopes: Floats, last: Stage) -> Floats:
        """The error of a step over what is allowed (B,), what is stiff taken out."""
        stamps = self.stamps
        raw = raw.copy()
        driven = stamps.error_currents(raw)
        inverse = self._inverse if self._inverse is not None else inverted(stamps.jacobian(slopes))
        self._inverse = inverse
        volts = -(inverse @ driven[:, :, None])[:, :, 0]
        error = stamps.error_states(raw, volts, slopes)
        s, load = self.circuit.series, self.circuit.consumers
        henry = np.maximum(stamps.bent_henry, 1e-15)
        amps = np.abs(error[:, stamps.flux]) / henry / (ATOL_A + RTOL * np.abs(last.series_a))
        cap_v = np.abs(error[:, stamps.charge]) * s.elastance / (ATOL_V + RTOL * np.abs(last.states[:, stamps.charge] * s.elastance))  # fmt: skip
        drawn = np.abs(error[:, stamps.load]) * (load.lag_s > 0) / (ATOL_A + RTOL * np.abs(last.load_a))
        given = np.abs(error[:, stamps.conv]) * (self.circuit.converting.line_s > 0) / (ATOL_A + RTOL * np.abs(last.output_a))  # fmt: skip
        worst: Floats = np.concatenate([np.where(s.henry > 0, amps, 0.0), cap_v, drawn, given], axis=1).max(
            axis=1, initial=0.0
        )
        return worst / self.tight

    # --- slow things ------------------------------------------------------------------------------------------------

    def _watts(self, at: Stage) -> Floats:
        """What converters turn into heat (B, m)."""
        c = self.circuit.converting.law
        ve = with_reference(at.volts)
        gnd = ve[:, c.gnd]
        vin, vo = ve[:, c.inp] - gnd, ve[:, c.out] - gnd
        across = (vin - vo) * at.output_a
        loss = np.where(c.kind == SWITCHING, converter_loss(c, at.output_a)[0], across)
        return loss + np.where(self.machines.on, c.quiescent_a * np.maximum(vin, 0.0), 0.0)

    def _warmed(self, h: Floats, stage: Stage) -> Floats:
        heat = self.circuit.thermal
        watts = self._watts(stage)  # near the middle of the step
        aim = heat.air_c + np.maximum(watts, 0.0) * heat.theta_k_w
        found: Floats = aim + (self.temp_c - aim) * np.exp(-h[:, None] / heat.tau_s)
        return found

    def _cold_ohm(self) -> Floats:
        """Resistance of every consumer as if it were a cold lamp (B, k); read of lamps only."""
        own = self.circuit.consumers
        rated = own.lamp_a if own.lamp_a is not None else np.zeros(own.law.p.size)
        cold = own.law.knee_v / np.maximum(rated, 1e-9) * 0.02 ** (1 - LAMP_EXPONENT)
        return np.tile(np.where(rated > 0, cold, 1.0), (self.circuit.rows, 1))

    def _filaments(self, good: Bools, h: Floats, last: Stage) -> None:
        """A lamp's resistance follows the power it takes: `R ~ P^((1 − x)/(1 + x))` of the law `I ~ V^x`."""
        own, at = self.circuit.consumers, self.lamps
        if own.lamp_a is None or own.filament_s is None:
            return
        ve = with_reference(last.volts)
        watts = np.maximum((ve[:, own.law.p[at]] - ve[:, own.law.n[at]]) * last.load_a[:, at], 0.0)
        volts, amps, tau = own.law.knee_v[at], np.maximum(own.lamp_a[at], 1e-9), np.maximum(own.filament_s[at], 1e-6)
        share = np.maximum(watts / (volts * amps), 0.02 ** (1 + LAMP_EXPONENT))
        aim = volts / amps * share ** ((1 - LAMP_EXPONENT) / (1 + LAMP_EXPONENT))
        now = self.lamp_ohm[:, at]
        new = aim + (now - aim) * np.exp(-h[:, None] / tau)
        self.lamp_ohm[:, at] = np.where(good[:, None], new, now)
        warming = (watts > 0) & (np.abs(aim - now) > 0.01 * now)
        self.h = np.minimum(self.h, np.where(warming.any(axis=1), FILAMENT_FRAC * float(tau.max()), np.inf))
        self._inverse = None

    def _extremes(self, good: Bools, h: Floats, stage: Stage, last: Stage) -> None:
        load = self.circuit.consumers.law
        pick = good[:, None]
        powers = []
        for at in (stage, last):
            ve = with_reference(at.volts)
            pin = ve[:, load.p] - ve[:, load.n]
            self.trace.least_v = np.where(pick, np.minimum(self.trace.least_v, pin), self.trace.least_v)
            self.trace.most_v = np.where(pick, np.maximum(self.trace.most_v, pin), self.trace.most_v)
            powers.append(pin * at.load_a)
        self.trace.energy_j += np.where(pick, h[:, None] * (powers[0] + powers[1]) / 2, 0.0)

    def _begin(self) -> None:
        """The first record: what was before anything moved."""
        s, load, conv = self.circuit.series, self.circuit.consumers, self.circuit.converting.law
        y = self.y[:, :]
        flux = y[:, self.stamps.flux]
        amps = np.where(s.henry > 0, flux / np.maximum(s.henry, 1e-15), 0.0)
        nothing = np.zeros_like(conv.set_v)
        drawn = np.where(load.lag_s > 0, y[:, self.stamps.load], 0.0)
        self._record(Stage(self.volts, y, amps, drawn, nothing, y[:, self.stamps.conv], self.limit))

    def _record(self, last: Stage) -> None:
        trace = self.trace
        trace.times_s.append(float(self.t[0]))
        trace.volts.append(last.volts[0])
        trace.series_a.append(last.series_a[0])
        trace.load_a.append(last.load_a[0])
        trace.input_a.append(last.input_a[0])
        trace.output_a.append(last.output_a[0])
        trace.temp_c.append(self.temp_c[0])
        trace.charge_c.append(last.states[0, self.stamps.charge])
        trace.modes.append(self.machines.mode[0].copy())
        trace.on.append(self.machines.on[0].copy())
        known = self._known or self.machines.known(self.t)
        trace.asked.append(known.asked[0])
        trace.set_v.append(known.set_v[0])


def inverted(matrices: Floats) -> Floats:
    """Their inverses (B, n, n); raises LinAlgError."""
    return np.asarray(np.linalg.inv(matrices), np.float64)


def march(
    circuit: TransientCircuit,
    acts: Sequence[Act],
    end_s: float,
    start: Start,
    *,
    rtol: float = RTOL,
    keep: bool = True,
    watch: Callable[[float], None] | None = None,
) -> Trace:
    """Run a circuit from its start to `end_s`, with acts on the way. The circuit's arrays are changed by the acts.

    Row 0 is recorded step by step where `keep`; extremes and events are of every row. Never raises for a circuit that
    cannot go on: `stuck_s` tells where. `watch` hears how far the slowest row is [s].
    """
    return _Marching(circuit, acts, end_s, start, rtol, keep).run(watch)
