"""Workings of the pack and of rails."""

from __future__ import annotations

from yardmeter.core.answers.limits import derate_frac
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.plan import Condition, Regulator
from yardmeter.core.units import format_si
from yardmeter.review.workings.model import Input, Working, given
from yardmeter.words.limits import limit_words
from yardmeter.words.told import number


def pack_working(case: SolvedPlan, condition: Condition) -> Working:
    pack, view = case.plan.pack, case.solved.given[condition.id]
    rest = view.rest_v
    amps = view.pack_a
    rail_v = view.rail_v(pack.rail)
    origin = (
        "measured pack volts of the condition"
        if condition.pack_v
        else "cell volts of the condition"
        if condition.cell_v
        else f"{condition.pack_state} {pack.chemistry} cell × {pack.series}"
    )
    other = (
        (rest - rail_v) / amps - pack.internal_ohm
        if amps > 0.01
        else conductor_ohm(pack.lead, case.plan.policy.copper_c)
    )
    return Working(
        title=f"Pack in {condition.name}",
        formula="U = E − I · (r·S/P + R_lead + R_return)",
        result=number("at the power board", rail_v, "V"),
        inputs=(
            given("E", "rest voltage", rest, "V", origin),
            given("I", "pack current", amps, "A", "solved network: motors and everything else", pack.rail, "asked"),
            given(
                "r·S/P",
                "cells",
                pack.internal_ohm,
                "Ω",
                f"{format_si(pack.cell_ohm, 'Ω')} a cell, {pack.series}S{pack.parallel}P",
            ),
            given(
                "R",
                "leads, both ways",
                other,
                "Ω",
                f"{pack.lead.gauge_awg} AWG, {format_si(pack.lead.length_m, 'm')}, and the board's return",
            ),
        ),
    )


def asked_working(case: SolvedPlan, rail_id: str, condition: Condition) -> Working:
    rail = case.plan.rail_of[rail_id]
    state = case.rail(rail_id).states[condition.id]
    inputs = []
    for index, consumer in enumerate(state.consumers, 1):
        if consumer.kind == "device":
            origin = f"{condition.state_of(consumer.id)} draw, {consumer.provenance} ±{consumer.tol_frac:.0%}"
            inputs.append(given(f"I{index}", consumer.name, consumer.asked_a, "A", origin, consumer.id, "asked"))
        else:
            inputs.append(
                given(
                    f"I{index}",
                    consumer.name,
                    consumer.asked_a,
                    "A",
                    "what its own rail asks, through its efficiency",
                    case.plan.supply_of[consumer.id].output,
                    "asked",
                )
            )
    return Working(
        title=f"{rail.name}: amps asked in {condition.name}",
        formula="I = Σ Iₖ, with no supply cutting off",
        result=number("asked", state.asked_a, "A"),
        inputs=tuple(inputs),
    )


def usable_working(case: SolvedPlan, rail_id: str, condition: Condition) -> Working:
    rail = case.plan.rail_of[rail_id]
    state = case.rail(rail_id).states[condition.id]
    labels = {
        "print": "printed rating",
        "heat": "heat",
        "connector": "connector",
        "wire": "wire",
        "pack": "pack",
        "port": "port",
        "limiter": "limiter",
        "pad": "pad",
        "share": "of several supplies",
    }
    inputs = [
        given(f"I{i}", labels[one.kind], one.amps_a, "A", limit_words(case.plan, one))
        for i, one in enumerate(state.limits, 1)
    ]
    for supply in case.plan.supplies_into(rail_id):
        if isinstance(supply, Regulator):
            origin = (
                "this supply's own"
                if supply.derate_frac is not None
                else "policy of the plan (common practice, adjustable)"
            )
            inputs.append(
                Input(
                    symbol="k",
                    label=f"derate of {supply.name}",
                    text=f"{derate_frac(case.plan, supply):g}",
                    origin=origin,
                )
            )
    return Working(
        title=f"{rail.name}: amps usable in {condition.name}",
        formula="I = min(print × k, heat limit, connector, wire)",
        result=number("usable", state.usable_a, "A"),
        inputs=tuple(inputs),
        note="No supply has an input in this condition." if not state.limits else "",
    )


def spare_working(case: SolvedPlan, rail_id: str, condition: Condition) -> Working:
    rail = case.plan.rail_of[rail_id]
    state = case.rail(rail_id).states[condition.id]
    own: tuple[Input, ...] = (
        given("I_usable", "usable", state.usable_a, "A", "least of its limits", rail_id, "usable"),
        given("I_asked", "asked", state.asked_a, "A", "sum over the rail", rail_id, "asked"),
    )
    if state.bound_by is None:
        formula, inputs, note = "I_spare = I_usable − I_asked", own, ""
    else:
        above = state.bound_by if state.bound_by in case.plan.rail_of else None
        name = case.plan.title(state.bound_by)
        left = given("I_above", f"what {name} leaves it", state.spare_a, "A", "through every supply between", above, "spare" if above else None)  # fmt: skip
        formula, inputs = "I_spare = min(I_usable − I_asked, I_above)", (*own, left)
        note = f"{name} is at its limit before this rail is."
    return Working(
        title=f"{rail.name}: spare amps in {condition.name}",
        formula=formula,
        result=number("spare", state.spare_a, "A"),
        inputs=inputs,
        note=note,
    )


def volts_working(case: SolvedPlan, rail_id: str, condition: Condition) -> Working:
    plan = case.plan
    if rail_id == plan.pack.rail:
        return pack_working(case, condition)
    rail = plan.rail_of[rail_id]
    state = case.rail(rail_id).states[condition.id]
    carrying = [
        s
        for s in plan.supplies_into(rail_id)
        if case.supply(s.id).states[condition.id].mode not in ("off", "backwards")
    ]
    if not carrying:
        return Working(
            title=f"{rail.name} in {condition.name}",
            formula="no supply carries it",
            result=number("volts", state.volts_v, "V"),
            inputs=(given("I", "asked", state.asked_a, "A", "sum over the rail", rail_id, "asked"),),
        )
    supply = max(carrying, key=lambda s: case.supply(s.id).states[condition.id].out_a)
    at = case.supply(supply.id).states[condition.id]
    source = supply.input if supply.input in plan.rail_of else None
    inputs = [
        given("U_in", "input", at.in_v, "V", plan.title(supply.input), source, "volts" if source else None),
        given("I", "through it", at.out_a, "A", "solved network"),
    ]
    formula = "U = U_in − R · I"
    if isinstance(supply, Regulator):
        formula = {
            "regulating": "U = U_set − R_out · I",
            "dropout": "U = g · U_in − U_drop − R_drop · I",
            "limiting": "I = I_limit; U is what the loads leave",
        }.get(at.mode, "U = U_set − R_out · I")
        inputs += [
            given("U_set", "set point", supply.set_v, "V", f"plan, ±{supply.set_tol_frac:.0%}"),
            given("R_out", "output resistance", supply.output_ohm, "Ω", "plan"),
            given("U_drop", "dropout", supply.dropout_v, "V", "plan"),
            given("R_drop", "dropout resistance", supply.dropout_ohm, "Ω", "plan"),
            given(
                "I_limit",
                "current limit",
                supply.limit_a,
                "A",
                "plan" if supply.current_limit_a else "1.3 × print (common practice)",
            ),
        ]
    return Working(
        title=f"{rail.name} in {condition.name}",
        formula=formula,
        result=number("volts", state.volts_v, "V"),
        inputs=tuple(inputs),
        note=f"{supply.name} is {at.mode}.",
    )
