"""Bench lists and what every fault reads on them, kept for the plans looked at last."""

from __future__ import annotations

import threading

from yardmeter.core.procedures import Checklist, checklist
from yardmeter.core.search import Signatures
from yardmeter.server.builds.models import Plan
from yardmeter.server.builds.services.analysis import content_key, reviewed
from yardmeter.server.builds.services.lookup import head_of
from yardmeter.server.kept import Kept

OF_A_NODE = 10
"""Bytes of a fault's readings for each step of the list, and of its build for each pair of nodes. Measured."""


def _bytes_of(held: tuple[Signatures, threading.Lock]) -> int:
    """With everything every fault reads worked out."""
    known = held[0]
    nodes: int = known.made.table.nodes
    return OF_A_NODE * (len(known.faults) + 1) * (len(known.steps) + nodes * nodes)


_lists: Kept[tuple[Signatures, threading.Lock]] = Kept("bench lists", _bytes_of)
"""With the lock of whoever works out what every fault reads."""


def list_of(plan: Plan) -> Checklist:
    """The bench list of the revision shown, from memory or made now."""
    return known_of(plan).made


def known_of(plan: Plan) -> Signatures:
    """Hypotheses of the revision shown; what each reads is worked out when it is first asked for."""
    return _held(plan)[0]


def _held(plan: Plan) -> tuple[Signatures, threading.Lock]:
    head = head_of(plan)
    key = content_key(head)
    found = _lists.get(key)
    if found is None:
        found = _lists.put(key, (Signatures(checklist(reviewed(head).solved)), threading.Lock()))
    return found


def ready(plan: Plan) -> Signatures:
    """The same with every fault's readings worked out; two that ask at once wait for one."""
    known, own = _held(plan)
    with own:
        _ = known.ohms, known.consequences
    return known
