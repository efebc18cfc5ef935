"""One stage of a step as node equations: every element is a conductance and a current, so only node volts are unknown.

A stage asks for states `y` with `y = Y + D h f(y)`, `Y` holding all that is known. An element's state is taken out of its
own equation, which leaves its current as a function of the volts at its ends.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from scipy.sparse import csr_matrix

from yardmeter.core.solver.assembly import with_reference
from yardmeter.core.solver.circuit import LAMP, POWER, SOURCE, SWITCHING, Bools, Floats, Ints, LoadKind, Loads
from yardmeter.core.solver.elements import MIN_INPUT_V, converter_loss, load_current
from yardmeter.core.solver.transient.arrays import FOLD, FOLD_FLOOR, TransientCircuit

CURRENT = int(LoadKind.CURRENT)
OFF_OHM = 1e30
"""What is off by its ohms: infinity times nothing is no number."""
LEAK_SIEMENS = 1e-9
LEAST_OHM = 1e-5
BOARD_H = 2e-9
"""Inductance in line with a switch that is fully on [H]; our choice."""
BACK_V = 0.7
BACK_SIEMENS = 20.0
"""What keeps a consumer's pins from going far below its ground: the diodes every chip has; our choice."""


@dataclass
class Known:
    """What holds during a stage: times, switches, and what consumers and converters ask now."""

    time_s: Floats
    """Where the stage stands (B,) [s]."""
    asked: Floats
    """Value of every consumer's law (B, k)."""
    on: Bools
    """Converters that run (B, m)."""
    set_v: Floats
    limit_a: Floats
    lamp_ohm: Floats | None = None


@dataclass
class Stage:
    """States and currents of a stage that was solved."""

    volts: Floats
    """(B, nodes)."""
    states: Floats
    """(B, states), see `Stamps`."""
    series_a: Floats
    load_a: Floats
    input_a: Floats
    output_a: Floats
    at_limit: Bools


