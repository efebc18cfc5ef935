"""Small answers beside the network's, each against a calculation by hand: scores, bounds of outputs, sources, lines of noise."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.core.test_noise import MOTORS
from tests.plans import LOW, STILL, device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.noise_sources import noise_lines
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.answers.sources import trace_sources
from yardmeter.core.choices.places import Weights
from yardmeter.core.plan import Plan
from yardmeter.review.hookup import hookup
from yardmeter.review.placement import Place, places
from yardmeter.review.working import working

FIVE = [rail("five", 5)]
EFF = {"efficiency": [{"amps": 1, "efficiency_frac": 0.9}]}
HOVER = {"id": "hover", "name": "Hover", "pack_state": "nominal", "throttle_frac": 0.3}
USB = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five", "limit_a": 0.9}


def alone(**weights: float) -> Weights:
    """One weight, and none beside it: the score is then that number's own."""
    return Weights(**{**dict.fromkeys(Weights.model_fields, 0.0), **weights})


def placed(made: Plan, rail_id: str, weights: Weights) -> Place:
    return next(one for one in places(made, "d", weights) if one.rail == rail_id and not one.edits)


def fed(**fields: Any) -> Plan:
    """0.5 A on a 5 V linear that gives 1 A, on a full pack of 16.8 V."""
    usual = {"rating_a": 1, "derate_frac": 1.0, "theta_still_k_w": 10, "theta_moving_k_w": 10, "quiescent_a": 0}
    linear = regulator("l", "linear", "pack-rail", "five", 5.0, **{**usual, **fields})
    return plan(rails=FIVE, supplies=[linear], devices=[device("d", "five", 0.5)], conditions=[STILL], cell_ohm=1e-5)


def test_each_number_of_a_place_makes_its_score() -> None:
    made = fed()
    # 80 K over 30 °C are 8 W, at 11.8 V 0.678 A: 0.5 of those are asked. (16.8 − 5) · 0.5 = 5.9 W are 59 K over 30 °C of the 85 K between 40 and 125 °C.
    assert placed(made, "five", alone(margin=1)).score == pytest.approx(1 - 0.5 / 0.678, abs=5e-3)
    assert placed(made, "five", alone(heat=1)).score == pytest.approx((125 - 89) / 85, abs=5e-3)
    # Two wires of 3.33 mΩ at 0.5 A, of 150 mV that would be much.
    assert placed(made, "five", alone(drop=1)).score == pytest.approx(1 - 0.00333 / 0.15, abs=2e-3)
    # Linear is the quietest of four classes; nothing is added; shorted it hands on 16.8 V to a part for 5.5.
    assert placed(made, "five", alone(noise=1)).score == 1
    assert placed(made, "five", alone(weight=1)).score == placed(made, "five", alone(wires=1)).score == 1
    assert placed(made, "five", alone(failure=1)).score == 0
    assert placed(made, "five", alone(volts=1)).score == 1
    own = next(one for one in places(made, "d", alone(weight=1), demo.starter_parts()) if one.kind == "bec")
    assert own.score == pytest.approx(1 - own.added_g / 20, abs=1e-6)


def test_a_place_is_as_quiet_as_what_stands_between_it_and_the_pack() -> None:
    """A linear alone, one switching regulator, two of them, and the pack itself: four classes, a third of the score each."""
    made = plan(
        rails=[*FIVE, rail("nine", 9), rail("eight", 8)],
        supplies=[
            regulator("a", "buck", "pack-rail", "nine", 9.0, **EFF),
            regulator("b", "buck", "nine", "eight", 8.0, **EFF),
            regulator("l", "linear", "eight", "five", 5.0),
        ],
        devices=[device("d", "five", 0.2, nominal_v=9, min_v=4, max_v=17)],
        conditions=[STILL],
    )
    classes = {"five": 0, "nine": 1, "eight": 2, "pack-rail": 3}
    found = {one.rail: one for one in places(made, "d", alone(noise=1)) if one.kind != "bec"}
    assert {name: one.noise for name, one in found.items()} == classes
    assert {name: one.score for name, one in found.items()} == {n: pytest.approx(1 - k / 3) for n, k in classes.items()}


