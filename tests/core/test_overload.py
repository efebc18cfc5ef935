"""Large plans in every state: the same answers as small ones, found in a bounded number of steps, and given up when nobody waits."""

from __future__ import annotations

import copy
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from tests.balance import check_balance
from tests.core.crowded import crowded
from tests.plans import STILL, device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.operating import Operating, operate
from yardmeter.core.answers.spread import SpreadRun, spread
from yardmeter.core.edits import apply_edits
from yardmeter.core.elements.load import LoadKind, grown
from yardmeter.core.errors import EditError
from yardmeter.core.network import Situation, branch_table, build_network, derive
from yardmeter.core.network.build import load_values
from yardmeter.core.patience import AbandonedError, also, go_on, patience
from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.plan.operations import AddSource
from yardmeter.core.solver import rowwise
from yardmeter.core.solver.assembly import Assembly
from yardmeter.core.solver.circuit import CONDUCTING
from yardmeter.core.solver.laws import load_current
from yardmeter.review import analyse
from yardmeter.review.feed_schools import feed_schools
from yardmeter.review.placement import places

EFF = [{"amps": 1, "efficiency_frac": 0.9}]


def crowd(count: int, copied: str = "sender", name: str = "marshlight-as-soldered") -> Plan:
    """The plan with so many more copies of one device on its rail."""
    document: dict[str, Any] = demo.plan(name).model_dump(mode="json")
    source = next(one for one in document["devices"] if one["id"] == copied)
    for number in range(count):
        made = copy.deepcopy(source) | {"id": f"{copied}-{number}", "name": f"{source['name']} {number}", "pins": []}
        made["feed"] |= {"pin": None, "pad": None}
        for wire in made["returns"]:
            wire |= {"id": f"{wire['id']}-{number}", "pin": None}
        document["devices"].append(made)
    return load_plan(document)


def test_a_share_of_the_load_is_a_share_of_each_law() -> None:
    """Amps and watts go down with it, ohms up; what is off stays off, and a lamp in line is nobody's load."""
    made = crowded()
    condition = next(c for c in made.conditions if "smoke" in c.energy)
    table = branch_table(made)
    whole, half = load_values(table, [Situation(condition), Situation(condition, load_factor=0.5)])
    again = derive(
        build_network(table, [Situation(condition)]), np.array([0]), [Situation(condition, load_factor=0.5)]
    ).circuit.loads.value[0]
    seen = set()
    for load, one, other, derived in zip(table.loads, whole, half, again, strict=True):
        factor = 1.0 if load.lamp else 2.0 if load.kind in (LoadKind.RESISTANCE, LoadKind.LED) else 0.5
        assert other == derived == pytest.approx(one * factor)
        assert grown(int(load.kind), one, 0.5) == pytest.approx(other)
        seen.add("lamp" if load.lamp else load.kind)
    assert {"lamp", LoadKind.RESISTANCE, LoadKind.LED, LoadKind.POWER, LoadKind.CURRENT} <= seen


