"""A choice made into a plan: what is bought fitted, devices moved with their grounds, wires sized, the rest mended by tried fixes."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.noise_case import noise_case
from yardmeter.core.checks.relief import STAYS, feed_fixes
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.gauging import fitted_wires
from yardmeter.core.edits.placing import place_part
from yardmeter.core.errors import YardError
from yardmeter.core.fixes.vetting import cures
from yardmeter.core.layouts.candidates import Bought, Field
from yardmeter.core.layouts.program import Chosen, Cut
from yardmeter.core.layouts.schools import Grounded, grounded
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.parts.own_cell import listener, place_cell
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Device, Plan, Regulator
from yardmeter.core.plan.operations import Add, Edit, Move, SetState, SetValue
from yardmeter.core.verdict import Fix, FixKind, Verdict

MOVING: frozenset[FixKind] = frozenset(("move", "own regulator", "own cell", "larger pack", "larger", "split motors"))
"""What the program decides itself, or a builder: no fix of a layout."""
HEAVY = ("danger", "fault")
MOST_FIXES = 12
TINY_G = 1e-6
REGULATES = ("linear", "buck", "boost", "buckboost")
WithParts = Callable[[Plan, Sequence[Verdict]], Sequence[Verdict]]


@dataclass(frozen=True)
class Mended:
    """A fix that was made, with the verdict it cures and the plan it was made in."""

    verdict: Verdict
    fix: Fix
    plan: Plan


@dataclass(frozen=True)
class Made:
    """A layout as a plan, solved and judged. `left` are dangers and faults it still has; `rail_of` the rail of each thing bought."""

    plan: Plan
    solved: SolvedPlan
    edits: tuple[Edit, ...]
    chosen: Chosen
    mended: tuple[Mended, ...]
    left: tuple[Verdict, ...]
    rail_of: dict[str, str] = field(default_factory=dict)
    grounded: tuple[Grounded, ...] = ()


def heavy(solved: SolvedPlan) -> tuple[Verdict, ...]:
    """Dangers and faults of a plan, of its currents and of its noise."""
    found = (*run_rules(solved), *run_rules(noise_case(solved.solved), sees="noise"))
    return tuple(one for one in found if one.severity in HEAVY)


def weight_g(plan: Plan) -> float:
    """Boards, devices, regulators and filters [g]."""
    fitted = [one.weight_g * one.count for one in plan.filters if one.fitted]
    return sum(one.weight_g for one in (*plan.boards, *plan.devices, *plan.supplies)) + sum(fitted)


FED = ("load", "window", "headroom", "heat", "source")
"""Families of findings that a choice of places may settle by itself."""


def fed(verdict: Verdict) -> bool:
    """Whether it is of a family that goes by who is fed from where."""
    return verdict.code.split(".")[0] in FED


def mend(
    solved: SolvedPlan,
    wishes: Wishes,
    with_parts: WithParts | None = None,
    *,
    before: bool = False,
    stuck: frozenset[str] = frozenset(),
    today: Plan | None = None,
) -> tuple[SolvedPlan, tuple[Mended, ...]]:
    """The plan with what is wrong apart from who is fed where: pads, wires, grounds, signals, parts for too few volts. `before` a
    choice is made only what no choice settles; `stuck` are keys of verdicts that nothing cured then; grams count from `today`, the plan itself where none is given."""
    done: list[Mended] = []
    most_g = weight_g(today or solved.plan) + (wishes.max_g if wishes.max_g is not None else math.inf)
    refused: set[str] = set()
    for _ in range(MOST_FIXES):
        go_on()
        verdicts = heavy(solved)
        own = tuple(
            one
            for one in verdicts
            if one.key not in stuck and not (before and fed(one) and not _starved_board(solved.plan, one))
        )
        proposed = with_parts(solved.plan, own) if with_parts else own
        step = next(_tried(solved, verdicts, proposed, wishes, refused, most_g), None)
        if step is None:
            break
        solved, mended = step
        done.append(mended)
    return solved, tuple(done)


def _starved_board(plan: Plan, verdict: Verdict) -> bool:
    """Whether what has no source stays where it is: a source for its rail comes before anybody's choice to go there as well."""
    device = plan.device_of.get(verdict.elements[0])
    return verdict.code == "source.none" and device is not None and device.kind in STAYS


def _tried(
    solved: SolvedPlan, verdicts: Sequence[Verdict], proposed: Sequence[Verdict], wishes: Wishes, refused: set[str], most_g: float,
) -> Iterator[tuple[SolvedPlan, Mended]]:  # fmt: skip
    known = {one.key: one for one in verdicts}
    for verdict in proposed:
        for fix in (*verdict.fixes, *_refed(solved, verdict)):
            key = repr(fix)
            if fix.kind in MOVING or key in refused or not _allowed(fix, wishes):
                continue
            refused.add(key)  # tried once is enough, whatever comes of it
            try:
                after = solve_plan(apply_edits(solved.plan, fix.edits), solved)
                left = heavy(after)
            except YardError:
                continue
            if cures(verdict, known, left) and weight_g(after.plan) <= most_g + TINY_G:
                yield after, Mended(verdict, fix, solved.plan)


