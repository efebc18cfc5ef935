"""The plan laid over a flight: the run of what was recorded, begun at the recorded volts, and what is left over by rail."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.errors import YardError
from yardmeter.core.flights.flight import Flight
from yardmeter.core.physics.pack import CELL_STATE_V
from yardmeter.core.plan import Plan
from yardmeter.core.runs.recorded import Quantity
from yardmeter.core.runs.recording import scenario_of
from yardmeter.core.runs.run import Run, run_scenario

FIRST = 20
"""Rows the volts at the start are told from."""


class Residual(Answer):
    """What a series differs from the plan by: recorded less run."""

    series: str
    mean_v: float
    rms_v: float
    most_v: float
    at_s: float


@dataclass(frozen=True)
class Overlay:
    run: Run
    used: Quantity
    residuals: tuple[Residual, ...]


def overlay(plan: Plan, flight: Flight, use: Quantity | None = None) -> Overlay:
    """Raises YardError where the plan has no motors, or the flight neither throttle nor amps."""
    quantity: Quantity = use or ("amps" if "amps" in flight.series else "throttle")
    scenario = scenario_of(plan, flight.table(), "Flight", quantity)
    first_v = _rest_v(plan, flight)
    if first_v is not None:
        scenario = scenario.model_copy(update={"pack_state": None, "cell_v": first_v / plan.pack.series})
    run = run_scenario(plan, scenario)
    if not run.times_s.size:
        raise YardError("The plan does not run this flight.", where="plan", remedy="Mend what its findings tell first.")
    return Overlay(run, quantity, tuple(_residuals(plan, flight, run)))


def _rest_v(plan: Plan, flight: Flight) -> float | None:
    """Volts of the pack at rest when the flight begins: recorded, and what its amps took off added; None where nobody recorded."""
    volts = flight.series.get("volts")
    if volts is None or not np.isfinite(volts[:FIRST]).any():
        return None
    amps = flight.series.get("amps")
    drawn_a = float(np.nanmedian(amps[:FIRST])) if amps is not None and np.isfinite(amps[:FIRST]).any() else 0.0
    found = float(np.nanmedian(volts[:FIRST])) + drawn_a * plan.pack.internal_ohm
    states = CELL_STATE_V[plan.pack.chemistry]
    low, high = states["floor"] * plan.pack.series, states["full"] * plan.pack.series
    if not 0.9 * low <= found <= 1.06 * high:
        raise YardError(f"The flight begins at {found:.3g} V; this pack is {low:.3g} V to {high:.3g} V at rest.", where="volts", remedy="Is it this craft's flight, and are its volts in the unit that was chosen?")  # fmt: skip
    return min(found, high)


def _residuals(plan: Plan, flight: Flight, run: Run) -> list[Residual]:
    found = []
    end = float(run.times_s[-1])
    for name, seen in flight.series.items():
        if name == "volts":
            model = run.rail_v(plan.pack.rail)
        elif name.startswith("rail:") and name[5:] in plan.rail_of:
            model = run.rail_v(name[5:])
        else:
            continue
        known = np.isfinite(seen) & (flight.times_s <= end)
        if not known.any():
            continue
        left = seen[known] - np.interp(flight.times_s[known], run.times_s, model)
        at = int(np.abs(left).argmax())
        found.append(
            Residual(
                series=name, mean_v=float(left.mean()), rms_v=float(np.sqrt((left**2).mean())), most_v=float(left[at]),
                at_s=float(flight.times_s[known][at]),
            )
        )  # fmt: skip
    return found
