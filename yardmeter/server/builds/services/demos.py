"""Loading the demo builds that ship as data files."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.utils import timezone

from yardmeter import demo
from yardmeter.core.flights.flight import Confirmed
from yardmeter.server.builds.models import Build, Revision
from yardmeter.server.builds.services import flights, log
from yardmeter.server.builds.services.lifecycle import create_build


@dataclass(frozen=True)
class DemoInfo:
    key: str
    name: str
    note: str


def demo_list() -> list[DemoInfo]:
    return [DemoInfo(one.key, one.name, one.note) for one in demo.DEMOS]


def keys() -> list[str]:
    return [one.key for one in demo.DEMOS]


def add_demo(key: str) -> Build:
    """A fresh build from a demo's plans; raises KeyError for an unknown key."""
    found = demo.find(key)
    build = create_build(found.name, demo.plans(found), note=found.note, demo=found.key, summary="Demo build")
    plans = list(build.plans.all())
    told = demo.story(found)
    for place, plan in enumerate(plans if told else []):  # a plan was there before what is told of it
        first = max(one["days_ago"] for one in told if one["plan"] == place)
        Revision.objects.filter(plan=plan).update(created_at=timezone.now() - timedelta(days=first, hours=1))
    for one in told:
        _told(plans[one["plan"]].pk, one)
    return build


def _told(plan_id: int, one: dict[str, Any]) -> None:
    """One entry of a demo's story, so many days ago."""
    at = timezone.now() - timedelta(days=one["days_ago"])
    if one["kind"] == "flight":
        sheet, found = flights.looked_at(plan_id, one["table"])
        columns = [Confirmed(index=g.index, role=g.role, unit=g.unit, rail=g.rail) for g in found if g.role]
        flights.keep(plan_id, one["title"], one["table"], columns, one["text"], "", at, sheet)
        return
    kind = next(k for k in log.KINDS if k == one["kind"])
    data: dict[str, Any] = {k: one[k] for k in ("value", "unit", "place", "condition", "instrument") if k in one}
    log.add(plan_id, kind, one["title"], one.get("text", ""), data, "", at)


def load_all_demos() -> list[Build]:
    return [add_demo(one.key) for one in demo.DEMOS]