class Stamps:
    """Node equations of a circuit. States are, one after the other: flux, charge and lag of every series branch, current of
    every consumer, current and input volts as followed and as entered of
    every converter."""

    def __init__(self, circuit: TransientCircuit) -> None:
        self.circuit = circuit
        s, load, c = circuit.series, circuit.consumers.law, circuit.converting.law
        n, (ns, nl, m) = circuit.nodes, circuit.sizes
        ends = np.cumsum([0, ns, ns, ns, nl, m, m, m])
        self.flux, self.charge, self.lag, self.load, self.conv, self.line, self.entry = (
            slice(a, b) for a, b in pairwise(ends.tolist())
        )
        self.states = int(ends[-1])
        columns = np.arange(ns + nl + 2 * m)
        series, loads, inputs, outputs = np.split(columns, [ns, ns + nl, ns + nl + m])
        flows = [(s.a, series, 1.0), (s.b, series, -1.0), (load.p, loads, 1.0), (load.n, loads, -1.0)]
        flows += [(c.inp, inputs, 1.0), (c.gnd, inputs, -1.0), (c.out, outputs, -1.0), (c.gnd, outputs, 1.0)]
        self._flows = _scatter(flows, n, columns.size).toarray().T.copy()
        pairs = []
        for a, b, col in ((s.a, s.b, series), (load.p, load.n, loads)):
            pairs += [(a, a, col, 1.0), (b, b, col, 1.0), (a, b, col, -1.0), (b, a, col, -1.0)]
        base = ns + nl
        for k, (row, back, drive) in enumerate(
            ((c.inp, c.gnd, c.inp), (c.inp, c.gnd, c.out), (c.gnd, c.out, c.inp), (c.gnd, c.out, c.out))
        ):
            col = base + k * m + np.arange(m)
            pairs += [
                (row, drive, col, 1.0),
                (row, c.gnd, col, -1.0),
                (back, drive, col, -1.0),
                (back, c.gnd, col, 1.0),
            ]
        keep = [(np.where((r < 0) | (k < 0), -1, r * n + k), col, sign) for r, k, col, sign in pairs]
        self._slopes: csr_matrix = _scatter(keep, n * n, base + 4 * m)
        self._diagonal = np.arange(n) * (n + 1)
        self._switching = c.kind == SWITCHING
        self._any_switching = bool(self._switching.any())
        self._any_folds = bool((circuit.converting.style == FOLD).any())
        self._controls = (circuit.converting.line_s > 0).astype(float)
        self._takes = c.kind != SOURCE
        self._lamps = np.flatnonzero(load.law == LAMP)
        self._bends = s.core is not None or (s.curve is not None and s.curve.at.size > 0)
        self.cell_a: Floats = np.zeros(circuit.rows)
        """Current of the pack's branch as it was last (B,)."""
        self._p, self._n = load.p, load.n
        plain = np.isin(load.law, (CURRENT, POWER))
        self._plain = plain
        self._knee = np.where(plain & (load.knee_v > 0), load.knee_v, 1.0)
        self._powers, self._constant = (load.law == POWER) * 1.0, (load.law == CURRENT) * 1.0
        self._others: Ints = np.flatnonzero(~plain)
        others = self._others
        self._other = Loads(
            load.p[others], load.n[others], load.law[others], load.value[:, others], load.knee_v[others]
        )
        self._guarded = circuit.consumers.lag_s > 0
        self._amps: Floats | None = None
        """What coils and ceramics were last bent at."""

    def take_step(self, dh: Floats) -> None:
        """What depends on the step alone: `dh` is D·h of every row (B,)."""
        s = self.circuit.series
        self.dh = dh[:, None]
        r = np.where(s.lag_s > 0, self.dh / np.where(s.lag_s > 0, s.lag_s, 1.0), 0.0)
        self._lag_share = r / (1 + r)
        self._lag_rest = 1 / (1 + r)
        self._fixed_ohm = s.ohm + s.contact_ohm + s.lag_ohm * self._lag_share
        lag = self.circuit.consumers.lag_s
        r = np.where(lag > 0, self.dh / np.where(lag > 0, lag, 1.0), np.inf)
        self._follow = np.where(np.isinf(r), 1.0, r / (1 + np.where(np.isinf(r), 0.0, r)))
        line = self.circuit.converting.line_s
        r = np.where(line > 0, self.dh / np.where(line > 0, line, 1.0), np.inf)
        self._line_rest = np.where(np.isinf(r), 0.0, 1 / (1 + np.where(np.isinf(r), 0.0, r)))
        entry = self.circuit.converting.entry_s
        self._entry_rest = np.where(entry > 0, 1 / (1 + self.dh / np.where(entry > 0, entry, 1.0)), 0.0)
        self._take_converters()
        self._siemens = 1 / np.maximum(self._fixed_ohm + s.henry / self.dh + s.elastance * self.dh, LEAST_OHM)
        self._siemens = np.where(s.closed, self._siemens, 0.0)

    def _take_converters(self) -> None:
        """Slopes of converters that regulate, follow their input, pass it on, or stand at their limit (4, B, m)."""
        own = self.circuit.converting
        c = own.law
        inertia, soft = own.henry / self.dh, BOARD_H / self.dh
        self._out_siemens, self._on_siemens = 1 / (c.out_ohm + inertia), 1 / (c.drop_ohm + soft)
        self._any_passes = bool(c.passes.any())
        self._fall_v = np.where(c.passes, 0.0, c.drop_v)
        shape = (4, *c.set_v.shape)
        self._regulated, self._following, self._passing, self._limited = (np.zeros(shape) for _ in range(4))
        self._regulated[1] = self._controls * self._line_rest * self._out_siemens
        self._regulated[2], self._regulated[3] = -self._out_siemens, inertia * self._out_siemens
        keep = soft * self._on_siemens
        self._following[1:] = c.ceil_gain * self._on_siemens, -self._on_siemens, keep
        self._passing[1:] = self._on_siemens, -self._on_siemens, keep

    def begin(self, known: Known, held: Floats) -> None:
        """A stage: `held` (B, states) is `Y`."""
        s = self.circuit.series
        self.known, self.held = known, held
        self._held_loads = (1 - self._follow) * held[:, self.load]
        self._drive = (
            s.emf
            + held[:, self.flux] / self.dh
            - s.elastance * held[:, self.charge]
            - s.lag_ohm * self._lag_rest * held[:, self.lag]
        )
        curve = s.curve
        if (
            curve is not None and curve.cell >= 0
        ):  # a cell's rest volts hardly move in a step: as it will be with the last current
            cell = curve.cell
            charge = held[:, self.charge.start + cell] + self.dh[:, 0] * self.cell_a
            self._drive[:, cell] -= curve.cell_v(charge)[0]
        self._amps = None

    def evaluate(self, volts: Floats) -> tuple[Floats, Floats, Stage]:
        """Current missing at every node (B, nodes), slopes (B, ·) for `jacobian`, and the stage as it would be."""
        ve = with_reference(volts)
        series_a, siemens = self._series(ve)
        load_a, load_s = self._loads(ve)
        output_a, input_a, slopes, at_limit, followed = self._converters(ve)
        flows = np.concatenate([series_a, load_a, input_a, output_a], axis=1)
        missing: Floats = flows @ self._flows + LEAK_SIEMENS * volts
        states = self._states(series_a, load_a, output_a, followed)
        stage = Stage(volts, states, series_a, load_a, input_a, output_a, at_limit)
        return missing, np.concatenate([siemens, load_s, *slopes], axis=1), stage

    def jacobian(self, slopes: Floats) -> Floats:
        """The node equations' matrix (B, nodes, nodes)."""
        n = self.circuit.nodes
        flat: Floats = np.ascontiguousarray((self._slopes @ slopes.T).T)
        flat[:, self._diagonal] += LEAK_SIEMENS
        return flat.reshape(-1, n, n)

    def error_currents(self, raw: Floats) -> Floats:
        """What errors of the states (B, states) drive into the nodes (B, nodes) through their own conductances."""
        s = self.circuit.series
        drive = (
            raw[:, self.flux] / self.dh
            - s.elastance * raw[:, self.charge]
            - s.lag_ohm * self._lag_rest * raw[:, self.lag]
        )
        self._err_series = drive * self._bent_siemens
        self._err_load = (1 - self._follow) * raw[:, self.load]
        self._err_conv = self._conv_keep * raw[:, self.conv]
        flows = np.concatenate(
            [self._err_series, self._err_load, self._conv_share * self._err_conv, self._err_conv], axis=1
        )
        driven: Floats = flows @ self._flows
        return driven

    def error_states(self, raw: Floats, volts: Floats, slopes: Floats) -> Floats:
        """Errors of the states once what is stiff has been taken out, from the errors of the node volts (B, nodes)."""
        ve = with_reference(volts)
        s, load, c = self.circuit.series, self.circuit.consumers.law, self.circuit.converting.law
        ns, nl, m = self.circuit.sizes
        series_a = self._err_series + slopes[:, :ns] * (ve[:, s.a] - ve[:, s.b])
        load_a = self._err_load + slopes[:, ns : ns + nl] * (ve[:, load.p] - ve[:, load.n])
        base = ns + nl + 2 * m
        gnd = ve[:, c.gnd]
        by_in, by_out = slopes[:, base : base + m], slopes[:, base + m : base + 2 * m]
        conv_a = self._err_conv + by_in * (ve[:, c.inp] - gnd) + by_out * (ve[:, c.out] - gnd)
        lag = self._lag_rest * raw[:, self.lag] + self._lag_share * series_a
        entry = self._entry_rest * raw[:, self.entry] + (1 - self._entry_rest) * (ve[:, c.inp] - gnd)
        line = self._line_rest * raw[:, self.line] + (1 - self._line_rest) * (ve[:, c.inp] - gnd)
        return np.concatenate(
            [series_a * self.bent_henry, raw[:, self.charge] + self.dh * series_a, lag, load_a, conv_a, line, entry],
            axis=1,
        )

    def _series(self, ve: Floats) -> tuple[Floats, Floats]:
        s = self.circuit.series
        across = ve[:, s.a] - ve[:, s.b]
        siemens, drive = self._siemens, self._drive
        self.bent_henry = s.henry
        if self._bends:
            siemens, drive = self._bent(across)
        self._bent_siemens = siemens
        amps: Floats = siemens * (across + drive)
        self._amps = amps
        return amps, siemens

    def _bent(self, across: Floats) -> tuple[Floats, Floats]:
        """Conductances and drives of branches whose coil or capacitor bends, at the currents found last."""
        s = self.circuit.series
        last = self._amps if self._amps is not None else self._siemens * (across + self._drive)
        drive = self._drive.copy()
        stiff = s.elastance * self.dh
        inertia = s.henry / self.dh
        if s.curve is not None and s.curve.at.size:
            at = s.curve.at
            charge = self.held[:, self.charge][:, at]
            volts, slope = s.curve.ceramic_v(charge + self.dh * last[:, at])
            drive[:, at] += s.elastance[:, at] * charge + slope * self.dh * last[:, at] - volts
            stiff[:, at] = slope * self.dh
        if s.core is not None:
            at = s.core.at
            flux, henry = s.core.flux(last[:, at])
            drive[:, at] += (henry * last[:, at] - flux) / self.dh
            inertia[:, at] = henry / self.dh
            self.bent_henry = inertia * self.dh
        siemens = np.where(s.closed, 1 / np.maximum(self._fixed_ohm + inertia + stiff, LEAST_OHM), 0.0)
        return siemens, drive

    def _loads(self, ve: Floats) -> tuple[Floats, Floats]:
        own, value = self.circuit.consumers, np.where(self._plain, self.known.asked, 0.0)
        across = ve[:, self._p] - ve[:, self._n]
        above = np.maximum(across, self._knee)
        part = np.minimum(np.maximum(across, 0.0) / self._knee, 1.0)
        shrink = self._powers / above + self._constant
        drawn = value * shrink
        asked = drawn * part
        slope = np.where(across >= self._knee, -drawn * self._powers / above, (across > 0) * drawn / self._knee)
        if self._others.size:
            self._other_laws(across, asked, slope)
        back = value < 0
        if back.any():  # motors give back, as far as their rail takes it
            room = np.clip(own.regen_v - across, 0.0, 1.0)
            asked = np.where(back, value * room, asked)
            slope = np.where(back, np.where((room > 0) & (room < 1), -value, 0.0), slope)
        amps = self._held_loads + self._follow * asked
        under = np.minimum(across + BACK_V, 0.0) * self._guarded
        self._back_a = BACK_SIEMENS * under
        return amps + self._back_a, self._follow * slope + BACK_SIEMENS * (under < 0)

    def _other_laws(self, across: Floats, asked: Floats, slope: Floats) -> None:
        """Resistances, LEDs, clamps and lamps, which have laws of their own."""
        at = self._others
        part = replace(self._other, value=np.minimum(self.known.asked[:, at], OFF_OHM))
        asked[:, at], slope[:, at] = load_current(part, across[:, at])
        if self.known.lamp_ohm is not None:
            lamps = self._lamps
            siemens = np.where(self.known.asked[:, lamps] > 0, 1 / self.known.lamp_ohm[:, lamps], 0.0)
            asked[:, lamps], slope[:, lamps] = across[:, lamps] * siemens, siemens

    def _converters(self, ve: Floats) -> tuple[Floats, Floats, tuple[Floats, ...], Bools, Floats]:
        """Output and input currents, their four slopes, who is at his limit, and the followed input volts.

        `found` holds current, its slopes by input and output volts, and what of an error in the held current it keeps; what
        regulates, follows its input, or stands at its limit each has its own.
        """
        own = self.circuit.converting
        c, held, on = own.law, self.held[:, self.conv], self.known.on
        gnd = ve[:, c.gnd]
        vin, vo = ve[:, c.inp] - gnd, ve[:, c.out] - gnd
        followed = self._line_rest * self.held[:, self.line] + (1 - self._line_rest) * vin
        regulated, following, limited = self._regulated, self._following, self._limited
        regulated[0] = (self.known.set_v + self._controls * (vin - followed) - vo) * self._out_siemens + regulated[
            3
        ] * held
        following[0] = (c.ceil_gain * vin - self._fall_v - vo) * self._on_siemens + following[3] * held
        found = regulated
        if self._any_passes:
            passing = self._passing
            passing[0] = (vin - c.drop_v - vo) * self._on_siemens + passing[3] * held
            found = np.where(c.passes & (passing[0] > found[0]), passing, found)
        found = np.where((following[0] < found[0]) & self._takes, following, found)
        limited[0], limited[2] = self._limit(vo)
        over = found[0] > limited[0]
        runs = on & (c.sinks | (found[0] >= 0))
        found = np.where(over, limited, found) * runs
        amps, by_in, by_out, self._conv_keep = found
        entry = self._entry_rest
        self._entered = entry * self.held[:, self.entry] + (1 - entry) * vin
        taken, taken_in, taken_out, share = self._inputs(vin, vo, amps, on, 1 - entry)
        self._conv_share = share
        slopes = (taken_in + share * by_in, taken_out + share * by_out, by_in, by_out)
        return amps, taken, slopes, over & runs, followed

    def _limit(self, vo: Floats) -> tuple[Floats, Floats | float]:
        own, limit = self.circuit.converting, self.known.limit_a
        if not self._any_folds:
            return limit, 0.0
        folds, whole_v = own.style == FOLD, np.maximum(own.law.set_v, 1e-3)
        share = vo / whole_v
        bent = folds & (share > 0) & (share < 1)
        factor = np.where(folds, FOLD_FLOOR + (1 - FOLD_FLOOR) * np.clip(share, 0.0, 1.0), 1.0)
        return limit * factor, np.where(bent, (1 - FOLD_FLOOR) / whole_v, 0.0) * limit

    def _inputs(
        self, vin: Floats, vo: Floats, amps: Floats, on: Bools, follows: Floats
    ) -> tuple[Floats, Floats, Floats, Floats]:
        """What converters take, and its slopes by input volts, output volts and output current."""
        c = self.circuit.converting.law
        runs = on & self._takes
        idle = runs * c.quiescent_a * np.minimum(np.maximum(vin, 0.0), 1.0)
        straight = runs & ~self._switching & ~(c.sinks & (amps < 0))
        if not self._any_switching:
            nothing = np.zeros_like(amps)
            return straight * amps + idle, nothing, nothing, straight.astype(float)
        switching = runs & self._switching
        loss_w, loss_slope = converter_loss(c, amps)
        volts = switching / np.maximum(self._entered, MIN_INPUT_V)
        power = (vo * amps + loss_w) * volts
        by_in = -power * volts * (self._entered > MIN_INPUT_V) * follows
        by_out, share = amps * volts, (vo + loss_slope) * volts
        most = np.maximum(c.ceil_gain, 1.0) * np.abs(amps)
        capped = switching & (power > most)  # a switch that is on passes its coil's current and no more
        power = np.where(capped, most, power)
        by_in, by_out = by_in * ~capped, by_out * ~capped
        share = np.where(capped, np.maximum(c.ceil_gain, 1.0) * np.sign(amps), share)
        return power + straight * amps + idle, by_in, by_out, share + straight

    def _states(self, series_a: Floats, load_a: Floats, output_a: Floats, followed: Floats) -> Floats:
        s = self.circuit.series
        flux = series_a * s.henry
        if s.core is not None:
            flux[:, s.core.at] = s.core.flux(series_a[:, s.core.at])[0]
        charge = self.held[:, self.charge] + self.dh * series_a
        lag = self._lag_rest * self.held[:, self.lag] + self._lag_share * series_a
        return np.concatenate([flux, charge, lag, load_a - self._back_a, output_a, followed, self._entered], axis=1)


def _scatter(entries: list[tuple[Ints, Ints, float]], rows: int, columns: int) -> csr_matrix:
    row = np.concatenate([r for r, _, _ in entries]).astype(np.int64)
    col = np.concatenate([k for _, k, _ in entries]).astype(np.int64)
    sign = np.concatenate([np.full(r.size, one, float) for r, _, one in entries])
    keep = row >= 0
    return csr_matrix((sign[keep], (row[keep], col[keep])), shape=(rows, columns))
