"""What goes before what: edits before everything, other work in a line of its own that makes room for them.

Everything computes in one process, whose threads share one interpreter: whoever works while an edit does slows it down. So
long work stops for a moment wherever it asks whether to go on, and only so much of it is done at a time.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

AT_ONCE = 2
"""So many questions are worked on at a time."""
LONGEST_LINE = 10
"""So many wait; more are asked to come again."""
ROOM_S = 1.5
"""The longest that work waits for what is urgent, each time it asks."""
TURN_S = 0.05


class FullError(Exception):
    """The line is as long as it may be."""


class GoneError(Exception):
    """Who waited in line has left."""


class Urgency:
    """Who works. `urgent()` is what nobody may wait for; `in_line()` is all else that computes."""

    def __init__(self) -> None:
        self._told = threading.Condition()
        self._urgent = 0
        self._working = 0
        self._line: list[object] = []

    @contextmanager
    def urgent(self) -> Iterator[None]:
        with self._told:
            self._urgent += 1
        try:
            yield
        finally:
            with self._told:
                self._urgent -= 1
                self._told.notify_all()

    def make_room(self) -> None:
        """Work waits here while something urgent is at it, though not for ever."""
        self._wait_while(lambda: self._urgent > 0)

    def give_way(self) -> None:
        """What nobody waits for waits here while anything at all is worked on that somebody does, though not for ever."""
        self._wait_while(lambda: self._urgent + self._working > 0)

    def _wait_while(self, busy: Callable[[], bool]) -> None:
        if not busy():
            return
        until = time.monotonic() + ROOM_S
        with self._told:
            while busy() and (left := until - time.monotonic()) > 0:
                self._told.wait(left)

    @contextmanager
    def in_line(self, gone: Callable[[], bool] = lambda: False) -> Iterator[None]:
        """One after another in the order they came. Raises FullError, and GoneError for who has left the line."""
        mine = object()
        with self._told:
            if len(self._line) >= LONGEST_LINE:
                raise FullError
            self._line.append(mine)
            try:
                while self._working >= AT_ONCE or self._line[0] is not mine:
                    self._told.wait(TURN_S)
                    if gone():
                        raise GoneError
                self._working += 1
            finally:
                self._line.remove(mine)
                self._told.notify_all()
        try:
            self.make_room()
            yield
        finally:
            with self._told:
                self._working -= 1
                self._told.notify_all()

    @property
    def waiting(self) -> int:
        return len(self._line)


URGENCY = Urgency()
"""One for the process."""
