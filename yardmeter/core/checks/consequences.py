"""Which verdicts follow from another one, and go when that goes: told under it, not beside it."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Plan
from yardmeter.core.verdict import SEVERITY_ORDER, Verdict

STARVED = frozenset(
    {"window.under", "window.floor", "source.none", "headroom.dropout", "headroom.start", "load.demand"}
)
FOLLOWS: dict[str, frozenset[str]] = {
    "load.unsolved": STARVED,
    "load.collapse": STARVED,
    "source.strap": frozenset({"window.over", "window.margin", "source.backfeed", "source.several", "load.over", "load.led"}),
    "source.limiter": STARVED,
    "load.over": STARVED,
    "load.usb": STARVED,
    "headroom.boost": STARVED,
    "headroom.start": frozenset({"source.none", "window.under", "window.floor"}),
    "headroom.dropout": frozenset({"window.under", "window.floor", "headroom.thin"}),
    "window.over": frozenset({"load.led"}),
}  # fmt: skip
"""By a cause, what follows from it on what it feeds. Causes stand in the order in which they are taken."""


def causes(plan: Plan, verdicts: Sequence[Verdict]) -> dict[str, str]:
    """By key of a verdict that of its cause: one further up, in all of whose conditions the cause holds too."""
    found: dict[str, str] = {}
    for code, follows in FOLLOWS.items():
        for cause in (one for one in verdicts if one.code == code):
            reach = _below(plan, cause.elements[0])
            mine = [one for one in verdicts if one.code in follows and one.elements[0] in reach and _within(one, cause)]
            for one in mine:
                if one.key != cause.key:
                    found.setdefault(one.key, cause.key)
    return {key: _root(found, cause) for key, cause in found.items()}


def _within(one: Verdict, cause: Verdict) -> bool:
    """Whether it is true only where its cause is, and is no heavier: what is worse than its cause is told by itself."""
    if SEVERITY_ORDER[one.severity] < SEVERITY_ORDER[cause.severity]:
        return False
    return not cause.by_condition or (bool(one.by_condition) and set(one.by_condition) <= set(cause.by_condition))


def _below(plan: Plan, element: str) -> set[str]:
    """Everything fed through an element: itself, the rails below it, what hangs on them and what feeds on from them."""
    start = element
    if element in plan.supply_of:
        start = plan.supply_of[element].output
    elif element in plan.inlet_of:
        start = plan.inlet_of[element].rail
    if start not in plan.rail_of:
        return {element}
    rails = graph_of(plan).rails_below({start})
    return {
        element,
        *rails,
        *(d.id for d in plan.devices if d.feed and d.feed.rail in rails),
        *(s.id for s in plan.supplies if s.output in rails or set(plan.inputs_of(s)) & rails),
    }


def _root(found: dict[str, str], key: str) -> str:
    seen = {key}
    while (above := found.get(key)) and above not in seen:
        seen.add(above)
        key = above
    return key
