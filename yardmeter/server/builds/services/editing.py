"""Edits, undo, redo, return: each checks the revision it starts from, in one transaction."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Max, QuerySet

from yardmeter.core.edits import apply_edits
from yardmeter.core.plan import SCHEMA_VERSION
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.plan.operations import Edit, Move
from yardmeter.review import Change, Reviewed, changes_between, review
from yardmeter.review.noise_changes import noise_changes
from yardmeter.review.tried_moves import MoveTried, try_move
from yardmeter.server.builds.documents import packed_step
from yardmeter.server.builds.errors import ConflictError, StaleError
from yardmeter.server.builds.models import Build, Plan, Revision
from yardmeter.server.builds.services.analysis import document_of, remember, reviewed, reviewed_noise, whole_behind
from yardmeter.server.builds.services.lookup import get_plan, get_revision, head_of
from yardmeter.server.builds.services.runs import overtaken
from yardmeter.words.edits import describe_edit

log = logging.getLogger(__name__)
SUMMARY_LENGTH = 200
SUMMARY_LINES = 3


@dataclass(frozen=True)
class Step:
    """A plan at a revision, with what the step to it changed and which revision it came from."""

    plan: Plan
    revision: Revision
    reviewed: Reviewed
    changes: tuple[Change, ...]
    before: int | None = None
    added: tuple[str, ...] = ()
    """Ids that were not there before."""


@dataclass(frozen=True)
class Preview:
    """What edits would do; nothing is stored."""

    reviewed: Reviewed
    changes: tuple[Change, ...]
    move: MoveTried | None = None


def show(plan_id: int) -> Step:
    plan = get_plan(plan_id)
    head = head_of(plan)
    return Step(plan, head, reviewed(head), ())


def preview(plan_id: int, revision_id: int, edits: Sequence[Edit], condition: str | None = None) -> Preview:
    """The same path as an edit without the store; of a move also whether the device can live there."""
    plan = get_plan(plan_id)
    _require_head(plan, revision_id)
    head = head_of(plan)
    before = _shown(head)
    after = review(apply_edits(before.plan if before else document_of(head), edits), before)
    if before is None:
        return Preview(after, ())
    move = edits[0] if len(edits) == 1 and isinstance(edits[0], Move) else None
    tried = try_move(before, after, move, condition) if move else None
    return Preview(after, changes_between(before, after), tried)


def preview_noise(plan_id: int, revision_id: int, edits: Sequence[Edit]) -> tuple[Change, ...]:
    """What edits would do to the noise; asked for beside the preview, since it takes longer."""
    before, after = _tried(plan_id, revision_id, edits)
    return _noise_between(before, after)


def noise_since(plan_id: int, revision_id: int) -> tuple[Change, ...]:
    """What the noise at the head has done since another step of the plan."""
    plan = get_plan(plan_id)
    return _noise_between(reviewed(get_revision(plan, revision_id)), reviewed(head_of(plan)))


def _noise_between(before: Reviewed, after: Reviewed) -> tuple[Change, ...]:
    dead = {(d.id, c) for d in after.solved.budget.devices for c, state in d.states.items() if state.verdict == "dead"}
    return noise_changes(after.plan, reviewed_noise(before), reviewed_noise(after), dead)


def _tried(plan_id: int, revision_id: int, edits: Sequence[Edit]) -> tuple[Reviewed, Reviewed]:
    plan = get_plan(plan_id)
    _require_head(plan, revision_id)
    before = reviewed(head_of(plan))
    return before, review(apply_edits(before.plan, edits), before)


def edit(plan_id: int, revision_id: int, edits: Sequence[Edit]) -> Step:
    """Apply edits to the head and store the new revision. Raises StaleError when the head has moved on."""
    plan = get_plan(plan_id)
    _require_head(plan, revision_id)
    head = head_of(plan)
    before = _shown(head)
    document = before.plan if before else document_of(head)
    summary = _summary(_describe_all(document, edits))
    after = review(apply_edits(document, edits), before)
    changes = changes_between(before, after) if before else ()
    with transaction.atomic():
        standing = Revision.objects.filter(plan=plan, plan__head=revision_id, plan__deleted_at=None)
        last = _last_number(standing)
        if last is None:
            plan = get_plan(plan_id)  # another tab was quicker
            _require_head(plan, revision_id)
        require_free_name(plan, after.plan.name)
        revision = append_revision(plan, after.plan, summary, [one.model_dump(mode="json") for one in edits], last)
    remember(revision, after)
    overtaken(plan_id, after.plan)
    return Step(plan, revision, after, changes, revision_id, _added(document, after.plan))


DEFECTS = (ArithmeticError, LookupError, ValueError, TypeError, AttributeError, RuntimeError, AssertionError)
"""What a defect of the program raises; a linear system without a solution is a ValueError."""


def _shown(head: Revision) -> Reviewed | None:
    """The analysis of the plan as it stands; None where the program fails at it: what mends such a plan must not fail too."""
    try:
        return reviewed(head)
    except DEFECTS:
        log.exception("revision %s cannot be analysed", head.pk)
        return None


def _added(before: PlanDocument, after: PlanDocument) -> tuple[str, ...]:
    was, now = ({*one.elements, *one.inner_ids()} for one in (before, after))
    return tuple(sorted(now - was))


def _last_number(revisions: QuerySet[Revision]) -> int | None:
    """The highest number of revisions of one plan; None where there are none."""
    found: int | None = revisions.aggregate(number=Max("number"))["number"]
    return found


def append_revision(
    plan: Plan, document: PlanDocument, summary: str, edits: list[dict[str, object]], last: int | None = None
) -> Revision:
    """Write the next revision behind the head and move head and tip to it. Call inside a transaction; `last` is the highest
    number there is, where that is known."""
    last = last or _last_number(Revision.objects.filter(plan=plan))
    whole = whole_behind(plan.head) if plan.head else None
    packed, is_whole = packed_step(
        whole.document if whole else None, whole.packed_bytes if whole else 0, document.plain
    )
    revision = Revision.objects.create(
        # By their keys: a plan and its head that hold each other, with their documents, wait for the collector.
        plan_id=plan.pk,
        parent_id=plan.head_id,
        base_id=None if is_whole or whole is None else whole.revision_id,
        number=(last or 0) + 1,
        schema_version=SCHEMA_VERSION,
        packed=packed,
        edits=edits,
        summary=summary,
    )
    plan.head = plan.tip = revision
    plan.name = document.name
    plan.save(update_fields=["head", "tip", "name"])
    return revision


def _describe_all(document: PlanDocument, edits: Sequence[Edit]) -> list[str]:
    """Words for each edit against the plan as it stands before that edit."""
    lines, current = [], document
    for one in edits:
        lines.append(describe_edit(current, one))
        current = apply_edits(current, [one]) if len(edits) > 1 else current
    return lines


def _summary(lines: list[str]) -> str:
    """The first lines, and how many more there are."""
    more = f" and {len(lines) - SUMMARY_LINES} more" if len(lines) > SUMMARY_LINES else ""
    return "; ".join(lines[:SUMMARY_LINES])[: SUMMARY_LENGTH - len(more)] + more


def undo(plan_id: int, revision_id: int) -> Step:
    """Step to the parent of the head."""
    plan = get_plan(plan_id)
    _require_head(plan, revision_id)
    parent = head_of(plan).parent
    if parent is None:
        raise ConflictError("There is nothing to undo.", where=plan.name, remedy="This is the plan's first state.")
    return _step_to(plan, revision_id, parent)


def redo(plan_id: int, revision_id: int) -> Step:
    """Step to the head's child on the line to the tip."""
    plan = get_plan(plan_id)
    _require_head(plan, revision_id)
    following = next_towards_tip(plan)
    if following is None:
        raise ConflictError("There is nothing to redo.", where=plan.name, remedy="This is the plan's newest state.")
    return _step_to(plan, revision_id, following)


