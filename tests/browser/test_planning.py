"""Planning by hand in the browser: from nothing to a clean budget, moving, placing, comparing, files, keys."""

import json
import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import arrive
from tests.server.running import Running
from yardmeter import demo
from yardmeter.core.formats.plan_json import write_plan

pytestmark = pytest.mark.browser
Check = Callable[[Page], None]
YARD = "Rails, tracks to scale in amps"


def open_rails(page: Page, plan_id: int, query: str = "?c=hover") -> None:
    arrive(page, f"/plans/{plan_id}/rails{query}")
    expect(page.get_by_role("group", name=YARD)).to_be_visible()


def test_from_nothing_to_a_clean_budget(page: Page) -> None:
    arrive(page, "/new")
    page.get_by_label("Name", exact=True).fill("Reed warbler")
    page.get_by_text("Stack", exact=True).click()
    page.get_by_role("button", name="Choose 4S 1.5 Ah", exact=True).click()
    so_far = page.get_by_role("complementary", name="The craft so far")
    expect(so_far).to_contain_text("none is chosen")
    page.get_by_role("button", name="Next: Boards").click()
    page.get_by_role("button", name="Choose Controller, 5 V 2.5 A and 9 V 2 A", exact=True).click()
    page.get_by_role("button", name="Choose Four-way ESC, no BEC").click()
    page.get_by_role("button", name="Next: Devices").click()
    expect(so_far).to_contain_text("16.8 V full")
    for part in ("Four motors, small", "Micro camera, 5 V", "Analogue sender, 400 mW", "Mini receiver"):
        page.get_by_label("Search the shelf").fill(part)
        page.get_by_role("button", name=f"Choose {part}", exact=True).click()
    expect(so_far).to_contain_text("Nothing to warn of so far")
    expect(so_far).to_contain_text(re.compile(r"9 V\s*8.99 V\s*613 mA of 1.40 A"))
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_role("group", name=YARD)).to_be_visible()
    expect(page.get_by_role("button", name="Build Reed warbler, choose another")).to_be_visible()
    page.keyboard.press("0")
    marks = page.get_by_role("region", name="Conditions")
    expect(marks.get_by_label("danger")).to_have_count(0)
    expect(marks.get_by_label("fault")).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("^9 V rail, spare"))).to_be_visible()
    page.get_by_role("link", name="Grounds").click()
    page.get_by_text("Signals", exact=True).click()
    page.get_by_role("button", name="Join all 5").click()
    expect(
        page.get_by_role("row", name=re.compile("^Micro camera, 5 V video.*Flight controller CAM 1"))
    ).to_be_visible()
    expect(page.get_by_role("region", name="What changed")).to_contain_text("and 3 more")
    page.get_by_role("link", name="Noise").click()
    expect(page.get_by_role("img", name=re.compile("^Test frame.*As planned, −"))).to_be_visible()


def test_a_wagon_is_dragged_and_both_margins_show(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id)
    wagon = page.get_by_role("button", name=re.compile("^Low-light camera,")).locator(".wagon-body")
    box = wagon.bounding_box()
    target = page.get_by_role("button", name="12 V · buck, ticket").bounding_box()
    assert box
    assert target
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(700, target["y"] + 20, steps=6)
    yard = page.get_by_role("group", name=YARD)
    expect(yard.locator(".zone text")).to_have_count(2)
    expect(yard.get_by_role("status")).to_contain_text("Let go to move it here")
    page.mouse.up()
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Low-light camera → 12 V")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Demo build")


def test_a_wrong_track_refuses_and_says_why(page: Page, plan_id: int, server: Running) -> None:
    open_rails(page, plan_id, "?c=hover&s=recorder")
    page.keyboard.press("m")
    box = page.get_by_role("dialog")
    expect(box).to_be_visible()
    page.keyboard.press("4")
    expect(box.get_by_role("status")).to_have_text(
        re.compile(r"Refused: Sound recorder would get 12\.0 V in .+, it takes 5\.5 V")
    )
    page.keyboard.press("Enter")
    assert server.get(f"/api/plans/{plan_id}")["number"] == 1


