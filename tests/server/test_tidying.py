"""Chores between requests."""

from __future__ import annotations

import gc
import shutil
import sqlite3
import time
import weakref
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import pytest

from tests.server.running import Running
from yardmeter.server import tidying


class Knot:
    """Something that holds itself."""

    def __init__(self) -> None:
        self.itself = self


@pytest.fixture(autouse=True)
def collector_as_before() -> Iterator[None]:
    yield
    gc.unfreeze()
    gc.enable()


def soon(happens: Callable[[], bool]) -> bool:
    deadline = time.monotonic() + 10
    while not happens() and time.monotonic() < deadline:
        time.sleep(0.02)
    return happens()


def test_garbage_waits_for_a_pause_or_for_enough_requests(monkeypatch: pytest.MonkeyPatch) -> None:
    left: list[weakref.ref[Knot]] = []

    def application(environ: object, start_response: object) -> list[bytes]:
        left.append(weakref.ref(Knot()))
        return []

    monkeypatch.setattr(tidying, "QUIET_S", 1.5)
    served = tidying.Tidying(application)
    for _ in range(3):
        served({}, lambda: None)
    assert not gc.isenabled()
    assert all(one() is not None for one in left)
    assert soon(lambda: all(one() is None for one in left))
    # Without a pause.
    monkeypatch.setattr(tidying, "QUIET_S", 1e6)
    monkeypatch.setattr(tidying, "AT_LATEST", 5)
    for _ in range(5):
        served({}, lambda: None)
    assert soon(lambda: all(one() is None for one in left))


def test_a_chore_that_fails_stops_no_other(monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture) -> None:
    left: list[weakref.ref[Knot]] = []
    failed: list[int] = []

    def fails() -> None:
        failed.append(1)
        raise OSError("no room")

    def application(environ: object, start_response: object) -> list[bytes]:
        left.append(weakref.ref(Knot()))
        return []

    monkeypatch.setattr(tidying, "QUIET_S", 0.01)
    monkeypatch.setattr(tidying, "SELDOM_S", 0.0)
    served = tidying.Tidying(application, fails)
    for turn in (1, 2):
        served({}, lambda: None)
        assert soon(lambda: all(one() is None for one in left))
        assert soon(lambda turn=turn: len(failed) >= turn)
    assert "a chore between requests failed" in caplog.text


def test_the_collector_rests_between_clicks_and_comes_though_no_other_does(monkeypatch: pytest.MonkeyPatch) -> None:
    folded: list[float] = []
    walked: list[float] = []
    monkeypatch.setattr(tidying, "QUIET_S", 0.01)
    monkeypatch.setattr(tidying, "SELDOM_S", 1.0)
    served = tidying.Tidying(lambda *_: [], lambda: folded.append(time.monotonic()))
    monkeypatch.setattr(gc, "collect", lambda: walked.append(time.monotonic()))
    for turn in range(1, 5):
        served({}, lambda: None)
        assert soon(lambda turn=turn: len(folded) == turn)
    assert len(walked) == 1, "once in four pauses within a second"
    assert soon(lambda: len(walked) == 2), "nobody asks any more, and what is owed is done"
    assert walked[1] - walked[0] >= 1.0
    time.sleep(1.2)
    assert (len(walked), len(folded)) == (2, 5), "with nothing owed it rests"
    # So many requests are not waited with.
    monkeypatch.setattr(tidying, "SELDOM_S", 1e6)
    monkeypatch.setattr(tidying, "AT_LATEST", 3)
    for _ in range(3):
        served({}, lambda: None)
    assert soon(lambda: len(walked) == 3)


def test_in_a_pause_the_data_file_alone_is_the_whole(tmp_path: Path) -> None:
    data, copy = tmp_path / "own.sqlite3", tmp_path / "copy.sqlite3"

    def copied() -> list[tuple[str]]:
        shutil.copy(data, copy)
        with closing(sqlite3.connect(copy)) as file:
            try:
                return file.execute("SELECT name FROM builds_build").fetchall()
            except sqlite3.DatabaseError:  # copied in the middle of a write
                return []

    with Running("--data", data) as server:
        server.post("/api/builds", {"demo": "wren"})
        assert soon(lambda: copied() == [("Greenhouse Wren",)])
