"""Whether ngspice, which reads the netlists the core writes, comes to the same volts: at a point, and in time."""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
from pathlib import Path

import numpy as np

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from yardmeter.core.answers.operating import View
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.errors import YardError
from yardmeter.core.formats.netlist import node_name, write_netlist
from yardmeter.core.formats.run_netlist import names_of, write_run_netlist
from yardmeter.core.graph import graph_of
from yardmeter.core.network.keys import ground_node, pin_node, rail_node
from yardmeter.core.plan import Condition, Plan, Scenario
from yardmeter.core.runs import Run, run_scenario
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.transient.trace import Happening

LONGEST_S = 120.0
NEAR_V, NEAR_A, NEAR_FRAC = 1e-3, 1e-3, 0.01
STEP_S, LASTS_S, ACTS_S = 1e-5, 0.02, 0.004
ALIKE = 98
"""Percent of the moments that are compared: a jump a step later is no difference of volts."""
SWITCHING = (
    Happening.STOPS, Happening.STARTS, Happening.CHATTERS, Happening.HICCUPS, Happening.RETRIES, Happening.RESET,
    Happening.BACK, Happening.LOOPS,
)  # fmt: skip
"""What happens at a moment of its own, and by a hair at another one there."""


def simulator() -> str:
    """The program; where it is not here it raises, which is told as a disagreement is: nothing was asked."""
    program = shutil.which("ngspice")
    if program is None:
        raise FileNotFoundError("ngspice is not here to ask: apt install ngspice")
    return program


def said_by(program: str, file: Path) -> str:
    return subprocess.run(
        [program, "-b", str(file)], capture_output=True, text=True, timeout=LONGEST_S, check=False
    ).stdout


def point_of(program: str, plan: Plan, condition: Condition) -> dict[str, float]:
    """Volts of every node as the netlist of a condition settles; a simulator that breaks off gives none."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "plan.cir"
        file.write_text(write_netlist(plan, condition), encoding="utf-8")
        said = said_by(program, file)
    broke_off = "aborted" in said or "too small" in said
    return {} if broke_off else {n: float(v) for n, v in re.findall(r"^(\w+)\[.*\] = (\S+)\s*$", said, re.MULTILINE)}


@statement("ngspice settles where a condition's point is, on the netlist of it", share=0.03)
def points_simulated(case: Case) -> Told:
    program = simulator()
    if graph_of(case.plan).ungrounded:
        return  # a board without a way back floats wherever its leaks let it
    latches = {one.condition for one in case.found.solved.latches}
    for condition in case.plan.conditions:
        if condition.id in latches:
            continue  # told as one that stands at two volts: which of them a simulator falls to is a matter of its start
        view = case.found.solved.solved.given[condition.id]
        if not view.converged:
            continue
        theirs = point_of(program, case.plan, condition)
        if not theirs:
            yield f"{condition.id}: ngspice finds no way to the end of its netlist"
            continue
        yield from list(_far(case, condition, view, theirs))[:1]


def _far(case: Case, condition: Condition, view: View, theirs: dict[str, float]) -> Told:
    """What carries a current, against its own ground: how far the rest floats, or stays charged, is a matter of leaks."""
    solved = case.found.solved
    near = 2 * NEAR_FRAC if view.op.solution.hiccup[view.row].any() else NEAR_FRAC  # awake or asleep while it is off
    fed = [(r.id, rail_node(r.id), ground_node(case.plan.ground_of(r.id)), view.rail_v(r.id)) for r in case.plan.rails if solved.rail(r.id).states[condition.id].given_a > NEAR_A]  # fmt: skip
    fed += [(d.id, pin_node(d.id), ground_node(d.id), view.pin_v(d.id)) for d in case.plan.devices if solved.device(d.id).states[condition.id].given_a > NEAR_A]  # fmt: skip
    for name, plus, ground, mine in fed:
        their = theirs[node_name(plus)] - theirs[node_name(ground)]
        if max(abs(mine), abs(their)) > LIVE_V and abs(mine - their) > max(NEAR_V, near * abs(their)):
            yield f"{name} in {condition.id} at {mine:.4f} V, by ngspice {their:.4f} V"


@statement("ngspice moves as a run does, on the netlist of it", share=0.03)
def runs_simulated(case: Case) -> Told:
    program, device = simulator(), case.rng.choice(case.plan.devices)
    value = case.rng.choice([0.0, 0.5, 2.0]) * device.draws.peak.value
    act = {"act": "draw", "at_s": ACTS_S, "device": device.id, "value": value, "over_s": 2e-4}
    begins = case.rng.choice(case.plan.conditions).id
    own = Scenario.model_validate({"id": "own", "name": "Own", "begins": begins, "duration_s": LASTS_S, "acts": [act]})
    try:
        run = run_scenario(case.plan, own)
    except YardError:
        return  # no point to begin at: another statement
    if run.stuck_s is not None:
        yield f"the run from {begins} ends at {run.stuck_s:.6f} s"
        return
    if any(one.code in SWITCHING for one in run.events):
        return
    yield from _moved(program, run, f"from {begins} with {value:g} of {device.id}")


def moved(program: str, run: Run) -> tuple[Floats, Floats, list[str]] | None:
    """Times, node volts and node names of the netlist of a run; None where a simulator does not come to its end."""
    names = names_of(run.moving)
    nodes = [names[k] for k in range(len(names) - 1)]
    with tempfile.TemporaryDirectory() as folder:
        data, file = Path(folder) / "run.dat", Path(folder) / "run.cir"
        wanted = " ".join(f"v({n})" for n in nodes)
        control = f".control\nset wr_singlescale\nrun\nwrdata {data} {wanted}\n.endc\n.end\n"
        file.write_text(write_run_netlist(run, step_s=STEP_S).replace(".end\n", control), encoding="utf-8")
        said_by(program, file)
        found = np.loadtxt(data) if data.exists() else np.zeros((1, len(nodes) + 1))
    if found.ndim < 2 or found[-1, 0] < 0.999 * run.scenario.duration_s:
        return None
    return found[:, 0], found[:, 1:], nodes


def pin_volts(device: str, volts: Floats, nodes: list[str]) -> Floats:
    """Between the pins of a device, of node volts (times, nodes)."""
    plus, minus = (nodes.index(node_name(one(device))) for one in (pin_node, ground_node))
    across: Floats = volts[:, plus] - volts[:, minus]
    return across


def _moved(program: str, run: Run, what: str) -> Told:
    found = moved(program, run)
    if found is None:
        yield f"{what}: ngspice finds no way to the end of its netlist"
        return
    times, volts, nodes = found
    late = times > ACTS_S / 2
    bound = max(NEAR_V, NEAR_FRAC * float(np.abs(run.trace.column("volts")).max()))
    for device in run.plan.devices:
        if abs(run.load_a(device.id)[-1]) < NEAR_A:
            continue  # how long a rail keeps its charge with nothing on it is a matter of leaks
        mine, their = run.pin_v(device.id), pin_volts(device.id, volts, nodes)
        gap = float(np.percentile(np.abs(np.interp(times[late], run.times_s, mine) - their[late]), ALIKE))
        if gap > bound:
            yield f"{what}: {device.id} is {gap:.4f} V off, ends at {mine[-1]:.4f} V, by ngspice {their[-1]:.4f} V"
            return
