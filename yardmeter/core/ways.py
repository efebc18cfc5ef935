"""Walks over names that lead to each other, in plain dictionaries: of some dozens of rails, grounds and pads.

A library of graphs takes ten megabytes of every server and a third of a second of every start; this is all that was asked of it.
"""

from __future__ import annotations

import heapq
from collections import deque
from collections.abc import Iterable, Mapping
from typing import TypeVar

Name = TypeVar("Name")
Ways = dict[Name, dict[Name, float]]
"""By name those it leads to, in the order in which they were joined, and what each way weighs."""


def ways(names: Iterable[Name], pairs: Iterable[tuple[Name, Name]], *, back: bool = False) -> Ways[Name]:
    """Names and the ways from the first to the second of each pair; with `back` also from the second to the first."""
    found: Ways[Name] = {name: {} for name in names}
    for a, b in pairs:
        join(found, a, b, back=back)
    return found


def join(found: Ways[Name], a: Name, b: Name, weight: float = 1.0, *, back: bool = True) -> None:
    """Put in one more way; one that is there weighs what it does now."""
    found.setdefault(a, {})[b] = weight
    onward = found.setdefault(b, {})
    if back:
        onward[a] = weight


def chain(onward: Mapping[Name, Name], start: Name) -> tuple[Name, ...]:
    """A name and those it leads to one after the other, to the end or to where it goes round."""
    found = {start: None}
    while (start := onward.get(start, start)) not in found:
        found[start] = None
    return tuple(found)


def beyond(found: Mapping[Name, Iterable[Name]], start: Name) -> set[Name]:
    """Everything a name leads to, itself left out."""
    seen, left = {start}, [start]
    while left:
        new = [one for one in found[left.pop()] if one not in seen]
        seen.update(new)
        left += new
    return seen - {start}


def nets(found: Mapping[Name, Iterable[Name]]) -> list[set[Name]]:
    """Names that hang together over ways that lead back, net by net, in the order of their first names."""
    made: list[set[Name]] = []
    known: set[Name] = set()
    for name in found:
        if name not in known:
            made.append(beyond(found, name) | {name})
            known |= made[-1]
    return made


def shortest(found: Mapping[Name, Iterable[Name]], start: Name, end: Name) -> list[Name] | None:
    """The way over the fewest names, both ends with it; None where there is none."""
    before: dict[Name, Name] = {start: start}
    left = deque([start])
    while left and end not in before:
        here = left.popleft()
        for one in found[here]:
            if one not in before:
                before[one] = here
                left.append(one)
    return _back(before, end)


def lightest(found: Ways[Name], start: Name, end: Name) -> list[Name] | None:
    """The way of the least weight (Dijkstra), both ends with it; None where there is none or an end is not known."""
    if start not in found or end not in found:
        return None
    before: dict[Name, Name] = {}
    left: list[tuple[float, int, Name, Name]] = [(0.0, 0, start, start)]
    count = 0  # what weighs the same goes in the order it was come by
    while left and end not in before:
        weight, _, here, last = heapq.heappop(left)
        if here in before:
            continue
        before[here] = last
        for one, more in found[here].items():
            if one not in before:
                count += 1
                heapq.heappush(left, (weight + more, count, one, here))
    return _back(before, end)


def _back(before: Mapping[Name, Name], end: Name) -> list[Name] | None:
    if end not in before:
        return None
    way = [end]
    while before[way[-1]] != way[-1]:
        way.append(before[way[-1]])
    return way[::-1]
