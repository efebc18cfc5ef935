"""Layouts as a screen shows them: a row of numbers each, and for each what to do in the order of soldering, why, and what else."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.fixes import from_shelf
from yardmeter.core.fixes.filters import with_filters
from yardmeter.core.layouts.candidates import Field
from yardmeter.core.layouts.made import WithParts
from yardmeter.core.layouts.search import Alternative, Layout, Layouts, Numbers, next_best
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.core.units import format_si
from yardmeter.review.sketch import SketchRail, sketch_rails
from yardmeter.words.layouts import (
    SCHOOL_WORDS,
    dip_words,
    grounds_words,
    impossible_words,
    instead_words,
    names,
    place_name,
    why_moved,
)
from yardmeter.words.told import tell, tell_fixes

Doing = Literal["add", "move", "change"]


class LayoutLine(Answer):
    """One thing to do. `rail` is where a device goes, as it is turned down; `owned` says that the part need not be bought."""

    do: Doing
    element: str
    title: str
    why: str
    next_best: str
    devices: tuple[str, ...]
    place: str
    owned: bool


class NumbersSeen(Answer):
    parts_added: int
    grams: float
    wires: int
    least_spare_a: float
    spare_at: str
    hottest_c: float
    hottest: str
    picture_db: float | None
    reset_chance: float
    failure: str
    """What the worst failure of one regulator takes down."""
    control_lost: bool
    heavy: int
    """Dangers and faults."""
    dip: str
    """What the plug and a punch bring nearest to a reset, in words."""
    dip_room_frac: float | None
    """How much more than its reset volts it has at the worst."""


class LayoutSeen(Answer):
    best_at: tuple[str, ...]
    numbers: NumbersSeen
    rails: tuple[SketchRail, ...]
    lines: tuple[LayoutLine, ...]
    stays: int
    edits: tuple[Edit, ...]


class ImpossibleSeen(Answer):
    devices: tuple[str, ...]
    why: str
    least_change: str


class LayoutsSeen(Answer):
    today: NumbersSeen
    rails: tuple[SketchRail, ...]
    layouts: tuple[LayoutSeen, ...]
    impossible: tuple[ImpossibleSeen, ...]
    tried: int
    cut: int


class AlternativeSeen(Answer):
    title: str
    here: bool
    numbers: NumbersSeen
    against: tuple[str, ...]
    edits: tuple[Edit, ...]


def with_shelf(parts: Sequence[Part]) -> WithParts:
    """Fixes with parts of the shelf in them: regulators, capacitors, filters."""
    return lambda plan, verdicts: with_filters(plan, from_shelf(plan, tuple(verdicts), parts), parts)


def layouts_seen(plan: Plan, found: Layouts, wishes: Wishes, parts: Sequence[Part]) -> LayoutsSeen:
    """All that was found, in words."""
    today = solve_plan(plan)
    return LayoutsSeen(
        today=_numbers(plan, found.today),
        rails=sketch_rails(today),
        layouts=tuple(_layout(today, found, one, wishes) for one in found.layouts),
        impossible=tuple(_impossible(found, parts)),
        tried=found.tried,
        cut=len(found.cuts),
    )


def _impossible(found: Layouts, parts: Sequence[Part]) -> Iterator[ImpossibleSeen]:
    for one in found.impossible:
        why, least = impossible_words(found.of, one, parts)
        yield ImpossibleSeen(devices=one.devices, why=why, least_change=least)


def _numbers(plan: Plan, one: Numbers) -> NumbersSeen:
    return NumbersSeen(
        parts_added=one.parts_added, grams=one.grams, wires=one.wires, least_spare_a=one.least_spare_a,
        spare_at=plan.title(one.spare_at) if one.spare_at else "", hottest_c=one.hottest_c, hottest=plan.title(one.hottest) if one.hottest else "",
        picture_db=one.picture_db, reset_chance=one.reset_chance, control_lost=one.control_lost, heavy=one.heavy,
        dip=dip_words(plan, one.dip), dip_room_frac=one.dip.room_frac if one.dip else None,
        failure=f"{names(plan, one.failure_lost) if len(one.failure_lost) < 3 else f'{len(one.failure_lost)} devices'} lost" if one.failure_lost else "nothing lost",
    )  # fmt: skip


def _layout(today: SolvedPlan, found: Layouts, one: Layout, wishes: Wishes) -> LayoutSeen:
    lines = tuple(_lines(today, found, one, wishes))
    moved = {d for line in lines if line.do == "move" for d in line.devices}
    return LayoutSeen(
        best_at=one.best_at, numbers=_numbers(one.plan, one.numbers), rails=sketch_rails(one.made.solved), lines=lines,
        stays=len(found.of.movable) - len(moved), edits=one.edits,
    )  # fmt: skip


def _lines(today: SolvedPlan, found: Layouts, one: Layout, wishes: Wishes) -> Iterator[LayoutLine]:
    """What is bought, then who moves to it and elsewhere, then what is mended: each before what hangs on it."""
    of, chosen = found.of, one.made.chosen
    for bought in of.bought:
        here = [d for d, rail in chosen.at.items() if rail == bought.key]
        if not here:
            continue
        rail = one.made.rail_of[bought.key]
        states = [one.made.solved.rail(rail).states[c.id] for c in one.made.solved.pack_conditions()]
        fullest = max(states, key=lambda s: s.asked_a / max(s.usable_a, 1e-9))
        yield LayoutLine(
            do="add", element=rail, title=f"{bought.part.name} of its own, for {names(of.case.plan, here)}" if bought.cells else f"{bought.part.name} on the pack", devices=tuple(here), place=bought.part.key,
            why=f"{bought.part.weight_g:g} g; {format_si(fullest.asked_a, 'A')} of {format_si(fullest.usable_a, 'A')} usable for {names(of.case.plan, here)}",
            next_best=instead_words(of, next_best(found, one, here)), owned=wishes.owned.get(bought.part.key, 0) > bought.copy,
        )  # fmt: skip
    for device, rail in chosen.at.items():
        feed = of.case.plan.device_of[device].feed
        if feed is not None and feed.rail == rail:
            continue
        place = next(p for p in of.places if (p.device, p.rail) == (device, rail))
        yield LayoutLine(
            do="move", element=device, title=f"{today.plan.title(device)} → {place_name(of, rail)}", devices=(device,),
            place=place.bought.part.key if place.bought else rail,
            why=why_moved(today, today.plan.device_of[device], max(place.amps_a.values(), default=0.0)),
            next_best=instead_words(of, next_best(found, one, [device])), owned=False,
        )  # fmt: skip
    for laid in one.made.grounded:
        yield LayoutLine(
            do="change", element=laid.to or of.case.plan.pack.rail, title=grounds_words(one.made.plan, laid.school, laid.way, laid.to), devices=(),
            place="", why=SCHOOL_WORDS[laid.school][1], next_best="–", owned=False,
        )  # fmt: skip
    for step in one.made.mended:
        yield LayoutLine(
            do="change", element=step.verdict.elements[0], title=tell_fixes(step.plan, (step.fix,))[0].title, devices=(), place="",
            why=tell(step.plan, step.verdict).title, next_best="–", owned=False,
        )  # fmt: skip


def alternatives_seen(plan: Plan, device: str, of: Field, found: Sequence[Alternative]) -> tuple[AlternativeSeen, ...]:
    """Places of one device side by side."""
    feed = plan.device_of[device].feed
    return tuple(
        AlternativeSeen(
            title=place_name(of, one.place).removeprefix("a "), here=feed is not None and feed.rail == one.rail, numbers=_numbers(one.made.plan, one.numbers),
            against=tuple(tell(one.made.plan, v).title for v in one.left[:3]), edits=one.made.edits,
        )
        for one in found
    )  # fmt: skip
