"""Answers of the supply network: collapse, windows over the pack, sources, heat, shares, tolerance runs."""

import math

import numpy as np
import pytest

from tests.balance import check_balance
from tests.plans import LOW, STILL, device, fixes_of, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.operating import operate
from yardmeter.core.answers.spread import spread
from yardmeter.core.checks import RULES
from yardmeter.core.checks.registry import rule
from yardmeter.core.edits import apply_edits, dependants
from yardmeter.core.errors import EditError, PlanError
from yardmeter.core.network import Situation, branch_table
from yardmeter.core.network.converters import loss_fit
from yardmeter.core.physics.conductors import wire_ohm
from yardmeter.core.physics.pack import CELL_STATE_V, charge_left_frac
from yardmeter.core.physics.regulators import current_for_loss_a, fit_loss
from yardmeter.core.physics.thermal import trip_time_s
from yardmeter.core.plan import Plan, Regulator, Wire, load_plan
from yardmeter.core.plan.operations import Add, Duplicate, Move, Remove, SetState, SetValue
from yardmeter.core.verdict import Facts
from yardmeter.review import analyse

EFF = {"efficiency": [{"amps": 1, "efficiency_frac": 0.9}]}


def test_a_feed_collapses_where_circuit_theory_says() -> None:
    """No operating point above V²/4R: 16.8 V through the feed's ohms, asked for twice what they pass."""
    feed = {"rail": "pack-rail", "wire": {"gauge_awg": 20, "length_m": 0.1, "connector_ohm": 2.0}}
    thirsty = device("d", "pack-rail", 1, unit="W", law="power", nominal_v=12, min_v=0.5, max_v=20, feed=feed)
    bare = plan(cell_ohm=1e-6, devices=[thirsty], conditions=[STILL])
    ohm = 2.0 + 2 * wire_ohm(20, 0.1) + 2 * wire_ohm(14, 0.1) + 4e-6
    limit_w = 16.8**2 / (4 * ohm)
    asked = {"value": 2 * limit_w, "unit": "W", "provenance": "measured"}
    made = apply_edits(bare, [SetValue(element="d", field="draws.typical", value=asked)])
    # A minimum voltage of 0.5 V turns the law into a resistance there, which settles far below: a result, not an error.
    answer = analyse(made)
    state = answer.budget.devices[0].states["bench"]
    assert state.verdict in ("reset", "dead")
    head = answer.budget.conditions[0]
    assert (head.solved, head.collapse_rail) == (False, "pack-rail")
    assert head.load_factor == pytest.approx(0.5, abs=1e-3)
    assert next(f for f in answer.findings if f.code == "load.collapse").severity == "danger"
    assert analyse(bare).budget.conditions[0].solved
    op = operate(branch_table(made), [Situation(made.conditions[0], load_factor=f) for f in (0.49, 0.51)])
    assert op.pin_v(0, "d") > 16.8 / 2 * 0.95  # just below half the load it still stands above half the volts
    assert op.pin_v(1, "d") < 1.0  # just above, the operating point is gone


def test_two_cells_below_five_volts_need_a_boost() -> None:
    # A 2S pack below 5 V stops a 5 V buck's device; only a boost keeps it alive (common practice, no source).
    empty = {**LOW, "cell_v": 2.4, "throttle_frac": 0.3}
    for kind, verdict in (("buck", "reset"), ("boost", "ok"), ("buckboost", "ok")):
        made = plan(
            series=2,
            rails=[rail("five", 5)],
            supplies=[regulator("r", kind, "pack-rail", "five", 5.0, start_v=2.5, stop_v=2.4, **EFF)],
            devices=[device("d", "five", 0.3)],
            conditions=[empty],
        )
        assert analyse(made).budget.devices[0].states["low"].verdict == verdict
    one_cell = plan(
        series=1,
        rails=[rail("five", 5)],
        supplies=[regulator("r", "buck", "pack-rail", "five", 5.0, start_v=2, stop_v=2, **EFF)],
        devices=[device("d", "five", 0.3)],
    )
    cured = analyse(apply_edits(one_cell, fixes_of(one_cell, "headroom.boost")[0].edits))
    assert not any(f.code.startswith("headroom.") for f in cured.findings)


