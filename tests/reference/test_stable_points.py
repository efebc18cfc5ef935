"""Operating points are ones a circuit can stand at: chains of regulators at and over their limits, against ngspice.

ngspice lets the same netlist settle in time from just below the nominal volts, so what it ends at is stable by itself.
"""

from __future__ import annotations

import random
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.balance import check_balance
from tests.plans import device, plan, rail, regulator
from tests.reference.test_ngspice import compare
from yardmeter.core.answers import dips, operating
from yardmeter.core.answers.dips import latches
from yardmeter.core.answers.operating import Operating, operate
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.network import Situation, branch_table
from yardmeter.core.network.keys import rail_node, supply_key
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.plan import Plan, Regulator, Wire
from yardmeter.core.solver import stability
from yardmeter.core.solver.circuit import CONDUCTING, LIMITING, Mode
from yardmeter.core.solver.stability import unstable


def chain(seed: int) -> Plan:
    """One to three regulators in a row with random volts, limits and loads, many of them over what can be given."""
    dice = random.Random(seed)
    rails: list[Any] = []
    supplies: list[Any] = []
    devices: list[Any] = []
    source, volts = "pack-rail", 16.0
    for k in range(dice.randint(1, 3)):
        volts, name = round(volts * dice.uniform(0.45, 0.85), 2), f"r{k}"
        rails.append(rail(name, volts))
        kind, limit = dice.choice(["buck", "buck", "linear"]), round(dice.uniform(0.6, 3.0), 3)
        supplies.append(
            regulator(
                f"s{k}",
                kind,
                source,
                name,
                volts,
                current_limit_a=limit,
                limit_style="constant",
                start_v=1.0,
                stop_v=0.8,
            )
        )
        for j in range(dice.randint(0 if k == 0 else 1, 2)):
            law, amps = dice.choice(["current", "power", "resistance"]), dice.uniform(0.1, 1.6)
            unit = {} if law == "current" else {"unit": "W"}
            draw = round(amps if law == "current" else amps * volts, 3)
            window = {"nominal_v": volts, "min_v": round(volts * 0.8, 2), "max_v": volts * 1.2}
            devices.append(device(f"d{k}{j}", name, draw, law=law, **unit, **window))
        source = name
    return plan(rails=rails, supplies=supplies, devices=devices)


def point(made: Plan) -> Operating:
    op = operate(branch_table(made), [Situation(made.conditions[0])])
    assert op.converged(0)
    check_balance(op)
    return op


@pytest.mark.parametrize("seed", [*range(26), 101, 243])
def test_random_chains_end_where_ngspice_does(seed: int, tmp_path: Path) -> None:
    """Seeds 101 and 243 are chains in which both regulators jump to their limits at once and would stay there."""
    made = chain(seed)
    op = operate(branch_table(made), [Situation(made.conditions[0])])
    if op.converged(0) and not op.solution.hiccup.any():
        compare(made, made.conditions[0], tmp_path)
    else:
        assert seed not in (101, 243)


def cascade(amps: float, first_limit_a: float = 1.3) -> Plan:
    return plan(
        rails=[rail("nine", 9), rail("five", 5)],
        supplies=[
            regulator("first", "buck", "pack-rail", "nine", 9.0, current_limit_a=first_limit_a, limit_style="constant"),
            regulator("second", "buck", "nine", "five", 5.0, current_limit_a=2.5, limit_style="constant"),
        ],
        devices=[device("load", "five", amps)],
    )


def test_a_limited_second_regulator_leaves_the_first_in_regulation() -> None:
    """3 A asked of 2.5: the load sits on its tail at 2.5/3 of its least volts, and the first gives what that takes.

    By hand: of some 4.5 V the share 2.5/3 is 3.75 V, and 9.4 W with its losses from 9 V is about 1.2 A, under the first
    one's 1.3. The wires to and fro take 17 mV.
    """
    op = point(cascade(3.0))
    assert op.pin_v(0, "load") == pytest.approx(op.plan.device_of["load"].reset_v * 2.5 / 3, abs=1e-3)
    assert op.rail_v(0, "five") == pytest.approx(3.75, abs=0.02)
    assert op.rail_v(0, "nine") == pytest.approx(8.98, abs=0.01)
    modes = op.solution.modes[0]
    assert (
        modes[op.network.table.converter[supply_key("first")]],
        modes[op.network.table.converter[supply_key("second")]],
    ) == (CONDUCTING, LIMITING)


