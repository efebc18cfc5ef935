"""Schools of grounding that a layout keeps to: its returns as they want them, once it is known who is fed from where."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.choices.grounding import esc_grounds, video_grounds
from yardmeter.core.edits import apply_edits
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit


@dataclass(frozen=True)
class Grounded:
    """Returns that were laid again for a school: `to` is where they go, nothing for grounds beside ESC signals."""

    school: str
    way: str
    to: str
    edits: tuple[Edit, ...]


def grounded(plan: Plan, wishes: Wishes) -> tuple[Plan, tuple[Grounded, ...]]:
    """The plan with its grounds as the schools want them, and what was done. What is held keeps its returns. Raises EditError."""
    done = []
    way = wishes.school.get("grounds", "open")
    if way != "open":
        to, edits = video_grounds(plan, way, wishes.held)
        if edits:
            done.append(Grounded("grounds", way, to, edits))
            plan = apply_edits(plan, edits)
    way = wishes.school.get("esc_grounds", "open")
    if way != "open" and (edits := esc_grounds(plan, way)):
        done.append(Grounded("esc_grounds", way, "", edits))
        plan = apply_edits(plan, edits)
    return plan, tuple(done)
