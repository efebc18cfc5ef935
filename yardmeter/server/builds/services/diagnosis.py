"""Stories: a symptom of a build looked into, answer by answer, kept in the log as one entry that is only added to."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import transaction

from yardmeter.core.diagnosis.advice import Evidence, diagnose
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.observed import Observer
from yardmeter.core.diagnosis.played import found_by, hidden, play
from yardmeter.core.diagnosis.symptoms import asked_about, find_symptom
from yardmeter.core.diagnosis.tries import MENDED, find_try
from yardmeter.core.diagnosis.weighing import Complaint
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.parts import Part
from yardmeter.core.procedures.typed import typed_reading
from yardmeter.core.search.seen import UNIT_OF
from yardmeter.review.diagnosis import DiagnosisSeen, SymptomSeen, done_words, seen_diagnosis, symptoms_of
from yardmeter.server.builds.errors import NotFoundError
from yardmeter.server.builds.models import LogEntry, Revision
from yardmeter.server.builds.services import log
from yardmeter.server.builds.services.analysis import content_key, document_of
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.server.kept import Kept
from yardmeter.words.diagnosis import SYMPTOM_WORDS, cause_words, place_words

OF_A_CAUSE, OF_ALL = 12_000, 3_000_000
"""Bytes of a cause's numbers, and of what all share. Measured."""

_known: Kept[tuple[Known, threading.Lock]] = Kept(
    "diagnoses", lambda held: OF_ALL + OF_A_CAUSE * 60 * len(held[0].plan.devices)
)


def _held(revision: Revision) -> tuple[Known, threading.Lock]:
    key = content_key(revision)
    found = _known.get(key)
    if found is None:
        found = _known.put(key, (Known(document_of(revision)), threading.Lock()))
    return found


def symptoms(plan_id: int) -> tuple[SymptomSeen, ...]:
    """What can be complained of; what every answer needs is worked out beside it."""
    known, lock = _held(head_of(get_plan(plan_id)))
    with lock:
        _ = known.causes
    return symptoms_of(known.plan)


def changed_last(plan_id: int) -> tuple[str, ...]:
    """Devices, regulators and filters that the last step of the plan touched."""
    head = head_of(get_plan(plan_id))
    plan = document_of(head)
    touched = {
        str(edit[name]) for edit in head.edits or () for name in ("element", "device", "owner") if edit.get(name)
    }
    touched |= {
        str(edit["value"]["id"])
        for edit in head.edits or ()
        if isinstance(edit.get("value"), dict) and edit["value"].get("id")
    }
    touched |= {plan.return_of[one][0] for one in touched if one in plan.return_of}
    return tuple(one.id for one in (*plan.devices, *plan.supplies, *plan.filters) if one.id in touched)


def complaint_of(known: Known, symptom: str, where: str | None, since: list[str]) -> Complaint:
    found = find_symptom(symptom)
    unknown = [one for one in since if one not in known.plan.elements and one != "pack"]
    if unknown:
        raise UnknownElementError(
            f"This plan has no “{unknown[0]}”.", where="since", remedy="Choose what was changed from the plan."
        )
    return Complaint(found, asked_about(known.plan, found, where), frozenset(since))


def diagnosed(
    plan_id: int, symptom: str, where: str | None, since: list[str], evidence: list[Evidence], parts: Sequence[Part]
) -> DiagnosisSeen:
    """A look at a symptom that is not written down."""
    known, lock = _held(head_of(get_plan(plan_id)))
    with lock:
        return _seen(known, complaint_of(known, symptom, where, since), evidence, parts)


def _seen(known: Known, complaint: Complaint, evidence: list[Evidence], parts: Sequence[Part]) -> DiagnosisSeen:
    return seen_diagnosis(known, diagnose(known, [complaint], evidence), evidence, parts)


@dataclass(frozen=True)
class Story:
    """An entry of the log that is looked into. `gone` is what the test after the change showed; `after` the chance of it today."""

    entry: int
    title: str
    text: str
    at: str
    state: str
    seen: DiagnosisSeen
    evidence: tuple[Evidence, ...]
    step: int
    head_step: int
    how: str
    gone: bool | None
    before: float
    after: float | None


