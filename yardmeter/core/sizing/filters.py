"""Parts of the shelf against noise, each tried on the plan: what it takes off, what it costs in drop, weight and peak."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from yardmeter.core.answers.conditions import Solved, solve_conditions, solved_like
from yardmeter.core.answers.filtering import FilterAnswer, filter_answers
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise_solutions import NoiseSolution, noise_solutions
from yardmeter.core.answers.pictures import videos_of
from yardmeter.core.errors import EditError
from yardmeter.core.parts import CoilPart, Part
from yardmeter.core.patience import go_on
from yardmeter.core.physics.capacitors import VOLTAGE_CLASS_FRAC
from yardmeter.core.physics.filters import SHEET_RISE_K, damping_ohm, wanted_corner_hz
from yardmeter.core.physics.preferred import next_up
from yardmeter.core.plan import CapacitorFilter, FerriteFilter, Filter, LcFilter, Plan, Regulator, fresh_id
from yardmeter.core.plan.operations import Add, Edit

DAMPING_RATIO = 4.0
"""Damping capacitor over the filter's own; common practice, no source."""
COUNTS = (1, 2)
LOCAL_LEAD_M = 0.002
"""Of a ceramic soldered to the pins [m]; our choice."""
Purpose = Literal["bulk", "feed", "local"]


class FilterTrial(Answer):
    """One part at one place: the edit that fits it, what it changes, and why it is refused."""

    key: str
    title: str
    edits: tuple[Edit, ...]
    with_v: float
    without_v: float
    worst_picture_db: float | None
    gain_db: float
    peak_db: float
    drop_v: float
    weight_g: float
    parts: int
    refused: str = ""
    enough: bool = True
    """Whether it takes off what was asked for."""
    best: bool = False


class Section(Answer):
    """A coil with the capacitance it needs beside it."""

    henry: float
    farad: float


class Trials(Answer):
    """Parts tried at one place against its loudest line; for a feed, also what an ideal section would have to be."""

    loudest: str
    loudest_hz: float
    corner_hz: float | None
    sections: tuple[Section, ...]
    trials: tuple[FilterTrial, ...]


def try_filters(
    plan: Plan,
    at: str,
    purpose: Purpose,
    parts: Sequence[Part],
    *,
    lead_m: float = 0.01,
    wanted_db: float | None = None,
) -> Trials:
    """Every part of the shelf that suits the place: most taken off first, or, with `wanted_db`, the lightest that is enough.

    `bulk`: capacitors at a rail; `feed`: LC sections and ferrites in a device's feed; `local`: ceramics at a device.
    Refused ones stand last. Raises EditError for a place that does not suit.
    """
    _suits(plan, at, purpose)
    solved = solve_conditions(plan)
    tried = [_try(solved, one) for one in _candidates(plan, at, purpose, parts, lead_m)]
    trials = [t.model_copy(update={"enough": wanted_db is None or t.gain_db >= wanted_db}) for t, _ in tried]

    def rank(t: FilterTrial) -> tuple[object, ...]:
        lightest_first = wanted_db is not None and t.enough
        return (bool(t.refused), not t.enough, t.weight_g if lightest_first else t.with_v, t.parts, t.weight_g)

    ranked = sorted(trials, key=rank)
    first = next((k for k, t in enumerate(ranked) if not t.refused and t.gain_db > 0), None)
    hz = tried[0][1].loudest_hz if tried else 0.0
    corner = wanted_corner_hz(hz, wanted_db) if purpose == "feed" and wanted_db and hz else None
    coils = sorted({p.filter.henry for p in parts if isinstance(p.filter, CoilPart)}) if corner else []
    return Trials(
        loudest=tried[0][1].loudest if tried else "",
        loudest_hz=hz,
        corner_hz=corner,
        sections=tuple(Section(henry=h, farad=1 / ((2 * math.pi * corner) ** 2 * h)) for h in coils if corner),
        trials=tuple(t.model_copy(update={"best": k == first}) for k, t in enumerate(ranked)),
    )


def _suits(plan: Plan, at: str, purpose: Purpose) -> None:
    """Raises EditError for a place where such a part has nothing to stand on."""
    device, supply = plan.device_of.get(at), plan.supply_of.get(at)
    wired = (device is not None and device.feed is not None) or (
        isinstance(supply, Regulator) and supply.feed is not None
    )
    fits = {"bulk": at in plan.rail_of, "feed": wired, "local": device is not None}[purpose]
    if not fits:
        wanted = {"bulk": "a rail", "feed": "a device or regulator with a feed wire", "local": "a device"}[purpose]
        raise EditError(f"{plan.title(at)} is no place for it.", where=at, remedy=f"Choose {wanted}.")


