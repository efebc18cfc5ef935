"""The log of a build: what was measured, flown, seen and changed, in one line of time with plan steps and the bench."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Literal, get_args

from django.db import transaction
from django.utils import timezone

from yardmeter.core.errors import EditError
from yardmeter.core.formats.csv_files import FORMULA_START, neutral
from yardmeter.server.builds.errors import NotFoundError
from yardmeter.server.builds.models import BenchEntry, LogEntry, LogPicture, Revision
from yardmeter.server.builds.services.lookup import get_plan, head_of

Kind = Literal["measurement", "flight", "symptom", "change", "note", "evidence"]
KINDS: tuple[Kind, ...] = get_args(Kind)
LineKind = Literal["step", "bench", "measurement", "flight", "symptom", "change", "note", "evidence"]
MOST_AHEAD = timedelta(minutes=5)
"""Nothing happened later than now; clocks differ by this."""
MOST_ENTRIES = 20_000


@dataclass(frozen=True)
class LogLine:
    """One thing on the line of time. `id` is its entry's, 0 for a step of a plan or of the bench, whose own number is `of`."""

    id: int
    of: int
    kind: LineKind
    title: str
    text: str
    at: datetime
    plan: int
    plan_name: str
    revision: int
    number: int
    who: str = ""
    data: dict[str, Any] = field(default_factory=dict)
    pictures: tuple[int, ...] = ()
    corrected: bool = False
    """Whether it was written down otherwise first."""


def lines_of(plan_id: int) -> list[LogLine]:
    """Everything of the plan's build, oldest first; an entry that was corrected stands as it was corrected, one struck out not at all."""
    plan = get_plan(plan_id)
    plans = {one.pk: one for one in plan.build.plans.filter(deleted_at=None)}
    steps = Revision.objects.filter(plan__in=plans).values_list("pk", "plan_id", "number", "summary", "created_at")
    numbers = {pk: number for pk, _, number, _, _ in steps}
    found = [
        LogLine(0, pk, "step", summary, "", at, owner, plans[owner].name, pk, number)
        for pk, owner, number, summary, at in steps
    ]
    bench = BenchEntry.objects.filter(plan__in=plans, training=None).values_list("pk", "plan_id", "revision_id", "title", "text", "outcome", "note", "who", "created_at")  # fmt: skip
    found += [
        LogLine(0, pk, "bench", f"{title}: {outcome}", " ".join(one for one in (text, note) if one), at, owner, plans[owner].name, revision, numbers.get(revision, 0), who)
        for pk, owner, revision, title, text, outcome, note, who, at in bench
    ]  # fmt: skip
    pictures: dict[int, list[int]] = {}
    for pk, entry in LogPicture.objects.filter(entry__plan__in=plans).values_list("pk", "entry_id"):
        pictures.setdefault(entry, []).append(pk)
    entries = list(LogEntry.objects.filter(plan__in=plans))
    last: dict[int, LogEntry] = {}
    for one in sorted(entries, key=lambda e: e.pk):
        if one.corrects_id is not None:
            last[one.corrects_id] = one
    for one in entries:
        if one.corrects_id is None:
            line = _line(one, last.get(one.pk), plans[one.plan_id].name, numbers, pictures)
            if line:
                found.append(line)
    return sorted(found, key=lambda line: (line.at, line.revision, line.id))


def _line(one: LogEntry, now: LogEntry | None, plan_name: str, numbers: dict[int, int], pictures: dict[int, list[int]]) -> LogLine | None:  # fmt: skip
    said = now or one
    if now is not None and not now.title:
        return None  # struck out
    shown = [*pictures.get(one.pk, []), *(pictures.get(now.pk, []) if now else [])]
    kind = next(k for k in KINDS if k == one.kind)
    return LogLine(
        one.pk, one.pk, kind, said.title, said.text, said.at, one.plan_id, plan_name, one.revision_id, numbers.get(one.revision_id, 0),
        said.who, {**one.data, **said.data}, tuple(shown), now is not None and not _only_went_on(one, now),
    )  # fmt: skip


def _only_went_on(one: LogEntry, now: LogEntry) -> bool:
    """Whether a story was gone on with, and nothing that was written is said otherwise."""
    return "diagnosis" in now.data and (one.title, one.text) == (now.title, now.text)


@transaction.atomic
def add(
    plan_id: int, kind: Kind, title: str, text: str, data: dict[str, Any], who: str, at: datetime | None
) -> LogEntry:
    """A new entry at the step shown now."""
    plan = get_plan(plan_id)
    if LogEntry.objects.filter(plan__build=plan.build_id).count() >= MOST_ENTRIES:
        raise EditError(f"The log of a build holds {MOST_ENTRIES:,} entries.", where="log", remedy="Take it out, and begin a new build.")  # fmt: skip
    return LogEntry.objects.create(
        plan=plan, revision=head_of(plan), kind=kind, title=title, text=text, data=data, who=who, at=_when(at)
    )


@transaction.atomic
def correct(plan_id: int, entry_id: int, title: str, text: str, data: dict[str, Any], who: str, at: datetime | None) -> LogEntry:  # fmt: skip
    """An entry that stands for another; with no title it strikes that out. What was written first stays in the file."""
    first = get_entry(plan_id, entry_id)
    if "diagnosis" not in data and title:
        data = {**data, **{k: v for k, v in said_last(first).data.items() if k == "diagnosis"}}
    return LogEntry.objects.create(
        plan_id=first.plan_id, revision_id=first.revision_id, corrects=first, kind=first.kind, title=title, text=text,
        data=data, who=who, at=_when(at) if at else first.at,
    )  # fmt: skip