def test_what_a_device_is_given_is_what_flows() -> None:
    solved = solve_plan(fed())
    assert solved.device("d").states["bench"].given_a == pytest.approx(0.5)
    off = solve_plan(
        plan(devices=[device("d", "pack-rail", 0.2, max_v=20)], conditions=[{**STILL, "states": {"d": "off"}}])
    )
    assert (off.device("d").states["bench"].given_a, off.device("d").states["bench"].asked_a) == (0, 0)


def test_room_under_the_maximum_counts_only_on_the_pack() -> None:
    """A tenth of 20 V is wanted: 16.8 V leave more; 17.6 leave nothing of 1.76 but 0.8/1.76."""

    def score(max_v: float) -> float:
        load = device("d", "pack-rail", 0.1, nominal_v=14, min_v=6, max_v=max_v)
        return placed(plan(devices=[load], conditions=[STILL], cell_ohm=1e-5), "pack-rail", alone(volts=1)).score

    assert score(20.0) == 1
    assert score(17.6) == pytest.approx(0.8 / 1.76, abs=5e-3)


def test_what_a_short_would_hand_on_is_told_with_the_volts() -> None:
    assert placed(fed(), "five", Weights()).short_words == "lost: 16.8 V on 5.5 V"
    tough = fed().model_dump(mode="json")
    tough["devices"][0]["max_v"] = 30
    assert placed(Plan.model_validate(tough), "five", Weights()).short_words == "survives 16.8 V"


def test_an_output_is_bounded_by_the_pack_and_not_by_the_port() -> None:
    """USB lifts the rail before the 3.3 V linear to 5 V, the pack's regulator to 6: the latter binds. Nothing hangs on the spare one."""
    three = regulator(
        "l", "linear", "five", "three", 3.3, dropout_v=0.3, dropout_ohm=0.0, output_ohm=0.001, quiescent_a=0
    )
    spare = regulator("s", "linear", "pack-rail", "free", 5.0)
    made = plan(
        rails=[rail("five", 6), rail("three", 3.3), rail("free", 5)],
        supplies=[regulator("b", "buck", "pack-rail", "five", 6.0, output_ohm=0.001), three, spare],
        inlets=[USB],
        devices=[device("d", "three", 0.1, nominal_v=3.3, min_v=3.0, max_v=30)],
        conditions=[{**STILL, "energy": ["usb"]}, {**LOW, "energy": ["pack"]}],
    )
    advice = {one.supply: one for one in solve_plan(made).windows.advice}
    # Behind a regulator 0.2 V of headroom are wanted, 0.3 V drop in it.
    assert advice["l"].high_v == pytest.approx(6.0 - 0.3 - 0.2, abs=2e-3)
    assert advice["l"].low_v == pytest.approx(3.0 * 1.02)
    assert (advice["s"].low_v, advice["s"].low.kind) == (0.5, "open below")


@pytest.mark.parametrize(
    ("set_v", "stands"),
    [(4.58, "outside"), (4.59, "inside"), (5.39, "inside"), (5.4, "outside")],
)
def test_an_output_stands_between_what_two_devices_need_and_take(set_v: float, stands: str) -> None:
    """One needs 4.5 V, 2 % above it 4.59; the other takes 5.5, 2 % below it 5.39. Where they exclude each other none suits."""

    def advised(max_v: float) -> str:
        pair = [
            device("a", "five", 0.1, min_v=4.5, max_v=9.0),
            device("b", "five", 0.1, nominal_v=3, min_v=2.0, max_v=max_v),
        ]
        buck = regulator("r", "buck", "pack-rail", "five", set_v)
        return solve_plan(plan(rails=FIVE, supplies=[buck], devices=pair, conditions=[STILL])).windows.advice[0].stands

    assert advised(5.5) == stands
    assert advised(4.6) == "none"