@transaction.atomic
def begin(
    plan_id: int, symptom: str, where: str | None, since: list[str], evidence: list[Evidence], text: str, who: str
) -> LogEntry:
    """Write a symptom down, to be looked into."""
    plan = get_plan(plan_id)
    head = head_of(plan)
    known, lock = _held(head)
    with lock:
        complaint = complaint_of(known, symptom, where, since)
        diagnose(known, [complaint], evidence)  # what contradicts itself is not written down
    name = place_words(known.plan, complaint.where)
    shown = SYMPTOM_WORDS[symptom][0] + ("" if complaint.where == "craft" else f": {name}")
    data = {
        "diagnosis": {
            "symptom": symptom, "where": complaint.where, "since": since, "revision": head.pk, "state": "open", "how": "", "gone": None,
            "evidence": [_row(one) for one in evidence],
        }
    }  # fmt: skip
    return log.add(plan_id, "symptom", shown[:200], text, data, who, None)


def _row(one: Evidence) -> dict[str, Any]:
    return {"tried": one.tried, "yes": one.yes, "value": one.value}


def _evidence(kept: dict[str, Any]) -> list[Evidence]:
    return [Evidence(row["tried"], row["yes"], row["value"]) for row in kept["evidence"]]


def _kept(plan_id: int, entry_id: int) -> tuple[LogEntry, LogEntry, dict[str, Any]]:
    first = log.get_entry(plan_id, entry_id)
    last = log.said_last(first)
    kept = last.data.get("diagnosis") or first.data.get("diagnosis")
    if kept is None or not last.title:
        raise NotFoundError(
            "This entry is not looked into.", where=f"entry {entry_id}", remedy="Say what is wrong anew."
        )
    return first, last, kept


def story(plan_id: int, entry_id: int, parts: Sequence[Part]) -> Story:
    """How it stands, weighed on the plan it was seen with; beside it what is left of it with the plan of today."""
    first, last, kept = _kept(plan_id, entry_id)
    head, revision = head_of(get_plan(plan_id)), _revision(plan_id, kept)
    known, lock, complaint, evidence = _looked_into(plan_id, entry_id)
    with lock:
        seen = _seen(known, complaint, evidence, parts)
        look = complaint.symptom.looks[0]
        before = known.by.planned.p(look.obs, look.when, complaint.where)
    after = None
    if head.pk != revision.pk and head.plan_id == revision.plan_id:
        try:
            made = document_of(head)
            after = Observer(made).planned.p(look.obs, look.when, complaint.where)
        except (KeyError, ValueError):
            after = None  # what it was about is not there any more
    return Story(
        first.pk, last.title, last.text, first.at.isoformat(timespec="seconds"), kept["state"], seen, tuple(evidence), revision.number,
        head.number, kept["how"], kept["gone"], before, after,
    )  # fmt: skip


def _looked_into(plan_id: int, entry_id: int) -> tuple[Known, threading.Lock, Complaint, list[Evidence]]:
    """A story's causes on the plan it was seen with, its complaint and what was answered."""
    _, _, kept = _kept(plan_id, entry_id)
    known, lock = _held(_revision(plan_id, kept))
    with lock:
        complaint = complaint_of(known, kept["symptom"], kept["where"], kept["since"])
    return known, lock, complaint, _evidence(kept)


def _revision(plan_id: int, kept: dict[str, Any]) -> Revision:
    plan = get_plan(plan_id)
    return Revision.objects.filter(pk=kept["revision"], plan__build=plan.build_id).first() or head_of(plan)


@transaction.atomic
def _goes_on(plan_id: int, entry_id: int, **changed: Any) -> None:
    first, last, kept = _kept(plan_id, entry_id)
    data = {**last.data, "diagnosis": {**kept, **changed}}
    log.correct(plan_id, first.pk, last.title, last.text, data, last.who, None)


