"""What was worked out and may be asked for again: one store for all kinds of answers, bounded in bytes, the least lately used going first."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar, cast

from cachetools import LRUCache

Value = TypeVar("Value")
MOST_BYTES = 40 * 2**20
"""Of all kept answers together."""
BESIDE_BYTES = 200
"""What holding an answer takes beside it."""

Key = tuple[str, Hashable]
_store: LRUCache[Key, tuple[object, int]] = LRUCache(MOST_BYTES, getsizeof=lambda held: held[1])
_lock = threading.RLock()


class Kept(Generic[Value]):
    """Answers of one kind in the store, by key; `size` says the bytes of each. Safe from several threads."""

    def __init__(self, kind: str, size: Callable[[Value], int]) -> None:
        self._kind, self._size = kind, size

    def get(self, key: Hashable) -> Value | None:
        with _lock:
            found = _store.get((self._kind, key))
        return cast(Value, found[0]) if found else None

    def put(self, key: Hashable, value: Value) -> Value:
        """What stands under the key now: who was first, where two came at once. One too large for the store is not kept."""
        own = self._kind, key
        size = self._size(value) + BESIDE_BYTES + (sys.getsizeof(key) if isinstance(key, str) else 0)
        with _lock:
            if (found := _store.get(own)) is not None:
                return cast(Value, found[0])
            if size <= _store.maxsize:
                _store[own] = value, size
        return value

    def drop(self, key: Hashable) -> None:
        with _lock:
            _store.pop((self._kind, key), None)

    def clear(self) -> None:
        with _lock:
            for own in [one for one in _store if one[0] == self._kind]:
                del _store[own]


def kept_bytes() -> dict[str, int]:
    """Bytes of each kind of answer that is kept."""
    found: dict[str, int] = {}
    with _lock:
        for (kind, _), (_, size) in _store.items():
            found[kind] = found.get(kind, 0) + size
    return found
