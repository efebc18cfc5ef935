"""What an edit did: numbers that moved and findings that came or went."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.checks.finding import SEVERITY_ORDER, Finding
from yardmeter.core.plan import rail_title
from yardmeter.core.review.analysis import Analysis
from yardmeter.core.units import format_si

MOVED_A = 2e-3
MOVED_V = 5e-3
SHOWN = 12
TOLD_FRAC = 1e-3
"""A comparison that moved by less than this share of its limit stands."""


Direction = Literal["better", "worse", "moved"]


class Change(Answer):
    """One line of what got better, worse or merely moved."""

    direction: Direction
    text: str
    element: str | None
    condition: str | None


def changes_between(before: Analysis, after: Analysis) -> tuple[Change, ...]:
    """Findings gained, cured, sharpened or eased, then each rail's worst spare amps where they moved."""
    dead = {f.elements[0] for f in after.findings if f.code == "source.none"}
    return (*finding_changes(before.findings, after.findings, dead), *_rail_changes(before, after))[:SHOWN]


def finding_changes(
    before: tuple[Finding, ...], after: tuple[Finding, ...], dead: Collection[str] = ()
) -> list[Change]:
    """Findings gained, cured, sharpened or eased. What went because its device is `dead` now is no cure."""
    old, new = {f.key: f for f in before}, {f.key: f for f in after}
    found = [_change("worse", f.title, f) for key, f in new.items() if key not in old]
    found += [
        _change("better", f"Cured: {f.title}", f)
        for key, f in old.items()
        if key not in new and f.elements[0] not in dead
    ]
    for key, now in new.items():
        if key in old and (direction := direction_of(old[key], now)):
            found.append(_change(direction, now.title + _spread(old[key], now), now))
    return found


def _spread(was: Finding, now: Finding) -> str:
    """In how many conditions it holds, where that and not its title has changed."""
    counts = len(was.conditions), len(now.conditions)
    if was.title != now.title or counts[0] == counts[1]:
        return ""
    return f", in {counts[1]} {'condition' if counts[1] == 1 else 'conditions'} instead of {counts[0]}"


def _change(direction: Direction, text: str, finding: Finding) -> Change:
    return Change(direction=direction, text=text, element=finding.elements[0], condition=finding.worst)


def direction_of(was: Finding, now: Finding) -> Direction | None:
    """Whether a finding got better or worse, by its severity, then by the sense of its comparison; None where it stands.

    What is worse in some condition and better in none is worse; the other way round better; a mixture goes by the worst.
    """
    weights = [SEVERITY_ORDER[one.severity] for one in (was, now)]
    if weights[0] != weights[1]:
        return "worse" if weights[1] < weights[0] else "better"
    told = set(was.conditions) | set(now.conditions)
    steps = {_weight(now, c) - _weight(was, c) for c in told} - {0}
    if steps and (max(steps) < 0 or min(steps) > 0):
        return "worse" if max(steps) < 0 else "better"
    sizes = was.short_of, now.short_of
    if sizes[0] is not None and sizes[1] is not None and abs(sizes[1] - sizes[0]) > TOLD_FRAC * max(1.0, abs(sizes[0])):
        return "worse" if sizes[1] > sizes[0] else "better"
    return "moved" if was.title != now.title else None


def _weight(finding: Finding, condition: str) -> int:
    """Its severity in a condition, lower is worse; one that does not hold there weighs nothing."""
    return SEVERITY_ORDER[finding.severity_in(condition)] if condition in finding.conditions else len(SEVERITY_ORDER)


def _rail_changes(before: Analysis, after: Analysis) -> list[Change]:
    old = {rail.id: rail for rail in before.budget.rails}
    found = []
    for rail in after.budget.rails:
        if rail.id not in old:
            continue
        shared = [c for c in rail.states if c in old[rail.id].states]
        moved = [(abs(rail.states[c].spare_a - old[rail.id].states[c].spare_a), c) for c in shared]
        size, condition = max(moved, default=(0.0, ""))
        if size > MOVED_A:
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
