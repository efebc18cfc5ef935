"""SPICE netlist of a plan in one condition: the same network as behavioural sources any SPICE3-like simulator reads.

Regulators are written as explicit functions of node voltages, not as the modes a solution found, so that a simulator's
operating point is an independent one. Only what gives up at its limit or starts and stops for ever, and so stands
nowhere, is left out, with a remark.
"""

from __future__ import annotations

import re

import numpy as np

from yardmeter.core.network import Network, Situation, branch_table, build_network
from yardmeter.core.network.keys import Key, Node
from yardmeter.core.plan import Condition, Plan
from yardmeter.core.plan.text import one_line
from yardmeter.core.solver.circuit import Kind, LoadKind
from yardmeter.core.solver.dc import solve_as_given
from yardmeter.core.solver.elements import LAMP_EXPONENT, MIN_INPUT_V

LEAK_OHM = 1e9
GATE_OHM, GATE_F = 1e3, 1e-6
"""A regulator starts and stops within a few of these milliseconds."""
SETTLE_F = 1e-3
RESTLESS = "starts and stops over and over"
START_SHARE = 0.99
"""Settling starts from just below the nominal volts: a regulator charges its rail but cannot discharge it."""


def write_netlist(plan: Plan, condition: Condition, *, limited: bool = True) -> str:
    """Netlist that settles to the operating point. Ground is the pack's negative; comments name every element.

    A capacitance at every node, charged to the nominal volts, lets the network settle in time as it would at power-up;
    a simulator's own operating-point search gives up on overloads, which have flat loads on a flat source.
    """
    network = build_network(branch_table(plan), [Situation(condition, limited=limited)])
    lines = [
        f"* {one_line(plan.name)}: {one_line(condition.name)}",
        "* Volts in V, amps in A, resistances in ohm. Node 0 is the pack's negative.",
    ]
    found = solve_as_given(network.circuit, network.assembly)
    held = dict.fromkeys(np.flatnonzero(found.gives_up[0]).tolist(), "gives up over its limit")
    held |= dict.fromkeys(np.flatnonzero(found.hiccup[0]).tolist(), RESTLESS)
    lines += netlist_elements(network, 0, held)
    nodes = sorted(network.node.values())
    names = {index: node_name(name) for name, index in network.node.items()}
    lines += [
        f"Csettle{k} {names[k]} 0 {SETTLE_F:g} ic={START_SHARE * network.circuit.start_v[0, k]:.6g}" for k in nodes
    ]
    lines += [".options reltol=1e-7 abstol=1e-9 vntol=1e-8 gmin=1e-15", ".tran 1m 3 uic", ".control", "run"]
    lines += [f"print {names[k]}[length({names[k]})-1]" for k in nodes]
    return "\n".join([*lines, ".endc", ".end"]) + "\n"


PREFIX = {"pack+": "pack_p", "lead": "lead", "rail": "rail", "ground": "gnd", "pin": "pin", "input": "in"}


def node_name(node: Node) -> str:
    """A node's name in the netlist."""
    return re.sub(r"[^a-z0-9]", "_", "_".join(one for one in (PREFIX[node.kind], node.element) if one))


def _title(key: Key) -> str:
    """A branch in a comment."""
    return " ".join(str(one) for one in (key.role, key.element, key.part or "") if one)


def netlist_elements(network: Network, row: int, held: dict[int, str] | None = None) -> list[str]:
    """The element lines of one row of a network; converters that are `held` off are remarks with the reason."""
    names = {index: node_name(name) for name, index in network.node.items()}
    names[-1] = "0"
    lines = [
        *_conductors(network, row, names),
        *_pack(network, row, names),
        *_loads(network, row, names),
        *_converters(network, row, names, held),
    ]
    lines += [f"Rleak{index} {names[index]} 0 {LEAK_OHM:g}" for index in sorted(network.node.values())]
    return lines


def _conductors(network: Network, row: int, names: dict[int, str]) -> list[str]:
    lines = []
    for index, (one, siemens) in enumerate(
        zip(network.table.conductors, network.circuit.conductors.siemens[row], strict=True)
    ):
        if siemens > 0:
            lines.append(f"R{index} {names[one.a]} {names[one.b]} {1 / siemens:.9g} ; {_title(one.key)}")
    return lines


def _pack(network: Network, row: int, names: dict[int, str]) -> list[str]:
    emfs = network.circuit.emfs
    if emfs.siemens[row, 0] == 0:
        return ["* pack not connected"]
    return [
        f"Vpack pack_emf 0 {emfs.volts[row, 0]:.9g}",
        f"Rpack pack_emf {names[int(emfs.a[0])]} {1 / emfs.siemens[row, 0]:.9g} ; cells",
    ]