def test_where_nothing_is_connected_there_are_no_volts_at_the_source() -> None:
    made = plan(devices=[device("d", "pack-rail", 0.1, max_v=30)], conditions=[{**STILL, "energy": []}])
    head = solve_plan(made).budget.conditions[0]
    assert (head.source_v, head.source_a) == (0.0, 0.0)


def test_a_port_is_a_source_only_where_it_is_plugged_in() -> None:
    buck = regulator("b", "buck", "pack-rail", "five", 5.0)
    made = plan(
        rails=FIVE, supplies=[buck], inlets=[USB], devices=[device("d", "five", 0.2)], conditions=[{**STILL, "energy": ["pack"]}, {**LOW, "energy": ["usb"]}]
    )  # fmt: skip
    solved = solve_conditions(made)
    found = [trace_sources(made, c, solved.given[c.id])["d"] for c in made.conditions]
    assert found == [("pack",), ("usb",)]


def test_the_pulses_a_buck_takes_go_by_its_duty() -> None:
    """2 A at 5 V from 14.8: the first line of pulses of duty D and height I is 2 I/π · sin(π D) (Fourier)."""
    buck = regulator("b", "buck", "pack-rail", "five", 5.0, output_ohm=0.001, **EFF)
    made = plan(rails=FIVE, supplies=[buck], devices=[device("d", "five", 2.0)], conditions=[HOVER], cell_ohm=1e-5)
    view = solve_conditions(made).given["hover"]
    pulses = [one for one in noise_lines(made, made.conditions[0], view) if "pulses" in one.words]
    duty = 5.0 / view.supply_in_v(made.supplies[0])
    assert [one.hz for one in pulses] == [500e3]
    assert pulses[0].peak == pytest.approx(2 * 2.0 / math.pi * math.sin(math.pi * duty), rel=1e-3)


def test_a_pairs_drop_is_shared_by_its_two_wires() -> None:
    """3 % of 5 V are 150 mV to a pair, 75 to a wire: 2 A over 0.4 m take 94 mΩ/m, 24 AWG has 84.2 and 26 134 (ASTM B258)."""
    wire = {"gauge_awg": 20, "length_m": 0.4}
    load = device(
        "d", "five", 2.0, feed={"rail": "five", "wire": wire}, returns=[{"id": "d-gnd", "to": "main", "wire": wire}]
    )
    made = plan(
        rails=FIVE, supplies=[regulator("b", "buck", "pack-rail", "five", 5.0)], devices=[load], conditions=[STILL]
    )
    row = next(one for one in hookup(solve_plan(made)).rows if one.id == "feed:d")
    assert (row.smallest_awg, row.smallest_by) == (24, "drop")


def test_the_working_of_a_motor_reads_its_curve() -> None:
    made = plan(devices=[MOTORS], conditions=[HOVER])
    found = working(solve_plan(made), MOTORS["id"], "asked", "hover")
    assert "throttle" in found.formula
    assert found.inputs[0].text.startswith("30")


def test_a_port_beside_a_regulator_carries_its_share() -> None:
    """A port of 0.5 A and a buck of 3 A, both of 5 V behind 0.1 Ω: each carries half of 0.8 A, and the port is at its limit at 1 A."""
    port = {**USB, "volts": 5.0, "drop_v": 0.0, "series_ohm": 0.1, "limit_a": 0.5}
    buck = regulator("b", "buck", "pack-rail", "five", 5.0, output_ohm=0.1, set_tol_frac=0.0)
    made = plan(rails=FIVE, supplies=[buck], inlets=[port], devices=[device("d", "five", 0.8)], conditions=[{**STILL, "energy": ["pack", "usb"]}])  # fmt: skip
    state = solve_plan(made).rail("five").states["bench"]
    assert state.usable_a == pytest.approx(1.0, rel=0.02)
    assert min(state.limits, key=lambda one: one.amps_a).element == "usb"
