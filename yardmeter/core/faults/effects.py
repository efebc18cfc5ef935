"""What a fault would do if the pack were plugged in: amps through it, volts where they do not belong, who is lost."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.faults.model import Bridge, Fault
from yardmeter.core.faults.reach import Reach, lost_devices, reach
from yardmeter.core.network.branches import branch_table
from yardmeter.core.network.keys import Key, input_node, pin_node, rail_node
from yardmeter.core.physics.fusing import fusing_a
from yardmeter.core.plan import Diode, Plan, Regulator, Wire
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


@dataclass(frozen=True)
class Case:
    """A fault in a build that was solved without it."""

    table: PassiveTable
    solved: SolvedPlan
    fault: Fault

    @property
    def plan(self) -> Plan:
        return self.table.plan


def harmless(_: Case) -> Consequence:
    return Consequence(False)


def cut(case: Case) -> Consequence:
    """Nothing burns, but what keeps the craft in the air may be behind it."""
    needed = [case.plan.device_of[one] for one in case.fault.elements if one in case.plan.device_of]
    return Consequence(any(one.keeps_control for one in needed))


def raised(case: Case, rail: str, volts: float) -> Consequence:
    return over(case.plan, reach(case.plan, {rail: volts}, volts_of(case.solved)), volts)


def over(plan: Plan, found: Reach, volts: float) -> Consequence:
    lost = lost_devices(plan, found)
    first = max((found.pins_v[one] for one in lost), default=volts)
    return Consequence(bool(lost) or bool(found.burnt), volts_v=first, lost=lost)


def volts_of(solved: SolvedPlan) -> Callable[[str], float]:
    return lambda rail: rail_v(solved, rail)


def shorted(case: Case) -> Consequence:
    """From the pack through copper; behind a regulator what its limit lets through."""
    table, plan = case.table, case.plan
    bridge = next(one for one in case.fault.overlays if isinstance(one, Bridge))
    amps = _copper_amps(table, bridge)
    if amps is None:
        near = [s for s in plan.supplies if isinstance(s, Regulator) and _feeds(table, s, bridge.a)]
        limited = sum(one.limit_a for one in near)
        return Consequence(limited > BURNS_A, amps_a=limited)
    return Consequence(amps > BURNS_A, amps_a=amps, wire_melts=_melting(table, bridge, amps))


def _feeds(table: PassiveTable, supply: Regulator, node: int) -> bool:
    return table.copper_way(table.node[rail_node(supply.output)], node) is not None


def _copper_amps(table: PassiveTable, bridge: Bridge) -> float | None:
    """Amps of a full pack through copper, diodes and the short, None where neither leads to it."""
    plan = table.plan
    wires = replace(table.copper_only(), resistances=(*table.copper_only().resistances, *_forward_diodes(table)))
    if wires.copper_way(table.plug, bridge.a) is None or wires.copper_way(bridge.b, table.minus) is None:
        return None
    more = Resistance("fault", bridge.a, bridge.b, bridge.ohm)
    shorted = replace(wires, resistances=(*wires.resistances, more))
    volts = plan.pack.rest_v("full")
    found = probe(shorted.compiled(), table.plug, table.minus, volts, plan.pack.internal_ohm)
    return float(found.amps[1])


def _forward_diodes(table: PassiveTable) -> Iterator[Resistance]:
    """Diodes that conduct, as the ohms that limit what they hand on; their few tenths of a volt limit nothing."""
    plan, node = table.plan, table.node
    for one in plan.supplies:
        if isinstance(one, Diode):
            source = next(
                (node[n] for n in (input_node(one.id), rail_node(one.input), pin_node(one.input)) if n in node), None
            )
            if source is not None:
                key = Key("link", one.id)
                yield Resistance(one.id, source, node[rail_node(one.output)], (one.series_ohm,) * 3, key)


def _melting(table: PassiveTable, bridge: Bridge, amps: float) -> str | None:
    """The first wire on the way that these amps fuse."""
    wires = wires_of(table.plan)
    way = (*(table.copper_way(table.plug, bridge.a) or ()), *(table.copper_way(bridge.b, table.minus) or ()))
    return next((key.element or "pack" for key in way if key in wires and amps > fusing_a(wires[key].gauge_awg)), None)


def rail_v(solved: SolvedPlan, rail: str) -> float:
    """The most it has on the pack, a full one included whether or not a condition uses it; nothing where none is on the pack."""
    if rail not in solved.plan.rail_of:
        return 0.0
    swept = [pattern.rails_v[rail][0] for pattern in solved.windows.patterns]
    return max([solved.rail(rail).states[c.id].volts_v for c in solved.pack_conditions()] + swept, default=0.0)


def input_v(solved: SolvedPlan, name: str) -> float:
    """The most a rail has, or the rail that feeds a device."""
    device = solved.plan.device_of.get(name)
    return rail_v(solved, device.feed.rail if device and device.feed else name)


def wires_of(plan: Plan) -> dict[Key, Wire]:
    """The wire of every conductor that is one."""
    return {one.key: one.wire for one in branch_table(plan).conductors if one.wire and not one.wire.joined}
