"""Workings of supplies."""

from __future__ import annotations

from yardmeter.core.answers.limits import POWERED_V, air_c, theta_k_w
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.plan import Condition, Regulator, Supply
from yardmeter.review.workings.model import Working, given, plain
from yardmeter.words.told import number


def headroom_working(case: SolvedPlan, supply: Regulator, condition: Condition) -> Working:
    state = case.supply(supply.id).states[condition.id]
    source = supply.input if supply.input in case.plan.rail_of else None
    if state.headroom_v is None:
        return Working(
            title=f"{supply.name}: headroom in {condition.name}",
            formula="it steps up: it needs none" if state.in_v > POWERED_V else "nothing is at its input",
            result=number("input", state.in_v, "V"),
            inputs=(given("U_in", "input", state.in_v, "V", "solved network", source, "volts" if source else None),),
        )
    return Working(
        title=f"{supply.name}: headroom in {condition.name}",
        formula="H = U_in − (U_set + U_drop + (R_drop − R_out) · I) / g",
        result=number("headroom", state.headroom_v, "V"),
        inputs=(
            given("U_in", "input", state.in_v, "V", "solved network", source, "volts" if source else None),
            given("U_set", "set point", supply.set_v, "V", "plan"),
            given("U_drop", "dropout", supply.dropout_v, "V", "plan"),
            given("R_drop", "dropout resistance", supply.dropout_ohm, "Ω", "plan"),
            given("R_out", "output resistance", supply.output_ohm, "Ω", "plan"),
            given("I", "through it", state.out_a, "A", "solved network", supply.output, "asked"),
            plain("g", "largest duty", supply.ceil_gain, "plan"),
        ),
    )


def loss_working(case: SolvedPlan, supply: Regulator, condition: Condition) -> Working:
    view = case.solved.mean[condition.id]
    op, row = view.op, view.row
    points = ", ".join(f"{p.efficiency_frac:.0%} at {p.amps:g} A" for p in supply.efficiency) or "no efficiency given"
    return Working(
        title=f"{supply.name}: heat in {condition.name}",
        formula="P = U_in · I_in − U_out · I_out",
        result=number("dissipation", op.supply_loss_w(row, supply), "W"),
        inputs=(
            given("U_in", "input", op.supply_in_v(row, supply), "V", "solved network, bursts averaged"),
            given(
                "I_in",
                "input current",
                op.supply_in_a(row, supply),
                "A",
                f"loss model from {points}" if supply.switching else "output current plus quiescent",
            ),
            given("U_out", "output", op.supply_out_v(row, supply), "V", "solved network"),
            given("I_out", "output current", op.supply_a(row, supply), "A", "solved network", supply.output, "asked"),
        ),
    )


def temperature_working(case: SolvedPlan, supply: Regulator, condition: Condition) -> Working:
    state = case.supply(supply.id).states[condition.id]
    trip = f"In still air {state.still_temp_c:.0f} °C" + (
        f", trips after {state.still_trip_s:.0f} s." if state.still_trip_s else ", never trips."
    )
    return Working(
        title=f"{supply.name}: temperature in {condition.name}",
        formula="T = T_air + P · θ",
        result=number("temperature", state.temp_c or 0.0, "°C"),
        inputs=(
            given("T_air", f"{condition.air} air", air_c(case.plan, condition), "°C", "policy of the plan"),
            given("P", "dissipation", state.loss_w, "W", "solved network", supply.id, "loss"),
            given("θ", f"heat resistance in {condition.air} air", theta_k_w(supply, condition.air), "K/W", "plan"),
        ),
        note=trip,
    )


def share_working(case: SolvedPlan, supply: Supply, condition: Condition) -> Working:
    rail = supply.output
    others = case.plan.supplies_into(rail)
    inputs = tuple(
        given(f"I{i}", name, amps, "A", "solved network")
        for i, (name, amps) in enumerate(
            [
                *((s.name, max(case.supply(s.id).states[condition.id].out_a, 0.0)) for s in others),
                *((p.name, case.solved.given[condition.id].inlet_a(p.id)) for p in case.plan.inlets if p.rail == rail),
            ],
            1,
        )
    )
    state = case.supply(supply.id).states[condition.id]
    return Working(
        title=f"{supply.name}: share of {case.plan.title(rail)} in {condition.name}",
        formula="share = 100 · I / (Σ Iₖ)" if state.share_frac else "next to nothing flows",
        result=number("share", state.share_frac * 100, "%"),
        inputs=(given("I", "its own", max(state.out_a, 0.0), "A", "solved network"), *inputs),
    )
