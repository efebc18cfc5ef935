"""What a fault would do if the pack were plugged in: amps through it, volts where they do not belong, who is lost."""

from __future__ import annotations

from dataclasses import dataclass, replace

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.faults.model import Bridge, Fault, Joint
from yardmeter.core.graph import graph_of
from yardmeter.core.network.branches import branch_table
from yardmeter.core.network.keys import Key, ground_node, rail_node
from yardmeter.core.physics.fusing import fusing_a
from yardmeter.core.plan import Device, Plan, Regulator, Wire
from yardmeter.core.probing.passive import PassiveTable, Resistance
from yardmeter.core.solver.passive import probe

BURNS_A = 5.0
"""Amps through a short from which something on a board burns before anybody has seen it; our choice."""


@dataclass(frozen=True)
class Consequence:
    """`dangerous` where something is destroyed or the craft may fall at once; `lost` are the devices that die.

    `amps_a` flows through a short; `volts_v` is what reaches the first device lost; `wire_melts` names a wire that fuses.
    """

    dangerous: bool
    amps_a: float = 0.0
    volts_v: float = 0.0
    lost: tuple[str, ...] = ()
    wire_melts: str | None = None


def consequence(table: PassiveTable, solved: SolvedPlan, fault: Fault) -> Consequence:
    """Under a full pack, straight on, nothing limiting but the build's own regulators and copper."""
    plan = table.plan
    if fault.kind == "plug reversed":
        return Consequence(True, volts_v=-plan.pack.rest_v("full"), lost=tuple(d.id for d in plan.devices))
    if fault.kind == "plus and minus swapped":
        device = plan.device_of[fault.elements[0]]
        volts = _rail_v(solved, device.feed.rail) if device.feed else 0.0
        return Consequence(True, volts_v=-volts, lost=(device.id,))
    if fault.kind in ("wrong pad", "wrong strap"):
        return _wrong_rail(plan, solved, fault)
    if fault.kind == "regulator shorted":
        return _fed_through(plan, solved, plan.supply_of[fault.elements[0]])
    if fault.kind == "whisker":
        return _bridged_rails(plan, solved, fault)
    if fault.kind in ("short", "device shorted", "capacitor shorted", "capacitor reversed"):
        return _shorted(table, fault)
    if fault.kind == "no ground":
        owner = fault.elements[0]
        alone = not _still_grounded(table, fault, owner)
        signals = any(plan.owner_of[end].id == owner for s in plan.signals for end in (s.source, s.sink))
        # Its current comes home through a signal's pin, which is not made for it.
        return Consequence(alone and signals, lost=(owner,) if alone and signals else ())
    needed = [plan.device_of[one] for one in fault.elements if one in plan.device_of]
    falls = any(one.keeps_control for one in needed) and fault.kind in ("open joint", "connector half in")
    return Consequence(falls)


def _still_grounded(table: PassiveTable, fault: Fault, owner: str) -> bool:
    """Whether other copper leads from its ground to the plug once that wire is open."""
    cut = {one.key for one in fault.overlays if isinstance(one, Joint)}
    left = replace(table, resistances=tuple(one for one in table.resistances if one.key not in cut))
    return left.copper_way(table.node[ground_node(owner)], table.minus) is not None


def _rail_v(solved: SolvedPlan, rail: str) -> float:
    """The most it has on the pack, a full one included whether or not a condition uses it; nothing where none is on the pack."""
    if rail not in solved.plan.rail_of:
        return 0.0
    swept = [pattern.rails_v[rail][0] for pattern in solved.windows.patterns]
    return max([solved.rail(rail).states[c.id].volts_v for c in solved.pack_conditions()] + swept, default=0.0)


def _over(devices: list[Device], volts: float) -> tuple[str, ...]:
    return tuple(one.id for one in devices if volts > one.max_v)


def _below(plan: Plan, rail: str) -> list[Device]:
    """Devices a rail's volts reach without a regulator between."""
    reached = {rail} | {s.output for s in plan.supplies if not isinstance(s, Regulator) and rail in plan.inputs_of(s)}
    return [one for name in reached for one in plan.devices_on(name)]


def _wrong_rail(plan: Plan, solved: SolvedPlan, fault: Fault) -> Consequence:
    first, rail = fault.elements
    volts = _rail_v(solved, rail)
    hit = [plan.device_of[first]] if first in plan.device_of else _below(plan, plan.supply_of[first].output)
    lost = _over(hit, volts)
    return Consequence(bool(lost), volts_v=volts, lost=lost)


def _fed_through(plan: Plan, solved: SolvedPlan, supply: object) -> Consequence:
    if not isinstance(supply, Regulator):
        return Consequence(False)
    rail = graph_of(plan).feeding_rail(supply.input)
    volts = _rail_v(solved, rail) if rail else 0.0
    lost = _over(_below(plan, supply.output), volts)
    return Consequence(bool(lost), volts_v=volts, lost=lost)


def _bridged_rails(plan: Plan, solved: SolvedPlan, fault: Fault) -> Consequence:
    high, low = sorted(fault.elements, key=lambda one: -_rail_v(solved, one))
    volts = _rail_v(solved, high)
    lost = _over(_below(plan, low), volts)
    return Consequence(bool(lost), volts_v=volts, lost=lost)


def _shorted(table: PassiveTable, fault: Fault) -> Consequence:
    """From the pack through copper; behind a regulator what its limit lets through."""
    plan = table.plan
    bridge = next(one for one in fault.overlays if isinstance(one, Bridge))
    amps = _copper_amps(table, bridge)
    if amps is None:
        near = [s for s in plan.supplies if isinstance(s, Regulator) and _feeds(table, s, bridge.a)]
        limited = sum(one.limit_a for one in near)
        return Consequence(limited > BURNS_A, amps_a=limited)
    return Consequence(amps > BURNS_A, amps_a=amps, wire_melts=_melting(table, bridge, amps))


def _feeds(table: PassiveTable, supply: Regulator, node: int) -> bool:
    return table.copper_way(table.node[rail_node(supply.output)], node) is not None


def _copper_amps(table: PassiveTable, bridge: Bridge) -> float | None:
    """Amps of a full pack through copper and the short, None where no copper leads to it."""
    plan = table.plan
    if table.copper_way(table.plug, bridge.a) is None or table.copper_way(bridge.b, table.minus) is None:
        return None
    copper = table.copper_only()
    more = Resistance("fault", bridge.a, bridge.b, bridge.ohm)
    shorted = replace(copper, resistances=(*copper.resistances, more))
    volts = plan.pack.rest_v("full")
    found = probe(shorted.compiled(), table.plug, table.minus, volts, plan.pack.internal_ohm)
    return float(found.amps[1])


def _melting(table: PassiveTable, bridge: Bridge, amps: float) -> str | None:
    """The first wire on the way that these amps fuse."""
    wires = wires_of(table.plan)
    way = (*(table.copper_way(table.plug, bridge.a) or ()), *(table.copper_way(bridge.b, table.minus) or ()))
    return next((key.element or "pack" for key in way if key in wires and amps > fusing_a(wires[key].gauge_awg)), None)


def wires_of(plan: Plan) -> dict[Key, Wire]:
    """The wire of every conductor that is one."""
    return {one.key: one.wire for one in branch_table(plan).conductors if one.wire and not one.wire.joined}
