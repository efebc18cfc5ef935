"""Wrong passwords cost time: each address waits longer after each failure, and one password is tried at a time."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from yardmeter.server.builds.errors import TooOftenError

FREE_TRIES = 4
"""Failures before the first wait; a mistyped password is no attack."""
FIRST_WAIT_S = 2.0
LONGEST_WAIT_S = 900.0
REMEMBERED = 4096


@dataclass
class _Record:
    failures: int = 0
    not_before: float = 0.0


class Attempt:
    """One try under way; a failure unless told otherwise."""

    def __init__(self) -> None:
        self.good = False

    def succeeded(self) -> None:
        self.good = True


class Throttle:
    def __init__(self, now: Callable[[], float] = time.monotonic) -> None:
        self._now = now
        self._records: OrderedDict[str, _Record] = OrderedDict()
        self._lock = threading.Lock()
        self._hashing = threading.Lock()

    @contextmanager
    def attempt(self, address: str) -> Iterator[Attempt]:
        """Raises TooOftenError while the address has to wait, or another try is being worked on."""
        wait_s = self._wait_s(address)
        if wait_s > 0:
            raise TooOftenError(wait_s)
        # A password's hash is dear on purpose; all threads at it at once would leave none for the builder.
        if not self._hashing.acquire(blocking=False):
            raise TooOftenError(1)
        attempt = Attempt()
        try:
            yield attempt
        finally:
            self._hashing.release()
            self._note(address, attempt.good)

    def _wait_s(self, address: str) -> float:
        with self._lock:
            record = self._records.get(address)
            return record.not_before - self._now() if record else 0.0

    def _note(self, address: str, good: bool) -> None:
        with self._lock:
            if good:
                self._records.pop(address, None)
                return
            record = self._records.setdefault(address, _Record())
            self._records.move_to_end(address)
            record.failures += 1
            over = record.failures - FREE_TRIES
            if over >= 0:
                record.not_before = self._now() + min(FIRST_WAIT_S * 2 ** min(over, 20), LONGEST_WAIT_S)
            while len(self._records) > REMEMBERED:
                self._records.popitem(last=False)