@pytest.mark.parametrize(("device", "count"), [("sender", 60), ("computer", 120), ("recorder", 4)])
def test_the_loops_of_a_row_are_the_laws_of_the_arrays(device: str, count: int) -> None:
    """Residual and slopes in states no craft is in; and the step they make, by LAPACK, where that is well told."""
    made = crowd(count, device)
    circuit = build_network(branch_table(made), [Situation(one) for one in made.conditions]).circuit
    own, rng = Assembly(circuit), np.random.default_rng(count)
    x = rng.normal(3.0, 6.0, (circuit.rows, own.size))
    modes = rng.integers(0, 3, (circuit.rows, circuit.converters.inp.size))
    at = own.evaluate(circuit, x, modes)
    slopes = own.dense(own.jacobian(at))
    w, v, on = rowwise.ready(own, circuit)
    for row in range(circuit.rows):
        rowwise.fill(w, v, row, x[row], modes[row], False, False, on)
        full = np.zeros((own.size, own.size))
        full[w.slot_row, w.slot_column] = on.slots[: w.slot_row.size]
        np.testing.assert_allclose(on.f, at.f[row], rtol=1e-12, atol=1e-12)
        assert np.abs(full - slopes[row]).max() < 1e-12 * np.abs(slopes[row]).max()
        for flat, ohmic in ((True, False), (False, True)):
            loads = at.load_slope[row]
            drawn, volts = load_current(circuit.loads, np.tile(on.under, (circuit.rows, 1)))[0][row], on.under
            ohms = drawn / np.where(abs(volts) < 0.01, 0.01, volts)
            loads = np.maximum(loads, 0) if flat else np.where(loads > 0, loads, ohms)
            taken = replace(at.taken, by_input=np.maximum(at.taken.by_input, 0) if flat else at.taken.by_input)
            other = replace(at, load_slope=np.tile(loads, (circuit.rows, 1)), taken=taken)
            rowwise.fill(w, v, row, x[row], modes[row], flat, ohmic, on)
            full[w.slot_row, w.slot_column] = on.slots[: w.slot_row.size]
            expected = own.dense(own.jacobian(other))[row]
            assert np.abs(full - expected).max() < 1e-12 * np.abs(expected).max(), (flat, ohmic)
        rowwise.fill(w, v, row, x[row], modes[row], False, False, on)
        rowwise.solve_step(w, v, row, x[row], modes[row], False, False, 0.5, on)
        np.testing.assert_allclose(
            rowwise.slopes_row(w, v, row, x[row], modes[row], on), slopes[row], rtol=1e-12, atol=1e-12
        )
        braked = slopes[row] + np.diag(np.r_[np.full(own.nodes, 0.5), np.zeros(own.size - own.nodes)])
        np.testing.assert_allclose(braked @ on.dx, -at.f[row], rtol=1e-6, atol=1e-6 * np.abs(at.f[row]).max())


@pytest.mark.parametrize("count", [2, 40])
def test_the_sign_of_a_determinant_is_that_of_lapack(count: int) -> None:
    """In states no craft is in, of which some have a negative one; where equations want to be exchanged none is told."""
    made = crowd(count, "sender")
    circuit = build_network(branch_table(made), [Situation(one) for one in made.conditions]).circuit
    own, rng, told = Assembly(circuit), np.random.default_rng(count), []
    w, v, on = rowwise.ready(own, circuit)
    for _ in range(20):
        x = rng.normal(3.0, 6.0, (circuit.rows, own.size))
        modes = rng.integers(0, 3, (circuit.rows, circuit.converters.inp.size))
        signs = rowwise.signs_rows(w, v, np.arange(circuit.rows), x, modes, on)
        expected, _ = np.linalg.slogdet(own.dense(own.jacobian(own.evaluate(circuit, x, modes))))
        assert (signs[signs != 0] == expected[signs != 0]).all()
        told += signs[signs != 0].tolist()
    assert len(told) > 60
    assert min(told) < 0 < max(told)


def test_nothing_is_compiled_again_for_other_plans() -> None:
    """One condition or six, no regulator or many, everything shared by all rows or nothing: arrays of the same kinds."""
    bare = plan(devices=[device("d", "pack-rail", 1.0, nominal_v=14, min_v=6, max_v=20)], conditions=[STILL])
    for made in (bare, crowd(20, "sender"), demo.plan("culvert-first-wiring")):
        for count in (1, len(made.conditions)):
            assert operate(branch_table(made), [Situation(one) for one in made.conditions[:count]]).converged(0)
    assert len(rowwise.newton_rows.signatures) == len(rowwise.creep_rows.signatures) == 1


