"""Long work can be called off: whoever set it going may say that nobody waits for it any more.

Loops that may run for seconds call `go_on()` on every turn. Where nobody set a `patience`, that is free of effect. Whoever
set it may also have the work make room there for what is more urgent.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


class AbandonedError(Exception):
    """Nobody waits for the result of this work."""


_gone: ContextVar[Callable[[], bool] | None] = ContextVar("gone", default=None)
_room: ContextVar[Callable[[], None] | None] = ContextVar("room", default=None)


@contextmanager
def patience(gone: Callable[[], bool], make_room: Callable[[], None] | None = None) -> Iterator[None]:
    """Within this, `go_on` calls `make_room()`, which may wait a little, and raises AbandonedError once `gone()` is true."""
    token, other = _gone.set(gone), _room.set(make_room)
    try:
        yield
    finally:
        _gone.reset(token)
        _room.reset(other)


@contextmanager
def also(over: Callable[[], bool]) -> Iterator[None]:
    """Within this, work is called off once `over()` is true as well; what was set outside stays as it is."""
    outer = _gone.get()
    token = _gone.set(lambda: over() or (outer is not None and outer()))
    try:
        yield
    finally:
        _gone.reset(token)


def go_on() -> None:
    """Makes room where that is asked for; raises AbandonedError when nobody waits any more."""
    room = _room.get()
    if room is not None:
        room()
    gone = _gone.get()
    if gone is not None and gone():
        raise AbandonedError
