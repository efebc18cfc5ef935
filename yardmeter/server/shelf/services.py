"""What can be done with the shelf."""

from __future__ import annotations

from collections.abc import Iterable
from functools import reduce
from operator import or_

from django.db import transaction
from django.db.models import Q, QuerySet

from yardmeter import demo
from yardmeter.core.edits.placing import update_from_part
from yardmeter.core.errors import EditError
from yardmeter.core.parts import Part, load_part
from yardmeter.core.plan import SCHEMA_VERSION
from yardmeter.server.builds.errors import ConflictError, NotFoundError, StaleError
from yardmeter.server.builds.models import Plan, Revision
from yardmeter.server.builds.services import editing
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.server.shelf.models import PartRow
from yardmeter.words.synonyms import alike

FOUND_AT_MOST = 300
MANY = 500
"""Rows written at a time."""
_FIELDS = ("name", "kind", "words", "document", "schema_version", "own")


def _words(part: Part) -> str:
    kind = part.device.kind if part.device else ""
    volts = f"{part.bec.set_v:g}v {part.bec.rating_a:g}a" if part.bec else ""
    return " ".join((part.name, part.kind, kind, volts, part.note, part.key)).lower()


def _fields(part: Part, *, own: bool) -> dict[str, object]:
    return {
        "name": part.name,
        "kind": part.kind,
        "words": _words(part),
        "document": part.model_dump(mode="json"),
        "schema_version": SCHEMA_VERSION,
        "own": own,
    }


@transaction.atomic
def stock_shelf() -> int:
    """Put the starter parts on the shelf where they are missing, and bring up parts written in an older form.

    Parts of the builder's own are not changed otherwise.
    """
    for row in PartRow.objects.filter(schema_version__lt=SCHEMA_VERSION):
        part = load_part(row.document, row.schema_version)
        PartRow.objects.filter(pk=row.pk).update(**_fields(part, own=row.own))
    known = set(PartRow.objects.values_list("key", flat=True))
    fresh = [
        PartRow(key=part.key, **_fields(part, own=False)) for part in demo.starter_parts() if part.key not in known
    ]
    PartRow.objects.bulk_create(fresh)
    return len(fresh)


SHORT = 3
"""Letters of a word that is looked for only as it is typed: in the middle of others it stands by chance."""


def search(text: str, kind: str | None) -> QuerySet[PartRow]:
    """Parts that hold every word typed, or one that means the same, at most 300."""
    found = PartRow.objects.all()
    if kind:
        found = found.filter(kind=kind)
    for word in text.lower().split():
        found = found.filter(
            reduce(or_, (Q(words__contains=one) for one in alike(word) if one == word or len(one) > SHORT))
        )
    return found[:FOUND_AT_MOST]


def get_row(key: str) -> PartRow:
    row = PartRow.objects.filter(key=key).first()
    if row is None:
        raise NotFoundError("This part is not on the shelf.", where=key, remedy="Search for another one.")
    return row


def get_part(key: str) -> Part:
    return load_part(get_row(key).document)


def parts_of_kind(kind: str) -> list[Part]:
    return [load_part(row.document) for row in PartRow.objects.filter(kind=kind)]


def parts_to_buy() -> list[Part]:
    """What a fix or a layout may add."""
    return [part for kind in ("bec", "filter", "capacitor", "pack") for part in parts_of_kind(kind)]


def all_parts() -> list[Part]:
    return [load_part(row.document) for row in PartRow.objects.all()]


@transaction.atomic
def create_part(part: Part) -> PartRow:
    """A new part of the builder's own."""
    if PartRow.objects.filter(key=part.key).exists():
        raise ConflictError(f"The key {part.key} is taken.", where="key", remedy="Choose another key.")
    return PartRow.objects.create(key=part.key, **_fields(part, own=True))


@transaction.atomic
def change_part(part: Part, version: int) -> PartRow:
    """Store a changed part; a starter one becomes the builder's own. Raises StaleError when it was changed since that version."""
    row = get_row(part.key)
    if row.version != version:
        raise StaleError(row.version, [f"it is “{row.name}” now"], what="part")
    return _overwrite(row, part)


def _overwrite(row: PartRow, part: Part) -> PartRow:
    for name, value in _fields(part, own=True).items():
        setattr(row, name, value)
    row.version += 1
    row.save()
    return row


@transaction.atomic
def import_parts(parts: Iterable[Part]) -> int:
    """Store all of them, or none; of two with one key the later one."""
    by_key = {part.key: part for part in parts}
    rows = {row.key: row for row in PartRow.objects.filter(key__in=list(by_key))} if len(by_key) < MANY else {row.key: row for row in PartRow.objects.all()}  # fmt: skip
    changed = []
    for key, row in rows.items():
        if key in by_key:
            for name, value in _fields(by_key[key], own=True).items():
                setattr(row, name, value)
            row.version += 1
            changed.append(row)
    fresh = [PartRow(key=key, **_fields(part, own=True)) for key, part in by_key.items() if key not in rows]
    PartRow.objects.bulk_update(changed, [*_FIELDS, "version"], batch_size=MANY)
    PartRow.objects.bulk_create(fresh, batch_size=MANY)
    return len(by_key)


@transaction.atomic
def keep_in_drawer(key: str, count: int) -> PartRow:
    """How many of a part are there already; the part itself stays as it is."""
    row = get_row(key)
    row.owned = count
    row.save(update_fields=["owned"])
    return row


def drawer() -> dict[str, int]:
    """By key of a part how many are there."""
    return dict(PartRow.objects.filter(owned__gt=0).values_list("key", "owned"))


@transaction.atomic
def delete_part(key: str) -> None:
    row = get_row(key)
    if not row.own:
        raise EditError(
            "A starter part stays on the shelf.", where=row.name, remedy="Only parts of your own can be removed."
        )
    row.delete()


def used_in(key: str) -> list[Plan]:
    """Plans whose shown revision holds a device of this part."""
    heads = Plan.objects.filter(deleted_at=None, build__deleted_at=None).select_related("build", "head__base")
    return [plan for plan in heads if plan.head and _uses(plan.head, key)]


def _uses(revision: Revision, key: str) -> bool:
    return any(device.get("part") == key for device in revision.document().get("devices", ()))


def update_plan(plan_id: int, key: str) -> editing.Step:
    """Bring a plan's devices of this part up to date: one edit, to be undone like any other."""
    plan = get_plan(plan_id)
    head = head_of(plan)
    edits = update_from_part(editing.document_at(plan_id), get_part(key))
    if not edits:
        raise EditError("This plan is up to date with the part.", where=plan.name, remedy="There is nothing to change.")
    return editing.edit(plan_id, head.pk, edits)
