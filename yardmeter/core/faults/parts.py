"""Parts that have failed or stand the wrong way round: regulators, capacitors, devices."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardmeter.core.faults.across import across
from yardmeter.core.faults.effects import Case, Consequence, harmless, input_v, raised, shorted
from yardmeter.core.faults.model import DEAD_OHM, LEAKS_OHM, Bridge, Fault, Gone
from yardmeter.core.faults.record import FaultRecord, Place, enter
from yardmeter.core.network.keys import ground_node, pin_node, rail_node
from yardmeter.core.plan import CapacitorFilter, FerriteFilter, LcFilter, Plan, Regulator
from yardmeter.core.plan.operations import Add, Edit, Remove, SetValue
from yardmeter.core.probing.passive import PassiveTable, Storage

BURSTS_V = 1.0
"""Volts the wrong way round that an electrolytic stands; more and it vents or bursts. From memory."""
LOW_FRAC = 0.8
"""Volts of a regulator that has failed low, over those it is set to; our choice."""


def _regulators(plan: Plan) -> Iterator[tuple[int, Regulator]]:
    for s, supply in enumerate(plan.supplies):
        if isinstance(supply, Regulator):
            yield s, supply


def _dead(table: PassiveTable) -> Iterator[Place]:
    for s, one in _regulators(table.plan):
        yield Place((2, s, 0), f"regulator-open-{one.id}", (one.id,), (Gone(one.id),))


def _through(table: PassiveTable) -> Iterator[Place]:
    node = table.node
    for s, one in _regulators(table.plan):
        source = node[rail_node(one.input)] if one.input in table.plan.rail_of else node[pin_node(one.input)]
        bridge = Bridge(source, node[rail_node(one.output)], DEAD_OHM)
        yield Place((2, s, 1), f"regulator-shorted-{one.id}", (one.id,), (bridge,))


def _low(table: PassiveTable) -> Iterator[Place]:
    for s, one in _regulators(table.plan):
        yield Place((2, s, 2), f"regulator-low-{one.id}", (one.id,), ())


def _capacitors(table: PassiveTable) -> Iterator[tuple[int, CapacitorFilter | LcFilter, Storage]]:
    own = {one.id: one for one in table.plan.filters if one.fitted and not isinstance(one, FerriteFilter)}
    for k, store in enumerate(table.storages):
        if store.element in own:
            yield k, own[store.element], store


def _shorted_ones(table: PassiveTable) -> Iterator[Place]:
    for k, one, store in _capacitors(table):
        bridge = Bridge(store.a, store.b, DEAD_OHM)
        yield Place((3, k, 0), f"capacitor-shorted-{one.id}", (one.id, one.at), (bridge,))


def _forgotten(table: PassiveTable) -> Iterator[Place]:
    for k, one, _ in _capacitors(table):
        yield Place((3, k, 1), f"capacitor-forgotten-{one.id}", (one.id, one.at), (Gone(one.id),))


def _reversed(table: PassiveTable) -> Iterator[Place]:
    for k, one, store in _capacitors(table):
        if one.dielectric in ("electrolytic", "polymer", "tantalum"):
            leak = Bridge(store.a, store.b, LEAKS_OHM)
            yield Place((3, k, 2), f"capacitor-reversed-{one.id}", (one.id, one.at), (leak,))


def _devices(table: PassiveTable) -> Iterator[Place]:
    for d, device in enumerate(table.plan.devices):
        ends = table.node[pin_node(device.id)], table.node[ground_node(device.id)]
        yield Place((4, d), f"device-shorted-{device.id}", (device.id,), (Bridge(*ends, DEAD_OHM),))


# What they do


def _hands_on(case: Case) -> Consequence:
    """A regulator that hands its input on: whatever hangs behind it, at any distance."""
    supply = case.plan.supply_of[case.fault.elements[0]]
    volts = input_v(case.solved, supply.input)
    return raised(case, supply.output, volts)


def _bursts(case: Case) -> Consequence:
    """It vents or bursts, whatever else the current through it does."""
    at = case.fault.elements[1]
    supply = case.plan.supply_of.get(at)
    ends = (supply.input, supply.output) if supply else (at,)
    volts = max(input_v(case.solved, one) for one in ends)
    leaks = shorted(case)
    bursts = volts > BURSTS_V
    return replace(leaks, dangerous=leaks.dangerous or bursts, volts_v=-volts if bursts else 0.0)


# With power on


def _taken_out(_: Plan, fault: Fault) -> list[Edit]:
    return [Remove(element=fault.elements[0])]


def _shorted_regulator(plan: Plan, fault: Fault) -> list[Edit]:
    supply = plan.supply_of[fault.elements[0]]
    wires = {
        name: wire.model_dump(mode="json") if wire else None
        for name, wire in (("feed", supply.feed), ("lead", supply.lead))
    }
    value = {"id": f"{supply.id[:50]}-shorted", "name": supply.name, "kind": "link", "series_ohm": DEAD_OHM[1]}
    ends = {"input": supply.input, "output": supply.output, "board": supply.board}
    return [Remove(element=supply.id), Add(kind="supply", value={**value, **ends, **wires})]


def _set_low(plan: Plan, fault: Fault) -> list[Edit]:
    supply = plan.supply_of[fault.elements[0]]
    volts = supply.set_v * LOW_FRAC if isinstance(supply, Regulator) else 0.0
    return [SetValue(element=supply.id, field="set_v", value=volts)]


def _not_fitted(_: Plan, fault: Fault) -> list[Edit]:
    return [SetValue(element=fault.elements[0], field="fitted", value=False)]


enter(FaultRecord("regulator open", 0.3, 0.0, _dead, _taken_out, harmless))
enter(FaultRecord("regulator shorted", 0.1, 0.0, _through, _shorted_regulator, _hands_on))
enter(FaultRecord("regulator low", 0.2, 0.0, _low, _set_low, harmless))
enter(FaultRecord("capacitor shorted", 0.1, 0.0, _shorted_ones, across(DEAD_OHM[1]), shorted))
enter(FaultRecord("capacitor forgotten", 1.0, 0.8, _forgotten, _not_fitted, harmless))
enter(FaultRecord("capacitor reversed", 0.5, 0.7, _reversed, across(LEAKS_OHM[0]), _bursts))
enter(FaultRecord("device shorted", 0.2, 0.0, _devices, across(DEAD_OHM[1]), shorted))