def test_who_carries_a_shared_rail() -> None:
    # Two equal sources 40 mV apart behind 50 mΩ each: the higher carries ΔV/2R = 0.4 A more (circuit theory).
    pair = [regulator(n, "buck", "pack-rail", "five", v, output_ohm=0.05, **EFF) for n, v in (("a", 5.0), ("b", 5.04))]
    made = plan(rails=[rail("five", 5)], supplies=pair, devices=[device("d", "five", 1.6)])
    a, b = (s.states["bench"] for s in analyse(made).budget.supplies)
    assert b.out_a - a.out_a == pytest.approx(0.04 / 0.05, abs=1e-3)
    assert a.share_frac + b.share_frac == pytest.approx(1, abs=1e-9)


@pytest.mark.parametrize("kind", ["buck", "linear"])
def test_a_two_way_regulator_takes_back_what_the_higher_one_gives_too_much(kind: str) -> None:
    """40 mV over 2 · 50 mΩ drive 0.4 A beside half the load: 0.5 A out of one, 0.3 A into the other. A switching one hands
    1.5 W less its loss back to the pack, a linear one burns it."""
    low = regulator("a", kind, "pack-rail", "five", 5.0, output_ohm=0.05, two_way=True, quiescent_a=0)
    pair = [low, regulator("b", "buck", "pack-rail", "five", 5.04, output_ohm=0.05, **EFF)]
    made = plan(rails=[rail("five", 5)], supplies=pair, devices=[device("d", "five", 0.2)])
    answer = analyse(made)
    a, b = (s.states["bench"] for s in answer.budget.supplies)
    assert (a.out_a, b.out_a) == (pytest.approx(-0.3, abs=2e-3), pytest.approx(0.5, abs=2e-3))
    assert a.mode == "regulating"
    handed_w = a.in_v * -a.in_a
    assert handed_w == pytest.approx(0.3 * 5.02 - 0.3 * 0.3 - 0.08 * 0.09 if kind == "buck" else 0.0, abs=0.02)
    assert a.loss_w == pytest.approx(0.3 * 5.02 - handed_w, abs=0.02)
    assert answer.budget.conditions[0].back_flows == ()


def test_a_body_diode_feeds_back_and_is_named() -> None:
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five", "limit_a": 0.9}
    buck = regulator("buck", "buck", "pack-rail", "five", 5.0, backfeeds=True, start_v=6, stop_v=5.5, **EFF)
    siphon = device("siphon", "pack-rail", 0.2, nominal_v=4, min_v=3, max_v=20)
    made = plan(
        rails=[rail("five", 5)],
        supplies=[buck],
        inlets=[usb],
        devices=[siphon],
        conditions=[{**STILL, "energy": ["usb"]}],
    )
    answer = analyse(made)
    flow = answer.budget.conditions[0].back_flows
    assert [(f.supply, f.to) for f in flow] == [("buck", "pack-rail")]
    assert flow[0].amps_a == pytest.approx(0.2, abs=1e-3)
    assert answer.budget.devices[0].states["bench"].sources == ("usb",)
    assert any(f.code == "source.backfeed" for f in answer.findings)
    blocked = apply_edits(made, [SetValue(element="buck", field="backfeeds", value=False)])
    assert analyse(blocked).budget.conditions[0].back_flows == ()


def test_heat_and_trip_time() -> None:
    # 5 V linear from a full 4S pack at 0.5 A burns (16.8 − 5) · 0.5 = 5.9 W.
    linear = regulator(
        "l",
        "linear",
        "pack-rail",
        "five",
        5.0,
        theta_still_k_w=30,
        tau_s=40,
        trip_c=150,
        quiescent_a=0,
        output_ohm=0.001,
    )
    made = plan(
        cell_ohm=1e-5,
        rails=[rail("five", 5)],
        supplies=[linear],
        devices=[device("d", "five", 0.5)],
        conditions=[STILL],
    )
    answer = analyse(made)
    state = answer.budget.supplies[0].states["bench"]
    assert state.loss_w == pytest.approx((16.8 - 5) * 0.5, rel=5e-3)
    assert state.temp_c == pytest.approx(30 + 30 * state.loss_w, rel=1e-9)
    assert state.still_trip_s == pytest.approx(-40 * math.log(1 - 120 / (30 * state.loss_w)), rel=1e-9)
    assert {"heat.trip", "heat.linear", "load.over"} <= {f.code for f in answer.findings}
    assert trip_time_s(30, 1.0, 30, 40, 150) == math.inf


