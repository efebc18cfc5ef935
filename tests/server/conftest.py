"""Every test of the server starts without remembered analyses: their rows are rolled back and numbered anew."""

import pytest

from yardmeter.server.builds.services.analysis import forget_all
from yardmeter.server.builds.services.bench_kept import forget_lists
from yardmeter.server.builds.services.diagnosis import forget_diagnoses
from yardmeter.server.builds.services.layouts import forget_layouts
from yardmeter.server.builds.services.runs import forget_runs


@pytest.fixture(autouse=True)
def _nothing_remembered() -> None:
    forget_all()
    forget_lists()
    forget_diagnoses()
    forget_layouts()
    forget_runs()
