"""How far volts that do not belong on a rail go: at any distance, through whatever passes them on."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

from yardmeter.core.plan import Diode, Link, Plan, Regulator, Strap, Supply

BODY_V = 0.5
"""Lost in a junction."""
LEAST_V = 0.05
"""Volts by which a rail has to rise to count."""


@dataclass
class Reach:
    """Volts each rail and each device's pins come to, and supplies that stand over what they may have at their input."""

    rails_v: dict[str, float] = field(default_factory=dict)
    pins_v: dict[str, float] = field(default_factory=dict)
    burnt: set[str] = field(default_factory=set)


def reach(plan: Plan, starts: Mapping[str, float], usual_v: Callable[[str], float]) -> Reach:
    """Rails raised from `starts` (a rail, or a device whose wire is on another rail) on; `usual_v` is what a rail has else.

    Wires and straps hand volts on both ways, diodes forward, a regulator that still regulates hands none on; one over its
    input's limit may fail short, and a step-down or linear one lets its output back through its body diode.
    """
    found = Reach()
    todo: list[tuple[str, float]] = []
    for name, volts in starts.items():
        todo += [(name, volts)] if name in plan.rail_of else _passed_on(plan, name, volts, found)
    while todo:
        rail, volts = todo.pop()
        if volts <= found.rails_v.get(rail, usual_v(rail)) + LEAST_V:
            continue
        found.rails_v[rail] = volts
        for device in plan.devices_on(rail):
            todo += _passed_on(plan, device.id, volts, found)
        todo += _onward(plan, rail, volts, found)
    return found


def _passed_on(plan: Plan, device: str, volts: float, found: Reach) -> list[tuple[str, float]]:
    """A device at these volts, and the rails it feeds."""
    found.pins_v[device] = max(volts, found.pins_v.get(device, 0.0))
    return [one for supply in plan.supplies_from(device) for one in _forward(supply, volts, found)]


def _onward(plan: Plan, rail: str, volts: float, found: Reach) -> Iterator[tuple[str, float]]:
    for supply in plan.supplies_from(rail):
        yield from _forward(supply, volts, found)
        if isinstance(supply, Link | Strap):
            yield from ((one, volts) for one in plan.inputs_of(supply) if one in plan.rail_of and one != rail)
    for supply in plan.supplies_into(rail):
        back = isinstance(supply, Link | Strap) or (isinstance(supply, Regulator) and supply.kind != "boost")
        drop = BODY_V if isinstance(supply, Regulator) else 0.0
        if back:
            yield from ((one, volts - drop) for one in plan.inputs_of(supply) if one in plan.rail_of)


def _forward(supply: Supply, volts: float, found: Reach) -> Iterator[tuple[str, float]]:
    """What comes out of a supply that is given so many volts, where that is more than it should be."""
    match supply:
        case Link() | Strap():
            yield supply.output, volts
        case Diode():
            yield supply.output, volts - supply.drop_v
        case Regulator():
            if volts > supply.input_max_v:
                found.burnt.add(supply.id)
                if supply.fails == "short":
                    yield supply.output, volts
            elif supply.kind == "boost" and volts - BODY_V > supply.set_v:
                yield supply.output, volts - BODY_V


def lost_devices(plan: Plan, found: Reach) -> tuple[str, ...]:
    """Devices over what they may have, in the order of the plan."""
    return tuple(one.id for one in plan.devices if one.at_volts(found.pins_v.get(one.id, 0.0)) == "high")
