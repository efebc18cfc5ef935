"""What rules propose for an overload or a wrong place, at the edges of each proposal."""

from typing import Any

import pytest

from tests.plans import device, draws, plan, rail, regulator
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.relief import (
    feed_fixes,
    fit_regulator,
    larger_fix,
    leave_out_fixes,
    most_asked_a,
    new_regulator_fix,
    overload_fix,
    rails_for,
    relief_fixes,
    sold_v,
)
from yardmeter.core.plan import Plan, Regulator


def solved(**parts: Any) -> SolvedPlan:
    return solve_plan(plan(**parts))


def on_five(*devices: dict[str, Any], rating_a: float = 1.0, place: str = "alone", **fields: Any) -> SolvedPlan:
    own = regulator("bec", "buck", "pack-rail", "five", 5.0, rating_a=rating_a, place=place, derate_frac=None, **fields)
    return solved(rails=[rail("five", 5)], supplies=[own], devices=list(devices))


def five(case: SolvedPlan) -> Any:
    return case.plan.rail_of["five"]


# --- a larger one -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("asked_a", "rating_a"),
    [(0.95, 2.0), (1.79, 2.0), (1.82, 3.0), (2.69, 3.0), (4.4, 5.0), (7.19, 8.0), (7.3, None)],
)
def test_the_next_larger_regulator_is_the_first_that_holds_nine_tenths(asked_a: float, rating_a: float | None) -> None:
    case = on_five(device("load", "five", asked_a), current_limit_a=20, theta_still_k_w=40, theta_moving_k_w=20)
    found = list(larger_fix(case, five(case), "bench"))
    if rating_a is None:
        assert not found
        return
    values = {edit.field: edit.value for edit in found[0].edits if edit.op == "set"}
    assert values == {
        "rating_a": rating_a,
        "current_limit_a": pytest.approx(20 * rating_a),
        "theta_still_k_w": pytest.approx(40 / rating_a**0.7),
        "theta_moving_k_w": pytest.approx(20 / rating_a**0.7),
    }


def test_a_larger_one_cools_by_how_much_larger_it_is() -> None:
    case = on_five(device("load", "five", 2.5), rating_a=1.5, theta_still_k_w=40)
    (found,) = larger_fix(case, five(case), "bench")
    values = {edit.field: edit.value for edit in found.edits if edit.op == "set"}
    assert (values["rating_a"], values["theta_still_k_w"]) == (3.0, pytest.approx(40 / 2**0.7))


def test_of_two_in_parallel_the_larger_is_kept() -> None:
    own = [
        regulator(name, "linear", "pack-rail", "five", 5.0, rating_a=amps)
        for name, amps in (("s", 1), ("l", 2), ("t", 1.5))
    ]
    made = plan(rails=[rail("five", 5)], supplies=own, devices=[device("load", "five", 0.2)])
    (told,) = (one for one in run_rules(solve_plan(made)) if one.code == "source.several")
    (kept,) = (one for one in told.fixes if one.kind == "keep one")
    assert [edit.element for edit in kept.edits] == ["s", "t"]


def test_only_a_single_regulator_that_stands_alone_is_exchanged() -> None:
    load = device("load", "five", 1.5)
    on_board = on_five(load, place="board")
    assert not list(larger_fix(on_board, five(on_board), "bench"))
    bare = on_five(load)
    (found,) = larger_fix(bare, five(bare), "bench")
    assert {edit.field for edit in found.edits if edit.op == "set"} == {
        "rating_a",
        "theta_still_k_w",
        "theta_moving_k_w",
    }
    second = regulator("more", "buck", "pack-rail", "five", 5.0, place="alone")
    two = solved(rails=[rail("five", 5)], supplies=[regulator("bec", "buck", "pack-rail", "five", 5.0, rating_a=1, place="alone"), second], devices=[load])  # fmt: skip
    assert not list(larger_fix(two, five(two), "bench"))


# --- a regulator of its own -------------------------------------------------------------------------------------------


def test_the_biggest_leave_until_the_rest_has_room_and_what_keeps_control_stays() -> None:
    devices = [device("rx", "five", 0.6, keeps_control=True), device("big", "five", 0.5), device("mid", "five", 0.4), device("small", "five", 0.1)]  # fmt: skip
    case = on_five(*devices, rating_a=1.2)
    fix = overload_fix(case, five(case), "bench")
    assert fix is not None
    # 1.6 A asked, 1.08 A usable: 0.5 A leaves 1.1 A, still over the 0.92 A with a margin; 0.4 A more does.
    assert [edit.device for edit in fix.edits if edit.op == "move"] == ["big", "mid"]
    own = next(edit.value for edit in fix.edits if edit.op == "add" and edit.kind == "supply")
    assert (own["set_v"], own["rating_a"]) == (5.0, 2.0)  # 0.9 A with a fifth spare over nine tenths of its print


