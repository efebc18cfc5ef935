"""Training: a fault hidden in a build, and what finding it cost beside the best search."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.errors import EditError
from yardmeter.core.faults import Fault
from yardmeter.core.search.levels import detected
from yardmeter.core.search.next_best import repair_key
from yardmeter.core.search.played import Played, play
from yardmeter.core.search.signatures import Signatures
from yardmeter.core.search.trials import PROBE_S
from yardmeter.core.search.twin import Twin

TrainingLevel = Literal["one", "masked", "two"]
PLAIN_STEPS = 3
"""A fault that fails so many steps shows itself; one that fails fewer is masked."""


def hidden(known: Signatures, level: TrainingLevel, seed: int) -> tuple[Fault, ...]:
    """Faults to hide, drawn as often as they happen. Raises EditError for a build that has none of the level."""
    shown = detected(known).sum(axis=1)
    fits = {"one": shown >= PLAIN_STEPS, "masked": (shown > 0) & (shown < PLAIN_STEPS), "two": shown >= 1}[level]
    indices = np.flatnonzero(fits)
    rng = np.random.default_rng(seed)
    wanted = 2 if level == "two" else 1
    chosen: list[Fault] = []
    while len(indices) and len(chosen) < wanted:
        weights = np.array([known.faults[k].weight for k in indices])
        fault = known.faults[int(rng.choice(indices, p=weights / weights.sum()))]
        chosen.append(fault)
        # Two at the same part would be one repair.
        indices = np.array([k for k in indices if not set(known.faults[k].elements) & set(fault.elements)], np.intp)
    if len(chosen) < wanted:
        raise EditError("This build is too small for it.", where=level, remedy="Take another level, or add devices.")
    return tuple(chosen)


@dataclass(frozen=True)
class Score:
    """`probes` and `seconds_s` of the trainee and of the best search; `dangers` are readings under power with a dangerous
    fault still in the build."""

    probes: int
    best_probes: int
    best_seconds_s: float
    played: tuple[Played, ...]


def score(known: Signatures, faults: Sequence[Fault], seed: int, probes: int) -> Score:
    """What the best search would have needed: each fault after the one before it is mended, steps of the list included."""
    played = tuple(play(known, Twin(known.made.solved.plan, tuple(faults[k:]), seed)) for k in range(len(faults)))
    best = sum(one.steps + len(one.trials) for one in played)
    seconds = sum(PROBE_S * one.steps + one.seconds_s for one in played)
    return Score(probes, best, seconds, played)


def mends(hidden_faults: Sequence[Fault], named: Fault) -> Fault | None:
    """The hidden fault that the work on a named one would mend."""
    return next((one for one in hidden_faults if repair_key(one) == repair_key(named)), None)
