"""Layouts as a builder uses them: proposed by keyboard, a line turned down, made a plan and compared; a pile that cannot be served."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive
from tests.server.running import Running

pytestmark = pytest.mark.browser

SLOW_MS = 150_000
"""Layouts are worked out in seconds of a machine that has nothing else to do."""


def test_a_layout_is_proposed_turned_down_and_made_a_plan(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails")
    expect(page.get_by_role("navigation", name="Views")).to_be_visible()
    page.keyboard.press("g")
    page.keyboard.press("y")
    ask = page.get_by_role("button", name="Propose the wiring")
    expect(ask).to_be_visible()
    ask.focus()
    page.keyboard.press("Enter")
    table = page.get_by_role("table", name="Layouts")
    row = table.get_by_role("row", name=re.compile("^dangers and faults"))
    expect(row.get_by_role("cell").first).to_have_text("10", timeout=SLOW_MS)
    expect(row.get_by_role("cell").nth(1)).to_have_text("0")
    opened = page.get_by_role("region", name="Opened layout")
    strobe = opened.get_by_role("row", name=re.compile("move Near-infrared strobe bar"))
    expect(strobe).to_contain_text("takes 24.0 V")
    first = strobe.get_by_role("rowheader").inner_text()
    strobe.get_by_role("button", name=re.compile("^Not this")).focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Allow what was turned down (1)")).to_be_enabled(timeout=SLOW_MS)
    again = opened.get_by_role("row", name=re.compile("move Near-infrared strobe bar"))
    expect(again).to_be_visible(timeout=SLOW_MS)
    assert again.get_by_role("rowheader").inner_text() != first
    opened.get_by_label("Name of the new plan").fill("proposed wiring")
    opened.get_by_role("button", name="Make this a plan").focus()
    page.keyboard.press("Enter")
    expect(opened.get_by_role("status")).to_contain_text("“proposed wiring” stands beside today’s plan")
    opened.get_by_role("link", name="compared").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("proposed wiring")


def test_holds_and_a_pile_that_cannot_be_served(page: Page, server: Running, plan_id: int) -> None:
    head = server.get(f"/api/plans/{plan_id}/head")["revision"]
    odd = [
        {"op": "set", "element": "thermal", "field": f, "value": v}
        for f, v in (("max_v", 66), ("nominal_v", 60), ("min_v", 55))
    ]
    server.post(f"/api/plans/{plan_id}/edits", {"revision": head, "edits": odd})
    arrive(page, f"/plans/{plan_id}/layouts")
    page.get_by_label("Stays where it is").click()
    page.get_by_title("Near-infrared strobe bar", exact=True).click()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Propose the wiring").click()
    missing = page.get_by_role("region", name="Not possible")
    expect(missing).to_contain_text("Thermal camera takes 55.0 V to 66.0 V", timeout=SLOW_MS)
    expect(missing).to_contain_text("a supply of 60.0 V")


def test_places_of_one_device_are_reached_from_its_ticket(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails?s=computer")
    page.get_by_role("link", name="Places side by side").click()
    places = page.get_by_role("region", name="Places of Companion computer")
    expect(places.get_by_role("columnheader", name=re.compile("now"))).to_be_visible()
    places.get_by_role("button", name=re.compile("^Take BEC 5 V")).first.click()
    expect(places.get_by_role("columnheader", name=re.compile("BEC 5 V .*now"))).to_be_visible()
