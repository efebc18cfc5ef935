"""The bench list as a screen shows it."""

from __future__ import annotations

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan import Plan
from yardmeter.core.procedures import Checklist, Gate, Step
from yardmeter.words.procedure import CAUTIONS, GATE_WORDS, step_expects, step_how, step_title, step_why


class BenchStep(Answer):
    """One step in words. `signature` changes when an edit makes it another step."""

    id: str
    signature: str
    gate: Gate
    title: str
    how: str
    expects: str
    why: str
    typed: bool
    """Whether a reading is typed, or it is only looked at."""
    unit: str
    red: str
    black: str
    condition: str


class BenchGate(Answer):
    gate: Gate
    title: str
    caution: str
    count: int


def bench_steps(made: Checklist) -> tuple[BenchStep, ...]:
    plan = made.solved.plan
    return tuple(_step(plan, one) for one in made.steps)


def _step(plan: Plan, step: Step) -> BenchStep:
    return BenchStep(
        id=step.id,
        signature=step.signature,
        gate=step.gate,
        title=step_title(plan, step),
        how=step_how(step),
        expects=step_expects(step),
        why=step_why(plan, step),
        typed=step.expected is not None,
        unit=step.expected.unit if step.expected else "",
        red=step.red.name if step.red else "",
        black=step.black.name if step.black else "",
        condition=plan.condition(step.condition).name if step.condition else "",
    )


def bench_gates(made: Checklist) -> tuple[BenchGate, ...]:
    """Gates this build has steps for."""
    counts: dict[Gate, int] = {}
    for step in made.steps:
        counts[step.gate] = counts.get(step.gate, 0) + 1
    return tuple(
        BenchGate(gate=gate, title=GATE_WORDS[gate], caution=CAUTIONS.get(gate, ""), count=count)
        for gate, count in counts.items()
    )
