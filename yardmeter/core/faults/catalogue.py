"""Every fault this build can have, from its own rails, wires, straps, regulators, capacitors and devices."""

from __future__ import annotations

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.faults import copper, parts, wires  # noqa: F401 - each enters its kinds
from yardmeter.core.faults.effects import Case, Consequence
from yardmeter.core.faults.model import Fault
from yardmeter.core.faults.record import RECORDS, complete
from yardmeter.core.plan import Plan
from yardmeter.core.plan.policies import FaultKind
from yardmeter.core.probing.passive import PassiveTable

complete()
WEIGHT: dict[FaultKind, float] = {kind: one.weight for kind, one in RECORDS.items()}


def every_fault(table: PassiveTable) -> tuple[Fault, ...]:
    """All faults in the order in which one comes to them, each with its weight; the plan's policy may say otherwise than
    common practice."""
    chosen = {**WEIGHT, **table.plan.policy.fault_weights}
    places = sorted(((one, kind) for kind, record in RECORDS.items() for one in record.places(table)), key=lambda p: p[0].walk)  # fmt: skip
    return tuple(Fault(one.id, kind, one.elements, chosen[kind], one.overlays) for one, kind in places)


def find_fault(table: PassiveTable, name: str) -> Fault:
    """The fault of that id; raises UnknownElementError."""
    for one in every_fault(table):
        if one.id == name:
            return one
    raise UnknownElementError(
        f"This build has no fault “{name}”.", where=name, remedy="List its faults and name one by its id."
    )


def consequence(table: PassiveTable, solved: SolvedPlan, fault: Fault) -> Consequence:
    """Under a full pack, straight on, nothing limiting but the build's own regulators and copper."""
    return RECORDS[fault.kind].consequence(Case(table, solved, fault))


def powered_twin(plan: Plan, fault: Fault) -> Plan:
    """The plan as it would be with the fault in it. Raises EditError for what power destroys before anything can be read."""
    made = RECORDS[fault.kind].powered
    if made is None:
        raise EditError(
            f"With {fault.kind} nothing can be read under power: what is connected is destroyed.",
            where=fault.id,
            remedy="Find it with the meter before the pack is plugged in.",
        )
    return apply_edits(plan, made(plan, fault))


def seen_frac(kind: FaultKind) -> float:
    """Share of a kind that a careful look finds."""
    return RECORDS[kind].seen_frac
