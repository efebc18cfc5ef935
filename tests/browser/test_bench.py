"""The bench as a builder uses it: a list with the stand-in, a step that fails and is mended, training, a phone, a meter pulled out."""

from __future__ import annotations

import contextlib
import re
import time
from collections.abc import Callable

import pytest
from playwright.sync_api import Locator, Page, TimeoutError, expect

from tests.browser.conftest import arrive
from tests.browser.test_dialogs import at_every_width
from tests.server.running import Running

STEP = re.compile("^Step")


@pytest.fixture
def small(server: Running) -> int:
    """A plan of the smallest demo build."""
    found: int = server.post("/api/builds", {"demo": "wren"})["plans"][-1]["id"]
    return found


@pytest.fixture
def smallest(server: Running) -> int:
    """One board and its motors: every gate of the list, and half the steps of a demo."""
    body = {
        "name": "Midge",
        "topology": "one-board",
        "pack": "pack-1s-300",
        "boards": ["whoop-1s"],
        "devices": ["motors-1s"],
    }
    found: int = server.post("/api/builds/start", body)["plans"][0]["id"]
    return found


def card(page: Page) -> Locator:
    return page.get_by_role("region", name=STEP)


def gate(page: Page, name: str) -> None:
    page.get_by_role("list", name="Gates").get_by_role("button", name=re.compile(f"^{name}")).click()


def stand_in(page: Page) -> None:
    page.get_by_role("button", name="Meter…").click()
    page.get_by_role("button", name="Practise with a stand-in").click()
    expect(page.get_by_role("button", name="Meter ●")).to_be_visible()


def go_on(page: Page) -> None:
    """Whatever the step at hand asks of a hand; it may go on by itself at any moment, and then there is nothing to do."""
    step = card(page)
    # Each looked for in the card it belongs to: a press meant for one step must not land on the next.
    first = step.filter(has_text="The meter proves itself").get_by_role("button", name=re.compile("^Keep 0"))
    limited = step.filter(has_text="the supply is off").get_by_role("button", name="Switch the supply on")
    if limited.is_visible():
        limited.click()
        expect(step).to_contain_text("the supply is on", timeout=3000)
    elif first.is_visible():
        first.click()
    elif (so := step.get_by_role("button", name="It is so")).is_visible():
        so.click()


def test_a_whole_list_with_the_stand_in_and_no_hand_on_the_keys(page: Page, smallest: int, server: Running) -> None:
    arrive(page, f"/plans/{smallest}/bench")
    page.get_by_label("signed by").fill("A. Builder")
    page.get_by_role("radiogroup", name="How thorough").get_by_text("quick").click()
    expect(page.get_by_text(re.compile("leaves [1-9.]+ % of the danger"))).to_be_visible()
    stand_in(page)
    head = page.locator(".bench-lead > strong")
    total = int(re.findall(r"of (\d+),", head.inner_text())[0])
    until = time.monotonic() + 300
    page.set_default_timeout(1500)
    while (said := head.inner_text()) and f"{total} done" not in said and time.monotonic() < until:
        with contextlib.suppress(TimeoutError):
            go_on(page)
        page.wait_for_timeout(120)
    expect(head, card(page).inner_text()).to_contain_text(f"{total} done", timeout=2000)
    record = server.get(f"/api/plans/{smallest}/bench/record.json")
    switched = [one["step"] for one in record if one["step"].startswith("supply")]
    assert switched == ["supply-on"]
    record = [one for one in record if not one["step"].startswith("supply")]
    assert len({one["step"] for one in record}) == total
    assert {one["outcome"] for one in record} == {"passed"}
    assert {one["who"] for one in record} == {"A. Builder"}
    assert sum("stand-in" in one["instrument"] for one in record) > 8
    # Gone back to, a step is looked at: what its probes read there again is written down by nobody.
    before = server.get(f"/api/plans/{smallest}/bench/record.json")
    page.keyboard.press("b")
    page.wait_for_timeout(3500)
    assert server.get(f"/api/plans/{smallest}/bench/record.json") == before
    # After a reload, as after a crash, it is all there.
    page.reload()
    expect(head).to_contain_text(f"{total} done")