def test_the_heat_of_its_lead_is_the_leads() -> None:
    """A linear 5 V from 12.0 V at 1 A burns 7.00 W; the 100 mΩ of its lead burn another 0.1 W, and not in it."""
    lead = {"gauge_awg": 14, "length_m": 0.001, "joined": True, "connector_ohm": 0.1}
    linear = regulator("l", "linear", "pack-rail", "five", 5.1, lead=lead, quiescent_a=0, output_ohm=0.001)
    still = {**STILL, "pack_v": 12.0}
    joined = {"gauge_awg": 0, "length_m": 0.001, "joined": True}
    made = plan(
        rails=[rail("five", 5)],
        supplies=[linear],
        devices=[device("d", "five", 1.0)],
        conditions=[still],
        cell_ohm=1e-6,
    )
    made = made.model_copy(update={"pack": made.pack.model_copy(update={"lead": Wire(**joined)})})
    state = analyse(made).budget.supplies[0].states["bench"]
    assert state.out_v == pytest.approx(5.0, abs=2e-3)
    assert state.loss_w == pytest.approx((12.0 - 5.1) * 1.0, abs=0.01)


def test_an_output_is_judged_above_the_ground_of_the_device_it_is_of() -> None:
    """The sender's ground stands 20 mV up (2 A over 10 mΩ): its own 5 V are 5.000 there, not 5.020."""
    back = [
        {
            "id": "s-gnd",
            "to": "main",
            "wire": {"gauge_awg": 0, "length_m": 0.001, "joined": True, "connector_ohm": 0.01},
        }
    ]
    sender = device("sender", "pack-rail", 2.0, nominal_v=14, min_v=7, max_v=20, returns=back)
    inner = regulator("inner", "linear", "sender", "cam5", 5.0, board="sender", place="device", quiescent_a=0)
    camera = device("camera", "cam5", 0.0, ground="sender")
    made = plan(rails=[rail("cam5", 5)], supplies=[inner], devices=[sender, camera], conditions=[STILL])
    answer = analyse(made)
    assert answer.budget.devices[0].states["bench"].ground_v == pytest.approx(0.020, abs=7e-3)
    assert next(r for r in answer.budget.rails if r.id == "cam5").states["bench"].volts_v == pytest.approx(
        5.0, abs=1e-4
    )
    assert answer.budget.devices[1].states["bench"].pin_v == pytest.approx(5.0, abs=1e-4)


def test_efficiency_is_taken_at_the_input_it_was_measured_at() -> None:
    """10 % of 5 W at 1 A are 556 mW of loss in all; at 20 V in, 20 mA of its own take 400 of them, at 10 V 200."""

    def loss_w(at_v: float | None) -> float:
        point = {"amps": 1, "efficiency_frac": 0.9, **({"at_v": at_v} if at_v else {})}
        buck = regulator("b", "buck", "pack-rail", "five", 5.0, efficiency=[point], quiescent_a=0.02)
        supply = plan(rails=[rail("five", 5)], supplies=[buck]).supplies[0]
        assert isinstance(supply, Regulator)
        return loss_fit(supply).k1_v

    whole = 5 * (1 / 0.9 - 1)
    assert loss_w(20.0) == pytest.approx(whole - 0.4)
    assert loss_w(10.0) == loss_w(None) == pytest.approx(whole - 0.2)


def test_points_at_two_inputs_count_at_their_mean() -> None:
    def fit(*at_v: float | None) -> object:
        points = [{"amps": a, "efficiency_frac": e, "at_v": v} for a, e, v in zip((0.5, 2.0), (0.9, 0.86), at_v, strict=True)]  # fmt: skip
        buck = regulator("b", "buck", "pack-rail", "five", 5.0, efficiency=points, quiescent_a=0.02)
        supply = plan(rails=[rail("five", 5)], supplies=[buck]).supplies[0]
        assert isinstance(supply, Regulator)
        return loss_fit(supply)

    assert fit(10.0, 20.0) == fit(15.0, None) == fit(None, 15.0) != fit(10.0, 10.0)


def test_the_heat_limit_is_where_the_temperature_is_met() -> None:
    fit = fit_loss([(0.5, 0.9), (2.0, 0.86)], 5.0, 0.02)
    amps = current_for_loss_a(fit, 1.4, 0.2, 0.05)
    assert fit.k1_v * amps + fit.k2_ohm * amps**2 == pytest.approx(1.4, rel=1e-9)
    for at, eff in ((0.5, 0.9), (2.0, 0.86)):  # the fit goes through both data-sheet points
        assert fit.k1_v * at + fit.k2_ohm * at**2 + 0.02 == pytest.approx(5 * at * (1 / eff - 1), rel=1e-6)


