"""Windows, conditions of one's own, policy, chances."""

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import arrive

pytestmark = pytest.mark.browser


def open_windows(page: Page, plan_id: int, query: str = "?c=hover") -> None:
    arrive(page, f"/plans/{plan_id}/windows{query}")
    expect(page.get_by_role("group", name="Allowed volts against seen volts")).to_be_visible()


def test_the_slider_takes_the_pack_from_full_to_floor(page: Page, plan_id: int) -> None:
    open_windows(page, plan_id)
    slider = page.get_by_role("slider", name="Rest voltage of a cell")
    expect(slider).to_have_attribute("aria-valuetext", "3.70 volts a cell")
    strobe = page.get_by_role("button", name=re.compile("^Near-infrared strobe bar, allowed"))
    expect(strobe).to_have_attribute("aria-label", re.compile(r"now 21\.8 V"))
    slider.press("Home")
    expect(strobe).to_have_attribute("aria-label", re.compile(r"now 24\.8 V"))
    slider.press("ArrowDown")
    expect(slider).to_have_attribute("aria-valuetext", "4.18 volts a cell")
    slider.press("End")
    expect(strobe).to_have_attribute("aria-label", re.compile(r"now 17\.\d V"))
    expect(page.get_by_label("Pack, full to floor")).to_contain_text(
        "4.07 Near-infrared strobe bar is above its 24 V until here"
    )
    expect(page.get_by_label("Output volts for this pack")).to_contain_text("Lidar altimeter takes 12.6 V at most")


def test_sources_say_what_is_dead_without_usb(page: Page, plan_id: int) -> None:
    open_windows(page, plan_id)
    page.get_by_text("Sources", exact=True).click()
    row = page.get_by_role("row", name=re.compile("GNSS with compass"))
    expect(row).to_contain_text("USB port resets")
    expect(row.get_by_role("cell").nth(2)).to_have_text(re.compile("dead"))


def test_chances_name_what_to_measure_next(page: Page, plan_id: int) -> None:
    open_windows(page, plan_id)
    page.get_by_text("Chances", exact=True).click()
    chances = page.get_by_role("region", name="Chances")
    expect(chances).to_be_visible()
    expect(chances.get_by_role("listitem").first).to_contain_text("Companion computer, peak draw (±50 %)")
    expect(chances.get_by_role("row", name=re.compile("^5 V Punch, low"))).to_contain_text("100 %")
    expect(chances.get_by_role("status")).to_contain_text("2,000 of 2,000 samples")


def test_chances_can_be_stopped_half_way(page: Page, plan_id: int) -> None:
    open_windows(page, plan_id)
    asked: list[str] = []

    def first_only(route: Route) -> None:
        asked.append(route.request.post_data or "")
        if '"samples":250' in asked[-1]:
            route.continue_()  # every later stage hangs until it is called off

    page.route("**/spread", first_only)
    page.get_by_text("Chances", exact=True).click()
    status = page.get_by_role("status").filter(has_text="samples in every condition")
    expect(status).to_contain_text("250 of 2,000")
    page.get_by_role("button", name="Stop").click()
    expect(status).to_contain_text("250 of 2,000 samples in every condition, stopped")
    page.wait_for_timeout(700)
    assert len(asked) == 2  # nothing is asked after it
    page.unroute("**/spread")
    page.get_by_role("button", name="Go on").click()
    expect(status).to_contain_text("2,000 of 2,000", timeout=60_000)


def test_a_condition_of_ones_own(page: Page, plan_id: int) -> None:
    open_windows(page, plan_id, "?c=hover")
    page.get_by_role("button", name="+ condition").click()
    name = page.get_by_label("name", exact=True)
    expect(name).to_have_value("Hover copy")
    name.fill("Hover, recorder off")
    name.press("Enter")
    station = page.get_by_role("region", name="Conditions").get_by_role(
        "button", name=re.compile("Hover, recorder off")
    )
    expect(station).to_have_attribute("aria-pressed", "true")
    page.get_by_role("combobox", name="Sound recorder in this condition").click()
    page.get_by_title("off", exact=True).last.click()
    page.get_by_role("link", name="Rails").click()
    # 1.94 A less the recorder's 380 mA.
    expect(page.get_by_role("button", name=re.compile("^5 V rail, spare 19\\d mA"))).to_be_visible()
    page.get_by_role("button", name="Edit", exact=True).click()
    page.get_by_role("button", name="Remove this condition").click()
    expect(station).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(station).to_be_visible()


def test_the_policy_decides(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover")
    page.get_by_role("button", name="Policy").click()
    field = page.get_by_label("on-board rating counts")
    field.fill("100 %")
    field.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^5 V rail, usable 2.50 A"))).to_be_visible()
    field.fill("170 %")
    field.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="less than or equal to 1")).to_be_visible()
    expect(field).to_have_value("170 %")