def test_no_regulator_of_its_own_where_leaving_is_not_enough_or_five_would_have_to() -> None:
    keeps = on_five(device("mcu", "five", 2.0, kind="logic", keeps_control=True), device("eye", "five", 0.1))
    assert overload_fix(keeps, five(keeps), "bench") is None
    last = on_five(device("rx", "five", 2.0, keeps_control=True), device("eye", "five", 0.1))
    found = overload_fix(last, five(last), "bench")
    assert found is not None
    assert [edit.device for edit in found.edits if edit.op == "move"] == ["eye", "rx"]
    crowd = [device(f"d{k}", "five", 0.3) for k in range(8)]
    many = on_five(*crowd)
    assert overload_fix(many, five(many), "bench") is None
    few = on_five(*crowd[:6])  # 1.8 A: four of 0.3 A leave 0.6 A
    fix = overload_fix(few, five(few), "bench")
    assert fix is not None
    assert sum(edit.op == "move" for edit in fix.edits) == 4


@pytest.mark.parametrize(
    ("asked_a", "rating_a"), [(0.74, 1.0), (0.76, 2.0), (1.49, 2.0), (1.51, 3.0), (5.9, 8.0), (6.1, None)]
)
def test_a_regulator_of_its_own_has_a_fifth_spare(asked_a: float, rating_a: float | None) -> None:
    case = on_five(device("load", "five", asked_a), rating_a=9)
    fix = new_regulator_fix(case, [case.plan.device_of["load"]])
    found = None if fix is None else next(edit.value for edit in fix.edits if edit.op == "add" and edit.kind == "supply")["rating_a"]  # fmt: skip
    assert found == rating_a


def test_windows_that_do_not_meet_share_no_regulator_and_motors_have_none() -> None:
    case = solved(rails=[rail("five", 5)], supplies=[regulator("bec", "buck", "pack-rail", "five", 5.0)], devices=[device("three", "five", 0.1, min_v=3, max_v=3.6, nominal_v=3.3), device("high", "five", 0.1, min_v=3.6, max_v=9), device("wide", "five", 0.1, min_v=3, max_v=9), device("m", "five", 0.1, kind="motor", throttle=[{"throttle_frac": 1, "amps": 1}])])  # fmt: skip
    pick = case.plan.device_of
    assert new_regulator_fix(case, [pick["three"], pick["high"]]) is None
    assert new_regulator_fix(case, [pick["m"]]) is None
    both = new_regulator_fix(case, [pick["high"], pick["wide"]])
    assert both is not None
    assert next(edit.value for edit in both.edits if edit.op == "add" and edit.kind == "supply")["set_v"] == 5.0


def test_volts_that_are_sold_lie_in_the_window_and_near_what_is_wanted() -> None:
    assert [sold_v(4.5, 5.5, 5.2), sold_v(7, 13, 11.2), sold_v(7, 13, 10.9), sold_v(12, 12.5, 12.5)] == [5, 12, 10, 12]
    assert sold_v(5.2, 5.8, 5.6) == 5.6, "none is sold: a trimmed one"


def test_what_is_asked_at_other_volts_goes_by_the_law() -> None:
    loads = [device("lamp", "five", 0.4, peak=0.9), device("radio", "five", 3.0, unit="W", law="power")]
    case = on_five(*loads, rating_a=5)
    assert most_asked_a(case, case.plan.device_of["lamp"], 12.0) == pytest.approx(0.9)
    assert most_asked_a(case, case.plan.device_of["radio"], 12.0) == pytest.approx(0.25)


def made(volts: float, lowest: float, series: int = 4, **taken: Any) -> dict[str, Any]:
    edits = fit_regulator(plan(series=series, **taken), volts, 2.0, lowest_v=lowest)
    assert [edit.kind for edit in edits] == ["board", "rail", "supply"]
    return dict(edits[2].value)


def test_a_fitted_regulator_holds_its_volts_at_the_lowest_input() -> None:
    assert [made(5.0, 6.31)["kind"], made(5.0, 6.29)["kind"], made(12.0, 9.0)["kind"]] == [
        "buck",
        "buckboost",
        "buckboost",
    ]
    assert (made(5.0, 6.0)["start_v"], made(5.0, 6.0)["stop_v"]) == (4.5, 4.2)
    assert (made(3.3, 3.0)["start_v"], made(3.3, 3.0)["stop_v"]) == (pytest.approx(2.4), pytest.approx(2.25))
    assert [made(5.0, 14.0)["input_max_v"], made(5.0, 14.0, series=6)["input_max_v"]] == [30.0, 35.0]
    assert made(5.0, 14.0)["theta_still_k_w"] == pytest.approx(55 / 2**0.7)
    assert [one["amps"] for one in made(5.0, 14.0)["efficiency"]] == pytest.approx([0.6, 1.6])
    assert made(5.0, 14.0, rails=[rail("bec1", 5)])["id"] == "bec2-reg"


def test_a_fitted_regulator_stands_on_the_ground_of_the_board_that_feeds_it() -> None:
    wire = {"gauge_awg": 20, "length_m": 0.1}
    other = {"id": "other", "name": "Other", "returns": [{"id": "other-gnd", "to": "pack", "wire": wire}]}
    two = plan(boards=[other], rails=[rail("twelve", 12, board="other")])
    for feeding, home in ((None, "main"), ("twelve", "other")):
        board, _, supply = fit_regulator(two, 5.0, 2.0, lowest_v=11.0, feed_rail=feeding)
        assert supply.value["input"] == (feeding or "pack-rail")
        assert [one["to"] for one in dict(board.value)["returns"]] == [home]  # type: ignore[index,call-overload,union-attr]


