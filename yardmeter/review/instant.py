"""An instant of a run, named."""

from __future__ import annotations

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.choices.instants import Instant, instant
from yardmeter.core.runs import Run
from yardmeter.words.run import seconds


def named_instant(run: Run, solved: SolvedPlan, time_s: float) -> Instant:
    """Everything at a time of a run, under “at 12 ms”."""
    at_s = min(max(time_s, 0.0), float(run.times_s[-1]))
    return instant(run, solved, time_s, seconds(at_s))
