"""A real server and headless Chromium. Every test gets a fresh copy of the demo build and a page that may not leave the server."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Generator, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Request, ViewportSize, expect, sync_playwright
from playwright.sync_api import TimeoutError as TookTooLong

from tests.conftest import need
from tests.server.running import Running
from tools.chromium import PROGRAMS, launched

RULES = {name: {"enabled": True} for name in ("target-size", "label-content-name-mismatch", "table-fake-caption", "td-has-header", "focus-order-semantics", "p-as-heading")}  # fmt: skip
"""What axe leaves out by itself: size of targets, and what is still on trial there."""
SIZE: ViewportSize = {"width": 1280, "height": 800}
NOWHERE = "about:blank"
FAILED = pytest.StashKey[bool]()
KEPT_BY_PAGES = "cookies,local_storage,indexeddb,cache_storage,service_workers,websql,file_systems"

SETTLES_MS, PATIENT_MS = 3000, 30000

expect.set_options(timeout=40000)


@pytest.fixture(scope="package")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    with Running("--data", tmp_path_factory.mktemp("data") / "browser.sqlite3") as running:
        yield running


# Ends with this package: its event loop runs in the tests' own thread, where the ORM refuses to work beside it.
@pytest.fixture(scope="package")
def chromium() -> Iterator[Browser]:
    path = need(*PROGRAMS)
    with sync_playwright() as playwright:
        browser = launched(playwright, path)
        yield browser
        browser.close()


@pytest.fixture
def plan_id(server: Running) -> int:
    """The plan “as soldered” of a fresh Marshlight."""
    found: int = server.post("/api/builds", {"demo": "marshlight"})["plans"][0]["id"]
    return found


@pytest.fixture
def second_plan(server: Running) -> int:
    """The plan “second wiring” of a fresh Marshlight."""
    found: int = server.post("/api/builds", {"demo": "marshlight"})["plans"][1]["id"]
    return found


@pytest.fixture(scope="package")
def context(chromium: Browser, server: Running) -> BrowserContext:
    """One for all: scripts and styles are fetched once. What pages keep is cleared before each test."""
    return chromium.new_context(viewport=SIZE, base_url=server.address, accept_downloads=True)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    report = yield
    if report.failed:
        item.stash[FAILED] = True
    return report


@pytest.fixture(scope="package")
def kept() -> list[Page]:
    """The page of the test before, where the next may go on with it."""
    return []


@pytest.fixture
def page(request: pytest.FixtureRequest, context: BrowserContext, server: Running, kept: list[Page]) -> Iterator[Page]:
    """A page whose requests must all go to the server, and which must not log errors of its own.

    After a test that went well it stays, on the list of builds, and the next finds the application loaded and nothing kept.
    """
    one = kept.pop() if kept else context.new_page()
    talk = context.new_cdp_session(one)
    talk.send("Storage.clearDataForOrigin", {"origin": server.address, "storageTypes": KEPT_BY_PAGES})
    talk.detach()
    if one.url != NOWHERE:
        one.evaluate("sessionStorage.clear()")
    foreign: list[str] = []
    errors: list[str] = []

    def watch(asked: Request) -> None:
        if not asked.url.startswith((server.address, "data:", "blob:")):
            foreign.append(asked.url)

    def threw(error: Exception) -> None:
        errors.append(str(error))

    one.on("request", watch)
    one.on("pageerror", threw)
    yield one
    stays = FAILED not in request.node.stash and one.evaluate("document.documentElement.dataset.mode") == "light"
    for other in context.pages:
        if not (stays and other is one):
            other.close()
    assert not foreign, f"the page asked other hosts: {foreign}"
    assert not errors, f"the page threw: {errors}"
    if stays:
        go(one, "/")
        one.unroute_all()
        one.set_viewport_size(SIZE)
        one.emulate_media(media="null")
        one.set_default_timeout(PATIENT_MS)
        one.remove_listener("request", watch)
        one.remove_listener("pageerror", threw)
        kept.append(one)


def go(page: Page, where: str) -> None:
    """To another view as a click on its link goes there: the application that is loaded stays."""
    page.evaluate("to => { history.pushState(null, '', to); dispatchEvent(new PopStateEvent('popstate')) }", where)


def arrive(page: Page, where: str) -> None:
    """At a view, as a click on a link from the list of builds comes to it; loaded where nothing is yet."""
    if page.url == NOWHERE:
        page.goto(where)
    else:
        go(page, where)


def settled(page: Page) -> None:
    """Wait until a page asks for nothing more; one that follows what is worked on in the background asks on, and has what it shows."""
    with contextlib.suppress(TookTooLong):
        page.wait_for_load_state("networkidle", timeout=SETTLES_MS)


@pytest.fixture
def assert_accessible() -> Callable[..., None]:
    """A check that axe, from the front end's packages, finds no violation of any severity on a page: all, or of colours, or of all else."""
    modules = Path(__file__).resolve().parents[2] / "web" / "node_modules"
    source = (modules / "axe-core" / "axe.min.js").read_text()

    asked = {
        "all": {"rules": RULES},
        "colours": {"runOnly": ["color-contrast"]},
        "structure": {"rules": {**RULES, "color-contrast": {"enabled": False}}},
    }

    def check(page: Page, what: str = "all", *, idle: bool = True, within: str = "") -> None:
        if idle:  # never while an instrument is listened to
            settled(page)
        if not page.evaluate("() => 'axe' in window"):
            page.evaluate(source)
        # Behind an open dialog nothing can be reached: there it is the dialog that is looked at.
        place = f"document.querySelector('{within}')" if within else "document"
        place = f"[...document.querySelectorAll('.ant-modal-wrap')].find(one => one.checkVisibility()) ?? {place}"
        found = page.evaluate(f"o => axe.run({place}, {{resultTypes: ['violations'], ...o}})", asked[what])
        assert [(one["id"], [node["target"] for node in one["nodes"]][:3]) for one in found["violations"]] == []

    return check
