"""Tolerance runs: seeded Monte Carlo over draws, set points and pack resistance, in the batched solver.

Answers how likely each rail is asked for more than it can give and each device to brown out, and what to measure next:
the number whose uncertainty moves the worst margin most.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.answers.model import Answer, Budget
from yardmeter.core.answers.operating import Operating, exceeds_limits
from yardmeter.core.answers.rails import draw_band_frac
from yardmeter.core.network import BranchTable, Network, Situation, build_network
from yardmeter.core.network.keys import device_key, ground_node, pin_node, supply_key
from yardmeter.core.once import cached_property
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Condition, Device, Plan, Regulator
from yardmeter.core.solver.circuit import Circuit, Emfs, Floats, Loads, Solution
from yardmeter.core.solver.dc import solve_dc, solve_dc_near
from yardmeter.core.solver.rows import take_rows

CHUNK = 500
"""Samples solved together; bounds the memory a run takes."""


class RailRisk(Answer):
    """Chance that a rail is asked for more than it can give, in its worst condition; amps at the 5 and 95 % points."""

    rail: str
    condition: str
    chance_frac: float
    asked_low_a: float
    asked_high_a: float
    usable_a: float


class DeviceRisk(Answer):
    """Chance that a device falls below its reset voltage, in its worst condition; volts at the 5 and 95 % points."""

    device: str
    condition: str
    chance_frac: float
    pin_low_v: float
    pin_high_v: float
    reset_v: float


class MeasureNext(Answer):
    """One uncertain number and the share of the worst margin's variance it explains."""

    element: str
    name: str
    what: str
    share_frac: float
    band_frac: float


class Spread(Answer):
    samples: int
    seed: int
    rails: tuple[RailRisk, ...]
    devices: tuple[DeviceRisk, ...]
    worst_rail: str | None
    worst_condition: str | None
    measure_next: tuple[MeasureNext, ...]


@dataclass(frozen=True)
class _Factors:
    """Relative values per sample, each (samples, count), 1 being the plan's own number."""

    draws: Floats
    set_points: Floats
    pack_ohm: Floats


@dataclass(frozen=True)
class _Column:
    """What a sampled condition yields per sample: rail amps asked (samples, rails) and pin volts (samples, devices)."""

    asked_a: Floats
    pins_v: Floats

    def first(self, samples: int) -> _Column:
        return _Column(self.asked_a[:samples], self.pins_v[:samples])

    def followed_by(self, more: _Column) -> _Column:
        return _Column(np.concatenate([self.asked_a, more.asked_a]), np.concatenate([self.pins_v, more.pins_v]))


class SpreadRun:
    """A tolerance run that can be gone on with: what was solved for fewer samples stays.

    Draws spread uniformly over their band, set points over their tolerance, pack resistance over its own. Source: our
    choice of flat distributions, which assume no more than the bands say.
    """

    def __init__(self, plan: Plan, seed: int = 1) -> None:
        self.plan, self.seed = plan, seed
        self._regulators = [s for s in plan.supplies if isinstance(s, Regulator)]
        self._columns: dict[str, _Column] = {}
        self.samples = 0
        """Samples solved so far."""

    @cached_property
    def _solved(self) -> Solved:
        return solve_conditions(self.plan)

    @cached_property
    def _known(self) -> Budget:
        return budget(self._solved)

    def _unit(self, samples: int) -> Floats:
        """The run's first samples, each number in −1…1: the same ones however many are asked for."""
        count = len(self.plan.devices) + len(self._regulators) + 1
        return np.random.default_rng(self.seed).uniform(-1, 1, (samples, count))

    def reach(self, samples: int) -> None:
        """Solve what is missing up to so many samples. Broken off in between, the run stands where it stood."""
        if samples <= self.samples:
            return
        unit = self._unit(samples)[self.samples :]
        more = {}
        for condition in self.plan.conditions:
            factors = _factors(self.plan, condition, self._regulators, unit)
            more[condition.id] = _sample(self._solved.table, condition, self._regulators, factors)
        known = self._columns
        self._columns = {name: known[name].followed_by(one) if name in known else one for name, one in more.items()}
        self.samples = samples

    def pins_v(self, condition_id: str) -> Floats:
        """Volts at every device's pins in the samples solved so far (samples, devices)."""
        return self._columns[condition_id].pins_v

    def answer(self, samples: int) -> Spread:
        """What the first `samples` say; solves what is missing of them."""
        self.reach(samples)
        columns = {name: one.first(samples) for name, one in self._columns.items()}
        return _answer(self.plan, self._known, self._regulators, columns, self._unit(samples), self.seed)