def test_a_short_leads_through_the_search_to_its_repair_and_the_steps_after_it(
    page: Page, plan_id: int, assert_accessible: Callable[[Page], None]
) -> None:
    arrive(page, f"/plans/{plan_id}/bench?c=hover")
    page.get_by_role("button", name="It is so").click()
    expect(page.get_by_role("region", name="Step 2")).to_be_visible()
    gate(page, "Plug")
    reading = card(page).get_by_label("reading")
    reading.fill("12 bananas")
    reading.press("Enter")
    expect(card(page).get_by_role("alert")).to_contain_text("bananas")
    expect(reading).to_have_value("12 bananas")
    card(page).get_by_role("button", name="It beeps").click()
    means = page.get_by_role("region", name="What it may be")
    expect(means.get_by_role("row").nth(1)).to_contain_text(
        re.compile("shorted to the ground.*A through it", re.DOTALL)
    )
    expect(means).to_contain_text("Do not connect the pack")
    # Without a supply nothing is measured in millivolts; whatever comes first tells something.
    search = page.get_by_role("region", name="The search")
    expect(search.locator(".option").first).to_contain_text("bit")
    page.get_by_label("I have a supply with a current limit").uncheck()
    expect(search.locator(".option").first).to_be_visible()
    expect(search).not_to_contain_text("Millivolts")
    search.locator(".option-title").first.click()
    field = search.get_by_label("reading")
    field.fill("0.3")
    search.get_by_text("I have found it myself").click()
    with page.expect_response(lambda answer: "/bench" in answer.url and answer.request.method == "POST"):
        field.press("Enter")
    page.wait_for_load_state("networkidle")
    # The search is drawn anew with what the trial told; what was opened stays open, also where something is named now.
    expect(search).to_contain_text("Tried")
    expect(search.locator("details")).to_have_attribute("open", "")
    at_every_width(page, "the search", assert_accessible)
    search.get_by_role("button", name=re.compile("It was")).first.click()
    expect(search).to_have_count(0)
    # What it shows at is open again, the plug first; what was looked at stays done.
    expect(page.locator(".gate").first).to_contain_text("Eyes1/")
    gate(page, "Plug")
    expect(card(page)).to_contain_text("Do it again")
    card(page).get_by_label("reading").fill("18k")
    card(page).get_by_label("reading").press("Enter")
    expect(card(page)).to_contain_text("minus to plus")
    card(page).get_by_role("button", name="Skip with a reason…").click()
    card(page).get_by_role("button", name="Skip with this reason").click()
    expect(card(page).get_by_role("alert")).to_contain_text("with a reason only")


def test_a_round_of_training_on_the_same_screens(
    page: Page, small: int, assert_accessible: Callable[[Page], None]
) -> None:
    arrive(page, f"/plans/{small}/bench")
    page.get_by_text("Training: find a fault").click()
    page.get_by_role("button", name="One fault").click()
    expect(page.get_by_role("region", name="Training")).to_contain_text("One fault is hidden")
    gate(page, "Plug")
    keep = card(page).get_by_role("button", name=re.compile("^Keep"))
    page.wait_for_timeout(1500)  # the hand is on its way
    keep.click()
    page.reload()
    expect(page.get_by_role("region", name="Training")).to_contain_text("One fault is hidden")
    page.get_by_role("button", name="Give up and be told").click()
    told = page.get_by_role("region", name="Training")
    expect(told).to_contain_text("under power")
    expect(told.get_by_role("row", name=re.compile("^you"))).to_contain_text("1")
    expect(told.get_by_role("row", name=re.compile("the best search"))).to_be_visible()
    at_every_width(page, "training told", assert_accessible, idle=False)
    told.get_by_role("button", name="Back to the build").click()
    expect(page.locator(".bench-record")).to_contain_text("0 lines")


def test_a_meter_pulled_out_in_the_middle_leaves_typing(page: Page, small: int, server: Running) -> None:
    server.post("/api/meter/disconnect", {"role": "meter"})
    arrive(page, f"/plans/{small}/bench")
    page.get_by_text("thorough", exact=True).click()
    page.get_by_role("button", name="Meter…").click()
    for address, said in (("bananas", "no address"), ("127.0.0.1:1", "No instrument answers")):
        page.get_by_label("address of the meter").fill(address)
        page.get_by_label("address of the meter").press("Enter")
        expect(page.locator(".meter-bar").get_by_role("alert")).to_contain_text(said)
        expect(page.get_by_label("address of the meter")).to_have_value(address)
    page.get_by_role("button", name="Practise with a stand-in").click()
    gate(page, "Rails")
    expect(card(page).get_by_label("The instrument shows")).to_be_visible()
    page.get_by_label("steady readings enter themselves").uncheck()
    page.get_by_role("button", name="Let go").first.click()
    expect(card(page).get_by_label("The instrument shows")).to_have_count(0)
    first = card(page).get_by_role("heading").first.inner_text()
    card(page).get_by_label("reading").fill("2.2k")
    card(page).get_by_label("reading").press("Enter")
    expect(card(page).get_by_role("heading").first).not_to_have_text(first)


def test_keys_and_a_phone(page: Page, small: int) -> None:
    arrive(page, f"/plans/{small}/bench")
    expect(card(page)).to_be_visible()
    page.keyboard.press("y")
    expect(page.get_by_role("region", name="Step 2")).to_be_visible()
    page.keyboard.press("b")
    expect(page.get_by_role("region", name="Step 1")).to_be_visible()
    gate(page, "Plug")
    page.locator("body").click(position={"x": 640, "y": 150})
    page.keyboard.type("18k")
    page.keyboard.press("Enter")
    expect(card(page)).to_contain_text("minus to plus")
    page.keyboard.press("Escape")
    card(page).get_by_role("heading").first.click()
    page.keyboard.press("s")
    expect(page.get_by_label("reason for skipping")).to_be_focused()
    page.set_viewport_size({"width": 390, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    box = card(page).get_by_label("reading").bounding_box()
    assert box is not None
    assert box["y"] + box["height"] < 800
    buttons = [one for one in card(page).locator(".bench-answer .ant-btn").all() if one.is_visible()]
    assert min(one.evaluate("one => one.getBoundingClientRect().height") for one in buttons) >= 44
