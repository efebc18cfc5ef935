"""Timings of what a builder waits for, as figures and as ratios to ngspice on the same network."""

from __future__ import annotations

import argparse
import gc
import json
import math
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from functools import partial
from pathlib import Path
from typing import Any

from tools.chromium import launched, program
from tools.server import Serving
from tools.stopwatch import line, loops, on_one_core, p95, plain_loop, timed
from tools.timings_diagnosis import from_symptoms
from tools.timings_faults import list_and_search
from tools.timings_hands import hands_on_lists
from tools.timings_layouts import wirings_proposed
from tools.timings_load import beside_lookers
from tools.timings_runs import a_long_one, runs_of_marshlight
from yardmeter import demo
from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.answers.filtering import SWEEP, sweep
from yardmeter.core.answers.small_signal import operating_point
from yardmeter.core.answers.spread import spread
from yardmeter.core.formats.ac_netlist import write_ac_netlist
from yardmeter.core.formats.netlist import write_netlist
from yardmeter.core.network.keys import ground_node, pin_node
from yardmeter.core.plan import Plan
from yardmeter.review import analyse
from yardmeter.review.noise_review import review_noise


def in_ngspice(plan: Plan, folder: Path) -> float | None:
    """Seconds ngspice takes for all conditions of the plan; None without the program."""
    program = shutil.which("ngspice")
    if program is None:
        return None
    files = []
    for condition in plan.conditions:
        files.append(folder / f"{condition.id}.cir")
        files[-1].write_text(write_netlist(plan, condition))

    def run() -> None:
        for file in files:
            subprocess.run([program, "-b", str(file)], capture_output=True, check=False)

    return statistics.median(timed(run, 3))


def large_plan(plan: Plan, devices: int, name: str = "gnss") -> Plan:
    """The plan with many more of one device on its rail."""
    one = plan.device_of[name]
    more = []
    for index in range(devices - len(plan.devices)):
        returns = tuple(r.model_copy(update={"id": f"{r.id}-{index}"}) for r in one.returns)
        more.append(
            one.model_copy(
                update={
                    "id": f"{name}-{index}",
                    "returns": tuple(r.model_copy(update={"pin": None}) for r in returns),
                    "pins": (),
                    "feed": one.feed and one.feed.model_copy(update={"pin": None, "pad": None}),
                }
            )
        )
    return Plan.model_validate(plan.model_copy(update={"devices": (*plan.devices, *more)}).model_dump())


def request(address: str, path: str, body: object | None = None) -> dict[str, object]:
    return answered(address, path, body)[1]


def answered(address: str, path: str, body: object | None = None) -> tuple[float, dict[str, object]]:
    """Seconds until the last byte of an answer is there, and the answer; reading its JSON here is not the server's."""
    data = json.dumps(body).encode() if body is not None else None
    asked = urllib.request.Request(address + path, data, {"Content-Type": "application/json"})
    start = time.perf_counter()
    with urllib.request.urlopen(asked, timeout=60) as answer:
        text = answer.read()
    taken = time.perf_counter() - start
    found: dict[str, object] = json.loads(text)
    return taken, found


def over_http(address: str) -> None:
    """A draw edited, as seconds and as plain loops of the same moment: a machine that others work on is not always as fast."""
    for plan_id, name in ((1, "as soldered"), (2, "second wiring")):
        view = request(address, f"/api/plans/{plan_id}")
        taken: dict[str, list[float]] = {"Edit to answer": [], "Preview": []}
        shares: dict[str, list[float]] = {"Edit to answer": [], "Preview": []}
        for index in range(60):
            edit = {"op": "set_draw", "device": "recorder", "state": "peak", "text": f"{300 + index}mA"}
            body = {"revision": view["revision"], "edits": [edit]}
            for what, path in (("Preview", "preview"), ("Edit to answer", "edits")):
                before = plain_loop()
                seconds, found = answered(address, f"/api/plans/{plan_id}/{path}", body)
                taken[what].append(seconds)
                shares[what].append(2 * seconds / (before + plain_loop()))
            view = found
        for what, seconds_each in taken.items():
            line(f"{what} over HTTP, {name}, p95", p95(seconds_each), 0.1, loops(p95(shares[what]), 3))


