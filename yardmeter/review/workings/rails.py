"""Workings of the pack and of rails."""

from __future__ import annotations

from yardmeter.core.answers.limits import derate_frac
from yardmeter.core.answers.model import SupplyState
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.answers.sources import TRACE_A
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.network.build import Situation, own_cells_v
from yardmeter.core.network.keys import supply_key
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.plan import Condition, Diode, Inlet, Rail, Regulator, Supply
from yardmeter.core.units import format_si
from yardmeter.review.workings.model import Input, Working, given, plain
from yardmeter.words.limits import limit_words
from yardmeter.words.told import number


def pack_working(case: SolvedPlan, condition: Condition) -> Working:
    pack, view = case.plan.pack, case.solved.given[condition.id]
    rest = view.rest_v
    amps = view.pack_a
    rail_v = view.rail_v(pack.rail)
    if not case.rail(pack.rail).states[condition.id].sources or not condition.on_pack:
        return Working(
            title=f"Pack in {condition.name}",
            formula="the limiter in its lead has opened" if condition.on_pack else "the pack is not connected",
            result=number("at the power board", case.rail(pack.rail).states[condition.id].volts_v, "V"),
            inputs=(given("E", "rest voltage", rest, "V", "were it connected"),),
        )
    if amps < 1e-6 and abs(rest - rail_v) > 0.01 * rest:
        return Working(
            title=f"Pack in {condition.name}",
            formula="no current comes back to the pack: nothing holds its rail",
            result=number("at the power board", rail_v, "V"),
            inputs=(given("E", "rest voltage", rest, "V", "of the pack alone"),),
        )
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
        formula="U = E − I · (r·S/P + R)",
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
        "cut": "current limit",
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
            inputs.append(plain("k", f"derate of {supply.name}", derate_frac(case.plan, supply), origin))
    return Working(
        title=f"{rail.name}: amps usable in {condition.name}",
        formula="I = min(Iₖ), the least of its limits",
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
        if case.supply(s.id).states[condition.id].mode in ("regulating", "dropout", "limiting", "passing")
    ]
    port = next((p for p in plan.inlets if p.rail == rail_id and condition.uses(p) and not p.in_line), None)
    if not carrying or not state.sources or (port and case.solved.given[condition.id].inlet_a(port.id) > TRACE_A):
        return _volts_of_port(case, rail, port, condition)
    supply = max(carrying, key=lambda s: case.supply(s.id).states[condition.id].out_a)
    at = case.supply(supply.id).states[condition.id]
    source = supply.input if supply.input in plan.rail_of else None
    inputs = [
        given("U_in", "input", at.in_v, "V", plan.title(supply.input), source, "volts" if source else None),
        given("I", "through it", at.out_a, "A", "solved network"),
    ]
    formula, more = _law(case, supply, at, condition)
    inputs += more
    return Working(
        title=f"{rail.name} in {condition.name}",
        formula=formula,
        result=number("volts", state.volts_v, "V"),
        inputs=tuple(inputs),
        note=f"{supply.name} is {at.mode}.",
    )


def _volts_of_port(case: SolvedPlan, rail: Rail, port: Inlet | None, condition: Condition) -> Working:
    """What a port gives a rail, or a rail that nothing carries."""
    state = case.rail(rail.id).states[condition.id]
    amps = case.solved.given[condition.id].inlet_a(port.id) if port else 0.0
    if port is None or amps <= TRACE_A:
        return Working(
            title=f"{rail.name} in {condition.name}",
            formula="no supply carries it",
            result=number("volts", state.volts_v, "V"),
            inputs=(given("I", "asked", state.asked_a, "A", "sum over the rail", rail.id, "asked"),),
        )
    if port.cells:
        volts = own_cells_v(case.plan, port.cells, Situation(condition))
        return Working(
            title=f"{rail.name} in {condition.name}", formula="U = U_rest − R · I", result=number("volts", state.volts_v, "V"),
            inputs=(
                given("U_rest", f"{port.name}, as far down as the pack", volts, "V", "plan"), given("R", "its resistance", port.series_ohm, "Ω", "plan"),
                given("I", "through it", amps, "A", "solved network"),
            ),
        )  # fmt: skip
    held = exceeds(amps, port.limit_a * 0.999)
    return Working(
        title=f"{rail.name} in {condition.name}",
        formula="I = I_limit; U is what the loads leave" if held else "U = U_port − U_drop − R · I",
        result=number("volts", state.volts_v, "V"),
        inputs=(
            given("U_port", port.name, port.volts, "V", "plan"),
            given("U_drop", "its diode", port.drop_v, "V", "plan"),
            given("R", "its resistance", port.series_ohm, "Ω", "plan"),
            given("I", "through it", amps, "A", "solved network"),
            given("I_limit", "its limit", port.limit_a, "A", "plan"),
        ),
    )


def _law(case: SolvedPlan, supply: Supply, at: SupplyState, condition: Condition) -> tuple[str, list[Input]]:
    """The law by which a supply makes its rail's volts there, with the numbers of it that are not of the operating point."""
    table = case.solved.table
    if not isinstance(supply, Regulator | Diode):
        across = at.in_v - case.rail(supply.output).states[condition.id].volts_v
        return "U = U_in − ΔU", [given("ΔU", "lost in its wires, both ways", across, "V", "solved network")]
    spec = table.converters[table.converter[supply_key(supply.id)]].spec
    if isinstance(supply, Diode):
        return "U = U_in − U_drop − R · I", [
            given("U_drop", "drop", spec.drop_v, "V", "plan"),
            given("R", "its resistance, its lead's too", spec.drop_ohm, "Ω", "plan"),
        ]
    passing = spec.passes and at.in_v - spec.drop_v - spec.drop_ohm * at.out_a > spec.set_v - spec.out_ohm * at.out_a
    formula = (
        "U = U_in − U_drop − R_drop · I"
        if passing and at.mode != "limiting"
        else {
            "regulating": "U = U_set − R_out · I",
            "dropout": "U = g · U_in − U_drop − R_drop · I" if not spec.passes else "U = g · U_in − R_drop · I",
            "limiting": "I = I_limit; U is what the loads leave",
        }.get(at.mode, "")
    )
    tolerance = f"plan, ±{supply.set_tol_frac:.0%}"
    limit = "plan" if supply.current_limit_a else "1.3 × print (common practice)"
    return formula, [
        given("U_set", "set point", spec.set_v, "V", tolerance),
        given("R_out", "output resistance, its lead’s too", spec.out_ohm, "Ω", "plan"),
        given("U_drop", "dropout", spec.drop_v, "V", "plan"),
        given("R_drop", "dropout resistance, its lead’s too", spec.drop_ohm, "Ω", "plan"),
        plain("g", "largest duty or gain", spec.ceil_gain, "plan"),
        given("I_limit", "current limit", supply.limit_a, "A", limit),
    ]
