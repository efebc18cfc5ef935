"""A build with nothing powered: copper, what parts look like, junctions, capacitors; the pack unplugged."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from yardmeter.core.elements import capacitor, diode, led, load, motor, regulator, signal, wire
from yardmeter.core.elements.bands import BODY_V, Band
from yardmeter.core.network.branches import REFERENCE, branch_table
from yardmeter.core.network.keys import PACK_NODE, Key, Node, ground_node, input_node, pin_node, rail_node
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Device, Diode, Pin, Plan, Regulator
from yardmeter.core.solver.junctions import KNEE_A
from yardmeter.core.solver.passive import PassiveNetwork
from yardmeter.core.ways import Ways, join, lightest

OPEN_JOINT_OHM = 1e3
"""More in a conductor is no copper any more."""
CORNERS = 3
"""Everything at its least, as usual, at its most."""


@dataclass(frozen=True)
class Resistance:
    """`key` is the conductor's, none for what is no copper of the plan."""

    element: str
    a: int
    b: int
    ohm: Band
    key: Key | None = None


@dataclass(frozen=True)
class Junction:
    element: str
    anode: int
    cathode: int
    volts: Band


@dataclass(frozen=True)
class Storage:
    element: str
    a: int
    b: int
    farad: Band
    esr_ohm: float


@dataclass(frozen=True)
class PassiveTable:
    """`minus` is the plug's negative pin. Nodes are those of the branch table, then the reference, then signal pins."""

    plan: Plan
    node: dict[Node, int]
    nodes: int
    minus: int
    pin_at: dict[str, int]
    resistances: tuple[Resistance, ...]
    junctions: tuple[Junction, ...]
    storages: tuple[Storage, ...]

    def compiled(self) -> PassiveNetwork:
        """The three corners as one batch."""
        return PassiveNetwork(
            self.nodes,
            np.array([one.a for one in self.resistances], np.intp),
            np.array([one.b for one in self.resistances], np.intp),
            1 / np.maximum(np.array([one.ohm for one in self.resistances]).T, 1e-6),
            np.array([one.anode for one in self.junctions], np.intp),
            np.array([one.cathode for one in self.junctions], np.intp),
            np.array([one.volts for one in self.junctions]).reshape(-1, CORNERS).T,
            np.array([one.a for one in self.storages], np.intp),
            np.array([one.b for one in self.storages], np.intp),
            np.array([one.farad for one in self.storages]).reshape(-1, CORNERS).T,
            np.array([one.esr_ohm for one in self.storages]),
        )

    @property
    def plug(self) -> int:
        """The plug's positive pin."""
        return self.node[PACK_NODE]

    @cached_property
    def copper(self) -> Ways[int]:
        """Nodes joined by copper alone, weighed by its ohms; a joint that is open joins nothing."""
        found: Ways[int] = {}
        for one in self._joining:
            join(found, one.a, one.b, one.ohm[1])
        return found

    @property
    def _joining(self) -> list[Resistance]:
        return [one for one in self.resistances if one.key and one.ohm[1] < OPEN_JOINT_OHM]

    def copper_way(self, a: int, b: int) -> tuple[Key, ...] | None:
        """Conductors of the shortest way of copper from one node to another; None where there is none."""
        way = lightest(self.copper, a, b)
        if way is None:
            return None
        key = {frozenset((one.a, one.b)): one.key for one in self._joining}
        return tuple(found for pair in pairwise(way) if (found := key[frozenset(pair)]))

    def copper_only(self) -> PassiveTable:
        """Wires alone: no part, no junction, no capacitor."""
        return replace(self, resistances=tuple(r for r in self.resistances if r.key), junctions=(), storages=())

    def without(self, element: str) -> PassiveTable:
        """With all that is a part, not copper, of an element taken out."""
        return replace(
            self,
            resistances=tuple(one for one in self.resistances if one.element != element or one.key),
            junctions=tuple(one for one in self.junctions if one.element != element),
            storages=tuple(one for one in self.storages if one.element != element),
        )


