"""Making, naming, copying, deleting and restoring builds and plans."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Prefetch
from django.utils import timezone

from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.server.builds.errors import ConflictError, NotFoundError, StaleError
from yardmeter.server.builds.models import Build, Plan
from yardmeter.server.builds.services.editing import append_revision, document_at, taken_names
from yardmeter.server.builds.services.lookup import get_build, get_plan

LAST_PLAN = "A build keeps at least one plan."


def list_builds() -> list[Build]:
    """All builds with their plans, none deleted."""
    plans = Prefetch("plans", queryset=Plan.objects.filter(deleted_at=None))
    return list(Build.objects.filter(deleted_at=None).prefetch_related(plans))


@transaction.atomic
def create_build(
    name: str, documents: list[PlanDocument], *, note: str = "", demo: str = "", summary: str = "New build"
) -> Build:
    """A build with one plan per document."""
    build = Build.objects.create(name=name, note=note, demo=demo)
    for document in documents:
        create_plan(build, document, summary)
    return build


@transaction.atomic
def create_plan(build: Build, document: PlanDocument, summary: str) -> Plan:
    """A plan whose first revision is the document; the name is made unique in the build."""
    name = _free_name(build, document.name)
    if name != document.name:
        document = document.model_copy(update={"name": name})
    plan = Plan.objects.create(build=build, name=name)
    append_revision(plan, document, summary, [])
    return plan


def _free_name(build: Build, wanted: str) -> str:
    taken = taken_names(build)
    name, number = wanted, 1
    while name in taken:
        number += 1
        name = f"{wanted[:74]} ({number})"
    return name


def copy_plan(plan_id: int, name: str | None) -> Plan:
    """A new plan of the same build that starts from this one's head."""
    plan = get_plan(plan_id)
    document = document_at(plan_id)
    wanted = name or f"{document.name} copy"
    return create_plan(plan.build, document.model_copy(update={"name": wanted[:80]}), f"Copied from {plan.name}")


@transaction.atomic
def rename_build(build_id: int, name: str, version: int) -> Build:
    """Raises StaleError when somebody else has changed the build since that version."""
    build = get_build(build_id)
    if build.version != version:
        raise StaleError(build.version, [f"the build is called “{build.name}” now"], what="build")
    build.name = name
    build.version += 1
    build.save(update_fields=["name", "version"])
    return build


@transaction.atomic
def delete_plan(plan_id: int) -> Plan:
    plan = get_plan(plan_id)
    if plan.build.plans.filter(deleted_at=None).count() == 1:
        raise ConflictError(LAST_PLAN, where=plan.name, remedy="Delete the build instead, or copy the plan first.")
    plan.deleted_at = timezone.now()
    plan.save(update_fields=["deleted_at"])
    return plan


@transaction.atomic
def restore_plan(plan_id: int) -> Plan:
    plan = Plan.objects.filter(pk=plan_id).first()
    if plan is None:
        raise NotFoundError("This plan does not exist.", where=f"plan {plan_id}", remedy="It was never made here.")
    if plan.deleted_at is None:
        return get_plan(plan_id)
    name = _free_name(plan.build, plan.name)
    plan.deleted_at = None
    plan.save(update_fields=["deleted_at"])
    if name != plan.name:
        document = document_at(plan_id).model_copy(update={"name": name})
        append_revision(plan, document, f"Brought back as “{name}”", [])
    return get_plan(plan_id)


@transaction.atomic
def delete_build(build_id: int) -> Build:
    build = get_build(build_id)
    build.deleted_at = timezone.now()
    build.save(update_fields=["deleted_at"])
    return build


@transaction.atomic
def restore_build(build_id: int) -> Build:
    build = Build.objects.filter(pk=build_id).first()
    if build is None:
        raise NotFoundError("This build does not exist.", where=f"build {build_id}", remedy="It was never made here.")
    build.deleted_at = None
    build.save(update_fields=["deleted_at"])
    return build
