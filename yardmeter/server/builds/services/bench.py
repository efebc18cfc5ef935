"""The bench: the list of a plan as it stands, and what has been done of it. The record is only ever added to."""

from __future__ import annotations

import csv
import io
import threading
from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from yardmeter.core.formats.csv_files import neutral
from yardmeter.core.procedures import Checklist, Step, checklist, judge, typed_reading
from yardmeter.review.bench import Meaning, meanings
from yardmeter.server.builds.errors import ConflictError, NotFoundError
from yardmeter.server.builds.models import BenchEntry, Plan
from yardmeter.server.builds.services.analysis import reviewed
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.words.procedure import step_expects, step_title

KEPT = 8
Outcome = Literal["passed", "failed", "skipped"]

_lists: OrderedDict[int, Checklist] = OrderedDict()
_lock = threading.Lock()


def list_of(plan: Plan) -> Checklist:
    """The bench list of the revision shown, from memory or made now."""
    head = head_of(plan)
    with _lock:
        found = _lists.get(head.pk)
    if found:
        return found
    made = checklist(reviewed(head).solved)
    with _lock:
        _lists[head.pk] = made
        while len(_lists) > KEPT:
            _lists.popitem(last=False)
    return made


def forget_lists() -> None:
    """Another data file has other revisions under the same numbers."""
    with _lock:
        _lists.clear()


def step_of(made: Checklist, step_id: str) -> Step:
    found = made.step.get(step_id)
    if found is None:
        raise NotFoundError(
            "This step is not on the list of the plan as it stands.", where=step_id, remedy="Look at the list again."
        )
    return found


@dataclass(frozen=True)
class Entry:
    """One line of the record."""

    step: str
    signature: str
    text: str
    value: float | None
    outcome: Outcome
    note: str
    who: str
    at: datetime


def _entry(row: BenchEntry) -> Entry:
    outcome: Outcome = "passed" if row.outcome == "passed" else "failed" if row.outcome == "failed" else "skipped"
    return Entry(row.step, row.signature, row.text, row.value, outcome, row.note, row.who, row.created_at)


def entries_of(plan: Plan) -> list[Entry]:
    """Everything done, oldest first."""
    return [_entry(row) for row in BenchEntry.objects.filter(plan=plan)]


def record_reading(plan_id: int, step_id: str, text: str, *, who: str, instrument: str) -> tuple[Entry, tuple[Meaning, ...]]:  # fmt: skip
    """Judge a typed reading and write it down; with it what it may come from, where it does not pass."""
    plan = get_plan(plan_id)
    made = list_of(plan)
    step = step_of(made, step_id)
    if step.expected is None:
        raise ConflictError("Nothing is read at this step.", where=step_id, remedy="Say whether it is so.")
    value = typed_reading(step, text)
    judged = judge(step, value)
    # What it may be takes a moment to work out; the file is not held meanwhile.
    found = () if judged.passed else meanings(made, step, value)
    outcome: Outcome = "passed" if judged.passed else "failed"
    return _written(plan, step, outcome, text=text, value=value, who=who, instrument=instrument), found


def record_look(plan_id: int, step_id: str, outcome: Outcome, *, note: str, who: str) -> Entry:
    """Write down that a step was seen to be so, or not, or was skipped; a skip needs its reason."""
    if outcome == "skipped" and not note.strip():
        raise ConflictError("A step is skipped with a reason only.", where="note", remedy="Write why.")
    plan = get_plan(plan_id)
    step = step_of(list_of(plan), step_id)
    if outcome == "passed" and step.expected is not None:
        raise ConflictError("This step passes by its reading.", where=step_id, remedy="Type what the meter shows.")
    return _written(plan, step, outcome, note=note, who=who)


def _written(
    plan: Plan, step: Step, outcome: Outcome, *, text: str = "", value: float | None = None, note: str = "", who: str = "",
    instrument: str = "",
) -> Entry:  # fmt: skip
    document = reviewed(head_of(plan)).plan
    row = BenchEntry.objects.create(
        plan=plan,
        revision=head_of(plan),
        step=step.id,
        signature=step.signature,
        title=step_title(document, step)[:300],
        expected=step_expects(step)[:200],
        text=text.strip()[:60],
        value=value,
        outcome=outcome,
        note=note.strip()[:500],
        who=who.strip()[:80],
        instrument=instrument.strip()[:120],
    )
    return _entry(row)


COLUMNS = ("when", "step", "title", "expected", "read", "value", "outcome", "note", "who", "instrument", "revision")


def record_csv(plan: Plan) -> str:
    """The whole record as CSV, a line each, in the order it was made."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for one in BenchEntry.objects.filter(plan=plan).select_related("revision"):
        cells = [
            one.created_at.isoformat(timespec="seconds"), one.step, one.title, one.expected, one.text, one.value, one.outcome,
            one.note, one.who, one.instrument, one.revision.number,
        ]  # fmt: skip
        writer.writerow([neutral(cell) for cell in cells])
    return out.getvalue()
