"""The situations in which a craft is seen to do well or badly: each a condition of the plan's own, or made beside them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal, get_args

from yardmeter.core.plan import Condition, Device, Plan
from yardmeter.core.plan.conditions import HOVER_THROTTLE_FRAC
from yardmeter.core.plan.devices import DeviceKind, DrawState

When = Literal["usb", "bench", "warm", "blown", "plug", "armed", "sender", "servo", "hover", "late", "punch"]
WHENS: tuple[When, ...] = get_args(When)
ROW_OF: dict[When, When] = {"warm": "bench", "blown": "bench", "plug": "bench"}
"""Same volts and amps, at another time or in other air."""
AIRBORNE: frozenset[When] = frozenset(("hover", "late", "punch"))
"""Where motors turn with propellers on: never on the bench."""
ARMED_THROTTLE_FRAC = 0.08
"""Motors idling; common practice, no source."""
SENDS: tuple[DeviceKind, ...] = ("sender", "digital")


def situations(plan: Plan) -> dict[When, Condition]:
    """Those this craft can be in, each under its own name; what only differs in air or time stands in `ROW_OF`."""
    return {when: one.model_copy(update={"id": when, "name": when}) for when, one in _found(plan)}


def whens(plan: Plan) -> tuple[When, ...]:
    """All of them, in order, with those that share a row."""
    rows = situations(plan)
    return tuple(one for one in WHENS if ROW_OF.get(one, one) in rows)


def _found(plan: Plan) -> Iterator[tuple[When, Condition]]:
    port = next((one for one in plan.inlets if one.is_port), None)
    if port:
        own = [c for c in plan.conditions if c.energy == (port.id,)]
        yield "usb", own[0] if own else Condition(id="usb", name="usb", energy=(port.id,), air="still")
    bench = _own(plan, lambda c: c.throttle_frac == 0 and c.default_state == "typical") or _own(plan, lambda c: c.throttle_frac == 0)  # fmt: skip
    bench = bench or Condition(id="bench", name="bench", pack_state="full", air="still")
    bench = bench.model_copy(update={"air": "still", "pack_v": None, "cell_v": None})
    yield "bench", bench
    senders = [one for one in plan.devices if one.kind in SENDS]
    if senders:
        yield "sender", _all_at(bench, senders, "peak")
    servos = [one for one in plan.devices if one.kind == "servo"]
    if servos:
        yield "servo", _all_at(bench, servos, "peak")
    if not any(one.throttle for one in plan.devices):
        # What has no motor is on or off; its everything-on stands for flight.
        yield "late", bench.model_copy(update={"pack_state": "low", "default_state": "typical"})
        yield "punch", bench.model_copy(update={"pack_state": "low", "default_state": "peak", "states": {}})
        return
    yield "armed", bench.model_copy(update={"throttle_frac": ARMED_THROTTLE_FRAC})
    hover = _own(plan, lambda c: c.throttle_frac > 0 and not c.is_punch and c.pack_state != "low")
    hover = hover or Condition(id="hover", name="hover", throttle_frac=HOVER_THROTTLE_FRAC)
    yield "hover", hover
    yield "late", hover.model_copy(update={"pack_state": "low", "pack_v": None, "cell_v": None})
    punch = _own(plan, lambda c: c.is_punch and c.pack_state == "low") or _own(plan, lambda c: c.is_punch)
    yield "punch", punch or hover.model_copy(update={"throttle_frac": 1.0, "default_state": "peak", "pack_state": "low"})  # fmt: skip


def _own(plan: Plan, suits) -> Condition | None:  # type: ignore[no-untyped-def]
    limiters = {one.id for one in plan.inlets if one.in_line}
    return next((c for c in plan.conditions if c.energy == ("pack",) and not limiters & set(c.energy) and suits(c)), None)  # fmt: skip


def _all_at(condition: Condition, devices: list[Device], state: DrawState) -> Condition:
    return condition.model_copy(update={"states": {**condition.states, **{one.id: state for one in devices}}})
