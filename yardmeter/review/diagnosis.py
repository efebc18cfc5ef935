"""A diagnosis as a screen shows it: causes with their numbers for and against, what to try next, and what mends what was found."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.diagnosis.advice import Diagnosis, Evidence, Offered, Suspected
from yardmeter.core.diagnosis.causes import Cause, CauseKind
from yardmeter.core.diagnosis.known import NOISY, UNPOWERED, Known
from yardmeter.core.diagnosis.observed import CRAFT, KIND_OF, Observed
from yardmeter.core.diagnosis.remedies import Remedy, remedies
from yardmeter.core.diagnosis.situations import AIRBORNE, whens
from yardmeter.core.diagnosis.symptoms import SYMPTOMS, Group, Look, places
from yardmeter.core.diagnosis.tries import Power, Try, TryKind, find_try
from yardmeter.core.diagnosis.weighing import Complaint
from yardmeter.core.fixes import from_shelf
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.core.search.seen import UNIT_OF
from yardmeter.core.units import format_si
from yardmeter.words.diagnosis import (
    GROUP_WORDS,
    SYMPTOM_WORDS,
    WHEN_WORDS,
    answers,
    cause_words,
    mend_words,
    place_words,
    reading_words,
    try_how,
    try_title,
)
from yardmeter.words.procedure import step_title
from yardmeter.words.told import tell_fixes

FITS, SPEAKS = 1.3, 0.6
"""How much better an answer fits a cause than all that are suspected, from where it speaks for it, and up to where against."""
SHOWS, HINTS = 0.3, 0.03
"""Chance from which something shows, and from which its number still speaks for a cause more than against it."""


class SymptomPlace(Answer):
    id: str
    name: str


class SymptomSeen(Answer):
    """`places` are what it can be about; where there are none, `near` are symptoms this build can have instead."""

    id: str
    group: Group
    group_words: str
    title: str
    also: str
    places: tuple[SymptomPlace, ...]
    near: tuple[str, ...]
    elsewhere: tuple[SymptomPlace, ...]
    """Other situations in which it may do it too: tries that are answered before anything is tried."""


class CauseSeen(Answer):
    """`unseen` where no plan can know of it."""

    id: str
    kind: CauseKind
    title: str
    chance: float
    speaks_for: tuple[str, ...]
    speaks_against: tuple[str, ...]
    unseen: bool
    elements: tuple[str, ...]


class ExpectSeen(Answer):
    """What a cause makes of a try: chance of yes, or a reading in words."""

    cause: str
    title: str
    yes_frac: float | None
    reading: str


class TrySeen(Answer):
    """`unit` where it is a reading; else `yes` and `no` are what is answered, each with the chance of the leader then."""

    id: str
    kind: TryKind
    title: str
    how: str
    minutes: float
    bits: float
    power: Power
    unit: Literal["Ω", "V", "A", ""]
    planned: str
    yes: str
    no: str
    then_yes: float | None
    then_no: float | None
    expect: tuple[ExpectSeen, ...]


class RemedySeen(Answer):
    title: str
    edits: tuple[Edit, ...]
    leaves: str
    """What is left of the symptom with it, in numbers."""


class DiagnosisSeen(Answer):
    symptom: str
    title: str
    where: str
    standing: Literal["open", "named", "unknown"]
    causes: tuple[CauseSeen, ...]
    unknown: float
    tries: tuple[TrySeen, ...]
    named: str
    named_chance: float
    mend: str
    remedies: tuple[RemedySeen, ...]
    second: str
    cautions: tuple[str, ...]
    rests_on: tuple[str, ...]
    done: tuple[str, ...]
    """What was tried, with its answer."""


def symptoms_of(plan: Plan) -> tuple[SymptomSeen, ...]:
    """Every symptom with the places this build has for it."""
    found = []
    for one in SYMPTOMS.values():
        title, also = SYMPTOM_WORDS[one.id]
        here = places(plan, one)
        asked = {look.when for look in one.looks}
        others = (
            [w for w in whens(plan) if w not in asked and w not in ("plug", "blown")]
            if one.looks[0].obs not in UNPOWERED
            else []
        )
        near = () if here else tuple(SYMPTOM_WORDS[n][0] for n in one.near if places(plan, SYMPTOMS[n]))
        found.append(
            SymptomSeen(
                id=one.id,
                group=one.group,
                group_words=GROUP_WORDS[one.group],
                title=title,
                also=also,
                near=near,
                places=tuple(SymptomPlace(id=p, name=place_words(plan, p)) for p in here),
                elsewhere=tuple(SymptomPlace(id=f"again-{w}", name=WHEN_WORDS[w]) for w in others),
            )
        )  # fmt: skip
    return tuple(found)


def seen_diagnosis(
    known: Known, found: Diagnosis, evidence: Sequence[Evidence], parts: Sequence[Part] = ()
) -> DiagnosisSeen:
    """A diagnosis in words."""
    plan, first = known.plan, found.complaints[0]
    tried = [find_try(known, first, one.tried) for one in evidence]
    named = found.named
    return DiagnosisSeen(
        symptom=first.symptom.id,
        title=SYMPTOM_WORDS[first.symptom.id][0],
        where=place_words(plan, first.where),
        standing=found.standing,
        causes=tuple(_cause(known, found, one, evidence) for one in found.suspects),
        unknown=found.unknown,
        tries=tuple(_try(known, one) for one in found.offered),
        named=cause_words(plan, named) if named else "",
        named_chance=found.named_chance,
        mend=mend_words(plan, named) if named else "",
        remedies=tuple(_remedies(known, first, named, parts)) if named else (),
        second=cause_words(plan, found.second) if found.second else "",
        cautions=tuple(_cautions(found)),
        rests_on=tuple(_rests_on(known, found)),
        done=tuple(done_words(known, one, said) for one, said in zip(tried, evidence, strict=True)),
    )


def title(known: Known, one: Try) -> str:
    """What is tried, in one line."""
    if one.kind == "mended":
        return f"Mended: {cause_words(known.plan, known.cause[one.about[0]])}"
    step = step_title(known.plan, known.signatures.made.step[one.step]) if one.step else ""
    return try_title(known.plan, one, step)


def done_words(known: Known, one: Try, said: Evidence) -> str:
    """What was tried, with its answer."""
    what = WHEN_WORDS[one.when] if one.kind == "again" and one.when else title(known, one)
    return f"{what}: {answer_words(one, said)}"


def answer_words(one: Try, said: Evidence) -> str:
    """What was answered."""
    if one.scale:
        return "nothing conducts" if said.value is None else format_si(said.value, UNIT_OF[one.scale])
    yes, no = answers(one)
    return (yes if said.yes else no).lower()


def _cause(known: Known, found: Diagnosis, one: Suspected, evidence: Sequence[Evidence]) -> CauseSeen:
    first = found.complaints[0]
    speaks: list[str] = []
    against: list[str] = []
    for look in first.symptom.looks:
        chance = known.chance(one.cause, look.obs, look.when, first.where) if not one.cause.setting else 0.0
        words = look_words(known, one.cause, look, first.where)
        if one.cause.setting:
            continue
        if look.shows:
            (speaks if chance >= HINTS else against).append(words)
        elif chance >= SHOWS:
            against.append(f"it would do it {WHEN_WORDS[look.when]} too")
    if first.since & set(one.cause.elements):
        speaks.append("changed last")
    if one.cause.setting and one.cause.setting.makes.get(first.symptom.id, 0.0) >= SHOWS:
        speaks.append("it shows like this")
    said = {one.tried: one for one in evidence}
    usual = {name: sum(dict(s.fit).get(name, 0.0) for s in found.suspects) / len(found.suspects) for name, _ in one.fit}
    for name, fits in one.fit:
        words = done_words(known, find_try(known, first, name), said[name])
        if fits > FITS * usual[name]:
            speaks.append(words)
        elif fits < SPEAKS * usual[name]:
            against.append(words)
    return CauseSeen(
        id=one.cause.id, kind=one.cause.kind, title=cause_words(known.plan, one.cause), chance=one.chance, speaks_for=tuple(speaks),
        speaks_against=tuple(against), unseen=one.cause.kind in ("setting", "part", "signal open", "signal crossed", "lost cell"),
        elements=one.cause.elements,
    )  # fmt: skip


def look_words(known: Known, cause: Cause, look: Look, where: str) -> str:
    """What this build's numbers say of one look, with that cause in it."""
    world = known.world(cause)
    when = WHEN_WORDS[look.when]
    chance = known.chance(cause, look.obs, look.when, where)
    if (look.obs, where) in cause.forced or world is None or look.obs in UNPOWERED:
        return f"such a thing shows like this {chance:.0%} of the time" if chance >= SHOWS else "by itself it hardly shows like this"  # fmt: skip
    w = world.rows.index(look.when)
    if look.when == "plug" and chance >= SHOWS:
        return (
            "run through its plug it resets, or never comes up"
            if look.obs == "lost"
            else "run through its plug it gets more than it takes"
        )
    if look.obs in ("lost", "black") and look.when in ("warm", "blown", "hover", "late"):
        hot = _hottest(known, cause, world, w, where)
        if hot:
            return hot
    if look.obs in ("black", "weak"):
        return look_words(known, cause, Look("lost", look.when), _weaker_end(known, world, w, where))
    index = known.by.subjects.index.get(KIND_OF[look.obs], {})
    if look.obs == "lost" and where in index:
        device, pin = known.plan.device_of[where], float(world.pins_v[w, index[where]])
        return f"{format_si(pin, 'V')} at its pins {when}, resets below {format_si(device.reset_v, 'V')}"
    if look.obs in ("low", "high"):
        held = known.by.held[where]
        wanted = f", {format_si(held, 'V')} wanted" if held else ""
        return f"{format_si(float(world.rails_v[w, index[where]]), 'V')} {when}{wanted}"
    if look.obs in NOISY and where in (world.levels_db or known.by.planned.levels_db):
        moving, standing = (world.levels_db or known.by.planned.levels_db)[where]
        return f"{(moving if look.obs == 'lines' else standing):.0f} dB under full picture, seen from −40 dB".replace(
            "-", "−"
        )
    if look.obs == "hot" and where in world.temps_c:
        return f"{world.temps_c[where][w]:.0f} °C {when}"
    if look.obs == "bad" and where in world.shares:
        return f"ground shift takes {world.shares[where][w]:.0%} of its margin {when}"
    if look.obs in ("greedy", "thirst", "lamp") or where == CRAFT:
        return f"{format_si(abs(float(world.pack_a[w])), 'A')} {when}, {format_si(abs(float(known.by.planned.pack_a[w])), 'A')} as planned"
    return f"{chance:.0%} by this build's numbers"


