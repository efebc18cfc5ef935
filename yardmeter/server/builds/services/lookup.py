"""Finding builds, plans and revisions that are not deleted."""

from __future__ import annotations

from yardmeter.server.builds.errors import NotFoundError
from yardmeter.server.builds.models import Build, Plan, Revision


def get_build(build_id: int) -> Build:
    found = Build.objects.filter(pk=build_id, deleted_at=None).first()
    if found is None:
        raise NotFoundError("This build does not exist.", where=f"build {build_id}", remedy="Choose one from the list.")
    return found


def get_plan(plan_id: int) -> Plan:
    found = (
        Plan.objects.select_related("build", "head")
        .defer("head__packed", "head__edits")  # read only when the analysis is not in memory
        .filter(pk=plan_id, deleted_at=None, build__deleted_at=None)
        .first()
    )
    if found is None:
        raise NotFoundError(
            "This plan does not exist.", where=f"plan {plan_id}", remedy="Choose one from the build's list."
        )
    return found


def head_of(plan: Plan) -> Revision:
    """The revision shown; a plan without one was never finished being made."""
    if plan.head is None:
        raise NotFoundError("This plan is empty.", where=f"plan {plan.pk}", remedy="Delete it and make it again.")
    return plan.head


def get_revision(plan: Plan, revision_id: int) -> Revision:
    found = Revision.objects.select_related("base").filter(plan=plan, pk=revision_id).first()
    if found is None:
        raise NotFoundError(
            "This step is not in the plan's history.",
            where=f"revision {revision_id}",
            remedy="Choose one from its history.",
        )
    return found
