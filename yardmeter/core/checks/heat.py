"""`heat.` rules: dissipation and temperature of regulators, with and without moving air."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.checks.finding import Finding, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.plan import Regulator

LINEAR_LOSS_W = 1.0
"""Dissipation from which a linear regulator is worth a word [W]; common practice, no source."""


@rule("heat.trip", sense="at most")
def trips(case: Case) -> Iterator[Finding]:
    """Steady temperature at or near the trip point in the condition's own air."""
    margin_k = case.plan.policy.hot_margin_k
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        hot = [
            (s.temp_c or 0.0, c, s)
            for c, s in case.supply_states(supply)
            if s.temp_c is not None and s.temp_c > supply.trip_c - margin_k
        ]
        if not hot:
            continue
        top, worst, state = max(hot, key=lambda item: item[0])
        trip = top >= supply.trip_c
        when = f" In still air it trips after {state.still_trip_s:.0f} s." if state.still_trip_s else ""
        yield Finding(
            severity="fault" if trip else "caution",
            conditions=tuple(c.id for _, c, _ in hot),
            worst=worst.id,
            elements=(supply.id,),
            title=f"{supply.name} {'trips at' if trip else 'runs at'} {min(top, supply.trip_c) if trip else top:.0f} °C in {worst.air} air",
            cause=f"It turns {state.loss_w:.2f} W into heat.{when} Over-taxed regulators may fail {supply.fails}.",
            remedy="Move load off it, lower its input, or give it air.",
            numbers=(
                number("steady temperature", top, "°C"),
                number("trips at", supply.trip_c, "°C"),
                number("dissipation", state.loss_w, "W"),
            ),
        )


@rule("heat.still", sense="at most")
def still_air(case: Case) -> Iterator[Finding]:
    """Fine while it flies, trips when the craft sits with the same load: the reset on the bench."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        states = [(c, s) for c, s in case.supply_states(supply) if s.temp_c is not None and s.still_trip_s is not None]
        hot = [
            (s.still_temp_c or 0.0, c, s)
            for c, s in states
            if c.air == "moving" and not c.is_punch and (s.temp_c or 0.0) < supply.trip_c
        ]
        if hot and not any((s.temp_c or 0.0) >= supply.trip_c for _, s in states):
            top, worst, state = max(hot, key=lambda item: item[0])
            yield Finding(
                severity="caution",
                conditions=tuple(c.id for _, c, _ in hot),
                worst=worst.id,
                elements=(supply.id,),
                title=f"{supply.name} trips {state.still_trip_s:.0f} s after landing with this load",
                cause=f"The same {state.loss_w:.2f} W without moving air lead to {top:.0f} °C.",
                remedy="Switch loads off on the ground, or move load off it.",
                numbers=(number("in still air", top, "°C"), number("trips at", supply.trip_c, "°C")),
            )


@rule("heat.linear", sense="at most")
def linear_loss(case: Case) -> Iterator[Finding]:
    """A linear regulator that burns more than about a watt."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator) or supply.kind != "linear":
            continue
        loss_w, worst = max((s.loss_w, c.id) for c, s in case.supply_states(supply))
        if loss_w > LINEAR_LOSS_W:
            state = case.supply(supply.id).states[worst]
            yield Finding(
                severity="caution",
                conditions=(worst,),
                worst=worst,
                elements=(supply.id,),
                title=f"{supply.name} burns {loss_w:.2f} W",
                cause=f"A linear regulator drops {state.in_v - state.out_v:.1f} V at {state.out_a:.2f} A as heat.",
                remedy="Feed it from a lower rail, or use a switching regulator.",
                numbers=(number("dissipation", loss_w, "W"), number("worth a word from", LINEAR_LOSS_W, "W")),
            )
