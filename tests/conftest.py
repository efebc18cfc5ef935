"""Shared by all tests: programs a test cannot do without."""

from __future__ import annotations

import os
import shutil

import pytest
from hypothesis import settings

settings.register_profile("patient", deadline=None)  # the first example may have to wait for the compiler
settings.load_profile("patient")


def need(*programs: str) -> str:
    """Path of the first of these programs that is there; without any the test fails in CI and is skipped elsewhere."""
    found = next(filter(None, map(shutil.which, programs)), None)
    if found is None:
        program = programs[0]
        if os.environ.get("CI"):
            pytest.fail(f"{program} is not installed; ./yard test installs it")
        pytest.skip(f"{program} is not installed")
    return found


LONG = ("test_layouts", "test_diagnosis", "test_dialogs", "test_access", "test_situations")
"""Of the browser's, those that take longest: begun last, one of them would be waited for by every other worker."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    items.sort(key=lambda one: not ("browser" in one.nodeid and any(name in one.nodeid for name in LONG)))
