"""The bench over HTTP: the list, what was done of it, readings judged, the search, repairs, the record."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Router
from pydantic import BaseModel, Field

from yardmeter.core.plan.operations import Edit
from yardmeter.core.plan.text import CLEAN
from yardmeter.review.bench import BenchGate, BenchStep, bench_gates, bench_steps
from yardmeter.review.search import Effort, Search
from yardmeter.server.api.schemas import Body
from yardmeter.server.builds.services import bench
from yardmeter.server.builds.services import training as rounds
from yardmeter.server.builds.services.bench_record import Entry, record, record_csv
from yardmeter.server.builds.services.lookup import get_plan

router = Router(tags=["bench"])


class EntryView(BaseModel):
    """One line of the record. `again` says that the step asks something else by now, or is to be done again after a repair."""

    step: str
    title: str
    text: str
    unit: str
    value: float | None
    outcome: Literal["passed", "failed", "skipped", "read", "repaired"]
    note: str
    who: str
    instrument: str
    at: str
    again: bool


class BenchView(BaseModel):
    """`done` holds the last entry of each step that has one; `failed` is the first step whose reading failed and stands;
    `tried` what was read for it besides. `troubles` is everything that failed, was tried, or was mended, as it came."""

    gates: list[BenchGate]
    steps: list[BenchStep]
    done: dict[str, EntryView]
    failed: str | None
    tried: list[EntryView]
    repaired: list[EntryView]
    troubles: list[EntryView]
    entries: int


class ReadingBody(Body):
    """`training` is the round it belongs to, where it is not of the build itself."""

    step: str = Field(max_length=200)
    text: str = Field(max_length=60)
    who: str = Field(default="", max_length=80, pattern=CLEAN)
    instrument: str = Field(default="", max_length=120, pattern=CLEAN)
    training: int | None = None


class BenchTrialBody(ReadingBody):
    """`step` is the one that failed."""

    trial: str = Field(max_length=300)


class LookBody(Body):
    step: str = Field(max_length=200)
    outcome: Literal["passed", "failed", "skipped"]
    note: str = Field(default="", max_length=500, pattern=CLEAN)
    who: str = Field(default="", max_length=80, pattern=CLEAN)
    training: int | None = None


class RepairBody(Body):
    fault: str = Field(max_length=200)
    note: str = Field(default="", max_length=500, pattern=CLEAN)
    who: str = Field(default="", max_length=80, pattern=CLEAN)
    training: int | None = None


class JudgedView(BaseModel):
    """`measured` are edits that would take a reading over into the plan."""

    entry: EntryView
    measured: list[Edit]


def entry_view(one: Entry, *, again: bool = False) -> EntryView:
    return EntryView(
        unit=one.unit,
        step=one.step,
        title=one.title,
        text=one.text,
        value=one.value,
        outcome=one.outcome,
        note=one.note,
        who=one.who,
        instrument=one.instrument,
        at=one.at.isoformat(timespec="seconds"),
        again=again,
    )


def _round(plan_id: int, round_id: int | None) -> rounds.Round | None:
    return rounds.open_round(get_plan(plan_id), round_id) if round_id else None


@router.get("/{int:plan_id}/bench", response=BenchView)
def show_bench(request: HttpRequest, plan_id: int, training: int | None = None) -> BenchView:
    """The list made from the plan as it stands, and the last thing done of each step."""
    plan = get_plan(plan_id)
    found = bench.bench_of(plan, rounds.get_round(plan, training) if training else None)
    failed = found.failed
    return BenchView(
        gates=list(bench_gates(found.made)),
        steps=list(bench_steps(found.made)),
        done={name: entry_view(one, again=name in found.again) for name, one in found.last.items()},
        failed=failed.id if failed else None,
        tried=[entry_view(one) for one in found.entries if one.outcome == "read" and failed and one.about == failed.id],
        repaired=[entry_view(one) for one in found.entries if one.outcome == "repaired"],
        troubles=[entry_view(one) for one in found.entries if one.outcome in ("failed", "read", "repaired")],
        entries=len(found.entries),
    )


@router.post("/{int:plan_id}/bench/reading", response=JudgedView)
def record_reading(request: HttpRequest, plan_id: int, body: ReadingBody) -> JudgedView:
    """A reading as typed: judged and written down."""
    found = bench.record_reading(
        plan_id, body.step, body.text, who=body.who, instrument=body.instrument, training=_round(plan_id, body.training)
    )
    return JudgedView(entry=entry_view(found.entry), measured=list(found.measured))


@router.post("/{int:plan_id}/bench/look", response=JudgedView)
def record_look(request: HttpRequest, plan_id: int, body: LookBody) -> JudgedView:
    """A step that is looked at, or one that is skipped with its reason."""
    entry = bench.record_look(
        plan_id, body.step, body.outcome, note=body.note, who=body.who, training=_round(plan_id, body.training)
    )
    return JudgedView(entry=entry_view(entry), measured=[])


@router.get("/{int:plan_id}/bench/search", response=Search)
def search(request: HttpRequest, plan_id: int, step: str, supply: bool = True, training: int | None = None) -> Search:
    """What may be wrong after a step failed, and what to do next; `supply` where there is one with a current limit."""
    return bench.search(plan_id, step, supply=supply, training=_round(plan_id, training))


@router.post("/{int:plan_id}/bench/trial", response=JudgedView)
def record_trial(request: HttpRequest, plan_id: int, body: BenchTrialBody) -> JudgedView:
    """What a trial of the search showed."""
    entry = bench.record_trial(
        plan_id,
        body.trial,
        body.step,
        body.text,
        who=body.who,
        instrument=body.instrument,
        training=_round(plan_id, body.training),
    )
    return JudgedView(entry=entry_view(entry), measured=[])


@router.post("/{int:plan_id}/bench/repair", response=JudgedView)
def record_repair(request: HttpRequest, plan_id: int, body: RepairBody) -> JudgedView:
    """A fault found and mended: what it shows at is to be done again. In training it may not have been that."""
    training = _round(plan_id, body.training)
    if training and not rounds.mended(training, body.fault):
        entry = bench.record_wrong(plan_id, body.fault, who=body.who, training=training)
    else:
        entry = bench.record_repair(plan_id, body.fault, note=body.note, who=body.who, training=training)
    return JudgedView(entry=entry_view(entry), measured=[])


@router.get("/{int:plan_id}/bench/effort", response=Effort)
def effort(request: HttpRequest, plan_id: int) -> Effort:
    """Quick, usual and thorough, and the ways of checking, in numbers for this build."""
    return bench.effort_of(plan_id)


@router.get("/{int:plan_id}/bench/record.csv", response=str, openapi_extra={"x-media": "text/csv"})
def export_record(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The whole record."""
    return HttpResponse(
        record_csv(get_plan(plan_id)),
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="bench.csv"'},
    )


@router.get("/{int:plan_id}/bench/record.json", response=list[dict[str, Any]])
def export_record_json(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The whole record as JSON."""
    return JsonResponse(
        record(get_plan(plan_id)),
        safe=False,
        json_dumps_params={"ensure_ascii": False, "indent": 1},
        headers={"Content-Disposition": 'attachment; filename="bench.json"'},
    )
