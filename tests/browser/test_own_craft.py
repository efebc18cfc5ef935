"""What a builder holds that no shelf knows: a board from its silkscreen, LEDs, connectors, clamps; and finding one's way."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive
from tests.server.running import Running

pytestmark = pytest.mark.browser
YARD = "Rails, tracks to scale in amps"


def test_a_board_from_its_silkscreen_is_drawn_saved_and_used(
    page: Page, plan_id: int, server: Running, tmp_path: Path
) -> None:
    arrive(page, f"/plans/{plan_id}/shelf?c=hover")
    page.get_by_role("button", name="New part").click()
    box = page.get_by_role("dialog")
    box.get_by_text("A board", exact=True).click()
    box.get_by_role("button", name="Save").click()
    expect(box.get_by_role("alert")).to_contain_text("a part needs one")
    box.get_by_label("name", exact=True).fill("Sedge controller")
    for _ in range(2):
        box.get_by_role("button", name="Add a regulator").click()
    box.get_by_label("V of regulators 2", exact=True).fill("10")
    box.get_by_label("A of regulators 2", exact=True).fill("2.5")
    box.get_by_role("button", name="Add pads").click()
    box.get_by_label("label of pads 1").fill("VTX")
    box.get_by_label("count of pads 1").fill("2")
    box.get_by_label("limit, A of pads 1").fill("1.5")
    picture = box.get_by_role("img", name="Sedge controller: Pack in, 5 V, 10 V")
    expect(picture).to_contain_text("buck 10 V 2.5 A ← Pack in")
    expect(picture).to_contain_text("VTX 1.5A")
    expect(picture.locator(".pad")).to_have_count(2)
    box.get_by_role("button", name="Save").click()
    expect(box).to_have_count(0)
    page.get_by_label("Search parts").fill("sedge")
    page.get_by_role("button", name="Add Sedge controller to the plan").click()
    expect(page.get_by_role("alert").filter(has_text="Sedge controller is in the plan")).to_be_visible()
    plan = server.get(f"/api/plans/{plan_id}")["plan"]
    rail = next(one for one in plan["rails"] if one["name"] == "10 V")
    assert [(pad["label"], pad["limit_a"]) for pad in rail["pads"]] == [("VTX", 1.5), ("VTX", 1.5)]
    assert next(one for one in plan["supplies"] if one["output"] == rail["id"])["set_v"] == 10
    # Its own logic came with it, and draws.
    assert any(one["name"] == "Sedge controller logic" for one in plan["devices"])
    # Opened again it is the same; it goes into a file and comes back from it; a nonsensical number is refused in words.
    page.get_by_role("button", name="Open Sedge controller").click()
    with page.expect_download() as download:
        box.get_by_role("button", name="Part as a file").click()
    part = json.loads(Path(download.value.path()).read_text())
    assert [rail["name"] for rail in part["board"]["rails"]] == ["Pack in", "5 V", "10 V"]
    other = tmp_path / "other.json"
    other.write_text(json.dumps({**part, "key": "own-rush", "name": "Rush controller"}))
    page.get_by_label("Parts file").set_input_files(other)
    expect(page.get_by_role("alert").filter(has_text="Rush controller read from other.json")).to_be_visible()
    other.write_text("{")
    page.get_by_label("Parts file").set_input_files(other)
    expect(page.get_by_role("alert").filter(has_text="other.json is no JSON")).to_be_visible()
    box.get_by_label("A of regulators 1", exact=True).fill("-2")
    box.get_by_role("button", name="Save").click()
    expect(box.get_by_role("alert")).to_contain_text("rating_a")


def test_a_device_with_pins_and_two_ways_in(page: Page, plan_id: int, server: Running) -> None:
    arrive(page, f"/plans/{plan_id}/shelf?c=hover")
    page.get_by_role("button", name="New part").click()
    box = page.get_by_role("dialog")
    box.get_by_label("name", exact=True).fill("Heron camera")
    box.get_by_label("its maker asks for, A").fill("2")
    box.get_by_label("draw switched off").fill("30mA")
    box.get_by_role("button", name="Add a way to power it").click()
    box.get_by_role("button", name="Add a way to power it").click()
    box.get_by_label("name of ways to power it 2").fill("pins")
    for label, volts in (("to, V", "26"), ("nominal, V", "12"), ("from, V", "7")):
        box.get_by_label(f"{label} of ways to power it 2").fill(volts)
    box.get_by_role("button", name="Add a pin").click()
    box.get_by_label("label of pins 1").fill("ID")
    box.get_by_label("what it is of pins 1").click()
    page.get_by_title("ident", exact=True).click()
    box.get_by_role("button", name="Save").click()
    expect(box).to_have_count(0)
    part = next(row["part"] for row in server.get("/api/shelf?q=heron") if row["own"])
    assert part["device"]["demand_a"] == 2
    assert part["device"]["draws"]["off"]["value"] == 0.03
    assert [(way["name"], way["max_v"]) for way in part["device"]["ways"]] == [("as above", 5.5), ("pins", 26)]
    assert part["device"]["way"] == "as above"
    assert [pin["role"] for pin in part["device"]["pins"]] == ["ident"]


def test_an_led_line_is_sized_as_typed_warned_of_and_fitted(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/leds?c=hover&s=rail-12v")
    sheet = page.get_by_role("region", name="LED line")
    expect(sheet.get_by_label("supply, typical")).to_have_value("11.98")
    sheet.get_by_label("supply, most").fill("12.6")
    sheet.get_by_label("one LED, least").fill("3")
    sheet.get_by_label("in a row").fill("2")
    # (12.6 V − 2 × 3.0 V) / 20 mA is 330 Ω to the ohm.
    expect(sheet).to_contain_text("330 Ω (exactly 330 Ω")
    expect(sheet.locator(".led-picture")).to_have_attribute("aria-label", "4 strings of 2 LEDs on 12 V rail")
    sheet.get_by_label("never above, mA").fill("45")
    expect(sheet.get_by_role("status")).to_contain_text("they stand 30.0 mA")
    sheet.get_by_label("in a row").fill("5")
    expect(sheet.get_by_role("alert")).to_contain_text("does not light 5 LEDs")
    sheet.get_by_label("in a row").fill("99")
    expect(sheet.get_by_role("alert")).to_contain_text("In a row: 99 is not 1 to 20 LEDs")
    sheet.get_by_label("in a row").fill("3")
    sheet.get_by_label("never above, mA").fill("20")
    sheet.get_by_role("button", name="Put it on 12 V rail").click()
    ticket = page.get_by_role("region", name="Ticket")
    expect(ticket.get_by_role("heading", name="Tail light")).to_be_visible()
    expect(ticket.get_by_label("in series")).to_have_value("3")


def test_a_connector_is_chosen_from_the_shelf_where_the_wire_is(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s=pack")
    ticket = page.get_by_role("region", name="Ticket")
    ticket.get_by_text("Pack lead", exact=True).click()
    ticket.get_by_label("connector from the shelf").click()
    page.get_by_title("Pack connector, 60 A, anti-spark", exact=True).click()
    expect(ticket.get_by_label("connector", exact=True).first).to_have_value("Pack connector, 60 A, anti-spark")
    expect(ticket.get_by_label("its resistance").first).to_have_value("0.4mΩ")
    expect(ticket.get_by_label("it stands").first).to_have_value("60A")
    expect(ticket).to_contain_text("anti-spark contact, 5.60 Ω for 5.00 ms")
    for part, told in (("NTC in line, 8 A", "NTC, 2.50 Ω cold"), ("Fuse in line, 5 A", "a short melts it at 50 A²s")):
        ticket.get_by_label("connector from the shelf").click()
        page.get_by_title(part, exact=True).click()
        expect(ticket).to_contain_text(told)


def test_findings_are_narrowed_to_the_view_and_to_what_is_selected(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s=receiver")
    found = page.get_by_role("region", name="Findings")
    everything = found.get_by_role("article")
    expect(everything).not_to_have_count(0)
    expect(found.get_by_text(re.compile("^all 1"))).to_be_visible()
    total = everything.count()
    found.get_by_text(re.compile("^Long-range")).click()
    expect(found).to_contain_text("Receiver: inverted signal into a plain input")
    assert everything.count() < total
    found.get_by_text(re.compile("^this view")).click()
    expect(found).not_to_contain_text("inverted signal")
    assert 0 < everything.count() < total
    # The best answers of what is selected are a key away.
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("f")
    expect(page.get_by_role("region", name="Where is Long-range receiver fed from?")).to_be_visible()


def test_choices_of_a_new_build_outlive_a_reload(page: Page) -> None:
    arrive(page, "/new")
    page.get_by_label("Name").fill("Bittern")
    page.get_by_text("Wing", exact=False).first.click()
    page.get_by_role("button", name="Choose 4S 3.3 Ah", exact=True).click()
    page.get_by_role("button", name="Next: Boards").click()
    page.reload()
    expect(page.get_by_label("Name")).to_have_value("Bittern")
    expect(page.get_by_role("button", name="Next: Devices")).to_be_visible()
    page.get_by_role("button", name="Start over").click()
    expect(page.get_by_label("Name")).to_have_value("")
    expect(page.get_by_role("button", name="Start over")).to_have_count(0)


def test_a_clamp_is_put_on_a_rail_and_judged(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/shelf?c=hover&s=pack-rail")
    page.get_by_label("Search parts").fill("suppressor 18")
    page.get_by_role("button", name="Add Suppressor, stands off 18 V, 600 W to the plan").click()
    page.get_by_role("link", name="Windows").click()
    finding = page.get_by_role("region", name="Findings").get_by_role("article").filter(has_text="breaks down at 20 V")
    expect(finding).to_contain_text("25.2 V")
    finding.get_by_role("button").first.click()
    ticket = page.get_by_role("region", name="Ticket")
    expect(ticket).to_contain_text("conducts from 20 V")
