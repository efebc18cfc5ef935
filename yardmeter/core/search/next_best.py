"""What to do next: of all that can be done, what tells most of the fault for each second it takes; and when to stop."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from yardmeter.core.faults import Fault
from yardmeter.core.patience import go_on
from yardmeter.core.procedures import Step
from yardmeter.core.search.beliefs import Belief
from yardmeter.core.search.seen import Scale, scaled, spread_of
from yardmeter.core.search.signatures import Signatures
from yardmeter.core.search.trials import Trial, predicted, trials
from yardmeter.core.solver.passive import Floats, Ints

APART = 1.5
"""Readings nearer than so many standard deviations are one outcome; our choice."""
LEAST_BITS = 0.05
"""What tells less is not worth the probes."""
NAMED_FRAC = 0.9
"""A fault with this chance is named."""
SAFE_FRAC = 0.02
"""Chance of a dangerous fault above which power stays off."""
SHOWN = 3
SAME_REPAIR = {"connector half in": "open joint"}


@dataclass(frozen=True)
class Option:
    """A trial, what it tells on average, and what each outcome would leave: usual reading, chance, likeliest fault then."""

    trial: Trial
    bits: float
    outcomes: tuple[tuple[float, float, int], ...]


@dataclass(frozen=True)
class Advice:
    """`named` is the fault that is found, with the chance of its repair; else `options` are what to do, best first.

    Where it is likeliest that it is none of those known, nothing is named.
    """

    belief: Belief
    options: tuple[Option, ...]
    named: Fault | None
    chance_frac: float
    sound: bool = False
    """Nothing points to a fault any more."""


def advise(
    belief: Belief, failed: Step | None, done: Iterable[str] = (), *, shorted: bool, powered: bool, supply: bool = True
) -> Advice:  # fmt: skip
    """What to do next. `done` are trials not to be asked for again; power is offered only where `powered` and safe."""
    known = belief.known
    close = belief.close()
    top, chance = _repair(belief, close)
    sound = bool(close) and close[0] == 0 and belief.chance[0] > NAMED_FRAC
    if top is not None and chance >= NAMED_FRAC:
        return Advice(belief, (), top, chance)
    dangers = [1 + k for k, would in enumerate(known.consequences) if would.dangerous]
    dangerous = float(belief.chance[dangers].sum())
    left = set(done)
    # Nothing is powered onto what reads as a short, whatever it would do.
    power = powered and not shorted and dangerous < SAFE_FRAC
    offered = [
        one for one in trials(known, failed, shorted=shorted, powered=power, supply=supply) if one.id not in left
    ]
    options = _weighed(belief, offered, close)
    named = top if not options and not sound and chance > belief.none_frac else None
    return Advice(belief, tuple(options[:SHOWN]), named, chance, sound)


def repair_key(fault: Fault) -> tuple[str, ...]:
    """Faults with the same one are mended by the same work at the same place."""
    return (SAME_REPAIR.get(fault.kind, fault.kind), *fault.elements)


def _groups(belief: Belief, close: list[int]) -> list[tuple[str, ...]]:
    return [repair_key(belief.known.faults[one - 1]) if one else () for one in close]


def _repair(belief: Belief, close: list[int]) -> tuple[Fault | None, float]:
    """The repair that is likeliest, with the likeliest fault it mends."""
    total: dict[tuple[str, ...], float] = {}
    first: dict[tuple[str, ...], Fault] = {}
    for one, key in zip(close, _groups(belief, close), strict=True):
        if one:
            total[key] = total.get(key, 0.0) + float(belief.chance[one])
            first.setdefault(key, belief.known.faults[one - 1])
    if not total:
        return None, 0.0
    best = max(total, key=lambda key: total[key])
    return first[best], total[best]


def _weighed(belief: Belief, offered: list[Trial], close: list[int]) -> list[Option]:
    """Those that tell something, by bits a second; all are weighed side by side."""
    if not offered or not close:
        return []
    go_on()
    values, label = outcomes(belief.known, offered, close)
    share = belief.chance[close] / belief.chance[close].sum()
    group = np.unique([repr(one) for one in _groups(belief, close)], return_inverse=True)[1]
    bits = told_bits(label, share, group)
    best = sorted(
        (-float(bits[k]) / one.seconds_s, one.id, k) for k, one in enumerate(offered) if bits[k] >= LEAST_BITS
    )
    # Of those that part the faults alike the first is enough.
    told: dict[tuple[int, ...], int] = {}
    for _, _, k in best:
        told.setdefault(tuple(np.unique(label[k], return_inverse=True)[1]), k)
    return [_option(offered[k], float(bits[k]), values[k], label[k], share, close) for k in list(told.values())[:SHOWN]]


def _option(trial: Trial, bits: float, values: Floats, label: Ints, share: Floats, close: list[int]) -> Option:
    told = []
    for one in np.unique(label):
        mine = np.flatnonzero(label == one)
        likeliest = mine[np.argmax(share[mine])]
        told.append((float(values[likeliest]), float(share[mine].sum()), close[likeliest]))
    return Option(trial, bits, tuple(sorted(told, key=lambda one: -one[1])))


def outcomes(known: Signatures, offered: list[Trial], close: list[int]) -> tuple[Floats, Ints]:
    """What the trials read with each hypothesis, and which of those readings cannot be told apart [T, H]."""
    values = np.array([predicted(known, one, [0, *close]) for one in offered])
    label = np.array([outcomes_of(one.scale, row[1:], row[0]) for one, row in zip(offered, values, strict=True)])
    return values[:, 1:], label


def outcomes_of(scale: Scale, values: Floats, sound: float) -> Ints:
    """A number for each hypothesis [H]: those with the same cannot be told apart by the reading; NaN is one of its own."""
    middle = scaled(scale, values)
    spread = spread_of(scale, values, sound)
    order = np.argsort(middle, kind="stable")
    step, width = np.diff(middle[order]), spread[order]
    apart = np.isnan(step) & ~np.isnan(middle[order][:-1]) | (step > APART * (width[1:] + width[:-1]) / 2)
    label = np.empty(len(values), np.intp)
    label[order] = np.concatenate([[0], np.cumsum(apart)])
    return label


def told_bits(label: Ints, share: Floats, group: Ints) -> Floats:
    """What knowing the outcome takes off the entropy of what has to be repaired [T], for outcomes [T, H] of each trial."""
    trials_n, hypotheses = label.shape
    groups = int(group.max()) + 1
    at = (np.arange(trials_n)[:, None] * hypotheses + label) * groups + group[None, :]
    summed = np.bincount(at.reshape(-1), np.tile(share, trials_n), trials_n * hypotheses * groups)
    joint: Floats = np.asarray(summed, np.float64).reshape(trials_n, hypotheses, groups)
    outcome = joint.sum(axis=2)
    before: Floats = np.asarray(np.bincount(group, share, groups), np.float64)
    return np.asarray(entropy(before[None, :]) + entropy(outcome) - entropy(joint.reshape(trials_n, -1)), np.float64)


def entropy(chances: Floats) -> Floats:
    """Bits of each row."""
    held = np.where(chances > 0, chances, 1.0)
    return np.asarray(-(chances * np.log2(held)).sum(axis=-1), np.float64)
