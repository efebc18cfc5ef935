"""Layouts: how soon, and how they stand beside placing each device greedily on the nearest rail."""

from __future__ import annotations

import time

from tests.builds import random_build
from tools.stopwatch import line
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.homes import settled
from yardmeter.core.layouts.made import heavy, weight_g
from yardmeter.core.layouts.search import propose
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Duplicate
from yardmeter.review.layouts import with_shelf

PILES = 40


def wirings_proposed(every: int) -> None:
    """Times of the first layout and of the front, at twelve devices and thirty, and shares of piles served."""
    parts = demo.starter_parts()
    plan = demo.plan("marshlight-as-soldered")
    _timed("12 devices", plan, parts, 3.0, 10.0)
    names = ["lidar", "receiver", "recorder"]
    for k in range(18):
        plan = apply_edits(plan, [Duplicate(element=names[k % 3], name=f"more {k}")])
    _timed(f"{len(plan.devices)} devices", plan, parts, None, 60.0)
    ours = greedy = both = 0
    grams: list[float] = []
    for seed in range(0, PILES, max(every // 4, 1)):
        pile = random_build(seed)
        found = propose(pile, Wishes(), parts, with_shelf(parts))
        served = [one for one in found.layouts if one.numbers.heavy == 0]
        other = settled(pile, [d.id for d in pile.devices])
        stands = not heavy(solve_plan(other))
        ours, greedy = ours + bool(served), greedy + stands
        if served and stands:
            both += 1
            grams.append(min(one.numbers.grams for one in served) - (weight_g(other) - weight_g(pile)))
    count = len(range(0, PILES, max(every // 4, 1)))
    more = sum(grams) / len(grams) if grams else 0.0
    print(
        f"  of {count} piles without danger or fault: layouts {ours}, greedily on the nearest rail {greedy}; where both, {more:+.1f} g on average"
    )


def _timed(name: str, plan: Plan, parts: list[Part], first_s: float | None, front_s: float) -> None:
    start = time.perf_counter()
    first: list[float] = []

    def watch(share: float) -> None:
        if share >= FIRST_AIM and not first:
            first.append(time.perf_counter() - start)

    propose(plan, Wishes(), parts, with_shelf(parts), watch)
    whole = time.perf_counter() - start
    if first_s is not None:
        line(f"First layout of {name}", first[0] if first else whole, first_s)
    line(f"Front of {name}", whole, front_s)


FIRST_AIM = 0.18
"""How far the search is once its first aim is through."""
