"""The list of statements: each a function from a case to what disagrees in it, in words."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from tools.agree.cases import Case

Told = Iterator[str]


@dataclass(frozen=True)
class Statement:
    """What is always so, and the function that yields every instance where it is not; `share` of the plans are asked it."""

    words: str
    broken: Callable[[Case], Told]
    share: float


STATEMENTS: list[Statement] = []


def statement(words: str, share: float = 1.0) -> Callable[[Callable[[Case], Told]], Callable[[Case], Told]]:
    """Register a statement; one that takes long is asked of a share of the plans only."""

    def enter(broken: Callable[[Case], Told]) -> Callable[[Case], Told]:
        STATEMENTS.append(Statement(words, broken, share))
        return broken

    return enter
