"""The working behind a number on screen: formula, inputs, and where each came from."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from yardmeter.core.answers.limits import air_c, derate_frac, theta_k_w
from yardmeter.core.answers.model import Answer
from yardmeter.core.checks.finding import Number, number
from yardmeter.core.checks.registry import Case
from yardmeter.core.errors import UnknownElementError
from yardmeter.core.network.build import conductor_ohm, rest_pack_v
from yardmeter.core.network.loads import active_draw
from yardmeter.core.plan import Condition, Device, Regulator, Supply
from yardmeter.core.units import format_si

Quantity = Literal[
    "volts", "asked", "usable", "spare", "headroom", "temperature", "loss", "pin", "drop", "pack", "share"
]


class Input(Answer):
    """One input of a formula. `element` and `quantity` lead on to its own working where it has one."""

    symbol: str
    label: str
    text: str
    origin: str
    element: str | None = None
    quantity: Quantity | None = None


class Working(Answer):
    """How a number came about."""

    title: str
    formula: str
    result: Number
    inputs: tuple[Input, ...]
    note: str = ""


def working(case: Case, element: str, quantity: Quantity, condition_id: str) -> Working:
    """The working of one number of one element in one condition; raises UnknownElementError where there is none."""
    condition = case.plan.condition(condition_id)
    plan = case.plan
    if quantity == "pack":
        return _pack(case, condition)
    makers: dict[Quantity, Callable[[], Working]] = {}
    if element in plan.rail_of:
        makers = {
            "volts": lambda: _rail_volts(case, element, condition),
            "asked": lambda: _rail_asked(case, element, condition),
            "usable": lambda: _rail_usable(case, element, condition),
            "spare": lambda: _rail_spare(case, element, condition),
        }
    elif element in plan.device_of:
        device = plan.device_of[element]
        makers = {
            "asked": lambda: _device_asked(case, device, condition),
            "pin": lambda: _device_pin(case, device, condition),
            "drop": lambda: _device_pin(case, device, condition),
        }
    elif element in plan.supply_of:
        supply = plan.supply_of[element]
        makers = {
            "share": lambda: _share(case, supply, condition),
            "volts": lambda: _rail_volts(case, supply.output, condition),
        }
        if isinstance(supply, Regulator):
            makers |= {
                "headroom": lambda: _headroom(case, supply, condition),
                "temperature": lambda: _temperature(case, supply, condition),
                "loss": lambda: _loss(case, supply, condition),
            }
    if quantity not in makers:
        raise UnknownElementError(
            f"There is no working for {quantity} of “{element}”.", where=element, remedy="Ask for one of its numbers."
        )
    return makers[quantity]()


def _input(
    symbol: str,
    label: str,
    value: float,
    unit: str,
    origin: str,
    element: str | None = None,
    quantity: Quantity | None = None,
) -> Input:
    return Input(
        symbol=symbol, label=label, text=format_si(value, unit), origin=origin, element=element, quantity=quantity
    )


def _pack(case: Case, condition: Condition) -> Working:
    pack, view = case.plan.pack, case.solved.given[condition.id]
    rest = rest_pack_v(case.plan, view.op.network.situations[view.row])
    amps = view.op.pack_a(view.row)
    rail_v = view.op.rail_v(view.row, pack.rail)
    origin = (
        "measured pack volts of the condition"
        if condition.pack_v
        else "cell volts of the condition"
        if condition.cell_v
        else f"{condition.pack_state} {pack.chemistry} cell × {pack.series}"
    )
    other = (rest - rail_v) / amps - pack.internal_ohm if amps > 0.01 else conductor_ohm(pack.lead)
    return Working(
        title=f"Pack in {condition.name}",
        formula="U = E − I · (r·S/P + R_lead + R_return)",
        result=number("at the power board", rail_v, "V"),
        inputs=(
            _input("E", "rest voltage", rest, "V", origin),
            _input("I", "pack current", amps, "A", "solved network: motors and everything else", pack.rail, "asked"),
            _input(
                "r·S/P",
                "cells",
                pack.internal_ohm,
                "Ω",
                f"{format_si(pack.cell_ohm, 'Ω')} a cell, {pack.series}S{pack.parallel}P",
            ),
            _input(
                "R",
                "leads, both ways",
                other,
                "Ω",
                f"{pack.lead.gauge_awg} AWG, {format_si(pack.lead.length_m, 'm')}, and the board's return",
            ),
        ),
    )


def _rail_asked(case: Case, rail_id: str, condition: Condition) -> Working:
    rail = case.plan.rail_of[rail_id]
    state = case.rail(rail_id).states[condition.id]
    inputs = []
    for index, wagon in enumerate(state.wagons, 1):
        if wagon.kind == "device":
            origin = f"{condition.state_of(wagon.id)} draw, {wagon.provenance} ±{wagon.tol_frac:.0%}"
            inputs.append(_input(f"I{index}", wagon.name, wagon.asked_a, "A", origin, wagon.id, "asked"))
        else:
            inputs.append(
                _input(
                    f"I{index}",
                    wagon.name,
                    wagon.asked_a,
                    "A",
                    "what its own rail asks, through its efficiency",
                    case.plan.supply_of[wagon.id].output,
                    "asked",
                )
            )
    return Working(
        title=f"{rail.name}: amps asked in {condition.name}",
        formula="I = Σ Iₖ, with no supply cutting off",
        result=number("asked", state.asked_a, "A"),
        inputs=tuple(inputs),
    )


def _rail_usable(case: Case, rail_id: str, condition: Condition) -> Working:
    rail = case.plan.rail_of[rail_id]
    state = case.rail(rail_id).states[condition.id]
    labels = {
        "print": "printed rating",
        "heat": "heat",
        "connector": "connector",
        "wire": "wire",
        "pack": "pack",
        "port": "port",
    }
    inputs = [_input(f"I{i}", labels[one.kind], one.amps_a, "A", one.reason) for i, one in enumerate(state.limits, 1)]
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


def _rail_spare(case: Case, rail_id: str, condition: Condition) -> Working:
    rail = case.plan.rail_of[rail_id]
    state = case.rail(rail_id).states[condition.id]
    return Working(
        title=f"{rail.name}: spare amps in {condition.name}",
        formula="I_spare = I_usable − I_asked",
        result=number("spare", state.spare_a, "A"),
        inputs=(
            _input("I_usable", "usable", state.usable_a, "A", "least of its limits", rail_id, "usable"),
            _input("I_asked", "asked", state.asked_a, "A", "sum over the rail", rail_id, "asked"),
        ),
    )


def _rail_volts(case: Case, rail_id: str, condition: Condition) -> Working:
    plan = case.plan
    if rail_id == plan.pack.rail:
        return _pack(case, condition)
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
            inputs=(_input("I", "asked", state.asked_a, "A", "sum over the rail", rail_id, "asked"),),
        )
    supply = max(carrying, key=lambda s: case.supply(s.id).states[condition.id].out_a)
    at = case.supply(supply.id).states[condition.id]
    source = supply.input if supply.input in plan.rail_of else None
    inputs = [
        _input("U_in", "input", at.in_v, "V", plan.title(supply.input), source, "volts" if source else None),
        _input("I", "through it", at.out_a, "A", "solved network"),
    ]
    formula = "U = U_in − R · I"
    if isinstance(supply, Regulator):
        formula = {
            "regulating": "U = U_set − R_out · I",
            "dropout": "U = g · U_in − U_drop − R_drop · I",
            "limiting": "I = I_limit; U is what the loads leave",
        }.get(at.mode, "U = U_set − R_out · I")
        inputs += [
            _input("U_set", "set point", supply.set_v, "V", f"plan, ±{supply.set_tol_frac:.0%}"),
            _input("R_out", "output resistance", supply.output_ohm, "Ω", "plan"),
            _input("U_drop", "dropout", supply.dropout_v, "V", "plan"),
            _input("R_drop", "dropout resistance", supply.dropout_ohm, "Ω", "plan"),
            _input(
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


def _device_asked(case: Case, device: Device, condition: Condition) -> Working:
    state, asked = case.device(device.id).states[condition.id], case.solved.asked[condition.id]
    draw = active_draw(device, condition)
    band = f"±{case.plan.policy.band_frac(draw.provenance):.0%}" if draw else ""
    if device.throttle:
        formula = "I from the motor group's current over throttle"
        inputs = [_input("t", "throttle", condition.throttle_frac * 100, "%", "condition")]
        inputs += [_input(f"I({p.throttle_frac:.0%})", "point", p.amps, "A", "plan") for p in device.throttle]
    elif draw is None:
        formula, inputs = "off in this condition", [_input("I", "off", 0.0, "A", "condition")]
    else:
        inputs = [
            Input(
                symbol="D",
                label=f"{condition.state_of(device.id)} draw",
                text=format_si(draw.value, draw.unit),
                origin=f"plan, {draw.provenance} {band}",
            )
        ]
        inputs.append(
            _input("U", "at its pins, nothing cutting off", asked.op.pin_v(asked.row, device.id), "V", "solved network")
        )
        formula = {
            "current": "I = D" if draw.unit == "A" else "I = D / U_quoted",
            "power": "I = D / U" if draw.unit == "W" else "I = D · U_quoted / U",
            "resistance": "I = U / R, R = U_quoted² / D",
            "led": "I = n · (U − k·U_f) / R",
        }[device.law]
        if draw.at_v or device.law != "current":
            inputs.append(
                _input(
                    "U_quoted",
                    "quoted at",
                    draw.at_v or device.nominal_v,
                    "V",
                    "plan" if draw.at_v else "device's nominal volts",
                )
            )
    return Working(
        title=f"{device.name}: draw in {condition.name}",
        formula=formula,
        result=number("asked", state.asked_a, "A"),
        inputs=tuple(inputs),
    )


def _device_pin(case: Case, device: Device, condition: Condition) -> Working:
    state = case.device(device.id).states[condition.id]
    if device.feed is None:
        return Working(
            title=f"{device.name}: no feed wire",
            formula="U = 0",
            result=number("at its pins", state.pin_v, "V"),
            inputs=(_input("I", "asked", state.asked_a, "A", "plan", device.id, "asked"),),
        )
    view = case.solved.given[condition.id]
    wire = device.feed.wire
    rail = case.rail(device.feed.rail)
    inputs = [
        _input(
            "U_rail",
            f"{rail.name} above its board's ground",
            rail.states[condition.id].volts_v,
            "V",
            "solved network",
            rail.id,
            "volts",
        ),
        _input(
            "I",
            "through the feed",
            view.op.conductor_a(view.row, f"feed:{device.id}"),
            "A",
            "solved network",
            device.id,
            "asked",
        ),
        _input(
            "R_feed",
            "feed",
            conductor_ohm(wire),
            "Ω",
            f"{wire.gauge_awg} AWG, {format_si(wire.length_m, 'm')} (ASTM B258, IEC 60028)",
        ),
    ]
    inputs += [
        _input(
            "R_return",
            f"return to {case.plan.title(r.to)}",
            conductor_ohm(r.wire),
            "Ω",
            f"{r.wire.gauge_awg} AWG, {format_si(r.wire.length_m, 'm')}",
        )
        for r in device.returns
    ]
    inputs.append(
        _input(
            "ΔU_gnd",
            "its ground above the rail's board",
            state.ground_v - view.op.ground_v(view.row, case.plan.rail_of[rail.id].board),
            "V",
            "solved network",
        )
    )
    return Working(
        title=f"{device.name}: volts at its pins in {condition.name}",
        formula="U = U_rail − I · R_feed − ΔU_gnd",
        result=number("at its pins", state.pin_v, "V"),
        inputs=tuple(inputs),
        note=f"Allowed {device.min_v:g} to {device.max_v:g} V, resets below {device.reset_v:g} V.",
    )


def _headroom(case: Case, supply: Regulator, condition: Condition) -> Working:
    state = case.supply(supply.id).states[condition.id]
    gain = supply.duty_max_frac if supply.kind == "buck" else 1.0
    source = supply.input if supply.input in case.plan.rail_of else None
    return Working(
        title=f"{supply.name}: headroom in {condition.name}",
        formula="H = U_in − (U_set + U_drop + (R_drop − R_out) · I) / g",
        result=number("headroom", state.headroom_v or 0.0, "V"),
        inputs=(
            _input("U_in", "input", state.in_v, "V", "solved network", source, "volts" if source else None),
            _input("U_set", "set point", supply.set_v, "V", "plan"),
            _input("U_drop", "dropout", supply.dropout_v, "V", "plan"),
            _input("R_drop", "dropout resistance", supply.dropout_ohm, "Ω", "plan"),
            _input("R_out", "output resistance", supply.output_ohm, "Ω", "plan"),
            _input("I", "through it", state.out_a, "A", "solved network", supply.output, "asked"),
            Input(symbol="g", label="largest duty", text=f"{gain:g}", origin="plan"),
        ),
    )


def _loss(case: Case, supply: Regulator, condition: Condition) -> Working:
    view = case.solved.mean[condition.id]
    op, row = view.op, view.row
    points = ", ".join(f"{p.efficiency_frac:.0%} at {p.amps:g} A" for p in supply.efficiency) or "no efficiency given"
    return Working(
        title=f"{supply.name}: heat in {condition.name}",
        formula="P = U_in · I_in − U_out · I_out",
        result=number("dissipation", op.supply_loss_w(row, supply), "W"),
        inputs=(
            _input("U_in", "input", op.supply_in_v(row, supply), "V", "solved network, bursts averaged"),
            _input(
                "I_in",
                "input current",
                op.supply_in_a(row, supply),
                "A",
                f"loss model from {points}" if supply.switching else "output current plus quiescent",
            ),
            _input("U_out", "output", op.supply_out_v(row, supply), "V", "solved network"),
            _input("I_out", "output current", op.supply_a(row, supply), "A", "solved network", supply.output, "asked"),
        ),
    )


def _temperature(case: Case, supply: Regulator, condition: Condition) -> Working:
    state = case.supply(supply.id).states[condition.id]
    trip = f"In still air {state.still_temp_c:.0f} °C" + (
        f", trips after {state.still_trip_s:.0f} s." if state.still_trip_s else ", never trips."
    )
    return Working(
        title=f"{supply.name}: temperature in {condition.name}",
        formula="T = T_air + P · θ",
        result=number("temperature", state.temp_c or 0.0, "°C"),
        inputs=(
            _input("T_air", f"{condition.air} air", air_c(case.plan, condition), "°C", "policy of the plan"),
            _input("P", "dissipation", state.loss_w, "W", "solved network", supply.id, "loss"),
            _input("θ", f"heat resistance in {condition.air} air", theta_k_w(supply, condition.air), "K/W", "plan"),
        ),
        note=trip,
    )


def _share(case: Case, supply: Supply, condition: Condition) -> Working:
    rail = supply.output
    others = case.plan.supplies_into(rail)
    inputs = tuple(
        _input(f"I{i}", s.name, case.supply(s.id).states[condition.id].out_a, "A", "solved network")
        for i, s in enumerate(others, 1)
    )
    state = case.supply(supply.id).states[condition.id]
    return Working(
        title=f"{supply.name}: share of {case.plan.title(rail)} in {condition.name}",
        formula="share = I / Σ Iₖ",
        result=number("share", state.share_frac * 100, "%"),
        inputs=inputs,
    )
