"""`wire.` rules: drop and heating of feeds and returns."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.answers.limits import wire_bound_a, wire_limits, wire_weights
from yardmeter.core.answers.model import Limit
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.stouter import stouter, stouter_fix
from yardmeter.core.network.keys import Key, feed_key, return_key
from yardmeter.core.physics.conductors import wire_ohm
from yardmeter.core.plan import Condition, Device, Wire
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.sizing.wire import GAUGES
from yardmeter.core.verdict import Comparison, Facts, Fix, Severity, Verdict, under, worst_of

WORTH_V = 0.02
WORTH_A = 1e-3
"""Drop and current below which a wire is not worth a word; our choice."""


@dataclass(frozen=True)
class _Own:
    """One of a device's own wires: what it is for, its key in the network, and where it stands in the document."""

    kind: Literal["feed", "return"]
    key: Key
    field: str
    wire: Wire


def _own_wires(device: Device) -> list[_Own]:
    found = [_Own("feed", feed_key(device.id), "feed.wire", device.feed.wire)] if device.feed else []
    return found + [_Own("return", return_key(r.id), f"returns.{i}.wire", r.wire) for i, r in enumerate(device.returns)]


@dataclass(frozen=True)
class WireDrop(Facts):
    share_frac: float
    amps_a: float
    gauge_awg: int


@rule("wire.drop", WireDrop, sense="at most")
def drop(case: SolvedPlan) -> Iterator[Verdict]:
    """Volts lost in a device's feed and return together, against a share of its rail."""
    frac = case.plan.policy.wire_drop_frac
    for device in case.plan.devices:
        if not device.feed:
            continue
        rail = case.rail(device.feed.rail)
        shares = {
            c.id: s.drop_v / rail.states[c.id].volts_v
            for c, s in case.device_states(device)
            if s.given_a > WORTH_A and s.drop_v > WORTH_V
        }
        bad: dict[str, Severity] = {c: "caution" for c, share in shares.items() if share > frac}
        if not bad:
            continue
        worst = max(bad, key=lambda c: shares[c])
        state, allowed = case.device(device.id).states[worst], frac * rail.states[worst].volts_v
        yield under(
            bad,
            worst,
            (device.id,),
            Comparison(state.drop_v, allowed, "V"),
            WireDrop(shares[worst], state.given_a, device.feed.wire.gauge_awg),
            tuple(_thicker(device, state.given_a, allowed, case.plan.policy.copper_c)),
        )


def _thicker(device: Device, amps: float, allowed_v: float, copper_c: float) -> Iterator[Fix]:
    """The smallest gauge for feed and return together that keeps the drop."""
    wires = [one for one in _own_wires(device) if not one.wire.joined]
    for gauge in GAUGES if wires else ():
        ohm = sum(wire_ohm(gauge, one.wire.run_m, copper_c) + one.wire.connector_ohm for one in wires)
        if ohm * amps <= allowed_v and gauge < min(one.wire.gauge_awg for one in wires):
            yield Fix("gauge", tuple(_set_gauge(device, one, gauge) for one in wires))
            return


def _set_gauge(device: Device, one: _Own, gauge: int) -> SetValue:
    return SetValue(element=device.id, field=f"{one.field}.gauge_awg", value=gauge)


@dataclass(frozen=True)
class WireOver(Facts):
    limit: Limit


@rule("wire.limit", WireOver, sense="at most")
def overheated(case: SolvedPlan) -> Iterator[Verdict]:
    """Current that heats a feed or return, or its connector, beyond the policy; told once for all wires of a device."""
    for device in case.plan.devices:
        hot = [one for own in _own_wires(device) if (one := _hot(case, own))]
        if not hot:
            continue
        worst = max(hot, key=lambda one: one.amps_a / one.limit.amps_a)
        weights = {
            c.id: worst_of({str(k): one.over[c.id] for k, one in enumerate(hot) if c.id in one.over})
            for c in case.plan.conditions
            if any(c.id in one.over for one in hot)
        }
        changed = [stouter(case.plan, one.own.wire, one.condition, one.amps_a) for one in hot]
        edits = tuple(
            SetValue(element=device.id, field=f"{one.own.field}.{name}", value=value)
            for one, values in zip(hot, changed, strict=True)
            for name, value in values.items()
        )
        fixes = (stouter_fix(edits),) if all(changed) else ()
        compared = Comparison(worst.amps_a, worst.limit.amps_a, "A")
        yield under(weights, worst.condition.id, (device.id,), compared, WireOver(worst.limit), fixes)


@dataclass(frozen=True)
class _Hot:
    """A wire with more in it than it stands: where it is worst, and how heavy it is in each condition."""

    own: _Own
    over: Mapping[str, Severity]
    condition: Condition
    amps_a: float
    limit: Limit


def _hot(case: SolvedPlan, own: _Own) -> _Hot | None:
    amps = case.solved.carried_a(own.key)
    over = wire_weights(case.plan, own.wire, amps)
    if not over:
        return None
    worst = max((case.plan.condition(c) for c in over), key=lambda c: amps[c.id] / wire_bound_a(case.plan, own.wire, c))
    limit = min(wire_limits(case.plan, own.wire, own.kind, worst), key=lambda one: one.amps_a)
    return _Hot(own, over, worst, amps[worst.id], limit)
