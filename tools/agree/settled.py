"""A run that holds a condition ends as the condition is."""

from __future__ import annotations

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from yardmeter.core.answers.sources import fed_by
from yardmeter.core.elements.regulator import trips
from yardmeter.core.errors import YardError
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Condition, Regulator, Scenario, Supply
from yardmeter.core.runs import run_scenario
from yardmeter.core.runs.report import report
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.words.run import outcome_words

HELD_S = 0.4
LONGEST_S = 10.0
SETTLED_S = 0.1
"""From here on what stops and starts does so for ever."""
SAMPLED = 0.1
NEAR_V, NEAR_FRAC = 0.03, 0.02


@statement("The settled end of a run that holds a condition says what the condition says", share=0.5)
def run_agrees(case: Case) -> Told:
    plan = case.plan
    condition = case.rng.choice(plan.conditions)
    head = next(one for one in case.found.analysis.budget.conditions if one.id == condition.id)
    try:
        run = run_scenario(plan, Scenario(id="held", name="Held", begins=condition.id, duration_s=HELD_S))
    except YardError:
        if head.known:
            yield f"{condition.id} has an operating point, and its run is refused"
        return
    if not head.known:
        yield f"{condition.id} has no operating point, and its run begins there"
        return
    found = report(run)
    words = outcome_words(plan, found)
    emptied_v = run.rest_v(0) - run.rest_v(run.times_s.size - 1)  # a small pack is drawn down meanwhile
    booting = {one.id for one in found.devices if one.spans and one.spans[-1].state == "boot"}
    restless = any(one.states[condition.id].mode == "hiccup" for one in case.found.analysis.budget.supplies)
    over = {rail.id for rail in case.found.analysis.budget.rails if rail.states[condition.id].over}
    for device in plan.devices:
        state = case.found.solved.device(device.id).states[condition.id]
        life = next(one for one in found.devices if one.id == device.id)
        end = life.spans[-1].state if life.spans else "off"
        where = f"{device.id} in {condition.id}: {state.verdict} at {state.pin_v:.4f} V, the run ends {end} at {float(run.pin_v(device.id)[-1]):.4f} V"
        # All at once they are too much; one after another some come up, and others are told in their place.
        near = (
            fed_by(plan, case.found.solved.solved.asked[condition.id], device.feed.rail) if device.feed else frozenset()
        )
        if end == "boot":
            continue  # the run is shorter than its boot: what it draws then is another
        if any(one.output in near and _trips(case, one, condition) for one in plan.supplies):
            continue  # told as one that trips in time, which a point does not know
        if restless and over & near:
            continue  # which of those that share an overload hold out between two tries is a matter of order
        troubled = [
            one
            for one in plan.devices
            if one.feed
            and near & fed_by(plan, case.found.solved.solved.asked[condition.id], one.feed.rail)
            and (one.id in booting or any(plan.title(one.id) in said for said in words))
        ]
        told = any(plan.title(device.id) in one for one in words)
        if not life.spans:
            if (
                state.verdict == "reset"
                and condition.on_pack
                and not troubled
                and device.reset_v - state.pin_v > NEAR_V
            ):
                yield f"{where} and tells nothing of it: {words or 'nothing'}"
            continue
        if state.verdict in ("reset", "dead") and end == "run" and not troubled:
            yield where
        if state.verdict == "reset" and not told and not troubled and device.reset_v - state.pin_v > NEAR_V:
            yield f"{where} and tells nothing of it: {words or 'nothing'}"
        if state.verdict == "high" and not told and state.pin_v > device.max_v * 1.001:
            yield f"{where} and tells nothing of it: {words or 'nothing'}"
        if (
            state.verdict in ("ok", "low")
            and end != "run"
            and not device.burst
            and state.pin_v - device.reset_v > NEAR_V + 2 * emptied_v
        ):
            yield f"{where}; {words}"
        if (
            end == "run"
            and not troubled
            and state.verdict in ("ok", "low")
            and not device.burst
            and abs(float(run.pin_v(device.id)[-1]) - state.pin_v) > NEAR_V + NEAR_FRAC * state.pin_v + 2 * emptied_v
        ):
            yield f"{where}; {words}"


def _trips(case: Case, supply: Supply, condition: Condition) -> bool:
    temp_c = case.found.solved.supply(supply.id).states[condition.id].temp_c
    return isinstance(supply, Regulator) and temp_c is not None and trips(temp_c, supply.trip_c)


@statement("A regulator that is said to start and stop for ever does so in its run, and one that does is said to")
def restless_agrees(case: Case) -> Told:
    plan = case.plan
    for condition in plan.conditions:
        modes = {one.id: one.states[condition.id].mode for one in case.found.analysis.budget.supplies}
        said = {name for name, mode in modes.items() if mode == "hiccup"}
        if not said and case.rng.random() > SAMPLED:
            continue
        if not case.found.solved.solved.given[condition.id].converged:
            continue
        # What takes its input down may do so only once it has booted.
        held_s = min(max((one.boots_s for one in plan.devices), default=0.0) + HELD_S, LONGEST_S) if said else HELD_S
        run = run_scenario(plan, Scenario(id="held", name="Held", begins=condition.id, duration_s=held_s))
        does = {
            one.element
            for one in run.events
            if one.code in (Happening.STOPS, Happening.STARTS, Happening.CHATTERS) and one.at_s > SETTLED_S
        }
        over = {rail.id for rail in case.found.analysis.budget.rails if rail.states[condition.id].over}
        for name in {
            one for one in said - does if not over & _sources_of(case, condition.id, plan.supply_of[one].output)
        }:
            yield f"{name} in {condition.id} is said to start and stop for ever; in its run it does not: {sorted(does) or 'nothing does'}"
        for name in {
            n
            for n in does
            if modes.get(n) in ("regulating", "dropout", "limiting", "off")
            and not over & _sources_of(case, condition.id, plan.supply_of[n].output)
        }:
            overcome = any(mode == "gives up" for mode in modes.values()) or any(
                e.code is Happening.HICCUPS for e in run.events
            )
            if not said and not overcome:
                yield f"{name} in {condition.id} starts and stops in its run, said to be {modes[name]}"


def _sources_of(case: Case, condition: str, rail: str) -> frozenset[str]:
    """A rail and all that its current comes from."""
    view, way = case.found.solved.solved.asked[condition], graph_of(case.plan).climb(rail)
    return frozenset(way).union(*(fed_by(case.plan, view, one) for one in way))
