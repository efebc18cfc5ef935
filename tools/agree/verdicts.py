"""What volts mean for devices, amps for rails and supplies: one verdict in every view, and a true one."""

from __future__ import annotations

import math
from collections import Counter

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from yardmeter.cli import solved_answer
from yardmeter.core.answers.model import DeviceState
from yardmeter.core.graph import graph_of
from yardmeter.core.network import Situation
from yardmeter.core.network.build import rest_pack_v
from yardmeter.core.plan import Condition, Device, Diode, Link, Plan, Regulator, Strap, Supply
from yardmeter.core.verdict import SEVERITY_ORDER
from yardmeter.review import review
from yardmeter.review.hookup import hookup
from yardmeter.review.hookup_parts import own_regulator
from yardmeter.review.sketch import glance, sketch_of
from yardmeter.review.working import working
from yardmeter.review.workings.model import Quantity

NEAR_V = 5e-3
"""Volts that straight lines between the points of the pack sweep may miss by."""
EDGE = 1e-5
"""Share of a limit within which either side is right: a limit that is met exactly is kept."""


SOLVED = 0.1
"""So many are asked for their fixes too; trying them takes as long as a plan for each."""


def plainly(device: Device, condition: Condition, state: DeviceState, *, trying: bool) -> set[str]:
    """What the volts at its pins mean, from the limits on its sheet alone; two where a limit is met.

    `trying`: a regulator above it starts and gives up over and over.
    """

    def at(pin: float, kept: float = 0.0) -> str:
        if pin > device.max_v * (1 + kept):
            return "high"
        if condition.state_of(device.id) == "off" or (device.throttle and not condition.throttle_frac):
            return "off"
        if not state.sources or pin < 0.5:
            return "reset" if trying else "dead"
        return "reset" if pin < device.reset_v * (1 - kept) else "low" if pin < device.min_v * (1 - kept) else "ok"

    return {at(state.pin_v, EDGE), *(at(state.pin_v * (1 + share)) for share in (-EDGE, 0.0, EDGE))}


@statement("A device's verdict is what its volts and its sheet's limits say")
def true_verdicts(case: Case) -> Told:
    supplies = case.found.analysis.budget.supplies
    for device in case.plan.devices:
        above, wide = graph_of(case.plan).climb(device.feed.rail) if device.feed else (), _way_of(case.plan, device)
        for condition, state in case.found.solved.device_states(device):
            giving_up = [one.output for one in supplies if one.states[condition.id].mode == "gives up"]
            trying = any(one in above for one in giving_up)
            if state.verdict == "unknown":
                if case.found.solved.solved.given[condition.id].converged:
                    yield f"{device.id} in {condition.id} is unknown where a point was found"
            elif state.verdict not in plainly(device, condition, state, trying=trying) and not (
                state.verdict == "reset" and wide & {*giving_up} and state.pin_v < device.reset_v
            ):
                yield f"{device.id} in {condition.id} is {state.verdict} at {state.pin_v:.6f} V of {device.min_v} to {device.max_v} V"


@statement("A rail is well exactly where no more is asked than usable, and its spare says so too")
def true_rails(case: Case) -> Told:
    for rail in case.found.analysis.budget.rails:
        for condition, state in rail.states.items():
            over = state.asked_a - state.usable_a > 1e-5 * max(state.usable_a, 1)
            if over != (state.tone != "ok") and abs(state.asked_a - state.usable_a) > 1e-4:
                yield f"{rail.id} in {condition}: {state.tone} at {state.asked_a:.5f} of {state.usable_a:.5f} A"
            if over and state.spare_a > 1e-6:
                yield f"{rail.id} in {condition} is over and has {state.spare_a:.5f} A to spare"
            if state.limits and not math.isclose(state.usable_a, min(one.amps_a for one in state.limits), rel_tol=1e-9):
                yield f"{rail.id} in {condition}: usable {state.usable_a} is not the least of its limits"


