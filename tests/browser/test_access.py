"""For every hand and eye: every view at every width, in both themes, and all of it by keyboard."""

from __future__ import annotations

import re
import subprocess
import sys
from collections.abc import Callable

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import arrive, go, settled
from tests.server.running import Running

pytestmark = pytest.mark.browser
Check = Callable[..., None]

VIEWS: dict[str, tuple[str, ...]] = {
    "rails?c=hover&s=computer": (),
    "windows?c=hover&s=hover": ("Sources", "Chances"),
    "grounds?c=punch-low&s=video-cam": ("Signals",),
    "hookup?c=hover": (),
    "layouts": (),
    "log": (),
    "wrong?symptom=resets-warm": (),
    "noise?c=hover&s=esc-capacitor": ("Parts", "Measured", "Feeds"),
    "run?c=hover": (),
    "leds?c=hover": (),
    "bench?c=hover": (),
    "compare": (),
    "shelf": (),
    "card": (),
}


def overflow(page: Page) -> int:
    """Pixels the page and its view are wider than their place."""
    found: int = page.evaluate(
        """() => Math.max(...['html', '.shell-view'].map(s => document.querySelector(s))
             .filter(Boolean).map(e => e.scrollWidth - e.clientWidth))"""
    )
    return found


def fits(page: Page, where: str, width: int) -> None:
    """A page that was made narrower is given a moment to be laid out."""
    for _ in range(20):
        if overflow(page) <= 0:
            return
        page.wait_for_timeout(100)
    raise AssertionError((where, width, overflow(page)))


@pytest.mark.parametrize("part", range(3))
def test_axe_finds_nothing_on_any_view(page: Page, plan_id: int, assert_accessible: Check, part: int) -> None:
    """Every view and its sheets at every width, a third of them at a time, and the colours of each view in the dark."""

    def check(where: str, within: str = "") -> None:
        settled(page)
        for width in (1280, 640, 390, 320):  # 640 is twice the zoom, 320 four times
            page.set_viewport_size({"width": width, "height": 800})
            if width == 1280:
                assert_accessible(page, within=within)
                assert page.evaluate("document.documentElement.scrollHeight") <= 800 or where in ("/", "/new"), where
            elif width == 390 and where in VIEWS:  # between them only the room is another
                assert_accessible(page, "structure")
            expect(page.get_by_role("heading", level=1)).to_have_count(1)
            fits(page, where, width)
        page.set_viewport_size({"width": 1280, "height": 800})

    for address in ("/", "/new") if part == 0 else ():
        page.goto(address)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        check(address)
        page.evaluate("localStorage.setItem('yard-mode', 'dark')")
        page.reload()
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        assert_accessible(page, "colours")
        page.evaluate("localStorage.setItem('yard-mode', 'light')")
    page.goto(f"/plans/{plan_id}/rails")
    for view, sheets in list(VIEWS.items())[part::3]:
        go(page, f"/plans/{plan_id}/{view}")
        expect(page.get_by_role("navigation", name="Views")).to_be_visible()
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        check(view)
        if view.startswith("run"):
            expect(page.get_by_role("slider", name=re.compile("^Timetable"))).to_be_visible()
            page.evaluate("document.querySelectorAll('details').forEach(one => one.open = true)")
            assert_accessible(page, within=".shell-view")
        page.get_by_role("button", name="Dark theme").click()
        expect(page.locator("html[data-mode=dark]")).to_have_count(1)
        assert_accessible(page, "colours")
        page.get_by_role("button", name="Light theme").click()
        for sheet in sheets:
            page.get_by_text(sheet, exact=True).first.click()
            page.wait_for_timeout(250)
            check(f"{view} {sheet}", within=".shell-view")  # the frame around it is the view's


