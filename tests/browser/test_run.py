"""The plan in time in the browser: peaks with and without a clamp, a reset with its cause and its cure, the cursor, the acts."""

import re
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import arrive
from tests.plans import device, plan, rail, regulator
from tests.reference.test_runs import BULK
from tests.server.running import Running

pytestmark = pytest.mark.browser


def kept(server: Running, document: Any) -> int:
    found: int = server.post("/api/builds", {"name": "Mine", "plan": document.model_dump(mode="json")})["plans"][0][
        "id"
    ]
    return found


def verdict(page: Page) -> Locator:
    return page.locator(".run-verdict")


def test_the_plugs_peak_with_and_without_a_clamp(page: Page, server: Running) -> None:
    radio = device("radio", "pack-rail", 0.3, nominal_v=12, min_v=9, max_v=24, boot_s=0.5, input_f=1e-5)
    mine = kept(server, plan(devices=[radio], filters=[{**BULK, "farad": 47e-6}]))
    arrive(page, f"/plans/{mine}/run?r=plug-in")
    expect(verdict(page)).to_contain_text(re.compile(r"Radio sees 2[5-9]\.\d V, over its maximum for"))
    page.get_by_role("button", name="What helps?").click()
    clamp = page.get_by_role("listitem").filter(has_text=re.compile("a clamp of .* at pack-rail"))
    expect(clamp).to_contain_text("✓")
    clamp.get_by_role("button", name="Fit it").click()
    expect(verdict(page)).to_contain_text("Nothing resets")
    expect(page.get_by_role("region", name="In numbers")).to_contain_text(re.compile(r"swallows .* mJ"))
    page.get_by_role("button", name="Undo", exact=True).first.click()
    expect(verdict(page)).to_contain_text("Radio sees")


def test_a_reset_in_a_punch_its_cause_and_its_cure(page: Page, server: Running) -> None:
    motors = device("m", "pack-rail", 40, kind="motor", nominal_v=7.4, min_v=3, max_v=10, throttle=[{"throttle_frac": 0.3, "amps": 8}, {"throttle_frac": 1, "amps": 40}])  # fmt: skip
    rx = device(
        "rx", "r6", 0.2, nominal_v=5, min_v=4.6, max_v=9, brownout_v=4.5, restart_v=4.7, keeps_control=True, boot_s=0.2
    )
    hover = {"id": "hover", "name": "Hover", "throttle_frac": 0.3}
    ldo = regulator("ldo", "linear", "pack-rail", "r6", 6.0, dropout_v=0.6, start_v=3, stop_v=2.5)
    five = regulator("five", "buckboost", "pack-rail", "r5", 5.0, start_v=3, stop_v=2.5)
    made = plan(
        series=2,
        cell_ohm=0.03,
        rails=[rail("r6", 6), rail("r5", 5)],
        supplies=[ldo, five],
        devices=[motors, rx],
        conditions=[hover],
    )
    mine = kept(server, made)
    arrive(page, f"/plans/{mine}/run?r=punch-on-low-pack")
    expect(verdict(page)).to_contain_text(re.compile(r"Rx resets at \d+ ms"))
    why = page.get_by_role("region", name="Why")
    expect(why.get_by_role("listitem").first).to_contain_text("throttle to 100 %")
    expect(why).to_contain_text("ldo in dropout")
    expect(why).to_contain_text("no capacitor cures it")
    findings = page.get_by_role("button", name=re.compile("Hover"))
    expect(findings.first).to_be_visible()
    page.get_by_role("button", name="What helps?").click()
    elsewhere = why.get_by_role("listitem").filter(has_text="Rx on r5")
    expect(elsewhere).to_contain_text("✓")
    elsewhere.get_by_role("button", name="Fit it").click()
    expect(verdict(page)).to_contain_text("Nothing resets")


