"""Parts of the shelf against noise, each tried on the plan: what it takes off, what it costs in drop, weight and peak."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Literal

from yardmeter.core.answers.conditions import Solved, solve_conditions, solved_like
from yardmeter.core.answers.filtering import FilterAnswer, filter_answers
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.moments import Moment, moments_of
from yardmeter.core.answers.pictures import videos_of
from yardmeter.core.errors import EditError
from yardmeter.core.parts import Part
from yardmeter.core.patience import go_on
from yardmeter.core.physics.capacitors import VOLTAGE_CLASS_FRAC, Dielectric
from yardmeter.core.physics.filters import SHEET_RISE_K, damping_ohm, wanted_corner_hz
from yardmeter.core.physics.preferred import next_up
from yardmeter.core.plan import Filter, Plan, Regulator
from yardmeter.core.plan.operations import Add, Edit

DAMPING_RATIO = 4.0
"""Damping capacitor over the filter's own; common practice, no source."""
COUNTS = (1, 2)
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
    tried = [
        _try(solved, one, key, title, count) for one, key, title, count in _candidates(plan, at, purpose, parts, lead_m)
    ]
    trials = [t.model_copy(update={"enough": wanted_db is None or t.gain_db >= wanted_db}) for t, _ in tried]

    def rank(t: FilterTrial) -> tuple[object, ...]:
        lightest_first = wanted_db is not None and t.enough
        return (bool(t.refused), not t.enough, t.weight_g if lightest_first else t.with_v, t.parts, t.weight_g)

    ranked = sorted(trials, key=rank)
    first = next((k for k, t in enumerate(ranked) if not t.refused and t.gain_db > 0), None)
    hz = tried[0][1].loudest_hz if tried else 0.0
    corner = wanted_corner_hz(hz, wanted_db) if purpose == "feed" and wanted_db and hz else None
    coils = sorted({p.values["henries"] for p in parts if p.values.get("henries")}) if corner else []
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


def _candidates(plan: Plan, at: str, purpose: Purpose, parts: Sequence[Part], lead_m: float) -> Iterator[tuple[Filter, str, str, int]]:  # fmt: skip
    for part in parts:
        go_on()
        ceramic = "ceramic" in part.key
        if purpose == "bulk" and part.kind == "capacitor" and not ceramic:
            for count in COUNTS:
                yield _filter(plan, part, at, "electrolytic", count, lead_m), part.key, f"{count} × {part.name}" if count > 1 else part.name, count  # fmt: skip
        elif purpose == "local" and part.kind == "capacitor" and ceramic:
            yield _filter(plan, part, at, "x5r", 1, 0.002), part.key, part.name, 1
        elif purpose == "feed" and part.kind == "filter":
            plain = _filter(plan, part, at, "electrolytic", 1, 0.005)
            yield plain, part.key, part.name, 1
            if plain.kind == "lc":
                yield damped(plain), part.key, f"{part.name}, damped", 3


def _filter(plan: Plan, part: Part, at: str, dielectric: Dielectric, count: int, lead_m: float) -> Filter:
    """A shelf part as a filter of the plan, under a free id."""
    values = part.values
    taken = set(plan.elements) | set(plan.inner_ids())
    stem = f"{part.key}-{at}"[:56]
    name = next(n for n in (stem, *(f"{stem}-{k}" for k in range(2, len(taken) + 3))) if n not in taken)
    kind: Literal["capacitor", "lc", "ferrite"] = (
        "capacitor" if part.kind == "capacitor" else "ferrite" if "ohms_100mhz" in values else "lc"
    )
    return Filter(
        id=name,
        name=part.name,
        kind=kind,
        at=at,
        farad=values.get("farads", 0.0),
        count=count,
        esr_ohm=values.get("esr_ohm", 0.03),
        rated_v=values.get("volts", 35.0),
        dielectric=dielectric,
        lead_m=lead_m,
        ripple_a=values.get("ripple_a"),
        henry=values.get("henries", 0.0),
        dcr_ohm=values.get("dcr_ohm", 0.0),
        saturation_a=values.get("sat_a", values.get("amps", 100.0)),
        heating_a=values.get("amps"),
        ohm_100mhz=values.get("ohms_100mhz", 0.0),
        part=part.key,
        weight_g=part.weight_g,
    )


def damped(one: Filter) -> Filter:
    """The section with the best parallel branch (Erickson & Maksimović), its resistor rounded up to E12."""
    farad = DAMPING_RATIO * one.farad
    ohm = next_up(damping_ohm(one.henry, one.farad, DAMPING_RATIO), 12)
    return one.model_copy(update={"damping_ohm": ohm, "damping_farad": farad})


def _try(before: Solved, one: Filter, key: str, title: str, count: int) -> tuple[FilterTrial, FilterAnswer]:
    edit = Add(kind="filter", value=one.model_dump(mode="json"))
    made = before.plan.model_copy(update={"filters": (*before.plan.filters, one)})
    solved = solved_like(made, before) or solve_conditions(made)
    moments = moments_of(solved)
    answer = next(a for a in filter_answers(solved, moments) if a.filter == one.id)
    trial = FilterTrial(
        key=key,
        title=title,
        edits=(edit,),
        with_v=answer.with_v,
        without_v=answer.without_v,
        worst_picture_db=_picture_db(made, moments),
        gain_db=answer.loudest_db,
        peak_db=answer.peak_db,
        drop_v=answer.drop_v,
        weight_g=one.weight_g * count,
        parts=count,
        refused=_refusal(one, answer),
    )
    return trial, answer


def _picture_db(plan: Plan, moments: list[Moment]) -> float | None:
    levels = [level for video in videos_of(plan, moments)[0] for level in video.level_db.values()]
    return max(levels, default=None)


def _refusal(one: Filter, answer: FilterAnswer) -> str:
    if one.farad and answer.bias_v > answer.allowed_v:
        return f"{answer.bias_v:.1f} V on a part for {one.rated_v:g} V: use the class of {answer.bias_v / VOLTAGE_CLASS_FRAC:.0f} V"
    if one.henry and answer.feed_a > one.saturation_a:
        return f"{answer.feed_a:.2f} A saturates it, it holds {one.saturation_a:g} A"
    if one.kind == "ferrite" and answer.feed_a > one.saturation_a:
        return f"{answer.feed_a:.2f} A is more than its {one.saturation_a:g} A"
    if answer.rise_k and answer.rise_k > SHEET_RISE_K:
        return f"it warms by {answer.rise_k:.0f} K, its sheet stands for {SHEET_RISE_K:.0f} K"
    if answer.out_ohm and answer.load_ohm and answer.out_ohm >= answer.load_ohm:
        return f"with {answer.out_ohm:.2g} Ω at its peak it can swing with the load's {answer.load_ohm:.2g} Ω"
    return ""