@statement(
    "A device that is too high, resets or is dead on the pack has a finding that says so in that condition, or its supply has"
)
def found_devices(case: Case) -> Told:
    heavy = [one for one in case.found.verdicts if one.severity in ("danger", "fault")]
    for device in case.plan.devices:
        way = {device.id, *_way_of(case.plan, device)}
        for condition, state in case.found.solved.device_states(device):
            if state.weight not in ("danger", "fault") or (state.verdict != "high" and not condition.on_pack):
                continue
            here = [
                one
                for one in heavy
                if way & {*one.elements} and (not one.by_condition or condition.id in one.by_condition)
            ]
            if not here:
                yield f"{device.id} is {state.verdict} in {condition.id} ({state.pin_v:.3f} V) and nothing on its way is told as a fault there"


def _way_of(plan: Plan, device: Device) -> set[str]:
    """The rails a device's current may come over, and every supply and port that gives them."""
    rails = (
        {one for rail in plan.rails for one in graph_of(plan).climb(rail.id)}
        if device.feed is None
        else set(graph_of(plan).climb(device.feed.rail))
    )
    for _ in plan.supplies:
        rails |= {one for s in plan.supplies if s.output in rails for one in plan.inputs_of(s) if one in plan.rail_of}
    return (
        rails
        | {s.id for s in plan.supplies if s.output in rails}
        | {i.id for i in plan.inlets if i.rail in rails}
        | {"pack"}
    )


@statement("A finding is told once: its key is its own, in every list that is made from it")
def told_once(case: Case) -> Told:
    counts = Counter(one.key for one in (*case.found.verdicts, *case.noise.verdicts))
    yield from (f"{key} is told {count} times" for key, count in counts.items() if count > 1)


@statement("A finding about a device's volts compares what the device sees in the condition it names")
def finding_volts(case: Case) -> Told:
    for one in case.found.verdicts:
        if one.code not in ("window.over", "window.under") or one.worst is None:
            continue
        state = case.found.solved.device(one.elements[0]).states[one.worst]
        if abs(one.compared.observed - state.pin_v) > 1e-3:
            yield f"{one.key}: {one.compared.observed:.4f} V, its pins see {state.pin_v:.4f} V in {one.worst}"
        right = {"window.over": ("high",), "window.under": ("low", "reset")}[one.code]
        for condition in one.conditions:
            if case.found.solved.device(one.elements[0]).states[condition].verdict not in right:
                yield f"{one.key} holds in {condition}, where the device is {case.found.solved.device(one.elements[0]).states[condition].verdict}"


@statement("The slider of Windows, at a condition's cell volts, shows the condition's own volts and verdicts")
def windows_agree(case: Case) -> Told:
    plan, windows = case.plan, case.found.analysis.windows
    for pattern in windows.patterns:
        for name in pattern.conditions:
            condition = plan.condition(name)
            head = next(one for one in case.found.analysis.budget.conditions if one.id == name)
            cell = rest_pack_v(plan, Situation(condition)) / plan.pack.series
            if not head.known or not windows.cell_v[-1] <= cell <= windows.cell_v[0]:
                continue
            for device in plan.devices:
                state = case.found.solved.device(device.id).states[name]
                span = [one for one in pattern.lives[device.id] if cell <= one.cell_v + 1e-9]
                lives = span[-1].verdict if span else pattern.lives[device.id][0].verdict
                edges = (device.reset_v, device.min_v, device.max_v, 0.5)
                if (
                    lives != state.verdict
                    and not any(abs(state.pin_v - v) < NEAR_V + 2e-3 * v for v in edges)
                    and state.sources
                ):
                    yield f"{device.id} is {lives} on the slider and {state.verdict} in {name} at {state.pin_v:.4f} V"


@statement("The builds page marks each condition as the condition line does")
def marks_agree(case: Case) -> Told:
    seen = glance(case.found, case.noise)
    shown = {one.condition: one.severity for one in seen.marks}
    told = [one for one in (*case.found.analysis.findings, *case.noise.review.findings) if one.severity != "note"]
    for condition in case.plan.conditions:
        here = [one.by_condition[condition.id] for one in told if condition.id in one.by_condition]
        line = min((one for one in here if one != "note"), key=lambda one: SEVERITY_ORDER[one], default=None)
        if line != shown[condition.id]:
            yield f"{condition.id} is {shown[condition.id]} on the builds page, {line} on the line"
    if told and not (seen.always or any(shown.values())):
        yield f"nothing is marked on the builds page, and there is {told[0].title}"