def test_what_is_typed_while_a_dialog_still_opens_is_not_lost(page: Page, plan_id: int, server: Running) -> None:
    open_rails(page, plan_id)
    # Only microtasks between the keys: no timer, frame or animation can have given a field the focus.
    # A made-up key writes nothing into a field by itself, as a real one does.
    press = """async keys => { for (const key of keys) {
        const at = document.activeElement;
        const more = at.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
        if (more && at.tagName === "INPUT" && key.length === 1) document.execCommand("insertText", false, key);
        if (more && at.tagName === "INPUT" && key === "Backspace") document.execCommand("delete");
        await Promise.resolve(); } }"""
    page.evaluate(press, ["/", *"strobex", "Backspace", "Enter"])
    expect(page.get_by_role("heading", name="Near-infrared strobe bar")).to_be_visible()
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s=recorder")
    expect(page.get_by_role("heading", name="Sound recorder")).to_be_visible()
    page.evaluate(press, ["m", "4"])
    rail = page.get_by_role("dialog").get_by_role("button", name=re.compile("^4 "))
    expect(rail).to_be_focused()
    # Refused, and not moved, though Enter comes before the answer.
    rail.click()
    expect(page.get_by_role("dialog").get_by_role("status")).to_have_text(re.compile("^Refused: Sound recorder"))
    assert server.get(f"/api/plans/{plan_id}")["number"] == 1


def test_places_apply_in_one_click(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id, "?c=hover&s=recorder")
    page.get_by_role("button", name="Where could this live?").click()
    box = page.get_by_role("dialog")
    expect(box).to_contain_text("1. BEC 5 V 3 A on Pack rail")
    expect(box).to_contain_text("Pack rail: 25.1 V in Pack bench, it takes 5.5 V")
    box.get_by_role("button", name="Apply").first.click()
    expect(page.get_by_role("button", name=re.compile(r"^5 V rail, spare 19\d mA"))).to_be_visible()


def test_plans_are_copied_compared_deleted_and_brought_back(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id)
    page.get_by_role("button", name="Plan as soldered, choose another").click()
    page.get_by_role("menuitem", name="Copy this plan").click()
    expect(page.get_by_role("button", name="Plan as soldered copy, choose another")).to_be_visible()
    page.get_by_role("link", name="Compare").click()
    table = page.get_by_role("table")
    expect(table.get_by_role("columnheader", name="second wiring")).to_be_visible()
    expect(
        table.get_by_role("row", name=re.compile("^dangers and faults 10 10 ✓ 0|^dangers and faults 10 ✓ 0 10"))
    ).to_be_visible()
    page.get_by_role("button", name="Plan as soldered copy, choose another").click()
    page.get_by_role("menuitem", name="Delete this plan").click()
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_role("button", name="Plan as soldered copy, choose another")).to_be_visible()


def test_plan_files_good_and_broken(page: Page, tmp_path: Path, server: Running) -> None:
    made = write_plan(demo.plan("wren-boosted-logic"))
    good, broken = tmp_path / "good.json", tmp_path / "broken.json"
    good.write_text(made)
    spoilt = json.loads(made)
    spoilt["devices"][1]["max_v"] = 1
    spoilt["pack"]["series"] = 99
    broken.write_text(json.dumps(spoilt))
    count = len(server.get("/api/builds"))
    page.goto("/")
    page.get_by_label("Plan file").set_input_files(broken)
    expect(page.get_by_role("alert")).to_contain_text("pack.series")
    expect(page.get_by_role("alert")).to_contain_text("Nothing was stored")
    assert len(server.get("/api/builds")) == count
    page.get_by_label("Plan file").set_input_files(good)
    expect(page.get_by_role("group", name=YARD)).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("button", name="Take away").click()
        page.get_by_role("link", name="Plan as JSON").click()
    assert Path(download.value.path()).read_text() == made