def _loads(network: Network, row: int, names: dict[int, str]) -> list[str]:
    loads, lines = network.circuit.loads, []
    for index, one in enumerate(network.table.loads):
        p, n = names[int(loads.p[index])], names[int(loads.n[index])]
        value, knee, v = float(loads.value[row, index]), float(loads.knee_v[index]), f"v({p},{n})"
        kind = one.kind
        if kind is LoadKind.CURRENT:
            amps = f"{v} >= {knee:.9g} ? {value:.9g} : {value / knee:.9g}*max({v},0)"
        elif kind is LoadKind.POWER:
            amps = f"{v} >= {knee:.9g} ? {value:.9g}/max({v},{knee:.9g}) : {value / knee**2:.9g}*max({v},0)"
        elif kind is LoadKind.RESISTANCE:
            amps = f"{v}/{value:.9g}" if value < float("inf") else "0"
        elif kind is LoadKind.LED:
            amps = f"max({v} - {knee:.9g}, 0)/{value:.9g}" if value < float("inf") else "0"
        else:
            amps = f"{value / knee:.9g}*{v}*pow(max(abs({v})/{knee:.9g}, 0.02), {LAMP_EXPONENT - 1:.9g})"
        lines.append(f"Bload{index} {p} {n} i = {amps} ; {_title(one.key)}")
    return lines


def _gate(k: int, input_volts: str, stop_v: float, start_v: float, nominal_v: float) -> list[str]:
    """Whether a regulator runs, as volts of a node: from its start on down to its stop, a moment after its input is there.

    A hard edge that its own current moves the input over leaves a simulator no time step small enough.
    """
    start_v, runs = max(start_v, stop_v), f"run{k}"
    drive = f"({input_volts} >= (v({runs}) > 0.5 ? {stop_v:.9g} : {start_v:.9g}) ? 1 : 0) - v({runs})"
    return [
        f"B{runs} 0 {runs} i = ({drive})/{GATE_OHM:g}",
        f"C{runs} {runs} 0 {GATE_F:g} ic={int(START_SHARE * nominal_v >= stop_v)}",
    ]


def _converters(network: Network, row: int, names: dict[int, str], held: dict[int, str] | None) -> list[str]:
    c, lines = network.circuit.converters, []

    def nominal_v(node: int) -> float:
        return float(network.circuit.start_v[row, node])

    for k, one in enumerate(network.table.converters):
        title = _title(one.key)
        if not c.enabled[row, k]:
            continue
        out, gnd, inp = names[one.out], names[one.gnd], names[one.inp]
        if held and k in held:
            lines.append(f"* {title} {held[k]}: held off, where it ends each time; its run in time shows the rounds")
            if held[k] == RESTLESS:
                lines.append(f"Iin{k} {inp} {gnd} {c.quiescent_a[row, k]:.9g} ; what it takes to try again")
            continue
        vo, vi, kind = f"v({out},{gnd})", f"v({inp},{gnd})", Kind(int(c.kind[k]))
        ro, rd = max(float(c.out_ohm[row, k]), 1e-5), max(float(c.drop_ohm[row, k]), 1e-5)
        amps = f"({c.set_v[row, k]:.9g} - {vo})/{ro:.9g}"
        if c.passes[k]:
            amps = f"max({amps}, ({vi} - {c.drop_v[row, k]:.9g} - {vo})/{rd:.9g})"
        if kind is not Kind.SOURCE:
            drop = 0.0 if c.passes[k] else float(c.drop_v[row, k])
            amps = f"min({amps}, ({c.ceil_gain[row, k]:.9g}*{vi} - {drop:.9g} - {vo})/{rd:.9g})"
        amps = f"min({amps}, {c.limit_a[row, k]:.9g})"
        if not c.sinks[k]:
            amps = f"max(0, {amps})"
        live = "1" if kind is Kind.SOURCE or c.stop_v[row, k] <= 0 else f"v(run{k})"
        if live != "1":
            lines += _gate(k, vi, float(c.stop_v[row, k]), float(c.start_v[k]), nominal_v(one.inp) - nominal_v(one.gnd))
        lines.append(f"Bout{k} {gnd} {out} i = {live}*{amps} ; {title}")
        if kind is Kind.SOURCE:
            continue
        i, iq = f"i(Vs{k})", f"{c.quiescent_a[row, k]:.9g}"
        lines[-1] = f"Bout{k} {gnd} s{k} i = {live}*{amps} ; {title}"
        lines.append(f"Vs{k} s{k} {out} 0")
        if kind is Kind.SERIES:
            through = f"max({i}, 0)" if c.sinks[k] else i
            lines.append(f"Bin{k} {inp} {gnd} i = {through} + {live}*{iq}")
        else:
            size = f"abs({i})" if c.sinks[k] else i
            fitted = f"{c.k1_v[row, k]:.9g}*{size} + {c.k2_ohm[row, k]:.9g}*{i}*{i}"
            floor = f"{c.drop_v[row, k]:.9g}*{size} + {c.drop_ohm[row, k]:.9g}*{i}*{i}"
            lines.append(
                f"Bin{k} {inp} {gnd} i = {live}*(({vo}*{i} + max({fitted}, {floor}))/max({vi},{MIN_INPUT_V}) + {iq})"
            )
    return lines
