"""The march through time: stretches by steps with error control, switches between them, every row by its own clock."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from yardmeter.core.elements.inline import cold_lamp_ohm
from yardmeter.core.elements.load import CURRENT, LAMP
from yardmeter.core.patience import go_on
from yardmeter.core.physics.inline import ntc_ohm
from yardmeter.core.solver.circuit import Bools, Floats, Ints
from yardmeter.core.solver.transient.acts import Act, Ask, Contact, Enable
from yardmeter.core.solver.transient.arrays import Start, TransientCircuit
from yardmeter.core.solver.transient.currents import ask
from yardmeter.core.solver.transient.layout import Layout
from yardmeter.core.solver.transient.loops import Loops, Slow
from yardmeter.core.solver.transient.machines import SAME_S, Machines
from yardmeter.core.solver.transient.packed import Records, packed, refresh
from yardmeter.core.solver.transient.scheme import RTOL
from yardmeter.core.solver.transient.signals import LIMITS, UNARMED
from yardmeter.core.solver.transient.stretch import (
    BRANCH_RECORD,
    BRANCH_STATE,
    CONSUMER_RECORD,
    CONSUMER_STATE,
    CONVERTER_RECORD,
    CONVERTER_STATE,
    GOES_ON,
    LEAST_S,
    NODE_STATE,
    NTC_STEP_K,
    ROW,
    STATE,
    STUCK,
    SWITCHES,
    Record,
    State,
    new_bench,
    signals_now,
    stretch,
)
from yardmeter.core.solver.transient.trace import Event, Happening, Trace

FIRST_S = 1e-8
"""First step after a contact closes or opens."""
AGAIN_S = 1e-6
"""First step after any other jump of a current."""
TURNS = 64
"""Steps of a row before somebody is asked whether they are still waited for."""
MOST_STEPS = 200_000
LAMP_STEP_FRAC = 0.02
"""Part of its cold resistance a filament may move while rounds of a loop are skipped."""


class Marching:
    """One march; see `march.march`."""

    def __init__(
        self, circuit: TransientCircuit, acts: Sequence[Act], end_s: float, start: Start, rtol: float, keep: bool
    ) -> None:
        self.circuit, self.end_s, self.keep = circuit, end_s, keep
        self.acts = sorted(acts, key=lambda one: one.at_s)
        self.act_at = np.array([one.at_s for one in self.acts] + [np.inf])
        self.layout = Layout(circuit)
        self.machines = Machines(circuit, powered=start.powered)
        if start.scale is not None:
            self.machines.scale = start.scale
        if start.powered:
            self.machines.wake(start.volts)
        rows = circuit.rows
        self.tight = rtol / RTOL
        self.state = self._standing(start)
        for row in range(rows):
            self._take_heat(row)
        self.next_act: Ints = np.zeros(rows, np.int64)
        self.done: Bools = np.zeros(rows, bool)
        self.trace = Trace(lost_j=np.zeros(rows), stuck_s=np.full(rows, np.inf))
        self.net = packed(circuit)
        self.loops = Loops(self.machines, self._slow_kinds(), circuit.series.elastance[0])
        self.bench = new_bench(self.net)
        self.signals = np.full((rows, self.bench.after.size), UNARMED)
        self.record = self._record(TURNS if keep else 0)

    def run(self, watch: Callable[[float], None] | None = None) -> Trace:
        everyone: Bools = np.ones(self.circuit.rows, bool)
        rows, trace = self.rows, self.trace
        self._acts(everyone)
        self._settle(everyone)
        if self.keep:
            self._begin()
        due = self._due()
        while not self.done.all():
            go_on()
            if watch:
                watch(float(self.t.min()))
            rows["outcome"] = np.where(self.done, STUCK, GOES_ON)
            stretch(self.net, self.state, self.record, self.bench, due, self.signals, TURNS, self.tight)
            self._keep(int(rows["recorded"][0]))
            switches: Bools = rows["outcome"] == SWITCHES
            self._stuck((rows["outcome"] == STUCK) | (rows["steps"] + rows["refused"] > MOST_STEPS))
            if switches.any():
                falls: Bools = switches & (self.signals >= 0).any(axis=1)
                arrives: Bools = switches & (self.t >= due - SAME_S)
                self._switch(falls, arrives, self.signals)
                due = self._due()
            self.done |= self.t >= self.end_s - LEAST_S
        trace.events = sorted(self.machines.events, key=lambda one: one.at_s)
        trace.least_v, trace.most_v, trace.energy_j = (
            self.state.consumer[name].copy() for name in ("least_v", "most_v", "energy_j")
        )
        trace.steps, trace.refused = int(rows["steps"].sum()), int(rows["refused"].sum())
        return trace

    @property
    def rows(self) -> Records:
        return self.state.row

    @property
    def t(self) -> Floats:
        """The clock of every row (B,)."""
        found: Floats = self.state.row["t"]
        return found

    # --- what switches ----------------------------------------------------------------------------------------------

    def _due(self) -> Floats:
        """The nearest thing known to come in each row (B,)."""
        known = np.minimum(self.act_at[self.next_act], self.end_s)
        found: Floats = np.minimum(self.machines.next_at(self.t), known)
        return found

    def _switch(self, falls: Bools, arrives: Bools, signals: Floats) -> None:
        """What falls by itself, what is due, and what is done from outside in these rows."""
        jumps = self.machines.fall(falls, self.t, signals)
        jumps |= self.machines.reach(arrives, self.t)
        for rows, branch in self.machines.opened:
            self._lose(rows, branch)
        self.machines.opened.clear()
        contact = self._acts(arrives)
        jumps |= contact
        self._again(jumps, contact)
        self._settle(falls | arrives)
        self._skip_loops()
        refresh(self.net, self.circuit, self.machines)

    def _again(self, jumps: Bools, contact: Bools) -> None:
        if jumps.any():
            self.rows["starting"][jumps] = True
            self.state.state["slope"][jumps] = 0.0
            self.state.node["drift"][jumps] = 0.0
            self.rows["h"][jumps] = np.minimum(self.rows["h"], np.where(contact, FIRST_S, AGAIN_S))[jumps]

    def _skip_loops(self) -> None:
        due = np.minimum(self.act_at[self.next_act], self.end_s)
        charge = self.state.state["value"][:, self.layout.charge]
        for skip in self.loops.skips(np.concatenate(self._slow(), axis=1), charge, due):
            row, by = skip.row, skip.rounds * skip.period_s
            near = 1.5 * skip.period_s
            self.loops.shift(row, by, float(self.t[row]) - near, float(self.t[row]) + near, skip.renewed)
            self.t[row] += by
            at = 0
            for own in self._slow():
                own[row] = skip.slow[at : at + own.shape[1]]
                at += own.shape[1]
            self._take_heat(row)
            if self.net.cell >= 0:
                charge[row, self.net.cell] = skip.charge_c[self.net.cell]

    def _slow(self) -> tuple[Floats, ...]:
        """Views of what moves slowly (B, ·): temperatures, heat in line, lags of series branches, filaments."""
        state, layout = self.state, self.layout
        return (
            state.converter["temp_c"],
            state.branch["heat"],
            state.state["value"][:, layout.lag],
            state.consumer["lamp_ohm"],
        )

    def _slow_kinds(self) -> Slow:
        ns, k, m = self.circuit.sizes
        branch, consumer, thermal = self.net.branch[0], self.net.consumer[0], self.circuit.thermal
        tau = [thermal.tau_s, branch["tau_s"], branch["lag_s"], consumer["filament_s"]]
        fuse_ends = np.where(branch["melts"] > 0, branch["melts"], np.inf)
        ntc_step = np.where(branch["cold_ohm"] > 0, NTC_STEP_K, np.inf)
        lamp_step = np.where(consumer["law"] == LAMP, LAMP_STEP_FRAC * self._cold_ohm()[0], np.inf)
        return Slow(
            np.maximum(np.concatenate(tau), 1e-12),
            np.concatenate([thermal.trip_c, fuse_ends, np.full(ns + k, np.inf)]),
            np.concatenate([np.full(m, np.inf), ntc_step, np.full(ns, np.inf), lamp_step]),
        )

    def _settle(self, rows: Bools) -> None:
        """Switches that stand over their threshold already fall at once; each may set off another."""
        signals = self.signals
        for _ in range(8):
            refresh(self.net, self.circuit, self.machines)
            if not rows.any():
                return
            for row in np.flatnonzero(rows).tolist():
                signals_now(self.net, row, self.state, self.bench, signals[row])
            signals[:, signals.shape[1] - LIMITS * self.circuit.sizes[2] :] = UNARMED
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
                self.rows["starting"][mine] = True
                self.state.state["slope"][mine] = 0.0
                self.rows["h"][mine] = np.minimum(self.rows["h"], AGAIN_S)[mine]
            self.next_act[due] += 1

    def _lose(self, rows: Bools, branch: int) -> None:
        flux = self.state.state["value"][:, self.layout.flux][:, branch]
        henry = np.maximum(self.circuit.series.henry[:, branch], 1e-15)
        self.trace.lost_j += np.where(rows, flux**2 / (2 * henry), 0.0)
        self.state.state["value"][rows, branch] = 0.0

    def _stuck(self, rows: Bools) -> None:
        rows = rows & ~self.done
        self.trace.stuck_s[rows] = self.t[rows]
        self.done |= rows

    def _cold_ohm(self) -> Floats:
        """Resistance of every consumer as if it were a cold lamp (B, k); read of lamps only."""
        own = self.circuit.consumers
        rated = own.lamp_a if own.lamp_a is not None else np.zeros(own.law.p.size)
        cold = np.array([cold_lamp_ohm(v, a) for v, a in zip(own.law.knee_v, rated, strict=True)])
        return np.tile(np.where((own.law.law == LAMP) & (rated > 0), cold, 1.0), (self.circuit.rows, 1))

    def _standing(self, start: Start) -> State:
        rows, (ns, k, m) = self.circuit.rows, self.circuit.sizes
        found = State(
            np.zeros(rows, ROW), np.zeros(start.volts.shape, NODE_STATE), np.zeros(start.states.shape, STATE),
            np.zeros((rows, ns), BRANCH_STATE), np.zeros((rows, k), CONSUMER_STATE), np.zeros((rows, m), CONVERTER_STATE),
        )  # fmt: skip
        found.row["h"], found.row["starting"], found.row["eased"] = AGAIN_S, True, True
        found.node["volts"], found.state["value"] = start.volts, start.states
        found.converter["temp_c"] = start.temp_c
        inline = self.circuit.series.inline
        if inline is not None:
            found.branch["heat"][:, inline.at] = inline.air_c if start.heat is None else start.heat[:, inline.at]
        found.consumer["lamp_ohm"] = start.lamp_ohm if start.lamp_ohm is not None else self._cold_ohm()
        found.consumer["least_v"], found.consumer["most_v"] = np.inf, -np.inf
        return found

    def _take_heat(self, row: int) -> None:
        """What NTCs add to their branches at the temperatures they have now."""
        inline, branch = self.circuit.series.inline, self.state.branch
        for k, cold, warm in zip(inline.at, inline.cold_ohm, inline.warm_ohm, strict=True) if inline else ():
            if cold > 0:
                branch["ohm"][row, k] = ntc_ohm(float(cold), float(branch["heat"][row, k])) - warm

    # --- the record of row 0 ------------------------------------------------------------------------------------------

    def _record(self, turns: int) -> Record:
        ns, k, m = self.circuit.sizes
        return Record(
            np.zeros(turns), np.zeros((turns, self.circuit.nodes)), np.zeros((turns, ns), BRANCH_RECORD),
            np.zeros((turns, k), CONSUMER_RECORD), np.zeros((turns, m), CONVERTER_RECORD),
        )  # fmt: skip

    def _keep(self, steps: int) -> None:
        """What the stretch recorded; the switches stood as they stand until now."""
        if not steps:
            return
        trace, record = self.trace, self.record
        trace.times_s.extend(record.times_s[:steps].tolist())
        for column, found in (
            (trace.volts, record.volts),
            (trace.series_a, record.branch["amps"]),
            (trace.charge_c, record.branch["charge_c"]),
            (trace.load_a, record.consumer["amps"]),
            (trace.asked, record.consumer["asked"]),
            (trace.input_a, record.converter["taken"]),
            (trace.output_a, record.converter["given"]),
            (trace.temp_c, record.converter["temp_c"]),
            (trace.set_v, record.converter["set_v"]),
        ):
            column.extend(found[:steps].copy())
        trace.modes.extend([self.machines.mode[0].copy()] * steps)
        trace.on.extend([self.machines.on[0].copy()] * steps)

    def _begin(self) -> None:
        """The first record: what was before anything moved."""
        s, load, conv = self.circuit.series, self.circuit.consumers, self.circuit.converting.law
        y, layout, record, asked = self.state.state["value"][0], self.layout, self.record, self.bench.first
        ask(self.net, 0, 0.0, asked)
        record.volts[0] = self.state.node["volts"][0]
        flux = y[layout.flux] / np.maximum(s.henry[0], 1e-15)
        record.branch["amps"][0], record.branch["charge_c"][0] = np.where(s.henry[0] > 0, flux, 0.0), y[layout.charge]
        ve = np.append(self.state.node["volts"][0], 0.0)
        across, law = ve[load.law.p] - ve[load.law.n], load.law
        bent = np.where(law.law == CURRENT, np.clip(across / np.where(law.knee_v > 0, law.knee_v, 1.0), 0.0, 1.0), 1.0)
        record.consumer["amps"][0] = np.where(load.lag_s > 0, y[layout.load] * bent, 0.0)
        record.consumer["asked"][0] = asked.consumer["asked"]
        record.converter["taken"][0], record.converter["given"][0] = np.zeros(conv.inp.size), y[layout.conv]
        record.converter["temp_c"][0] = self.state.converter["temp_c"][0]
        record.converter["set_v"][0] = asked.converter["set_v"]
        self._keep(1)
