"""The headless browser of tests, pictures and timings, from Debian's packages."""

from __future__ import annotations

import shutil
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from playwright.sync_api import Browser, Playwright

PROGRAMS = ("chromium-headless-shell", "chromium")
"""The first that is there is taken: the shell draws no window, and the same pages for three quarters of the work."""
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--font-render-hinting=slight"]  # fmt: skip


def program() -> str | None:
    """Path of the browser, or None where there is none."""
    return next(filter(None, map(shutil.which, PROGRAMS)), None)


def launched(playwright: Playwright, path: str) -> Browser:
    """A browser that asks no host for updates."""
    return playwright.chromium.launch(executable_path=path, args=FLAGS)
