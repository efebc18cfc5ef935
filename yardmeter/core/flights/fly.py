"""A simulated recorder: flies a plan in time with hidden values of its own, and writes what a recorder would: noise, steps, drop-outs."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.rails import draw_band_frac
from yardmeter.core.errors import YardError
from yardmeter.core.plan import Condition, Plan, Scenario, load_plan
from yardmeter.core.plan.scenarios import ScenarioAct, Throttle
from yardmeter.core.runs.run import Run, run_scenario
from yardmeter.core.solver.circuit import Floats

RATE_HZ = 10.0
NOISE_V, NOISE_A = 0.01, 0.15
"""Deviation of the recorder's volts and amps; our choice, of a shunt amplifier and a ten-bit divider."""
STEP_V, STEP_A = 0.01, 0.1
"""What it rounds to."""
DROPS = 0.002
"""Share of rows it loses."""


@dataclass(frozen=True)
class Hidden:
    """What the craft really is: factors on the plan's own numbers."""

    cell: float
    motors: float
    draws: dict[str, float]


def drawn(plan: Plan, seed: int) -> Hidden:
    """Hidden values within the plan's bands, evenly."""
    rng = np.random.default_rng(seed)
    begins = _begins(plan)
    cell = 1 + plan.pack.resistance_tol_frac * float(rng.uniform(-1, 1))
    motors = 1 + 0.1 * float(rng.uniform(-1, 1))
    draws = {
        one.id: 1 + draw_band_frac(plan, one, begins) * float(rng.uniform(-1, 1))
        for one in plan.devices
        if not one.throttle
    }
    return Hidden(cell, motors, draws)


def _begins(plan: Plan) -> Condition:
    found = [one for one in plan.conditions if tuple(one.energy) == ("pack",)]
    if not found:
        raise YardError("No condition of this plan is on the pack alone.", where="conditions", remedy="Add one: a flight begins in it.")  # fmt: skip
    return min(found, key=lambda one: one.throttle_frac)


def really(plan: Plan, hidden: Hidden) -> Plan:
    """The plan with the hidden values in the place of its own."""
    data = plan.model_dump(mode="json")
    data["pack"]["cell_ohm"] *= hidden.cell
    for one in data["devices"]:
        if one["throttle"]:
            for point in one["throttle"]:
                point["amps"] *= hidden.motors
        else:
            for draw in one["draws"].values():
                if draw:
                    draw["value"] *= hidden.draws[one["id"]]
    return load_plan(data)


def flown(plan: Plan, seed: int = 1, minutes: float = 5.0) -> Scenario:
    """A flight as a hand flies: rest, hover with corrections, punches, a landing, rest."""
    if not any(one.throttle for one in plan.devices):
        raise YardError("This craft has no motors with a throttle curve: nothing of it flies.", where="plan", remedy="Give a motor group its amps over throttle first.")  # fmt: skip
    rng = np.random.default_rng(seed + 10_000)
    duration, hover = 60.0 * minutes, 0.35
    acts: list[ScenarioAct] = []
    at, to = 5.0, hover
    acts.append(Throttle(at_s=at, to_frac=hover, over_s=1.5))
    at += 3.0
    while at < duration - 18 and len(acts) < 370:
        if rng.random() < 0.08:
            acts.append(Throttle(at_s=at, to_frac=float(rng.uniform(0.8, 1.0)), over_s=0.2))
            at += float(rng.uniform(1.0, 2.5))
            acts.append(Throttle(at_s=at, to_frac=to, over_s=0.3))
            at += 1.0
        else:
            to = float(np.clip(hover + 0.09 * rng.normal(), 0.2, 0.65))
            acts.append(Throttle(at_s=at, to_frac=to, over_s=0.3))
            at += float(rng.uniform(1.2, 2.6)) * max(minutes / 5.0, 1.0)
    acts.append(Throttle(at_s=at, to_frac=0.2, over_s=6.0))
    acts.append(Throttle(at_s=at + 8.0, to_frac=0.0, over_s=0.5))
    return Scenario(id="flown", name="Flown", begins=_begins(plan).id, duration_s=duration, pack_state="full", air="moving", acts=tuple(acts))  # fmt: skip


def recorded(plan: Plan, seed: int = 1, minutes: float = 5.0, hidden: Hidden | None = None) -> tuple[str, Hidden]:
    """A recorder's table as text, and what was hidden in the craft it flew."""
    hidden = hidden or drawn(plan, seed)
    scenario = flown(plan, seed, minutes)
    run = run_scenario(really(plan, hidden), scenario)
    if run.stuck_s is not None:
        raise YardError(f"The flight finds no way on after {run.stuck_s:.3g} s.", where="plan", remedy="Mend what its findings tell first.")  # fmt: skip
    return _written(plan, run, scenario, np.random.default_rng(seed + 20_000)), hidden


def _written(plan: Plan, run: Run, scenario: Scenario, rng: np.random.Generator) -> str:
    times = np.arange(0.0, scenario.duration_s, 1 / RATE_HZ)
    throttle = throttle_at(scenario, times)
    volts = np.interp(times, run.times_s, run.rail_v(plan.pack.rail))
    amps = np.interp(times, run.times_s, run.pack_a)
    rails = [one for one in plan.rails if one.nominal_v and run.rail_v(one.id).max() > 1.0][:3]
    hot = next((one.id for one in plan.supplies if run.converter(one.id) is not None), None)
    columns: list[tuple[str, Floats, float, float]] = [
        ("time_s", times, 0.0, 0.001),
        ("throttle (%)", 100 * throttle, 0.0, 0.1),
        ("vbat (V)", volts, NOISE_V, STEP_V),
        ("current (A)", amps, NOISE_A, STEP_A),
    ]
    for one in rails:
        columns.append((f"rail {one.name} (V)", np.interp(times, run.times_s, run.rail_v(one.id)), NOISE_V / 2, STEP_V))
    if hot is not None:
        columns.append(("temperature (C)", np.interp(times, run.times_s, run.temp_c(hot)), 0.2, 0.1))
    kept = rng.random(times.size) >= DROPS
    made = [step * np.round((own + noise * rng.normal(size=own.size)) / step) for _, own, noise, step in columns]
    out = io.StringIO()
    out.write(",".join(name.replace(",", " ") for name, *_ in columns) + "\n")
    for row in np.stack(made, axis=1)[kept]:
        out.write(",".join(f"{value:.6g}" for value in row) + "\n")
    return out.getvalue()


def throttle_at(scenario: Scenario, times_s: Floats) -> Floats:
    """Throttle of a scenario's acts over time (t,)."""
    points = [(0.0, 0.0)]
    for act in sorted((one for one in scenario.acts if one.act == "throttle"), key=lambda one: one.at_s):
        points += [(act.at_s, points[-1][1]), (act.at_s + act.over_s, act.to_frac)]
    found: Floats = np.interp(times_s, [p[0] for p in points], [p[1] for p in points])
    return found