def test_on_a_phone_rails_are_a_list_and_a_ticket_a_sheet(page: Page, plan_id: int) -> None:
    page.set_viewport_size({"width": 390, "height": 800})
    arrive(page, f"/plans/{plan_id}/rails?c=punch-low")
    rail = page.locator(".rails-list-head").filter(has_text=re.compile("5 V rail")).filter(has_not_text="USB")
    expect(rail).to_contain_text("asked 3.53 A, usable 1.75 A")
    page.get_by_role("button", name=re.compile("Companion computer")).click()
    field = page.get_by_label("peak draw", exact=True)
    field.fill("3W@5V")
    field.press("Enter")
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Companion computer: peak draw 3W@5V")
    expect(rail).not_to_contain_text("asked 3.53 A")
    page.get_by_role("button", name=re.compile("Ticket and findings")).click()
    expect(field).to_have_count(0)
    assert overflow(page) <= 0
    page.get_by_role("link", name="Hook-up").click()
    page.get_by_label("pack done").first.check()
    expect(page.get_by_text(re.compile(r"1 of [4-6][0-9] wires and parts done"))).to_be_visible()
    assert overflow(page) <= 0


def tabs_until(page: Page, reached: str, most: int) -> int:
    """How often Tab is pressed until the element in focus fits a selector."""
    for count in range(1, most + 1):
        page.keyboard.press("Tab")
        if page.evaluate("s => document.activeElement.matches(s)", reached):
            return count
    raise AssertionError(f"{reached} was not reached with {most} tabs")


def focused(page: Page) -> str:
    found: str = page.evaluate(
        "() => document.activeElement.getAttribute('aria-label') ?? document.activeElement.textContent"
    )
    return found


def test_from_the_top_to_a_draw_by_keyboard(page: Page, plan_id: int) -> None:
    """Skip link, along a track, into the ticket, to its first field, and back to the wagon."""
    page.goto(f"/plans/{plan_id}/rails?c=hover")
    expect(page.get_by_role("group", name="Rails, tracks to scale in amps")).to_be_visible()
    assert tabs_until(page, ".skip button", 3) == 1
    page.keyboard.press("Enter")
    assert focused(page).startswith("Pack 6S")
    for _ in range(4):  # past the numbers of the block
        page.keyboard.press("ArrowRight")
        if focused(page).startswith("ESC lead"):
            break
    assert focused(page).startswith("ESC lead")
    for _ in range(12):
        page.keyboard.press("ArrowDown")
        if focused(page).startswith(("Companion computer", "5 V, ticket")):
            break
    page.keyboard.press("Home")
    assert focused(page).startswith("5 V")
    for _ in range(8):
        page.keyboard.press("ArrowRight")
        if focused(page).startswith("Companion computer"):
            break
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Companion computer")).to_be_focused()
    page.keyboard.press("e")
    expect(page.get_by_label("idle draw", exact=True)).to_be_focused()
    page.keyboard.type("1")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name=re.compile("^Companion computer,"))).to_be_focused()
    # The whole yard is one stop: the next one is behind it.
    page.keyboard.press("Tab")
    assert not page.evaluate("() => document.activeElement.closest('.yard svg')")