def _weaker_end(known: Known, world: Observed, w: int, signal: str) -> str:
    """Of a picture's two ends the one that is lost first."""
    devices, one = known.by.subjects.index["device"], known.plan.signal_of[signal]
    ends = [known.plan.owner_of[end].id for end in (one.source, one.sink)]
    return max((end for end in ends if end in devices), key=lambda end: world.chance["lost"][w, devices[end]])


def _hottest(known: Known, cause: Cause, world: Observed, w: int, where: str) -> str:
    """What its nearest hot regulator comes to, where that is near to switching itself off."""
    own = cause.elements[0] if cause.kind == "trip" else None
    above = [own] if own else [s for s in world.temps_c if _feeds(known.plan, s, where)]
    hot = max(
        (s for s in above if s in world.temps_c),
        key=lambda s: world.temps_c[s][w] - _trip_c(known.plan, s),
        default=None,
    )
    if hot is None or world.temps_c[hot][w] < _trip_c(known.plan, hot) - NEAR_K:
        return ""
    after = f", first after {format_si(world.trips_s[hot], 's')}" if hot in world.trips_s else ""
    air = "in moving air" if world.rows[w] in AIRBORNE or world.rows[w] == "blown" else "in still air"
    return f"{known.plan.title(hot)} settles at {world.temps_c[hot][w]:.0f} °C {air}, switches off at {_trip_c(known.plan, hot):.0f} °C{after}"