def noise_of_marshlight(plan: Plan, folder: Path) -> None:
    """The small-signal answers, and ngspice's time for the same sweep of the same networks."""
    solved = solve_conditions(plan)
    device = "sender"

    def all_sweeps() -> None:
        for condition in plan.conditions:
            sweep(solved, condition, device)

    taken = statistics.median(timed(all_sweeps, 5))
    spice = in_ngspice_ac(solved, folder)
    # A sweep solves two networks, with the filters and without; the simulator is given one.
    ratio = (
        f"   ngspice {spice * 1e3:.0f} ms for one of its two networks, ratio {2 * spice / taken:.1f}" if spice else ""
    )
    line(f"Sweep of {SWEEP[2]:.0f} frequencies, all conditions, {plan.name}", taken, 0.5, ratio)
    line(f"Noise at every pin and picture, {plan.name}, p95", p95(timed(lambda: review_noise(solved))), 0.5)


def in_ngspice_ac(solved: Solved, folder: Path) -> float | None:
    program = shutil.which("ngspice")
    if program is None:
        return None
    files = []
    for condition in solved.plan.conditions:
        text = write_ac_netlist(operating_point(solved, condition), pin_node("motors"), ground_node("motors"), [])
        head, _, _ = text.partition(".control")
        start, stop, count = SWEEP
        per_decade = round(count / math.log10(stop / start))
        files.append(folder / f"ac-{condition.id}.cir")
        files[-1].write_text(f"{head}.control\nac dec {per_decade} {start:g} {stop:g}\n.endc\n.end\n")

    def run() -> None:
        for file in files:
            subprocess.run([program, "-b", str(file)], capture_output=True, check=False)

    return statistics.median(timed(run, 3))


def noise_over_http(address: str) -> None:
    """A filter changed, and the noise asked for: what a part choice on the Noise view waits for, one after the other.

    A capacitor leaves the direct currents as they were; a bead of another resistance has all of them solved again.
    """
    for part, element, field, start in (
        ("capacitor", "esc-capacitor", "esr_ohm", 0.018),
        ("bead", "camera-bead", "dcr_ohm", 0.03),
    ):
        view = request(address, "/api/plans/2")
        taken, edits = [], []
        for index in range(40):
            edit = {"op": "set", "element": element, "field": field, "value": start + (index + 1) / 1e4}
            seconds, view = answered(address, "/api/plans/2/edits", {"revision": view["revision"], "edits": [edit]})
            edits.append(seconds)
            taken.append(answered(address, "/api/plans/2/noise")[0])
        both = [a + b for a, b in zip(edits, taken, strict=True)]
        note = f"   median {statistics.median(both) * 1e3:.0f} ms; the noise alone, p95 {p95(taken) * 1e3:.0f} ms"
        line(f"A {part} changed and its noise, over HTTP, second wiring, p95", p95(both), 0.15, note)
    again = timed(lambda: request_text(address, "/api/plans/2/noise"), 10)
    line("The same noise asked for again, over HTTP, p95", p95(again), 0.1)


def large_over_http(address: str) -> None:
    """One edit of a large plan in every state, from the request to the last byte."""
    soldered = demo.plan("marshlight-as-soldered")
    states = {"sound": "gnss", "overloaded": "computer", "collapsing": "sender"}
    for count, limit in ((200, 1.0), (1000, 10.0)):
        for state, name in states.items():
            plan = large_plan(soldered, count, name).model_dump(mode="json")
            made: Any = request(address, "/api/builds", {"name": f"{count} {state}", "plan": plan})
            plan_id = made["plans"][0]["id"]
            revision = request(address, f"/api/plans/{plan_id}")["revision"]
            taken, shares = [], []
            for index in range(5 if count < 500 else 3):
                before = plain_loop()
                edit = {"op": "set_draw", "device": f"{name}-{index}", "state": "peak", "text": f"{300 + index}mA"}
                seconds, view = answered(
                    address, f"/api/plans/{plan_id}/edits", {"revision": revision, "edits": [edit]}
                )
                revision = view["revision"]
                taken.append(seconds)
                shares.append(2 * seconds / (before + plain_loop()))
            note = loops(statistics.median(shares), count / (20 if count < 500 else 10))
            line(f"Edit over HTTP, {count} devices, {state}, median", statistics.median(taken), limit, note)


