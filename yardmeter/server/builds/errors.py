"""What the services raise beside the core's own errors."""

from __future__ import annotations

import math

from yardmeter.core.errors import YardError


class NotFoundError(YardError):
    """A build, plan or revision that does not exist (any more)."""


class StaleError(YardError):
    """The plan (or build, or part) has moved on since the revision the caller started from."""

    def __init__(self, current: int, steps: list[str], *, what: str = "plan") -> None:
        self.current = current
        self.steps = steps
        done = f": {'; '.join(steps)}" if steps else ""
        super().__init__(
            f"This {what} was changed elsewhere{done}.",
            remedy="Look at the change, then apply yours again; nothing you typed is lost.",
        )


class ConflictError(YardError):
    """What was asked does not go with how things stand: nothing to undo, the last plan, a name that is taken."""


class RefusedLoginError(YardError):
    """Name and password do not open."""


class TooOftenError(YardError):
    """Too many wrong logins; the next one has to wait."""

    def __init__(self, wait_s: float) -> None:
        self.wait_s = max(1, math.ceil(wait_s))
        super().__init__(
            f"Too many wrong logins: the next one can be tried in {self.wait_s} s.",
            where="password",
            remedy="Wait, then try again.",
        )