def test_cells() -> None:
    # LiPo: 4.20 full, 3.7 nominal, 3.0 floor (common practice, no source).
    assert CELL_STATE_V["lipo"] == {"full": 4.20, "nominal": 3.70, "low": 3.50, "floor": 3.00}
    # Between two points of its table a cell's charge goes straight.
    for chemistry in CELL_STATE_V:
        assert charge_left_frac(chemistry, CELL_STATE_V[chemistry]["full"]) == 1
        assert charge_left_frac(chemistry, 2.0) == 0
        assert 0 < charge_left_frac(chemistry, CELL_STATE_V[chemistry]["nominal"]) < 0.5


def test_a_measured_pack_replaces_the_curve_and_a_limiter_opens() -> None:
    measured = {**STILL, "pack_v": 15.5}
    made = plan(conditions=[measured], devices=[device("d", "pack-rail", 0.1, nominal_v=14, min_v=6, max_v=20)])
    assert analyse(made).budget.conditions[0].pack_rest_v == 15.5
    fuse = {"id": "fuse", "name": "Limiter", "kind": "fuse", "rail": "pack-rail", "limit_a": 0.5}
    short = device("short", "pack-rail", 8.0, law="resistance", nominal_v=14, min_v=6, max_v=20)
    held = plan(inlets=[fuse], devices=[short], conditions=[{**STILL, "energy": ["pack", "fuse"]}])
    op = operate(branch_table(held), [Situation(held.conditions[0])])
    check_balance(op)
    assert op.pack_a(0) == pytest.approx(0.0, abs=1e-6)  # 8 A are asked of 0.5: it opens, and stays open
    assert op.gives_up(0, "fuse")
    light = plan(inlets=[fuse], devices=[device("d", "pack-rail", 0.49, nominal_v=14, min_v=6, max_v=20)], conditions=held.conditions)  # fmt: skip
    assert operate(branch_table(light), [Situation(held.conditions[0])]).pack_a(0) == pytest.approx(0.49, abs=1e-3)


def test_the_spread_is_reproducible_and_agrees_with_arithmetic() -> None:
    # One draw of 1 A ± 50 %, flat, against 1.25 A usable: a quarter of the samples are over.
    lone = plan(
        rails=[rail("five", 5)],
        supplies=[
            regulator(
                "b",
                "buck",
                "pack-rail",
                "five",
                5.0,
                rating_a=1.25,
                current_limit_a=9,
                theta_still_k_w=5,
                set_tol_frac=0.0,
                **EFF,
            )
        ],
        devices=[device("d", "five", 1.0, provenance="guess")],
        conditions=[STILL],
    )
    first, again, other = (
        spread(lone, samples=2000, seed=3),
        spread(lone, samples=2000, seed=3),
        spread(lone, samples=2000, seed=4),
    )
    risk = next(r for r in first.rails if r.rail == "five")
    assert risk.chance_frac == pytest.approx(0.25, abs=0.03)
    assert (risk.asked_low_a, risk.asked_high_a) == pytest.approx((0.55, 1.45), abs=0.02)
    assert first == again
    assert first.rails != other.rails
    assert [m.element for m in first.measure_next] == ["d"]


def test_samples_solved_together_are_solved_right() -> None:
    made = demo.plan("marshlight-second-wiring")
    found = spread(made, samples=200, seed=1)
    fixed = made.model_copy(
        update={
            "policy": made.policy.model_copy(
                update={f"tol_{p}_frac": 0.0 for p in ("measured", "sheet", "reported", "guess")}
            )
        }
    )
    supplies = tuple(
        s.model_copy(update={"set_tol_frac": 0.0}) if "set_v" in type(s).model_fields else s for s in fixed.supplies
    )
    still = fixed.model_copy(
        update={"supplies": supplies, "pack": fixed.pack.model_copy(update={"resistance_tol_frac": 0.0})}
    )
    sharp = spread(still, samples=50, seed=1)
    budget = analyse(made).budget
    for risk in sharp.rails:  # without any tolerance every sample is the plan itself
        asked = next(r for r in budget.rails if r.id == risk.rail).states[risk.condition].asked_a
        assert (risk.asked_low_a, risk.asked_high_a) == pytest.approx((asked, asked), abs=2e-3)
    wide = next(r for r in found.rails if r.rail == "bec-5v")
    assert wide.asked_high_a > wide.asked_low_a * 1.3


