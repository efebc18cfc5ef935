"""Layouts of a plan, kept for the revision and wishes they were asked with; one of them made a plan beside today's."""

from __future__ import annotations

import json
import time
from collections.abc import Sequence
from typing import Any

from yardmeter.core.errors import EditError
from yardmeter.core.layouts.search import alternatives, lightest, propose
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.parts import Part
from yardmeter.core.patience import AbandonedError, also, go_on
from yardmeter.review.layouts import AlternativeSeen, LayoutsSeen, alternatives_seen, layouts_seen, with_shelf
from yardmeter.server.builds.models import Plan
from yardmeter.server.builds.services.analysis import content_key, document_of
from yardmeter.server.builds.services.editing import Step, edit
from yardmeter.server.builds.services.lifecycle import copy_plan
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.server.kept import Kept

WIRED_WITHIN_S = 3.0
"""How long a new plan waits for its wiring; a step of the search that has begun is ended."""

_found: Kept[LayoutsSeen] = Kept("layouts", lambda seen: len(seen.model_dump_json()))
_progress: dict[int, float] = {}
"""By plan how far the search that runs for it is."""


def proposed(plan_id: int, wishes: Wishes, parts: Sequence[Part]) -> LayoutsSeen:
    """Layouts for the plan as it stands, from memory or searched now. Broken off, nothing is kept."""
    head = head_of(get_plan(plan_id))
    key = content_key(head), wishes_key(wishes), tuple(one.model_dump_json() for one in parts)
    kept = _found.get(key)
    if kept is not None:
        return kept
    plan = document_of(head)
    try:
        found = propose(plan, wishes, parts, with_shelf(parts), lambda share: _progress.__setitem__(plan_id, share))
        return _found.put(key, layouts_seen(plan, found, wishes, parts))
    finally:
        _progress.pop(plan_id, None)


def wishes_key(wishes: Wishes) -> str:
    """Equal for wishes that ask for the same."""
    said: dict[str, Any] = {
        "held": sorted(wishes.held), "buy": sorted(wishes.buy), "max_g": wishes.max_g, "school": dict(sorted(wishes.school.items())),
        "not": sorted(wishes.turned_down), "owned": dict(sorted(wishes.owned.items())),
    }  # fmt: skip
    return json.dumps(said)


def progress(plan_id: int) -> float | None:
    """How far the search is that runs for a plan; None where none does."""
    return _progress.get(plan_id)


def made_a_plan(plan_id: int, wishes: Wishes, parts: Sequence[Part], number: int, name: str) -> Plan:
    """A layout as a plan beside today's. Raises EditError where it is none of those found."""
    seen = proposed(plan_id, wishes, parts)
    if not 0 <= number < len(seen.layouts):
        raise EditError("This is none of the layouts that were found.", where="layout", remedy="Look for them again.")
    made = copy_plan(plan_id, name)
    edit(made.pk, head_of(made).pk, list(seen.layouts[number].edits))
    return get_plan(made.pk)


def wired(plan_id: int, wishes: Wishes, parts: Sequence[Part]) -> Step | None:
    """A new plan wired as its lightest layout, in a step that can be taken back. None where nothing is wrong with how it was put
    together, nothing is better, or the search takes too long for somebody who waits."""
    head = head_of(get_plan(plan_id))
    until = time.monotonic() + WIRED_WITHIN_S
    try:
        with also(lambda: time.monotonic() > until):
            best = lightest(document_of(head), wishes, parts, with_shelf(parts))
    except AbandonedError:
        go_on()  # raises again where whoever asked has left
        return None
    return edit(plan_id, head.pk, list(best.edits)) if best else None


def side_by_side(plan_id: int, device: str, parts: Sequence[Part]) -> tuple[AlternativeSeen, ...]:
    """Places of one device, everything else as it is."""
    plan = document_of(head_of(get_plan(plan_id)))
    if device not in plan.device_of:
        raise EditError(f"“{device}” is no device of this plan.", where=device, remedy="Choose one of its devices.")
    return alternatives_seen(plan, device, *alternatives(plan, device, parts))