def spread(plan: Plan, *, samples: int = 2000, seed: int = 1) -> Spread:
    """Run the samples over all conditions."""
    return SpreadRun(plan, seed).answer(samples)


def _answer(
    plan: Plan, known: Budget, regulators: list[Regulator], columns: dict[str, _Column], unit: Floats, seed: int
) -> Spread:
    rails = tuple(_rail_risks(plan, known, columns))
    devices = tuple(_device_risks(plan, known, columns))
    worst = _worst_margin(plan, known)
    ranked = tuple(_rank(plan, columns, unit, regulators, worst)) if worst else ()
    return Spread(
        samples=unit.shape[0],
        seed=seed,
        rails=rails,
        devices=devices,
        worst_rail=worst[0] if worst else None,
        worst_condition=worst[1] if worst else None,
        measure_next=ranked[:5],
    )


def _factors(plan: Plan, condition: Condition, regulators: list[Regulator], unit: Floats) -> _Factors:
    count = len(plan.devices)
    bands = np.array([draw_band_frac(plan, device, condition) for device in plan.devices])
    tolerances = np.array([s.set_tol_frac for s in regulators])
    draws = np.maximum(1 + unit[:, :count] * bands, 0.02)
    return _Factors(draws, 1 + unit[:, count:-1] * tolerances, 1 + unit[:, -1:] * plan.pack.resistance_tol_frac)


def _sample(table: BranchTable, condition: Condition, regulators: list[Regulator], factors: _Factors) -> _Column:
    """Solve all samples without limits, then again with limits those in which something would cut off."""
    free = build_network(table, [Situation(condition, limited=False)])
    bound = build_network(table, [Situation(condition)])
    free_base, bound_base = solve_dc(free.circuit, free.assembly), solve_dc(bound.circuit, bound.assembly)
    asked, pins = [], []
    for start in range(0, factors.draws.shape[0], CHUNK):
        go_on()
        part = _Factors(*(one[start : start + CHUNK] for one in (factors.draws, factors.set_points, factors.pack_ohm)))
        op = _near(free, free_base, regulators, part)
        asked.append(op.rail_demand_a())
        volts = op.solution.volts.copy()
        over = np.flatnonzero(exceeds_limits(op))
        if over.size:
            cut = _Factors(part.draws[over], part.set_points[over], part.pack_ohm[over])
            volts[over] = _near(bound, bound_base, regulators, cut).solution.volts
        pins.append(_pins_v(bound, volts))
    return _Column(np.concatenate(asked), np.concatenate(pins))


def _near(network: Network, base: Solution, regulators: list[Regulator], factors: _Factors) -> Operating:
    group = np.zeros(factors.draws.shape[0], np.int64)
    varied = _vary(network, take_rows(network.circuit, group), regulators, factors)
    return Operating(replace(network, circuit=varied), solve_dc_near(varied, base, group, network.assembly))


def _vary(network: Network, circuit: Circuit, regulators: list[Regulator], f: _Factors) -> Circuit:
    loads, emfs, conv = circuit.loads, circuit.emfs, circuit.converters
    value = loads.value.copy()
    for column, device in enumerate(network.plan.devices):
        index = network.table.load[device_key(device.id)]
        inverse = device.law in ("resistance", "led")
        value[:, index] = value[:, index] / f.draws[:, column] if inverse else value[:, index] * f.draws[:, column]
    set_v = conv.set_v.copy()
    for column, supply in enumerate(regulators):
        set_v[:, network.table.converter[supply_key(supply.id)]] *= f.set_points[:, column]
    return replace(
        circuit,
        loads=Loads(loads.p, loads.n, loads.law, value, loads.knee_v),
        emfs=Emfs(emfs.a, emfs.b, emfs.volts, emfs.siemens / f.pack_ohm),
        converters=replace(conv, set_v=set_v),
    )


