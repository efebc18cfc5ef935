"""What the services raise beside the core's own errors."""

from __future__ import annotations

from yardmeter.core.errors import YardError


class NotFoundError(YardError):
    """A build, plan or revision that does not exist (any more)."""


class StaleError(YardError):
    """The plan has moved on since the revision the caller started from."""

    def __init__(self, current: int, steps: list[str]) -> None:
        self.current = current
        self.steps = steps
        done = f": {'; '.join(steps)}" if steps else ""
        super().__init__(
            f"This plan was changed elsewhere{done}.",
            remedy="Look at the change, then apply yours again; nothing you typed is lost.",
        )
