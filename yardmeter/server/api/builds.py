"""Builds: list, make, rename, delete, restore."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Status

from yardmeter.core.edits.starting import start_plan
from yardmeter.core.errors import EditError
from yardmeter.core.formats.plan_json import read_plan
from yardmeter.server.api.schemas import (
    BuildSummary,
    DemoView,
    NewBuildBody,
    RenameBody,
    StartBody,
    TextBody,
    build_summary,
)
from yardmeter.server.builds.services import demos, keeping
from yardmeter.server.builds.services.lookup import get_build
from yardmeter.server.shelf import services as shelf

router = Router(tags=["builds"])


@router.get("", response=list[BuildSummary])
def list_builds(request: HttpRequest) -> list[BuildSummary]:
    return [build_summary(build) for build in keeping.list_builds()]


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
    return Status(201, build_summary(keeping.create_build(body.name or body.plan.name, [body.plan])))


@router.post("/start", response={201: BuildSummary})
def start_build(request: HttpRequest, body: StartBody) -> Status[BuildSummary]:
    """A build from pack, boards and devices of the shelf."""
    boards = [shelf.get_part(key) for key in body.boards]
    devices = [shelf.get_part(key) for key in body.devices]
    plan = start_plan("first wiring", shelf.get_part(body.pack), boards, devices)
    return Status(201, build_summary(keeping.create_build(body.name, [plan], summary="Started from the shelf")))


@router.post("/read", response={201: BuildSummary})
def read_build(request: HttpRequest, body: TextBody) -> Status[BuildSummary]:
    """A build from the text of a plan file; validated whole before anything is stored."""
    plan = read_plan(body.text)
    return Status(
        201, build_summary(keeping.create_build(plan.name, [plan], note=plan.note, summary="Read from a file"))
    )


@router.get("/{int:build_id}", response=BuildSummary)
def show_build(request: HttpRequest, build_id: int) -> BuildSummary:
    return build_summary(get_build(build_id))


@router.patch("/{int:build_id}", response=BuildSummary)
def rename_build(request: HttpRequest, build_id: int, body: RenameBody) -> BuildSummary:
    return build_summary(keeping.rename_build(build_id, body.name, body.version))


@router.delete("/{int:build_id}", response=BuildSummary)
def delete_build(request: HttpRequest, build_id: int) -> BuildSummary:
    """Marks it deleted; `restore` brings it back."""
    return build_summary(keeping.delete_build(build_id))


@router.post("/{int:build_id}/restore", response=BuildSummary)
def restore_build(request: HttpRequest, build_id: int) -> BuildSummary:
    return build_summary(keeping.restore_build(build_id))