def test_the_shelf_is_searched_and_a_part_added(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/shelf?c=hover&s=rail-12v")
    page.get_by_label("Search parts").fill("thermal")
    expect(page.get_by_role("status").filter(has_text="1 part")).to_be_visible()
    page.get_by_role("button", name="Add Thermal core, 5 V to the plan").click()
    expect(page.get_by_role("alert").filter(has_text="Thermal core, 5 V is in the plan")).to_be_visible()
    page.get_by_role("button", name="New part").click()
    box = page.get_by_role("dialog")
    box.get_by_label("name").fill("Bat detector")
    box.get_by_label("typical draw").fill("lots")
    box.get_by_role("button", name="Save").click()
    expect(box.get_by_role("alert")).to_contain_text("typical draw: “lots” is not a quantity. A draw is amps or watts")
    box.get_by_label("typical draw").fill("180mA")
    box.get_by_role("button", name="Save").click()
    page.get_by_label("Search parts").fill("bat detector")
    expect(page.get_by_role("row", name=re.compile("Bat detector own"))).to_contain_text("180mA typical")


def test_search_or_do_reaches_elements_and_views(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id)
    page.keyboard.press("/")
    page.keyboard.type("strobe")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Near-infrared strobe bar")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("build card view")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Marshlight · as soldered")).to_be_visible()
    expect(page.get_by_text("Props off for every powered bench step.")).to_be_visible()
    page.emulate_media(media="print")
    expect(page.get_by_role("navigation")).to_be_hidden()


def test_removing_says_what_goes_and_comes_back(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id, "?c=hover&s=rail-5v")
    page.get_by_role("button", name="Remove…").click()
    expect(page.get_by_text("With it go: 5 V buck, 3.3 V linear, USB diode. It can be undone.")).to_be_visible()
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^5 V, ticket"))).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=re.compile("^5 V, ticket"))).to_be_visible()


def test_boards_rails_pads_and_grounds_are_built_by_hand(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id, "?c=hover&s=controller")
    page.get_by_role("button", name="Add a regulated rail").click()
    expect(page.get_by_role("heading", name="5 V rail")).to_be_visible()
    name = page.get_by_label("name", exact=True)
    name.fill("Quiet 5 V")
    name.press("Enter")
    expect(page.get_by_role("button", name="Quiet 5 V, ticket")).to_be_visible()
    page.get_by_text("No pads named").click()
    page.get_by_role("button", name="Add a pad").click()
    expect(page.get_by_text("1 pad", exact=True)).to_be_visible()
    page.get_by_role("button", name=re.compile("^Release servo,")).press("Enter")
    expect(page.get_by_role("heading", name="Release servo")).to_be_visible()
    page.get_by_role("button", name="Move…", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("Quiet 5 V rail")).click()
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Release servo → Quiet 5 V")
    page.get_by_text("Ground wire", exact=True).click()
    page.get_by_role("button", name="Add a ground wire").click()
    expect(page.get_by_text("2 ground wires")).to_be_visible()
    page.locator("summary:visible").filter(has_text=re.compile("^All fields$")).first.click()
    field = page.get_by_label("least volts", exact=True)
    field.fill("5.5A")
    field.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="is in A, V is needed here")).to_be_visible()