def shelf_and_compare(address: str) -> None:
    rows = "".join(f"own-{n},Own camera {n},device,5,4.5,5.5,10mA,{n % 300 + 1}mA,400mA\n" for n in range(2000))
    head = "key,name,kind,nominal_v,min_v,max_v,idle,typical,peak\n"
    request(address, "/api/shelf/csv", {"text": head + rows})
    found = timed(lambda: request_text(address, "/api/shelf?q=camera%201999"), 20)
    line("Shelf search over HTTP with 2,000 parts, p95", p95(found), 0.05)
    copies = [request(address, "/api/plans/1/copy", {"name": f"copy {n}"})["id"] for n in range(2)]
    ids = "&".join(f"ids={n}" for n in (1, 2, *copies))
    line(
        "Compare of four plans over HTTP, p95",
        p95(timed(lambda: request_text(address, f"/api/plans/compare?{ids}"), 10)),
        0.5,
    )


def request_text(address: str, path: str) -> bytes:
    with urllib.request.urlopen(address + path, timeout=60) as answer:
        found: bytes = answer.read()
    return found


def first_page(address: str) -> None:
    found = program()
    if found is None:
        print("Chromium is not installed; the first page was not timed.")
        return
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        browser = launched(playwright, found)
        taken = []
        for _ in range(4):
            page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
            start = time.perf_counter()
            page.goto(f"{address}/plans/1/rails")
            page.get_by_role("group", name="Rails, tracks to scale in amps").wait_for()
            taken.append(time.perf_counter() - start)
        browser.close()
    line("First page until the yard is drawn, warm server, median", statistics.median(taken), 0.8)


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="yard bench", description=__doc__)
    parser.add_argument(
        "--faults",
        type=int,
        default=8,
        metavar="N",
        help="every N-th fault of each demo plan is searched for; 1 takes half an hour",
    )
    options = parser.parse_args(arguments)
    loop = [plain_loop() for _ in range(40)]
    note = f"   median {statistics.median(loop) * 1e3:.0f} ms, p95 {p95(loop) * 1e3:.0f} ms: how steady this machine is now"
    line("A plain loop of 200,000 multiplications, fastest", min(loop), note=note)
    gc.collect()
    gc.freeze()  # as the server does once it is loaded
    faulty, cured = demo.plan("marshlight-as-soldered"), demo.plan("marshlight-second-wiring")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for plan in (faulty, cured):
            solved = statistics.median(timed(partial(solve_conditions, plan)))
            spice = in_ngspice(plan, folder)
            ratio = f"   ngspice {spice * 1e3:.0f} ms, ratio {spice / solved:.0f}" if spice else ""
            line(f"All conditions of Marshlight, {plan.name}", solved, 0.03, ratio)
            noise_of_marshlight(plan, folder)
        line("Whole analysis of Marshlight, as soldered, p95", p95(timed(lambda: analyse(faulty))), 0.1)
        big = large_plan(cured, 200)
        line("Whole analysis of 200 devices", statistics.median(timed(lambda: analyse(big), 3)), 1.0)
        crowd = solve_conditions(big)
        line("Noise of 200 devices", statistics.median(timed(lambda: review_noise(crowd), 3)), 1.0)
        run = statistics.median(timed(lambda: spread(faulty, samples=2000), 2))
        one = in_ngspice(faulty, folder)
        ratio = (
            f"   ngspice, 2,000 times its six conditions: {one * 2000:.0f} s, ratio {one * 2000 / run:.0f}"
            if one
            else ""
        )
        line("2,000 tolerance samples × 6 conditions, as soldered", run, 5.0, ratio)
        runs_of_marshlight(folder)
        a_long_one(large_plan(cured, 60))
        list_and_search(options.faults)
        from_symptoms(options.faults)
        wirings_proposed(options.faults)
        hands_on_lists(options.faults)
        with Serving(folder) as address:
            noise_over_http(address)
            shelf_and_compare(address)
            first_page(address)
        with on_one_core(), Serving(folder) as address:
            over_http(address)
            large_over_http(address)
        beside_lookers(folder)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