# --- elsewhere --------------------------------------------------------------------------------------------------------


def several() -> Plan:
    return plan(
        rails=[rail("five", 5), rail("other", 5), rail("logic", 3.3), rail("below", 5)],
        supplies=[
            regulator("a", "buck", "pack-rail", "five", 5.0, rating_a=1),
            regulator("b", "buck", "pack-rail", "other", 5.0, rating_a=2),
            regulator("c", "linear", "five", "logic", 3.3),
            regulator("d", "buckboost", "five", "below", 5.0),
        ],
        devices=[device("eye", "five", 0.9), device("tip", "five", 0.2), device("rx", "five", 0.1, keeps_control=True)],
    )


def test_a_device_moves_to_rails_inside_its_window_most_spare_first_and_never_below_the_one_it_relieves() -> None:
    case = solve_plan(several())
    eye = case.plan.device_of["eye"]
    assert [one.id for one in rails_for(case, eye)] == ["below", "other"] or [one.id for one in rails_for(case, eye)] == ["other", "below"]  # fmt: skip
    assert [one.id for one in rails_for(case, eye, leaving="five")] == ["other"]
    tight = eye.model_copy(update={"min_v": 4.99, "max_v": 5.01})
    assert rails_for(case, tight) == [], "a fiftieth inside both edges"
    assert rails_for(case, eye.model_copy(update={"kind": "motor"})) == []


def test_one_move_is_proposed_only_where_it_is_enough() -> None:
    case = solve_plan(several())
    moves = [fix for fix in relief_fixes(case, five(case), "bench") if fix.kind == "move"]
    assert [fix.edits[0].device for fix in moves if fix.edits[0].op == "move"] == ["eye"], "the tip alone is not enough"


@pytest.mark.parametrize(("tip_a", "offered"), [(0.08, []), (0.12, ["tip"])])
def test_a_thin_margin_is_relieved_by_what_makes_it_a_wide_one(tip_a: float, offered: list[str]) -> None:
    """0.95 A of one, the board's own logic stays: the tip goes where 0.85 A or less are left, 15 % being thin."""
    made = plan(
        rails=[rail("five", 5), rail("other", 5)],
        supplies=[regulator("a", "buck", "pack-rail", "five", 5.0, rating_a=1), regulator("b", "buck", "pack-rail", "other", 5.0, rating_a=2)],
        devices=[device("board", "five", 0.95 - tip_a, kind="logic"), device("tip", "five", tip_a)],
    )  # fmt: skip
    case = solve_plan(made)
    moves = [fix for fix in relief_fixes(case, five(case), "bench") if fix.kind == "move"]
    assert [fix.edits[0].device for fix in moves if fix.edits[0].op == "move"] == offered


def test_a_regulator_is_fed_from_rails_that_hold_it_the_pack_first() -> None:
    made = plan(
        rails=[rail("eight", 8), rail("nine", 9), rail("five", 5), rail("mid", 7)],
        supplies=[
            regulator("n", "buck", "pack-rail", "nine", 9.0),
            regulator("e", "buck", "pack-rail", "eight", 8.0),
            regulator("m", "buck", "pack-rail", "mid", 7.0),
            regulator("f", "buck", "mid", "five", 5.0, start_v=6, input_max_v=10),
        ],
    )
    case = solve_plan(made)
    supply = made.supply_of["f"]
    assert isinstance(supply, Regulator)
    assert [fix.edits[0].value for fix in feed_fixes(case, supply) if fix.edits[0].op == "set"] == ["nine", "eight"], "the pack is over its 10 V"  # fmt: skip
    wide = supply.model_copy(update={"input_max_v": 40.0})
    assert [fix.edits[0].value for fix in feed_fixes(case, wide) if fix.edits[0].op == "set"] == [
        "pack-rail",
        "nine",
        "eight",
    ]
    hungry = supply.model_copy(update={"input_max_v": 40.0, "start_v": 9.5})
    assert [fix.edits[0].value for fix in feed_fixes(case, hungry) if fix.edits[0].op == "set"] == ["pack-rail"]


def test_the_fewest_of_the_biggest_are_left_out_until_a_limit_holds() -> None:
    loads = [device(name, "five", amps) for name, amps in (("a", 0.9), ("b", 0.5), ("c", 0.3), ("d", 0.1))]
    loads.append({**device("rx", "five", 0.7, keeps_control=True), "draws": draws(0.7)})
    case = on_five(*loads, rating_a=5)
    left = {limit: [[edit.device for edit in fix.edits if edit.op == "set_state"] for fix in leave_out_fixes(case, five(case), "bench", limit)] for limit in (2.6, 2.4, 1.2, 1.0, 0.5)}  # fmt: skip
    assert left == {2.6: [], 2.4: [["a"]], 1.2: [["a", "b"]], 1.0: [["a", "b", "c"]], 0.5: [["a", "b", "c", "d"]]}
