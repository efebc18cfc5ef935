"""The log over HTTP: its lines, entries and corrections, pictures, flights with what they settle, before and after."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

import numpy as np
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Query, Router, Status
from pydantic import BaseModel, Field

from yardmeter.core.flights.against import Difference, against
from yardmeter.core.flights.fits import Fit, PhaseDraw
from yardmeter.core.flights.flight import Confirmed, thinned
from yardmeter.core.flights.overlay import Residual
from yardmeter.core.flights.phases import Phase, phases
from yardmeter.core.flights.sheet import UNITS, Guess
from yardmeter.core.flights.taken import taken
from yardmeter.core.plan import Scenario
from yardmeter.core.plan.operations import Edit
from yardmeter.core.runs.recording import scenario_of
from yardmeter.review.differences import differences
from yardmeter.server.api.schemas import Body, RowId, as_json
from yardmeter.server.builds.services import flights, log, pictures
from yardmeter.server.builds.services.log import Kind, LineKind, LogLine

router = Router(tags=["log"])
BUCKETS = 600
TEXT, TABLE = 8_000_000, 80_000_000


class LogLineView(BaseModel):
    """One thing on the line of time; `id` 0 for a step of a plan or of the bench."""

    id: int
    of: int
    kind: LineKind
    title: str
    text: str
    at: str
    plan: int
    plan_name: str
    step: int
    who: str
    value: float | None
    unit: str
    place: str
    condition: str
    instrument: str
    pictures: tuple[int, ...]
    corrected: bool
    notes: tuple[str, ...]
    story: Literal["", "open", "settled", "left"]
    """Of a symptom that is being looked into: how it stands."""


def _view(line: LogLine) -> LogLineView:
    data = line.data
    value = data.get("value")
    return LogLineView(
        id=line.id, of=line.of, kind=line.kind, title=line.title, text=line.text, at=line.at.isoformat(timespec="seconds"), plan=line.plan,
        plan_name=line.plan_name, step=line.number, who=line.who, value=value if isinstance(value, int | float) else None,
        unit=str(data.get("unit", "")), place=str(data.get("place", "")), condition=str(data.get("condition", "")),
        instrument=str(data.get("instrument", "")), pictures=line.pictures, corrected=line.corrected, notes=tuple(map(str, data.get("notes", ()))),
        story=data["diagnosis"]["state"] if "diagnosis" in data else "",
    )  # fmt: skip


class LogView(BaseModel):
    lines: tuple[LogLineView, ...]


@router.get("/{int:plan_id}/log", response=LogView)
def show_log(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Everything that was done with the build, oldest first."""
    return as_json(LogView(lines=tuple(map(_view, log.lines_of(plan_id)))))


class EntryBody(Body):
    kind: Kind
    title: str = Field(min_length=1, max_length=200)
    text: str = Field(default="", max_length=8000)
    value: float | None = Field(default=None, ge=-1e9, le=1e9)
    unit: str = Field(default="", max_length=12)
    place: str = Field(default="", max_length=120)
    condition: str = Field(default="", max_length=120)
    instrument: str = Field(default="", max_length=120)
    who: str = Field(default="", max_length=80)
    at: datetime | None = None

    def data(self) -> dict[str, Any]:
        said = {name: getattr(self, name) for name in ("value", "unit", "place", "condition", "instrument")}
        return {name: value for name, value in said.items() if value not in (None, "")}


class CorrectionBody(EntryBody):
    """What an entry should say; without a title it is struck out."""

    title: str = Field(default="", max_length=200)


class EntryMade(BaseModel):
    id: int


@router.post("/{int:plan_id}/log", response={201: EntryMade})
def add_entry(request: HttpRequest, plan_id: int, body: EntryBody) -> Status[EntryMade]:
    """A new entry, at the step of the plan that is shown."""
    made = log.add(plan_id, body.kind, body.title.strip(), body.text, body.data(), body.who, body.at)
    return Status(201, EntryMade(id=made.pk))


@router.post("/{int:plan_id}/log/{int:entry}/correct", response={201: EntryMade})
def correct_entry(request: HttpRequest, plan_id: int, entry: int, body: CorrectionBody) -> Status[EntryMade]:
    """What was written first stays in the file."""
    made = log.correct(plan_id, entry, body.title.strip(), body.text, body.data(), body.who, body.at)
    return Status(201, EntryMade(id=made.pk))


class PictureBody(Body):
    """A PNG or JPEG, in base 64."""

    base64: str = Field(max_length=TEXT)


