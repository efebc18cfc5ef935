"""Grounds: heights, dragging a return, schools, signals, hook-up list."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive, go

pytestmark = pytest.mark.browser


def open_grounds(page: Page, plan_id: int, query: str = "?c=punch-low") -> None:
    arrive(page, f"/plans/{plan_id}/grounds{query}")
    expect(page.get_by_role("group", name="Ground heights in millivolts")).to_be_visible()


def millivolts(page: Page, name: str) -> float:
    label = page.get_by_role("button", name=re.compile(f"^{name}, ground")).get_attribute("aria-label") or ""
    found = re.search(r"ground ([\d.]+) mV", label)
    assert found, label
    return float(found[1])


def test_a_return_is_rerouted_in_its_ticket_and_the_millivolts_change(page: Page, plan_id: int) -> None:
    open_grounds(page, plan_id, "?c=hover")
    before = millivolts(page, "Low-light camera")
    assert 40 < before < 55
    expect(
        page.get_by_role("button", name=re.compile(r"^Camera video: 29\.\d mV steady, 0 V of 10\.0 mV changing"))
    ).to_be_visible()
    page.get_by_role("button", name=re.compile("^Return of Low-light camera to Analogue sender")).press("Enter")
    ticket = page.get_by_role("region", name="Ticket")
    expect(ticket.get_by_role("heading", name="Ground of Low-light camera")).to_be_visible()
    ticket.get_by_label("goes to").click()
    page.get_by_title("Flight controller", exact=True).click()
    expect(page.get_by_role("button", name=re.compile(r"^Camera video: \d\.\d+ mV steady"))).to_be_visible()
    assert millivolts(page, "Low-light camera") < before - 20
    page.get_by_role("button", name="Undo").first.click()
    expect(page.get_by_role("button", name=re.compile(r"^Camera video: 29\.\d mV steady"))).to_be_visible()


def test_a_return_is_dragged_and_says_what_it_would_do(page: Page, plan_id: int) -> None:
    open_grounds(page, plan_id, "?c=hover")
    sender = page.get_by_role("button", name=re.compile("^Analogue sender, ground")).bounding_box()
    target = page.get_by_role("button", name=re.compile("^Flight controller, ground")).bounding_box()
    assert sender
    assert target
    # The grips of what hangs on the sender stand along its lower edge, from the right: camera, thermal.
    page.mouse.move(sender["x"] + sender["width"] - 8, sender["y"] + sender["height"])
    page.mouse.down()
    page.mouse.move(target["x"] + 30, target["y"] + 12, steps=6)
    expect(page.get_by_text(re.compile(r"to Flight controller: Camera video 29\.\d mV → \d\.\d+ mV"))).to_be_visible()
    page.mouse.up()
    expect(
        page.get_by_role("button", name=re.compile("^Return of Low-light camera to Flight controller"))
    ).to_be_visible()


def test_the_schools_stand_side_by_side_and_apply(page: Page, plan_id: int) -> None:
    open_grounds(page, plan_id)
    table = page.get_by_role("region", name="Where do the grounds of the video parts go?")
    expect(table.get_by_role("columnheader", name="paired at Flight controller default")).to_be_visible()
    row = table.get_by_role("row", name=re.compile("^Camera video, steady"))
    expect(row.get_by_role("cell").first).to_have_text(re.compile(r"35\.\d mV"))
    expect(row.get_by_role("cell").nth(2)).to_have_text(re.compile(r"^3\.\d+ mV"))
    table.get_by_role("button", name="Try: paired at Flight controller").click()
    expect(table.get_by_text(re.compile("Cured: Low-light camera's ground is chained"))).to_be_visible()
    table.get_by_role("button", name="Apply: paired at Flight controller").click()
    expect(row.get_by_role("cell").first).to_have_text(re.compile(r"^3\.\d+ mV"))


def test_a_signal_is_added_and_its_mistake_is_found_and_cured(page: Page, plan_id: int) -> None:
    open_grounds(page, plan_id)
    page.get_by_text("Signals", exact=True).click()
    form = page.get_by_role("region", name="Add a signal")
    form.get_by_label("from").fill("camera VIDEO")
    page.get_by_title("Low-light camera VIDEO", exact=True).click()
    expect(form.get_by_text("video", exact=True)).to_be_visible()  # the pin says what it is
    form.get_by_label("to", exact=True).fill("Flight controller V")
    expect(page.get_by_title("Flight controller VOUT", exact=True)).to_have_count(0)  # an output reads nothing
    form.get_by_label("kind").click()
    page.keyboard.press("ArrowUp")  # the last of the list
    page.keyboard.press("Enter")
    expect(form.get_by_title("other", exact=True)).to_be_visible()
    form.get_by_label("from").fill("camera VIDEO")
    page.get_by_title("Low-light camera VIDEO", exact=True).last.click()
    form.get_by_label("to", exact=True).fill("VOUT")
    page.get_by_title("Flight controller VOUT", exact=True).click()
    form.get_by_role("button", name="Add the signal").click()
    ticket = page.get_by_role("region", name="Ticket")
    expect(ticket.get_by_role("heading", name="Low-light camera VIDEO → Flight controller VOUT")).to_be_visible()
    findings = page.get_by_role("region", name="Findings")
    expect(
        findings.get_by_text(re.compile("Low-light camera VIDEO does not drive Flight controller VOUT"))
    ).to_be_visible()
    ticket.get_by_label("to", exact=True).click()
    page.get_by_title("Flight controller CAM 1", exact=True).last.click()
    expect(findings.get_by_text(re.compile("does not drive"))).to_have_count(0)


def test_the_hook_up_list_is_ticked_off_and_kept(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/hookup")
    row = page.get_by_role("row", name=re.compile("Low-light camera, supply"))
    expect(row).to_contain_text("Flight controller 5V C")
    expect(row.get_by_role("img", name="red")).to_be_visible()
    row.get_by_role("checkbox").check()
    page.reload()
    expect(row.get_by_role("checkbox")).to_be_checked()
    expect(page.get_by_text(re.compile("^1 of|1 of \\d+ wires and parts done"))).to_be_visible()
    never = page.get_by_text(re.compile("^Flight controller: CAM 1, CAM 2, VOUT"))
    expect(never).to_be_visible()
    go(page, f"/plans/{plan_id}/card")
    expect(page.get_by_role("listitem").filter(has_text=re.compile("~ Camera video"))).to_contain_text("yellow")


def test_pins_are_named_on_a_device(page: Page, plan_id: int) -> None:
    open_grounds(page, plan_id, "?c=hover&s=recorder")
    ticket = page.get_by_role("region", name="Ticket")
    ticket.get_by_text("No pins named").click()
    ticket.get_by_role("button", name="Add a pin").click()
    ticket.get_by_text("Pin 1, other").click()
    ticket.get_by_label("label").fill("TRIG")
    ticket.get_by_label("label").press("Enter")
    expect(ticket.get_by_text("TRIG, other")).to_be_visible()


def test_the_build_card_is_at_most_three_sheets_with_the_yard_on_the_first(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/card?c=punch-low")
    expect(page.get_by_role("listitem").filter(has_text=re.compile("~ Camera video"))).to_be_visible()
    yard = page.get_by_role("img", name="The rails in Punch, low")
    expect(yard).to_be_visible()
    assert yard.evaluate("picture => picture.naturalWidth") > 300
    sheets = len(re.findall(rb"/Type\s*/Page[^s]", page.pdf(prefer_css_page_size=True)))
    assert 1 <= sheets <= 3
