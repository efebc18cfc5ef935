"""SPICE netlist of a scenario: the same circuit, with switches where the run had them, for any SPICE3-like simulator.

What switches by itself (a device that boots or resets, a regulator's soft start) stands in it as time functions taken from
the run; everything continuous is written anew, so that a simulator's transient is an independent one.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from yardmeter.core.elements.capacitor import netlist_capacitor, netlist_ceramic
from yardmeter.core.elements.coil import netlist_core
from yardmeter.core.elements.inline import cold_lamp_ohm, netlist_filament, netlist_ntc
from yardmeter.core.elements.load import CURRENT, LAMP, LED, RESISTANCE, netlist_amps
from yardmeter.core.elements.motor import netlist_given_back
from yardmeter.core.elements.pack import netlist_curve, netlist_lag
from yardmeter.core.elements.regulator import SOURCE, Sheet, netlist_given, netlist_taken, netlist_within
from yardmeter.core.formats.netlist import node_name, sheet_of
from yardmeter.core.network.in_time import Moving
from yardmeter.core.network.keys import Key
from yardmeter.core.runs.run import Run
from yardmeter.core.runs.timetable import Timetable, timetable
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.transient.acts import SHORTED_OHM, Contact, Fail
from yardmeter.core.solver.transient.arrays import BACK_SIEMENS, BACK_V
from yardmeter.core.solver.transient.layout import Layout
from yardmeter.core.solver.transient.machines import ARC_OHM, ARC_S
from yardmeter.core.solver.transient.trace import Happening

OPEN_OHM, LEAST_OHM = 1e9, 1e-6
EDGE_S = 1e-9
LEAST_LAG_S = 1e-8
SNUB_F, SNUB_OHM = 1e-8, 3.0
"""From every node to the reference: without any capacitance a simulator finds no first step among inductances."""


def write_run_netlist(run: Run, *, step_s: float | None = None) -> str:
    """The netlist of a run, from its own start to its end."""
    fresh = timetable(run.plan, run.scenario)
    end = run.scenario.duration_s
    step = step_s or end / 2000
    lines = [
        f"* {run.plan.name}: {run.scenario.name}",
        "* Volts in V, amps in A, seconds in s. Node 0 is the pack's negative.",
        *_series(fresh, run),
        *_consumers(fresh.moving, fresh, run),
        *_converters(fresh.moving, fresh, run),
        *_snubs(fresh),
        ".options reltol=1e-4 abstol=1e-7 vntol=1e-6 chgtol=1e-12 method=gear gmin=1e-12",
        f".tran {step:.6g} {end:.9g} 0 {step:.6g} uic",
    ]
    return "\n".join([*lines, ".end"]) + "\n"


def _snubs(fresh: Timetable) -> Iterator[str]:
    volts = fresh.start.volts[0]
    for k, name in sorted(names_of(fresh.moving).items()):
        if k >= 0:
            yield f"Cz{k} {name} z{k} {SNUB_F:g} ic={float(volts[k]):.9g}"
            yield f"Rz{k} z{k} 0 {SNUB_OHM:g}"


def names_of(made: Moving) -> dict[int, str]:
    """Names of the nodes by their index; −1 is the reference."""
    own = {index: node_name(name) for name, index in made.network.node.items()}
    return {-1: "0"} | own | {one.node: f"port_{one.inlet.replace('-', '_')}" for one in made.ports}


def _pwl(times: Sequence[float] | Floats, values: Sequence[float] | Floats) -> str:
    """A time function through points, each jump within a nanosecond; equal values in a row are left out."""
    points: list[tuple[float, float]] = []
    for t, v in zip(np.asarray(times).tolist(), np.asarray(values).tolist(), strict=True):
        if len(points) > 1 and points[-1][1] == v == points[-2][1]:
            points[-1] = (t, v)
        else:
            points.append((max(t, points[-1][0] + EDGE_S) if points else t, v))
    return "PWL(" + " ".join(f"{t:.12g} {v:.9g}" for t, v in points) + ")"


def _series(fresh: Timetable, run: Run) -> Iterator[str]:
    made = fresh.moving
    names, s = names_of(made), made.circuit.series
    layout = Layout(made.circuit)
    start = fresh.start.states[0]
    contacts: dict[int, list[Contact]] = {}
    for act in fresh.acts:
        if isinstance(act, Contact):
            contacts.setdefault(act.branch, []).append(act)
    for branch, at_s in _melted(run):  # as a device's resets, a fuse's end is a time of our run
        parts = [Contact(at_s + j * ARC_S, branch, True, ohm) for j, ohm in enumerate(ARC_OHM)]
        contacts.setdefault(branch, []).extend([*parts, Contact(at_s + len(ARC_OHM) * ARC_S, branch, False)])
    keys = {k: key for key, k in made.series.items()} | {one.kept: Key("output", one.inlet) for one in made.ports}
    for k in range(s.a.size):
        yield f"* {keys[k].role} {keys[k].element}"
        ohm, henry = float(s.ohm[0, k]), float(s.henry[0, k])
        elastance, emf, lag = float(s.elastance[0, k]), float(s.emf[0, k]), float(s.lag_ohm[0, k])
        chain: list[tuple[str, str]] = []
        if k in contacts:
            chain.append((f"s{k}", _contact(k, bool(s.closed[0, k]), ohm, contacts[k])))
        elif not s.closed[0, k]:
            continue
        else:
            own = ohm + min(lag, 0.0)
            chain.append((f"r{k}", f"Rs{k} {{a}} {{b}} {max(own, 1e-6):.9g}"))
        amps = float(start[layout.flux][k] / henry) if henry > 0 else 0.0
        cored = s.core is not None and k in s.core.at.tolist()
        if cored and s.core is not None:
            bend = float(s.core.bend_a[s.core.at == k][0])
            chain.append((f"l{k}", netlist_core(k, henry, bend, float(start[layout.flux][k]))))
        elif henry > 0:
            chain.append((f"l{k}", f"Ls{k} {{a}} {{b}} {henry:.9g} ic={amps:.9g}"))
        if lag < 0:  # a bead: resistance beside an inductance
            chain.append((f"b{k}", f"Rb{k} {{a}} {{b}} {-lag:.9g}\nLb{k} {{a}} {{b}} {-lag * float(s.lag_s[0, k]):.9g} ic={float(start[layout.lag][k]):.9g}"))  # fmt: skip
        elif lag > 0:
            chain.append((f"p{k}", netlist_lag(k, lag, float(s.lag_s[0, k]), float(start[layout.lag][k]))))
        if elastance > 0:
            charge = float(start[layout.charge][k])
            if s.curve is not None and k in s.curve.at.tolist():
                farad, loss, rated = (float(one[s.curve.at == k][0]) for one in (s.curve.farad, s.curve.loss, s.curve.rated_v))  # fmt: skip
                chain.append((f"c{k}", netlist_ceramic(k, farad, loss, rated, charge)))
            else:
                chain.append((f"c{k}", netlist_capacitor(k, 1 / elastance, charge * elastance)))
        warm = _ntc(fresh, k)
        if warm:
            chain.append((f"o{k}", warm))
        if s.curve is not None and k == s.curve.cell:
            chain.append((f"e{k}", netlist_curve(k, s.curve.taken_c, s.curve.rest_v)))
        elif emf:
            chain.append((f"e{k}", f"Ve{k} {{b}} {{a}} {emf:.9g}"))
        at = names[int(s.a[k])]
        for j, (_, words) in enumerate(chain):
            to = names[int(s.b[k])] if j == len(chain) - 1 else f"s{k}_{j}"
            yield words.format(a=at, b=to)
            at = to


def _melted(run: Run) -> list[tuple[int, float]]:
    """Branches whose fuse melted, and when."""
    return [(one.index, one.at_s) for one in run.trace.events if one.row == 0 and one.what is Happening.MELTS]


def _ntc(fresh: Timetable, k: int) -> str | None:
    """The NTC in line with a branch, where there is one."""
    own = fresh.moving.circuit.series.inline
    if own is None or k not in own.at.tolist() or not own.cold_ohm[own.at == k][0] > 0:
        return None
    values = {name: float(getattr(own, name)[own.at == k][0]) for name in ("cold_ohm", "warm_ohm", "w_k", "tau_s", "air_c")}  # fmt: skip
    heat = fresh.start.heat
    return netlist_ntc(k, values, values["air_c"] if heat is None else float(heat[0, k]))


def _contact(k: int, closed: bool, ohm: float, acts: list[Contact]) -> str:
    """A contact as a conductance over time, through each resistance it has on the way; no switch, whose jumps end in steps too small."""

    def siemens(shut: bool, more_ohm: float) -> float:
        return 1 / max(ohm + more_ohm, LEAST_OHM) if shut else 1 / OPEN_OHM

    times, values, shut = [0.0], [siemens(closed, 0.0)], closed
    for act in sorted(acts, key=lambda one: one.at_s):
        if act.parts and not shut:
            continue
        shut = act.closed
        after = siemens(shut, act.ohm)
        if act.at_s <= 0:  # so from the beginning
            values[0] = after
            continue
        at = max(act.at_s, 2 * EDGE_S)
        times += [at, at + EDGE_S]
        values += [values[-1], after]
    return f"Vk{k} k{k} 0 {_pwl(times, values)}\nBk{k} {{a}} {{b}} I=V({{a}},{{b}})*V(k{k})"


def _consumers(made: Moving, fresh: Timetable, run: Run) -> Iterator[str]:
    names, own = names_of(made), made.circuit.consumers
    law = own.law
    layout = Layout(made.circuit)
    start = fresh.start.states[0][layout.load]
    titles = {k: name for name, k in made.consumer.items()}
    asked = run.trace.column("asked")
    for k in range(law.p.size):
        p, n, knee = names[int(law.p[k])], names[int(law.n[k])], float(law.knee_v[k])
        kind = int(law.law[k])
        values = asked[:, k]
        yield f"* {titles[k]}"
        finite = np.where(np.isfinite(values), values, OPEN_OHM)
        yield f"Va{k} a{k} 0 {_pwl(run.times_s, finite)}"
        if kind == LAMP:
            rated = float(own.lamp_a[k]) if own.lamp_a is not None else 1.0
            warms_s = float(own.filament_s[k]) if own.filament_s is not None else 1.0
            ohm = fresh.start.lamp_ohm
            cold = cold_lamp_ohm(knee, rated)
            yield from netlist_filament(k, p, n, knee, rated, warms_s, cold if ohm is None else float(ohm[0, k]))
            continue
        across = f"V({p},{n})"
        drawn = netlist_amps(kind, across, f"V(a{k})", knee)
        if kind in (RESISTANCE, LED):
            yield f"Bl{k} {p} {n} I={drawn}"
            continue
        lags_first = kind == CURRENT  # what is asked lags, not what is drawn
        yield f"Bt{k} 0 t{k} I={f'V(a{k})' if lags_first else drawn}"
        yield f"Rt{k} t{k} 0 1"
        yield f"Ct{k} t{k} 0 {float(own.lag_s[k]):.9g} ic={float(start[k]):.9g}"
        if not lags_first:
            yield f"Gl{k} {p} {n} t{k} 0 1"
        elif (finite < 0).any():
            drawn = netlist_amps(kind, across, f"max(V(t{k}),0)", knee)
            yield f"Bl{k} {p} {n} I={drawn}+{netlist_given_back(f'V(t{k})', f'V(q{k})', own.regen_v)}"
            yield f"Bq{k} 0 q{k} I={across}"
            yield f"Rq{k} q{k} 0 1"
            yield f"Cq{k} q{k} 0 {LEAST_LAG_S:.9g} ic=0"
        else:
            yield f"Bl{k} {p} {n} I={netlist_amps(kind, across, f'V(t{k})', knee)}"
        yield f"Bb{k} {p} {n} I={BACK_SIEMENS:g}*min({across}+{BACK_V:g},0)"


def _converters(made: Moving, fresh: Timetable, run: Run) -> Iterator[str]:
    names, own = names_of(made), made.circuit.converting
    c = own.law
    start = fresh.start.states[0]
    layout = Layout(made.circuit)
    set_v, on = run.trace.column("set_v"), run.trace.column("on")
    titles = {k: f"{key.role} {key.element}" for key, k in made.converter.items()}
    titles |= {one.source: f"source of {one.inlet}" for one in made.ports}
    for k in range(c.inp.size):
        inp, out, gnd = names[int(c.inp[k])], names[int(c.out[k])], names[int(c.gnd[k])]
        yield f"* {titles[k]}"
        yield f"Vn{k} n{k} 0 {_pwl(run.times_s, on[:, k].astype(float))}"
        yield f"Vv{k} v{k} 0 {_pwl(run.times_s, set_v[:, k])}"
        vin, vo = f"V({inp},{gnd})", f"V({out},{gnd})"
        line = float(own.line_s[k])
        ahead = ""
        if line > 0:
            yield f"Bx{k} 0 x{k} I={vin}"
            yield f"Rx{k} x{k} 0 1"
            yield f"Cx{k} x{k} 0 {line:.9g} ic={float(start[layout.line][k]):.9g}"
            ahead = f"+{vin}-V(x{k})"
        entry = max(float(own.entry_s[k]), 1e-9)
        yield f"By{k} 0 y{k} I={vin}"
        yield f"Ry{k} y{k} 0 1"
        yield f"Cy{k} y{k} 0 {entry:.9g} ic={float(start[layout.entry][k]):.9g}"
        sheet = sheet_of(c, 0, k)
        wanted = f"(V(v{k}){ahead})"
        amps = netlist_within(sheet, f"V(u{k})", vin, vo) if line > 0 else netlist_given(sheet, wanted, vin, vo)
        short_s = next((act.at_s for act in fresh.acts if isinstance(act, Fail) and act.converter == k and act.how == "short"), None)  # fmt: skip
        if short_s is not None:
            times = [0.0, short_s, short_s + EDGE_S] if short_s > 0 else [0.0]
            yield f"Vf{k} f{k} 0 {_pwl(times, [0.0, 0.0, 1.0][-len(times) :])}"
            through = f"V({inp},{out})/{SHORTED_OHM:g}"
            yield f"Bf{k} {inp} {out} I=V(n{k})*V(f{k})*{through if sheet.sinks else f'max(0, {through})'}"
            amps = f"(1-V(f{k}))*{amps}"
        begins = float(start[layout.conv][k])
        if line > 0:
            # Its control's own inductance; a switch or a limit that holds its current back holds that of the control too.
            lag = max(float(own.henry[k]) / sheet.out_ohm, LEAST_LAG_S)
            held = f"{lag / LEAST_LAG_S:.9g}*(max(V(u{k})-V(w{k}),0){'' if sheet.sinks else f'+min(V(u{k}),0)'})"
            yield f"Bu{k} 0 u{k} I=V(n{k})*({wanted} - {vo})/{sheet.out_ohm:.9g}-{held}"
            yield f"Ru{k} u{k} 0 1"
            yield f"Cu{k} u{k} 0 {lag:.9g} ic={begins:.9g}"
        yield f"Bv{k} 0 w{k} I=V(n{k})*{amps}"  # nothing follows at once, or no first step is found
        yield f"Rw{k} w{k} 0 1"
        yield f"Cw{k} w{k} 0 {LEAST_LAG_S:.9g} ic={begins:.9g}"
        yield f"Gv{k} {gnd} {out} w{k} 0 1"
        amps = f"V(w{k})"
        yield from _taken(sheet, k, inp, gnd, vin, vo, amps)


def _taken(sheet: Sheet, k: int, inp: str, gnd: str, vin: str, vo: str, amps: str) -> Iterator[str]:
    if sheet.kind == SOURCE:
        return
    idle = f"+V(n{k})*{sheet.quiescent_a:.9g}*min(max({vin},0),1)" if sheet.quiescent_a else ""
    yield f"Bi{k} {inp} {gnd} I={netlist_taken(sheet, vin, vo, amps, f'V(y{k})')}{idle}"
