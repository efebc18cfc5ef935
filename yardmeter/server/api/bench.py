"""The bench over HTTP: the list, what has been done of it, a reading judged, the record."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import BaseModel, Field

from yardmeter.core.plan.text import CLEAN
from yardmeter.review.bench import BenchGate, BenchStep, Meaning, bench_gates, bench_steps
from yardmeter.server.api.schemas import Body
from yardmeter.server.builds.services import bench
from yardmeter.server.builds.services.lookup import get_plan

router = Router(tags=["bench"])


class EntryView(BaseModel):
    """One line of the record. `again` says that the step asks something else by now."""

    step: str
    text: str
    value: float | None
    outcome: Literal["passed", "failed", "skipped"]
    note: str
    who: str
    at: str
    again: bool


class BenchView(BaseModel):
    """`done` holds the last entry of each step that has one."""

    gates: list[BenchGate]
    steps: list[BenchStep]
    done: dict[str, EntryView]
    entries: int


class ReadingBody(Body):
    step: str = Field(max_length=200)
    text: str = Field(max_length=60)
    who: str = Field(default="", max_length=80, pattern=CLEAN)
    instrument: str = Field(default="", max_length=120, pattern=CLEAN)


class LookBody(Body):
    step: str = Field(max_length=200)
    outcome: Literal["passed", "failed", "skipped"]
    note: str = Field(default="", max_length=500, pattern=CLEAN)
    who: str = Field(default="", max_length=80, pattern=CLEAN)


class JudgedView(BaseModel):
    entry: EntryView
    meanings: list[Meaning]


def _entry(one: bench.Entry, signature: str | None) -> EntryView:
    return EntryView(
        step=one.step,
        text=one.text,
        value=one.value,
        outcome=one.outcome,
        note=one.note,
        who=one.who,
        at=one.at.isoformat(timespec="seconds"),
        again=signature is not None and signature != one.signature,
    )


@router.get("/{int:plan_id}/bench", response=BenchView)
def show_bench(request: HttpRequest, plan_id: int) -> BenchView:
    """The list made from the plan as it stands, and the last thing done of each step."""
    plan = get_plan(plan_id)
    made = bench.list_of(plan)
    entries = bench.entries_of(plan)
    asked = {one.id: one.signature for one in made.steps}
    return BenchView(
        gates=list(bench_gates(made)),
        steps=list(bench_steps(made)),
        done={one.step: _entry(one, asked.get(one.step)) for one in entries if one.step in asked},
        entries=len(entries),
    )


@router.post("/{int:plan_id}/bench/reading", response=JudgedView)
def record_reading(request: HttpRequest, plan_id: int, body: ReadingBody) -> JudgedView:
    """A reading as typed: judged, written down, and told what it may come from."""
    entry, found = bench.record_reading(plan_id, body.step, body.text, who=body.who, instrument=body.instrument)
    return JudgedView(entry=_entry(entry, None), meanings=list(found))


@router.post("/{int:plan_id}/bench/look", response=JudgedView)
def record_look(request: HttpRequest, plan_id: int, body: LookBody) -> JudgedView:
    """A step that is looked at, or one that is skipped with its reason."""
    entry = bench.record_look(plan_id, body.step, body.outcome, note=body.note, who=body.who)
    return JudgedView(entry=_entry(entry, None), meanings=[])


@router.get("/{int:plan_id}/bench/record.csv", response=str, openapi_extra={"x-media": "text/csv"})
def export_record(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The whole record."""
    return HttpResponse(
        bench.record_csv(get_plan(plan_id)),
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="bench.csv"'},
    )
