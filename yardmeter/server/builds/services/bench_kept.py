"""Bench lists and what every fault reads on them, kept for the revisions looked at last."""

from __future__ import annotations

import threading
from collections import OrderedDict

from yardmeter.core.procedures import Checklist, checklist
from yardmeter.core.search import Signatures
from yardmeter.server.builds.models import Plan
from yardmeter.server.builds.services.analysis import reviewed
from yardmeter.server.builds.services.lookup import head_of

KEPT = 8

_kept: OrderedDict[int, Signatures] = OrderedDict()
_lock = threading.Lock()
_making: dict[int, threading.Lock] = {}


def list_of(plan: Plan) -> Checklist:
    """The bench list of the revision shown, from memory or made now."""
    return known_of(plan).made


def known_of(plan: Plan) -> Signatures:
    """Hypotheses of the revision shown; what each reads is worked out when it is first asked for."""
    head = head_of(plan)
    with _lock:
        found = _kept.get(head.pk)
    if found:
        return found
    made = Signatures(checklist(reviewed(head).solved))
    with _lock:
        found = _kept.setdefault(head.pk, made)
        while len(_kept) > KEPT:
            _making.pop(_kept.popitem(last=False)[0], None)
    return found


def ready(plan: Plan) -> Signatures:
    """The same with every fault's readings worked out; two that ask at once wait for one."""
    known = known_of(plan)
    with _lock:
        own = _making.setdefault(head_of(plan).pk, threading.Lock())
    with own:
        _ = known.ohms, known.consequences
    return known


def forget_lists() -> None:
    """Another data file has other revisions under the same numbers."""
    with _lock:
        _kept.clear()
        _making.clear()
