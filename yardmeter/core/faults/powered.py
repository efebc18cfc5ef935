"""The build with a fault in it and power on, as a plan of its own: the same network, solver and answers as any."""

from __future__ import annotations

from collections.abc import Callable

from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.faults.model import DEAD_OHM, LEAKS_OHM, POOR_OHM, SHORT_OHM, WHISKER_OHM, Fault
from yardmeter.core.plan import Device, Plan, Rail, Regulator
from yardmeter.core.plan.operations import Add, Edit, Remove, SetValue
from yardmeter.core.plan.policies import FaultKind

LOW_FRAC = 0.8
"""Volts of a regulator that has failed low, over those it is set to; our choice."""
SHORT_POWERED_OHM = 2 * SHORT_OHM[1]
"""Of a short that carries the amps of a pack: it warms; from memory."""
JOINED = {"joined": True}


def powered_twin(plan: Plan, fault: Fault) -> Plan:
    """The plan as it would be with the fault in it. Raises EditError for what power destroys before anything can be read."""
    made = EDITS.get(fault.kind)
    if made is None:
        raise EditError(
            f"With {fault.kind} nothing can be read under power: what is connected is destroyed.",
            where=fault.id,
            remedy="Find it with the meter before the pack is plugged in.",
        )
    return apply_edits(plan, made(plan, fault))


def _cut(plan: Plan, fault: Fault) -> list[Edit]:
    name = fault.elements[0]
    if name in plan.device_of:
        return [SetValue(element=name, field="feed", value=None)]
    return [Remove(element=name)]


def _poor(plan: Plan, fault: Fault) -> list[Edit]:
    ohm = POOR_OHM[1]
    name = fault.elements[-1]
    if name in plan.return_of:
        wire = plan.return_of[name][1].wire
        return [SetValue(element=name, field="wire.connector_ohm", value=min(wire.connector_ohm + ohm, 10.0))]
    device = plan.device_of[name]
    had = device.feed.wire.connector_ohm if device.feed else 0.0
    return [SetValue(element=name, field="feed.wire.connector_ohm", value=min(had + ohm, 10.0))]


def _no_ground(_: Plan, fault: Fault) -> list[Edit]:
    return [Remove(element=fault.elements[-1])]


def _wrong_pad(_: Plan, fault: Fault) -> list[Edit]:
    device, rail = fault.elements
    return [
        SetValue(element=device, field="feed.pad", value=None),
        SetValue(element=device, field="feed.rail", value=rail),
    ]


def _shorted_regulator(plan: Plan, fault: Fault) -> list[Edit]:
    supply = plan.supply_of[fault.elements[0]]
    wires = {
        name: wire.model_dump(mode="json") if wire else None
        for name, wire in (("feed", supply.feed), ("lead", supply.lead))
    }
    value = {"id": f"{supply.id[:50]}-shorted", "name": supply.name, "kind": "link", "series_ohm": DEAD_OHM[1]}
    ends = {"input": supply.input, "output": supply.output, "board": supply.board}
    return [Remove(element=supply.id), Add(kind="supply", value={**value, **ends, **wires})]


def _low(plan: Plan, fault: Fault) -> list[Edit]:
    supply = plan.supply_of[fault.elements[0]]
    volts = supply.set_v * LOW_FRAC if isinstance(supply, Regulator) else 0.0
    return [SetValue(element=supply.id, field="set_v", value=volts)]


def _strap(_: Plan, fault: Fault) -> list[Edit]:
    strap, choice = fault.elements
    return [
        SetValue(element=strap, field="input", value=choice),
        SetValue(element=strap, field="selected", value=[choice]),
    ]


def _whisker(plan: Plan, fault: Fault) -> list[Edit]:
    one, other = fault.elements
    value = {"id": "fault-whisker", "name": "Whisker", "kind": "link", "series_ohm": WHISKER_OHM[1]}
    return [Add(kind="supply", value={**value, "input": one, "output": other, "board": plan.rail_of[one].board})]


def _across(ohm: float) -> Callable[[Plan, Fault], list[Edit]]:
    def edits(plan: Plan, fault: Fault) -> list[Edit]:
        return [_resistor(plan, fault.elements, ohm)]

    return edits


def _resistor(plan: Plan, elements: tuple[str, ...], ohm: float) -> Add:
    """So many ohms from a rail, or from where a device is fed, to the ground beside it."""
    at = plan.elements[elements[-1] if elements[-1] in plan.rail_of or elements[-1] in plan.device_of else elements[0]]
    rail = at if isinstance(at, Rail) else plan.rail_of[at.feed.rail] if isinstance(at, Device) and at.feed else None
    if rail is None:
        raise EditError("It is fed from nothing.", where=elements[0], remedy="Feed it first.")
    ground = at.id if isinstance(at, Device) else plan.ground_of(rail.id)
    volts = rail.nominal_v or plan.pack.rest_v("nominal")
    draw = {"value": volts**2 / ohm, "unit": "W", "at_v": volts}
    value = {
        "id": "fault-short",
        "name": "Short",
        "law": "resistance",
        "nominal_v": volts,
        "min_v": 0.01,
        "max_v": 100,
        "draws": {"idle": draw, "typical": draw, "peak": draw},
        "feed": {"rail": rail.id, "wire": JOINED},
        "returns": [{"id": "fault-short-gnd", "to": ground, "wire": JOINED}],
    }
    return Add(kind="device", value=value)


EDITS: dict[FaultKind, Callable[[Plan, Fault], list[Edit]]] = {
    "open joint": _cut,
    "connector half in": _cut,
    "poor joint": _poor,
    "no ground": _no_ground,
    "wrong pad": _wrong_pad,
    "regulator open": lambda _, fault: [Remove(element=fault.elements[0])],
    "regulator shorted": _shorted_regulator,
    "regulator low": _low,
    "wrong strap": _strap,
    "whisker": _whisker,
    "short": _across(SHORT_POWERED_OHM),
    "device shorted": _across(DEAD_OHM[1]),
    "capacitor shorted": _across(DEAD_OHM[1]),
    "capacitor reversed": _across(LEAKS_OHM[0]),
    "capacitor forgotten": lambda _, fault: [SetValue(element=fault.elements[0], field="fitted", value=False)],
}