def test_a_point_no_circuit_stands_at_is_told_from_one_it_does() -> None:
    """Both at their limits also balances every node; with a capacitor at each it would be left in a moment."""
    op = point(cascade(3.0))
    network, circuit = op.network, op.network.circuit
    assert not unstable(
        network.assembly, circuit, np.hstack([op.solution.volts, op.solution.converter_a]), op.solution.modes
    )[0]
    modes = np.full_like(op.solution.modes, int(Mode.LIMITING))
    x = np.hstack([op.solution.volts, circuit.converters.limit_a])
    for _ in range(60):  # Newton at these modes alone
        at = network.assembly.evaluate(circuit, x, modes)
        full = network.assembly.dense(network.assembly.jacobian(at))
        x = x - np.linalg.solve(full, at.f[:, :, None])[:, :, 0]
    assert np.abs(network.assembly.evaluate(circuit, x, modes).f).max() < 1e-6
    assert unstable(network.assembly, circuit, x, modes)[0]
    nine = x[0, network.node[rail_node("nine")]]
    assert 7.0 < nine < 8.5


def test_two_such_at_once_are_seen_though_the_determinant_is_positive(monkeypatch: pytest.MonkeyPatch) -> None:
    """Two negative eigenvalues make a positive determinant; they are worked out where a converter limits."""
    one = cascade(3.0).model_dump(mode="json")
    for kind in ("rails", "supplies", "devices"):
        for item in list(one[kind]):
            if item["id"] == "pack-rail":
                continue
            copy = {**item, "id": f"{item['id']}-b"}
            for key in ("input", "output"):
                if copy.get(key, "pack-rail") != "pack-rail":
                    copy[key] += "-b"
            if kind == "devices":
                copy |= {
                    "feed": {**item["feed"], "rail": f"{item['feed']['rail']}-b"},
                    "returns": [{**wire, "id": f"{wire['id']}-b"} for wire in item["returns"]],
                }
            one[kind].append(copy)
    made = Plan.model_validate(one)
    op = point(made)
    assert [round(op.rail_v(0, name), 1) for name in ("nine", "nine-b")] == [9.0, 9.0]
    network, circuit = op.network, op.network.circuit
    modes = np.full_like(op.solution.modes, int(Mode.LIMITING))
    x = np.hstack([op.solution.volts, circuit.converters.limit_a])
    for _ in range(60):
        at = network.assembly.evaluate(circuit, x, modes)
        full = network.assembly.dense(network.assembly.jacobian(at))
        x = x - np.linalg.solve(full, at.f[:, :, None])[:, :, 0]
    full = network.assembly.dense(network.assembly.jacobian(network.assembly.evaluate(circuit, x, modes)))
    assert np.linalg.slogdet(full)[0][0] > 0
    assert unstable(network.assembly, circuit, x, modes)[0]
    monkeypatch.setattr(stability, "SPARSE_FROM", 1)  # a large circuit's way sees one of them alone
    single = point(cascade(3.0))
    assert not unstable(
        single.network.assembly,
        single.network.circuit,
        np.hstack([single.solution.volts, single.solution.converter_a]),
        single.solution.modes,
    )[0]


def test_the_sign_of_a_sparse_determinant_is_the_dense_ones() -> None:
    op = point(cascade(2.0))
    assembly, circuit = op.network.assembly, op.network.circuit
    rng = np.random.default_rng(5)
    entries = assembly.jacobian(
        assembly.evaluate(circuit, np.hstack([op.solution.volts, op.solution.converter_a]), op.solution.modes)
    )
    for _ in range(20):
        shaken = entries * rng.choice([-1.0, 1.0], entries.shape)
        sign = np.linalg.slogdet(assembly.dense(shaken))[0][0]
        assert stability._sparse_sign(assembly, shaken[0]) == sign


def test_a_lamp_in_line_is_no_load_that_grows() -> None:
    from yardmeter.core.solver.rows import scaled

    loads = operate(branch_table(cascade(1.0)), [Situation(cascade(1.0).conditions[0])]).network.circuit.loads
    for law, factor in ((0, 0.25), (1, 0.25), (2, 4.0), (3, 4.0), (4, 1.0)):
        made = replace(loads, law=np.full_like(loads.law, law))
        assert scaled(made, 0.25).value == pytest.approx(loads.value * factor)


@pytest.mark.parametrize("off", [-1e-3, -1e-5, -1e-8, 0.0, 1e-8, 3e-6, 1e-5, 3e-4, 6e-4, 1e-2])
@pytest.mark.parametrize("kind", ["buck", "linear"])
def test_a_hair_from_its_limit_a_rail_stands_or_has_fallen(kind: str, off: float) -> None:
    """7.44 W at 1.5 A hold 4.96 V; a hair more fall to the resistance the device is below its least volts, P/4.5²."""
    ohm = 0.02 + 2 * conductor_ohm(Wire(gauge_awg=20, length_m=0.1), 20)
    watts = 1.5 * (5 - 1.5 * ohm) * (1 + off)
    load = device("d", "five", watts, unit="W", law="power", nominal_v=5, min_v=4.5, max_v=6)
    made = plan(
        rails=[rail("five", 5)],
        supplies=[regulator("s", kind, "pack-rail", "five", 5.0, current_limit_a=1.5, limit_style="constant")],
        devices=[load],
    )
    volts = 5 - 1.5 * ohm if off <= 1e-8 else 1.5 * 4.5**2 / watts
    assert point(made).pin_v(0, "d") == pytest.approx(volts, rel=2e-3)


