"""Plans: show, edit, preview, undo, redo, history, working, tolerance run, open formats."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Status
from pydantic import BaseModel, Field

from yardmeter.core.answers.spread import Spread
from yardmeter.core.choices.cliff import Cliff, cliff
from yardmeter.core.choices.places import Weights
from yardmeter.core.edits import dependants
from yardmeter.core.errors import EditError
from yardmeter.review import Quantity, Working, working
from yardmeter.review.compare import Comparison, Side, compare
from yardmeter.review.fixes import FixesOf
from yardmeter.review.hookup import Hookup, hookup
from yardmeter.review.joining import usual_signals
from yardmeter.review.lead import Lead, lead
from yardmeter.review.placement import Place, places
from yardmeter.review.schools import SchoolTable, schools
from yardmeter.review.sketch import Glance, glance
from yardmeter.review.workings.noise import noise_working
from yardmeter.server.api.schemas import (
    Body,
    EditBody,
    HistoryEntry,
    NameBody,
    PlanSummary,
    PlanView,
    PreviewBody,
    PreviewView,
    ReturnBody,
    RowId,
    StepBody,
    as_json,
    history_entry,
    plan_view,
    preview_view,
)
from yardmeter.server.builds.services import editing, lifecycle
from yardmeter.server.builds.services.analysis import fixes_of, reviewed, reviewed_noise, spread_of
from yardmeter.server.builds.services.lookup import get_plan, get_revision, head_of
from yardmeter.server.shelf import services as shelf
from yardmeter.words.told import ToldFix

router = Router(tags=["plans"])


@router.get("/{int:plan_id}", response=PlanView)
def show_plan(request: HttpRequest, plan_id: int) -> HttpResponse:
    return as_json(plan_view(editing.show(plan_id), stepped=False))


class GlanceView(BaseModel):
    """A plan on the page of builds, and when it was last changed."""

    changed_at: str
    summary: str
    glance: Glance


@router.get("/{int:plan_id}/glance", response=GlanceView)
def show_glance(request: HttpRequest, plan_id: int) -> HttpResponse:
    head = head_of(get_plan(plan_id))
    at, found = head.created_at.isoformat(timespec="seconds"), reviewed(head)
    return as_json(GlanceView(changed_at=at, summary=head.summary, glance=glance(found, reviewed_noise(found))))


class HeadView(BaseModel):
    """Where a plan stands: for a tab that wants to know whether another one has moved it."""

    revision: int
    summary: str


@router.get("/{int:plan_id}/head", response=HeadView)
def show_head(request: HttpRequest, plan_id: int) -> HeadView:
    head = head_of(get_plan(plan_id))
    return HeadView(revision=head.pk, summary=head.summary)


@router.post("/{int:plan_id}/edits", response=PlanView)
def edit_plan(request: HttpRequest, plan_id: int, body: EditBody) -> HttpResponse:
    """Apply edits in order and store one new revision."""
    return as_json(plan_view(editing.edit(plan_id, body.revision, body.edits)))


@router.post("/{int:plan_id}/preview", response=PreviewView)
def preview_plan(request: HttpRequest, plan_id: int, body: PreviewBody) -> HttpResponse:
    """What the edits would do; nothing is stored."""
    return as_json(preview_view(editing.preview(plan_id, body.revision, body.edits, body.condition)))


@router.post("/{int:plan_id}/undo", response=PlanView)
def undo(request: HttpRequest, plan_id: int, body: StepBody) -> HttpResponse:
    return as_json(plan_view(editing.undo(plan_id, body.revision)))


@router.post("/{int:plan_id}/redo", response=PlanView)
def redo(request: HttpRequest, plan_id: int, body: StepBody) -> HttpResponse:
    return as_json(plan_view(editing.redo(plan_id, body.revision)))


@router.post("/{int:plan_id}/return", response=PlanView)
def return_to(request: HttpRequest, plan_id: int, body: ReturnBody) -> HttpResponse:
    """Show any step of the history again."""
    return as_json(plan_view(editing.return_to(plan_id, body.revision, body.to)))


@router.get("/{int:plan_id}/history", response=list[HistoryEntry])
def history(request: HttpRequest, plan_id: int) -> list[HistoryEntry]:
    """Every step there is, oldest first: those of the line to the newest, with the undone part marked, and those beside it."""
    plan = get_plan(plan_id)
    line = [one.pk for one in editing.line_to_tip(plan)]
    undone = set(line[line.index(plan.head_id) + 1 :]) if plan.head_id in line else set()
    return [
        history_entry(plan, one, undone=one.pk in undone, aside=one.pk not in line) for one in editing.all_steps(plan)
    ]


class FixesView(BaseModel):
    """Fixes that were tried on a revision, by the key of the finding they cure."""

    revision: int
    findings: tuple[FixesOf, ...]


@router.get("/{int:plan_id}/fixes", response=FixesView)
def show_fixes(request: HttpRequest, plan_id: int, revision: RowId | None = None) -> HttpResponse:
    """Every fix of the findings, noise included, that cures its own and brings nothing as bad; each was solved for that."""
    plan = get_plan(plan_id)
    at = get_revision(plan, revision) if revision else head_of(plan)
    return as_json(
        FixesView(
            revision=at.pk,
            findings=fixes_of(reviewed(at), shelf.parts_to_buy()),
        )
    )


class WorkingQuery(Body):
    element: str = Field(max_length=64)
    quantity: Quantity
    condition: str = Field(max_length=64)
    revision: RowId | None = None


@router.get("/{int:plan_id}/working", response=Working)
def show_working(request: HttpRequest, plan_id: int, asked: Query[WorkingQuery]) -> HttpResponse:
    """Formula, inputs and their origin for one number on screen."""
    plan = get_plan(plan_id)
    revision = get_revision(plan, asked.revision) if asked.revision else head_of(plan)
    found = reviewed(revision)
    if asked.quantity == "noise":
        condition = found.plan.condition(asked.condition)
        return as_json(noise_working(found.plan, reviewed_noise(found).review, asked.element, condition))
    return as_json(working(found.solved, asked.element, asked.quantity, asked.condition))


@router.get("/{int:plan_id}/dependants", response=list[str])
def show_dependants(request: HttpRequest, plan_id: int, element: str) -> list[str]:
    """What goes when this element is removed."""
    plan = editing.document_at(plan_id)
    plan.element(element)
    return list(dependants(plan, element))


@router.get("/{int:plan_id}/schools", response=list[SchoolTable])
def show_schools(request: HttpRequest, plan_id: int) -> list[SchoolTable]:
    """Ways to run the grounds, each solved on this build."""
    return list(schools(editing.document_at(plan_id)))


@router.get("/{int:plan_id}/cliff", response=Cliff)
def show_cliff(request: HttpRequest, plan_id: int, signal: str) -> Cliff:
    """Where a signal falls off its margin, over the length of its ground wire and the motors' current."""
    solved = reviewed(head_of(get_plan(plan_id))).solved.solved
    solved.plan.element(signal)
    if signal not in solved.plan.signal_of:
        raise EditError(f"{solved.plan.title(signal)} is no signal.", remedy="Name a signal of the plan.")
    return cliff(solved, signal)


