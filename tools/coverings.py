"""A pytest plugin: which lines of the package each test runs through, and how long it took, left in a folder as files.

python -m pytest -p tools.coverings        with COVERINGS naming the folder
"""

from __future__ import annotations

import json
import os
import time
from collections.abc import Generator
from pathlib import Path

import pytest
from coverage import Coverage, CoverageData

_FOLDER = Path(os.environ.get("COVERINGS", "."))
_watch = Coverage(data_file=str(_FOLDER / f"lines.{os.getpid()}"), source=["yardmeter"], messages=False)
_took: dict[str, float] = {}
_watch.start()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Generator[None, object, object]:
    """Everything from a test's set-up to its end counts as its own."""
    _watch.switch_context(item.nodeid)
    started = time.perf_counter()
    try:
        return (yield)
    finally:
        _took[item.nodeid] = time.perf_counter() - started
        _watch.switch_context("")


def pytest_unconfigure() -> None:
    _watch.stop()
    _watch.save()
    (_FOLDER / f"took.{os.getpid()}.json").write_text(json.dumps(_took))


class Coverings:
    """What the plugin left in a folder."""

    def __init__(self, folder: Path, root: Path) -> None:
        self.root = root
        self.took: dict[str, float] = {}
        for file in folder.glob("took.*.json"):
            self.took |= json.loads(file.read_text())
        self._tests_of: dict[str, dict[int, set[str]]] = {}
        for file in folder.glob("lines.*"):
            data = CoverageData(str(file))
            data.read()
            for measured in data.measured_files():
                lines = self._tests_of.setdefault(measured, {})
                for line, tests in data.contexts_by_lineno(measured).items():
                    lines.setdefault(line, set()).update(one for one in tests if one)

    def tests(self, module: Path, first: int, last: int) -> list[str]:
        """Tests that run through any of these lines, quickest first; where none does, those that run through the module."""
        lines = self._tests_of.get(str(self.root / module), {})
        found = {test for line in range(first, last + 1) for test in lines.get(line, ())}
        if not found:
            found = {test for tests in lines.values() for test in tests}
        return sorted(found, key=lambda one: self.took.get(one, 1.0))