def test_a_millimetre_of_the_thickest_wire_is_solved() -> None:
    stout = {"gauge_awg": 0, "length_m": 0.001}
    load = device("d", "pack-rail", 90.0, nominal_v=16, min_v=10, max_v=20, feed={"rail": "pack-rail", "wire": stout})
    back = [{"id": "e3-gnd", "to": "main", "wire": stout}]
    more = [
        device(f"e{k}", "pack-rail", 5.0, max_v=20, feed=load["feed"], **({"returns": back} if k == 3 else {}))
        for k in range(12)
    ]
    made = plan(devices=[load, *more])
    op = point(made)
    drop = op.rail_v(0, "pack-rail") - op.pin_v(0, "e3")
    assert drop == pytest.approx(2 * 5 * conductor_ohm(Wire(**stout), 20), rel=1e-3)


def test_a_condition_without_a_point_hands_out_no_numbers(monkeypatch: pytest.MonkeyPatch) -> None:
    """No plan is known that has none (12,000 chains of this file were tried); should one come, nothing is told of it."""
    real = operating.solve_dc
    monkeypatch.setattr(operating, "solve_dc", lambda *of, **how: replace(found := real(*of, **how), converged=np.zeros_like(found.converged)))  # fmt: skip
    answer = solve_plan(chain(543))
    assert {"load.unsolved", "load.collapse"} & {one.code for one in run_rules(answer) if one.severity == "danger"}
    head = answer.budget.conditions[0]
    assert (head.known, head.solved, head.pack_a) == (False, False, 0)
    assert {state.verdict for d in answer.budget.devices for state in [d.states[head.id]]} == {"unknown"}
    for supply in answer.budget.supplies:
        state = supply.states[head.id]
        assert (state.mode, state.out_a, state.in_a, state.out_v) == ("unknown", 0, 0, 0)


@pytest.mark.parametrize("seed", [442, *range(0, 900, 45)])
def test_conditions_that_are_not_solved_again_have_no_second_point(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Seed 442: behind a linear regulator constant power is constant amps, most as the rail above falls to 9.7 V."""
    solved = solve_plan(chain(seed)).solved
    bounded = latches(solved)
    monkeypatch.setattr(dips, "_may_latch", lambda _: True)
    assert latches(solved) == bounded
    assert bounded or seed != 442


@pytest.mark.parametrize(
    ("efficiency", "beside_a", "law"), [(0.9, 0.0, "current"), (0.7, 0.5, "current"), (0.7, 0.5, "power")]
)
def test_the_bound_is_above_what_is_asked_at_any_volts(efficiency: float, beside_a: float, law: str) -> None:
    """By hand: 5 W through a second regulator that stops at 6 V take 5/η/6 A there, and its milliamps; a constant current
    beside it stays what it is, constant power of 9 V grows as the volts fall to its knee, 4.5 V.
    """
    second = regulator("second", "buck", "nine", "five", 5.0, start_v=6.0, stop_v=6.0, efficiency=[{"amps": 1.0, "efficiency_frac": efficiency}])  # fmt: skip
    beside = device("beside", "nine", beside_a, nominal_v=9, min_v=4.5, max_v=12, **({"law": law, "unit": "W"} if law == "power" else {}))  # fmt: skip
    if law == "power":
        beside["draws"] = {state: {**draw, "value": 9.0 * beside_a} for state, draw in beside["draws"].items()}
    made = plan(
        rails=[rail("nine", 9), rail("five", 5)],
        supplies=[regulator("first", "buck", "pack-rail", "nine", 9.0), second],
        devices=[device("load", "five", 1.0), beside],
    )
    view = solve_plan(made).solved.given["bench"]
    first = made.supply_of["first"]
    assert isinstance(first, Regulator)
    bound = dips._most_a(view, first)
    at_stop = 5.0 / efficiency / 6.0 + (beside_a if law == "current" else 9.0 * beside_a / 6.0)
    at_knee = 0.0 if law == "current" else 9.0 * beside_a / 4.5
    assert max(at_stop, at_knee) < bound < 1.45 * max(at_stop, at_knee)
