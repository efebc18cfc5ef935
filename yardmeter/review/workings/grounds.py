"""Workings of grounds and signals."""

from __future__ import annotations

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.plan import Condition, Owner, Plan, Signal
from yardmeter.core.units import format_si
from yardmeter.review.workings.model import Input, Working, given
from yardmeter.words.limits import margin_words
from yardmeter.words.told import number

SHOWN = 4
"""Consumers of a return that are named."""


def ground_working(case: SolvedPlan, owner: Owner, condition: Condition) -> Working:
    """The height of a ground: that of where its return goes, plus the drop of the return."""
    plan = case.plan
    state = case.ground[owner.id].states[condition.id]
    inputs: list[Input] = []
    for n, wire in enumerate(owner.returns, 1):
        segment = case.segment[wire.id]
        here = segment.states[condition.id]
        below = 0.0 if wire.to == "pack" else case.ground[wire.to].states[condition.id].volts_v
        whose = ", ".join(f"{plan.title(c.element)} {format_si(c.amps_a, 'A')}" for c in here.carries[:SHOWN])
        name = "the pack's negative" if wire.to == "pack" else plan.title(wire.to)
        gauge = f"{wire.wire.gauge_awg} AWG, {format_si(wire.wire.length_m, 'm')} (ASTM B258, IEC 60028)"
        onward = None if wire.to == "pack" else wire.to
        inputs += [
            given(f"U{n}", name, below, "V", "solved network", onward, "ground" if onward else None),
            given(f"I{n}", f"through the return to {name}", here.amps_a, "A", whose or "nobody's current"),
            given(f"R{n}", "its resistance", segment.ohm, "Ω", gauge),
            given(f"L{n}", "its inductance", segment.henry_h, "H", f"{wire.wire.lay} its go (Rosa 1908)"),
        ]
    by = (
        f"Step: {plan.title(state.step_by)} from idle to peak in {format_si(plan.policy.edge_s, 's')} adds {format_si(state.step_v, 'V')} (R·ΔI + L·ΔI/Δt)."
        if state.step_by
        else ""
    )
    return Working(
        title=f"{owner.name}: its ground in {condition.name}",
        formula="U = U1 + I1 · R1, the same by every return",
        result=number("above the pack's negative", state.volts_v, "V"),
        inputs=tuple(inputs),
        note=by if owner.returns else "It has no return; nothing holds it anywhere.",
    )


def _wire_words(plan: Plan, wire: str | None) -> str:
    if wire is None:
        return "none"
    owner, one = plan.return_of[wire]
    return f"{plan.title(owner)} to {plan.title(one.to)}"


def shift_working(case: SolvedPlan, signal: Signal, condition: Condition) -> Working:
    """What lands on a signal: the difference of its ends' grounds, against its margin."""
    plan, answer = case.plan, case.signal[signal.id]
    state = answer.states[condition.id]
    ends = [plan.owner_of[end] for end in (signal.source, signal.sink)]
    step = f" One edge of {plan.title(state.step_by)} adds {format_si(state.step_v, 'V')}." if state.step_by else ""
    moving = (
        f" What changes in it by commutation and bursts is {format_si(state.changing_v, 'V')} peak to peak; the rest a clamped input takes off."
        if signal.kind == "video"
        else ""
    )
    return Working(
        title=f"{signal.name}: shift of its reference in {condition.name}",
        formula="ΔU = U1 − U2, against the margin",
        result=number("shift", state.shift_v, "V"),
        inputs=(
            *(
                given(
                    f"U{n}",
                    f"{end.name}'s ground",
                    case.ground[end.id].states[condition.id].volts_v,
                    "V",
                    "solved network",
                    end.id,
                    "ground",
                )
                for n, end in enumerate(ends, 1)
            ),
            given("margin", "what it stands", answer.margin_v, "V", margin_words(plan, signal)),
        ),
        note=f"Its own ground wire: {_wire_words(plan, signal.ground)}.{step}{moving}",
    )
