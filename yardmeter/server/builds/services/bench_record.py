"""The record of the bench: lines that are only ever added, and how they go out."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal, get_args

from django.db import transaction
from django.utils import timezone

from yardmeter.core.formats.csv_files import neutral
from yardmeter.server.builds.models import BenchEntry, Plan, TrainingRound
from yardmeter.server.builds.services.lookup import head_of

Outcome = Literal["passed", "failed", "skipped", "read", "repaired"]
OUTCOMES: tuple[Outcome, ...] = get_args(Outcome)


@dataclass(frozen=True)
class Entry:
    """One line of the record. `id` counts up through the whole file."""

    id: int
    step: str
    about: str
    signature: str
    title: str
    expected: str
    text: str
    value: float | None
    outcome: Outcome
    note: str
    who: str
    instrument: str
    revision: int
    at: datetime

    @property
    def unit(self) -> str:
        """Of what was read: in what is expected, else by what was done."""
        if not self.text:
            return ""
        if self.about:
            return "V" if self.step.startswith(("volts|", "millivolts|")) else "Ω"
        return next((one for one in ("Ω", "V", "A") if one in self.expected), "")


def entry_of(row: BenchEntry) -> Entry:
    outcome: Outcome = next(one for one in OUTCOMES if one == row.outcome)
    return Entry(
        row.pk, row.step, row.about, row.signature, row.title, row.expected, row.text, row.value, outcome, row.note, row.who,
        row.instrument, row.revision.number, row.created_at,
    )  # fmt: skip


def entries_of(plan: Plan, training: TrainingRound | None = None) -> list[Entry]:
    """Everything done, oldest first: on the build itself, or in a round of training."""
    rows = BenchEntry.objects.filter(plan=plan, training=training).select_related("revision")
    return [entry_of(row) for row in rows]


def written(
    plan: Plan, step: str, outcome: Outcome, *, signature: str, title: str, expected: str = "", about: str = "", text: str = "",
    value: float | None = None, note: str = "", who: str = "", instrument: str = "", training: TrainingRound | None = None,
) -> Entry:  # fmt: skip
    """One more line, on the revision shown. The same once more within a moment is a button pressed twice: it is that line."""
    row = BenchEntry(
        plan=plan,
        revision=head_of(plan),
        training=training,
        step=step,
        about=about,
        signature=signature,
        title=title[:300],
        expected=expected[:200],
        text=text.strip()[:60],
        value=value,
        outcome=outcome,
        note=note.strip()[:500],
        who=who.strip()[:80],
        instrument=instrument.strip()[:120],
    )
    with transaction.atomic():
        last = BenchEntry.objects.filter(plan=plan, training=training).select_related("revision").last()
        if last and timezone.now() - last.created_at < TWICE and all(getattr(last, n) == getattr(row, n) for n in SAME):
            return entry_of(last)
        row.save()
    return entry_of(row)


TWICE = timedelta(seconds=2)
SAME = ("revision_id", "step", "about", "signature", "text", "outcome", "note", "who", "instrument")


COLUMNS = (
    "when",
    "step",
    "title",
    "expected",
    "read",
    "unit",
    "value",
    "outcome",
    "note",
    "who",
    "instrument",
    "revision",
)


def record_csv(plan: Plan) -> str:
    """The whole record as CSV, a line each, in the order it was made."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for row in record(plan):
        writer.writerow([neutral(row[name]) for name in COLUMNS])
    return out.getvalue()


def record(plan: Plan) -> list[dict[str, Any]]:
    """The whole record as plain data."""
    return [
        {
            "when": one.at.isoformat(timespec="seconds"),
            "step": one.step,
            "about": one.about,
            "title": one.title,
            "expected": one.expected,
            "read": one.text,
            "unit": one.unit,
            "value": one.value,
            "outcome": one.outcome,
            "note": one.note,
            "who": one.who,
            "instrument": one.instrument,
            "revision": one.revision,
        }
        for one in entries_of(plan)
    ]