def test_the_cursor_sets_every_view_to_its_instant(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/run?r=punch-on-low-pack")
    timetable = page.get_by_role("slider", name=re.compile("Timetable"))
    expect(timetable).to_be_visible()
    timetable.click(position={"x": 600, "y": 200})
    station = page.get_by_role("button", name=re.compile(r"at \d+ ms"))
    expect(station).to_be_visible()
    expect(station).to_contain_text(re.compile(r"19\.\d V"))
    before = timetable.get_attribute("aria-valuenow")
    timetable.press("ArrowRight")
    expect(timetable).not_to_have_attribute("aria-valuenow", before or "")
    volts = re.search(r"(\d+\.\d) V", station.inner_text())
    assert volts
    page.get_by_role("link", name="Rails").click()
    expect(page.get_by_text(f"{volts[1]} V at the board")).to_be_visible()
    page.get_by_text(f"{volts[1]} V at the board").click()
    expect(page.get_by_role("alert").filter(has_text="was stepped to, not solved by a formula")).to_be_visible()
    page.get_by_role("link", name="Windows").click()
    expect(page.get_by_text(re.compile("of the run; choose a load"))).to_be_visible()
    pins = page.get_by_role("button", name=re.compile("^Analogue sender, allowed"))
    expect(pins).to_have_attribute("aria-label", re.compile(r"now 11\.9 V"))
    page.get_by_role("link", name="Noise").click()  # it has no instants: the condition behind this one is shown
    expect(page.get_by_text(re.compile("pictures in “Landing”"))).to_be_visible()
    # A reload keeps the instant, though its run may have to be run again; one that is none is forgotten.
    page.reload()
    expect(station).to_be_visible()
    page.goto(f"/plans/{plan_id}/rails?r=punch-on-low-pack&t=soon&c=instant")
    expect(page.get_by_role("button", name=re.compile("Punch, low"), pressed=True)).to_be_visible()
    page.go_back()
    expect(station).to_be_visible()
    page.get_by_role("link", name="Run").click()
    page.get_by_role("button", name=re.compile("Keep .* as a condition")).click()
    expect(page.get_by_role("button", name=re.compile("Punch on a low pack, "))).to_be_visible()


def test_acts_are_changed_undone_and_nonsense_is_told(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/run?r=punch-on-low-pack")
    page.get_by_role("button", name="Change the acts").click()
    acts = page.get_by_role("region", name="Acts of the scenario")
    at = acts.get_by_label("time of act 1")
    expect(at).to_have_value("200 ms")
    at.fill("-5ms")
    at.press("Enter")
    expect(acts.get_by_role("alert")).to_contain_text("-5ms")
    at.fill("1e9s")
    at.press("Enter")
    expect(acts.get_by_role("alert")).to_be_visible()
    at.fill("0.5s")
    at.press("Enter")
    expect(page.locator(".timetable-flag").first).to_contain_text("throttle to 100 %")
    expect(acts.get_by_label("time of act 1")).to_have_value("500 ms")
    flag = acts.get_by_role("button", name=re.compile("throttle to 100 %.*, at 500 ms"))
    box, line = flag.bounding_box(), acts.locator(".acts-line").bounding_box()
    assert box
    assert line
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(line["x"] + line["width"] / 2, box["y"] + box["height"] / 2, steps=4)
    page.mouse.up()
    expect(acts.get_by_label("time of act 1")).to_have_value("1.00 s")
    acts.get_by_role("button", name="Undo").click()
    expect(acts.get_by_label("time of act 1")).to_have_value("500 ms")
    acts.get_by_role("button", name="As it was shipped").click()
    expect(acts.get_by_label("time of act 1")).to_have_value("200 ms")


def test_a_recorded_flight_becomes_a_scenario(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/run")
    expect(verdict(page)).to_be_visible()
    flight = page.get_by_label("Recorded flight")
    bad = {"name": "gps.csv", "mimeType": "text/csv", "buffer": b"time_s,height\n0,1\n1,2\n"}
    flight.set_input_files(files=[bad])
    expect(page.get_by_role("alert")).to_contain_text("gps.csv: The recording has neither throttle nor amps.")
    rows = b"time_ms,throttle_us\n0,1100\n500,1100\n600,1900\n2000,1900\n2100,1200\n4000,1200\n"
    good = {"name": "North field.csv", "mimeType": "text/csv", "buffer": rows}
    flight.set_input_files(files=[good])
    expect(page.locator(".run-pick")).to_contain_text("North field (own)")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("button", name="Change the acts").click()
    expect(page.get_by_role("region", name="Acts of the scenario")).to_contain_text("throttle to 90 % over 100 ms")


def test_what_scenarios_find_is_told_without_opening_run(page: Page, plan_id: int) -> None:
    """A plan that stands for a few seconds is run through: its findings join the others, in the condition its scenarios are like."""
    arrive(page, f"/plans/{plan_id}/rails?c=usb-bench")
    findings = page.get_by_role("region", name="Findings")
    expect(findings).not_to_contain_text("reboots every")
    expect(findings).to_contain_text(
        re.compile("Sound recorder reboots every .* in “USB port, then pack”"), timeout=120_000
    )
