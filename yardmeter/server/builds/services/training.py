"""Rounds of training: a fault hidden in the stand-in, found on the same screens, scored against the best search."""

from __future__ import annotations

import secrets
from typing import TypeAlias

from django.utils import timezone

from yardmeter.core.faults import Fault, find_fault
from yardmeter.core.procedures import powered_gate
from yardmeter.core.search import Signatures
from yardmeter.core.search.training import Score, TrainingLevel, hidden, mends, score
from yardmeter.server.builds.errors import ConflictError, NotFoundError
from yardmeter.server.builds.models import Plan, TrainingRound
from yardmeter.server.builds.services import meters
from yardmeter.server.builds.services.bench import SUPPLY_ON
from yardmeter.server.builds.services.bench_kept import known_of, ready
from yardmeter.server.builds.services.bench_record import Entry, entries_of
from yardmeter.server.builds.services.lookup import get_plan, head_of

Round: TypeAlias = TrainingRound
"""What the API hands on without looking inside."""


def begin(plan_id: int, level: TrainingLevel, who: str, seed: int | None = None) -> TrainingRound:
    """Hide a fault and lay the build on the stand-in's bench. A round that is open is given up."""
    plan = get_plan(plan_id)
    known = ready(plan)
    chosen = secrets.randbelow(2**31) if seed is None else seed
    faults = hidden(known, level, chosen)
    TrainingRound.objects.filter(plan=plan, ended_at=None).update(ended_at=timezone.now())
    made = TrainingRound.objects.create(
        plan=plan,
        revision=head_of(plan),
        level=level,
        seed=chosen,
        faults=[one.id for one in faults],
        who=who.strip()[:80],
    )
    lay(made)
    return made


def lay(training: TrainingRound) -> None:
    """Put the build with what is still hidden on the stand-in's bench."""
    known = known_of(training.plan)
    left = tuple(one for one in training.faults if one not in training.mended)
    meters.lay(training.plan, known.made.solved.plan, left, training.seed, training.pk)


def get_round(plan: Plan, round_id: int) -> TrainingRound:
    """Raises NotFoundError, and ConflictError for one that is over or whose plan has changed since."""
    found = TrainingRound.objects.filter(plan=plan, pk=round_id).select_related("plan", "revision").first()
    if found is None:
        raise NotFoundError("There is no such round of training.", where=str(round_id), remedy="Begin one.")
    return found


def open_round(plan: Plan, round_id: int) -> TrainingRound:
    """One that is still going on."""
    found = get_round(plan, round_id)
    if found.ended_at:
        raise ConflictError("This round is over.", where=str(round_id), remedy="Begin another.")
    if found.revision.pk != head_of(plan).pk:
        raise ConflictError(
            "The plan has changed since this round began.", where=str(round_id), remedy="Begin another."
        )
    return found


def mended(training: TrainingRound, fault_id: str) -> bool:
    """Whether mending that takes a hidden fault away; the round ends with the last of them."""
    known = known_of(training.plan)
    left = [one for one in _faults(known, training) if one.id not in training.mended]
    named = find_fault(known.made.table, fault_id)
    found = mends(left, named)
    if found is None:
        training.wrong = [*training.wrong, named.id]
    else:
        training.mended = [*training.mended, found.id]
        if len(training.mended) == len(training.faults):
            training.ended_at = timezone.now()
    training.save()
    meters.mend(tuple(one for one in training.faults if one not in training.mended))
    return found is not None


def give_up(training: TrainingRound) -> None:
    training.ended_at = timezone.now()
    training.save()


def scored(training: TrainingRound) -> tuple[Score, int]:
    """The score, and dangers met: every time power was on while a short or something dangerous was still in the build."""
    known = ready(training.plan)
    faults = _faults(known, training)
    entries = entries_of(training.plan, training)
    probes = sum(one.outcome in ("passed", "failed", "read") and bool(one.text) for one in entries)
    return score(known, faults, training.seed, probes), _dangers(known, faults, entries)


def _dangers(known: Signatures, faults: tuple[Fault, ...], entries: list[Entry]) -> int:
    left = {one.id: one for one in faults}
    count = 0
    for entry in entries:
        if entry.outcome == "repaired":
            found = mends(list(left.values()), find_fault(known.made.table, entry.step))
            if found:
                left.pop(found.id)
        step = known.made.step.get(entry.step)
        read = bool(entry.text) and ((step is not None and powered_gate(step.gate)) or entry.step.startswith("volts|"))
        powered = (
            read
            or entry.step == SUPPLY_ON
            or (step is not None and powered_gate(step.gate) and entry.outcome == "passed")
        )
        count += powered and any(_powered_danger(known, one) for one in left.values())
    return count


def _powered_danger(known: Signatures, fault: Fault) -> bool:
    """A fault that is dangerous, or a short, whatever limits it: nobody powers either knowingly."""
    would = known.consequences[known.faults.index(fault)]
    return would.dangerous or would.amps_a > 0


def _faults(known: Signatures, training: TrainingRound) -> tuple[Fault, ...]:
    return tuple(find_fault(known.made.table, name) for name in training.faults)
