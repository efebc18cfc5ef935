"""`heat.` rules: dissipation and temperature of regulators, with and without moving air."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.relief import cooler_fixes
from yardmeter.core.elements.regulator import is_hot
from yardmeter.core.elements.regulator import trips as trips_at
from yardmeter.core.plan import Regulator
from yardmeter.core.verdict import Comparison, Facts, Severity, Verdict, under

LINEAR_LOSS_W = 1.0
"""Dissipation from which a linear regulator is worth a word [W]; common practice, no source."""


@dataclass(frozen=True)
class Hot(Facts):
    loss_w: float
    air: str
    still_trip_s: float | None
    fails: str


@rule("heat.trip", Hot, sense="at most")
def trips(case: SolvedPlan) -> Iterator[Verdict]:
    """Steady temperature at or near the trip point in the condition's own air."""
    margin_k = case.plan.policy.hot_margin_k
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        temps = {c.id: s.temp_c for c, s in case.supply_states(supply) if s.temp_c is not None}
        weights: dict[str, Severity] = {
            c: "fault" if trips_at(t, supply.trip_c) else "caution"
            for c, t in temps.items()
            if is_hot(t, supply.trip_c, margin_k)
        }
        if weights:
            worst = max(weights, key=lambda c: temps[c])
            state = case.supply(supply.id).states[worst]
            yield under(
                weights,
                worst,
                (supply.id,),
                Comparison(temps[worst], supply.trip_c, "°C"),
                Hot(state.loss_w, case.plan.condition(worst).air, state.still_trip_s, supply.fails),
                tuple(cooler_fixes(case, supply, worst)),
            )


@dataclass(frozen=True)
class HotWhenStill(Facts):
    loss_w: float
    trip_s: float


@rule("heat.still", HotWhenStill, sense="at most")
def still_air(case: SolvedPlan) -> Iterator[Verdict]:
    """Fine while it flies, trips when the craft sits with the same load: the reset on the bench."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        states = [(c, s) for c, s in case.supply_states(supply) if s.temp_c is not None and s.still_trip_s is not None]
        if any(trips_at(s.temp_c or 0.0, supply.trip_c) for _, s in states):
            continue
        hot = {c.id: s for c, s in states if c.air == "moving" and not c.is_punch}
        if hot:
            worst = max(hot, key=lambda c: hot[c].still_temp_c or 0.0)
            state = hot[worst]
            yield under(
                dict.fromkeys(hot, "caution"),
                worst,
                (supply.id,),
                Comparison(state.still_temp_c or 0.0, supply.trip_c, "°C"),
                HotWhenStill(state.loss_w, state.still_trip_s or 0.0),
                tuple(cooler_fixes(case, supply, worst)),
            )


@dataclass(frozen=True)
class LinearLoss(Facts):
    dropped_v: float
    amps_a: float


@rule("heat.linear", LinearLoss, sense="at most")
def linear_loss(case: SolvedPlan) -> Iterator[Verdict]:
    """A linear regulator that burns more than about a watt."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator) or supply.kind != "linear":
            continue
        losses = {c.id: s.loss_w for c, s in case.supply_states(supply)}
        worst = max(losses, key=lambda c: (losses[c], c))
        if losses[worst] > LINEAR_LOSS_W:
            state = case.supply(supply.id).states[worst]
            yield under(
                {c: "caution" for c, watts in losses.items() if watts > LINEAR_LOSS_W},
                worst,
                (supply.id,),
                Comparison(losses[worst], LINEAR_LOSS_W, "W"),
                LinearLoss(state.in_v - state.out_v, state.out_a),
                tuple(cooler_fixes(case, supply, worst)),
            )