def test_equations_that_want_to_be_exchanged_are() -> None:
    """A regulator without any output resistance has nothing in its own row to take its current out by."""
    made = plan(rails=[rail("r", 5)], supplies=[regulator("a", "buck", "pack-rail", "r", 5.0)], devices=[device("d", "r", 1.0)], conditions=[STILL])  # fmt: skip
    circuit = build_network(branch_table(made), [Situation(made.conditions[0])]).circuit
    own = Assembly(circuit)
    w, v, on = rowwise.ready(own, circuit)
    v = v._replace(out_ohm=np.zeros_like(v.out_ohm))
    x, modes = np.concatenate([circuit.start_v, [[1.0]]], axis=1), np.array([[CONDUCTING]])
    at = own.evaluate(replace(circuit, converters=replace(circuit.converters, out_ohm=v.out_ohm)), x, modes)
    rowwise.fill(w, v, 0, x[0], modes[0], False, False, on)
    on.dx[:] = -on.f
    assert not rowwise.eliminate(w, on)
    rowwise.fill(w, v, 0, x[0], modes[0], False, False, on)
    rowwise.solve_step(w, v, 0, x[0], modes[0], False, False, 0.0, on)
    slopes = own.dense(own.jacobian(at))[0]
    assert slopes[-1, -1] == 0
    assert slopes @ on.dx == pytest.approx(-at.f[0], abs=1e-9)


def test_a_tolerance_run_gone_on_with_is_the_same_run() -> None:
    plan = demo.plan("culvert-first-wiring")
    run = SpreadRun(plan, seed=3)
    parts = [run.answer(samples) for samples in (60, 60, 150)]
    assert parts[0] == parts[1] == spread(plan, samples=60, seed=3)
    whole = spread(plan, samples=150, seed=3)
    assert [r.chance_frac for r in parts[2].rails] == [r.chance_frac for r in whole.rails]
    assert [d.pin_low_v for d in parts[2].devices] == pytest.approx([d.pin_low_v for d in whole.devices], abs=1e-6)
    assert run.samples == 150
    assert run.answer(60).samples == 60  # fewer again: what is known is enough


def test_work_is_given_up_when_nobody_waits() -> None:
    plan, asked = crowd(20), []

    def gone_after(turns: int) -> Any:
        asked.clear()

        def gone() -> bool:
            asked.append(1)
            return len(asked) > turns

        return gone

    go_on()  # nobody set a patience: nothing happens
    run = SpreadRun(plan)
    for work in (
        lambda: run.reach(600),
        lambda: places(plan, "sender-3"),
        lambda: solve_conditions(crowd(100)),
    ):
        with patience(gone_after(1)), pytest.raises(AbandonedError):
            work()
        assert len(asked) == 2
    assert run.samples == 0  # broken off, it stands where it stood
    with patience(gone_after(10**6)):
        run.reach(50)
    assert run.samples == 50
    left, here = (lambda: True), (lambda: False)
    for outside, inside in ((left, here), (here, left)):  # who set it outside is still asked
        with patience(outside), also(inside), pytest.raises(AbandonedError):
            go_on()
    with patience(here):
        with also(left):
            pass
        go_on()
    go_on()


def test_motors_and_what_no_bec_carries_are_not_offered_one() -> None:
    plan, parts = demo.plan("marshlight-as-soldered"), demo.starter_parts()
    with pytest.raises(EditError, match="fed by their ESC"):
        feed_schools(plan, "motors", parts)
    document = plan.model_dump(mode="json")
    strobe = next(one for one in document["devices"] if one["id"] == "strobe")
    for amps, offered in ((20.0, True), (45.0, False)):
        for state in ("idle", "typical", "peak"):
            strobe["draws"][state] |= {"value": amps * 12, "unit": "W", "at_v": None}
        ways = [school for table in feed_schools(load_plan(document), "strobe", parts) for school in table.schools]
        assert any("BEC" in one.title and not one.refused for one in ways) is offered


