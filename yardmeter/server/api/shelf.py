"""The shelf: search, own parts, where used, CSV in and out, placing."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import BaseModel, Field

from yardmeter.core.edits.homes import place_at_home
from yardmeter.core.edits.placing import place_part
from yardmeter.core.formats.csv_files import read_parts, write_parts
from yardmeter.core.parts import Part
from yardmeter.core.plan import Draw, Provenance
from yardmeter.core.units import parse_draw
from yardmeter.server.api.schemas import Body, PlanView, RowId, as_json, plan_view
from yardmeter.server.builds.services import editing
from yardmeter.server.shelf import services

router = Router(tags=["shelf"])


class PartView(BaseModel):
    """`owned` are those in the builder's drawer."""

    own: bool
    part: Part
    version: int
    owned: int = 0


class DrawerBody(Body):
    count: int = Field(ge=0, le=10_000)


class PartBody(Body):
    """A changed part; `version` is the one that was on screen, a stale one is refused with 409."""

    part: Part
    version: int = Field(ge=1, le=2**31 - 1)


class UseView(BaseModel):
    plan: int
    name: str
    build: str


class CsvBody(Body):
    text: str = Field(max_length=2_100_000)


class DrawBody(Body):
    text: str = Field(max_length=60)
    provenance: Provenance = "sheet"


class CountView(BaseModel):
    count: int


class PlaceBody(Body):
    """Put a part into a plan, fed from a rail of it; a regulator or diode `into` a rail that is there, `through` a diode."""

    revision: RowId
    part: str = Field(max_length=64)
    rail: str | None = Field(default=None, max_length=64)
    into: str | None = Field(default=None, max_length=64)
    through: str | None = Field(default=None, max_length=64)


@router.get("", response=list[PartView])
def search_parts(request: HttpRequest, q: str = "", kind: str | None = None) -> list[dict[str, object]]:
    """Parts holding every word of `q`. Rows hold validated documents, so they go out as they are."""
    return [
        {"own": row.own, "part": row.document, "version": row.version, "owned": row.owned}
        for row in services.search(q[:200], kind)
    ]


@router.post("", response={201: PartView})
def create_part(request: HttpRequest, body: Part) -> Status[PartView]:
    row = services.create_part(body)
    return Status(201, PartView(own=True, part=body, version=row.version))


@router.get("/csv", response=str, openapi_extra={"x-media": "text/csv"})
def export_csv(request: HttpRequest) -> HttpResponse:
    text = write_parts(services.all_parts())
    return HttpResponse(
        text,
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="parts.csv"'},
    )


@router.post("/csv", response=CountView)
def import_csv(request: HttpRequest, body: CsvBody) -> CountView:
    """All parts of the file or none; errors name line, field and remedy."""
    return CountView(count=services.import_parts(read_parts(body.text)))


@router.post("/draw", response=Draw)
def read_draw(request: HttpRequest, body: DrawBody) -> Draw:
    """A draw as typed on the bench (`850mA`, `9W@12V`), read by the one parser there is."""
    typed = parse_draw(body.text)
    return Draw(value=typed.value, unit=typed.unit, at_v=typed.at_v, provenance=body.provenance)


@router.put("/{key}", response=PartView)
def change_part(request: HttpRequest, key: str, body: PartBody) -> PartView:
    part = body.part.model_copy(update={"key": key})
    row = services.change_part(part, body.version)
    return PartView(own=True, part=part, version=row.version)


@router.delete("/{key}", response=CountView)
def delete_part(request: HttpRequest, key: str) -> CountView:
    services.delete_part(key)
    return CountView(count=1)


@router.put("/{key}/drawer", response=CountView)
def keep_in_drawer(request: HttpRequest, key: str, body: DrawerBody) -> CountView:
    """How many of a part are there and need not be bought."""
    return CountView(count=services.keep_in_drawer(key, body.count).owned)


@router.get("/{key}/used", response=list[UseView])
def used_in(request: HttpRequest, key: str) -> list[UseView]:
    return [UseView(plan=p.pk, name=p.name, build=p.build.name) for p in services.used_in(key)]


@router.post("/{key}/update/{int:plan_id}", response=PlanView)
def update_plan(request: HttpRequest, key: str, plan_id: int) -> HttpResponse:
    """Bring a plan up to date with a changed part; only when asked."""
    return as_json(plan_view(services.update_plan(plan_id, key)))


@router.post("/place/{int:plan_id}", response=PlanView)
def place(request: HttpRequest, plan_id: int, body: PlaceBody) -> HttpResponse:
    """Put a part into a plan, on the rail named, or on the one whose volts fit it best, of those it can live on."""
    plan, part = editing.document_at(plan_id), services.get_part(body.part)
    through = services.get_part(body.through) if body.through else None
    if part.device and not body.rail:
        edits = place_at_home(plan, part)
    else:
        edits = place_part(plan, part, body.rail, into=body.into, through=through)
    return as_json(plan_view(editing.edit(plan_id, body.revision, edits)))
