"""Where a craft that is asked for too much loses its volts: from theory, by hand, and by a walk from below that knows no short cuts."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator

import numpy as np
import pytest

from tests.core.test_overload import crowd
from tests.plans import STILL, device, plan, rail, regulator
from tools.random_plans import random_plan
from yardmeter.core.answers.collapse import Collapse, find_collapses
from yardmeter.core.answers.conditions import UNLOADED, Solved, solve_conditions
from yardmeter.core.answers.operating import operate, operate_like
from yardmeter.core.network import Situation, branch_table
from yardmeter.core.physics.conductors import wire_ohm
from yardmeter.core.plan import Condition, Plan, load_plan
from yardmeter.core.solver.circuit import Floats


def lone_rail(devices: int, watts: float, pack_ohm: float) -> Plan:
    """A pack behind a known resistance and equal power loads on its rail, pad on pad, so that theory says where it folds."""
    joint = {"joined": True}
    document = {
        "name": "fold",
        "pack": {"name": "pack", "series": 3, "capacity_ah": 1, "discharge_c": 90, "cell_ohm": pack_ohm / 3, "rail": "r", "lead": joint},
        "boards": [{"id": "b", "name": "b", "kind": "power", "returns": [{"id": "g", "to": "pack", "wire": joint}]}],
        "rails": [{"id": "r", "name": "r", "board": "b"}],
        "devices": [
            {
                "id": f"d{k}", "name": f"d{k}", "kind": "camera", "law": "power", "nominal_v": 11.1, "min_v": 0.6, "max_v": 30,
                "brownout_v": 0.5, "draws": {s: {"value": watts / devices, "unit": "W"} for s in ("idle", "typical", "peak")},
                "feed": {"rail": "r", "wire": joint}, "returns": [{"id": f"d{k}-g", "to": "b", "wire": joint}],
            }
            for k in range(devices)
        ],
        "conditions": [{"id": "bench", "name": "bench"}],
    }  # fmt: skip
    return load_plan(document)


@pytest.mark.parametrize(("devices", "watts"), [(1, 600.0), (1, 6000.0), (200, 600.0)])
def test_the_fold_is_where_theory_puts_it(devices: int, watts: float) -> None:
    """`P = V²/4R` (circuit theory), whatever the number of loads that make it up; joints add 0.1 mΩ each way."""
    pack_ohm = 0.15
    plan = lone_rail(devices, watts, pack_ohm)
    solved = solve_conditions(plan)
    found = find_collapses(solved, [(plan.conditions[0], solved.asked["bench"])])["bench"]
    volts = plan.pack.rest_v("nominal")
    whole_ohm = plan.pack.internal_ohm + 2e-4 + 2e-4 / devices
    assert found.load_factor == pytest.approx(volts**2 / (4 * whole_ohm) / watts, abs=8e-4)
    assert found.rail == "r"


def test_what_stands_just_below_its_fold_is_no_collapse() -> None:
    for share, collapses in ((0.995, False), (1.01, True)):
        plan = lone_rail(150, 1.0, 0.15)
        fold_w = plan.pack.rest_v("nominal") ** 2 / (4 * (plan.pack.internal_ohm + 2e-4 + 2e-4 / 150))
        plan = lone_rail(150, share * fold_w, 0.15)
        solved = solve_conditions(plan)
        assert bool(find_collapses(solved, [(plan.conditions[0], solved.asked["bench"])])) is collapses


def test_conditions_searched_together_are_found_as_one_by_one() -> None:
    plan = crowd(100)
    solved = solve_conditions(plan)
    asked = [(c, solved.asked[c.id]) for c in plan.conditions]
    together = find_collapses(solved, asked)
    assert len(together) > 3
    assert {one.rail for one in together.values()} == {
        "rail-12v"
    }  # theirs: neither the pack's, which still has its volts, nor the one that falls because it hangs on theirs
    for one in asked:
        alone = find_collapses(solved, [one])
        assert alone.get(one[0].id) == together.get(one[0].id)


def test_what_a_craft_still_carries_stands_and_a_little_more_does_not() -> None:
    """Of a crowd behind a regulator: just under the share every device has its volts, just above some are far below them, asked
    for from nothing. A share at which the network balances far down on the tail of a load is no share that stands."""
    made = crowd(100)
    solved = solve_conditions(made)
    condition = made.condition("punch-fresh")
    share = find_collapses(solved, [(condition, solved.asked[condition.id])])[condition.id].load_factor
    assert 0.1 < share < 0.9

    def least(factor: float) -> float:
        op = operate(branch_table(made), [Situation(condition, limited=False, load_factor=factor)])
        fed = [d for d in made.devices if d.law == "power" and condition.state_of(d.id) != "off"]
        return min(op.pin_v(0, d.id) / d.reset_v for d in fed) if op.converged(0) else 0.0

    assert least(share - 1e-3) > 1
    assert least(share + 2e-3) < 0.9


HOME_OHM = 2 * wire_ohm(14, 0.1)


def behind_linear(**stops_v: float) -> Plan:
    """A full 4S pack of 2 Ω, and behind a linear regulator for each of the rails that are named 8 A at 5 V, as watts."""
    joint = {"joined": True}
    lone = {"law": "power", "min_v": 4, "brownout_v": 3}
    return plan(
        cell_ohm=0.5,
        rails=[rail(name, 5) for name in stops_v],
        supplies=[
            regulator(f"{name}-reg", "linear", "pack-rail", name, 5, stop_v=v, start_v=v, quiescent_a=0, output_ohm=0.001, rating_a=90)
            for name, v in stops_v.items()
        ],
        devices=[
            device(f"{name}-d", name, 40, unit="W", feed={"rail": name, "wire": joint}, **lone, returns=[{"id": f"{name}-g", "to": "main", "wire": joint}])
            for name in stops_v
        ],
        conditions=[{**STILL, "states": {f"{name}-d": "off" for name in stops_v if name == "asleep"}}],
    )  # fmt: skip


@pytest.mark.parametrize(
    ("stops_v", "first", "draws"),
    [
        ({"five": 10.0}, "five", 1),
        ({"five": 10.0, "more": 12.0}, "more", 2),
        ({"more": 12.0, "five": 10.0}, "more", 2),
        ({"dark": 20.0, "five": 10.0}, "five", 1),  # what never starts has no volts to lose
        ({"asleep": 12.0, "five": 10.0}, "five", 1),  # nobody misses the volts of what is switched off
    ],
)
def test_a_regulator_that_lets_go_is_what_falls_first(stops_v: dict[str, float], first: str, draws: int) -> None:
    """A linear one hands on its amps, so its input is at its stop at `(16.8 V − stop) / R`: Ohm's law. Amps alone have no fold."""
    found = fold_of(behind_linear(**stops_v), "bench")
    amps = (16.8 - stops_v[first]) / (2.0 + HOME_OHM)
    assert found.load_factor == pytest.approx(amps / (8 * draws), abs=2 / 2048)
    assert found.rail == first


