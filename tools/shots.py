"""Refresh docs/screenshots: one current picture of each main view, made from the demo data."""

from __future__ import annotations

import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Browser, ViewportSize, sync_playwright

from tools.chromium import launched, program
from tools.server import Serving

ROOT = Path(__file__).resolve().parents[1]
FOLDER = ROOT / "docs" / "screenshots"
SIZE: ViewportSize = {"width": 1280, "height": 800}
PHONE: ViewportSize = {"width": 390, "height": 780}


@dataclass(frozen=True)
class Shot:
    """One picture: file name, address, theme, and what to press before, in order."""

    name: str
    path: str
    dark: bool = False
    keys: tuple[str, ...] = ()
    press: str = ""
    then: str = ""
    fill: str = ""
    phone: bool = False


SHOTS = (
    Shot("builds", "/"),
    Shot("rails", "/plans/1/rails?c=punch-low"),
    Shot("rails-dark", "/plans/1/rails?c=hover&s=computer", dark=True),
    Shot("windows", "/plans/1/windows?c=hover"),
    Shot("places", "/plans/1/rails?c=hover&s=recorder", keys=("w",)),
    Shot("grounds", "/plans/1/grounds?c=punch-low&s=camera-gnd"),
    Shot("trouble", "/plans/1/wrong?symptom=resets-warm&where=mcu", press="Look into it"),
    Shot("layouts", "/plans/1/layouts?now=1"),
    Shot("log", "/plans/2/log", press="Second flight, propellers balanced"),
    Shot("hook-up", "/plans/2/hookup?c=punch-low"),
    Shot("noise", "/plans/1/noise?c=hover"),
    Shot("parts", "/plans/1/noise?c=hover&s=esc-capacitor", press="Parts", then="Try them"),
    Shot("run", "/plans/5/run?r=punch-on-low-pack"),
    Shot("bench", "/plans/2/bench?c=hover", press="Rails"),
    Shot("bench-phone", "/plans/2/bench?c=hover", press="Rails", phone=True),
    Shot("compare", "/plans/1/compare"),
    Shot("shelf", "/plans/1/shelf?c=hover"),
    Shot("card", "/plans/1/card"),
    Shot("new-build", "/new"),
)


GATES = {"Rails": "Rails to ground and to each other", "Plug": "Plus to minus at the plug"}
"""Signals of the bench by what is said under them."""


def take(browser: Browser, address: str, shot: Shot) -> None:
    page = browser.new_page(
        viewport=PHONE if shot.phone else SIZE, color_scheme="dark" if shot.dark else "light", reduced_motion="reduce"
    )
    page.goto(address + shot.path)
    page.wait_for_load_state("networkidle")
    if shot.press:
        first = page.locator(".gate-line").get_by_title(GATES[shot.press]) if shot.press in GATES else None
        (first or page.get_by_text(shot.press, exact=True).first).click()
    if shot.fill:
        page.get_by_label("reading").fill(shot.fill)
        page.keyboard.press("Enter")
        page.wait_for_timeout(3000)
    if shot.then:
        page.get_by_text(shot.then, exact=True).click()
        page.wait_for_timeout(4000)
    for key in shot.keys:
        page.keyboard.press(key)
        page.wait_for_timeout(300)
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(1500 if shot.press or shot.keys else 400)
    page.screenshot(path=FOLDER / f"{shot.name}.png")
    page.close()
    print(f"docs/screenshots/{shot.name}.png")


def main(arguments: list[str]) -> int:
    """All shots, or only those named."""
    found = program()
    if found is None:
        print("Chromium is not installed; no pictures were taken.", file=sys.stderr)
        return 1
    wanted = [shot for shot in SHOTS if not arguments or shot.name in arguments]
    FOLDER.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as folder,
        Serving(Path(folder)) as address,
        sync_playwright() as playwright,
    ):
        browser = launched(playwright, found)
        for shot in wanted:
            take(browser, address, shot)
        browser.close()
    return 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
