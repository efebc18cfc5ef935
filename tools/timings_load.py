"""Eight who look while one edits: what an edit waits for them, how much memory a server of eight plans keeps."""

from __future__ import annotations

import json
import statistics
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from tools.server import Serving
from tools.stopwatch import line, p95

LOOKS = ("/fixes", "/schools", "/hookup", "/noise", "/noise/schools?element=sender", "/bench/effort", "/bench", "/glance", "/signals/usual")  # fmt: skip


def asked(address: str, path: str, body: object | None = None, timeout_s: float = 120) -> Any:
    data = json.dumps(body).encode() if body is not None else None
    request = urllib.request.Request(address + path, data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=timeout_s) as answer:
        return json.load(answer)


@contextmanager
def lookers(address: str, plan_id: int, count: int) -> Iterator[list[int]]:
    """So many who ask everything of a plan again and again; how many answers they had."""
    stop = threading.Event()
    answers = [0] * count

    def look(who: int) -> None:
        turn = who
        while not stop.is_set():
            try:
                asked(address, f"/api/plans/{plan_id}{LOOKS[turn % len(LOOKS)]}")
                answers[who] += 1
            except urllib.error.HTTPError as error:
                error.close()
                stop.wait(0.5)  # told to come again
            except OSError:
                return
            turn += 1

    threads = [threading.Thread(target=look, args=(k,), daemon=True) for k in range(count)]
    for one in threads:
        one.start()
    try:
        yield answers
    finally:
        stop.set()
        for one in threads:
            one.join(60)


def edits(address: str, plan_id: int, count: int, pause_s: float = 0.0, first: int = 0) -> list[float]:
    """Seconds of so many edits, one after another."""
    view = asked(address, f"/api/plans/{plan_id}")
    taken = []
    for k in range(count):
        edit = {"op": "set_draw", "device": "recorder", "state": "peak", "text": f"{300 + (first + k) % 97}mA"}
        start = time.perf_counter()
        view = asked(address, f"/api/plans/{plan_id}/edits", {"revision": view["revision"], "edits": [edit]})
        taken.append(time.perf_counter() - start)
        time.sleep(pause_s)
    return taken


def alone_and_looked_at(address: str, plan_id: int, count: int = 30) -> tuple[float, float, float, float, int]:
    """Median and p95 of an edit alone, and with eight lookers; answers these had meanwhile."""
    edits(address, plan_id, 3)
    alone = edits(address, plan_id, count, 0.1)
    with lookers(address, plan_id, 8) as answers:
        time.sleep(1.0)
        busy = edits(address, plan_id, count, 0.1)
    return statistics.median(alone), p95(alone), statistics.median(busy), p95(busy), sum(answers)


def resident_mb(pid: int) -> float:
    """Memory a process holds."""
    pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    return pages * 4096 / 1e6


def threads_of(pid: int) -> int:
    return len(list(Path(f"/proc/{pid}/task").iterdir()))


def beside_lookers(folder: Path) -> None:
    """An edit beside eight who look, and what a server of eight plans holds before and after mixed use."""
    serving = Serving(folder / "load")
    with serving as address:
        pid = serving.process.pid
        plans = [one["id"] for build in asked(address, "/api/builds") for one in build["plans"]]
        alone, alone95, busy, busy95, answers = alone_and_looked_at(address, plans[0])
        line("Edit alone, median", alone, note=f"   p95 {alone95 * 1e3:.0f} ms")
        line("Edit beside eight lookers, median", busy, note=f"   p95 {busy95 * 1e3:.0f} ms, {busy95 / alone95:.1f} × alone; they had {answers} answers")  # fmt: skip
        before = resident_mb(pid)
        mixed_use(address, plans, 1000)
        middle = resident_mb(pid)
        mixed_use(address, plans, 1000)
        print(f"{'Memory of a server of eight plans':<62}{before:6.0f} MB, after 1,000 mixed requests {middle:.0f}, after 2,000 {resident_mb(pid):.0f}; {threads_of(pid)} threads", flush=True)  # fmt: skip


def _noted(address: str, plan: int, k: int) -> None:
    """An edit that any plan takes."""
    view = asked(address, f"/api/plans/{plan}")
    edit = {"op": "set", "element": view["plan"]["conditions"][0]["id"], "field": "throttle_frac", "value": k % 7 / 10}
    asked(address, f"/api/plans/{plan}/edits", {"revision": view["revision"], "edits": [edit]})


def mixed_use(address: str, plans: list[int], requests: int) -> None:
    """Edits, runs, noise, bench, fixes and chances, in turn over all plans."""
    for k in range(requests):
        plan = plans[k % len(plans)]
        match k % 9:
            case 0 | 1 | 2:
                _noted(address, plan, k)
            case 3:
                asked(address, f"/api/plans/{plan}/noise")
            case 4:
                asked(address, f"/api/plans/{plan}/bench/effort")
            case 5:
                asked(address, f"/api/plans/{plan}/run?scenario=plug-in")
            case 6:
                asked(address, f"/api/plans/{plan}/fixes")
            case 7:
                asked(address, f"/api/plans/{plan}/schools")
            case _:
                asked(address, f"/api/plans/{plan}/hookup")
