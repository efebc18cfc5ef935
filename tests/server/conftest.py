"""Every test of the server starts without what is remembered of rows: they are rolled back and numbered anew."""

import pytest

from yardmeter.server.builds.services.analysis import forget_revisions
from yardmeter.server.builds.services.runs import forget_runs


@pytest.fixture(autouse=True)
def _nothing_remembered() -> None:
    forget_revisions()
    forget_runs()
