"""The log as a builder uses it: a flight with odd headings read and taken over, before and after, a picture beside a note."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive
from yardmeter import demo
from yardmeter.core.flights.fly import Hidden, drawn, recorded

pytestmark = pytest.mark.browser
PLAN = demo.plan("marshlight-second-wiring")


@pytest.fixture(scope="module")
def flight(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A recorder that counts in its own way: milliseconds, millivolts, pulses, semicolons and decimal commas."""
    text, _ = recorded(PLAN, 31, 2.0, Hidden(1.2, 1.05, drawn(PLAN, 31).draws))
    rows = [line.split(",") for line in text.splitlines()[1:]]
    lines = ["Time (ms);Gas;Batt [mV];Strom"]
    lines += [f"{float(r[0]) * 1000:.0f};{1000 + 10 * float(r[1]):.0f};{float(r[2]) * 1000:.0f};{float(r[3]):.2f}".replace(".", ",") for r in rows]  # fmt: skip
    file = tmp_path_factory.mktemp("flights") / "odd.csv"
    file.write_text("\n".join(lines), encoding="utf-16")
    return file


def test_a_flight_with_odd_headings_is_read_and_taken_over(page: Page, second_plan: int, flight: Path) -> None:
    arrive(page, f"/plans/{second_plan}/log")
    page.get_by_label("A recorded flight").set_input_files(str(flight))
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("what Gas is")).to_be_visible()
    dialog.get_by_label("what Strom is").click()  # it knows no such word: the builder says what it is
    page.get_by_title("amps", exact=True).click()
    expect(dialog.get_by_text("mV", exact=True)).to_be_visible()
    dialog.get_by_role("button", name="Keep the flight").click()
    opened = page.get_by_role("region", name="Flight odd")
    expect(opened.get_by_text("flown by the recorded amps")).to_be_visible()
    opened.get_by_label("pack, resistance of a cell").check()
    opened.get_by_role("button", name="Take 1 over…").click()
    opened.get_by_role("button", name="Take 1 into the plan").click()
    expect(page.get_by_role("region", name="What changed")).to_be_visible()
    plan = page.request.get(f"/api/plans/{second_plan}").json()["plan"]
    assert plan["pack"]["cell_ohm"] == pytest.approx(1.2 * PLAN.pack.cell_ohm, rel=0.02)
    assert plan["pack"]["resistance_tol_frac"] <= 0.05


def test_two_flights_are_held_against_each_other(page: Page, second_plan: int) -> None:
    arrive(page, f"/plans/{second_plan}/log")
    page.get_by_role("group", name="The last things").get_by_role("button", name=re.compile("Second flight")).click()
    part = page.get_by_role("region", name="Before and after")
    part.get_by_label("compare with").click()
    page.get_by_title(re.compile("^First flight")).click()
    expect(part.get_by_text(re.compile("amps at equal throttle"))).to_contain_text("−")
    expect(part.get_by_text("no difference shown")).to_be_visible()
    expect(part.get_by_text(re.compile("The plan was the same in both"))).to_be_visible()


def test_a_note_with_a_picture_takes_four_taps_on_a_phone(page: Page, second_plan: int) -> None:
    page.set_viewport_size({"width": 390, "height": 800})
    arrive(page, f"/plans/{second_plan}/log")
    picture = io.BytesIO()
    Image.new("RGB", (640, 480), "green").save(picture, "PNG")
    page.get_by_role("button", name="Note", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What is to be kept").fill("Shrink over the BEC's leads")
    dialog.get_by_label("picture").set_input_files(
        {"name": "bec.png", "mimeType": "image/png", "buffer": picture.getvalue()}
    )
    dialog.get_by_role("button", name="Keep it").click()
    opened = page.get_by_role("region", name="Opened entry")
    expect(opened.get_by_role("img", name=re.compile("Picture 1"))).to_be_visible()
    assert page.evaluate("document.querySelector('.log-pictures img').naturalWidth") == 640
    page.reload()
    expect(page.get_by_role("button", name=re.compile("Shrink over the BEC"))).not_to_have_count(0)


def test_an_entry_is_corrected_and_struck_from_no_record(page: Page, second_plan: int) -> None:
    arrive(page, f"/plans/{second_plan}/log")
    page.get_by_role("button", name="Measured", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What was measured").fill("Hover amps")
    dialog.get_by_label("value").fill("19,4")
    dialog.get_by_label("unit").fill("A")
    dialog.get_by_role("button", name="Keep it").click()
    opened = page.get_by_role("region", name="Opened entry")
    expect(opened.get_by_role("heading")).to_contain_text("19.4 A")
    opened.get_by_role("button", name="Correct…").click()
    page.get_by_role("dialog").get_by_label("value").fill("18.9")
    page.get_by_role("dialog").get_by_role("button", name="Keep it").click()
    expect(opened.get_by_role("heading")).to_contain_text("18.9 A")
    page.get_by_label("Find in the log").fill("hover amps")
    expect(page.get_by_text("1 of")).to_be_visible()


def test_a_flight_is_run_as_a_timetable(page: Page, second_plan: int) -> None:
    arrive(page, f"/plans/{second_plan}/log")
    page.get_by_role("group", name="The last things").get_by_role("button", name=re.compile("First flight")).click()
    opened = page.get_by_role("region", name="Flight First flight over the reeds")
    opened.get_by_role("button", name="The hardest punch").click()
    chart = opened.get_by_role("slider", name="time in the flight")
    chart.focus()
    chart.press("PageUp")
    expect(chart).to_have_attribute("aria-valuetext", re.compile(r"hover, pack [0-9.]+ V"))
    opened.get_by_role("button", name="Run it as a timetable").click()
    expect(page).to_have_url(re.compile("/run"))
    expect(page.get_by_role("navigation", name="Views")).to_be_visible()
    expect(page.get_by_text("First flight over the reeds").first).to_be_visible()
