"""How often, how long, and whether that is within what was wanted."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

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


def p95(seconds: list[float]) -> float:
    return statistics.quantiles(seconds, n=20)[-1] if len(seconds) > 1 else seconds[0]


def line(what: str, seconds: float, limit_s: float | None = None, note: str = "") -> None:
    bound = f"  (wanted under {limit_s * 1e3:.0f} ms{'' if seconds < limit_s else ' — MISSED'})" if limit_s else ""
    print(f"{what:<62}{seconds * 1e3:9.1f} ms{bound}{note}", flush=True)