def test_edits_refuse_what_cannot_be_and_change_nothing() -> None:
    made = demo.plan("marshlight-as-soldered")
    before = made.model_dump()
    for edit, words in (
        (Move(device="sender", rail="sender-5v"), "feeds Sender 5 V out itself"),
        (Move(device="camera", rail="nowhere"), "no rail"),
        (Remove(element="power-board"), "pack is soldered to"),
        (SetValue(element="camera", field="id", value="x"), "cannot be changed"),
        (SetValue(element="camera", field="draws.peak.value", value=-1), "greater than or equal to 0"),
        (SetValue(element="camera", field="min_v", value=99), "window"),
        (SetValue(element="camera", field="shoe_size", value=44), "no field"),
        (Add(kind="device", value={"name": "half a device"}), "Field required"),
    ):
        with pytest.raises(EditError, match=words):
            apply_edits(made, [edit])
    assert made.model_dump() == before


def test_removing_takes_what_cannot_stand_alone() -> None:
    made = demo.plan("marshlight-as-soldered")
    assert set(dependants(made, "rail-5v")) == {"buck-5v", "usb-diode", "ldo-3v3"}
    left = apply_edits(made, [Remove(element="rail-5v")])
    assert left.device_of["camera"].feed is None
    assert "buck-5v" not in left.supply_of
    again = apply_edits(
        made, [Duplicate(element="camera"), SetState(condition="hover", device="low-light-camera-copy", state="off")]
    )
    assert again.device_of["low-light-camera-copy"].returns[0].id != made.device_of["camera"].returns[0].id
    assert analyse(again).budget.devices[-1].states["hover"].verdict == "off"


def test_a_broken_plan_names_every_fault() -> None:
    document = demo.plan("marshlight-as-soldered").model_dump(mode="json")
    document["devices"][0]["min_v"] = -3
    document["supplies"][2]["set_v"] = "lots"
    with pytest.raises(PlanError) as caught:
        load_plan(document)
    assert {p.where for p in caught.value.problems} == {"devices.0.min_v", "supplies.2.buck.set_v"}
    with pytest.raises(PlanError, match="version 9"):
        load_plan({**document, "version": 9})
    assert isinstance(load_plan(demo.plan("marshlight-as-soldered").model_dump(mode="json")), Plan)


def test_a_rule_code_is_registered_once() -> None:
    with pytest.raises(RuntimeError, match="twice"):
        rule(next(iter(RULES)), Facts, sense="at most")(lambda _case: [])


def test_every_number_of_a_rail_adds_up() -> None:
    """The rail's asked amps are the sum of its wagons, and agree with what the solver delivers into the rail."""
    for name in ("marshlight-as-soldered", "marshlight-second-wiring"):
        made = demo.plan(name)
        answer = analyse(made).budget
        for railway in answer.rails:
            for state in railway.states.values():
                assert state.asked_a == pytest.approx(sum(w.asked_a for w in state.consumers), abs=1e-9)
        supplied = {s.id: s for s in answer.supplies}
        five = next(r for r in answer.rails if r.id == "rail-5v")
        for condition, state in five.states.items():
            into = sum(supplied[s].states[condition].asked_a for s in five.supplies)
            assert state.asked_a == pytest.approx(into, abs=1e-5)
    assert np.isfinite([s.spare_a for r in answer.rails for s in r.states.values()]).all()


def test_cells_in_parallel_share_the_current() -> None:
    """20 A out of 4S of 6 mΩ cells: 24 mΩ in series take 0.48 V; two strings of them half of it, three a third."""

    def pack_v(parallel: int) -> float:
        document = plan(devices=[device("d", "pack-rail", 20.0, max_v=30)], conditions=[STILL], cell_ohm=0.006)
        made = document.model_dump(mode="json")
        made["pack"] |= {"parallel": parallel, "resistance_tol_frac": 0}
        return analyse(Plan.model_validate(made)).budget.conditions[0].pack_v

    one = pack_v(1)
    assert pack_v(2) - one == pytest.approx(0.24, abs=1e-6)
    assert pack_v(3) - one == pytest.approx(0.32, abs=1e-6)