def _refed(solved: SolvedPlan, verdict: Verdict) -> Iterator[Fix]:
    """A regulator of a board that has too few volts, fed from another rail: who hangs on it has no choice of its own."""
    supply = solved.plan.supply_of.get(verdict.elements[0])
    if isinstance(supply, Regulator) and verdict.code.startswith("headroom."):
        yield from feed_fixes(solved, supply)


def _allowed(fix: Fix, wishes: Wishes) -> bool:
    """Whether it buys nothing that may not be bought, touches nothing that is held and says nothing for the builder."""
    if not wishes.states and any(isinstance(edit, SetState) for edit in fix.edits):
        return False
    bought = {edit.kind for edit in fix.edits if isinstance(edit, Add)}
    if "bec" not in wishes.buy and any(isinstance(e, Add) and e.value.get("kind") in REGULATES for e in fix.edits):
        return False
    if "filter" in bought and not {"capacitor", "filter"} & set(wishes.buy):
        return False
    touched = {getattr(edit, name) for edit in fix.edits for name in ("element", "device") if hasattr(edit, name)}
    return not touched & wishes.held


def _fitted(plan: Plan, one: Bought, whose: Sequence[Device]) -> tuple[Edit, ...]:
    if one.cells:
        return place_cell(plan, one.part, beside=listener(plan, whose[0]) if whose else None)
    adds = place_part(plan, one.part)
    if one.as_it_comes:
        return adds
    regulator = next(str(e.value["id"]) for e in adds if isinstance(e, Add) and e.kind == "supply")
    return (*adds, SetValue(element=regulator, field="set_v", value=one.set_v))


def make(
    of: Field, chosen: Chosen, wishes: Wishes, with_parts: WithParts | None = None, mended: Sequence[Mended] = (), *, mends: bool = True,
    stuck: frozenset[str] = frozenset(),
) -> Made:  # fmt: skip
    """The choice as a plan. Raises EditError where it cannot be made."""
    plan = of.case.plan
    edits: list[Edit] = []
    rail_of: dict[str, str] = {}
    for one in of.bought:
        if one.key not in set(chosen.at.values()):
            continue
        adds = _fitted(plan, one, [plan.device_of[d] for d, rail in chosen.at.items() if rail == one.key])
        plan = apply_edits(plan, adds)
        edits += adds
        rail_of[one.key] = next(str(e.value["id"]) for e in adds if isinstance(e, Add) and e.kind == "rail")
    moves: list[Edit] = []
    for device, rail in chosen.at.items():
        feed = of.case.plan.device_of[device].feed
        to = rail_of.get(rail, rail)
        if feed is None or feed.rail != to:
            moves.append(Move(device=device, rail=to))
    plan = apply_edits(plan, moves)
    edits += moves
    gauged = fitted_wires(plan, of.case.plan)
    plan = apply_edits(plan, gauged)
    edits += gauged
    laid: tuple[Grounded, ...] = ()
    again: tuple[Grounded, ...] = ()
    more: tuple[Mended, ...] = ()
    if mends:
        plan, laid = grounded(plan, wishes)
    solved = solve_plan(plan)
    if mends:
        today = mended[0].plan if mended else of.case.plan
        solved, more = mend(solved, wishes, with_parts, stuck=stuck, today=today)
        kept, again = grounded(solved.plan, wishes)
        if again:  # what was mended gives way to a school that is held to; what comes of that is judged
            solved = solve_plan(kept)
    edits += [edit for one in laid for edit in one.edits]
    edits += [edit for step in more for edit in step.fix.edits]
    edits += [edit for one in again for edit in one.edits]
    return Made(solved.plan, solved, tuple(edits), chosen, (*mended, *more), heavy(solved), rail_of, (*laid, *again))


def cut_for(made: Made) -> Cut:
    """What is not tried again because of what is left: a device at its place, those on a rail together, or the whole."""
    plan, at = made.plan, made.chosen.at
    back = {rail: key for key, rail in made.rail_of.items()}
    for verdict in made.left:
        if verdict.code.split(".")[0] in ("noise", "ground"):  # pictures and signals go by both their ends
            ends = frozenset((one, at[one]) for one in verdict.elements if one in at)
            if ends:
                return Cut(ends, verdict.code)
        first = verdict.elements[0]
        if first in at and verdict.code.split(".")[0] in ("window", "source", "headroom"):
            return Cut(frozenset({(first, at[first])}), verdict.code)
        rail = first if first in plan.rail_of else plan.supply_of[first].output if first in plan.supply_of else None
        if rail is not None and verdict.code.split(".")[0] in ("load", "heat", "headroom"):
            key = back.get(rail, rail)
            here = frozenset((d, r) for d, r in at.items() if r == key)
            if here:
                return Cut(here, verdict.code)
    return Cut(frozenset(at.items()), made.left[0].code if made.left else "")
