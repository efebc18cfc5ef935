"""Bodies of requests and answers. Plans, edits and analyses are the core's own models."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from django.http import HttpResponse
from pydantic import BaseModel, ConfigDict, Field
from pydantic_core import to_json

from yardmeter.core.edits.starting import Topology
from yardmeter.core.parts.part import PartKind
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.core.plan.parts import Name
from yardmeter.review import Analysis, Change
from yardmeter.review.tried_moves import MoveTried
from yardmeter.server.builds.services import demos
from yardmeter.server.builds.services.editing import Preview, Step, next_towards_tip

if TYPE_CHECKING:
    from yardmeter.server.builds.models import Build, Revision
    from yardmeter.server.builds.models import Plan as PlanRow

RowId = Annotated[int, Field(ge=1, le=2**62)]


class Body(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class PlanSummary(BaseModel):
    id: int
    name: str
    revision: int


class BuildSummary(BaseModel):
    id: int
    name: str
    version: int
    note: str
    demo: str
    plans: list[PlanSummary]


class StartedView(BuildSummary):
    """A new build; `wired` says what was moved or added for it to stand, in the step that Undo takes back."""

    wired: str = ""


class PlanView(BaseModel):
    """Everything a screen needs of a plan at its head, and what the step to it changed."""

    id: int
    build: BuildSummary
    revision: int
    number: int
    summary: str
    undo: str | None
    redo: str | None
    plan: Plan
    analysis: Analysis
    changes: tuple[Change, ...]
    stepped: bool = False
    """Whether this answers a step just taken, so that `changes` speaks of it even when nothing moved."""
    before: int | None = None
    """The revision the step came from."""
    added: tuple[str, ...] = ()
    """Ids of elements, pads, pins and returns that are there since that step."""


class PreviewView(BaseModel):
    plan: Plan
    analysis: Analysis
    changes: tuple[Change, ...]
    move: MoveTried | None
    """Of the move, where the edits are one."""


class EditBody(Body):
    """Edits that start from `revision`; a stale one is refused with 409 and loses nothing."""

    revision: RowId
    edits: list[Edit] = Field(min_length=1, max_length=200)


class PreviewBody(EditBody):
    condition: Annotated[str, Field(max_length=64)] | None = None
    """The condition a move is looked at in; each rail's worst on the pack when left out."""


class StepBody(Body):
    revision: RowId


class ReturnBody(StepBody):
    to: RowId


class NameBody(Body):
    name: Name


class RenameBody(NameBody):
    """`version` is the build's as it was on screen; a stale one is refused with 409."""

    version: int = Field(ge=1, le=2**31 - 1)


class NewBuildBody(Body):
    """A build from a plan document, or from a demo by its key."""

    name: Name | None = None
    demo: str | None = Field(default=None, max_length=40, json_schema_extra={"enum": [None, *demos.keys()]})
    plan: Plan | None = None


class StartBody(Body):
    """A build from nothing: how the pack reaches things, and keys of parts on the shelf; devices go where their volts fit."""

    name: Name
    topology: Topology = "power-board"
    pack: str = Field(max_length=64)
    boards: list[str] = Field(default=[], max_length=20)
    devices: list[str] = Field(default=[], max_length=100)


class StartWiredBody(StartBody):
    """With `wire` false the plan stays as it was put together, for somebody who looks through its layouts next."""

    wire: bool = True


class SketchBody(StartBody):
    """A build that is still being chosen."""

    name: Name = "sketch"
    pack: str = Field(default="", max_length=64)


class SuitedBody(SketchBody):
    """Which parts of the shelf suit a build that is still being chosen."""

    kinds: list[PartKind] = Field(max_length=10)


class TextBody(Body):
    text: str = Field(max_length=4_200_000)


class HistoryEntry(BaseModel):
    """One step there ever was. `aside` ones are off the line that undo and redo walk along; each can be returned to."""

    revision: int
    number: int
    summary: str
    at: str
    current: bool
    undone: bool
    aside: bool
    parent: int | None


class DemoView(BaseModel):
    key: str = Field(json_schema_extra={"enum": [*demos.keys()]})
    name: str
    note: str


def build_summary(build: Build) -> BuildSummary:
    plans = [
        PlanSummary(id=p.pk, name=p.name, revision=p.head_id or 0) for p in build.plans.all() if p.deleted_at is None
    ]
    return BuildSummary(
        id=build.pk, name=build.name, version=build.version, note=build.note, demo=build.demo, plans=plans
    )


def plan_view(step: Step, *, stepped: bool = True) -> PlanView:
    following = next_towards_tip(step.plan)
    return PlanView(
        id=step.plan.pk,
        build=build_summary(step.plan.build),
        revision=step.revision.pk,
        number=step.revision.number,
        summary=step.revision.summary,
        undo=step.revision.summary if step.revision.parent_id else None,
        redo=following.summary if following else None,
        plan=step.reviewed.plan,
        analysis=step.reviewed.analysis,
        changes=step.changes,
        stepped=stepped,
        before=step.before,
        added=step.added,
    )


def preview_view(found: Preview) -> PreviewView:
    return PreviewView(
        plan=found.reviewed.plan, analysis=found.reviewed.analysis, changes=found.changes, move=found.move
    )


def history_entry(plan: PlanRow, revision: Revision, *, undone: bool, aside: bool) -> HistoryEntry:
    return HistoryEntry(
        revision=revision.pk,
        number=revision.number,
        summary=revision.summary,
        at=revision.created_at.isoformat(),
        current=revision.pk == plan.head_id,
        undone=undone,
        aside=aside,
        parent=revision.parent_id,
    )


def as_json(body: BaseModel, status: int = 200) -> HttpResponse:
    """Serialise once, in Rust: the framework's own way validates and dumps every answer again."""
    return HttpResponse(to_json(body, inf_nan_mode="null"), status=status, content_type="application/json")