def test_after_apply_the_keyboard_is_at_what_changed(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover")
    page.get_by_role("button", name=re.compile("^Try: ")).first.press("Enter")
    page.get_by_role("button", name="Apply", exact=True).press("Enter")
    expect(page.get_by_role("region", name="What changed").locator("header strong")).to_be_focused()


def test_letters_can_be_left_to_speech(page: Page, plan_id: int) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover")
    hover = page.get_by_role("button", name="Hover").first
    expect(hover).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Keys").click()
    page.get_by_role("switch", name="Single letters and digits are shortcuts").click()
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.reload()
    expect(hover).to_be_visible()
    page.keyboard.press("4")
    page.keyboard.press("/")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(hover).to_have_attribute("aria-pressed", "true")


def test_undo_right_after_typing_is_the_plans(page: Page, plan_id: int) -> None:
    """Not the field's own, whose old text would come back as a new edit on leaving the field."""
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s=computer")
    field = page.get_by_label("typical draw", exact=True)
    field.press("Control+a")
    field.press_sequentially("2W")
    field.press("Enter")
    changes = page.get_by_role("region", name="What changed")
    expect(changes).to_contain_text("Companion computer: typical draw 2W")
    field.press("Control+z")
    expect(field).to_have_value("4.5W@5V")
    field.press("Tab")
    page.get_by_role("button", name="History").click()
    entries = page.get_by_role("menuitem")
    expect(entries).to_have_count(2)
    expect(entries.first).to_contain_text("(undone)")
    page.keyboard.press("Escape")
    # While something typed waits in the field, undo is the field's own.
    field.press("End")
    field.press_sequentially("9")
    field.press("Control+z")
    expect(page.get_by_role("button", name="Redo", exact=True).first).to_be_enabled()


def test_a_step_beside_the_line_is_listed_and_comes_back(page: Page, plan_id: int, server: Running) -> None:
    arrive(page, f"/plans/{plan_id}/rails?c=hover&s=computer")
    field = page.get_by_label("typical draw", exact=True)
    for text in ("2W", "3W"):
        field.fill(text)
        field.press("Enter")
        expect(page.get_by_role("region", name="What changed")).to_contain_text(f"typical draw {text}")
        if text == "2W":
            field.press("Control+z")
            expect(field).to_have_value("4.5W@5V")
    page.get_by_role("button", name="History").click()
    page.get_by_role("menuitem", name=re.compile("beside the line, from 1")).click()
    expect(field).to_have_value(re.compile("2 ?W"))


def test_an_address_that_is_no_plan_says_so(page: Page) -> None:
    page.goto("/plans/abc/rails")
    expect(page.get_by_text("This plan does not exist.")).to_be_visible()
    expect(page.get_by_text("./yard run")).to_have_count(0)
    page.get_by_role("button", name="All builds").click()
    expect(page.get_by_role("heading", name="Yard Meter")).to_be_visible()


def test_from_another_machine_a_login_is_asked_and_nothing_typed_is_lost(
    chromium: Browser, tmp_path_factory: pytest.TempPathFactory
) -> None:
    data = tmp_path_factory.mktemp("login") / "own.sqlite3"
    line = [sys.executable, "-m", "yardmeter.server.login", "builder", "--data", str(data)]
    subprocess.run(line, input="a long enough one\n", text=True, check=True, capture_output=True)
    with Running("--data", data, "--host", "127.0.0.2") as server:
        page = chromium.new_page(base_url=server.address)
        page.goto("/")
        page.get_by_label("Name", exact=True).fill("builder")
        page.get_by_label("Password").fill("a wrong one, yes")
        page.get_by_role("button", name="Log in").click()
        expect(page.get_by_role("alert")).to_contain_text("Name or password is wrong")
        page.get_by_label("Password").fill("a long enough one")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Copy into this file").first.click()
        expect(page.get_by_role("group", name="Rails, tracks to scale in amps")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Companion computer,")).press("Enter")
        page.context.clear_cookies()
        field = page.get_by_label("typical draw", exact=True)
        field.fill("2W")
        field.press("Enter")
        page.get_by_label("Name", exact=True).fill("builder")
        page.get_by_label("Password").fill("a long enough one")
        page.get_by_role("button", name="Log in").click()
        expect(page.get_by_role("button", name="Log in")).to_have_count(0)
        expect(field).to_have_value("2W")
        field.press("Enter")
        expect(page.get_by_role("region", name="What changed")).to_contain_text("typical draw 2W")
        page.close()


OVERLAPS = """() => {
  const shown = [...document.querySelectorAll('.shell-view svg text')]
    .map(e => [e.textContent.trim(), e.getBoundingClientRect()]).filter(([words, box]) => words && box.width > 0);
  const met = (a, b) => Math.min(a.right, b.right) - Math.max(a.left, b.left) > 3
    && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 5;
  return shown.flatMap(([words, a], k) => shown.slice(k + 1).filter(([, b]) => met(a, b)).map(([other]) => `${words} | ${other}`));
}"""


@pytest.mark.parametrize("key", ["marshlight", "culvert", "wren", "heathwatch"])
def test_no_label_lies_on_another(page: Page, server: Running, key: str) -> None:
    """Every drawing of every plan of a demo build, in conditions enough to meet each of its shapes."""
    met: list[str] = []
    for place, plan in enumerate(server.post("/api/builds", {"demo": key})["plans"]):
        conditions = [c["id"] for c in server.get(f"/api/plans/{plan['id']}")["plan"]["conditions"]]
        arrive(page, f"/plans/{plan['id']}/rails?c={conditions[0]}")
        for view in ("Rails", "Windows", "Grounds", *(("Noise", "LEDs") if place == 0 else ())):
            link = page.get_by_role("navigation", name="Views").get_by_role("link", name=view)
            link.click()
            expect(link).to_have_attribute("aria-current", "page")
            expect(page.locator(".shell-view svg text").first).to_be_visible()
            # Every condition on the first plan's rails; elsewhere every third one.
            step = 3 if view != "Rails" or place else 1
            last = 1 if view == "LEDs" else 2 if view == "Noise" else None
            for number, condition in list(enumerate(conditions, 1))[:last:step]:
                page.keyboard.press(str(number))
                page.wait_for_url(f"**c={condition}*")
                page.wait_for_timeout(80)
                met += [f"{plan['name']} {view} {condition}: {one}" for one in page.evaluate(OVERLAPS)]
    assert met == []


def test_the_focus_goes_where_the_hand_was(page: Page, plan_id: int) -> None:
    """A step passed with its key, a scenario chosen by keys: what one was at is drawn anew, and one is still there."""
    at = "document.activeElement === document.body"
    arrive(page, f"/plans/{plan_id}/bench?c=hover")
    page.get_by_role("button", name="It is so").focus()
    page.keyboard.press("y")
    expect(page.get_by_role("region", name="Step 2")).to_be_visible()
    expect(page.locator(".bench [aria-live=polite]").first).to_contain_text("Step 2: ")
    page.wait_for_function("document.activeElement.matches('.bench-title')")
    go(page, f"/plans/{plan_id}/run?c=hover")
    slider = page.get_by_role("slider", name=re.compile("^Timetable"))
    expect(slider).to_be_visible()
    box = page.get_by_role("combobox", name="scenario")
    box.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    page.wait_for_function("new URLSearchParams(location.search).has('r')")
    page.wait_for_timeout(300)
    assert not page.evaluate(at)
    expect(slider).to_be_visible()
    slider.focus()
    page.keyboard.press("End")
    expect(slider).to_have_attribute("aria-valuetext", re.compile(r"s: .*rail .*V.*(runs|off|boots)"))
    page.keyboard.press("Home")
    expect(slider).to_have_attribute("aria-valuenow", "0")
    page.keyboard.press("PageUp")
    expect(slider).not_to_have_attribute("aria-valuenow", "0")


def test_what_one_came_for_is_ten_tabs_away(page: Page, plan_id: int) -> None:
    """From the top of the page to a draw, and to a scenario."""

    def tabs_until(name: str, skip: str) -> int:
        for count in range(1, 11):
            page.keyboard.press("Tab")
            here = page.evaluate(
                "document.activeElement.getAttribute('aria-label') || document.activeElement.textContent"
            )
            if here == skip:
                page.keyboard.press("Enter")
                page.wait_for_timeout(200)
                here = page.evaluate(
                    "document.activeElement.labels?.[0]?.textContent || document.activeElement.getAttribute('aria-label') || ''"
                )
            if here.endswith(name):
                return count
        return 99

    page.goto(f"/plans/{plan_id}/rails?c=hover&s=recorder")
    expect(page.get_by_label("peak draw", exact=True)).to_be_visible()
    assert tabs_until("draw", "Draws") <= 10
    page.goto(f"/plans/{plan_id}/run?c=hover")
    expect(page.get_by_role("combobox", name="scenario")).to_be_visible()
    assert tabs_until("scenario", "View") <= 10
