"""Numbers a flight settles: the pack's volts at rest and its resistance, the motors' amps over throttle, what the rest draws.

Each comes with its error at 95 %. What is left over hangs together for seconds: errors count stretches, not rows.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.model import Answer
from yardmeter.core.flights.flight import Flight
from yardmeter.core.flights.phases import phases
from yardmeter.core.network.in_time import POLARISED_FRAC, POLARISED_S
from yardmeter.core.network.loads import throttle_amps
from yardmeter.core.physics.pack import REST_CURVE, charge_left_frac
from yardmeter.core.plan import Device, Plan
from yardmeter.core.solver.circuit import Bools, Floats

HUBER = 1.345
"""Residuals of more deviations weigh less: 95 % efficient on a normal error. Source: Huber 1981, from memory."""
ROUNDS = 12
STRETCH_S = 6.0
"""Errors closer than this may hang together; our choice, longer than a motor's lag and a hand's correction."""
LEAST_ROWS, LEAST_STRETCHES = 60, 8
STEADY_S, STEADY_FRAC = 0.35, 0.012
"""Throttle that stayed within this for so long: the motors have followed."""
LEAST_SWING = 0.15
"""Amps have to swing by this part of their greatest for a resistance to be told; our choice."""
CURVES = 4
"""Powers of the charge taken that the pack's rest volts are let follow."""

Told = Literal["fitted", "not told apart", "not recorded"]


class Fit(Answer):
    """One number: what the plan says, what the flight says, and the error of that at 95 %; `why` where it is not told."""

    key: str
    name: str
    unit: str
    planned: float | None
    fitted: float | None
    error: float | None
    told: Told
    why: str = ""


class PhaseDraw(Answer):
    kind: str
    seconds: float
    amps_a: float | None
    error_a: float | None
    least_v: float | None


@dataclass(frozen=True)
class Line:
    """Coefficients of a robust regression with their errors at 95 %, and what is left over (t,)."""

    beta: Floats
    error: Floats
    left: Floats
    stretches: int


def robust_line(design: Floats, seen: Floats, stretch: Floats) -> Line | None:
    """Huber's regression of `seen` (t,) on `design` (t, k). `stretch` (t,) numbers the stretches errors are counted by. None where
    the columns cannot be told apart, or there are too few stretches."""
    count = int(np.unique(stretch).size)
    if seen.size < LEAST_ROWS or count < max(LEAST_STRETCHES, design.shape[1] + 4):
        return None
    if not (np.isfinite(design).all() and np.isfinite(seen).all()):
        return None
    scale = np.maximum(np.abs(design).max(axis=0), 1e-12)
    X = design / scale
    if np.linalg.cond(X) > 1e7:
        return None
    weights = np.ones(seen.size)
    beta = np.zeros(X.shape[1])
    for _ in range(ROUNDS):
        beta = np.linalg.lstsq(X * np.sqrt(weights)[:, None], seen * np.sqrt(weights), rcond=None)[0]
        left = seen - X @ beta
        spread = max(float(np.median(np.abs(left - np.median(left)))) / 0.6745, 1e-12)
        weights = np.minimum(1.0, HUBER * spread / np.maximum(np.abs(left), 1e-12))
    left = seen - X @ beta
    without = _left_out(X * np.sqrt(weights)[:, None], seen * np.sqrt(weights), stretch)
    spread_of = np.sqrt((count - 1) / count * ((without - without.mean(axis=0)) ** 2).sum(axis=0))
    # What is held back does not follow its coefficients at all, where weights let it follow in part (Huber 1981, 6.5, from memory).
    held = float(weights.mean() / max((weights >= 1.0).mean(), 0.2))
    error = held * spread_of * _student(max(count - X.shape[1], 1))
    return Line(beta / scale, error / scale, left, count)


def _student(freedom: int) -> float:
    """Standard errors that 95 of a hundred lie within, of as many degrees of freedom."""
    from scipy.special import stdtrit  # loaded when a flight is fitted, not when a server starts

    return float(stdtrit(freedom, 0.975))


