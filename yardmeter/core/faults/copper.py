"""Solder where none belongs: a rail on its ground, a whisker between rails, a bridge that should be another."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from yardmeter.core.faults.across import across
from yardmeter.core.faults.effects import Case, Consequence, rail_v, raised, shorted
from yardmeter.core.faults.model import OPEN_OHM, SHORT_OHM, WHISKER_OHM, Bridge, Fault, Joint
from yardmeter.core.faults.record import FaultRecord, Place, enter
from yardmeter.core.network.keys import ground_node, rail_node
from yardmeter.core.plan import Plan, Strap
from yardmeter.core.plan.operations import Add, Edit, SetValue
from yardmeter.core.probing.passive import PassiveTable

SHORT_POWERED_OHM = 2 * SHORT_OHM[1]
"""Of a short that carries the amps of a pack: it warms; from memory."""


def _shorts(table: PassiveTable) -> Iterator[Place]:
    """Each rail with the ground of its board."""
    plan, node = table.plan, table.node
    for b, board in enumerate(plan.boards):
        ground = node[ground_node(board.id)]
        for r, rail in enumerate(one for one in plan.rails if one.board == board.id):
            bridge = Bridge(node[rail_node(rail.id)], ground, SHORT_OHM)
            yield Place((0, b, 0, r), f"short-{rail.id}-ground", (rail.id, board.id), (bridge,))


def _whiskers(table: PassiveTable) -> Iterator[Place]:
    """Neighbours on one board."""
    plan, node = table.plan, table.node
    for b, board in enumerate(plan.boards):
        here = [rail for rail in plan.rails if rail.board == board.id]
        for k, (one, other) in enumerate(combinations(here, 2)):
            bridge = Bridge(node[rail_node(one.id)], node[rail_node(other.id)], WHISKER_OHM)
            yield Place((0, b, 1, k), f"whisker-{one.id}-{other.id}", (one.id, other.id), (bridge,))


def _wrong_straps(table: PassiveTable) -> Iterator[Place]:
    plan, node = table.plan, table.node
    for s, strap in enumerate(plan.supplies):
        if not isinstance(strap, Strap):
            continue
        keys = [one.key for one in table.resistances if one.key and one.key.role == "link" and one.element == strap.id]
        cuts = tuple(Joint(key, OPEN_OHM) for key in keys)
        for c, choice in enumerate(strap.choices):
            if choice not in strap.selected:
                there = Bridge(node[rail_node(choice)], node[rail_node(strap.output)], SHORT_OHM)
                yield Place((2, s, c), f"wrong-strap-{strap.id}-{choice}", (strap.id, choice), (*cuts, there))


def _bridged(case: Case) -> Consequence:
    high, low = sorted(case.fault.elements, key=lambda one: -rail_v(case.solved, one))
    return raised(case, low, rail_v(case.solved, high))


def _restrapped(case: Case) -> Consequence:
    strap, choice = case.fault.elements
    return raised(case, case.plan.supply_of[strap].output, rail_v(case.solved, choice))


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


enter(FaultRecord("short", 2.0, 0.5, _shorts, across(SHORT_POWERED_OHM), shorted))
enter(FaultRecord("whisker", 1.0, 0.4, _whiskers, _whisker, _bridged))
enter(FaultRecord("wrong strap", 1.0, 0.5, _wrong_straps, _strap, _restrapped))