@router.post("/{int:plan_id}/log/{int:entry}/picture", response={201: EntryMade})
def add_picture(request: HttpRequest, plan_id: int, entry: int, body: PictureBody) -> Status[EntryMade]:
    return Status(201, EntryMade(id=pictures.add_picture(plan_id, entry, body.base64).pk))


@router.get("/{int:plan_id}/log/picture/{int:picture}", response=str, openapi_extra={"x-media": "image/jpeg"})
def show_picture(request: HttpRequest, plan_id: int, picture: int) -> HttpResponse:
    return HttpResponse(pictures.picture(plan_id, picture), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000, immutable"})  # fmt: skip


@router.get("/{int:plan_id}/log.csv", response=str, openapi_extra={"x-media": "text/csv"})
def export_csv(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The whole log as a table."""
    return HttpResponse(
        log.as_csv(log.lines_of(plan_id)),
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="log.csv"'},
    )


@router.get("/{int:plan_id}/log.json", response=list[dict[str, Any]])
def export_json(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The whole log as JSON, to be read back."""
    return JsonResponse(
        log.as_rows(log.lines_of(plan_id)),
        safe=False,
        json_dumps_params={"ensure_ascii": False, "indent": 1},
        headers={"Content-Disposition": 'attachment; filename="log.json"'},
    )


class BackBody(Body):
    """A log as it was taken out: JSON, or CSV."""

    text: str = Field(max_length=TEXT)


class BackMade(BaseModel):
    made: int


@router.post("/{int:plan_id}/log/back", response=BackMade)
def read_back(request: HttpRequest, plan_id: int, body: BackBody) -> BackMade:
    """A log that was taken out, joined to this one; what stands here already is left alone."""
    return BackMade(made=log.read_back(plan_id, log.rows_of(body.text)))


class TableBody(Body):
    text: str = Field(max_length=TABLE)


class RailChoice(BaseModel):
    id: str
    name: str


class TableView(BaseModel):
    """A recorder's table before it is confirmed: its first rows, what each column seems to be, and what it may be."""

    rows: int
    heading: tuple[str, ...]
    first: tuple[tuple[str, ...], ...]
    guesses: tuple[Guess, ...]
    units: dict[str, tuple[str, ...]]
    rails: tuple[RailChoice, ...]


@router.post("/{int:plan_id}/log/flights/look", response=TableView)
def look_at_table(request: HttpRequest, plan_id: int, body: TableBody) -> HttpResponse:
    """Nothing is kept yet."""
    sheet, found = flights.looked_at(plan_id, body.text)
    plan = flights.shown_plan(plan_id)
    return as_json(
        TableView(
            rows=sheet.rows, heading=tuple(one[:80] for one in sheet.heading), first=sheet.first, guesses=found,
            units={role: tuple(units) for role, units in UNITS.items()},
            rails=tuple(RailChoice(id=name, name=plan.title(name)) for name, _ in flights.rails_of(plan)),
        )
    )  # fmt: skip


class FlightBody(TableBody):
    name: str = Field(min_length=1, max_length=80)
    columns: list[Confirmed] = Field(min_length=2, max_length=60)
    note: str = Field(default="", max_length=2000)
    who: str = Field(default="", max_length=80)


@router.post("/{int:plan_id}/log/flights", response={201: EntryMade})
def keep_flight(request: HttpRequest, plan_id: int, body: FlightBody) -> Status[EntryMade]:
    """A flight as its columns were confirmed."""
    return Status(201, EntryMade(id=flights.keep(plan_id, body.name.strip(), body.text, body.columns, body.note, body.who).pk))  # fmt: skip


class FlightLine(BaseModel):
    """A series between two times, the least and the most of each stretch; `model` where the plan is laid over it."""

    series: str
    name: str
    unit: str
    low: tuple[float | None, ...]
    high: tuple[float | None, ...]
    model: tuple[float | None, ...] | None = None


class FlightView(BaseModel):
    title: str
    duration_s: float
    rows: int
    notes: tuple[str, ...]
    edges_s: tuple[float, ...]
    lines: tuple[FlightLine, ...]
    phases: tuple[Phase, ...]
    fits: tuple[Fit, ...]
    draws: tuple[PhaseDraw, ...]
    residuals: tuple[Residual, ...]
    run_by: Literal["throttle", "amps", ""]
    """What of the recording drives the plan that is laid over it; nothing where it cannot be."""
    problem: str
    """Why the plan is not laid over it."""


class Stretch(Body):
    from_s: float = Field(default=0.0, ge=0, le=1e6)
    to_s: float | None = Field(default=None, ge=0, le=1e6)


def _plain(values: np.ndarray[Any, np.dtype[np.float64]]) -> tuple[float | None, ...]:
    return tuple(float(f"{one:.5g}") if np.isfinite(one) else None for one in values.tolist())


SERIES = {"volts": ("pack", "V"), "amps": ("amps", "A"), "throttle": ("throttle", ""), "charge": ("charge", "Ah")}


@router.get("/{int:plan_id}/log/flights/{int:entry}", response=FlightView)
def show_flight(request: HttpRequest, plan_id: int, entry: int, asked: Query[Stretch]) -> HttpResponse:
    """A flight with the plan laid over it, and what it settles."""
    row, flight = flights.flight_at(plan_id, entry)
    plan = flights.shown_plan(plan_id)
    to_s = min(asked.to_s if asked.to_s is not None else flight.duration_s, flight.duration_s)
    from_s = min(asked.from_s, max(to_s - 1e-3, 0.0))
    laid, problem = flights.laid_over(plan_id, entry)
    edges = np.linspace(from_s, to_s, BUCKETS + 1)
    lines = []
    for key, values in flight.series.items():
        kind, _, of = key.partition(":")
        name, unit = SERIES.get(kind, (of, {"rail": "V", "temp": "°C"}.get(kind, "")))
        _, low, high = thinned(flight.times_s, values, from_s, to_s, BUCKETS)
        model = flights.model_of(laid, plan, key, (edges[1:] + edges[:-1]) / 2) if laid else None
        named = plan.title(of) if kind == "rail" and of in plan.rail_of else name
        lines.append(FlightLine(series=key, name=named, unit=unit, low=_plain(low), high=_plain(high), model=_plain(model) if model is not None else None))  # fmt: skip
    found, draws = flights.fits_of(plan_id, entry)
    return as_json(
        FlightView(
            title=row.title, duration_s=flight.duration_s, rows=int(flight.times_s.size), notes=flight.notes, edges_s=tuple(edges.tolist()),
            lines=tuple(lines), phases=phases(flight), fits=found, draws=draws, residuals=laid.residuals if laid else (),
            run_by=laid.used if laid else "", problem=problem,
        )
    )  # fmt: skip


class TakeBody(Body):
    keys: list[str] = Field(min_length=1, max_length=10)


@router.post("/{int:plan_id}/log/flights/{int:entry}/take", response=list[Edit])
def take_over(request: HttpRequest, plan_id: int, entry: int, body: TakeBody) -> list[Edit]:
    """Edits that put fitted values into the plan as measured; made and undone like any other."""
    found, _ = flights.fits_of(plan_id, entry)
    chosen = [one for one in found if one.key in body.keys]
    return list(taken(flights.shown_plan(plan_id), chosen))


class DrivenBy(Body):
    use: Literal["throttle", "amps"] | None = None


@router.post("/{int:plan_id}/log/flights/{int:entry}/scenario", response=Scenario)
def as_scenario(request: HttpRequest, plan_id: int, entry: int, body: DrivenBy) -> HttpResponse:
    """The flight as a scenario for *Run*: its throttle or its amps become the acts of the motors."""
    row, flight = flights.flight_at(plan_id, entry)
    return as_json(scenario_of(flights.shown_plan(plan_id), flight.table(), row.title, body.use))


class AgainstQuery(Body):
    before: RowId
    after: RowId


class AgainstView(BaseModel):
    """What changed between two flights, and what the plans they were flown with differ in."""

    differences: tuple[Difference, ...]
    changes: tuple[str, ...]
    warning: str


@router.get("/{int:plan_id}/log/against", response=AgainstView)
def before_and_after(request: HttpRequest, plan_id: int, asked: Query[AgainstQuery]) -> HttpResponse:
    first, one = flights.flight_at(plan_id, asked.before)
    second, other = flights.flight_at(plan_id, asked.after)
    changes = tuple(differences(flights.plan_at(first), flights.plan_at(second)))
    warning = ""
    if len(changes) > 1:
        warning = f"Between them the plan changed in {len(changes)} things: the difference may be any of theirs."
    elif not changes:
        warning = "The plan was the same in both: what differs is the flying, the weather or the pack."
    return as_json(AgainstView(differences=against(one, other), changes=changes, warning=warning))