@statement("What is told without running is told everywhere: the page of builds, a new build's sketch and `yard solve`")
def told_everywhere(case: Case) -> Told:
    own = {one.key: one.title for one in (*case.found.analysis.findings, *case.noise.review.findings)}
    heavy = [one for one in case.found.analysis.findings if one.severity != "note" and one.under is None]
    heavy += [one for one in case.noise.review.findings if one.severity != "note"]
    seen = sketch_of(case.found, case.noise)
    if len(seen.findings) + seen.more != len(heavy):
        yield f"the sketch tells {len(seen.findings)} and {seen.more} more of {len(heavy)}"
    if heavy and SEVERITY_ORDER[seen.findings[0].severity] != min(SEVERITY_ORDER[one.severity] for one in heavy):
        yield f"the sketch begins with {seen.findings[0].title}, and something heavier is found"
    if case.rng.random() < SOLVED:
        said = solved_answer(case.plan)
        if {one.key: one.title for one in said.findings} != own:
            yield f"`yard solve` tells {sorted({one.key for one in said.findings} ^ own.keys())} otherwise"
        if unknown := {one.key for one in said.fixes} - own.keys():
            yield f"`yard solve` has fixes for {sorted(unknown)}, which it does not find"
    for rail in seen.rails:
        state = case.found.solved.rail(rail.id).states[_id_of(case.plan, rail.condition)]
        if (rail.asked_a, rail.usable_a, rail.tone) != (state.asked_a, state.usable_a, state.tone):
            yield f"{rail.id} is sketched {rail.tone} at {rail.asked_a:.4f} A, its rail is {state.tone} at {state.asked_a:.4f} A"


def _id_of(plan: Plan, name: str) -> str:
    return next(one.id for one in plan.conditions if one.name == name)


@statement("The hook-up list's wires carry what Rails and devices carry, and one that is too hot is found", share=0.5)
def wires_agree(case: Case) -> Told:
    solved = case.found.solved
    told = {name for one in case.found.verdicts if one.severity != "note" for name in one.elements}
    for row in hookup(solved).rows:
        if row.limit_a is None or row.polarity != "+":
            continue
        device = case.plan.device_of.get(row.element)
        if device and device.feed and row.id == f"feed:{device.id}":
            most = max(state.given_a for _, state in solved.device_states(device))
            passes_on = any(device.id in case.plan.inputs_of(one) for one in case.plan.supplies)
            if row.amps_a is not None and abs(row.amps_a - most) > 1e-3 + 0.01 * most and not passes_on:
                yield f"{row.id} is listed with {row.amps_a:.4f} A, its device draws {most:.4f} A"
        feeds = case.plan.pack.rail if row.id == "lead" else getattr(case.plan.supply_of.get(row.element), "output", "")
        if " is the limit" in row.warning and not told & {row.element, feeds}:
            yield f"{row.id}: {row.warning}, and nothing is found of it"


@statement("A condition worked out alone is worked out as among the others", share=0.3)
def alone(case: Case) -> Told:
    condition = case.rng.choice(case.plan.conditions)
    other = review(case.plan.model_copy(update={"conditions": (condition,)})).solved
    for device in case.plan.devices:
        here, there = (one.device(device.id).states[condition.id] for one in (case.found.solved, other))
        if here.verdict != there.verdict and abs(here.pin_v - there.pin_v) > 1e-3:
            yield f"{device.id} in {condition.id} is {here.verdict} at {here.pin_v:.4f} V, alone {there.verdict} at {there.pin_v:.4f} V"


