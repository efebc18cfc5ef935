"""Properties and answers of methods that are worked out when they are first asked for, and kept with their object.

The standard library's own, before Python 3.12, holds one lock for all objects of a class while it works one of them out: a long
answer about one plan would hold up an edit of every other. Two that ask at once may both work it out here; the first is kept.
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any, TypeVar, overload

Value = TypeVar("Value")
Asked = TypeVar("Asked")
Owner = TypeVar("Owner")


def once_each(method: Callable[[Owner, Asked], Value]) -> Callable[[Owner, Asked], Value]:
    """A method of one argument that its answer goes by alone: worked out once for each, and kept with its object."""
    name = f"_kept_{method.__name__}"

    @functools.wraps(method)
    def answer(self: Owner, asked: Asked) -> Value:
        found: dict[Asked, Value] = self.__dict__.setdefault(name, {})
        if asked not in found:
            found[asked] = method(self, asked)
        return found[asked]

    return answer


class cached_property(functools.cached_property[Value]):  # noqa: N801 - used as the library's
    """As the library's, without its lock."""

    @overload
    def __get__(self, instance: None, owner: type[Any] | None = None) -> cached_property[Value]: ...

    @overload
    def __get__(self, instance: object, owner: type[Any] | None = None) -> Value: ...

    def __get__(self, instance: object | None, owner: type[Any] | None = None) -> cached_property[Value] | Value:
        if instance is None:
            return self
        name = self.attrname
        if name is None:
            raise TypeError("a cached property has no name outside a class")
        kept = instance.__dict__
        if name not in kept:
            value = self.func(instance)
            kept.setdefault(name, value)
        found: Value = kept[name]
        return found
