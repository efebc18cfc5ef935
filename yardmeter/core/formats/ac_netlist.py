"""The small-signal network of a plan as a SPICE netlist, element by element.

It is written from the plan and its operating point, not from the solver's matrices, so that a circuit simulator can check
those. Every law of `network.ac_build` has an exact circuit: a fading negative resistance is a negative R and L in series, a
line rejection that worsens with frequency a lead-lag divider behind a buffer.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from yardmeter.core.formats.netlist import node_name
from yardmeter.core.network.ac_build import INLET_H, LIMITING_OHM, Point
from yardmeter.core.network.branches import BOARD_H
from yardmeter.core.network.keys import Node, inlet_key, supply_key
from yardmeter.core.network.laws import CORE_LOSS, LOAD_CONTROL_HZ
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.physics.capacitors import BODY_H, leads_h, left_f
from yardmeter.core.physics.filters import ferrite_ohm_h, inductor_left_h
from yardmeter.core.plan import CapacitorFilter, Diode, FerriteFilter, LcFilter, Regulator
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING


def write_ac_netlist(point: Point, p: Node, n: Node, hertz: list[float]) -> str:
    """A netlist that drives one ampere from node `p` to node `n` and prints every node's complex volts at each frequency."""
    writer = _Writer(point)
    lines = ["* small-signal network", *writer.elements(), f"Idrive {writer.name(p)} {writer.name(n)} DC 0 AC 1"]
    control = [".control", "set numdgt=10"]
    for hz in hertz:
        control += [f"ac lin 1 {hz:.9g} {hz:.9g}", "print all"]
    return "\n".join([*lines, *control, ".endc", ".end", ""])


