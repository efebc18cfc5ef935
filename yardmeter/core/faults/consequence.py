"""What a fault would do if the pack were plugged in: amps through it, volts where they do not belong, who is lost."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import get_args

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.faults.model import Bridge, Fault, Joint
from yardmeter.core.faults.reach import Reach, lost_devices, reach
from yardmeter.core.network.branches import branch_table
from yardmeter.core.network.keys import Key, ground_node, input_node, pin_node, rail_node
from yardmeter.core.physics.fusing import fusing_a
from yardmeter.core.plan import Diode, Plan, Regulator, Wire
from yardmeter.core.plan.policies import FaultKind
from yardmeter.core.probing.passive import PassiveTable, Resistance
from yardmeter.core.solver.passive import probe

BURNS_A = 5.0
"""Amps through a short from which something on a board burns before anybody has seen it; our choice."""
BURSTS_V = 1.0
"""Volts the wrong way round that an electrolytic stands; more and it vents or bursts. From memory."""


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
class _Case:
    """A fault in a build that was solved without it."""

    table: PassiveTable
    solved: SolvedPlan
    fault: Fault

    @property
    def plan(self) -> Plan:
        return self.table.plan


def consequence(table: PassiveTable, solved: SolvedPlan, fault: Fault) -> Consequence:
    """Under a full pack, straight on, nothing limiting but the build's own regulators and copper."""
    return OF_KIND[fault.kind](_Case(table, solved, fault))


def _reversed_plug(case: _Case) -> Consequence:
    plan = case.plan
    return Consequence(True, volts_v=-plan.pack.rest_v("full"), lost=tuple(d.id for d in plan.devices))


def _swapped(case: _Case) -> Consequence:
    device = case.plan.device_of[case.fault.elements[0]]
    volts = rail_v(case.solved, device.feed.rail) if device.feed else 0.0
    return Consequence(True, volts_v=-volts, lost=(device.id,))


def _wrong_pad(case: _Case) -> Consequence:
    """The device alone is on the other rail; what it hands on goes with it."""
    device, rail = case.fault.elements
    found = reach(case.plan, {device: rail_v(case.solved, rail)}, _volts_of(case.solved))
    return _over(case.plan, found, rail_v(case.solved, rail))


def _wrong_strap(case: _Case) -> Consequence:
    strap, choice = case.fault.elements
    return _raised(case, case.plan.supply_of[strap].output, rail_v(case.solved, choice))


def _through(case: _Case) -> Consequence:
    """A regulator that hands its input on: whatever hangs behind it, at any distance."""
    supply = case.plan.supply_of[case.fault.elements[0]]
    volts = input_v(case.solved, supply.input)
    return _raised(case, supply.output, volts)


def _bridged(case: _Case) -> Consequence:
    high, low = sorted(case.fault.elements, key=lambda one: -rail_v(case.solved, one))
    return _raised(case, low, rail_v(case.solved, high))


def _raised(case: _Case, rail: str, volts: float) -> Consequence:
    return _over(case.plan, reach(case.plan, {rail: volts}, _volts_of(case.solved)), volts)


def _over(plan: Plan, found: Reach, volts: float) -> Consequence:
    lost = lost_devices(plan, found)
    first = max((found.pins_v[one] for one in lost), default=volts)
    return Consequence(bool(lost) or bool(found.burnt), volts_v=first, lost=lost)


def _no_ground(case: _Case) -> Consequence:
    """Its current comes home through a signal's pin, which is not made for it."""
    plan, owner = case.plan, case.fault.elements[0]
    alone = not _still_grounded(case.table, case.fault, owner)
    signals = any(plan.owner_of[end].id == owner for s in plan.signals for end in (s.source, s.sink))
    return Consequence(alone and signals, lost=(owner,) if alone and signals else ())


def _cut(case: _Case) -> Consequence:
    """Nothing burns, but what keeps the craft in the air may be behind it."""
    needed = [case.plan.device_of[one] for one in case.fault.elements if one in case.plan.device_of]
    return Consequence(any(one.keeps_control for one in needed))


def _harmless(_: _Case) -> Consequence:
    return Consequence(False)


def _reversed_capacitor(case: _Case) -> Consequence:
    """It vents or bursts, whatever else the current through it does."""
    at = case.fault.elements[1]
    supply = case.plan.supply_of.get(at)
    ends = (supply.input, supply.output) if supply else (at,)
    volts = max(input_v(case.solved, one) for one in ends)
    leaks = _shorted(case)
    bursts = volts > BURSTS_V
    return replace(leaks, dangerous=leaks.dangerous or bursts, volts_v=-volts if bursts else 0.0)


def _still_grounded(table: PassiveTable, fault: Fault, owner: str) -> bool:
    """Whether other copper leads from its ground to the plug once that wire is open."""
    cut = {one.key for one in fault.overlays if isinstance(one, Joint)}
    left = replace(table, resistances=tuple(one for one in table.resistances if one.key not in cut))
    return left.copper_way(table.node[ground_node(owner)], table.minus) is not None


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


def _volts_of(solved: SolvedPlan) -> Callable[[str], float]:
    return lambda rail: rail_v(solved, rail)


def _shorted(case: _Case) -> Consequence:
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


def wires_of(plan: Plan) -> dict[Key, Wire]:
    """The wire of every conductor that is one."""
    return {one.key: one.wire for one in branch_table(plan).conductors if one.wire and not one.wire.joined}


OF_KIND: dict[FaultKind, Callable[[_Case], Consequence]] = {
    "short": _shorted,
    "whisker": _bridged,
    "open joint": _cut,
    "poor joint": _harmless,
    "wrong pad": _wrong_pad,
    "plus and minus swapped": _swapped,
    "no ground": _no_ground,
    "regulator open": _harmless,
    "regulator shorted": _through,
    "regulator low": _harmless,
    "capacitor reversed": _reversed_capacitor,
    "capacitor shorted": _shorted,
    "capacitor forgotten": _harmless,
    "device shorted": _shorted,
    "connector half in": _cut,
    "wrong strap": _wrong_strap,
    "plug reversed": _reversed_plug,
}
if missing := set(get_args(FaultKind)) - set(OF_KIND):
    raise RuntimeError(f"faults without a consequence: {', '.join(sorted(missing))}")
