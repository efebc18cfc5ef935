"""Shared by all tests: programs a test cannot do without."""

from __future__ import annotations

import os
import shutil

import pytest


def need(program: str) -> str:
    """Path of a program; without it the test fails in CI and is skipped elsewhere."""
    found = shutil.which(program)
    if found is None:
        if os.environ.get("CI"):
            pytest.fail(f"{program} is not installed; ./yard test installs it")
        pytest.skip(f"{program} is not installed")
    return found