def _left_out(X: Floats, y: Floats, stretch: Floats) -> Floats:
    """Coefficients with each stretch left out in turn (stretches, k): their scatter is the error, whatever hangs together within one
    and however few rows carry it (the delete-a-group jackknife; Shao and Tu 1995)."""
    _, of = np.unique(stretch, return_inverse=True)
    count, k = int(of.max()) + 1, X.shape[1]
    squares, products = np.zeros((count, k, k)), np.zeros((count, k))
    np.add.at(squares, of, X[:, :, None] * X[:, None, :])
    np.add.at(products, of, X * y[:, None])
    # What only one stretch has seen cannot be told without it: it is left at nothing then.
    inverse = np.linalg.pinv(squares.sum(axis=0) - squares, rcond=1e-10, hermitian=True)
    found: Floats = np.einsum("gij,gj->gi", inverse, products.sum(axis=0) - products)
    return found


def stretches_of(times_s: Floats, length_s: float = STRETCH_S) -> Floats:
    found: Floats = np.floor(times_s / length_s)
    return found


def charge_taken_ah(flight: Flight) -> Floats:
    """Charge taken since the first row [Ah]: the recorder's own where it counts, else the sum of its amps."""
    if "charge" in flight.series and np.isfinite(flight.series["charge"]).any():
        own = flight.series["charge"]
        known = np.isfinite(own)
        filled = np.interp(flight.times_s, flight.times_s[known], own[known])
        counted: Floats = filled - filled[0]
        return counted
    own = flight.series["amps"]
    known = np.isfinite(own)
    amps = np.interp(flight.times_s, flight.times_s[known], own[known]) if known.any() else np.zeros(own.size)
    middle = (amps + np.concatenate([amps[:1], amps[:-1]])) / 2
    found: Floats = np.cumsum(middle * flight.steps_s()) / 3600
    return found


def fits(plan: Plan, flight: Flight) -> tuple[Fit, ...]:
    """Every number a flight may settle, with why where it does not."""
    return (*_pack(plan, flight), *_motors(plan, flight), *_hottest(flight))


def _hottest(flight: Flight) -> tuple[Fit, ...]:
    """The most of each temperature, as it was read."""
    return tuple(
        Fit(
            key=f"most.{name}",
            name=f"{name.partition(':')[2]}, hottest",
            unit="°C",
            planned=None,
            fitted=float(np.nanmax(values)),
            error=None,
            told="fitted",
        )
        for name, values in flight.series.items()
        if name.startswith("temp:") and np.isfinite(values).any()
    )


def lead_ohm(plan: Plan) -> float:
    """What stands between the cells and the board where a recorder measures, leads and grounds with all they share [Ω]: by the plan's
    own operating point, of the motors at half throttle."""
    flown = [one for one in plan.conditions if tuple(one.energy) == ("pack",)]
    if not flown:
        return 0.0
    half = flown[0].model_copy(update={"throttle_frac": 0.5, "id": "half", "name": "Half throttle"})
    view = solve_conditions(plan.model_copy(update={"conditions": (half,), "scenarios": ()})).given["half"]
    if not view.converged or view.pack_a < 0.05:
        return 0.0
    whole = (view.rest_v - view.rail_v(plan.pack.rail)) / view.pack_a
    return max(whole - plan.pack.internal_ohm, 0.0)


