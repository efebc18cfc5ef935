"""Chores run in pauses between requests, not inside one, where they would hold up an answer.

Python's collector of cyclic garbage is one of them; others are handed in. It walks through all memory and is not called in every
pause: between two clicks of a builder there are many.
"""

from __future__ import annotations

import contextlib
import ctypes
import gc
import logging
import math
import threading
import time
from collections.abc import Callable, Iterable
from typing import Any

QUIET_S = 0.3
"""No request for this long counts as a pause."""
AT_LATEST = 40
"""Requests after which they run though there was no pause. Few things are cycles, so little waits for the collector."""
SELDOM_S = 5.0
"""Between two calls of the collector, unless so many requests came."""

log = logging.getLogger(__name__)

Application = Callable[[dict[str, Any], Callable[..., Any]], Iterable[bytes]]


M_ARENA_MAX, M_MMAP_THRESHOLD = -8, -3
"""Parameters of glibc's mallopt. Source: malloc.h."""
ARENAS = 2
LARGE = 1 << 20
"""Bytes from which an array has pages of its own, which go back to the system with it."""


def few_arenas() -> None:
    """Threads share their heaps where the C library can be told so: with one for each, what one freed helps no other."""
    with contextlib.suppress(OSError, AttributeError):
        library = ctypes.CDLL(None)
        library.mallopt(M_ARENA_MAX, ARENAS)
        library.mallopt(M_MMAP_THRESHOLD, LARGE)


def give_back_memory() -> None:
    """What was freed goes back to the system where the C library can be told so: else it stays with the process."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


class Tidying:
    """Wraps a WSGI application. What is loaded when this is made stays for good and is never looked at again."""

    def __init__(self, application: Application, *chores: Callable[[], object]) -> None:
        self.application = application
        self.chores = chores
        self.last = time.monotonic()
        self.requests = 0
        self.due = threading.Event()
        gc.collect()
        gc.freeze()
        gc.disable()
        threading.Thread(target=self._tidy, name="tidying", daemon=True).start()

    def __call__(self, environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
        self.last = time.monotonic()
        try:
            return self.application(environ, start_response)
        finally:
            self.last = time.monotonic()
            self.requests += 1
            self.due.set()

    def _tidy(self) -> None:
        collected = -math.inf
        owed = False
        while True:
            # What is owed comes in its time, though nobody asks for anything any more.
            self.due.wait(max(collected + SELDOM_S - time.monotonic(), 0) if owed else None)
            pause = self.last + QUIET_S - time.monotonic()
            many = self.requests >= AT_LATEST
            if pause > 0 and not many:
                time.sleep(pause)
                continue
            self.due.clear()
            if many or time.monotonic() >= collected + SELDOM_S:
                self.requests = 0
                gc.collect()
                collected, owed = time.monotonic(), False
            else:
                owed = True
            for chore in self.chores:
                try:
                    chore()
                except Exception:
                    # The others are as much needed as before.
                    log.exception("a chore between requests failed")
