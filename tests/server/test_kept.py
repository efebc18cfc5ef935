"""One store for everything that is kept: bounded in bytes, shared by all kinds, and its sizes near what is really held."""

from __future__ import annotations

import sys
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType
from typing import Any

import numpy as np
import pytest
from cachetools import LRUCache
from django.test import Client

from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan.operations import SetValue
from yardmeter.review import review
from yardmeter.server import kept
from yardmeter.server.builds.services.analysis import bytes_of_review
from yardmeter.server.kept import BESIDE_BYTES, Kept, kept_bytes


@pytest.fixture
def small(monkeypatch: pytest.MonkeyPatch) -> None:
    """A store of a thousand bytes beside what holding three answers takes."""
    most = 1000 + 3 * BESIDE_BYTES
    monkeypatch.setattr(kept, "_store", LRUCache(most, getsizeof=lambda held: held[1]))


def test_all_kinds_share_one_bound_and_the_least_lately_used_goes(small: None) -> None:
    texts: Kept[str] = Kept("texts", len)
    lists: Kept[list[int]] = Kept("lists", lambda one: 10 * len(one))
    texts.put(1, "a" * 400)
    lists.put(1, [0] * 40)
    assert texts.get(1) == "a" * 400  # now the lists' one is the least lately used
    texts.put(2, "b" * 400)
    assert lists.get(1) is None
    assert kept_bytes() == {"texts": 800 + 2 * BESIDE_BYTES}
    texts.put(3, "c" * 5000)
    assert (texts.get(3), texts.get(1)) == (None, "a" * 400), "one that is too large throws nothing out"


def test_who_was_first_stays_and_kinds_are_cleared_alone(small: None) -> None:
    texts: Kept[str] = Kept("texts", len)
    others: Kept[str] = Kept("others", len)
    assert texts.put(1, "first") == "first"
    assert texts.put(1, "second") == "first"
    others.put(1, "other")
    texts.clear()
    assert (texts.get(1), others.get(1)) == (None, "other")
    others.drop(1)
    others.drop(1)
    assert kept_bytes() == {}


PLAIN = (type, ModuleType, FunctionType, MethodType, BuiltinFunctionType, str, bytes, int, float, bool, type(None))


def deep_bytes(root: Any) -> int:
    """Everything an object reaches [bytes], each once."""
    seen: set[int] = set()
    todo, total = [root], 0
    while todo:
        one = todo.pop()
        if id(one) in seen or isinstance(one, PLAIN[:5]):
            continue
        seen.add(id(one))
        total += sys.getsizeof(one)
        if isinstance(one, np.ndarray):
            todo += [] if one.base is None else [one.base]
        elif isinstance(one, dict):
            todo += [*one.keys(), *one.values()]
        elif isinstance(one, list | tuple | set | frozenset):
            todo += one
        elif not isinstance(one, PLAIN):
            todo.append(getattr(one, "__dict__", {}))
            slots = [name for kind in type(one).__mro__ for name in getattr(kind, "__slots__", ())]
            todo += [getattr(one, name) for name in slots if hasattr(one, name)]
    return total


@pytest.mark.parametrize(("name", "more"), [("marshlight-as-soldered", 14), ("wren-straight-from-the-cell", 0)])
def test_a_reviews_size_is_what_it_holds(name: str, more: int) -> None:
    """Of a plan with a few conditions and with twenty, and one edit later, when it holds what stands of the one before."""
    plan = demo.plan(name)
    others = [plan.conditions[k % 6].model_copy(update={"id": f"c{k}", "name": f"c{k}"}) for k in range(more)]
    plan = plan.model_copy(update={"conditions": (*plan.conditions, *others)})
    found = review(plan)
    _ = found.analysis
    assert deep_bytes(found) == pytest.approx(bytes_of_review(plan), rel=0.3)
    edit = SetValue(element=plan.devices[0].id, field="draws.peak.value", value=0.21)
    after = review(apply_edits(plan, [edit]), found)
    _ = after.analysis
    assert deep_bytes(after) == pytest.approx(bytes_of_review(plan), rel=0.3)


@pytest.mark.django_db
def test_health_tells_what_is_kept(client: Client) -> None:
    texts: Kept[str] = Kept("only here", len)
    texts.put("k", "x" * 100)
    try:
        told = client.get("/api/health").json()["kept_bytes"]
    finally:
        texts.clear()
    assert told["only here"] == 100 + BESIDE_BYTES + sys.getsizeof("k")
