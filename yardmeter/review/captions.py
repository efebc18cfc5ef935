"""Words that stand beside numbers of an analysis: what limits rest on, where margins come from, what happens on the way down."""

from __future__ import annotations

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.words.limits import limit_words, margin_words
from yardmeter.words.sweep import bound_words, event_words


class Bounds(Answer):
    """Why an output voltage should not be lower, nor higher."""

    low: str
    high: str


class Captions(Answer):
    """By rail and condition what each limit rests on; by signal its margin; events of the sweep in their order; by supply the bounds of its output."""

    limits: dict[str, dict[str, tuple[str, ...]]]
    margins: dict[str, str]
    events: tuple[str, ...]
    advice: dict[str, Bounds]


def captions(solved: SolvedPlan) -> Captions:
    plan = solved.plan
    return Captions(
        limits={
            rail.id: {c: tuple(limit_words(plan, one) for one in state.limits) for c, state in rail.states.items()}
            for rail in solved.budget.rails
        },
        margins={signal.id: margin_words(plan, signal) for signal in plan.signals},
        events=tuple(event_words(plan, one) for one in solved.windows.events),
        advice={
            one.supply: Bounds(low=bound_words(plan, one.low), high=bound_words(plan, one.high))
            for one in solved.windows.advice
        },
    )
