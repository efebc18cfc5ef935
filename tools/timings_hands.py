"""Hands that go through the lists of all demo builds and of plans from a seed: what keeps power from every dangerous fault, what
enters itself where nobody has touched, and what sound builds at the edges of their bands are told."""

from __future__ import annotations

import itertools
import random
import time
from collections import Counter
from collections.abc import Iterator

from tools.random_plans import random_plans
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.plan import Plan
from yardmeter.core.procedures import checklist
from yardmeter.core.search import Signatures
from yardmeter.core.search.hands import MISHAPS, entered, shown_to, stopped
from yardmeter.core.search.played import play
from yardmeter.core.search.twin import Twin

RANDOM = 20
EDGES = 2000
"""Sound builds in all."""


def _plans() -> Iterator[Plan]:
    yield from (one for build in demo.DEMOS for one in demo.plans(build))
    yield from random_plans(RANDOM)


def hands_on_lists(every: int) -> None:
    """Every so many-th dangerous fault, and a share of the sound builds to go with it; 1 takes all."""
    start = time.perf_counter()
    by: Counter[str] = Counter()
    mishaps: Counter[str] = Counter()
    places = sound = told = 0
    rng = random.Random(1)
    plans = list(_plans())
    for plan in plans:
        known = Signatures(checklist(solve_plan(plan)))
        dangerous = [one for one, would in zip(known.faults, known.consequences, strict=True) if would.dangerous]
        for k, fault in list(enumerate(dangerous))[::every]:
            twin = Twin(plan, (fault,), seed=k)
            by[
                stopped(known, twin, fault, eyes=False).by
                or ("eyes alone" if stopped(known, twin, fault).by else "NOTHING")
            ] += 1
        places += _entered(known, rng, mishaps)
        for k in range(max(EDGES // len(plans) // every, 1)):
            sound += 1
            told += play(known, Twin(plan, (), seed=k, at_edges=True)).named is not None
    caught = ", ".join(f"{count} by {name}" for name, count in by.most_common())
    print(f"Dangerous faults of {len(plans)} plans, eyes shut: {caught}", flush=True)
    print(
        f"Readings that entered themselves at {places} places nobody touched: {sum(mishaps.values())} {dict(mishaps) or ''}",
        flush=True,
    )
    print(
        f"Sound builds at the edges of their bands: {told} of {sound} told a fault by name; {time.perf_counter() - start:.0f} s",
        flush=True,
    )


def _entered(known: Signatures, rng: random.Random, mishaps: Counter[str]) -> int:
    """Places where hands did not come while the meter misbehaved; counts what entered itself there."""
    steps = [known.made.step[name] for name in known.steps]
    pairs = [(step.red, step.black) for step in steps if step.red and step.black]
    values = dict(zip(known.steps, Twin(known.made.solved.plan).shows_all(pairs), strict=True))
    count = 0
    for before, step in itertools.pairwise(steps):
        for mishap in MISHAPS:
            if mishap in ("stays", "range", "mode"):
                count += 1
                if entered(step, shown_to(rng, mishap, values[before.id], values[step.id], None)) != "nothing":
                    mishaps[mishap] += 1
    return count
