"""Noise and filters: levels, the way of a line, parts tried, ways to feed."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import Field

from yardmeter.core.sizing.filters import Purpose, Trials, try_filters
from yardmeter.review import Change
from yardmeter.review.feed_schools import feed_schools
from yardmeter.review.noise_path import NoisePath, noise_path
from yardmeter.review.noise_review import NoiseReview
from yardmeter.review.schools import SchoolTable
from yardmeter.server.api.schemas import Body, EditBody, RowId, as_json
from yardmeter.server.builds.services import editing
from yardmeter.server.builds.services.analysis import reviewed, reviewed_noise
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.server.shelf import services as shelf

router = Router(tags=["noise"])


@router.get("/plans/{int:plan_id}/noise", response=NoiseReview)
def show_noise(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Noise at every pin and on every picture, what filters do, and findings."""
    return as_json(reviewed_noise(reviewed(head_of(get_plan(plan_id)))).review)


@router.get("/plans/{int:plan_id}/noise/changes", response=list[Change])
def show_changes(request: HttpRequest, plan_id: int, before: RowId) -> list[Change]:
    """What the noise has done since another step of the plan."""
    return list(editing.noise_since(plan_id, before))


@router.post("/plans/{int:plan_id}/noise/preview", response=list[Change])
def preview_changes(request: HttpRequest, plan_id: int, body: EditBody) -> list[Change]:
    """What edits would do to the noise; nothing is stored."""
    return list(editing.preview_noise(plan_id, body.revision, body.edits))


class PathQuery(Body):
    device: str = Field(max_length=64)
    condition: str = Field(max_length=64)
    line: str | None = Field(default=None, max_length=200)


@router.get("/plans/{int:plan_id}/noise/path", response=NoisePath)
def show_path(request: HttpRequest, plan_id: int, asked: Query[PathQuery]) -> HttpResponse:
    """From the source of the loudest line to a device's pins, and the sweep."""
    found = reviewed(head_of(get_plan(plan_id)))
    return as_json(noise_path(found.solved.solved, asked.device, found.plan.condition(asked.condition), asked.line))


class TrialBody(Body):
    at: str = Field(max_length=64)
    purpose: Purpose
    lead_m: float = Field(default=0.01, ge=0, le=0.5)
    wanted_db: float | None = Field(default=None, gt=0, le=80)


@router.post("/plans/{int:plan_id}/noise/trials", response=Trials)
def try_parts(request: HttpRequest, plan_id: int, body: TrialBody) -> Trials:
    """Every part of the shelf that suits the place, tried on this plan."""
    document = reviewed(head_of(get_plan(plan_id))).plan
    document.element(body.at)
    parts = [*shelf.parts_of_kind("capacitor"), *shelf.parts_of_kind("filter")]
    return try_filters(document, body.at, body.purpose, parts, lead_m=body.lead_m, wanted_db=body.wanted_db)


@router.get("/plans/{int:plan_id}/noise/schools", response=list[SchoolTable])
def show_feed_schools(request: HttpRequest, plan_id: int, device: str) -> list[SchoolTable]:
    """Ways to feed and protect a device, each solved on this build."""
    document = reviewed(head_of(get_plan(plan_id))).plan
    parts = [*shelf.parts_of_kind("capacitor"), *shelf.parts_of_kind("filter")]
    return list(feed_schools(document, device, parts))
