"""From readings to chances: every fault weighs as often as it happens, times how well it explains all that was read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.faults import Fault
from yardmeter.core.search.seen import SLIP_FRAC, Seen, likelihood, unlike_any
from yardmeter.core.search.signatures import Signatures
from yardmeter.core.search.trials import Trial, predicted
from yardmeter.core.solver.passive import Floats

RECENT_TIMES = 4.0
"""The last joints made are suspected first; common practice, no source."""
CLOSE_FRAC = 1e-3
"""Chance below which a fault is not worked out under power or with a wire off."""
MOST = 48
"""Faults that are at most."""
OTHER_SHARE = 0.03
"""Weight of all that can be wrong with a build and is not on the list, beside all that is; our choice."""


@dataclass(frozen=True)
class Suspect:
    """`fault` is None for: nothing is wrong with the build, a reading was."""

    fault: Fault | None
    chance_frac: float


@dataclass(frozen=True)
class Belief:
    """Chances of all hypotheses [H], and of none of them: together they are one."""

    known: Signatures
    chance: Floats
    none_frac: float

    def close(self) -> list[int]:
        """Hypotheses that still count, the likeliest first."""
        order = np.argsort(-self.chance, kind="stable")[:MOST]
        return [int(one) for one in order if self.chance[one] > CLOSE_FRAC]

    def suspects(self, count: int = 6) -> tuple[Suspect, ...]:
        """The likeliest."""
        return tuple(
            Suspect(self.known.faults[one - 1] if one else None, float(self.chance[one]))
            for one in self.close()[:count]
        )


def believe(
    known: Signatures, evidence: Sequence[tuple[Trial, Seen]], recent: frozenset[str] = frozenset()
) -> Belief:  # fmt: skip
    """Chances after some readings; `recent` are elements that were worked on last.

    What needs no power is weighed first; the rest is worked out only for what is left then.
    """
    weights = known.weights.copy()
    for k, fault in enumerate(known.faults):
        if recent & set(fault.elements):
            weights[1 + k] *= RECENT_TIMES
    total = float(weights.sum()) * (1 + OTHER_SHARE)
    belief = Belief(known, np.asarray(weights / total, np.float64), OTHER_SHARE / (1 + OTHER_SHARE))
    plain = [one for one in evidence if one[0].step in known.steps]
    for trial, seen in (*plain, *(one for one in evidence if one[0].step not in known.steps)):
        belief = _weighed(belief, trial, seen)
    return belief


def _weighed(belief: Belief, trial: Trial, seen: Seen) -> Belief:
    known = belief.known
    chance = belief.chance
    if trial.step in known.steps:
        which = list(range(len(chance)))
        factor = np.ones(len(chance))
    else:
        which = belief.close()
        factor = np.full(len(chance), SLIP_FRAC)
        if 0 not in which:
            which.append(0)
    values = predicted(known, trial, which)
    sound = values[which.index(0)]
    factor[which] = likelihood(seen, values, float(sound))
    weighed, none = chance * factor, belief.none_frac * unlike_any(seen, float(sound))
    total = float(weighed.sum()) + none
    return Belief(known, np.asarray(weighed / total, np.float64), none / total)
