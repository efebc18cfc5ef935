"""Trouble as a builder has it: the symptom typed in his own words, the test, the cure, tested again; by keyboard alone; on a phone."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive, go

pytestmark = pytest.mark.browser


def test_from_a_reset_on_the_bench_to_the_story_of_its_cure(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails")
    expect(page.get_by_role("navigation", name="Views")).to_be_visible()
    # Two keys from anywhere, and nothing but keys up to the first answer.
    page.keyboard.press("g")
    page.keyboard.press("x")
    expect(page.get_by_role("combobox", name="What does it do?")).to_be_focused()
    page.keyboard.type("reboots on the bench after a minute")
    page.keyboard.press("Enter")
    causes = page.get_by_role("table", name="What it may be")
    first = causes.get_by_role("row").nth(1)
    expect(first).to_contain_text("5 V buck switches itself off when warm")
    expect(first).to_contain_text("settles at 103 °C in still air, switches off at 125 °C")
    fine = page.get_by_role("radiogroup", name="in hover").get_by_role("radio", name="fine")
    fine.focus()
    page.keyboard.press("Space")
    expect(fine).to_be_checked()
    look = page.get_by_role("button", name="Look into it")
    look.focus()
    page.keyboard.press("Enter")
    story = page.get_by_role("region", name="What is looked into")
    expect(story.get_by_role("listitem").filter(has_text="in hover: it does not")).to_be_visible()
    following = story.get_by_role("region", name="Next to try")
    expect(following.get_by_role("heading", level=3)).to_contain_text("with a servo moving")
    following.get_by_role("button", name="It does not").focus()
    page.keyboard.press("Enter")
    expect(story.get_by_role("heading", name=re.compile("^It is this: 5 V buck"))).to_be_visible()
    cure = story.get_by_text(re.compile("a new BEC .* on Pack rail")).first
    expect(cure).to_contain_text("103 →")
    story.get_by_role("button", name="Try it").first.click()
    expect(story.get_by_role("list").filter(has_text="better").first).to_be_visible()
    story.get_by_role("button", name="Change the plan").click()
    expect(story.get_by_text(re.compile("With the plan of today the chance of it is < 1 %"))).to_be_visible()
    story.get_by_label("What was done").fill("a BEC of its own for the computer")
    story.get_by_role("button", name="Tested again: it is gone").click()
    expect(story.get_by_role("status")).to_contain_text("a BEC of its own for the computer")
    # It stands in the log, with the step that cured it after it.
    page.keyboard.press("Escape")
    go(page, f"/plans/{plan_id}/log")
    row = page.get_by_role("button", name=re.compile("Resets on the bench after a while"))
    expect(row.last).to_contain_text("settled")
    row.last.click()
    page.get_by_role("link", name="The whole story").click()
    expect(page.get_by_role("region", name="What is looked into").get_by_role("status")).to_contain_text("Settled")


def test_what_fits_nothing_says_so_and_what_is_not_there_says_what_is_nearest(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/wrong?symptom=lamp-lit")
    expect(page.get_by_text(re.compile("nothing that could show this"))).to_be_visible()
    made = page.request.post(
        f"/api/plans/{plan_id}/diagnosis/stories",
        data={
            "symptom": "rail-high", "where": "rail-12v",
            "evidence": [
                {"tried": "volts-bench-rail-12v", "value": 12.0}, {"tried": "amps-bench", "value": 1.61}, {"tried": "look-buck-12v", "yes": False},
                {"tried": "ohms-rails-ctl-pack-rail-12v", "value": 9686.0}, {"tried": "mended-regulator-shorted-buck-12v", "yes": True},
            ],
        },
    )  # fmt: skip
    assert made.status == 201, made.text()
    arrive(page, f"/plans/{plan_id}/wrong?story={made.json()['id']}")
    expect(page.get_by_text("Nothing known fits.")).to_be_visible()
    row = page.get_by_role("row", name=re.compile("nothing that is known here"))
    expect(row).to_contain_text(re.compile("([5-9][0-9]|> 99) %"))


def test_an_exercise_is_found_on_a_phone(page: Page, plan_id: int) -> None:
    page.set_viewport_size({"width": 390, "height": 780})
    arrive(page, f"/plans/{plan_id}/wrong?seed=4")
    page.get_by_role("button", name="Exercise on a hidden cause").click()
    page.get_by_role("button", name="Hide something").click()
    hidden = page.get_by_role("region", name="Exercise")
    expect(hidden.get_by_role("table", name="What it may be")).to_be_visible()
    for done in range(1, 3):
        hidden.get_by_role("button", name="Do it on the hidden craft").click()
        expect(hidden.get_by_role("list", name="Tried so far").get_by_role("listitem")).to_have_count(done)
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
    hidden.get_by_text("It is:").get_by_role("button").first.click()
    expect(hidden.get_by_role("status")).to_contain_text(re.compile("(Right|No)\\. It was: "))
