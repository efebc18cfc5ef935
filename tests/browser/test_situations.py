"""Crafts that builders really hold, made from New build; clicks and keys are counted and what they need stands on screen."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import arrive

pytestmark = pytest.mark.browser
MOST_CLICKS, MOST_KEYS = 25, 80


@dataclass
class Hands:
    """A builder at the screen; every press and every letter counts."""

    page: Page
    clicks: int = 0
    keys: int = 0
    seen: list[str] = field(default_factory=list)

    def click(self, where: Locator) -> None:
        where.click()
        self.clicks += 1

    def type(self, where: Locator, text: str) -> None:
        where.fill(text)
        self.keys += len(text)

    def press(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.keys += 1

    def choose(self, name: str, typed: str, times: int = 1) -> None:
        if typed:
            self.type(self.page.get_by_label("Search the shelf"), typed)
        for _ in range(times):
            self.click(self.page.get_by_role("button", name=f"Choose {name}", exact=True))

    def start(self, shape: str, pack: str, boards: list[tuple[str, str, int]], devices: list[tuple[str, str]]) -> None:
        page = self.page
        arrive(page, "/new")
        self.click(page.get_by_text(shape, exact=True))
        # Two shapes may be wired alike; the one that was chosen is the one that is marked.
        expect(page.locator("label.is-chosen strong")).to_have_text(shape)
        self.choose(pack, "")
        self.click(page.get_by_role("button", name="Next: Boards"))
        for name, typed, times in boards:
            self.choose(name, typed, times)
        self.click(page.get_by_role("button", name="Next: Devices"))
        for name, typed in devices:
            self.choose(name, typed)
        self.click(page.get_by_role("button", name="Work it out"))
        expect(page.get_by_role("group", name="Rails, tracks to scale in amps")).to_be_visible()

    def move(self, device: str, to: str) -> None:
        page = self.page
        self.wagon(device)
        self.click(page.get_by_role("button", name="Move…", exact=True))
        self.click(page.get_by_role("dialog").get_by_role("button", name=re.compile(to)))

    def wagon(self, device: str) -> None:
        wagon = self.page.get_by_role("button", name=re.compile(f"^{device.replace('.', '[.]')},"))
        self.click(wagon.locator(".wagon-body"))

    def done(self) -> None:
        assert self.clicks <= MOST_CLICKS, f"{self.clicks} clicks"
        assert self.keys <= MOST_KEYS, f"{self.keys} keys"


@pytest.fixture
def hands(page: Page) -> Hands:
    return Hands(page)


def findings(page: Page) -> Locator:
    page.keyboard.press("0")
    return page.get_by_role("region", name="Findings")


ESC = ("Four-way ESC, no BEC", "four-way", 1)
MOTORS = ("Four motors, medium", "medium")


def test_a_stack_with_a_digital_unit_on_six_cells(hands: Hands, page: Page) -> None:
    digital = "Digital video unit with control bus and receiver line"
    hands.start(
        "Stack", "6S 1.3 Ah", [ESC, ("Controller, 5 V 2.5 A and 9 V 3 A", "9 V 3", 1)], [MOTORS, (digital, "bus")]
    )
    hands.press("5")
    expect(page.get_by_role("button", name=re.compile("^9 V rail, spare"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Harness|Harness"))).not_to_have_count(0)
    hands.done()


def test_a_whoop_with_3_3_v_straight_from_the_cell(hands: Hands, page: Page) -> None:
    board = ("All-in-one board, 1S, 3.3 V straight from the cell", "straight", 1)
    hands.start(
        "Whoop on one cell", "1S 0.3 Ah", [board], [("Four 1S whoop motors", "whoop"), ("Receiver on 3.3 V", "3.3")]
    )
    expect(findings(page)).to_contain_text(
        re.compile("3.3 V linear.*regulation|leaves regulation|headroom", re.IGNORECASE)
    )
    hands.done()


def test_an_overlay_board_between_camera_and_sender(hands: Hands, page: Page) -> None:
    boards = [
        ESC,
        ("Controller 5 V 2 A, no overlay chip", "no overlay", 1),
        ("Overlay board, 5 V, with camera and sender plugs", "plugs", 1),
    ]
    hands.start(
        "Stack", "4S 1.5 Ah", boards, [("Micro camera, 5 V", "micro cam"), ("Analogue sender, 200 mW, 5 V only", "200")]
    )
    expect(page.get_by_role("button", name=re.compile("^Overlay board logic, 60.0 mA"))).to_be_visible()
    hands.done()


def test_a_camera_fed_by_the_senders_own_output(hands: Hands, page: Page) -> None:
    boards = [ESC, ("Controller 5 V 2 A, no overlay chip", "no overlay", 1)]
    hands.start(
        "Stack",
        "4S 1.5 Ah",
        boards,
        [("Analogue sender, 400 mW, with 5 V out", "400"), ("Micro camera, 5 V", "micro cam")],
    )
    hands.move("Micro camera, 5 V", "Sender 5 V out")
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Micro camera, 5 V → Sender 5 V out")
    hands.done()


def test_four_single_escs_with_switching_becs(hands: Hands, page: Page) -> None:
    """Their red wires are pulled: the controller has 5 V of its own, and BECs side by side feed each other."""
    boards = [
        ("Single ESC, switching BEC 5 V 3 A", "switching", 4),
        ("Controller 5 V 2 A, no overlay chip", "no overlay", 1),
    ]
    hands.start("Power board and single ESCs", "4S 1.5 Ah", boards, [MOTORS])
    expect(findings(page)).to_contain_text("0 findings")
    expect(page.get_by_role("group", name="Rails, tracks to scale in amps")).to_contain_text("ESC 4")
    hands.done()


def test_a_controller_for_5_v_only_without_a_source(hands: Hands, page: Page) -> None:
    hands.start(
        "Stack",
        "4S 1.5 Ah",
        [ESC, ("Controller fed by 5 V only, no overlay chip", "5 V only", 1)],
        [("Mini receiver", "mini rec")],
    )
    told = page.get_by_text(re.compile("^Wired as its lightest layout: .*Undo takes that back"))
    expect(told).to_contain_text("BEC 5 V")
    expect(findings(page).get_by_text("danger")).to_have_count(0)
    hands.press("Control+z")
    first = findings(page).get_by_role("article").first
    expect(first).to_contain_text(re.compile("danger.*Flight controller logic has no source on the pack", re.DOTALL))
    hands.done()


def test_a_digital_unit_moved_to_the_pack_of_four_cells(hands: Hands, page: Page) -> None:
    boards = [ESC, ("Controller, 5 V 2.5 A and 9 V 3 A", "9 V 3", 1)]
    hands.start("Stack", "4S 1.5 Ah", boards, [("Digital video unit, 7 to 26 V", "7 to 26")])
    hands.move("Digital video unit, 7 to 26 V", "^.*ESC pack")
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Digital video unit, 7 to 26 V → ESC pack")
    hands.done()


def test_a_tail_light_of_one_led_that_carries_too_much(hands: Hands, page: Page) -> None:
    """(5.0 − 3.1) V over 100 Ω is 19 mA of 20: two ohms less in the way than it seems, and no more."""
    boards = [ESC, ("Controller 5 V 2 A, no overlay chip", "no overlay", 1)]
    light = "White LED, one, for a tail light"
    hands.start("Stack", "4S 1.5 Ah", boards, [(light, "tail")])
    hands.wagon(light)
    resistor = page.get_by_role("region", name="Ticket").get_by_label("resistor of each string")
    hands.type(resistor, "10")
    hands.press("Enter")
    expect(findings(page)).to_contain_text(re.compile(r"through every LED, they stand 20\.0 mA"))
    hands.done()


def test_a_sealed_craft_without_a_board(hands: Hands, page: Page) -> None:
    hands.start("No controller", "3S 2.2 Ah, for a wing", [], [("White LED strip, 12 V, 10 cm", "strip, 12")])
    expect(page.get_by_role("button", name=re.compile("^White LED strip"))).to_be_visible()
    expect(page.get_by_role("button", name="Pack 3S → Pack rail, ticket")).to_be_visible()
    hands.done()


def test_a_pad_bridge_both_ways(hands: Hands, page: Page) -> None:
    boards = [ESC, ("Controller, camera pads bridged to 5 V or the pack", "bridged", 1)]
    hands.start("Stack", "4S 1.5 Ah", boards, [("Micro camera, 5 V", "micro cam")])
    hands.move("Micro camera, 5 V", "Camera pads")
    expect(findings(page)).not_to_contain_text("Micro camera, 5 V gets")
    hands.click(page.get_by_role("button", name=re.compile("^Camera pads.*ticket")))
    ticket = page.get_by_role("region", name="Ticket")
    hands.click(ticket.get_by_label("bridged to"))
    hands.click(page.get_by_title("Controller pack in", exact=True))
    expect(page.locator(".ant-select-selection-item-remove")).to_have_count(2)
    hands.click(page.locator(".ant-select-selection-item-remove").first)
    expect(findings(page)).to_contain_text(re.compile("Micro camera, 5 V gets 16.* takes 5.6 V"))
    hands.done()


def test_an_action_camera_three_ways_side_by_side(hands: Hands, page: Page) -> None:
    """6S: 25.2 V is too near its 26 V for comfort and far above its port; each way says so with numbers, on one screen."""
    boards = [ESC, ("Controller, 5 V 2.5 A and 9 V 3 A", "9 V 3", 1)]
    camera = "Action camera, pins for 7 to 26 V"
    hands.start("Stack", "6S 1.3 Ah", boards, [MOTORS, (camera, "action camera, pins")])
    hands.wagon(camera)
    hands.click(page.get_by_role("button", name="All ways and places"))
    box = page.get_by_role("dialog")
    rows = box.get_by_role("row")
    expect(rows.filter(has_text="pins, 7 to 26 V: 9 V (now)")).to_be_visible()
    refused = box.get_by_role("listitem")
    expect(refused.filter(has_text="port, 5 V: 9 V")).to_contain_text("it takes 5.5 V")
    expect(refused.filter(has_text="battery's contacts, 3.85 V: 9 V")).to_contain_text("it takes 4.4 V")
    # 9 W at 5 V are 1.8 A beside the logic's 0.2 A; 2.5 A of print leave 1.75 A usable.
    expect(refused.filter(has_text="port, 5 V: 5 V: 5 V would be")).to_contain_text("0.35 A short")
    hands.click(rows.filter(has_text=re.compile("port, 5 V: BEC")).first.get_by_role("button", name="Apply"))
    changed = page.get_by_role("region", name="What changed")
    expect(changed).to_contain_text(f"{camera}: powered by port, 5 V")
    expect(page.get_by_role("region", name="Ticket")).to_contain_text("allowed 4.6–5.5 V")
    hands.done()


def test_a_second_regulator_of_5_v_in_parallel(hands: Hands, page: Page) -> None:
    boards = [ESC, ("Controller 5 V 2 A, no overlay chip", "no overlay", 1)]
    hands.start("Stack", "4S 1.5 Ah", boards, [("Batteryless action camera", "batteryless")])
    # Asked for by name; the finding of an overload leads there too, and so does the rail.
    hands.press("/")
    hands.type(page.get_by_role("combobox", name="Search or do"), "second regulator beside 5")
    hands.press("Enter")
    ticket = page.get_by_role("region", name="Ticket")
    hands.click(ticket.get_by_label("regulator to set beside it"))
    hands.click(page.get_by_title("BEC 5 V 3 A", exact=True))
    hands.click(ticket.get_by_role("button", name="Set it beside"))
    expect(page.get_by_role("button", name=re.compile("^BEC 5 V 3 A"))).not_to_have_count(0)
    expect(findings(page)).to_contain_text("2 regulators feed one net")
    hands.done()


def test_a_wing_whose_servos_plug_into_the_controller(hands: Hands, page: Page) -> None:
    """The servo's plug goes where its signal is; the controller has 5 V of its own, and the ESC's BEC beside it feeds nothing back."""
    boards = [
        ("Wing ESC, switching BEC 5 V 5 A", "wing esc", 1),
        ("Wing controller, 5 V 4 A, 9 V 2 A, servo rail", "wing contr", 1),
    ]
    devices = [("One pusher motor for a wing", "pusher"), ("Standard servo", "standard"), ("Mini receiver", "mini rec")]
    hands.start("Wing with servos", "3S 2.2 Ah, for a wing", boards, devices)
    expect(page.get_by_role("button", name=re.compile("^Standard servo,"))).to_be_visible()
    expect(findings(page)).not_to_contain_text("feed one net")
    hands.click(page.get_by_role("link", name=re.compile("^Hook-up")))
    row = page.get_by_role("row", name=re.compile("Standard servo, supply"))
    expect(row).to_contain_text("Flight controller S+ 1")
    hands.done()


def test_everything_on_one_board_from_two_to_four_cells(hands: Hands, page: Page) -> None:
    board = ("All-in-one board, 2S to 4S, 5 V 2 A", "2S to 4S", 1)
    devices = [
        ("Four motors, small", "small"),
        ("Micro camera, 5 V", "micro c"),
        ("Mini receiver", "mini rec"),
        ("Buzzer", "buzzer"),
    ]
    hands.start("All in one", "3S 1.3 Ah", [board], devices)
    expect(findings(page).locator(".finding-danger")).to_have_count(0)
    hands.click(
        page.get_by_role("region", name="Next").get_by_role("link", name=re.compile("^Join the pins: 4 usual links"))
    )
    hands.click(page.get_by_role("button", name=re.compile("^Join all")))
    expect(page.get_by_role("region", name="What changed")).to_contain_text("Mini receiver out")
    hands.click(page.get_by_role("link", name=re.compile("^Hook-up")))
    # Motors of such a board are on the board; the buzzer is switched by it.
    expect(page.get_by_text(re.compile("All-in-one board motor pads")).first).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("^Buzzer switch"))).to_contain_text("BZ−")
    hands.done()


def test_a_camera_gets_a_cell_of_its_own(hands: Hands, page: Page) -> None:
    boards = [ESC, ("Controller 5 V 2 A, no overlay chip", "no overlay", 1)]
    hands.start("Stack", "4S 1.5 Ah", boards, [MOTORS, ("Tiny camera, from one cell", "tiny")])
    hands.wagon("Tiny camera, from one cell")
    hands.click(page.get_by_role("link", name="Places side by side"))
    places = page.get_by_role("region", name=re.compile("^Places of Tiny camera"))
    hands.click(places.get_by_role("button", name=re.compile("cell of its own, 1S 0.3 Ah", re.IGNORECASE)))
    expect(places.get_by_role("columnheader", name=re.compile("own.*now", re.IGNORECASE))).to_be_visible()
    hands.click(page.get_by_role("link", name=re.compile("^Hook-up")))
    expect(page.get_by_role("row", name=re.compile("1S LiHV, 300 mAh"))).to_be_visible()
    hands.done()


def test_eight_lifting_motors_want_another_pack(hands: Hands, page: Page) -> None:
    boards = [("Power board, pack pads only", "pads only", 1), ("Single ESC, no BEC", "single esc, no", 8)]
    hands.start("Power board and single ESCs", "6S 1.3 Ah", boards, [("Eight motors, lifting", "eight")])
    expect(findings(page)).to_contain_text(re.compile("Pack rail: 140 A asked, 96.0 A usable"))
    hands.click(findings(page).get_by_role("button", name=re.compile("Fly 6S 5 Ah instead of 6S 1.3 Ah")))
    hands.click(page.get_by_role("button", name="Apply", exact=True))
    expect(page.get_by_role("button", name=re.compile("^Pack rail, spare|6S"))).not_to_have_count(0)
    expect(findings(page).locator(".finding-fault, .finding-danger")).to_have_count(0)
    hands.done()


def test_servos_that_a_linear_regulator_cannot_feed_get_one_of_their_own(hands: Hands, page: Page) -> None:
    """12.6 V less 5 V at two amperes burn 15 W in a part that sheds two: the new plan is wired with a BEC, and says so."""
    boards = [("ESC with linear BEC 5 V 1 A", "linear bec 5", 1)]
    hands.start(
        "Wing with servos", "3S 1.3 Ah", boards, [("Standard servo", "standard"), ("Mini receiver", "mini rec")]
    )
    expect(page.get_by_text("Wired as its lightest layout")).to_contain_text("BEC 5 V 3 A")
    expect(page.get_by_role("button", name=re.compile("^BEC 5 V 3 A rail, spare"))).to_be_visible()
    expect(findings(page).locator(".finding-fault, .finding-danger")).to_have_count(0)
    hands.done()