@dataclass(frozen=True)
class _Candidate:
    """A filter of the plan made from a shelf part, and how many parts it takes."""

    filter: Filter
    part: Part
    title: str
    parts: int = 1


def _candidates(plan: Plan, at: str, purpose: Purpose, parts: Sequence[Part], lead_m: float) -> Iterator[_Candidate]:
    for part in parts:
        go_on()
        name = fresh_id(plan, f"{part.key}-{at}")
        if (
            part.capacitor
            and (part.capacitor.dielectric == "electrolytic") == (purpose == "bulk")
            and purpose != "feed"
        ):
            legs = lead_m if purpose == "bulk" else LOCAL_LEAD_M
            for count in COUNTS if purpose == "bulk" else (1,):
                one = CapacitorFilter(
                    kind="capacitor",
                    id=name,
                    at=at,
                    count=count,
                    **_own(part),
                    **{**part.capacitor.model_dump(), "lead_m": legs},
                )
                yield _Candidate(one, part, f"{count} × {part.name}" if count > 1 else part.name, count)
        elif purpose == "feed" and isinstance(part.filter, CoilPart):
            plain = LcFilter(id=name, at=at, **_own(part), **part.filter.model_dump())
            yield _Candidate(plain, part, part.name)
            yield _Candidate(damped(plain), part, f"{part.name}, damped", 3)
        elif purpose == "feed" and part.filter:
            yield _Candidate(FerriteFilter(id=name, at=at, **_own(part), **part.filter.model_dump()), part, part.name)


def _own(part: Part) -> dict[str, Any]:
    """What a filter takes from its part whatever it is."""
    return {"name": part.name, "part": part.key, "weight_g": part.weight_g}


def damped(one: LcFilter) -> LcFilter:
    """The section with the best parallel branch (Erickson & Maksimović), its resistor rounded up to E12."""
    farad = DAMPING_RATIO * one.farad
    ohm = next_up(damping_ohm(one.henry, one.farad, DAMPING_RATIO), 12)
    return one.model_copy(update={"damping_ohm": ohm, "damping_farad": farad})


def _try(before: Solved, candidate: _Candidate) -> tuple[FilterTrial, FilterAnswer]:
    one = candidate.filter
    edit = Add(kind="filter", value=one.model_dump(mode="json"))
    made = before.plan.model_copy(update={"filters": (*before.plan.filters, one)})
    solved = solved_like(made, before) or solve_conditions(made)
    solutions = noise_solutions(solved)
    answer = next(a for a in filter_answers(solved, solutions) if a.filter == one.id)
    trial = FilterTrial(
        key=candidate.part.key,
        title=candidate.title,
        edits=(edit,),
        with_v=answer.with_v,
        without_v=answer.without_v,
        worst_picture_db=_picture_db(made, solutions),
        gain_db=answer.loudest_db,
        peak_db=answer.peak_db,
        drop_v=answer.drop_v,
        weight_g=one.weight_g * candidate.parts,
        parts=candidate.parts,
        refused=_refusal(one, answer),
    )
    return trial, answer


def _picture_db(plan: Plan, solutions: list[NoiseSolution]) -> float | None:
    levels = [level for video in videos_of(plan, solutions)[0] for level in video.level_db.values()]
    return max(levels, default=None)


def _refusal(one: Filter, answer: FilterAnswer) -> str:
    if not isinstance(one, FerriteFilter) and answer.allowed_v is not None and answer.bias_v > answer.allowed_v:
        return f"{answer.bias_v:.1f} V on a part for {one.rated_v:g} V: use the class of {answer.bias_v / VOLTAGE_CLASS_FRAC:.0f} V"
    if isinstance(one, LcFilter) and answer.feed_a > one.saturation_a:
        return f"{answer.feed_a:.2f} A saturates it, it holds {one.saturation_a:g} A"
    if isinstance(one, FerriteFilter) and answer.feed_a > one.saturation_a:
        return f"{answer.feed_a:.2f} A is more than its {one.saturation_a:g} A"
    if answer.rise_k and answer.rise_k > SHEET_RISE_K:
        return f"it warms by {answer.rise_k:.0f} K, its sheet stands for {SHEET_RISE_K:.0f} K"
    if answer.out_ohm and answer.load_ohm and answer.out_ohm >= answer.load_ohm:
        return f"with {answer.out_ohm:.2g} Ω at its peak it can swing with the load's {answer.load_ohm:.2g} Ω"
    return ""