def answer(plan_id: int, entry_id: int, one: Evidence, text: str = "") -> None:
    """Write an answer down; `text` is a reading as it is typed. Raises EditError where it contradicts an earlier one."""
    known, lock, complaint, before = _looked_into(plan_id, entry_id)
    if text:
        scale = find_try(known, complaint, one.tried).scale
        if scale is None:
            raise EditError("It is answered by yes or no.", where=one.tried, remedy="Say whether it did.")
        one = Evidence(one.tried, value=typed_reading(UNIT_OF[scale], text))
    evidence = [*before, one]
    with lock:
        diagnose(known, [complaint], evidence)
    _goes_on(plan_id, entry_id, evidence=[_row(e) for e in evidence], state="open")


def take_back(plan_id: int, entry_id: int, tried: str) -> None:
    """An answer that was wrong; what was written first stays in the file."""
    _, _, kept = _kept(plan_id, entry_id)
    left = [row for row in kept["evidence"] if row["tried"] != tried]
    if len(left) == len(kept["evidence"]):
        raise UnknownElementError("That was not answered.", where=tried, remedy="Choose one of the answers.")
    _goes_on(plan_id, entry_id, evidence=left, state="open")


def settle(plan_id: int, entry_id: int, how: str, *, gone: bool | None) -> None:
    """What was done and whether it is gone; None leaves it, to be taken up again."""
    state = "settled" if gone else "left" if gone is None else "open"
    _goes_on(plan_id, entry_id, how=how, gone=gone, state=state)
    if gone is False:  # what was mended was not it, or not alone
        with_named = _named(plan_id, entry_id)
        if with_named:
            answer(plan_id, entry_id, Evidence(MENDED + with_named, yes=True))


def _named(plan_id: int, entry_id: int) -> str | None:
    """The cause that was named last."""
    known, lock, complaint, evidence = _looked_into(plan_id, entry_id)
    with lock:
        named = diagnose(known, [complaint], evidence).named
    return named.id if named else None


def weigh_anew(plan_id: int, entry_id: int) -> None:
    """The same answers on the plan of today."""
    _goes_on(plan_id, entry_id, revision=head_of(get_plan(plan_id)).pk, state="open")


@dataclass(frozen=True)
class Exercise:
    """A cause hidden in the plan, told by how it shows; its seed is all that is kept of it."""

    seed: int
    symptom: str
    where: str
    title: str


def exercise(plan_id: int, seed: int) -> Exercise:
    known, lock = _held(head_of(get_plan(plan_id)))
    with lock:
        _, complaint = hidden(known, seed)
    name = place_words(known.plan, complaint.where)
    return Exercise(seed, complaint.symptom.id, complaint.where, f"{SYMPTOM_WORDS[complaint.symptom.id][0]}: {name}")


def exercised(plan_id: int, seed: int, tried: str) -> tuple[Evidence, str]:
    """What the craft with the hidden cause in it answers, and in words."""
    known, lock = _held(head_of(get_plan(plan_id)))
    with lock:
        cause, complaint = hidden(known, seed)
        one = find_try(known, complaint, tried)
        # The same try answers the same however often it is asked.
        rng = np.random.default_rng([seed, *tried.encode()])
        found = found_by(known, complaint, one, cause, rng)
        return found, done_words(known, one, found)


@dataclass(frozen=True)
class Marked:
    right: bool
    what: str
    best_tries: int
    best_minutes: float


def marked(plan_id: int, seed: int, named: str) -> Marked:
    """Whether the cause that was named has the same repair as the hidden one, and what the best way takes."""
    known, lock = _held(head_of(get_plan(plan_id)))
    with lock:
        cause, complaint = hidden(known, seed)
        if named not in known.cause:
            raise EditError("This is no cause of this build.", where=named, remedy="Choose one from the list.")
        best = play(known, cause, complaint, seed)
        right = known.cause[named].mended_by == cause.mended_by
        return Marked(right, cause_words(known.plan, cause), len(best.tried), best.minutes)
