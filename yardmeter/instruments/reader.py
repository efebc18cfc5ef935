"""An instrument read again and again while somebody looks: whoever asks gets the last reading and waits for no instrument."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from yardmeter.instruments.connection import Shown

What = TypeVar("What")
LOOKED_AT_S = 3.0
"""So long after the last look it goes on reading."""
LEAST_S = 0.06
KEPT = 64


@dataclass(frozen=True)
class Taken(Generic[What]):
    """A reading of `what`, begun at `began_s` of the clock and shown at `at_s`."""

    what: What
    began_s: float
    at_s: float
    shown: Shown


class Reader(Generic[What]):
    """One thread for one instrument."""

    def __init__(self, read: Callable[[What], Shown], name: str) -> None:
        self._read = read
        self._what: What | None = None
        self._until_s = 0.0
        self._taken: deque[Taken[What]] = deque(maxlen=KEPT)
        self._told = threading.Condition()
        self._ended = False
        self._thread = threading.Thread(target=self._work, name=f"reads {name}"[:40], daemon=True)
        self._thread.start()

    def look(self, what: What, since_s: float, wait_s: float) -> list[Taken[What]]:
        """Readings of that, begun since a time, oldest first; the first is waited for a little."""
        until = time.monotonic() + wait_s
        with self._told:
            self._what, self._until_s = what, time.monotonic() + LOOKED_AT_S
            self._told.notify_all()
            while not (found := self._since(what, since_s)) and (left := until - time.monotonic()) > 0:
                self._told.wait(left)
            return found

    def last(self, what: What, since_s: float) -> Taken[What] | None:
        """The newest of what has been read already."""
        with self._told:
            return next(reversed(self._since(what, since_s)), None)

    def _since(self, what: What, since_s: float) -> list[Taken[What]]:
        return [one for one in self._taken if one.what == what and one.began_s >= since_s]

    def end(self) -> None:
        with self._told:
            self._ended = True
            self._told.notify_all()

    def _work(self) -> None:
        while True:
            with self._told:
                while not self._ended and (self._what is None or time.monotonic() > self._until_s):
                    self._told.wait()
                if self._ended or self._what is None:
                    return
                what = self._what
            began = time.monotonic()
            shown = self._read(what)
            with self._told:
                self._taken.append(Taken(what, began, time.monotonic(), shown))
                self._told.notify_all()
            time.sleep(max(LEAST_S - (time.monotonic() - began), 0.0))