def test_what_takes_its_own_input_down_over_and_over_is_told_so() -> None:
    """A boost that asks 2 A of a 9 V regulator of 1.5: it comes up, its input falls to its lock-out, it stops, and again."""
    made = plan(
        rails=[rail("nine", 9), rail("twelve", 12)],
        supplies=[
            regulator("first", "buck", "pack-rail", "nine", 9.0, rating_a=1.5, current_limit_a=1.5, efficiency=EFF),
            regulator("boost", "boost", "nine", "twelve", 12.0, start_v=4, stop_v=3.5, efficiency=EFF),
        ],
        devices=[
            device("strip", "twelve", 1.4, law="resistance", nominal_v=12, min_v=9, max_v=14),
            device("cam", "nine", 0.1, nominal_v=9, min_v=3.6, max_v=12),
            device("gps", "nine", 0.1, nominal_v=9, min_v=3.5, max_v=12),  # lives at the volts at which the boost stops
            device("idle", "nine", 0.1, nominal_v=9, min_v=8, max_v=12),
            device("far", "pack-rail", 0.1, nominal_v=16, min_v=9, max_v=30),
        ],
        conditions=[{**STILL, "states": {"idle": "off"}}],
    )
    told = {one.code: one for one in analyse(made).findings}["headroom.start"]
    assert told.title == "boost starts and stops over and over: 9.00 V in, not 3.5 V under its load"
    assert [(one.label, one.text) for one in told.numbers][:2] == [
        ("input under load", "3.50 V"),
        ("stops at", "3.50 V"),
    ]
    assert told.severity == "fault"
    assert told.cause.endswith("it starts. With every try Cam may reset.")


@pytest.mark.parametrize(
    ("name", "times"),
    [("marshlight-second-wiring", 1.5), ("marshlight-second-wiring", 3), ("culvert-first-wiring", 3), ("culvert-lights-on", 1.5)],
)  # fmt: skip
def test_several_regulators_that_start_and_stop_behind_a_lamp_are_told_apart(name: str, times: float) -> None:
    """First power with far too much switched on: some regulators keep trying, what is left stands, and its currents balance."""
    document = apply_edits(demo.plan(name), [AddSource(kind="lamp")]).model_dump(mode="json")
    for one in document["devices"]:
        for draw in filter(None, one["draws"].values()):
            draw["value"] *= times
    made = load_plan(document)
    op = operate(branch_table(made), [Situation(made.conditions[-1])])
    assert op.converged(0)
    assert op.solution.hiccup.sum() >= 1  # the others stand, or have stopped for good
    assert op.solution.steps < 300
    check_balance(op)


def behind_a_lamp(count: int, watts: float) -> Operating:
    """Full pack, a lamp of 14.8 V and 1.7 A, and so many step-downs of 90 % for as many watts each, all wanting to start."""
    made = plan(
        rails=[rail(f"five-{k}", 5) for k in range(count)],
        supplies=[
            regulator(f"b-{k}", "buck", "pack-rail", f"five-{k}", 5.0, rating_a=10, current_limit_a=10, start_v=5.5, stop_v=5.2, efficiency=EFF, quiescent_a=0)
            for k in range(count)
        ],
        devices=[device(f"d-{k}", f"five-{k}", watts / 5, law="power") for k in range(count)],
        conditions=[STILL],
    )  # fmt: skip
    lamp = apply_edits(made, [AddSource(kind="lamp")])
    op = operate(branch_table(lamp), [Situation(lamp.conditions[-1])])
    assert op.converged(0)
    check_balance(op)
    return op


@pytest.mark.parametrize(("watts", "restarts"), [(10.0, False), (10.1, True)])
def test_a_lamp_passes_so_many_watts_and_no_more(watts: float, restarts: bool) -> None:
    """(16.8 V − U) · 1.7 A · (U / 14.8 V)^0.55 is most where the lamp has 0.55/1.55 of the pack: 11.18 W, or 10.06 behind 90 %."""
    assert behind_a_lamp(1, watts).solution.hiccup.any() == restarts


def test_twenty_regulators_that_start_and_stop_are_all_found_out() -> None:
    """Not one of them finds its 12 W behind the lamp."""
    op = behind_a_lamp(20, 12.0)
    assert op.solution.hiccup.all()
    assert op.rail_v(0, "pack-rail") > 16


