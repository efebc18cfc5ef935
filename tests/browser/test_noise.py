"""Noise: the picture, a filter fitted and the level falling, measured lines, ways of feeding."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive

pytestmark = pytest.mark.browser


def open_noise(page: Page, plan_id: int, sheet: str = "Picture", query: str = "?c=hover") -> None:
    arrive(page, f"/plans/{plan_id}/noise{query}")
    expect(page.get_by_role("region", name="Predicted picture")).to_be_visible()
    page.get_by_text(sheet, exact=True).click()


def level(page: Page) -> float:
    text = page.get_by_role("img", name=re.compile("^Test frame.*As planned")).get_attribute("aria-label") or ""
    found = re.search(r"As planned, −(\d+) dB", text)
    assert found, text
    return -float(found[1])


def test_a_filter_is_fitted_and_the_level_falls(page: Page, plan_id: int) -> None:
    open_noise(page, plan_id)
    before = level(page)
    assert -33 <= before <= -29
    page.get_by_text("Parts", exact=True).click()
    ticket = page.get_by_role("complementary")
    page.get_by_role("button", name="Capacitor at the ESC").first.click()
    expect(ticket).to_contain_text("301 µF of 470 µF")
    expect(ticket).to_contain_text("new and warm 176 mV")
    page.get_by_role("button", name="Try them").click()
    best = page.get_by_role("row", name=re.compile("^✓ .* 35 V")).first
    expect(best).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("Bulk capacitor .* Fit"))).to_have_count(3)
    page.get_by_role("button", name=re.compile("^All .* that were tried")).click()
    refused = page.get_by_role("row", name=re.compile("25.2 V on a part for 25 V: use the class of 31 V")).first
    expect(refused.get_by_role("button")).to_be_disabled()
    fit = best.get_by_role("button", name=re.compile("^Fit "))
    name = re.sub(r"^Fit (\d+ × )?", "", fit.get_attribute("aria-label") or fit.inner_text())
    fit.click()
    expect(page.get_by_role("row", name=re.compile(f"^{re.escape(name)} ESC pack rail"))).to_be_visible()
    expect(page.get_by_role("region", name="What changed")).to_contain_text(re.compile("better.*interference"))
    page.get_by_text("Picture", exact=True).click()
    expect(page.get_by_role("region", name="Way of the loudest line")).to_be_visible()
    expect(page.get_by_role("img", name=f"As planned, −{-before:.0f} dB")).to_have_count(0)
    assert level(page) <= before - 2


def test_the_way_shows_millivolts_after_each_stage(page: Page, plan_id: int) -> None:
    open_noise(page, plan_id)
    way = page.get_by_role("region", name="Way of the loudest line")
    expect(way.get_by_role("listitem").first).to_contain_text("Motors, source")
    expect(way.get_by_role("listitem").last).to_contain_text("pins")
    expect(page.get_by_role("img", name=re.compile("^Ripple at the pins over frequency"))).to_be_visible()
    findings = page.get_by_role("region", name="Findings")
    expect(findings.get_by_text("Capacitor at the ESC: 25.2 V on a part for 25 V")).to_be_visible()


def test_a_measured_line_replaces_the_estimate(page: Page, plan_id: int) -> None:
    open_noise(page, plan_id, "Measured")
    page.get_by_label("source").fill("Motors")
    page.get_by_title("Motors", exact=True).click()
    page.get_by_label("frequency in hertz").fill("23500")
    page.get_by_label("amplitude, peak to peak").fill("bananas")
    page.get_by_role("button", name="Add what was measured").click()
    expect(page.get_by_role("alert")).to_contain_text("numbers above zero")
    expect(page.get_by_label("amplitude, peak to peak")).to_have_value("bananas")
    page.get_by_label("amplitude, peak to peak").fill("900")
    page.get_by_role("button", name="Add what was measured").click()
    expect(page.get_by_role("row", name=re.compile("Motors pwm.*900 mV"))).to_be_visible()
    page.get_by_text("Picture", exact=True).click()
    expect(page.get_by_role("region", name="Predicted picture")).to_contain_text("Motors pwm, measured", timeout=10_000)


def test_a_section_is_asked_for_by_decibels(page: Page, plan_id: int) -> None:
    open_noise(page, plan_id, "Parts")
    page.get_by_text("LC or ferrite in a feed", exact=True).click()
    wanted = page.get_by_label("decibels wanted off the loudest line")
    for rubbish in ("bananas", "500", "-3"):
        wanted.fill(rubbish)
        page.get_by_role("button", name="Try them").click()
        expect(page.get_by_role("alert")).to_contain_text(f"“{rubbish}” is not a number of decibels from 1 to 80")
        expect(wanted).to_have_value(rubbish)
    wanted.fill("20")
    page.get_by_role("button", name="Try them").click()
    # 24 kHz and 20 dB: a corner of 24/√11 kHz; 10 µH there wants 48.4 µF. Circuit theory.
    expect(page.get_by_text("corner at 7.24 kHz or below")).to_contain_text("10.0 µH with 48.4 µF")
    expect(page.get_by_role("row", name=re.compile("^✓ LC section 10 µH"))).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_noise_that_cannot_be_worked_out_is_said(page: Page, plan_id: int) -> None:
    broken = {"status": 500, "content_type": "application/json", "body": '{"what": "made to fail"}'}
    page.route(re.compile("/noise(/preview)?$"), lambda route: route.fulfill(**broken))
    arrive(page, f"/plans/{plan_id}/rails?c=hover")
    findings = page.get_by_role("region", name="Findings")
    expect(findings.get_by_role("alert").first).to_contain_text("The findings of noise are missing: made to fail")
    findings.get_by_role("button", name=re.compile("^Try: ")).first.click()
    expect(findings).to_contain_text("What it does to the noise is not known: made to fail")


def test_feeds_stand_side_by_side_and_refuse_the_pack(page: Page, plan_id: int) -> None:
    open_noise(page, plan_id, "Feeds")
    table = page.get_by_role("region", name="Where is Analogue sender fed from?")
    expect(table).to_contain_text("do not connect")
    expect(table.get_by_role("row", name=re.compile("^ripple at its pins"))).to_be_visible()
