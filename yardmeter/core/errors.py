"""The core's exception tree. Every error says what is wrong, where, and what to do."""

from __future__ import annotations


class YardError(Exception):
    """Base of everything the core raises on purpose.

    `what` is the fault in one sentence, `where` the element, field or line, `remedy` what to do next.
    """

    def __init__(self, what: str, *, where: str = "", remedy: str = "") -> None:
        self.what = what
        self.where = where
        self.remedy = remedy
        super().__init__(" ".join(part for part in (f"{where}: {what}" if where else what, remedy) if part))


class QuantityError(YardError):
    """A typed value could not be read as a physical quantity."""


class PlanError(YardError):
    """A plan document is malformed or refers to something that does not exist."""

    def __init__(self, what: str, *, where: str = "", remedy: str = "", problems: tuple[PlanError, ...] = ()) -> None:
        super().__init__(what, where=where, remedy=remedy)
        self.problems = problems or (self,)


class EditError(YardError):
    """An edit cannot be applied to this plan."""


class UnknownElementError(EditError):
    """An edit or question names an element the plan does not have."""


class FormatError(YardError):
    """A file in one of the open formats cannot be read."""
