"""Layouts over HTTP: whole wirings proposed, one made a plan, and the places of one device side by side."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import BaseModel, Field

from yardmeter.core.layouts.wishes import SCHOOLS, USUAL, Buy, School, Wishes
from yardmeter.review.layouts import AlternativeSeen, LayoutsSeen
from yardmeter.server.api.schemas import Body, as_json
from yardmeter.server.builds.services import layouts
from yardmeter.server.builds.services.lookup import head_of
from yardmeter.server.shelf import services as shelf
from yardmeter.words.layouts import SCHOOL_WORDS, VALUE_WORDS

router = Router(tags=["layouts"])


class TurnedDown(Body):
    """A device and the rail, or part of the shelf, that it is not to be fed from."""

    device: str = Field(max_length=64)
    place: str = Field(max_length=80)


class WishesBody(Body):
    """What stays, what may be bought, how much it may weigh, which school is followed, what was turned down."""

    held: list[str] = Field(default_factory=list, max_length=1000)
    buy: list[Buy] = Field(default_factory=lambda: list(USUAL), max_length=4)
    max_g: float | None = Field(default=None, le=100_000)
    school: dict[School, str] = Field(default_factory=dict)
    turned_down: list[TurnedDown] = Field(default_factory=list, max_length=400)

    def wishes(self) -> Wishes:
        down = frozenset((one.device, one.place) for one in self.turned_down)
        return Wishes(frozenset(self.held), frozenset(self.buy), self.max_g, self.school, down, shelf.drawer())


@router.post("/{int:plan_id}/layouts", response=LayoutsSeen)
def propose_layouts(request: HttpRequest, plan_id: int, body: WishesBody) -> HttpResponse:
    """Layouts that no other beats, each solved and judged as any plan is; nothing in the plan changes."""
    return as_json(layouts.proposed(plan_id, body.wishes(), shelf.parts_to_buy()))


class ProgressView(BaseModel):
    share: float | None


@router.get("/{int:plan_id}/layouts/progress", response=ProgressView)
def show_progress(request: HttpRequest, plan_id: int) -> ProgressView:
    """How far the search is that runs for the plan."""
    return ProgressView(share=layouts.progress(plan_id))


class MakeBody(WishesBody):
    number: int = Field(ge=0, le=50)
    name: str = Field(min_length=1, max_length=80)


class MadeView(BaseModel):
    id: int
    name: str
    revision: int


@router.post("/{int:plan_id}/layouts/make", response={201: MadeView})
def make_a_plan(request: HttpRequest, plan_id: int, body: MakeBody) -> Status[MadeView]:
    """A layout as a plan beside today's."""
    made = layouts.made_a_plan(plan_id, body.wishes(), shelf.parts_to_buy(), body.number, body.name.strip())
    return Status(201, MadeView(id=made.pk, name=made.name, revision=head_of(made).pk))


class AlternativesView(BaseModel):
    places: tuple[AlternativeSeen, ...]


class DeviceBody(Body):
    device: str = Field(max_length=64)


@router.post("/{int:plan_id}/layouts/places", response=AlternativesView)
def one_device(request: HttpRequest, plan_id: int, body: DeviceBody) -> HttpResponse:
    """Where one device could be fed, everything else as it is, with the numbers of the whole craft."""
    return as_json(AlternativesView(places=layouts.side_by_side(plan_id, body.device, shelf.parts_to_buy())))


class SchoolChoice(BaseModel):
    value: str
    words: str


class SchoolView(BaseModel):
    key: School
    name: str
    why: str
    choices: tuple[SchoolChoice, ...]


class SchoolsView(BaseModel):
    schools: tuple[SchoolView, ...]


@router.get("/{int:plan_id}/layouts/schools", response=SchoolsView)
def list_schools(request: HttpRequest, plan_id: int) -> SchoolsView:
    """Schools that can be held to, each with its reason."""
    found = []
    for key, values in SCHOOLS.items():
        name, why = SCHOOL_WORDS[key]
        choices = tuple(
            SchoolChoice(value=v, words=VALUE_WORDS.get(v, f"{float(v):.0%}" if key == "fill" else v)) for v in values
        )
        found.append(SchoolView(key=key, name=name, why=why, choices=choices))
    return SchoolsView(schools=tuple(found))
