"""Every dialog, menu and state that opens over a view: axe, and room enough, at three widths."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive, go
from tests.browser.test_access import Check, fits
from tests.server.running import Running

pytestmark = pytest.mark.browser
WIDTHS = (1280, 640, 390)


def at_every_width(page: Page, what: str, check: Check, *, idle: bool = True, within: str = "") -> None:
    """All rules at the widest, and room enough at each: what is open stays open while the page gets narrower."""
    for width in WIDTHS:
        page.set_viewport_size({"width": width, "height": 800})
        page.wait_for_timeout(350)  # what slides in has come to rest
        if width == 1280:
            check(page, idle=idle, within=within)
        fits(page, what, width)
    page.set_viewport_size({"width": 1280, "height": 800})


def test_axe_finds_nothing_in_what_keys_open(page: Page, plan_id: int, assert_accessible: Check) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s=recorder")
    expect(page.get_by_label("peak draw", exact=True)).to_be_visible()
    for key in ("m", "w", "/", "?"):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog").first).to_be_visible()
        at_every_width(page, key, assert_accessible)
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)


def test_axe_finds_nothing_in_menus_names_and_workings(page: Page, plan_id: int, assert_accessible: Check) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s=computer")
    field = page.get_by_label("typical draw", exact=True)
    field.fill("2W")
    field.press("Enter")
    expect(page.get_by_role("region", name="What changed")).to_be_visible()
    at_every_width(page, "what changed", assert_accessible)
    for name in (re.compile("^History"), re.compile("^Take away"), re.compile("^Plan .*choose another")):
        page.get_by_role("button", name=name).first.click()
        expect(page.get_by_role("menu").first).to_be_visible()
        assert_accessible(page)  # a menu is as wide as its words, whatever the page
        page.keyboard.press("Escape")
    page.get_by_role("article").get_by_role("button", name="Why").first.click()
    at_every_width(page, "a finding's why", assert_accessible)
    page.get_by_role("region", name="Ticket").get_by_role("button", name=re.compile(r"[0-9] ?m?[AVW]")).first.click()
    expect(page.get_by_role("dialog").first).to_be_visible()
    at_every_width(page, "working", assert_accessible)
    for address, opens in (("/", "Rename"), (f"/plans/{plan_id}/shelf", "New part")):
        go(page, address)
        page.get_by_role("button", name=opens).first.click()
        expect(page.get_by_role("dialog").first).to_be_visible()
        at_every_width(page, opens, assert_accessible)


@pytest.mark.parametrize("selected", ["rail-5v", "pack", "video-cam", "esc-capacitor"])
def test_axe_finds_nothing_in_tickets(page: Page, plan_id: int, server: Running, assert_accessible: Check, selected: str) -> None:  # fmt: skip
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s={selected}")
    expect(page.get_by_role("region", name="Ticket")).to_be_visible()
    page.evaluate("document.querySelectorAll('details').forEach(one => one.open = true)")
    at_every_width(page, selected, assert_accessible, within=".ticket")


def test_what_opens_is_read_in_the_dark_too(page: Page, plan_id: int, assert_accessible: Check) -> None:
    page.goto("/")
    page.evaluate("localStorage.setItem('yard-mode', 'dark')")
    page.goto(f"/plans/{plan_id}/rails?c=hover&s=recorder")
    expect(page.locator("html[data-mode=dark]")).to_have_count(1)
    expect(page.get_by_label("peak draw", exact=True)).to_be_visible()
    assert_accessible(page, "colours")
    for key in ("m", "w", "/", "?"):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog").first).to_be_visible()
        page.wait_for_timeout(350)
        assert_accessible(page, "colours")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Take away")).click()
    expect(page.get_by_role("menu").first).to_be_visible()
    page.wait_for_timeout(350)
    assert_accessible(page, "colours")
