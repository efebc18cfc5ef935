"""What a round of training comes to: what was hidden, how it showed, and what the best search would have done."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.model import Answer
from yardmeter.core.search import Signatures
from yardmeter.core.search.levels import detected
from yardmeter.core.search.training import Score
from yardmeter.words.bench import consequence_words, fault_words
from yardmeter.words.procedure import step_title
from yardmeter.words.search import trial_title

SHOWN = 5


class Hidden(Answer):
    """`shows` are steps of the list it fails, the first in order."""

    fault: str
    what: str
    under_power: str
    dangerous: bool
    shows: tuple[str, ...]


class Debrief(Answer):
    hidden: tuple[Hidden, ...]
    probes: int
    seconds_s: float
    dangers: int
    wrong: int
    best_probes: int
    best_seconds_s: float
    best: tuple[str, ...]
    """What the best search would have done after the step that failed."""


def debrief(
    known: Signatures, faults: Sequence[str], score: Score, *, dangers: int, seconds_s: float, wrong: int
) -> Debrief:  # fmt: skip
    plan = known.made.solved.plan
    shown = detected(known)
    told = []
    for name in faults:
        row = next(k for k, one in enumerate(known.faults) if one.id == name)
        steps = [step for step, column in known.steps.items() if shown[row, column]]
        would = known.consequences[row]
        told.append(
            Hidden(
                fault=name,
                what=fault_words(plan, known.faults[row]),
                under_power=consequence_words(plan, would),
                dangerous=would.dangerous,
                shows=tuple(step_title(plan, known.made.step[step]) for step in steps[:SHOWN]),
            )
        )
    best = []
    for one in score.played:
        if one.failed:
            count = "The first step" if one.steps == 1 else f"{one.steps} steps"
            best.append(f"{count} of the list: {step_title(plan, one.failed)} fails")
            best += [trial_title(plan, trial) for trial in one.trials]
    return Debrief(
        hidden=tuple(told),
        probes=score.probes,
        seconds_s=seconds_s,
        dangers=dangers,
        wrong=wrong,
        best_probes=score.best_probes,
        best_seconds_s=score.best_seconds_s,
        best=tuple(best),
    )