def _pack(plan: Plan, flight: Flight) -> tuple[Fit, ...]:
    pack = plan.pack
    planned = pack.cell_ohm
    base = {"key": "pack.cell_ohm", "name": "pack, resistance of a cell", "unit": "Ω", "planned": planned}
    emf = {"key": "pack.rest_v", "name": "pack at rest, first row", "unit": "V", "planned": None}
    sag = {
        "key": "pack.sag_ohm",
        "name": "sag of the board per ampere, leads and all",
        "unit": "Ω",
        "planned": pack.internal_ohm + lead_ohm(plan),
    }

    def none(told: Told, why: str) -> tuple[Fit, ...]:
        return tuple(Fit(**one, fitted=None, error=None, told=told, why=why) for one in (base, emf, sag))

    if "volts" not in flight.series or "amps" not in flight.series:
        return none("not recorded", "It takes the pack's volts and amps side by side.")
    known = flight.known("volts", "amps")
    amps, volts = flight.series["amps"][known], flight.series["volts"][known]
    if (
        amps.size < LEAST_ROWS
        or float(np.ptp(amps)) < LEAST_SWING * max(float(amps.max()), 1e-9)
        or float(np.ptp(amps)) < 0.5
    ):
        return none("not told apart", "The amps hardly change: a punch or two would tell it.")
    taken = charge_taken_ah(flight)[known]
    size = max(float(taken.max()), 1e-9)
    lead = lead_ohm(plan)
    through = (1 - POLARISED_FRAC) * amps + POLARISED_FRAC * lagging(flight.times_s[known], amps, POLARISED_S)
    powers = [np.ones(amps.size), through] + [(taken / size) ** k for k in range(1, CURVES + 1)]
    cells_v = volts + lead * amps
    curve_v = rest_curve_v(plan, float(np.median(cells_v[:5] + pack.internal_ohm * through[:5])), taken)
    line = robust_line(np.stack(powers, axis=1), cells_v - curve_v, stretches_of(flight.times_s[known]))
    if line is None:
        return none("not told apart", "Too short, or its amps go with the charge taken alone.")
    ohm, error = -float(line.beta[1]), float(line.error[1])
    cell, cell_error = ohm * pack.parallel / pack.series, error * pack.parallel / pack.series
    if cell <= 0 or cell_error > cell:
        return none(
            "not told apart",
            f"What comes out, {cell * 1e3:.2g} ± {cell_error * 1e3:.2g} mΩ, is no resistance of a cell.",
        )
    return (
        Fit(**base, fitted=cell, error=cell_error, told="fitted"),
        Fit(**emf, fitted=float(line.beta[0]) + float(curve_v[0]), error=float(line.error[0]), told="fitted"),
        Fit(
            **sag,
            fitted=cell * pack.series / pack.parallel + lead,
            error=cell_error * pack.series / pack.parallel,
            told="fitted",
        ),
    )


def rest_curve_v(plan: Plan, first_v: float, taken_ah: Floats) -> Floats:
    """Rest volts by the chemistry's curve, begun at these of the first row (t,) [V]; what the pack has of its own is fitted on top."""
    pack = plan.pack
    points = sorted(REST_CURVE[pack.chemistry])
    fracs, cells = [p[0] for p in points], [p[1] for p in points]
    left = charge_left_frac(pack.chemistry, first_v / pack.series) - taken_ah / pack.charge_ah
    found: Floats = pack.series * np.interp(left, fracs, cells)
    return found


def lagging(times_s: Floats, values: Floats, tau_s: float) -> Floats:
    """Values that follow with a time constant, begun at the first (t,)."""
    decay = np.exp(-np.diff(times_s) / tau_s)
    middle = (values[1:] + values[:-1]) / 2
    found = np.empty(values.size)
    found[0] = last = float(values[0])
    for k, (left, aim) in enumerate(zip(decay.tolist(), middle.tolist(), strict=True), 1):
        last = aim + (last - aim) * left
        found[k] = last
    return found


