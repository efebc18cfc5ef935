"""Workings of devices."""

from __future__ import annotations

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.network.keys import feed_key
from yardmeter.core.network.loads import active_draw, load_knee_v
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.plan import Condition, Device, Draw
from yardmeter.core.units import format_si
from yardmeter.review.workings.model import Input, Working, given, plain
from yardmeter.words.told import number


def draw_working(case: SolvedPlan, device: Device, condition: Condition) -> Working:
    state, asked = case.device(device.id).states[condition.id], case.solved.asked[condition.id]
    draw = active_draw(device, condition)
    band = f"±{case.plan.policy.band_frac(draw.provenance):.0%}" if draw else ""
    if device.throttle:
        formula = "read off the motors’ current over throttle"
        inputs = [given("t", "throttle", condition.throttle_frac * 100, "%", "condition")]
        inputs += [given(f"I({p.throttle_frac:.0%})", "point", p.amps, "A", "plan") for p in device.throttle]
    elif draw is None:
        formula, inputs = "off in this condition", [given("I", "off", 0.0, "A", "condition")]
    else:
        inputs = [
            given(
                "D", f"{condition.state_of(device.id)} draw", draw.value, draw.unit, f"plan, {draw.provenance} {band}"
            )
        ]
        inputs.append(given("U", "at its pins, nothing cutting off", asked.pin_v(device.id), "V", "solved network"))
        formula, more = _law(device, draw, asked.pin_v(device.id))
        inputs += more
        if draw.at_v or device.law != "current":
            inputs.append(
                given(
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


def _law(device: Device, draw: Draw, pin_v: float) -> tuple[str, list[Input]]:
    """The load's law at these volts, with the numbers that are its own."""
    knee_v = load_knee_v(device)
    if device.law == "led" and device.led:
        lamp = device.led
        return "I = max(n · (U − k · U_f) / R, 0)", [
            plain("n", "strings", lamp.strings, "plan"),
            plain("k", "LEDs in each", lamp.series, "plan"),
            given("U_f", "forward volts of one", lamp.forward_v, "V", "plan"),
            given("R", "resistor of each", lamp.resistor_ohm, "Ω", "plan"),
        ]
    if device.law == "resistance":
        return ("I = U · D / U_quoted²" if draw.unit == "W" else "I = U · D / U_quoted"), []
    at = {"current": ("D", "D / U_quoted"), "power": ("D · U_quoted", "D")}[device.law][draw.unit == "W"]
    at = f"({at})" if len(at) > 1 else at
    if pin_v < knee_v:
        scaled = f"{at} · max(U, 0) / U_knee" if device.law == "current" else f"{at} · max(U, 0) / U_knee²"
        return f"I = {scaled}", [given("U_knee", "below it a resistance", knee_v, "V", "its least volts")]
    return (f"I = {at}" if device.law == "current" else f"I = {at} / U"), []


def _coils(case: SolvedPlan, device: Device) -> str:
    """The resistance of filters in the feed, in words."""
    ohm = case.plan.series_ohm(device.id)
    return f", {format_si(ohm, 'Ω')} of it in its filter" if ohm else ""


def pin_working(case: SolvedPlan, device: Device, condition: Condition) -> Working:
    state = case.device(device.id).states[condition.id]
    if device.feed is None or not state.sources:
        return Working(
            title=f"{device.name}: no feed wire" if device.feed is None else f"{device.name} in {condition.name}",
            formula="nothing feeds it",
            result=number("at its pins", state.pin_v, "V"),
            inputs=(given("I", "asked", state.asked_a, "A", "plan", device.id, "asked"),),
        )
    view = case.solved.given[condition.id]
    wire = device.feed.wire
    rail = case.rail(device.feed.rail)
    inputs = [
        given(
            "U_rail",
            f"{rail.name} above its own ground",
            rail.states[condition.id].volts_v,
            "V",
            "solved network",
            rail.id,
            "volts",
        ),
        given(
            "I",
            "through the feed",
            view.conductor_a(feed_key(device.id)),
            "A",
            "solved network",
            device.id,
            "asked",
        ),
        given(
            "R_feed",
            "feed",
            conductor_ohm(wire, case.plan.policy.copper_c) + case.plan.series_ohm(device.id),
            "Ω",
            f"{wire.gauge_awg} AWG, {format_si(wire.length_m, 'm')} at {case.plan.policy.copper_c:.0f} °C (ASTM B258, IEC 60028){_coils(case, device)}",
        ),
    ]
    inputs += [
        given(
            "R_return",
            f"return to {case.plan.title(r.to)}",
            conductor_ohm(r.wire, case.plan.policy.copper_c),
            "Ω",
            f"{r.wire.gauge_awg} AWG, {format_si(r.wire.length_m, 'm')}",
        )
        for r in device.returns
    ]
    inputs.append(
        given(
            "ΔU_gnd",
            "its ground above the rail's",
            state.ground_v - view.ground_v(case.plan.ground_of(rail.id)),
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
