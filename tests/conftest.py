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


LONG = (
    "test_axe", "test_a_killed_server", "test_from_another_machine", "test_fuzz_sequences", "test_a_whole_list",
    "test_an_action_camera", "test_the_data_file_is_copied", "test_the_core_without", "test_no_label", "test_only_who_has",
    "test_a_pad_bridge", "test_a_second_demo", "test_a_data_file_taken", "test_a_board_from", "test_work_whose",
)  # fmt: skip
"""Tests of more than a quarter of a minute: they come first, so that nobody waits for the last of them."""
WORKERS = 3


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Each worker begins with its share of the long ones; what it has of the others may be taken over by the rest."""
    long = [one for one in items if one.name.startswith(LONG)]
    short = [one for one in items if not one.name.startswith(LONG)]
    cut = -(-len(short) // WORKERS)
    items[:] = [one for k in range(WORKERS) for one in (*long[k::WORKERS], *short[k * cut : (k + 1) * cut])]
