"""What an edit did: numbers that moved and findings that came or went."""

from __future__ import annotations

from collections.abc import Collection

from yardmeter.core.answers.model import Answer, RailAnswer
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.plan import rail_title
from yardmeter.core.units import format_si
from yardmeter.core.verdict import SEVERITY_ORDER, Direction, Verdict, direction_of
from yardmeter.review.analysis import Reviewed, Told

MOVED_A = 2e-3
MOVED_V = 5e-3
SHOWN = 12


class Change(Answer):
    """One line of what got better, worse or merely moved."""

    direction: Direction
    text: str
    element: str | None
    condition: str | None


def changes_between(before: Reviewed, after: Reviewed) -> tuple[Change, ...]:
    """Findings gained, cured, sharpened or eased, then each rail's worst spare amps where they moved."""
    dead = {one.elements[0] for one in after.verdicts if one.code == "source.none"}
    found = finding_changes(before.told, after.told, dead)
    return (*found, *_rail_changes(before.solved, after.solved))[:SHOWN]


def finding_changes(before: Told, after: Told, dead: Collection[str] = ()) -> list[Change]:
    """Findings gained, cured, sharpened or eased. What went because its device is `dead` now is no cure."""
    old, new = {v.key: (v, f) for v, f in before}, {v.key: (v, f) for v, f in after}
    come = {key: one for key, one in new.items() if key not in old}
    gone = {f.title for key, (v, f) in old.items() if key not in new}
    # What went with one and came with another of the same name has only moved.
    found = [_change("moved" if f.title in gone else "worse", f.title, v) for v, f in come.values()]
    moved = {f.title for _, f in come.values()}
    for key, (v, f) in old.items():
        if key in new or v.elements[0] in dead or f.title in moved:
            continue
        instead = [one for one, _ in come.values() if _takes_the_place_of(v, one)]
        if not instead:
            found.append(_change("better", f"Cured: {f.title}", v))
    for key, (now, told) in new.items():
        if key not in old:
            continue
        was, before_told = old[key]
        renamed = before_told.title != told.title
        direction = direction_of(was, now) or ("moved" if renamed else None)
        if direction:
            found.append(_change(direction, told.title + ("" if renamed else _spread(was, now)), now))
    return found


def _takes_the_place_of(gone: Verdict, come: Verdict) -> bool:
    """Whether what came is the same trouble, as heavy or heavier: thin headroom that is lost now was not cured."""
    same = come.elements[0] == gone.elements[0] and come.code.split(".")[0] == gone.code.split(".")[0]
    return same and come.severity != "note" and SEVERITY_ORDER[come.severity] <= SEVERITY_ORDER[gone.severity]


def _spread(was: Verdict, now: Verdict) -> str:
    """In how many conditions it holds, where that has changed."""
    counts = len(was.conditions), len(now.conditions)
    if counts[0] == counts[1]:
        return ""
    return f", in {counts[1]} {'condition' if counts[1] == 1 else 'conditions'} instead of {counts[0]}"


def _change(direction: Direction, text: str, verdict: Verdict) -> Change:
    return Change(direction=direction, text=text, element=verdict.elements[0], condition=verdict.worst)


def _moved_above(before: SolvedPlan, rail: RailAnswer, condition: str) -> bool:
    """Whether it is only what binds above that has moved: that is told there."""
    was, now = before.rail(rail.id).states[condition], rail.states[condition]
    return now.bound_by is not None and abs(now.own_spare_a - was.own_spare_a) <= MOVED_A


def _rail_changes(before: SolvedPlan, after: SolvedPlan) -> list[Change]:
    old = {rail.id: rail for rail in before.budget.rails}
    found = []
    for rail in after.budget.rails:
        if rail.id not in old:
            continue
        shared = [c for c in rail.states if c in old[rail.id].states]
        moved = [(abs(rail.states[c].spare_a - old[rail.id].states[c].spare_a), c) for c in shared]
        size, condition = max(moved, default=(0.0, ""))
        if size > MOVED_A and not _moved_above(before, rail, condition):
            states = old[rail.id].states[condition], rail.states[condition]
            was, now = (state.spare_a for state in states)
            lost = states[0].usable_a > 0 >= states[1].usable_a
            found.append(
                Change(
                    direction="better" if now > was and not lost else "worse",
                    text=f"{rail_title(rail.name)}: spare {format_si(was, 'A')} → {'no source' if lost else format_si(now, 'A')}",
                    element=rail.id,
                    condition=condition,
                )
            )
    return found
