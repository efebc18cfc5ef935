"""What a supply can really give: print × derate, heat in this air, connectors, wires. The least counts."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache
from typing import Literal

from yardmeter.core.answers.model import Limit
from yardmeter.core.elements.inline import LAMP_EXPONENT
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.network import Situation
from yardmeter.core.network.build import rest_pack_v
from yardmeter.core.network.converters import loss_fit
from yardmeter.core.physics.conductors import trace_limit_a, wire_burst_limit_a, wire_limit_a
from yardmeter.core.physics.inline import fuse_burst_frac
from yardmeter.core.physics.regulators import current_for_loss_a
from yardmeter.core.physics.thermal import loss_limit_w
from yardmeter.core.plan import Condition, Inlet, Link, Pad, Plan, Regulator, Strap, Supply, Wire

LAMP_SHARE = 0.1
"""Part of the pack's volts from which a lamp in line counts as lit: the craft then runs on too little; our choice."""
POWERED_V = 1.0
"""Input from which a regulator has one at all, for its heat [V]."""


def derate_frac(plan: Plan, supply: Regulator) -> float:
    """Share of the printed rating that counts: the supply's own, else the policy's for its place."""
    if supply.derate_frac is not None:
        return supply.derate_frac
    return plan.policy.alone_derate_frac if supply.place == "alone" else plan.policy.board_derate_frac


def air_c(plan: Plan, condition: Condition) -> float:
    return plan.policy.still_air_c if condition.air == "still" else plan.policy.moving_air_c


def theta_k_w(supply: Regulator, air: str) -> float:
    return supply.theta_still_k_w if air == "still" else supply.theta_moving_k_w


def heat_limit_a(plan: Plan, supply: Regulator, condition: Condition, input_v: float, top_c: float) -> float:
    """Output current [A] that heats the regulator to a temperature in this air."""
    budget_w = (
        loss_limit_w(air_c(plan, condition), theta_k_w(supply, condition.air), top_c) - supply.quiescent_a * input_v
    )
    if not supply.switching:
        return max(budget_w, 0.0) / max(input_v - supply.set_v, supply.dropout_v, 0.05)
    fit = loss_fit(supply)
    return current_for_loss_a(fit, budget_w, supply.dropout_v, supply.dropout_ohm)


def supply_limits(plan: Plan, supply: Supply, condition: Condition, input_v: float) -> tuple[Limit, ...]:
    """Every bound on what the supply may deliver in this condition; `input_v` at its input [V]."""
    limits: list[Limit] = []
    if isinstance(supply, Regulator):
        factor = derate_frac(plan, supply)
        limits.append(
            Limit(
                "print",
                supply.rating_a * factor,
                supply.id,
                rating_a=supply.rating_a,
                factor=factor,
                hard_a=supply.rating_a,
            )
        )
        if supply.limit_a < supply.rating_a * factor:
            limits.append(Limit("cut", supply.limit_a, supply.id))
        if input_v > POWERED_V:
            top_c = supply.trip_c - plan.policy.hot_margin_k
            amps, trips = (heat_limit_a(plan, supply, condition, input_v, top) for top in (top_c, supply.trip_c))
            limits.append(Limit("heat", amps, supply.id, top_c=top_c, air=condition.air, input_v=input_v, hard_a=trips))
    elif supply.rating_a:
        limits.append(Limit("print", supply.rating_a, supply.id, rating_a=supply.rating_a))
    if supply.lead:
        limits += wire_limits(plan, supply.lead, "lead", condition, supply.id)
    if supply.feed and isinstance(supply, Link | Strap):
        limits += wire_limits(plan, supply.feed, "feed", condition, supply.id)
    return tuple(limits)


def wire_bound_a(plan: Plan, wire: Wire, condition: Condition) -> float:
    """The least of a wire's limits [A]; without limit where there is no wire and no connector with one."""
    return min((one.amps_a for one in wire_limits(plan, wire, "feed", condition)), default=math.inf)


UNSURE_FRAC = 0.1
"""How far past a limit of our own working, a gauge's heat or what a connector stands for seconds, is still its uncertainty; our choice."""


def wire_weight(plan: Plan, wire: Wire, condition: Condition, amps: float) -> Literal["fault", "caution"] | None:
    """How heavy a current is for a wire with its connector: over what is printed, or well over what we work out, is a fault."""
    return _heaviest(wire_limits(plan, wire, "feed", condition), amps)


