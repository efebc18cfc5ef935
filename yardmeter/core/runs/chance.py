"""How likely each device resets in a scenario: many runs as one batch, draws, set points and pack resistance within their bands."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.rails import draw_band_frac
from yardmeter.core.network import Situation
from yardmeter.core.network.keys import supply_key
from yardmeter.core.plan import Plan, Regulator, Scenario
from yardmeter.core.runs.timetable import Spread, beginning, timetable
from yardmeter.core.solver.transient import march
from yardmeter.core.solver.transient.trace import Happening


class Chance(Answer):
    """Share of runs in which a device resets, and its pins' least volts at the 5 and 95 % points."""

    device: str
    chance_frac: float
    least_low_v: float
    least_high_v: float


class Chances(Answer):
    """Over `samples` runs of a scenario, the likeliest first; `stuck` of them found no way to their end."""

    scenario: str
    samples: int
    stuck: int
    devices: tuple[Chance, ...]


def chances(
    plan: Plan, scenario: Scenario, samples: int = 200, seed: int = 1, watch: Callable[[float], None] | None = None
) -> Chances:
    """Seeded Monte Carlo; every number is spread evenly over its band, as in a tolerance run of a condition.

    `watch` is told how far the batch is [s].
    """
    condition = beginning(plan, scenario)
    table = timetable(plan, scenario, [Situation(condition)] * samples, _spread(plan, scenario, samples, seed))
    made = table.moving
    trace = march(made.circuit, table.acts, scenario.duration_s, table.start, keep=False, watch=watch)
    sound = np.isinf(trace.stuck_s)
    reset = {(one.row, one.index) for one in trace.events if one.what is Happening.RESET}
    found = []
    for device in plan.devices:
        k = made.consumer[device.id]
        rows = [row for row in range(samples) if sound[row]]
        hit = sum((row, k) in reset for row in rows)
        low, high = np.percentile(trace.least_v[sound, k], [5, 95]) if rows else (0.0, 0.0)
        found.append(
            Chance(
                device=device.id, chance_frac=hit / max(len(rows), 1), least_low_v=float(low), least_high_v=float(high)
            )
        )
    devices = tuple(sorted(found, key=lambda one: -one.chance_frac))
    return Chances(scenario=scenario.id, samples=samples, stuck=int((~sound).sum()), devices=devices)


def _spread(plan: Plan, scenario: Scenario, samples: int, seed: int) -> Spread:
    regulators = [one for one in plan.supplies if isinstance(one, Regulator)]
    unit = np.random.default_rng(seed).uniform(-1, 1, (samples, len(plan.devices) + len(regulators) + 1))
    condition = beginning(plan, scenario)
    bands = np.array([draw_band_frac(plan, one, condition) for one in plan.devices])
    draws = {one.id: 1 + unit[:, k] * bands[k] for k, one in enumerate(plan.devices)}
    base = len(plan.devices)
    points = {supply_key(one.id): 1 + unit[:, base + k] * one.set_tol_frac for k, one in enumerate(regulators)}
    return Spread(draws, points, 1 + unit[:, -1] * plan.pack.resistance_tol_frac)
