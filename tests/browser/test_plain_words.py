"""Nobody reads an id: every view, and tickets of every kind of thing, of a craft that was built from nothing."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive, go
from tests.builds import random_build
from tests.core.test_random_builds import ids_of
from tests.server.running import Running
from yardmeter.core.formats.plan_json import write_plan
from yardmeter.core.plan import Plan

pytestmark = pytest.mark.browser
VIEWS = ("grounds?sheet=Signals", "run", "hookup", "bench")
SEEDS = (3,)
"""Of twelve, all views and a ticket of every kind of device and supply were read once: what is told goes by the kind of thing, not by the craft."""


def tickets(plan: Plan) -> list[str]:
    """One thing of each kind."""
    kinds = {type(one).__name__: name for name, one in plan.elements.items()}
    return list(kinds.values())[:4]


@pytest.mark.parametrize("seed", SEEDS)
def test_no_view_and_no_ticket_shows_an_id(page: Page, server: Running, seed: int) -> None:
    plan = random_build(seed)
    made = server.post("/api/builds/read", {"text": write_plan(plan)})["plans"][0]["id"]
    names = {name for name in ids_of(plan) if not name.isalpha()}
    assert len(names) > 10
    arrive(page, f"/plans/{made}/rails")
    for where in (*VIEWS, *(f"rails?s={name}" for name in tickets(plan))):
        go(page, f"/plans/{made}/{where}")
        expect(page.get_by_role("region", name="Conditions").or_(page.locator("main")).first).to_be_visible()
        page.wait_for_timeout(700)  # what polls for runs is never idle
        shown = page.locator("body").inner_text()
        read = [name for name in names if re.search(rf"(?<![\w-]){re.escape(name)}(?![\w-])", shown)]
        assert not read, f"{where}: {read}"