class _Writer:
    """Numbers elements and inner nodes as it goes."""

    def __init__(self, point: Point) -> None:
        self.point, self.plan = point, point.plan
        self.names = {index: node_name(node) for node, index in point.table.node.items()}
        self.count = 0

    def name(self, node: Node) -> str:
        return self.names[self.point.table.node[node]]

    def at(self, index: int) -> str:
        return "0" if index < 0 else self.names[index]

    def fresh(self) -> str:
        self.count += 1
        return f"k{self.count}"

    def elements(self) -> Iterator[str]:
        yield from self.conductors()
        yield from self.pack()
        yield from self.loads()
        yield from self.capacitors()
        for supply in self.plan.supplies:
            if isinstance(supply, Regulator):
                yield from self.regulator(supply)
            elif isinstance(supply, Diode):
                yield from self.diode(supply)
        yield from self.inlets()
        for index in self.names:
            yield f"Rleak{index} {self.at(index)} 0 1e9"

    def series(self, a: str, b: str, *parts: tuple[str, float]) -> Iterator[str]:
        """R, L and C one behind the other from a to b."""
        left = a
        for position, (letter, value) in enumerate(parts):
            right = b if position == len(parts) - 1 else self.fresh()
            yield f"{letter}{self.fresh()} {left} {right} {value:.12g}"
            left = right

    def conductors(self) -> Iterator[str]:
        made = self.point.network.circuit.conductors.siemens[self.point.row].tolist()
        for one, siemens in zip(self.point.table.conductors, made, strict=True):
            if siemens <= 0:
                continue
            left = self.at(one.a)
            for coil in one.coils:
                right = self.fresh()
                yield from self.coil(coil, left, right, self.point.feed_a.get(one.key.element, 0.0))
                left = right
            yield from self.series(left, self.at(one.b), ("R", 1 / siemens), ("L", one.henry))

    def capacitors(self) -> Iterator[str]:
        for one in self.point.table.capacitors:
            if one.filter:
                yield from self.shunt(one.filter, one.a, one.b)
            else:
                ends = self.at(one.a), self.at(one.b)
                yield from self.series(*ends, ("R", one.esr_ohm), ("L", one.esl_h), ("C", one.farad))

    def coil(self, one: LcFilter | FerriteFilter, a: str, b: str, amps: float) -> Iterator[str]:
        if isinstance(one, FerriteFilter):
            ohm, henry = ferrite_ohm_h(one.ohm_100mhz)
            yield f"R{self.fresh()} {a} {b} {ohm:.12g}"
            yield f"L{self.fresh()} {a} {b} {henry:.12g}"
            return
        rise = 2 * math.pi * one.resonance_hz
        yield f"L{self.fresh()} {a} {b} {inductor_left_h(one.henry, amps, one.saturation_a):.12g}"
        yield f"C{self.fresh()} {a} {b} {1 / (rise**2 * one.henry):.12g}"
        yield f"R{self.fresh()} {a} {b} {CORE_LOSS * rise * one.henry:.12g}"

    def pack(self) -> Iterator[str]:
        pack = self.point.table.pack
        if self.point.network.circuit.emfs.siemens[self.point.row, 0] > 0:
            yield from self.series(self.at(pack.a), self.at(pack.b), ("R", pack.ohm), ("L", pack.henry))

    def loads(self) -> Iterator[str]:
        for one, slope in zip(self.point.table.loads, self.point.load_slope, strict=True):
            if one.device and slope:
                yield from self.slope(self.at(one.p), self.at(one.n), slope, LOAD_CONTROL_HZ)

    def slope(self, p: str, n: str, siemens: float, corner_hz: float) -> Iterator[str]:
        if siemens > 0:
            yield f"R{self.fresh()} {p} {n} {1 / siemens:.12g}"
        else:
            yield from self.series(p, n, ("R", 1 / siemens), ("L", 1 / siemens / (2 * math.pi * corner_hz)))

    def shunt(self, one: CapacitorFilter | LcFilter, a: int, b: int) -> Iterator[str]:
        bias = abs(self.point.volts[a] - self.point.volts[b])
        farad = left_f(one.farad, one.dielectric, bias, one.rated_v)
        esl = BODY_H[one.dielectric] + leads_h(one.lead_m)
        for _ in range(one.count):
            yield from self.series(self.at(a), self.at(b), ("R", max(one.esr_ohm, 1e-9)), ("L", esl), ("C", farad))
        if one.damping_ohm is not None and one.damping_farad > 0:
            parts = (("R", one.damping_ohm), ("L", BODY_H[one.dielectric]), ("C", one.damping_farad))
            yield from self.series(self.at(a), self.at(b), *parts)

    def regulator(self, supply: Regulator) -> Iterator[str]:
        index = self.point.table.converter[supply_key(supply.id)]
        branch = self.point.table.converters[index]
        inp, out, gnd = self.at(branch.inp), self.at(branch.out), self.at(branch.gnd)
        mode = self.point.modes[index]
        if mode not in (CONDUCTING, LIMITING):
            return
        held = self.point.regulating[index] and mode == CONDUCTING
        share = 1.0
        if supply.switching:
            volts = max(self.point.input_v[index], 0.3)
            share = self.point.output_v[index] / volts
            watts = max(self.point.output_v[index] * self.point.converter_a[index], 0.0)
            if watts > 0:
                yield from self.slope(inp, gnd, -watts / volts**2, supply.bandwidth_hz)
        wanted, sense = self.fresh(), self.fresh()
        if held:
            yield from self.rejection(supply, inp, gnd, wanted)
            lead = conductor_ohm(supply.lead, self.point.table.plan.policy.copper_c) if supply.lead else 0.0
            inner = supply.output_ohm / (2 * math.pi * supply.bandwidth_hz)
            yield from self.series(wanted, sense, ("R", supply.output_ohm + lead), ("L", inner))
        else:
            gain = 0.0 if mode == LIMITING else branch.spec.ceil_gain
            yield f"E{self.fresh()} {wanted} {gnd} {inp} {gnd} {gain:.12g}"
            lead = conductor_ohm(supply.lead, self.point.table.plan.policy.copper_c) if supply.lead else 0.0
            ohm = LIMITING_OHM if mode == LIMITING else max(supply.dropout_ohm, 1e-3) + lead
            yield f"R{self.fresh()} {wanted} {sense} {ohm:.12g}"
        meter = f"V{self.fresh()}"
        yield f"{meter} {sense} {out} 0"
        yield f"F{self.fresh()} {inp} {gnd} {meter} {share:.12g}"

    def rejection(self, supply: Regulator, inp: str, gnd: str, wanted: str) -> Iterator[str]:
        """Buffer, lead-lag divider, buffer: `low (1 + s/ω)/(1 + low s/ω)`."""
        low, corner = 10 ** (-supply.rejection_db / 20), 2 * math.pi * supply.bandwidth_hz
        upper, lower = 1e3 * (1 - low), 1e3 * low
        first, middle = self.fresh(), self.fresh()
        yield f"E{self.fresh()} {first} 0 {inp} {gnd} 1"
        yield f"R{self.fresh()} {first} {middle} {upper:.12g}"
        yield f"C{self.fresh()} {first} {middle} {1 / (upper * corner):.12g}"
        yield f"R{self.fresh()} {middle} 0 {lower:.12g}"
        yield f"E{self.fresh()} {wanted} {gnd} {middle} 0 1"

    def diode(self, supply: Diode) -> Iterator[str]:
        index = self.point.table.converter[supply_key(supply.id)]
        if self.point.modes[index] == CONDUCTING:
            one = self.point.table.converters[index]
            yield from self.series(self.at(one.inp), self.at(one.out), ("R", one.spec.drop_ohm), ("L", BOARD_H))

    def inlets(self) -> Iterator[str]:
        for inlet in self.plan.inlets:
            index = self.point.table.converter.get(inlet_key(inlet.id))
            if index is None or self.point.modes[index] not in (CONDUCTING, LIMITING):
                continue
            one = self.point.table.converters[index]
            a, b = (one.out, one.gnd) if one.inp < 0 else (one.inp, one.out)
            yield from self.series(self.at(a), self.at(b), ("R", max(inlet.series_ohm, 1e-3)), ("L", INLET_H))
