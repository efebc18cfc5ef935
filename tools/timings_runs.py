"""Timings of scenarios, and ngspice's time for the same netlists in one run."""

from __future__ import annotations

import shutil
import statistics
import subprocess
import time
from functools import partial
from pathlib import Path

from tools.stopwatch import line, timed
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.formats.run_netlist import write_run_netlist
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.runs import Run, find_scenario, run_scenario
from yardmeter.core.runs.chance import chances
from yardmeter.review.instant import named_instant as instant

BARS = (
    ("plug-in", 0.3, 2e-6),
    ("punch-on-low-pack", 0.4, 1e-3),
    ("bench-ten-minutes", 0.5, None),
    ("whole-flight", 1.5, None),
)
"""Scenarios with what they may take [s], and the largest step a simulator is given for the same error."""


def runs_of_marshlight(folder: Path) -> None:
    """Each scenario's median, the ratio to ngspice where it reads the netlist, 200 tolerance runs, an instant."""
    plan = demo.plan("marshlight-as-soldered")
    for name, bar_s, step_s in BARS:
        scenario = find_scenario(plan, name)
        run = run_scenario(plan, scenario)
        taken = statistics.median(timed(partial(run_scenario, plan, scenario), 5))
        spice = in_ngspice_tran(run, folder, step_s) if step_s else None
        ratio = f"   ngspice {spice * 1e3:.0f} ms, ratio {spice / taken:.1f}" if spice else ""
        line(f"{scenario.name}, {scenario.duration_s:g} s, {run.trace.steps} steps", taken, bar_s, ratio)
    punch = find_scenario(plan, "punch-on-low-pack")
    line("200 tolerance runs of the punch", statistics.median(timed(lambda: chances(plan, punch), 3)), 5.0)
    run, solved = run_scenario(plan, punch), solve_plan(plan)
    instant(run, solved, 1.0)
    line("An instant of the punch", statistics.median(timed(lambda: instant(run, solved, 0.7), 9)), 0.05)


def a_long_one(plan: Plan) -> None:
    """A large plan over 1,000 s: plugged in, then throttle and states of its devices by turns, 50 acts."""
    states = ("peak", "idle", "typical", "off")
    acts: list[dict[str, object]] = [{"act": "plug", "at_s": 1.0}]
    for k in range(49):
        device = plan.devices[(7 * k) % len(plan.devices)].id
        turn = {"act": "state", "device": device, "state": states[k % 4]}
        acts.append(
            {"at_s": 5.0 + 20 * k, **({"act": "throttle", "to_frac": k % 5 / 4, "over_s": 0.1} if k % 2 else turn)}
        )
    scenario = Scenario.model_validate({"id": "long", "name": "Long", "duration_s": 1000.0, "acts": acts})
    taken = statistics.median(timed(partial(run_scenario, plan, scenario), 3))
    line(f"{len(plan.devices)} devices, {scenario.duration_s:g} s, {len(acts)} acts", taken, 5.0)


def in_ngspice_tran(run: Run, folder: Path, step_s: float) -> float | None:
    program = shutil.which("ngspice")
    if program is None:
        return None
    file = folder / f"{run.scenario.id}.cir"
    file.write_text(write_run_netlist(run, step_s=step_s))
    started = time.perf_counter()
    subprocess.run([program, "-b", "-r", str(folder / "run.raw"), str(file)], capture_output=True, check=False)
    return time.perf_counter() - started
