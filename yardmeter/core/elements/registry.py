"""What every kind of element has to have. A kind enters itself; one that lacks a part is refused as the program starts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields
from typing import Any

Law = Callable[..., Any]


@dataclass(frozen=True)
class Without:
    """In place of a part that a kind cannot have, the reason."""

    because: str


Part = tuple[Law, ...] | Without


@dataclass(frozen=True)
class Element:
    """One kind: its laws for points and runs, for ripples, in the words of a netlist, to a meter, and what its numbers mean."""

    kind: str
    laws: Part
    small_signal: Part
    netlist: Part
    meter: Part
    predicates: Part


class IncompleteElementError(TypeError):
    """A kind of element lacks a part, or is entered twice."""


ELEMENTS: dict[str, Element] = {}


def enter(element: Element) -> Element:
    """Enter a kind. Raises IncompleteElementError where a part is empty, or gives no reason for being none."""
    if element.kind in ELEMENTS:
        raise IncompleteElementError(f"There are two elements “{element.kind}”.")
    for field in fields(element)[1:]:
        part: Part = getattr(element, field.name)
        missing = not part.because.strip() if isinstance(part, Without) else not part or not all(map(callable, part))
        if missing:
            raise IncompleteElementError(f"Element “{element.kind}” lacks its {field.name.replace('_', ' ')}.")
    ELEMENTS[element.kind] = element
    return element
