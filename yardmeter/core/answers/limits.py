"""What a supply can really give: print × derate, heat in this air, connectors, wires. The least counts."""

from __future__ import annotations

import math

from yardmeter.core.answers.model import Limit
from yardmeter.core.network.converters import loss_fit
from yardmeter.core.physics.conductors import trace_limit_a, wire_burst_limit_a, wire_limit_a
from yardmeter.core.physics.regulators import current_for_loss_a
from yardmeter.core.physics.thermal import loss_limit_w
from yardmeter.core.plan import Condition, Diode, Inlet, Link, Pad, Plan, Regulator, Strap, Supply, Wire


def derate_frac(plan: Plan, supply: Regulator) -> float:
    """Share of the printed rating that counts: the supply's own, else the policy's for its place."""
    if supply.derate_frac is not None:
        return supply.derate_frac
    return plan.policy.alone_derate_frac if supply.place == "alone" else plan.policy.board_derate_frac


def printed_a(supply: Supply) -> float | None:
    """The rating on the print [A]; None for a plain wire, which has none."""
    return supply.rating_a


def air_c(plan: Plan, condition: Condition) -> float:
    return plan.policy.still_air_c if condition.air == "still" else plan.policy.moving_air_c


def theta_k_w(supply: Regulator, air: str) -> float:
    return supply.theta_still_k_w if air == "still" else supply.theta_moving_k_w


def heat_limit_a(plan: Plan, supply: Regulator, condition: Condition, input_v: float) -> float:
    """Output current [A] that heats the regulator to its trip temperature less the policy's margin in this air."""
    top_c = supply.trip_c - plan.policy.hot_margin_k
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
        place = {"board": "on a board", "esc": "in an ESC", "alone": "stand-alone", "device": "inside a device"}[
            supply.place
        ]
        limits.append(
            Limit(
                kind="print",
                amps_a=supply.rating_a * factor,
                reason=f"print {supply.rating_a:g} A × {factor:g} ({place})",
            )
        )
        if input_v > 1:
            amps = heat_limit_a(plan, supply, condition, input_v)
            limits.append(
                Limit(
                    kind="heat",
                    amps_a=amps,
                    reason=f"{supply.trip_c - plan.policy.hot_margin_k:g} °C in {condition.air} air at {input_v:.1f} V in",
                )
            )
    elif isinstance(supply, Diode):
        limits.append(Limit(kind="print", amps_a=supply.rating_a, reason=f"diode rated {supply.rating_a:g} A"))
    elif isinstance(supply, Link | Strap) and supply.rating_a:
        limits.append(Limit(kind="print", amps_a=supply.rating_a, reason=f"rated {supply.rating_a:g} A"))
    wires = [("lead", supply.lead)] + ([("feed", supply.feed)] if isinstance(supply, Link | Strap) else [])
    for name, wire in wires:
        if wire:
            limits += wire_limits(plan, wire, name, condition)
    return tuple(limits)


def wire_bound_a(plan: Plan, wire: Wire, condition: Condition) -> float:
    """The least of `wire_limits` [A], without the words."""
    policy = plan.policy
    if wire.joined:
        amps = math.inf
    elif condition.is_punch:
        amps = wire_burst_limit_a(wire.gauge_awg, policy.punch_s, policy.wire_rise_k)
    else:
        amps = wire_limit_a(wire.gauge_awg, policy.wire_rise_k)
    if wire.connector_limit_a:
        amps = min(amps, wire.connector_limit_a * (policy.connector_burst_frac if condition.is_punch else 1.0))
    return amps


def wire_limits(plan: Plan, wire: Wire, name: str, condition: Condition) -> list[Limit]:
    """Bounds by a wire's heating and its connector; a punch counts for as long as the policy says it is held."""
    policy = plan.policy
    if condition.is_punch:
        amps = wire_burst_limit_a(wire.gauge_awg, policy.punch_s, policy.wire_rise_k)
        held = f"{policy.wire_rise_k:g} K rise in {policy.punch_s:g} s"
    else:
        amps, held = wire_limit_a(wire.gauge_awg, policy.wire_rise_k), f"{policy.wire_rise_k:g} K rise in still air"
    limits = [] if wire.joined else [Limit(kind="wire", amps_a=amps, reason=f"{name} {wire.gauge_awg} AWG, {held}")]
    if wire.connector_limit_a:
        factor = policy.connector_burst_frac if condition.is_punch else 1.0
        shown = f" × {factor:g} for {policy.punch_s:g} s" if condition.is_punch else ""
        limits.append(
            Limit(
                kind="connector",
                amps_a=wire.connector_limit_a * factor,
                reason=f"{name} connector {wire.connector_limit_a:g} A{shown}",
            )
        )
    return limits


def pack_limits(plan: Plan, condition: Condition) -> tuple[Limit, ...]:
    """Bounds by the pack's own rating and its lead."""
    pack = plan.pack
    own = Limit(kind="pack", amps_a=pack.limit_a, reason=f"{pack.discharge_c:g} C × {pack.capacity_ah:g} Ah")
    return (own, *wire_limits(plan, pack.lead, "pack lead", condition))


def inlet_limit(inlet: Inlet) -> Limit:
    return Limit(kind="port", amps_a=inlet.limit_a, reason=f"{inlet.name} gives {inlet.limit_a:g} A")


def pad_limit_a(pad: Pad) -> tuple[float, str] | None:
    """Current limit of a pad [A] with its reason: as stated, or by the copper behind it."""
    if pad.limit_a is not None:
        return pad.limit_a, f"pad {pad.label} stated {pad.limit_a:g} A"
    if pad.trace:
        amps = trace_limit_a(pad.trace.width_m, pad.trace.copper_m, pad.trace.rise_k)
        return amps, f"pad {pad.label}: {pad.trace.width_m * 1e3:g} mm trace, {pad.trace.rise_k:g} K rise (IPC-2221)"
    return None
