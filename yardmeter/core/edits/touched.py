"""An edited document as a plan: what no edit touched is the very element it was, and was validated when it came."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.plan.operations import Edit

Document = dict[str, Any]


def edited_plan(plan: Plan, after: Document, edit: Edit) -> Plan:
    """`after` validated as a whole, which was made of the plain form of `plan`. Raises PlanError.

    Nine tenths of the time of an edit's validation go into elements that are as they were; and what is the same object is seen
    to be equal at once by whoever looks for what differs. What the edit names is always read anew: to Python `true` is 1.
    """
    named = {getattr(edit, name, None) for name in ("element", "device", "owner")}

    def known(field: str, now: Any) -> Any:
        """A field's value: elements in the place of plain data that are theirs."""
        was = plan.plain.get(field)
        if isinstance(was, dict):
            return getattr(plan, field) if field not in named and now == was else now
        if not (isinstance(was, list) and isinstance(now, list)):
            return now
        own = {_id(plain): (plain, one) for plain, one in zip(was, getattr(plan, field), strict=True)}
        return [_as_it_was(one, *own.get(_id(one), (None, None)), named) for one in now]

    made = load_plan({field: known(field, now) for field, now in after.items()})
    made.__dict__["plain"] = _plain_like(made, plan)
    return made


def _plain_like(made: Plan, plan: Plan) -> Document:
    """The plain form of a plan that shares elements with another, whose they are as they were."""

    def plain(field: str) -> Any:
        now, was, known = getattr(made, field), getattr(plan, field), plan.plain[field]
        if not isinstance(now, tuple):
            return known if now is was else made.model_dump(mode="json", include={field})[field]
        own = {id(one): form for one, form in zip(was, known, strict=True)}
        return [own[id(one)] if id(one) in own else one.model_dump(mode="json") for one in now]

    return {field: plain(field) for field in Plan.model_fields}


def _as_it_was(now: Any, was: Any, element: Any, named: set[str | None]) -> Any:
    return element if was is not None and now == was and named.isdisjoint(_ids(now)) else now


def _id(plain: Any) -> str | None:
    found = plain.get("id") if isinstance(plain, dict) else None
    return found if isinstance(found, str) else None


def _ids(plain: Document) -> Iterator[str]:
    """The id of an element, and those of what lives inside it."""
    yield plain["id"]
    for inner in ("returns", "pins", "pads"):
        yield from (one["id"] for one in plain.get(inner, ()))
