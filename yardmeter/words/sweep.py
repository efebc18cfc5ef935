"""What happens on the way from a full pack to an empty one, and what bounds an output voltage, in words."""

from __future__ import annotations

from yardmeter.core.answers.windows import OutputBound, SweepEvent
from yardmeter.core.plan import Plan


def event_words(plan: Plan, event: SweepEvent) -> str:
    name = plan.title(event.element)
    match event.kind:
        case "leaves":
            return f"{name} leaves regulation"
        case "resets":
            return f"{name} resets"
        case "over":
            return f"{name} is above its {plan.device_of[event.element].max_v:g} V until here"


def bound_words(plan: Plan, bound: OutputBound) -> str:
    """Why an output should go no further in this direction."""
    match bound.kind:
        case "open below":
            return "no consumer asks for more"
        case "open above":
            return "no consumer asks for less"
        case "needs":
            return f"{plan.title(bound.element or '')} needs {bound.limit_v:g} V"
        case "takes":
            return f"{plan.title(bound.element or '')} takes {bound.limit_v:g} V at most"
        case "input":
            condition = plan.condition(bound.element or "").name
            return f"{condition}: {bound.limit_v:.2f} V in, less {bound.headroom_v:g} V of headroom"