@router.get("/{int:plan_id}/hookup", response=Hookup)
def show_hookup(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Every wire, pin by pin."""
    return as_json(hookup(reviewed(head_of(get_plan(plan_id))).solved))


@router.get("/{int:plan_id}/signals/usual", response=list[ToldFix])
def show_usual_signals(request: HttpRequest, plan_id: int) -> list[ToldFix]:
    """Links of pins that are free and usually joined, as edits to take or leave."""
    return list(usual_signals(reviewed(head_of(get_plan(plan_id))).plan))


class PlacesBody(Body):
    device: str = Field(max_length=64)
    weights: Weights = Weights()


@router.post("/{int:plan_id}/places", response=list[Place])
def show_places(request: HttpRequest, plan_id: int, body: PlacesBody) -> list[Place]:
    """Every place a device could be fed from, tried and ranked."""
    return list(
        places(
            editing.document_at(plan_id),
            body.device,
            body.weights,
            shelf.parts_to_buy(),
        )
    )


@router.get("/{int:plan_id}/lead", response=Lead)
def show_lead(request: HttpRequest, plan_id: int, device: str) -> Lead:
    """What a device's ticket begins with."""
    return lead(editing.document_at(plan_id), device)


@router.get("/compare", response=Comparison)
def compare_plans(request: HttpRequest, ids: Query[list[int]]) -> HttpResponse:
    """Two to six plans side by side."""
    if not 2 <= len(ids) <= 6:
        raise EditError("Between two and six plans can be compared.", where="ids", remedy="Choose two or more.")
    found = [reviewed(head_of(get_plan(plan_id))) for plan_id in ids]
    return as_json(compare([Side(one.plan, one.analysis, reviewed_noise(one).review) for one in found]))


class SpreadBody(Body):
    samples: int = Field(default=2000, ge=50, le=5000)
    seed: int = Field(default=1, ge=0, le=2**31)


@router.post("/{int:plan_id}/spread", response=Spread)
def run_spread(request: HttpRequest, plan_id: int, body: SpreadBody) -> HttpResponse:
    """Tolerance run over all conditions: chances of overload and brown-out, and what to measure next."""
    return as_json(spread_of(reviewed(head_of(get_plan(plan_id))), body.samples, body.seed))


@router.post("/{int:plan_id}/copy", response={201: PlanSummary})
def copy_plan(request: HttpRequest, plan_id: int, body: NameBody) -> Status[PlanSummary]:
    plan = lifecycle.copy_plan(plan_id, body.name)
    return Status(201, PlanSummary(id=plan.pk, name=plan.name, revision=plan.head_id or 0))


@router.delete("/{int:plan_id}", response=PlanSummary)
def delete_plan(request: HttpRequest, plan_id: int) -> PlanSummary:
    plan = lifecycle.delete_plan(plan_id)
    return PlanSummary(id=plan.pk, name=plan.name, revision=plan.head_id or 0)


@router.post("/{int:plan_id}/restore", response=PlanSummary)
def restore_plan(request: HttpRequest, plan_id: int) -> PlanSummary:
    plan = lifecycle.restore_plan(plan_id)
    return PlanSummary(id=plan.pk, name=plan.name, revision=plan.head_id or 0)