def test_other_feeds_and_first_power_are_added_on_screen(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id, "?c=hover&s=rail-5v")
    ticket = page.get_by_role("region", name="Ticket")
    ticket.get_by_text("Feed it another way").click()
    ticket.get_by_label("kind of feed").click()
    page.get_by_title("a bench supply").click()
    ticket.get_by_role("button", name="Add a bench supply").click()
    stations = page.get_by_role("region", name="Conditions")
    stations.get_by_role("button", name=re.compile("Bench supply only")).click()
    expect(ticket).to_contain_text("Bench supply gives 2 A")
    ticket.get_by_label("kind of feed").click()
    page.get_by_title("a diode", exact=True).click()
    ticket.get_by_label("rails it comes from").click()
    page.get_by_title("Pack rail", exact=True).click()
    ticket.get_by_role("button", name="Add a diode").click()
    expect(ticket.get_by_role("heading", name="5 V diode")).to_be_visible()
    open_rails(page, plan_id, "?c=hover&s=pack")
    ticket.get_by_text("First power: no limiter").click()
    ticket.get_by_role("button", name="Add a test lamp").click()
    expect(stations.get_by_role("button", name=re.compile("First power, test lamp"))).to_be_visible()


def test_dialogs_stand_in_nobodys_way(page: Page, plan_id: int, assert_accessible: Check) -> None:
    open_rails(page, plan_id, "?c=hover&s=recorder")
    ticket = page.get_by_role("heading", name="Sound recorder")
    expect(ticket).to_be_visible()
    for key in ("m", "w", "/", "?"):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog")).to_be_visible()
        assert_accessible(page)
        # Whatever has the focus, the key closes the dialog and not the ticket behind it as well.
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        expect(ticket).to_be_visible()


def test_search_adds_a_part_opens_a_tool_and_a_finding(page: Page, plan_id: int) -> None:
    open_rails(page, plan_id)
    box = page.get_by_role("combobox", name="Search or do")
    page.keyboard.press("/")
    box.fill("remote beacon")
    expect(page.get_by_role("option")).to_have_count(0)
    box.fill("identification")
    page.get_by_role("option", name="Identification beacon add from the shelf").click()
    expect(page.get_by_role("button", name=re.compile("^Identification beacon, 90.0 mA"))).to_be_visible()
    # It is an edit like any other: its ticket opens, what changed is told, and nobody is taken for another tab.
    expect(
        page.get_by_role("region", name="Ticket").get_by_role("heading", name="Identification beacon")
    ).to_be_visible()
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Identification beacon")
    expect(page.get_by_text("Changed elsewhere")).to_have_count(0)
    page.keyboard.press("/")
    box.fill("tail light")
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="LED line")).to_be_visible()
    page.keyboard.press("/")
    box.fill("part for 25 V")
    page.keyboard.press("Enter")
    expect(
        page.get_by_role("region", name="Ticket").get_by_role("heading", name="Capacitor at the ESC")
    ).to_be_visible()


def test_keys_work_after_a_tab_was_clicked_and_words_of_the_trade_find_their_tool(page: Page, plan_id: int) -> None:
    """A tab is an input to the browser: it swallowed `/`, digits and letters."""
    arrive(page, f"/plans/{plan_id}/grounds?c=hover")
    page.get_by_text("Signals", exact=True).click()
    page.keyboard.press("2")
    expect(page).to_have_url(re.compile("c=pack-bench"))
    page.keyboard.press("/")
    box = page.get_by_role("combobox", name="Search or do")
    box.fill("gps")
    expect(page.get_by_role("option").filter(has_text="GNSS with compass").first).to_be_visible()
    box.fill("smoke stopper")
    expect(page.get_by_role("option").first).to_contain_text("First power through a limiter")
    box.fill("heat sink")
    page.get_by_role("option").filter(has_text="How the craft is judged").click()
    expect(page.get_by_role("heading", name="Policy").first).to_be_visible()


def test_the_next_thing_is_one_and_can_be_put_off(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/windows")
    following = page.get_by_role("region", name="Next", exact=True)
    link = following.get_by_role("link")
    first = link.inner_text()
    assert "5 V rail" in first
    link.click()
    expect(page).to_have_url(re.compile(r"/rails"))
    expect(page.get_by_role("region", name="Ticket")).to_be_visible()
    following.get_by_role("button", name="Not now").click()
    expect(link).not_to_have_text(first)
    second = link.inner_text()
    page.reload()
    expect(link).to_have_text(second)
