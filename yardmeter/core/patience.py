"""Long work can be called off: whoever set it going may say that nobody waits for it any more.

Loops that may run for seconds call `go_on()` on every turn. Where nobody set a `patience`, that is free of effect.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


class AbandonedError(Exception):
    """Nobody waits for the result of this work."""


_gone: ContextVar[Callable[[], bool] | None] = ContextVar("gone", default=None)


@contextmanager
def patience(gone: Callable[[], bool]) -> Iterator[None]:
    """Within this, `go_on` raises AbandonedError once `gone()` is true."""
    token = _gone.set(gone)
    try:
        yield
    finally:
        _gone.reset(token)


def go_on() -> None:
    """Raises AbandonedError when nobody waits any more."""
    gone = _gone.get()
    if gone is not None and gone():
        raise AbandonedError
