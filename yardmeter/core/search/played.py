"""A search played out on a build with a known fault: what the trainer is scored against, and what the bench of figures counts."""

from __future__ import annotations

import heapq
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.faults import Fault
from yardmeter.core.procedures import Step, judge
from yardmeter.core.search.beliefs import Belief, believe
from yardmeter.core.search.next_best import Advice, advise, outcomes, repair_key
from yardmeter.core.search.seen import Seen, seen_of
from yardmeter.core.search.signatures import UNPOWERED, Signatures
from yardmeter.core.search.trials import SHORT_OHM, Trial, of_step, trials
from yardmeter.core.search.twin import Twin

MOST_TRIALS = 40
Order = Literal["best", "in order"]
Evidence = list[tuple[Trial, Seen]]


@dataclass(frozen=True)
class Played:
    """From the first step that failed to the name. `steps` were read before; `trials` after it, with their seconds."""

    failed: Step | None
    steps: int
    trials: tuple[Trial, ...]
    named: Fault | None
    advice: Advice | None

    @property
    def seconds_s(self) -> float:
        return sum(one.seconds_s for one in self.trials)

    def right(self, fault: Fault) -> bool:
        """Whether what is named is mended by the same work."""
        return self.named is not None and repair_key(self.named) == repair_key(fault)


def listed(known: Signatures) -> list[tuple[Step, Trial]]:
    """Steps of the list read without power, in order."""
    found = [(one, of_step(one)) for one in known.made.steps if one.gate in UNPOWERED]
    return [(step, trial) for step, trial in found if trial]


def read_list(known: Signatures, twin: Twin) -> list[tuple[Step, Trial, float | None]]:
    """What the whole unpowered list shows on a build."""
    steps = listed(known)
    shown = twin.shows_all([(trial.red, trial.black) for _, trial in steps])
    return [(step, trial, value) for (step, trial), value in zip(steps, shown, strict=True)]


def evidence_of(read: Sequence[tuple[Step, Trial, float | None]]) -> Evidence:
    """Readings as what a search weighs."""
    return [(trial, seen_of(trial.scale, value, failed=not judge(step, value).passed)) for step, trial, value in read]


def play(known: Signatures, twin: Twin, order: Order = "best", *, supply: bool = True) -> Played:
    """The list until a step fails, then trial after trial until the fault is named or nothing tells more."""
    read = read_list(known, twin)
    first = next((k for k, (step, _, value) in enumerate(read) if not judge(step, value).passed), None)
    if first is None:
        return Played(None, len(read), (), None, None)
    failed, _, value = read[first]
    evidence = evidence_of(read[: first + 1])
    shorted = value is not None and value < SHORT_OHM
    done = {trial.id for trial, _ in evidence}
    tried: list[Trial] = []
    while True:
        belief = believe(known, evidence)
        advice = advise(belief, failed, done, shorted=shorted, powered=False, supply=supply)
        if advice.named or not advice.options or len(tried) == MOST_TRIALS:
            return Played(failed, first + 1, tuple(tried), advice.named, advice)
        trial = advice.options[0].trial if order == "best" else _next_in_order(known, failed, done, shorted)
        if trial is None:
            return Played(failed, first + 1, tuple(tried), None, advice)
        evidence.append((trial, _tried(known, twin, trial)))
        done.add(trial.id)
        tried.append(trial)


def _tried(known: Signatures, twin: Twin, trial: Trial) -> Seen:
    value = twin.tries(trial)
    step = known.made.step.get(trial.step or "")
    return seen_of(trial.scale, value, failed=step is not None and not judge(step, value).passed)


def _next_in_order(known: Signatures, failed: Step, done: set[str], shorted: bool) -> Trial | None:
    """What following the wires in order does: a short is looked for by taking wires off one after another as they branch from
    the plug, anything else by going on with the list and then with the wires' neighbours."""
    offered = [one for one in trials(known, failed, shorted=shorted, powered=False, supply=False) if one.id not in done]
    off = [one for one in offered if one.cut or one.gone]
    return next(iter((off or offered) if shorted else offered), None)


def bound(belief: Belief, failed: Step, done: set[str], *, shorted: bool) -> float:
    """Trials that even the best search needs on average: the mean length of the shortest code for the repairs that can be told
    apart at all, each trial having no more outcomes than the one that has most.

    Source: Huffman's construction for codes of any base, which no tree of questions can beat.
    """
    close = belief.close()
    offered = [
        one for one in trials(belief.known, failed, shorted=shorted, powered=False, supply=True) if one.id not in done
    ]
    if not offered or not close:
        return 0.0
    _, label = outcomes(belief.known, offered, close)
    most = max(int(label.max()) + 1, 2)
    share: dict[tuple[int, ...], float] = {}
    for k, one in enumerate(close):
        key = tuple(label[:, k])
        share[key] = share.get(key, 0.0) + float(belief.chance[one])
    return code_length(list(share.values()), most)


def code_length(weights: list[float], base: int) -> float:
    """Mean length of the shortest prefix code over so many letters."""
    if len(weights) < 2:
        return 0.0
    heap = [one / sum(weights) for one in weights]
    while (len(heap) - 1) % (base - 1):
        heap.append(0.0)
    heapq.heapify(heap)
    length = 0.0
    while len(heap) > 1:
        joined = sum(heapq.heappop(heap) for _ in range(base))
        length += joined
        heapq.heappush(heap, joined)
    return length


@dataclass(frozen=True)
class Figures:
    """Over every fault of a build: found by the list, dangerous ones among them, named by list and search, trials needed."""

    faults: int
    found: int
    dangerous: int
    dangerous_found: int
    in_three: int
    named: int
    trials: float
    in_order: float
    bound: float


def figures(known: Signatures, told: Callable[[Fault], None] = lambda _: None, every: int = 1) -> Figures:
    """Each fault in a specimen of its own. Means are weighed by how often faults happen; `every` takes only each so many-th."""
    found = dangerous = dangerous_found = in_three = named = count = 0
    weight = trials_n = order_n = bound_n = 0.0
    for k, fault in list(enumerate(known.faults))[::every]:
        told(fault)
        count += 1
        twin = Twin(known.made.solved.plan, (fault,), seed=k)
        danger = known.consequences[k].dangerous
        dangerous += danger
        best = play(known, twin)
        if best.failed is None:
            continue
        found += 1
        dangerous_found += danger
        listed_read = read_list(known, twin)
        whole = believe(known, evidence_of(listed_read))
        in_three += any(one.fault and repair_key(one.fault) == repair_key(fault) for one in whole.suspects(3))
        named += best.right(fault)
        read = listed_read[: best.steps]
        start = believe(known, evidence_of(read))
        last = read[-1][2]
        done = {trial.id for _, trial, _ in read}
        weight += fault.weight
        trials_n += fault.weight * len(best.trials)
        order_n += fault.weight * len(play(known, twin, "in order").trials)
        bound_n += fault.weight * bound(start, best.failed, done, shorted=last is not None and last < SHORT_OHM)
    share = max(weight, math.ulp(1.0))
    return Figures(
        count, found, dangerous, dangerous_found, in_three, named, trials_n / share, order_n / share, bound_n / share
    )