def said_last(first: LogEntry) -> LogEntry:
    """An entry as it stands now."""
    return LogEntry.objects.filter(corrects=first).order_by("-pk").first() or first


def get_entry(plan_id: int, entry_id: int) -> LogEntry:
    """An entry of the plan's build, as it was first written."""
    plan = get_plan(plan_id)
    found = LogEntry.objects.filter(pk=entry_id, plan__build=plan.build_id, corrects=None).first()
    if found is None:
        raise NotFoundError(
            "This entry is not in the log.", where=f"entry {entry_id}", remedy="Choose one from the log."
        )
    return found


def _when(at: datetime | None) -> datetime:
    now = timezone.now()
    if at is None:
        return now
    at = at if timezone.is_aware(at) else timezone.make_aware(at)
    if at > now + MOST_AHEAD:
        raise EditError("That is later than now.", where="at", remedy="Say when it was.")
    return at


COLUMNS = ("at", "kind", "title", "text", "value", "unit", "place", "condition", "instrument", "who", "plan", "step")


def as_rows(lines: Sequence[LogLine]) -> list[dict[str, Any]]:
    """Lines as plain data, as they go out and come back."""
    return [
        {
            "at": one.at.isoformat(timespec="seconds"), "kind": one.kind, "title": one.title, "text": one.text,
            **{name: one.data.get(name, "") for name in ("value", "unit", "place", "condition", "instrument")},
            "who": one.who, "plan": one.plan_name, "step": one.number,
        }
        for one in lines
    ]  # fmt: skip


def as_csv(lines: Sequence[LogLine]) -> str:
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    for row in as_rows(lines):
        writer.writerow({name: neutral(value) if isinstance(value, str) else value for name, value in row.items()})
    return out.getvalue()


def rows_of(text: str) -> list[dict[str, Any]]:
    """Entries of a text that was taken out; raises EditError for what is neither JSON nor CSV of a log."""
    if text.lstrip().startswith("["):
        try:
            found = json.loads(text)
        except (ValueError, RecursionError):
            raise EditError("This is no JSON.", where="file", remedy="Choose a log that was taken out here.") from None
        rows = [one for one in found if isinstance(one, dict)]
    else:
        try:
            table = list(csv.DictReader(io.StringIO(text.lstrip("\ufeff"))))
        except csv.Error as error:
            raise EditError(f"The table breaks off: {error}.", where="file", remedy="Choose a log that was taken out here.") from None  # fmt: skip
        rows = [{k: _as_written(v) for k, v in row.items() if k} for row in table]
        for number, row in enumerate(rows, 1):
            if row.get("value"):
                try:
                    row["value"] = float(row["value"])
                except ValueError:
                    raise EditError(f"“{row['value'][:40]}” is no number.", where=f"entry {number}", remedy="A value is a number alone; its unit has a column.") from None  # fmt: skip
    if not rows or not all({"at", "kind", "title"} <= row.keys() for row in rows):
        raise EditError("This is no log: it has no column of at, kind and title.", where="file", remedy="Choose a log that was taken out here, as JSON or CSV.")  # fmt: skip
    if len(rows) > MOST_ENTRIES:
        raise EditError(f"It has more than {MOST_ENTRIES:,} entries.", where="file", remedy="Take out less.")
    return rows


def _as_written(cell: Any) -> Any:
    """A cell without the mark that kept a spreadsheet from running it."""
    return cell[1:] if isinstance(cell, str) and cell[:1] == "'" and cell[1:2] in FORMULA_START else cell


@transaction.atomic
def read_back(plan_id: int, rows: Sequence[dict[str, Any]]) -> int:
    """Entries of a log that was taken out, of the kinds a builder writes; what stands here already is left alone."""
    plan = get_plan(plan_id)
    head = head_of(plan)
    have = {(one.at.isoformat(timespec="seconds"), one.kind, one.title) for one in lines_of(plan_id)}
    made = []
    for number, row in enumerate(rows, 1):
        kind = next((k for k in KINDS if k == row.get("kind") and k != "flight"), None)
        if kind is None:
            continue  # steps, the bench and flights are no lines that can be written
        title = str(row.get("title", ""))[:200]
        try:
            at = datetime.fromisoformat(str(row.get("at", "")))
        except ValueError:
            raise EditError(f"“{str(row.get('at', ''))[:40]}” is no time.", where=f"entry {number}", remedy="Write it as 2026-03-14T18:30:00+00:00.") from None  # fmt: skip
        if not title:
            raise EditError(
                "An entry without a title.", where=f"entry {number}", remedy="Say in a few words what it is."
            )
        at = _when(at)
        if (at.isoformat(timespec="seconds"), kind, title) in have:
            continue
        data = {
            k: row[k] for k in ("value", "unit", "place", "condition", "instrument") if row.get(k) not in (None, "")
        }
        made.append(LogEntry(plan=plan, revision=head, kind=kind, title=title, text=str(row.get("text", ""))[:8000], data=data, who=str(row.get("who", ""))[:80], at=at))  # fmt: skip
    LogEntry.objects.bulk_create(made)
    return len(made)
