"""What an edit did: numbers that moved and findings that came or went."""

from __future__ import annotations

from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.checks.finding import SEVERITY_ORDER, Finding
from yardmeter.core.plan import rail_title
from yardmeter.core.review.analysis import Analysis
from yardmeter.core.units import format_si

MOVED_A = 2e-3
MOVED_V = 5e-3
SHOWN = 12


class Change(Answer):
    """One line of what got better, worse or merely moved."""

    direction: Literal["better", "worse", "moved"]
    text: str
    element: str | None
    condition: str | None


def changes_between(before: Analysis, after: Analysis) -> tuple[Change, ...]:
    """Findings gained, cured, sharpened or eased, then each rail's worst spare amps where they moved."""
    return (*finding_changes(before.findings, after.findings), *_rail_changes(before, after))[:SHOWN]


def finding_changes(before: tuple[Finding, ...], after: tuple[Finding, ...]) -> list[Change]:
    """Findings gained, cured, sharpened or eased."""
    old, new = {f.key: f for f in before}, {f.key: f for f in after}
    found = [
        Change(direction="worse", text=f.title, element=f.elements[0], condition=f.worst)
        for key, f in new.items()
        if key not in old
    ]
    found += [
        Change(direction="better", text=f"Cured: {f.title}", element=f.elements[0], condition=f.worst)
        for key, f in old.items()
        if key not in new
    ]
    for key, finding in new.items():
        if key in old and old[key].title != finding.title:
            step = SEVERITY_ORDER[finding.severity] - SEVERITY_ORDER[old[key].severity]
            direction: Literal["better", "worse", "moved"] = (
                "better" if step > 0 else "worse" if step < 0 else _by_size(old[key], finding)
            )
            found.append(
                Change(direction=direction, text=finding.title, element=finding.elements[0], condition=finding.worst)
            )
    return found


def _by_size(old: Finding, new: Finding) -> Literal["better", "worse", "moved"]:
    """Compare how far apart the two sides of the comparison stand."""
    was, now = (abs(f.numbers[0].value - f.numbers[1].value) if len(f.numbers) > 1 else 0.0 for f in (old, new))
    return "worse" if now > was * 1.001 else "better" if now < was * 0.999 else "moved"


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
            was, now = old[rail.id].states[condition].spare_a, rail.states[condition].spare_a
            found.append(
                Change(
                    direction="better" if now > was else "worse",
                    text=f"{rail_title(rail.name)}: spare {format_si(was, 'A')} → {format_si(now, 'A')}",
                    element=rail.id,
                    condition=condition,
                )
            )
    return found
