"""Where a device can live: places, moves, tickets and fixes say the same, and it is true once it is done."""

from __future__ import annotations

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.fitness import WindowMissed, fitness
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Device
from yardmeter.core.plan.operations import Move
from yardmeter.review import review
from yardmeter.review.lead import lead
from yardmeter.review.tried_moves import try_move

TRIED = 4
"""So many of a device's places are moved to."""
SWEPT_V = 1e-4
"""What volts of the sweep are rounded to."""


def wrong_at(solved: SolvedPlan, device: Device) -> str:
    """What is wrong on the pack where a device is fed, by volts and amps alone: nothing where it lives well."""
    moved = solved.plan.device_of[device.id]
    if moved.feed and any(pattern.pins_v[device.id][0] > device.max_v + SWEPT_V for pattern in solved.windows.patterns):
        return "a full pack is too much for it"
    if solved.solved.unloaded and solved.solved.unloaded.pin_v(device.id) > device.max_v * (1 + 1e-6):
        return "a full pack that carries nothing is too much for it"
    for name, state in solved.device(device.id).states.items():
        if state.verdict == "high":  # too much destroys it, wherever it comes from
            return f"high in {name} at {state.pin_v:.3f} V"
    for condition in solved.pack_conditions():
        state = solved.device(device.id).states[condition.id]
        if state.verdict in ("high", "reset", "dead", "low"):
            return f"{state.verdict} in {condition.id} at {state.pin_v:.3f} V"
        way = set(graph_of(solved.plan).climb(moved.feed.rail)) if moved.feed else set()
        for rail in way | (solved.fed_by(moved.feed.rail, condition) if moved.feed else frozenset()):
            at = solved.rail(rail).states[condition.id]
            if at.limits and at.asked_a > at.usable_a * (1 + 1e-5) + 1e-5:
                return f"{rail} is asked {at.asked_a:.4f} of {at.usable_a:.4f} A in {condition.id}"
    return ""


@statement("A place is ranked and told by what is so there: none that is over stands above one that is not", share=0.3)
def places_true(case: Case) -> Told:
    sampled = case.sampled
    if not sampled:
        return
    device, found = sampled
    over = ""
    for place in found:
        if place.refused is not None and not place.current:
            continue
        try:
            solved = solve_plan(apply_edits(case.plan, place.edits))
        except YardError:
            continue
        wrong = wrong_at(solved, device)
        if place.current and (place.refused is None) == bool(wrong):
            yield f"{device.id} where it is is told {place.refused or 'fit'}, and there {wrong or 'all is well'}"
        if place.refused is None and not place.current:
            if over and not wrong:
                yield f"{device.id} on {place.title}, where all is well, stands below a place where {over}"
            over = over or wrong


@statement("No place is hidden for being dead without the pack where the device keeps no control", share=0.2)
def places_shown(case: Case) -> Told:
    sampled = case.sampled
    if not sampled or sampled[0].keeps_control:
        return
    device, found = sampled
    for place in found:
        if place.refused is None:
            continue
        try:
            at = fitness(apply_edits(case.plan, place.edits), device.id, case.found.solved)
        except YardError:
            continue
        if at.heavy and all(
            isinstance(one.facts, WindowMissed)
            and one.facts.verdict == "dead"
            and not any(at.at.plan.condition(c).on_pack for c in one.conditions)
            for one in at.heavy
        ):
            yield f"{device.id} on {place.title} is refused: {place.refused}"


@statement("Places, ticket and a tried move agree on what a device may live on", share=0.25)
def moves_agree(case: Case) -> Told:
    sampled = case.sampled
    if not sampled:
        return
    device, found = sampled
    shown = {one.rail for one in lead(case.plan, device.id).places}
    tried = case.rng.sample(found, min(len(found), TRIED))
    for place in found:
        rail = place.rail
        if rail is None or place.kind == "bec" or not all(isinstance(one, Move) for one in place.edits):
            continue
        if rail in shown and place.refused is not None:
            yield f"{device.id}: the ticket offers {rail}, places refuse it: {place.refused}"
        if place.current or place not in tried:
            continue
        move = Move(device=device.id, rail=rail)
        try:
            after = review(apply_edits(case.plan, [move]))
        except YardError:
            continue
        moved = try_move(case.found, after, move)
        if moved.refused and place.refused is None:
            yield f"{device.id} to {rail}: the move is refused, {moved.refused}; places allow it"
        fits = fitness(after.plan, device.id, case.found.solved).fits
        if fits != (place.refused is None):
            yield f"{device.id} to {rail}: {'fit' if fits else 'unfit'} as a move, places say {place.refused or 'fit'}"
