"""What moving a device to another rail would do: whether it can live there, and the spare amps of both rails."""

from __future__ import annotations

from yardmeter.core.answers.model import Answer
from yardmeter.core.fitness import fitness
from yardmeter.core.plan import rail_title
from yardmeter.core.plan.operations import Move
from yardmeter.core.units import format_si
from yardmeter.review.analysis import Reviewed
from yardmeter.words.fitness import against


class SpareMoved(Answer):
    """Spare amps of a rail before and after, in the condition it is named for."""

    condition: str
    now_a: float
    then_a: float


class MoveTried(Answer):
    """A move that was tried. `refused` where it would destroy the device; `against` what else speaks against it."""

    device: str
    rail: str
    refused: str | None
    against: str | None
    spare: dict[str, SpareMoved]
    words: str


def try_move(before: Reviewed, after: Reviewed, move: Move, condition: str | None = None) -> MoveTried:
    """The old rail and the new one in a condition, else each in the pack condition that has least to spare there afterwards."""
    device = after.plan.device_of[move.device]
    found = fitness(after.plan, move.device, before.solved)
    dangers = [one for one in found.verdicts if one.severity == "danger"]
    others = [one for one in found.verdicts if one.severity != "danger"]
    was = before.plan.device_of[move.device].feed
    spare, words = {}, []
    for rail in dict.fromkeys([was.rail if was else move.rail, move.rail]):
        moved = _spare(before, after, rail, condition)
        if moved:
            spare[rail] = moved
            amps = f"{format_si(moved.now_a, 'A')} → {format_si(moved.then_a, 'A')}"
            words.append(
                f"{rail_title(after.plan.title(rail))} spare {amps} in {after.plan.condition(moved.condition).name}"
            )
    return MoveTried(
        device=move.device,
        rail=move.rail,
        refused=f"Refused: {device.name} would get {against(found.at.plan, dangers[0])}" if dangers else None,
        against=against(found.at.plan, others[0]) if others else None,
        spare=spare,
        words=" · ".join(words),
    )


def _spare(before: Reviewed, after: Reviewed, rail: str, condition: str | None) -> SpareMoved | None:
    """None for a rail that nothing feeds in any condition asked for."""
    now, then = before.solved.rail(rail).states, after.solved.rail(rail).states
    asked = [condition] if condition in then else [c.id for c in after.solved.pack_conditions()]
    fed = [c for c in asked if then[c].limits or now[c].limits]
    if not fed:
        return None
    worst = min(fed, key=lambda c: (round(then[c].spare_a, 6), now[c].spare_a))  # of equal ones that which was worse
    return SpareMoved(condition=worst, now_a=now[worst].spare_a, then_a=then[worst].spare_a)