def return_to(plan_id: int, revision_id: int, target_id: int) -> Step:
    """Show any step of the history again. One off the line to the tip starts a line of its own."""
    plan = get_plan(plan_id)
    _require_head(plan, revision_id)
    return _step_to(plan, revision_id, get_revision(plan, target_id))


def _step_to(plan: Plan, revision_id: int, target: Revision) -> Step:
    """Solved first, then written: nobody waits for the write lock while a plan is worked out."""
    head = head_of(plan)
    before, after = _shown(head), reviewed(target)
    with transaction.atomic():
        plan = get_plan(plan.pk)
        _require_head(plan, revision_id)  # another tab may have been quicker
        require_free_name(plan, after.plan.name)
        if target.pk not in {one.pk for one in line_to_tip(plan)}:
            plan.tip = target
        plan.head = target
        plan.name = after.plan.name
        plan.save(update_fields=["head", "tip", "name"])
    overtaken(plan.pk, after.plan)
    return Step(plan, target, after, changes_between(before, after) if before else (), head.pk)


def require_free_name(plan: Plan, name: str) -> None:
    """Raises ConflictError when another plan of the build has the name that this one is to get."""
    if name != plan.name and name in taken_names(plan.build, but=plan):
        raise ConflictError(
            f"Another plan of {plan.build.name} is called “{name}”.",
            where="name",
            remedy="Choose another name, or rename that plan first.",
        )


def taken_names(build: Build, but: Plan | None = None) -> set[str]:
    """Names of a build's plans that are not deleted, without one of them."""
    plans = build.plans.filter(deleted_at=None)
    return set((plans.exclude(pk=but.pk) if but else plans).values_list("name", flat=True))


def all_steps(plan: Plan) -> list[Revision]:
    """Every revision there is of the plan, oldest first, those off the line to the tip included."""
    return list(Revision.objects.filter(plan=plan).defer("packed", "edits"))


def line_to_tip(plan: Plan) -> list[Revision]:
    """The revisions from the first to the tip, in order."""
    by_id = {one.pk: one for one in all_steps(plan)}
    line, at = [], plan.tip_id
    while at is not None:
        line.append(by_id[at])
        at = by_id[at].parent_id
    return line[::-1]


def next_towards_tip(plan: Plan) -> Revision | None:
    if plan.head_id == plan.tip_id:
        return None
    line = line_to_tip(plan)
    ids = [one.pk for one in line]
    if plan.head_id not in ids:
        return None
    return get_revision(plan, ids[ids.index(plan.head_id) + 1])


def _require_head(plan: Plan, revision_id: int) -> None:
    head = head_of(plan)
    if head.pk == revision_id:
        return
    theirs = Revision.objects.filter(plan=plan, pk=revision_id).first()
    newer = (
        Revision.objects.filter(plan=plan, number__gt=theirs.number).order_by("number")
        if theirs
        else Revision.objects.none()
    )
    steps = [one.summary for one in newer[:5]] or [f"now at “{head.summary}”"]
    raise StaleError(head.pk, steps)


def document_at(plan_id: int, revision_id: int | None = None) -> PlanDocument:
    """The plan document at its head or at a given revision."""
    plan = get_plan(plan_id)
    revision = head_of(plan) if revision_id is None else get_revision(plan, revision_id)
    return document_of(revision)
