"""The rails view as a builder uses it: conditions, numbers, one edit, undo, reload, rubbish."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Locator, Page, Route, expect

from tests.browser.conftest import arrive
from tests.server.running import Running

pytestmark = pytest.mark.browser


def number(page: Page, rail: str, quantity: str) -> Locator:
    return page.get_by_role("button", name=re.compile(rf"^{rail}, {quantity} "))


def expect_asked(page: Page, rail: str, text: str) -> None:
    """The amps asked of a rail, read off the screen."""
    expect(number(page, rail, "asked")).to_have_text(text)


def open_rails(page: Page, plan_id: int, query: str = "") -> None:
    arrive(page, f"/plans/{plan_id}/rails{query}")
    expect(page.get_by_role("group", name="Rails, tracks to scale in amps")).to_be_visible()


def test_conditions_switch_by_click_and_by_key(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id)
    # It starts where the worst finding is: the punch on the low pack, 3.53 A asked of 1.75 A.
    expect(page.get_by_role("button", name="Punch, low").first).to_have_attribute("aria-pressed", "true")
    expect_asked(page, "5 V rail", "3.53 A")
    page.get_by_role("button", name="Hover").first.click()
    expect_asked(page, "5 V rail", "1.94 A")
    page.keyboard.press("4")
    expect(page.get_by_role("button", name="Punch, fresh").first).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("0")
    expect(page.get_by_role("button", name="Worst of all")).to_have_attribute("aria-pressed", "true")
    expect_asked(page, "5 V rail", "3.53 A")
    expect(page.get_by_label("Findings", exact=True)).to_contain_text(
        "Near-infrared strobe bar gets 25.1 V, takes 24 V"
    )


def test_a_draw_is_edited_undone_redone_and_survives_a_reload(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id, "?c=hover")
    expect_asked(page, "5 V rail", "1.94 A")
    page.get_by_role("button", name=re.compile("^Companion computer,")).press("Enter")
    field = page.get_by_label("typical draw", exact=True)
    expect(field).to_have_value("4.5W@5V")
    field.fill("2.5W@5V")
    field.press("Enter")
    changes = page.get_by_role("region", name="What changed")
    expect(changes).to_contain_text("Companion computer: typical draw 2.5W@5V")
    expect(changes).to_contain_text("better")
    # 2 W less at 5 V is 400 mA less, and the rail is within its rating again.
    expect(number(page, "5 V rail", "spare")).to_have_text(re.compile(r"2\d\d mA"))
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo", exact=True).first.click()
    expect_asked(page, "5 V rail", "1.94 A")
    page.get_by_role("button", name="Redo").click()
    expect(number(page, "5 V rail", "spare")).to_be_visible()
    page.reload()
    expect(number(page, "5 V rail", "spare")).to_have_text(re.compile(r"2\d\d mA"))
    page.get_by_role("button", name=re.compile("^Companion computer,")).press("Enter")
    expect(page.get_by_label("typical draw", exact=True)).to_have_value("2.5W@5V")


def test_rubbish_is_answered_in_words_and_stays_typed(page: Page, plan_id: int, server: Running) -> None:
    revision = server.get(f"/api/plans/{plan_id}")["revision"]
    open_rails(page, plan_id, "?s=computer")
    field = page.get_by_label("peak draw", exact=True)
    for rubbish, words in (("12 bananas", "bananas"), ("-3A", "negative"), ("", "Nothing was typed")):
        field.fill(rubbish)
        field.press("Enter")
        alert = page.get_by_role("alert").filter(has_text=words)
        expect(alert).to_contain_text("850mA, 1.2A, 9W or 9W@12V")
        expect(field).to_have_value(rubbish)
        assert server.get(f"/api/plans/{plan_id}")["revision"] == revision
        page.reload()
        expect(field).to_have_value(rubbish)
        field.press("Escape")
        expect(field).to_have_value("7.5W@5V")


def test_a_number_shows_its_working_and_leads_on(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id, "?c=punch-low")
    number(page, "5 V rail", "usable").click()
    panel = page.get_by_role("dialog")
    expect(panel).to_contain_text("I = min(Iₖ), the least of its limits")
    expect(panel).to_contain_text("print 2.5 A × 0.7")
    page.keyboard.press("Escape")
    number(page, "5 V rail", "asked").click()
    panel.get_by_role("button", name="1.51 A").click()
    expect(panel).to_contain_text("I = D / U")
    expect(panel).to_contain_text("guess ±50%")


def test_a_fix_is_tried_then_applied(page: Page, plan_id: int, server: Running) -> None:
    open_rails(page, plan_id, "?c=pack-bench")
    fix = page.get_by_role("button", name=re.compile("^Try: Near-infrared strobe bar → a new BEC 12 V 3 A"))
    fix.click()
    findings = page.get_by_label("Findings", exact=True)
    expect(findings).to_contain_text("Cured: Near-infrared strobe bar gets 25.1 V, takes 24 V")
    assert server.get(f"/api/plans/{plan_id}")["number"] == 1  # trying stores nothing
    page.get_by_role("button", name="Apply").click()
    expect(findings).not_to_contain_text("Near-infrared strobe bar gets")
    expect(page.get_by_role("button", name=re.compile(r"^BEC 12 V 3 A, ticket"))).to_be_visible()


def test_two_tabs_on_one_plan_lose_nothing(page: Page, plan_id: int, server: Running) -> None:
    open_rails(page, plan_id, "?s=recorder")
    view = server.get(f"/api/plans/{plan_id}")
    field = page.get_by_label("peak draw", exact=True)
    field.fill("300mA")
    # Another tab is faster.
    other = {
        "revision": view["revision"],
        "edits": [{"op": "set_draw", "device": "camera", "state": "peak", "text": "250mA"}],
    }
    server.post(f"/api/plans/{plan_id}/edits", other)
    field.press("Enter")
    expect(page.get_by_label("Findings and ticket")).to_contain_text(
        "This plan was changed elsewhere: Low-light camera: peak draw 250mA"
    )
    expect(field).to_have_value("300mA")
    # The plan is long in coming, and Enter does not wait for it.
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route(re.compile(rf"/api/plans/{plan_id}$"), hold)
    with page.expect_request(re.compile(rf"/api/plans/{plan_id}$")):
        page.get_by_role("button", name="Show it").click()
    expect(page.get_by_text("This plan was changed elsewhere: Low-light")).to_have_count(0)
    field.press("Enter")
    page.wait_for_timeout(300)
    held[0].continue_()
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Sound recorder: peak draw 300mA")


def test_an_empty_file_starts_from_a_demo_build(chromium: Browser, tmp_path: Path) -> None:
    # A file of its own: in the shared one every demo may be there by now, and none is offered twice.
    with Running("--data", tmp_path / "empty.sqlite3") as empty:
        page = chromium.new_page(base_url=empty.address)
        page.goto("/")
        page.get_by_role("button", name="Copy into this file").first.click()
        expect(page.get_by_role("group", name="Rails, tracks to scale in amps")).to_be_visible()
        assert "rails" in page.url
        page.goto("/")
        expect(page.get_by_role("button", name="Copy into this file")).to_have_count(3)
        page.close()


def test_the_server_going_away_is_said_and_nothing_is_lost(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id, "?s=recorder")
    field = page.get_by_label("idle draw", exact=True)
    page.route("**/edits", lambda route: route.abort())
    field.fill("111mA")
    field.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="does not answer")).to_be_visible()
    expect(field).to_have_value("111mA")
    page.unroute("**/edits")
    field.press("Enter")
    expect(page.get_by_role("region", name="What changed")).to_contain_text("idle draw 111mA")
