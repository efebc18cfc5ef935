"""The diagnosis: how soon it answers, and how well it finds causes hidden in the demo plans and in random ones."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from tests.builds import random_build
from tools.stopwatch import line, p95
from yardmeter import demo
from yardmeter.core.diagnosis.advice import Evidence, diagnose
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.played import Played, play, shown_by
from yardmeter.core.diagnosis.symptoms import asked_about, find_symptom
from yardmeter.core.diagnosis.weighing import Complaint

EDGES = (0.0, 0.3, 0.5, 0.7, 0.9, 0.97, 1.0)
RANDOM_PLANS = 60


def from_symptoms(every: int) -> None:
    """Times of an answer, and the figures of the search over every so many causes."""
    plan = demo.plan("marshlight-as-soldered")
    firsts, nexts = [], []
    for symptom in ("resets-warm", "dead", "picture-black", "lines-throttle", "link-dead"):
        start = time.perf_counter()
        known = Known(plan)
        complaint = Complaint(find_symptom(symptom), asked_about(plan, find_symptom(symptom), None))
        found = diagnose(known, [complaint])
        firsts.append(time.perf_counter() - start)
        for offered in found.offered:
            if offered.tried.scale is None:
                start = time.perf_counter()
                diagnose(known, [complaint], [Evidence(offered.tried.id, yes=True)])
                nexts.append(time.perf_counter() - start)
    line("First answer to a symptom of Marshlight, slowest of five", max(firsts), 2.0)
    line("What to try next after an answer, p95", p95(nexts), 0.3)
    names = [one.removesuffix(".json") for build in demo.DEMOS for one in build.files]
    _told("the demo plans", [one for name in names for one in _played(Known(demo.plan(name)), every)])
    some = [one for seed in range(RANDOM_PLANS) for one in _played(Known(random_build(seed)), 6 * every)]
    _told(f"{RANDOM_PLANS} random plans", some)


def _played(known: Known, every: int) -> Iterator[Played]:
    for k, cause in list(enumerate(known.causes))[::every]:
        shown = shown_by(known, cause)
        if shown:
            yield play(known, cause, shown[0][1], k)


def _told(name: str, played: Sequence[Played]) -> None:
    first = statistics.mean(one.rank == 0 for one in played)
    three = statistics.mean(one.rank < 3 for one in played)
    tried = statistics.mean(len(one.tried) for one in played)
    ours, usual = (sum(getattr(one, what) for one in played) for what in ("minutes", "usual_minutes"))
    print(
        f"  {name}: {len(played)} hidden causes; repair first in {first:.0%} (80), among three in {three:.0%} (95); {tried:.2f} tries (3); "
        f"{ours / usual:.0%} of the usual minutes (50)"
    )
    chance = np.array([one.chance for one in played])
    right = np.array([one.rank == 0 for one in played])
    for low, high in pairwise(EDGES):
        inside = (chance >= low) & ((chance < high) | (high == 1.0))
        if inside.any():
            print(f"    led with {low:.0%} to {high:.0%}: {inside.sum()}, right in {right[inside].mean():.0%}")
