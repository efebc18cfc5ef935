"""What was worked out and may be asked for again: the least lately used goes first, and all of it together has a size."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Value = TypeVar("Value")


class Kept(Generic[Value]):
    """Values by key, at most `count` of them; with `size` also no more than `most_bytes`. Safe from several threads."""

    def __init__(self, count: int, *, size: Callable[[Value], int] | None = None, most_bytes: int = 0) -> None:
        self._count, self._size, self._most = count, size, most_bytes
        self._held: OrderedDict[Hashable, tuple[Value, int]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.RLock()

    def get(self, key: Hashable) -> Value | None:
        with self._lock:
            found = self._held.get(key)
            if found is None:
                return None
            self._held.move_to_end(key)
            return found[0]

    def put(self, key: Hashable, value: Value) -> Value:
        """What stands under the key now: who was first, where two came at once."""
        size = self._size(value) if self._size else 0
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key][0]
            self._held[key] = (value, size)
            self._bytes += size
            while len(self._held) > self._count or (self._size and self._bytes > self._most and len(self._held) > 1):
                self._bytes -= self._held.popitem(last=False)[1][1]
            return value

    def drop(self, key: Hashable) -> None:
        with self._lock:
            found = self._held.pop(key, None)
            self._bytes -= found[1] if found else 0

    def clear(self) -> None:
        with self._lock:
            self._held.clear()
            self._bytes = 0

    @property
    def held_bytes(self) -> int:
        return self._bytes

    def __len__(self) -> int:
        return len(self._held)