@statement("The mode of a regulator is what its volts, amps and limits say")
def true_modes(case: Case) -> Told:
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        for condition, state in case.found.solved.supply_states(supply):
            known = case.found.solved.solved.given[condition.id].converged
            where = f"{supply.id} in {condition.id}: {state.mode}, {state.in_v:.4f} V in, {state.out_v:.4f} V and {state.out_a:.4f} A out"
            if not known:
                continue
            if (
                state.mode == "regulating"
                and abs(state.out_v - (supply.set_v - supply.output_ohm * state.out_a)) > 0.01 * supply.set_v
            ):
                yield f"{where}, set to {supply.set_v} V"
            if state.mode == "regulating" and state.headroom_v is not None and state.headroom_v < -0.02 * supply.set_v:
                yield f"{where}, with {state.headroom_v:.3f} V of headroom"
            if state.mode == "dropout" and state.headroom_v is not None and state.headroom_v > 0.02 * supply.set_v:
                yield f"{where}, with {state.headroom_v:.3f} V of headroom"
            if state.mode not in ("limiting", "hiccup") and state.out_a > supply.limit_a * 1.001:
                yield f"{where}, past its limit of {supply.limit_a} A"
            if state.mode == "limiting" and abs(state.out_a - supply.limit_a) > 0.02 * supply.limit_a:
                yield f"{where}, its limit is {supply.limit_a} A"


@statement("Every working gives the number that stands on screen")
def workings_agree(case: Case) -> Told:
    solved = case.found.solved
    condition = case.rng.choice(case.plan.conditions)
    for rail in case.plan.rails:
        state = solved.rail(rail.id).states[condition.id]
        numbers: dict[Quantity, float] = {"asked": state.asked_a, "usable": state.usable_a, "spare": state.spare_a}
        for quantity, number in numbers.items():
            result = working(solved, rail.id, quantity, condition.id).result.value
            if not math.isclose(result, number, rel_tol=1e-9, abs_tol=1e-12):
                yield f"{quantity} of {rail.id} in {condition.id}: {number} on screen, {result} by its working"


@statement("Every wire and every thing of a plan stands in its hook-up list once, and nothing else does")
def hookup_complete(case: Case) -> Told:
    plan, found = case.plan, hookup(case.found.solved)
    ids = [*(one.id for one in found.rows), *(one.id for one in found.parts)]
    if sorted(ids) != sorted(found.order) or len(set(ids)) < len(ids):
        yield f"the order of the work leaves out or tells twice {sorted(set(ids) ^ set(found.order)) or 'something'}"
    elements = {*(one.element for one in found.rows), *(one.element for one in found.parts)}
    yield from (
        f"{one} stands in the list and is nothing of the plan"
        for one in elements
        if one != "pack" and one not in plan.elements
    )
    own_copper = {one.id for one in plan.devices if one.kind == "logic"}
    for name in plan.elements:
        if name in plan.board_of and own_regulator(plan, name):
            continue  # the regulator is the thing
        if name in own_copper or name in plan.rail_of or name in {one.id for one in plan.conditions}:
            continue
        supply = plan.supply_of.get(name)
        if supply and not (supply.feed or supply.lead or _to_fit(plan, supply)):
            continue
        if any(name == one.id for one in (*plan.filters, *plan.clamps) if not one.fitted) or name in {
            one.id for one in plan.noises
        }:
            continue
        if name in plan.inlet_of and not plan.inlet_of[name].in_line:
            continue
        owner = plan.return_of.get(name, ("",))[0]
        if owner in own_copper or (owner in plan.device_of and plan.device_of[owner].kind == "motor"):
            continue
        if name not in elements and f"return:{name}" not in ids:
            yield f"{plan.title(name)} stands nowhere in the list"


def _to_fit(plan: Plan, supply: Supply) -> bool:
    """Whether a supply without wires is still something to fit: a strap, a regulator of its own, a plug between boards."""
    if isinstance(supply, Strap) or (isinstance(supply, Regulator) and supply.place == "alone"):
        return True
    rails = [plan.rail_of[one].board for one in (supply.input, supply.output) if one in plan.rail_of]
    return isinstance(supply, Link | Diode) and len(set(rails)) == 2
