"""How often, how long, and whether that is within what was wanted."""

from __future__ import annotations

import contextlib
import os
import statistics
import time
from collections.abc import Callable, Iterator

ROUNDS = 15


def timed(action: Callable[[], object], rounds: int = ROUNDS) -> list[float]:
    """Seconds of each round, after one to warm up."""
    action()
    taken = []
    for _ in range(rounds):
        start = time.perf_counter()
        action()
        taken.append(time.perf_counter() - start)
    return taken


@contextlib.contextmanager
def on_one_core() -> Iterator[None]:
    """This program and what it starts keep to one core: two need not be as fast as each other, and a share of them tells nothing."""
    if not hasattr(os, "sched_setaffinity"):
        yield
        return
    before = os.sched_getaffinity(0)
    os.sched_setaffinity(0, {min(before)})
    try:
        yield
    finally:
        os.sched_setaffinity(0, before)


def plain_loop() -> float:
    """Seconds of a loop of 200,000 multiplications: what a time is measured against on a machine that is not always as fast."""
    start = time.perf_counter()
    sum(k * k for k in range(200_000))
    return time.perf_counter() - start


def loops(figure: float, most: float) -> str:
    """A time as so many plain loops, and how many were wanted at most."""
    return f"   {figure:.1f} plain loops (wanted at most {most:g}{'' if figure <= most else ' — MISSED'})"


def p95(seconds: list[float]) -> float:
    return statistics.quantiles(seconds, n=20)[-1] if len(seconds) > 1 else seconds[0]


def line(what: str, seconds: float, limit_s: float | None = None, note: str = "") -> None:
    bound = f"  (wanted under {limit_s * 1e3:.0f} ms{'' if seconds < limit_s else ' — MISSED'})" if limit_s else ""
    print(f"{what:<62}{seconds * 1e3:9.1f} ms{bound}{note}", flush=True)