def wire_weights(plan: Plan, wire: Wire, amps_a: Mapping[str, float]) -> dict[str, Literal["fault", "caution"]]:
    """The same by condition, of the conditions in which it is more than the wire stands; its bounds go by the punch alone."""
    limits = {held: wire_limits(plan, wire, "feed", one) for held, one in plan.punching.items()}
    least = min((one.amps_a for own in limits.values() for one in own), default=math.inf)
    if max(amps_a.values(), default=0.0) <= least:
        return {}
    weights = ((one.id, _heaviest(limits[one.is_punch], amps_a.get(one.id, 0.0))) for one in plan.conditions)
    return {name: weight for name, weight in weights if weight}


def _heaviest(limits: tuple[Limit, ...], amps: float) -> Literal["fault", "caution"] | None:
    found: Literal["fault", "caution"] | None = None
    for one in limits:
        if exceeds(amps, one.fault_a):
            return "fault"
        if exceeds(amps, one.amps_a):
            found = "caution"
    return found


Way = Literal["feed", "lead", "return"]


def wire_limits(
    plan: Plan, wire: Wire, which: Way, condition: Condition, element: str | None = None
) -> tuple[Limit, ...]:
    """Bounds by a wire's heating and its connector; a punch counts for as long as the policy says it is held."""
    held_s = plan.policy.punch_s if condition.is_punch else None
    factor = _burst_frac(plan, wire, held_s) if held_s is not None and wire.connector_limit_a else 1.0
    gauge = None if wire.joined else wire.gauge_awg
    return _bounds(gauge, plan.policy.wire_rise_k, held_s, wire.connector_limit_a, factor, which, element)


@lru_cache(maxsize=1024)
def _bounds(
    gauge_awg: int | None,
    rise_k: float,
    held_s: float | None,
    connector_a: float | None,
    factor: float,
    which: Way,
    element: str | None,
) -> tuple[Limit, ...]:
    """The same by what it rests on: a craft has a few kinds of wires, and every rule asks about each of them."""
    limits = []
    if gauge_awg is not None:
        amps = wire_limit_a(gauge_awg, rise_k) if held_s is None else wire_burst_limit_a(gauge_awg, held_s, rise_k)
        hard_a = amps * (1 + UNSURE_FRAC)
        limits.append(
            Limit("wire", amps, element, which, gauge_awg=gauge_awg, rise_k=rise_k, held_s=held_s, hard_a=hard_a)
        )
    if connector_a:
        amps = connector_a * factor
        hard_a = amps * (1 + UNSURE_FRAC) if factor > 1 else amps
        limits.append(Limit("connector", amps, element, which, connector_a, factor, held_s=held_s, hard_a=hard_a))
    return tuple(limits)


def _burst_frac(plan: Plan, wire: Wire, held_s: float) -> float:
    """What of its print a connector stands for a while; what reacts in it has no heat to spare as contacts have."""
    part = wire.inline
    if part is None or part.kind == "spark":
        return plan.policy.connector_burst_frac
    if part.kind == "ntc" or wire.connector_limit_a is None:
        return 1.0
    return min(fuse_burst_frac(wire.connector_limit_a, part.melts_a2s, held_s), plan.policy.connector_burst_frac)


def pack_limits(plan: Plan, condition: Condition) -> tuple[Limit, ...]:
    """Bounds by the pack's own rating, its lead, and what stands in line with it at first power."""
    own = Limit("pack", plan.pack.limit_a, "pack"), *wire_limits(plan, plan.pack.lead, "lead", condition, "pack")
    return own + tuple(
        _through_a(plan, condition, one) for one in plan.inlets if one.in_line and one.id in condition.energy
    )


def _through_a(plan: Plan, condition: Condition, inlet: Inlet) -> Limit:
    """What a limiter lets through: its current, or what a lamp passes before it takes a tenth of the pack's volts."""
    if inlet.kind == "fuse":
        return Limit("limiter", inlet.limit_a, inlet.id)
    taken_v = LAMP_SHARE * rest_pack_v(plan, Situation(condition))
    return Limit("limiter", inlet.limit_a * (taken_v / inlet.volts) ** LAMP_EXPONENT, inlet.id)


def inlet_limit(inlet: Inlet) -> Limit:
    return Limit("port", inlet.limit_a, inlet.id)


def pad_limit(pad: Pad) -> Limit | None:
    """What a pad stands: as stated, or by the copper behind it."""
    if pad.limit_a is not None:
        return Limit("pad", pad.limit_a, pad.id)
    if pad.trace is None:
        return None
    return Limit("pad", trace_limit_a(pad.trace.width_m, pad.trace.copper_m, pad.trace.rise_k), pad.id)