def overloaded(seed: int, least: float = 8, most: float = 60) -> Plan:
    """A random plan asked for many times its load."""
    document = random_plan(seed, devices=14).model_dump(mode="json")
    times = random.Random(seed).uniform(least, most)
    for one in document["devices"]:
        for draw in (one.get("draws") or {}).values():
            if draw and draw.get("unit") in ("W", "A"):
                draw["value"] *= times
    return load_plan(document)


def fold_of(made: Plan, condition_id: str) -> Collapse:
    solved = solve_conditions(made)
    return find_collapses(solved, [(made.condition(condition_id), solved.asked[condition_id])])[condition_id]


def walked(solved: Solved, condition: Condition, shares: Floats) -> Iterator[bool]:
    """Whether everything that is fed keeps half its volts, share after share, each solved in full from the one before."""
    network = solved.free.network
    row = np.array([solved.plan.conditions.index(condition)])
    free = operate_like(network, row, [Situation(condition, limited=False, load_factor=UNLOADED)])
    fed = (free.load_v[0] > 0.5) & (
        operate_like(network, row, [Situation(condition, limited=False)]).network.circuit.loads.value[0] > 0
    )
    near = free.solution
    for share in shares:
        op = operate_like(network, row, [Situation(condition, limited=False, load_factor=float(share))], near)
        near = op.solution
        yield op.converged(0) and bool((op.load_v[0] >= 0.5 * free.load_v[0])[fed].all())


@pytest.mark.parametrize(
    ("made", "condition_id", "parts"),
    [
        (lambda: overloaded(119), "punch-fresh", 473),  # a boost lets go with its device; the rest would stand to 65 %
        (lambda: overloaded(133), "punch-low", 234),
        (lambda: overloaded(141), "punch-fresh", 1109),  # at 762 the volts snap down, and everything is still carried
        (lambda: overloaded(209), "hover", 1181),
        (lambda: overloaded(122), "punch-low", 809),  # at 742 a regulator that feeds nobody starts and stops for ever
        (
            lambda: crowd(60, "computer"),
            "usb-bench",
            481,
        ),  # most of the craft is not on the cable and has no volts to lose
    ],
)
def test_a_fold_is_where_a_walk_from_below_finds_it(made: Callable[[], Plan], condition_id: str, parts: int) -> None:
    plan = made()
    solved = solve_conditions(plan)
    condition = plan.condition(condition_id)
    share = fold_of(plan, condition_id).load_factor
    assert share * 2048 == pytest.approx(parts, abs=1)
    assert all(walked(solved, condition, np.linspace(share / 40, share, 40)))
    assert not list(walked(solved, condition, np.append(np.linspace(share / 40, share, 40), share + 4 / 2048)))[-1]


def test_a_device_that_falls_by_its_own_feed_names_the_rail_it_is_fed_from() -> None:
    """`V²/4R` of 5 V through half an ohm is 12.5 W of the 20 W asked (circuit theory); no rail loses its volts."""
    joint = {"joined": True}
    thin = {"rail": "five", "wire": {"gauge_awg": 20, "length_m": 0.001, "connector_ohm": 0.5}}
    asked = device("d", "five", 20, unit="W", law="power", min_v=1, brownout_v=0.5, feed=thin, returns=[{"id": "g", "to": "main", "wire": joint}])  # fmt: skip
    holds = regulator("five-reg", "linear", "pack-rail", "five", 5, output_ohm=0.001, rating_a=90)
    made = plan(rails=[rail("five", 5)], supplies=[holds], devices=[asked], conditions=[STILL])
    found = fold_of(made, "bench")
    assert found.load_factor == pytest.approx(5**2 / (4 * 0.5012) / 20, abs=2 / 2048)
    assert found.rail == "five"