def passive_table(plan: Plan) -> PassiveTable:
    """The plan unplugged and cold."""
    table = branch_table(plan)
    minus = len(table.node)
    pin_at = {pin.id: minus + 1 + k for k, pin in enumerate(_signal_pins(plan))}

    def at(node: int) -> int:
        return minus if node == REFERENCE else node

    copper = [
        Resistance(one.key.element or "pack", at(one.a), at(one.b), wire.seen_ohm(one.ohm), one.key)
        for one in table.conductors
    ]
    parts = [*_devices(plan, table.node), *_supplies(plan, table.node), *_pins(plan, table.node, pin_at)]
    return PassiveTable(
        plan,
        table.node,
        minus + 1 + len(pin_at),
        minus,
        pin_at,
        (*copper, *(one for one in parts if isinstance(one, Resistance))),
        (*(one for one in parts if isinstance(one, Junction)), *_clamps(plan, table.node)),
        tuple(
            Storage(one.element, at(one.a), at(one.b), capacitor.seen_f(one.farad), max(one.esr_ohm, 1e-3))
            for one in table.capacitors
        ),
    )


def _signal_pins(plan: Plan) -> list[Pin]:
    """Pins that are no supply and no ground: those are the nodes of their owner."""
    return [pin for one in plan.owners for pin in one.pins if pin.direction not in ("power", "ground")]


Made = Iterator[Resistance | Junction]


def _devices(plan: Plan, node: dict[Node, int]) -> Made:
    for device in plan.devices:
        plus, ground = node[pin_node(device.id)], node[ground_node(device.id)]
        if device.led and device.law == "led":
            yield from _leds(device, plus, ground)
            continue
        yield Resistance(device.id, plus, ground, load.seen_input_ohm(device.kind))
        yield Junction(device.id, ground, plus, motor.seen_bridge_v() if device.kind == "motor" else BODY_V)


def _leds(device: Device, plus: int, ground: int) -> Made:
    one = device.led
    if one:
        volts = led.seen_forward_v(one.forward_v, one.series, one.resistor_ohm / one.strings, KNEE_A)
        yield Junction(device.id, plus, ground, volts)


def _supplies(plan: Plan, node: dict[Node, int]) -> Made:
    for supply in plan.supplies:
        out = node[rail_node(supply.output)]
        ground = node[ground_node(supply.board)]
        source = next(iter(plan.inputs_of(supply)), supply.input)
        entry = node.get(
            input_node(supply.id), node[rail_node(source)] if source in plan.rail_of else node[pin_node(source)]
        )
        if isinstance(supply, Regulator):
            yield Resistance(supply.id, out, ground, regulator.seen_output_ohm())
            yield Resistance(supply.id, entry, ground, regulator.seen_entry_ohm())
            yield Junction(supply.id, ground, out, BODY_V)
            # A boost's rectifier conducts forward; what steps down or is linear has its body diode the other way.
            ends = (entry, out) if supply.kind == "boost" else (out, entry)
            yield Junction(supply.id, *ends, BODY_V)
        elif isinstance(supply, Diode):
            yield Junction(supply.id, entry, out, diode.seen_forward_v(supply.drop_v))


def _pins(plan: Plan, node: dict[Node, int], at: dict[str, int]) -> Made:
    """Each signal pin with what it hangs on, and the wires between them."""
    for owner in plan.owners:
        ground = node[ground_node(owner.id)]
        for pin in owner.pins:
            if pin.id not in at:
                continue
            video = pin.role in ("video-in", "video-out")
            yield Resistance(pin.id, at[pin.id], ground, signal.seen_pin_ohm(video))
            yield Junction(pin.id, ground, at[pin.id], BODY_V)
            if isinstance(owner, Device):
                yield Junction(pin.id, at[pin.id], node[pin_node(owner.id)], BODY_V)
    for one in plan.signals:
        if one.source in at and one.sink in at:
            ohm = conductor_ohm(one.wire, plan.policy.copper_c)
            yield Resistance(one.id, at[one.source], at[one.sink], wire.seen_ohm(ohm), Key("link", one.id))


def _clamps(plan: Plan, node: dict[Node, int]) -> Iterator[Junction]:
    for clamp in plan.clamps:
        if clamp.fitted:
            rail = clamp.at in plan.rail_of
            plus = node[rail_node(clamp.at)] if rail else node[pin_node(clamp.at)]
            ground = node[ground_node(plan.ground_of(clamp.at) if rail else clamp.at)]
            yield Junction(clamp.id, ground, plus, diode.seen_clamp_v())
