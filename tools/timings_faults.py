"""The bench list and the search over the faults of every demo plan: what is found, named, and in how many trials."""

from __future__ import annotations

import statistics
import time
from dataclasses import astuple
from functools import partial

from tools.stopwatch import line, p95, timed
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.faults import Fault
from yardmeter.core.procedures import checklist
from yardmeter.core.search import Signatures, advise, believe
from yardmeter.core.search.played import Figures, evidence_of, figures, play, read_list
from yardmeter.core.search.trials import SHORT_OHM
from yardmeter.core.search.twin import Twin


def list_and_search(every: int) -> None:
    """Times of the list and of the next best trial, and the figures of the search."""
    solved = solve_plan(demo.plan("marshlight-as-soldered"))
    line("Bench list of Marshlight, median", statistics.median(timed(partial(checklist, solved), 5)), 1.0)
    known = Signatures(checklist(solved))
    start = time.perf_counter()
    _ = known.ohms, known.consequences
    line("Every fault of Marshlight at every place of its list, once", time.perf_counter() - start)
    line("Next best trial, p95 over faults", p95([_asked(known, fault) for fault in known.faults[::7]]), 0.15)
    total = [0.0] * 9
    for name in [one.removesuffix(".json") for demo_build in demo.DEMOS for one in demo_build.files]:
        known = Signatures(checklist(solve_plan(demo.plan(name))))
        found = figures(known, every=every)
        _told(name, found)
        total = [
            a + b * (found.found if k >= 6 else 1) for k, (a, b) in enumerate(zip(total, astuple(found), strict=True))
        ]
    counts = [int(one) for one in total[:6]]
    _told("all of them", Figures(*counts, *(one / max(counts[1], 1) for one in total[6:])))


def _asked(known: Signatures, fault: Fault) -> float:
    """Seconds until the first advice after the step that fails."""
    twin = Twin(known.made.solved.plan, (fault,), seed=1)
    played = play(known, twin)
    if played.failed is None:
        return 0.0
    read = read_list(known, twin)[: played.steps]
    value = read[-1][2]
    start = time.perf_counter()
    belief = believe(known, evidence_of(read))
    advise(
        belief,
        played.failed,
        [trial.id for _, trial, _ in read],
        shorted=value is not None and value < SHORT_OHM,
        powered=False,
    )
    return time.perf_counter() - start


def _told(name: str, found: Figures) -> None:
    print(
        f"{name:<30} {found.faults} faults, {found.found} fail the list without power; dangerous {found.dangerous_found} of "
        f"{found.dangerous}; among the first three {found.in_three}; named by the search {found.named}; trials {found.trials:.2f}, "
        f"in order {found.in_order:.2f}, bound {found.bound:.2f}",
        flush=True,
    )
