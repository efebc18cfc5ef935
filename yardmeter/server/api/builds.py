"""Builds: list, make, rename, delete, restore."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Status
from pydantic import BaseModel

from yardmeter.core.choices.suited import suited
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.starting import start_plan
from yardmeter.core.errors import EditError
from yardmeter.core.formats.plan_json import read_plan
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.plan import Plan
from yardmeter.review.joining import motor_signals
from yardmeter.review.sketch import Sketch, sketch
from yardmeter.server.api.schemas import (
    BuildSummary,
    DemoView,
    NewBuildBody,
    RenameBody,
    SketchBody,
    StartBody,
    StartedView,
    StartWiredBody,
    SuitedBody,
    TextBody,
    build_summary,
)
from yardmeter.server.builds.services import demos, layouts, lifecycle
from yardmeter.server.builds.services.lookup import get_build
from yardmeter.server.shelf import services as shelf
from yardmeter.words.suited import against_words

router = Router(tags=["builds"])


@router.get("", response=list[BuildSummary])
def list_builds(request: HttpRequest) -> list[BuildSummary]:
    return [build_summary(build) for build in lifecycle.list_builds()]


@router.get("/demos", response=list[DemoView])
def list_demos(request: HttpRequest) -> list[DemoView]:
    """Demo builds that can be copied into this data file."""
    return [DemoView(key=one.key, name=one.name, note=one.note) for one in demos.demo_list()]


@router.post("", response={201: BuildSummary})
def create_build(request: HttpRequest, body: NewBuildBody) -> Status[BuildSummary]:
    """A build from a demo's plans or from one plan document."""
    if body.demo is not None:
        return Status(201, build_summary(demos.add_demo(body.demo)))
    if body.plan is None:
        raise EditError("A new build needs a plan or a demo to start from.", where="plan", remedy="Send one of them.")
    return Status(201, build_summary(lifecycle.create_build(body.name or body.plan.name, [body.plan])))


@router.post("/start", response={201: StartedView})
def start_build(request: HttpRequest, body: StartWiredBody) -> Status[StartedView]:
    """A build from pack, boards and devices of the shelf, wired as its lightest layout where something would be wrong otherwise."""
    plan = _started("first wiring", body)
    build = lifecycle.create_build(body.name, [plan], summary="Started from the shelf")
    wired = ""
    if body.wire:
        step = layouts.wired(build.plans.get().pk, Wishes(owned=shelf.drawer()), shelf.parts_to_buy())
        wired = step.revision.summary if step else ""
    return Status(201, StartedView(**build_summary(build).model_dump(), wired=wired))


@router.post("/sketch", response=Sketch)
def sketch_build(request: HttpRequest, body: SketchBody) -> Sketch:
    """What the craft looks like so far; stores nothing."""
    if not body.pack:
        return Sketch(waiting="Choose a pack, and its volts stand here.")
    try:
        plan = _started("sketch", body)
    except EditError as error:
        return Sketch(waiting=f"{error.what} {error.remedy}")
    return sketch(plan)


class SuitedPart(BaseModel):
    """A part in the order in which it suits; `against` says what speaks against it, nothing where it suits."""

    key: str
    against: str


@router.post("/suited", response=list[SuitedPart])
def suited_parts(request: HttpRequest, body: SuitedBody) -> list[SuitedPart]:
    """Parts of the shelf, those that suit the pack, the shape and the rails so far first."""
    parts = [one for kind in body.kinds for one in shelf.parts_of_kind(kind)]
    if not body.pack:
        return [SuitedPart(key=one.key, against="") for one in parts]
    try:
        plan = _started("sketch", body.model_copy(update={"devices": []}))
    except EditError:  # the board it hangs from is not chosen yet
        plan = start_plan("sketch", shelf.get_part(body.pack), [], [], "leads")
    return [SuitedPart(key=one.key, against=against_words(one)) for one in suited(plan, body.topology, parts)]


def _started(name: str, body: StartBody) -> Plan:
    """With the motors' signals, as their leads carry them; everything else is joined by the builder."""
    boards = [shelf.get_part(key) for key in body.boards]
    devices = [shelf.get_part(key) for key in body.devices]
    plan = start_plan(name, shelf.get_part(body.pack), boards, devices, body.topology)
    return apply_edits(plan, motor_signals(plan))


@router.post("/read", response={201: BuildSummary})
def read_build(request: HttpRequest, body: TextBody) -> Status[BuildSummary]:
    """A build from the text of a plan file; validated whole before anything is stored."""
    plan = read_plan(body.text)
    return Status(
        201, build_summary(lifecycle.create_build(plan.name, [plan], note=plan.note, summary="Read from a file"))
    )


@router.get("/{int:build_id}", response=BuildSummary)
def show_build(request: HttpRequest, build_id: int) -> BuildSummary:
    return build_summary(get_build(build_id))


@router.patch("/{int:build_id}", response=BuildSummary)
def rename_build(request: HttpRequest, build_id: int, body: RenameBody) -> BuildSummary:
    return build_summary(lifecycle.rename_build(build_id, body.name, body.version))


@router.delete("/{int:build_id}", response=BuildSummary)
def delete_build(request: HttpRequest, build_id: int) -> BuildSummary:
    """Marks it deleted; `restore` brings it back."""
    return build_summary(lifecycle.delete_build(build_id))


@router.post("/{int:build_id}/restore", response=BuildSummary)
def restore_build(request: HttpRequest, build_id: int) -> BuildSummary:
    return build_summary(lifecycle.restore_build(build_id))
