"""Every supply in every condition: mode, headroom, share of its rail, loss and temperature."""

from __future__ import annotations

import math

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.limits import air_c, theta_k_w
from yardmeter.core.answers.model import SupplyAnswer, SupplyMode, SupplyState, Weight
from yardmeter.core.answers.operating import View
from yardmeter.core.answers.pins import HEAVIEST_FIRST
from yardmeter.core.answers.sources import TRACE_A
from yardmeter.core.elements.regulator import Amps, is_hot, needed_v, trips
from yardmeter.core.graph import graph_of
from yardmeter.core.physics.thermal import temperature_c, trip_time_s
from yardmeter.core.plan import Condition, Diode, Plan, Regulator, Supply


def supply_states(solved: Solved, supply: Supply, but: frozenset[str] = frozenset()) -> dict[str, SupplyState]:
    """A supply in every condition `but` some."""
    return {
        c.id: _state(solved.plan, supply, c, solved.given[c.id], solved.asked[c.id], solved.mean[c.id])
        for c in solved.plan.conditions
        if c.id not in but
    }


def supply_answer(supply: Supply, states: dict[str, SupplyState]) -> SupplyAnswer:
    return SupplyAnswer(
        id=supply.id,
        name=supply.name,
        kind=supply.kind,
        input=supply.input,
        output=supply.output,
        worst=max(states, key=lambda c: states[c].out_a),
        states=states,
    )


def _state(plan: Plan, supply: Supply, condition: Condition, view: View, asked: View, mean: View) -> SupplyState:
    amps = view.supply_a(supply)
    together = sum(max(view.supply_a(other), 0.0) for other in plan.supplies_into(supply.output))
    together += sum(view.inlet_a(inlet.id) for inlet in plan.inlets if inlet.rail == supply.output)
    loss_w = mean.supply_loss_w(supply)
    regulator = supply if isinstance(supply, Regulator) else None
    still_c = plan.policy.still_air_c
    trip_s = (
        trip_time_s(still_c, loss_w, regulator.theta_still_k_w, regulator.tau_s, regulator.trip_c)
        if regulator
        else math.inf
    )
    in_v, out_v = (max(volts, 0.0) for volts in (view.supply_in_v(supply), view.supply_out_v(supply)))
    mode = _mode(view, supply, amps)
    temp_c = temperature_c(air_c(plan, condition), loss_w, theta_k_w(regulator, condition.air)) if regulator else None
    return SupplyState(
        mode=mode,
        weight=supply_weight(plan, supply, mode, out_v, temp_c),
        in_v=in_v,
        out_v=out_v,
        in_a=view.supply_in_a(supply),
        out_a=amps,
        asked_a=asked.supply_a(supply),
        share_frac=max(amps, 0.0) / together if together > TRACE_A else 0.0,
        headroom_v=headroom_v(regulator, in_v, max(amps, 0.0)) if regulator and in_v > 0.5 else None,
        loss_w=loss_w,
        temp_c=temp_c,
        still_temp_c=temperature_c(still_c, loss_w, regulator.theta_still_k_w) if regulator else None,
        still_trip_s=trip_s if math.isfinite(trip_s) else None,
    )


MODE_WEIGHT: dict[SupplyMode, Weight] = {
    "limiting": "danger", "gives up": "danger", "hiccup": "danger", "unknown": "danger", "backwards": "fault",
}  # fmt: skip
DEEP_FRAC = 0.03
"""Share of its set point a rail may sink out of regulation before that is a fault by itself; our choice."""


def supply_weight(plan: Plan, supply: Supply, mode: SupplyMode, out_v: float, temp_c: float | None) -> Weight | None:
    """How heavy what a supply does is, and its heat: what rules, Rails and its ticket mark it with."""
    found: list[Weight | None] = [MODE_WEIGHT.get(mode)]
    if isinstance(supply, Regulator):
        if mode == "dropout":
            found.append("fault" if sinks_deep(supply, out_v) else "caution")
        if temp_c is not None and is_hot(temp_c, supply.trip_c, plan.policy.hot_margin_k):
            found.append("fault" if trips(temp_c, supply.trip_c) else "caution")
    return min(found, key=HEAVIEST_FIRST.index)


def sinks_deep(supply: Regulator, out_v: float) -> bool:
    """Whether a rail out of regulation is a fault by itself."""
    return 1 - out_v / supply.set_v > DEEP_FRAC


def headroom_v(supply: Regulator, input_v: float, amps: float) -> float | None:
    """Volts left above what the regulator needs at its input to hold its set point [V]; None where it can step up."""
    if supply.kind in ("boost", "buckboost"):
        return None
    return input_v - float(needed_input_v(supply, amps))


CASCADE_HEADROOM_V = 0.2
"""Headroom wanted behind another regulator, whose output does not sag with the pack [V]; our choice."""


def wanted_headroom_v(plan: Plan, supply: Regulator) -> float:
    """The policy's headroom where the input follows the pack, little behind another regulator [V]."""
    return CASCADE_HEADROOM_V if graph_of(plan).behind_a_regulator(supply) else plan.policy.thin_headroom_v


def needed_input_v(supply: Regulator, amps: Amps) -> Amps:
    """Input [V] at which the regulator's ceiling just meets its set point."""
    return needed_v(supply.set_v, supply.output_ohm, supply.ceil_gain, supply.dropout_v, supply.dropout_ohm, amps)


def _mode(view: View, supply: Supply, amps: float) -> SupplyMode:
    if not view.converged:
        return "unknown"
    if amps < -TRACE_A and not (isinstance(supply, Regulator) and supply.two_way):
        return "backwards"
    if not isinstance(supply, Regulator | Diode):
        return "passing" if view.supply_out_v(supply) > 0.5 else "off"
    if view.hiccups(supply.id):
        return "hiccup"
    if view.gives_up(supply.id):
        return "gives up"
    if not view.supply_on(supply.id):
        return "off"
    if view.supply_limits(supply.id):
        return "limiting"
    if isinstance(supply, Diode):
        return "passing"
    return "regulating" if view.supply_holds(supply) else "dropout"