def _motors(plan: Plan, flight: Flight) -> tuple[Fit, ...]:
    """The motors' amps at full throttle, their curve scaled as a whole, and what everything else draws from the pack."""
    motors = [one for one in plan.devices if one.throttle]
    full_a = sum(throttle_amps(one, 1.0) for one in motors)
    top = {"key": "motors.full_a", "name": "motors at full throttle", "unit": "A", "planned": full_a or None}
    rest = {"key": "rest_a", "name": "everything else, from the pack", "unit": "A", "planned": None}

    def none(told: Told, why: str) -> tuple[Fit, ...]:
        return tuple(Fit(**one, fitted=None, error=None, told=told, why=why) for one in (top, rest))

    if not motors:
        return none("not told apart", "The plan has no motors with a throttle curve.")
    if "throttle" not in flight.series or "amps" not in flight.series:
        return none("not recorded", "It takes throttle and amps side by side.")
    ok = steady(flight) & flight.known("amps")
    amps, throttle = flight.series["amps"][ok], flight.series["throttle"][ok]
    if amps.size < LEAST_ROWS or float(np.ptp(throttle)) < 0.1:
        return none("not told apart", "The throttle hardly stood still at two different settings.")
    curve = curve_a(motors, throttle)
    # What regulators feed takes watts: its amps rise as the pack falls.
    rest_of = np.ones(amps.size)
    if "volts" in flight.series:
        volts = flight.series["volts"][ok]
        usual = max(float(np.nanmedian(volts)), 0.1) if np.isfinite(volts).any() else 1.0
        rest_of = usual / np.where(np.isfinite(volts) & (volts > 0.3 * usual), volts, usual)
    line = robust_line(np.stack([rest_of, curve], axis=1), amps, stretches_of(flight.times_s[ok]))
    if line is None:
        return none("not told apart", "Too few stretches of steady throttle.")
    if line.beta[1] <= line.error[1]:
        return none(
            "not told apart",
            "The amps do not rise with the throttle: are they those of the pack, and the right way round?",
        )
    return (
        Fit(**top, fitted=float(line.beta[1]) * full_a, error=float(line.error[1]) * full_a, told="fitted"),
        Fit(**rest, fitted=float(line.beta[0]), error=float(line.error[0]), told="fitted"),
    )


def curve_a(motors: list[Device], throttle: Floats) -> Floats:
    """The motors' amps by the plan at each throttle (t,) [A]."""
    grid = np.linspace(0, 1, 201)
    total = np.array([sum(throttle_amps(one, float(at)) for one in motors) for at in grid])
    found: Floats = np.interp(throttle, grid, total)
    return found


def steady(flight: Flight) -> Bools:
    """Rows at which the throttle has stood still for long enough that the motors have followed (t,)."""
    times, throttle = flight.times_s, flight.series["throttle"]
    known = np.isfinite(throttle)
    filled = np.interp(times, times[known], throttle[known]) if known.any() else np.zeros(times.size)
    since = np.searchsorted(times, times - STEADY_S, side="left")
    moved = np.concatenate([[0.0], np.cumsum(np.abs(np.diff(filled)))])
    found: Bools = known & (moved - moved[since] <= STEADY_FRAC) & (times - times[0] >= STEADY_S)
    for gap in flight.gaps:
        found &= ~((times >= times[gap]) & (times < times[gap] + STEADY_S))
    return found


def phase_draws(flight: Flight) -> tuple[PhaseDraw, ...]:
    """What was drawn in each kind of phase, with the error of its mean, and the least volts in it."""
    found = []
    amps, volts, times = flight.series.get("amps"), flight.series.get("volts"), flight.times_s
    kinds: dict[str, Bools] = {}
    for one in phases(flight):
        kinds.setdefault(one.kind, np.zeros(times.size, bool))
        kinds[one.kind] |= (times >= one.from_s) & (times < one.to_s)
    steps = flight.steps_s()
    for kind, inside in kinds.items():
        mean = error = least = None
        if amps is not None and (known := inside & np.isfinite(amps)).any():
            mean = float(amps[known].mean())
            stretches = stretches_of(times[known])
            means = np.array([amps[known][stretches == k].mean() for k in np.unique(stretches)])
            if means.size > 2:
                error = float(means.std(ddof=1) / np.sqrt(means.size) * _student(means.size - 1))
        if volts is not None and (known := inside & np.isfinite(volts)).any():
            least = float(volts[known].min())
        found.append(
            PhaseDraw(kind=kind, seconds=float(steps[inside].sum()), amps_a=mean, error_a=error, least_v=least)
        )
    return tuple(found)
