"""Plans for the statements to be tried on: of every topology and shelf part, edited at random, then pushed to an end of some scale."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass

from tools.random_plans import edited, random_plan
from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.once import cached_property
from yardmeter.core.parts.own_cell import may_be_its_own, own_cell
from yardmeter.core.plan import Device, Plan, Regulator
from yardmeter.core.plan.operations import Add, Edit, SetQuantity, SetValue
from yardmeter.review import Reviewed, review
from yardmeter.review.noise_review import NoiseReviewed, review_noise
from yardmeter.review.placement import Place, places

BECS = [one for one in demo.starter_parts() if one.bec]
"""Stand-alone regulators of the shelf, as the server hands them to fixes and places."""
PACKS = [one for one in demo.starter_parts() if may_be_its_own(one)]
LEAST_A = 1e-3
"""Ratings below this nobody prints."""
SHELF = 3
"""So many of them are tried for places; all take as long as a plan for each."""


@dataclass(frozen=True)
class Case:
    """One plan with its answers, each worked out once; `rng` chooses what a statement samples."""

    plan: Plan
    rng: random.Random

    @cached_property
    def found(self) -> Reviewed:
        return review(self.plan)

    @cached_property
    def sampled(self) -> tuple[Device, tuple[Place, ...]] | None:
        """One device with its places; none of a plan in which nothing can be moved."""
        movable = [one for one in self.plan.devices if one.kind != "motor"]
        if not movable:
            return None
        device = self.rng.choice(movable)
        return device, places(self.plan, device.id, None, self.rng.sample(BECS, SHELF))

    @cached_property
    def noise(self) -> NoiseReviewed:
        return review_noise(self.found.solved.solved)


def case_of(number: int, seed: int) -> Case:
    """One plan; the same for the same numbers. A tenth are shipped plans."""
    rng = random.Random(100_003 * seed + number)
    shipped = [plan for build in demo.DEMOS for plan in demo.plans(build)]
    plan = rng.choice(shipped) if rng.random() < 0.1 else random_plan(rng.randrange(10**9), devices=rng.choice([3, 8, 12]))  # fmt: skip
    for _ in range(rng.choice([0, 1, 1, 2, 3])):
        plan = _pushed(plan, rng)
    return Case(plan, rng)


def _pushed(plan: Plan, rng: random.Random) -> Plan:
    """The plan at some end: a limit met exactly, nothing fitted, few or many cells, no amps, all off, far too much."""
    for _ in range(6):
        try:
            edits = rng.choice(ENDS)(plan, rng)
            if edits:
                return apply_edits(plan, edits)
        except (YardError, IndexError):
            continue
    return edited(plan, rng)


def _exact_window(plan: Plan, rng: random.Random) -> list[Edit]:
    """A device whose least or most volts are exactly what it sees."""
    found = review(plan).solved
    device, condition = rng.choice(plan.devices), rng.choice(plan.conditions)
    pin = found.device(device.id).states[condition.id].pin_v
    field = rng.choice(["max_v", "min_v"])
    return [SetValue(element=device.id, field=field, value=pin)] if pin > 0.5 else []


def _exact_rating(plan: Plan, rng: random.Random) -> list[Edit]:
    """A regulator whose print is exactly what its rail asks."""
    supply = rng.choice([one for one in plan.supplies if isinstance(one, Regulator)])
    states = review(plan).solved.rail(supply.output).states
    asked = max(one.asked_a for one in states.values())
    values = {"rating_a": asked, "derate_frac": 1.0}
    return (
        [SetValue(element=supply.id, field=name, value=value) for name, value in values.items()]
        if asked > LEAST_A
        else []
    )


def _low_cut(plan: Plan, rng: random.Random) -> list[Edit]:
    """A regulator that cuts off well below its print."""
    supply = rng.choice([one for one in plan.supplies if isinstance(one, Regulator)])
    return [SetValue(element=supply.id, field="current_limit_a", value=supply.rating_a * rng.choice([0.1, 0.3, 0.6]))]


def _nothing_drawn(plan: Plan, rng: random.Random) -> list[Edit]:
    device = rng.choice([one for one in plan.devices if not one.throttle and one.law != "led"])
    unit = "W" if device.law == "power" else "A"
    return [SetQuantity(element=device.id, field=f"draws.{state}", text=f"0{unit}@{device.nominal_v:g}V") for state in ("idle", "typical", "peak")]  # fmt: skip


def _overload(plan: Plan, rng: random.Random) -> list[Edit]:
    device = rng.choice([one for one in plan.devices if not one.throttle and one.law != "led"])
    watts = device.draws.peak.watts_at(device.nominal_v) * rng.choice([1.5, 4, 15])
    amps = watts / device.nominal_v
    text = f"{watts:.5g}W@{device.nominal_v:g}V" if device.law == "power" else f"{amps:.5g}A@{device.nominal_v:g}V"
    return [SetQuantity(element=device.id, field="draws.peak", text=text), SetQuantity(element=device.id, field="draws.typical", text=text)]  # fmt: skip


def _all_off(plan: Plan, rng: random.Random) -> list[Edit]:
    return [SetValue(element=rng.choice(plan.conditions).id, field="default_state", value="off")]


def _cells(_plan: Plan, rng: random.Random) -> list[Edit]:
    return [SetValue(element="pack", field="series", value=rng.choice([1, 2, 3, 6, 8, 12]))]


def _not_fitted(plan: Plan, _rng: random.Random) -> list[Edit]:
    return [SetValue(element=one.id, field="fitted", value=False) for one in plan.filters]


def _own_rail(plan: Plan, rng: random.Random) -> list[Edit]:
    """A regulator nobody sells, from any rail into a rail of its own, with half of what hangs there moved to it."""
    rail, board = rng.choice(plan.rails), rng.choice(plan.boards)
    volts = rng.choice([3.3, 5.0, 8.0, 9.0, 12.0])
    values = {
        "name": "Own regulator", "kind": rng.choice(["buck", "linear", "boost", "buckboost"]), "input": rail.id, "output": "own-rail",
        "set_v": volts, "rating_a": rng.choice([0.3, 1, 3]), "input_max_v": rng.choice([6, 18, 30]), "place": "board", "dropout_v": 0.3,
    }  # fmt: skip
    return [
        Add(kind="rail", value={"id": "own-rail", "name": "Own rail", "board": board.id, "nominal_v": volts}),
        Add(kind="supply", value={"id": "own-regulator", **values}),
    ]


def _own_cell(plan: Plan, rng: random.Random) -> list[Edit]:
    """A device on a cell of its own, whether it suits it or not."""
    device = rng.choice(
        [
            d
            for d in plan.devices
            if d.kind not in ("motor", "logic") and not any(s.input == d.id for s in plan.supplies)
        ]
    )
    return list(own_cell(plan, device, rng.choice(PACKS)))


def _pack_state(plan: Plan, rng: random.Random) -> list[Edit]:
    return [SetValue(element=rng.choice([c for c in plan.conditions if c.on_pack]).id, field="pack_state", value=rng.choice(["full", "nominal", "low", "floor"]))]  # fmt: skip


def _at_random(_plan: Plan, _rng: random.Random) -> list[Edit]:
    """Nothing of its own: another edit as a builder might make it."""
    raise IndexError


ENDS: list[Callable[[Plan, random.Random], list[Edit]]] = [
    _exact_window, _exact_rating, _low_cut, _nothing_drawn, _overload, _all_off, _cells, _not_fitted, _own_rail, _own_cell, _pack_state, _at_random,
]  # fmt: skip