def test_what_hangs_behind_others_on_a_falling_input_may_reset_with_it() -> None:
    """At 3.5 V in, a linear one of 5 V gives 3.2, the next still its 3.0, a step-down 0.9 of it; a boost that stops there nothing.

    What another regulator holds up from elsewhere does not fall, if that one runs.
    """
    made = plan(
        rails=[rail("nine", 9), *(rail(name, volts) for name, volts in (("twelve", 12), ("five", 5), ("three", 3), ("low", 12), ("high", 12), ("step", 3.3), ("two", 5), ("one", 5)))],
        supplies=[
            regulator("first", "buck", "pack-rail", "nine", 9.0, rating_a=1.5, current_limit_a=1.5, efficiency=EFF),
            regulator("boost", "boost", "nine", "twelve", 12.0, start_v=4, stop_v=3.5, efficiency=EFF),
            regulator("ldo", "linear", "nine", "five", 5.0, dropout_v=0.3, start_v=3, stop_v=2.5),
            regulator("next", "linear", "five", "three", 3.0, dropout_v=0.1, start_v=2.5, stop_v=2.2),
            regulator("up-low", "boost", "nine", "low", 12.0, start_v=3, stop_v=2.8),
            regulator("up-high", "boost", "nine", "high", 12.0, start_v=4.5, stop_v=3.5),
            regulator("duty", "buck", "nine", "step", 3.3, duty_max_frac=0.9, dropout_v=0, start_v=3, stop_v=2.5),
            *(regulator(f"{rail}-{source}", "buck", source, rail, 5.0, start_v=start, stop_v=4.5)
              for rail, source, start in (("two", "nine", 5), ("two", "pack-rail", 5), ("one", "nine", 5), ("one", "pack-rail", 40))),
        ],
        devices=[
            device("strip", "twelve", 1.4, law="resistance", nominal_v=12, min_v=9, max_v=14),
            device("rx", "five", 0.05, min_v=3.21),
            device("hardy", "five", 0.05, min_v=3.19),
            device("imu", "three", 0.01, nominal_v=3, min_v=2.95, max_v=3.6),
            device("fpv", "low", 0.02, nominal_v=12, min_v=9, max_v=14),
            device("gps", "step", 0.01, nominal_v=3.3, min_v=3.16, max_v=3.6),
            device("sturdy", "step", 0.01, nominal_v=3.3, min_v=3.14, max_v=3.6),
            device("spare", "two", 0.01, min_v=4),
            device("alone", "one", 0.01, min_v=4),
            device("light", "high", 0.02, nominal_v=12, min_v=9, max_v=14),
        ],
        conditions=[STILL],
    )  # fmt: skip
    told = {one.key: one for one in analyse(made).findings}["headroom.start:boost"]
    assert told.cause.endswith("With every try Rx and Gps and Alone and Light may reset.")


def test_a_regulator_inside_a_device_takes_that_device_down_with_it() -> None:
    """The sender's own 12 V step-up starts and stops at the sender's pins, on whose rail the camera hangs as well."""
    made = plan(
        rails=[rail("nine", 9), rail("twelve", 12)],
        supplies=[
            regulator("first", "buck", "pack-rail", "nine", 9.0, rating_a=1.5, current_limit_a=1.5, efficiency=EFF),
            regulator("boost", "boost", "sender", "twelve", 12.0, start_v=4, stop_v=3.5, efficiency=EFF, board="sender"),
        ],
        devices=[
            device("strip", "twelve", 1.4, law="resistance", nominal_v=12, min_v=9, max_v=14),
            device("sender", "nine", 0.1, nominal_v=9, min_v=6, max_v=12, kind="sender"),
            device("cam", "nine", 0.1, nominal_v=9, min_v=5, max_v=12),
        ],
        conditions=[STILL],
    )  # fmt: skip
    told = {one.code: one for one in analyse(made).findings}["headroom.start"]
    assert told.cause.endswith("With every try Sender and Cam may reset.")