NEAR_K = 45.0


def _feeds(plan: Plan, supply: str, where: str) -> bool:
    device = plan.device_of.get(where)
    rail = device.feed.rail if device and device.feed else where
    return rail in graph_of(plan).rails_below([plan.supply_of[supply].output])


def _trip_c(plan: Plan, supply: str) -> float:
    return getattr(plan.supply_of[supply], "trip_c", 125.0)


def _try(known: Known, offered: Offered) -> TrySeen:
    one = offered.tried
    yes, no = answers(one) if one.scale is None else ("", "")
    return TrySeen(
        id=one.id, kind=one.kind, title=title(known, one), how=try_how(known.plan, one), minutes=one.minutes, bits=offered.bits,
        power=one.power, unit=UNIT_OF[one.scale] if one.scale else "", yes=yes, no=no,
        planned=reading_words(one, offered.planned) if one.scale else "",
        then_yes=offered.then[0] if offered.then else None, then_no=offered.then[1] if offered.then else None,
        expect=tuple(
            ExpectSeen(
                cause=e.cause.id, title=cause_words(known.plan, e.cause), yes_frac=e.yes_frac,
                reading=reading_words(one, e.reading) if one.scale else "",
            )
            for e in offered.expect
        ),
    )  # fmt: skip


def _remedies(known: Known, complaint: Complaint, cause: Cause, parts: Sequence[Part]) -> Iterator[RemedySeen]:
    for one in remedies(known, complaint, cause, lambda plan, verdicts: from_shelf(plan, tuple(verdicts), parts)):
        told = tell_fixes(known.plan, (one.fix,))[0]
        yield RemedySeen(title=told.title, edits=told.edits, leaves=_leaves(one))


def _leaves(one: Remedy) -> str:
    if one.was_c is not None and one.now_c is not None and one.was_c - one.now_c > 1:
        return f"{one.was_c:.0f} → {one.now_c:.0f} °C"
    return f"chance {one.before:.0%} → {one.after:.0%}"


def _cautions(found: Diagnosis) -> Iterator[str]:
    if found.limited:
        yield "A short is possible: no pack and no USB straight on, a supply with a current limit only."
    if found.grounded:
        yield "Do not fly it: what is suspected may take it down. Propellers off at the bench."


def _rests_on(known: Known, found: Diagnosis) -> Iterator[str]:
    """Guessed numbers the leading causes stand on."""
    about = {name for one in found.suspects[:3] for name in one.cause.elements} | {
        one.where for one in found.complaints
    }
    plan = known.plan
    rails = {plan.supply_of[name].output for name in about if name in plan.supply_of}
    for device in plan.devices:
        near = device.id in about or (device.feed is not None and device.feed.rail in rails)
        if near and device.draws.typical.provenance in ("guess", "reported"):
            often = {"guess": "guessed", "reported": "reported by others"}[device.draws.typical.provenance]
            yield f"{device.name}'s amps are {often}"
