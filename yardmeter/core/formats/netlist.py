"""SPICE netlist of a plan in one condition: the same network as behavioural sources any SPICE3-like simulator reads.

Regulators are written as explicit functions of node voltages, not as the modes a solution found, so that a simulator's
operating point is an independent one. Only what gives up at its limit or starts and stops for ever, and so stands
nowhere, is left out, with a remark.
"""

from __future__ import annotations

import math
import re

import numpy as np

from yardmeter.core.elements.inline import netlist_lamp_amps
from yardmeter.core.elements.load import LoadKind, netlist_amps
from yardmeter.core.elements.pack import netlist_pack
from yardmeter.core.elements.regulator import SOURCE, Sheet, netlist_gate, netlist_given, netlist_taken
from yardmeter.core.elements.wire import netlist_ohm
from yardmeter.core.network import Network, Situation, branch_table, build_network
from yardmeter.core.network.keys import Key, Node
from yardmeter.core.plan import Condition, Plan
from yardmeter.core.plan.text import one_line
from yardmeter.core.solver.circuit import Converters
from yardmeter.core.solver.dc import solve_as_given

LEAK_OHM = 1e9
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
            lines.append(
                f"{netlist_ohm(str(index), names[one.a], names[one.b], float(1 / siemens))} ; {_title(one.key)}"
            )
    return lines


def _pack(network: Network, row: int, names: dict[int, str]) -> list[str]:
    emfs = network.circuit.emfs
    if emfs.siemens[row, 0] == 0:
        return ["* pack not connected"]
    return netlist_pack(names[int(emfs.a[0])], float(emfs.volts[row, 0]), float(1 / emfs.siemens[row, 0]))


def _loads(network: Network, row: int, names: dict[int, str]) -> list[str]:
    loads, lines = network.circuit.loads, []
    for index, one in enumerate(network.table.loads):
        p, n = names[int(loads.p[index])], names[int(loads.n[index])]
        value, knee, v = float(loads.value[row, index]), float(loads.knee_v[index]), f"v({p},{n})"
        if not math.isfinite(value):
            amps = "0"
        elif one.kind is LoadKind.LAMP:
            amps = netlist_lamp_amps(v, value, knee)
        else:
            amps = netlist_amps(int(one.kind), v, f"{value:.9g}", knee)
        lines.append(f"Bload{index} {p} {n} i = {amps} ; {_title(one.key)}")
    return lines


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
        vo, vi = f"v({out},{gnd})", f"v({inp},{gnd})"
        sheet = sheet_of(c, row, k)
        amps = netlist_given(sheet, f"{c.set_v[row, k]:.9g}", vi, vo)
        live = "1" if sheet.kind == SOURCE or c.stop_v[row, k] <= 0 else f"v(run{k})"
        if live != "1":
            nominal = nominal_v(one.inp) - nominal_v(one.gnd)
            lines += netlist_gate(k, vi, float(c.stop_v[row, k]), float(c.start_v[k]), START_SHARE * nominal)
        lines.append(f"Bout{k} {gnd} {out} i = {live}*{amps} ; {title}")
        if sheet.kind == SOURCE:
            continue
        i, iq = f"i(Vs{k})", f"{c.quiescent_a[row, k]:.9g}"
        lines[-1] = f"Bout{k} {gnd} s{k} i = {live}*{amps} ; {title}"
        lines.append(f"Vs{k} s{k} {out} 0")
        lines.append(f"Bin{k} {inp} {gnd} i = {live}*({netlist_taken(sheet, vi, vo, i)} + {iq})")
    return lines


def sheet_of(c: Converters, row: int, k: int) -> Sheet:
    """A converter's figures in one row."""
    values = {name: float(getattr(c, name)[row, k]) for name in ("out_ohm", "ceil_gain", "drop_v", "drop_ohm", "limit_a", "quiescent_a", "k1_v", "k2_ohm")}  # fmt: skip
    return Sheet(int(c.kind[k]), bool(c.passes[k]), bool(c.sinks[k]), **values)
