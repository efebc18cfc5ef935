"""How much of the list is done: the steps that leave no more than a stated share of the danger, in the fewest seconds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from yardmeter.core.faults import seen_frac
from yardmeter.core.probing.lumped import OPEN_OHM
from yardmeter.core.procedures import Gate, judge
from yardmeter.core.search.seen import LEADS_OHM
from yardmeter.core.search.signatures import Signatures
from yardmeter.core.search.trials import PROBE_S

Level = Literal["quick", "usual", "thorough"]
LEVELS: tuple[Level, ...] = get_args(Level)
LEFT_FRAC: dict[Level, float] = {"quick": 0.10, "usual": 0.01, "thorough": 0.0}
"""Share of the danger that may be left; our choice."""
ALWAYS: frozenset[Gate] = frozenset({"eyes", "meter", "plug", "states", "limiter", "volts", "pack"})
"""Gates that are passed at every level: the few looks and readings that cost nothing beside what they save."""
LIMITED_FROM_A = 2.0
"""A short that takes more is seen at the limiter before it burns."""
School = Literal["eyes", "meter", "meter and limiter"]


@dataclass(frozen=True)
class SchoolAnswer:
    """What a way of checking leaves: its share of all danger, and the dangerous faults it leaves most often."""

    school: School
    left_frac: float
    left: tuple[int, ...]
    """Indices of faults."""
    seconds_s: float


def detected(known: Signatures) -> NDArray[np.bool_]:
    """Whether each fault fails each step read without power [F, S]."""
    steps = [known.made.step[name] for name in known.steps]
    found = np.zeros((len(known.faults), len(steps)), np.bool_)
    for k in range(len(known.faults)):
        for column, step in enumerate(steps):
            ohm = float(known.ohms[1 + k, column])
            found[k, column] = not judge(step, None if ohm >= OPEN_OHM else ohm + LEADS_OHM).passed
    return found


def danger_of(known: Signatures) -> NDArray[np.float64]:
    """Weight of each fault that is dangerous [F], nothing for the others."""
    return np.array(
        [one.weight * would.dangerous for one, would in zip(known.faults, known.consequences, strict=True)], np.float64
    )


def levels(known: Signatures, found: NDArray[np.bool_] | None = None) -> dict[str, Level]:
    """The least level at which each step of the list is done."""
    found = detected(known) if found is None else found
    danger = danger_of(known)
    steps = list(known.steps)
    level_of: dict[str, Level] = {one.id: "quick" if one.gate in ALWAYS else "usual" for one in known.made.steps}
    level_of |= dict.fromkeys(steps, "thorough")
    chosen = np.array([known.made.step[name].gate in ALWAYS for name in steps])
    for name, taken in zip(steps, chosen, strict=True):
        if taken:
            level_of[name] = "quick"
    covered = np.asarray(found[:, chosen].any(axis=1), np.bool_)
    reachable = float(danger[found.any(axis=1)].sum())
    for level in ("quick", "usual"):
        while reachable - float(danger[covered].sum()) > LEFT_FRAC[level] * reachable:
            gain = (danger[:, None] * (found & ~covered[:, None])).sum(axis=0)
            best = int(gain.argmax())
            if gain[best] <= 0:
                break
            level_of[steps[best]] = level
            covered |= found[:, best]
    return level_of


def schools(known: Signatures, found: NDArray[np.bool_] | None = None) -> tuple[SchoolAnswer, ...]:
    """Eyes alone, the meter beside them, the limiter beside both: what each leaves of this build's danger."""
    found = detected(known) if found is None else found
    danger = danger_of(known)
    total = max(float(danger.sum()), 1e-12)
    unseen = np.array([1 - seen_frac(one.kind) for one in known.faults])
    unmetered = unseen * ~found.any(axis=1)
    limited = np.array([one.amps_a > LIMITED_FROM_A for one in known.consequences])
    eyes_s = 20.0 * sum(one.gate == "eyes" for one in known.made.steps)
    meter_s = eyes_s + PROBE_S * len(known.steps)
    told = []
    ways: tuple[tuple[School, NDArray[np.float64], float], ...] = (
        ("eyes", unseen, eyes_s),
        ("meter", unmetered, meter_s),
        ("meter and limiter", unmetered * ~limited, meter_s + 60.0),
    )
    for school, left, seconds in ways:
        rest = danger * left
        order = [int(k) for k in np.argsort(-rest, kind="stable")[:3] if rest[k] > 0]
        told.append(SchoolAnswer(school, float(rest.sum()) / total, tuple(order), seconds))
    return tuple(told)