def _pins_v(network: Network, volts: Floats) -> Floats:
    pins = [network.node[pin_node(d.id)] for d in network.plan.devices]
    grounds = [network.node[ground_node(d.id)] for d in network.plan.devices]
    across: Floats = volts[:, pins] - volts[:, grounds]
    return across


def _rail_risks(plan: Plan, known: Budget, columns: dict[str, _Column]) -> Iterator[RailRisk]:
    for position, rail in enumerate(plan.rails):
        states = next(r for r in known.rails if r.id == rail.id).states
        found = []
        for condition in plan.conditions:
            state, asked = states[condition.id], columns[condition.id].asked_a[:, position]
            if state.limits:
                found.append(
                    (
                        float(np.mean(asked > state.usable_a)),
                        float(np.median(asked) / state.usable_a),
                        condition.id,
                        asked,
                        state.usable_a,
                    )
                )
        if found:
            chance, _, worst, asked, usable = max(found, key=lambda item: item[:2])
            low, high = np.percentile(asked, [5, 95])
            yield RailRisk(
                rail=rail.id, condition=worst, chance_frac=chance, asked_low_a=low, asked_high_a=high, usable_a=usable
            )


def _device_risks(plan: Plan, known: Budget, columns: dict[str, _Column]) -> Iterator[DeviceRisk]:
    for position, device in enumerate(plan.devices):
        states = next(d for d in known.devices if d.id == device.id).states
        live = [c for c in plan.conditions if states[c.id].verdict not in ("off", "dead", "unknown")]
        if not live:
            continue
        chances = [
            (float(np.mean(columns[c.id].pins_v[:, position] < device.reset_v)), -states[c.id].pin_v, c.id)
            for c in live
        ]
        chance, _, worst = max(chances)
        low, high = np.percentile(columns[worst].pins_v[:, position], [5, 95])
        yield DeviceRisk(
            device=device.id,
            condition=worst,
            chance_frac=chance,
            pin_low_v=low,
            pin_high_v=high,
            reset_v=device.reset_v,
        )


def _worst_margin(plan: Plan, known: Budget) -> tuple[str, str] | None:
    """The rail and condition with the smallest share of its usable amps to spare; the pack's own rail is not asked."""
    margins = [
        (state.own_spare_a / state.usable_a, rail.id, condition)
        for rail in known.rails
        if rail.id != plan.pack.rail and any(d.feed and d.feed.rail == rail.id for d in plan.devices)
        for condition, state in rail.states.items()
        if state.usable_a > 0 and plan.condition(condition).on_pack
    ]
    return min(margins)[1:] if margins else None


def _rank(
    plan: Plan,
    columns: dict[str, _Column],
    unit: Floats,
    regulators: list[Regulator],
    worst: tuple[str, str],
) -> Iterator[MeasureNext]:
    """Uncertain numbers by the share of the worst rail's variance they explain: squared correlation, inputs independent."""
    rail = next(i for i, r in enumerate(plan.rails) if r.id == worst[0])
    condition = plan.condition(worst[1])
    asked = columns[condition.id].asked_a[:, rail]
    if float(np.std(asked)) < 1e-9:
        return
    names: list[tuple[str, str, str, float]] = [
        (d.id, d.name, _draw_words(d, condition), draw_band_frac(plan, d, condition)) for d in plan.devices
    ]
    names += [(s.id, s.name, "set point", s.set_tol_frac) for s in regulators]
    names.append(("pack", plan.pack.name, "resistance", plan.pack.resistance_tol_frac))
    centred = unit - unit.mean(axis=0)
    shares = (centred * (asked - asked.mean())[:, None]).mean(axis=0) ** 2 / (centred.var(axis=0) * asked.var())
    for index in np.argsort(-shares):
        element, name, what, band = names[int(index)]
        if shares[index] > 0.01 and band > 0:
            yield MeasureNext(element=element, name=name, what=what, share_frac=float(shares[index]), band_frac=band)


def _draw_words(device: Device, condition: Condition) -> str:
    return "current at full throttle" if device.throttle else f"{condition.state_of(device.id)} draw"
