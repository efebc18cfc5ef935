"""Regulators and cells a fix proposes, exchanged for parts of the shelf: what is offered can be taken from the drawer."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from yardmeter.core.checks.load import Overload
from yardmeter.core.edits.placing import place_part
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.parts import Part
from yardmeter.core.parts.own_cell import may_be_its_own, own_cell
from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.plan.operations import Add, Edit, Move
from yardmeter.core.plan.sources import Inlet
from yardmeter.core.verdict import Fix, Verdict

TRIED = 2
"""How many of the lightest that suffice are tried."""


def from_shelf(plan: Plan, verdicts: Sequence[Verdict], parts: Sequence[Part]) -> tuple[Verdict, ...]:
    """The verdicts with the lightest parts that suffice in the place of each proposed regulator, before the generic one."""
    return tuple(replace(one, fixes=(*_fixes(plan, one.fixes, parts), *_packs(plan, one, parts))) for one in verdicts)


def _fixes(plan: Plan, fixes: tuple[Fix, ...], parts: Sequence[Part]) -> tuple[Fix, ...]:
    found: list[Fix] = []
    for fix in fixes:
        real = (
            list(_with_parts(plan, fix, parts))
            if fix.kind in ("own regulator", "feed it")
            else list(_cells(plan, fix, parts))
            if fix.kind == "own cell"
            else []
        )
        found += real or ([] if fix.kind == "own cell" and any(map(may_be_its_own, parts)) else [fix])
    return tuple(found)


def _with_parts(plan: Plan, fix: Fix, parts: Sequence[Part]) -> list[Fix]:
    wanted = next(Regulator.model_validate(e.value) for e in fix.edits if isinstance(e, Add) and e.kind == "supply")
    moves = [e for e in fix.edits if isinstance(e, Move)]
    devices = [plan.device_of[one.device] for one in moves]
    into = wanted.output if wanted.output in plan.rail_of else None
    most_v = plan.rail_of[wanted.input].nominal_v or plan.pack.rest_v("full")

    def suits(part: Part) -> bool:
        return (
            part.bec is not None
            and part.bec.rating_a >= wanted.rating_a
            and part.bec.input_max_v >= most_v
            and all(d.lives_between(part.bec.set_v, part.bec.set_v) for d in devices)
            and _like(part.bec, wanted, most_v)
            and (into is None or abs(part.bec.set_v - wanted.set_v) <= part.bec.set_tol_frac * wanted.set_v)
        )

    made = []
    for part in sorted(filter(suits, parts), key=lambda one: (one.weight_g, one.key))[:TRIED]:
        adds = place_part(plan, part, wanted.input, into=into)
        if into:
            made.append(Fix(fix.kind, adds))
            continue
        rail = next(str(e.value["id"]) for e in adds if isinstance(e, Add) and e.kind == "rail")
        edits: tuple[Edit, ...] = (*adds, *(one.model_copy(update={"rail": rail}) for one in moves))
        made.append(Fix("own regulator", edits))
    return made


def _packs(plan: Plan, verdict: Verdict, parts: Sequence[Part]) -> Iterator[Fix]:
    """The lightest packs of as many cells of the same kind that give what is asked of one that does not; with the stouter lead that
    is needed beside it where that is what gives least."""
    facts, own, asked_a = verdict.facts, plan.pack, verdict.compared.observed
    if not isinstance(facts, Overload) or verdict.elements[0] != own.rail or not exceeds(asked_a, own.limit_a):
        return
    lead: tuple[Edit, ...] = ()
    if facts.limit.kind != "pack":
        lead = next((fix.edits for fix in verdict.fixes if fix.kind in ("gauge", "connector")), ())
    larger = [
        p
        for p in parts
        if p.pack
        and (p.pack.series, p.pack.chemistry) == (own.series, own.chemistry)
        and not exceeds(asked_a, p.pack.limit_a)
    ]
    for part in sorted(larger, key=lambda one: (one.weight_g, one.key))[:TRIED]:
        yield Fix("larger pack", (*place_part(plan, part), *lead))


def _cells(plan: Plan, fix: Fix, parts: Sequence[Part]) -> Iterator[Fix]:
    """The lightest packs of as many cells, whose cells the device lives with."""
    wanted = next(Inlet.model_validate(e.value).cells for e in fix.edits if isinstance(e, Add) and e.kind == "inlet")
    device = plan.device_of[next(e.device for e in fix.edits if isinstance(e, Move))]
    small = [p for p in parts if may_be_its_own(p) and p.pack and wanted and p.pack.series == wanted.series]
    for part in sorted(small, key=lambda one: (one.weight_g, one.key))[:TRIED]:
        if part.pack and device.max_v >= part.pack.rest_v("full"):
            yield Fix(fix.kind, own_cell(plan, device, part))


def _like(part: Regulator, wanted: Regulator, most_v: float) -> bool:
    """Whether a part does what is wanted: one that steps up and down does for either, one that only steps up where the input
    never has more than it is set to."""
    if part.kind == "boost":
        return wanted.kind == "buckboost" and most_v <= part.set_v
    return part.kind == wanted.kind or (part.kind == "buckboost" and wanted.kind == "buck")
