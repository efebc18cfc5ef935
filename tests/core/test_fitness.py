"""Can a device live there: the edges of each thing that speaks against a place, and who asks before a device is put somewhere."""

from __future__ import annotations

from typing import Any

import pytest

from tests.plans import LOW, STILL, device, draws, fixes_of, plan, rail, regulator
from tests.reference.test_runs import scenario
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.homes import homes, place_at_home, settled
from yardmeter.core.fitness import fitness, fitness_at
from yardmeter.core.fixes.helps import helps_for
from yardmeter.core.parts import Part, load_part
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Move
from yardmeter.core.runs.run import run_scenario
from yardmeter.review.feed_schools import feed_schools
from yardmeter.review.hookup import hookup

EFF = {"efficiency": [{"amps": 1, "efficiency_frac": 0.9}], "theta_still_k_w": 10, "theta_moving_k_w": 10}
THIN = {"gauge_awg": 36, "length_m": 0.02, "connector_ohm": 0.001, "connector_limit_a": 1.0}
PAD = {"id": "pad", "label": "5 V", "limit_a": 1.0}


def yard(
    *devices: dict[str, Any], five_a: float = 2.0, more_a: float = 2.0, nine_a: float = 2.0, pads: Any = (), more: Any = (), supplies: Any = ()
) -> Plan:  # fmt: skip
    """Bucks of 5.0, 5.2 and 9 V on a 4S pack, 16.8 V full; ratings as given, all of them usable."""
    return plan(
        rails=[{**rail("five", 5.0), "pads": list(pads)}, rail("more", 5.2), rail("nine", 9.0), *more],
        supplies=[
            regulator("a", "buck", "pack-rail", "five", 5.0, rating_a=five_a, **EFF),
            regulator("b", "buck", "pack-rail", "more", 5.2, rating_a=more_a, **EFF),
            regulator("c", "buck", "pack-rail", "nine", 9.0, rating_a=nine_a, **EFF),
            *supplies,
        ],
        devices=list(devices),
    )


def part(amps: float, **fields: Any) -> Part:
    """A device of the shelf; 5 V, 4.5 to 5.5, unless told otherwise."""
    given = {"id": "x", "name": "New one", "nominal_v": 5, "min_v": 4.5, "max_v": 5.5, "draws": draws(amps), **fields}
    return load_part({"key": "new-one", "name": "New one", "kind": "device", "device": given})


def home_of(made: Plan, one: Part) -> str:
    after = apply_edits(made, place_at_home(made, one))
    return next(d.feed.rail for d in after.devices if d.id not in made.device_of and d.feed)


def against(made: Plan, rail_id: str = "", *, before: bool = True) -> set[str]:
    found = (
        fitness_at(made, "d", rail_id, was=solve_plan(made) if before else None)
        if rail_id
        else fitness(made, "d", solve_plan(made) if before else None)
    )
    return {one.code for one in found.verdicts}


def test_a_wire_that_was_too_thin_before_speaks_against_no_place() -> None:
    """6 W through a contact for 1 A: 1.2 A at 5 V, 0.67 at 9, 1.15 at 5.2. Only where it becomes more is that the place's doing."""
    thin = {"rail": "five", "wire": {**THIN, "gauge_awg": 20}}
    one = device("d", "five", 6.0, unit="W", law="power", min_v=4.5, max_v=10.0, feed=thin)
    assert against(yard(one), before=False) == {"fit.wire"}
    assert against(yard(one)) == against(yard(one), "more") == against(yard(one), "nine") == set()
    one["feed"] = {**thin, "rail": "nine"}
    assert against(yard(one), before=False) == set()
    assert against(yard(one), "five") == {"fit.wire"}
    one["draws"] = draws(4.9, "W")  # 0.98 A
    assert against(yard(one), "five") == set()


def test_a_pad_counts_all_that_is_soldered_to_it_and_only_what_was_not_there_before() -> None:
    def soldered(amps: float, *, here: bool) -> Plan:
        wire = {"gauge_awg": 20, "length_m": 0.1}
        on_pad = {"rail": "five", "pad": "pad", "wire": wire}
        one = device("d", "more", amps, **({"feed": on_pad} if here else {}))
        return yard(device("mate", "five", 0.6, feed=on_pad), one, pads=[PAD])

    def moved(amps: float) -> set[str]:
        made = soldered(amps, here=False)
        return {one.code for one in fitness_at(made, "d", "five", "pad", solve_plan(made)).verdicts}

    assert moved(0.39) == set()
    assert moved(0.41) == {"fit.pad"}
    assert against(soldered(0.41, here=True), before=False) == {"fit.pad"}
    assert against(soldered(0.41, here=True)) == set()


@pytest.mark.parametrize(("amps", "home"), [(0.89, "five"), (0.91, "more"), (1.89, "more"), (1.91, "five")])
def test_a_new_device_goes_where_its_volts_suit_best_of_what_can_carry_it(amps: float, home: str) -> None:
    """1.1 of 2 A are taken on 5 V, 0.1 on 5.2 V. Where no rail can carry it, it goes where it suits, and is found there."""
    made = yard(device("a1", "five", 1.1), device("b1", "more", 0.1))
    assert home_of(made, part(amps)) == home


def test_the_pack_is_the_last_home_and_none_for_what_a_full_one_kills() -> None:
    made = yard(five_a=0.5, more_a=0.5, nine_a=0.5)
    wide = {"min_v": 4.5, "nominal_v": 9.0}
    assert homes(made, part(1.0, **wide, max_v=17.0).device) == ["nine", "more", "five", "pack-rail"]
    assert home_of(made, part(1.0, **wide, max_v=17.0)) == "pack-rail"
    assert homes(made, part(1.0, **wide, max_v=16.7).device) == ["nine", "more", "five"]
    assert home_of(made, part(1.0, **wide, max_v=16.7)) == "nine"
    assert homes(made, part(1.0, nominal_v=3.3, min_v=3.1, max_v=3.5).device) == ["pack-rail"]


def test_of_a_crowded_rail_the_fewest_of_the_biggest_leave_and_what_keeps_control_stays() -> None:
    """2.9 A on 2: the 1.2 A go where 2 A are free, which is enough; the small ones stay, and the biggest of all keeps control."""
    crowd = [
        device("small", "five", 0.2),
        device("big", "five", 1.2),
        device("pilot", "five", 1.3, keeps_control=True),
        device("tiny", "five", 0.2),
    ]
    names = [str(one["id"]) for one in crowd]

    def ends(made: Plan) -> dict[str, str]:
        return {d.id: d.feed.rail for d in settled(made, names).devices if d.feed}

    stay = dict.fromkeys(names, "five")
    assert ends(yard(*crowd)) == {**stay, "big": "more"}
    assert ends(yard(*crowd, more_a=1.1)) == {
        **stay,
        "small": "more",
        "tiny": "more",
    }  # not enough, but all that can be done
    assert ends(yard(*crowd, more_a=0.1)) == stay
    assert ends(yard(*crowd, five_a=3.0)) == stay
    alone = yard(crowd[2], five_a=1.0)
    assert settled(alone, ["pilot"]).device_of["pilot"].feed.rail == "more"
    assert settled(alone, []) == alone


def test_a_rail_behind_the_one_that_is_short_is_no_way_out() -> None:
    """0.7 A at 5 V for 0.5 usable; 3.3 V made of it has room of its own, and would ask the same of it."""
    made = plan(
        rails=[rail("five", 5.0), rail("three", 4.6)],
        supplies=[
            regulator("a", "buck", "pack-rail", "five", 5.0, rating_a=0.5, **EFF),
            regulator("l", "linear", "five", "three", 4.6, dropout_v=0.1, rating_a=2),
        ],
        devices=[device("d", "five", 0.7, min_v=4.0)],
        conditions=[STILL, LOW],
    )
    assert homes(made, made.device_of["d"]) == ["five", "three"]
    assert settled(made, ["d"]) == made
    assert home_of(made, part(0.7, min_v=4.0)) == "five"


@pytest.mark.parametrize(("taken_a", "offered"), [(1.85, {"five", "more"}), (1.95, {"more"}), (2.1, {"more"})])
def test_a_fix_moves_nothing_to_a_rail_that_cannot_carry_it(taken_a: float, offered: set[str]) -> None:
    """A camera of 0.1 A that nothing feeds; 2 A of the 5 V rail are usable, and one over that already takes no more."""
    lost = device("d", "loose", 0.1)
    made = yard(device("crowd", "five", taken_a), lost, more=[rail("loose", 5.0)])
    found = [fix for fix in fixes_of(made, "source.none") if "BEC" not in fix.title]
    assert {edit.rail for fix in found for edit in fix.edits if isinstance(edit, Move)} == offered


def test_what_helps_against_a_reset_moves_nothing_to_a_rail_that_is_full() -> None:
    """A servo's stall takes the receiver's rail down. Of two others at 5 V one has all it can give taken already."""
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="constant")
    servo = device("servo", "r", 0.1, peak=2.5, kind="servo", law="resistance", min_v=1, brownout_v=0.5)
    rx = device("rx", "r", 0.1, boot_s=0.2, hold_s=1e-4, min_v=4, brownout_v=3.8, restart_v=4.2, input_f=1e-5)

    def ways_out(taken_a: float) -> set[str | None]:
        made = yard(servo, rx, device("crowd", "five", taken_a), more=[rail("r", 5.0)], supplies=[weak])
        stall = [{"act": "state", "at_s": at, "device": "servo", "state": state} for at, state in ((0.1, "peak"), (0.12, "typical"))]  # fmt: skip
        return {
            one.rail
            for one in helps_for(run_scenario(made, scenario(*stall, lasts=0.3, begins="bench")), "rx")
            if one.kind == "another place"
        }

    assert ways_out(1.85) == {"five", "more"}
    assert ways_out(1.95) == {"more"}


def test_the_list_of_wires_warns_of_a_full_pack_that_no_condition_names() -> None:
    """A lamp for 16 V on 14.8 V of 16.8; a sensor whose rail nothing feeds; what an overloaded rail starves has its own finding."""
    made = plan(
        rails=[rail("weak", 5.0), rail("loose", 5.0)],
        supplies=[regulator("a", "buck", "pack-rail", "weak", 5.0, rating_a=1, current_limit_a=1, limit_style="constant", **EFF)],
        devices=[
            device("lamp", "pack-rail", 0.3, nominal_v=12, min_v=10, max_v=16),
            device("lost", "loose", 0.1),
            device("starved", "weak", 1.5),
            device("low", "pack-rail", 0.1, nominal_v=15, min_v=14.9, max_v=18, brownout_v=9),
        ],
        conditions=[{"id": "hover", "name": "Hover", "pack_state": "nominal", "throttle_frac": 0.3}],
    )  # fmt: skip
    warnings = {row.element: row.warning for row in hookup(solve_plan(made)).rows if row.id.startswith("feed:")}
    assert warnings == {
        "lamp": "16.8 V on a full pack, it takes 16 V: do not connect",
        "lost": "nothing reaches it in Hover, it needs 4.5 V",
        "starved": "",
        "low": "14.79 V in Hover, it needs 14.9 V",
    }


def test_a_school_says_beside_its_numbers_what_it_lacks() -> None:
    """A 0.5 A camera to a 5 V rail with 0.4 A left: its volts are right, so that its numbers stand, with what is short."""
    camera = device("camera", "nine", 0.5, kind="camera", min_v=4.5, max_v=12.0)
    found = {one.key: one for one in feed_schools(yard(camera, device("crowd", "five", 1.6)), "camera", ())[0].schools}
    assert found["five"].against == "five would be 0.10 A short in Bench"
    assert found["five"].cells
    assert found["five"].edits
    assert found["built"].against == ""
    assert found["pack-lc"].refused == "16.8 V in Bench, it takes 12 V: do not connect"
    assert list(found)[-1] == "pack-lc"
    burning = device("camera", "pack-rail", 0.5, kind="camera", min_v=4.5, max_v=12.0)
    built = feed_schools(yard(burning), "camera", ())[0].schools[0]
    assert (built.refused, built.against) == ("", "16.8 V in Bench, it takes 12 V: do not connect")
    assert built.cells


@pytest.mark.parametrize(("amps", "short"), [(0.04, set()), (0.06, {"one"})])
def test_a_rail_that_is_fed_backwards_asks_the_one_that_feeds_it(amps: float, short: set[str]) -> None:
    """Two rails joined by a red wire; the 5.2 V of the one carry both, 0.95 of 1 A, and come through the wire against its way."""
    red = {"kind": "link", "id": "red", "name": "Red wire", "input": "two", "output": "one", "board": "main", "feed": {"gauge_awg": 22, "length_m": 0.1}}  # fmt: skip
    made = plan(
        rails=[rail("one", 5.2), rail("two", 5.0)],
        supplies=[
            regulator("a", "buck", "pack-rail", "one", 5.2, rating_a=1, output_ohm=0.001, **EFF),
            regulator("b", "buck", "pack-rail", "two", 5.0, rating_a=1, output_ohm=0.001, **EFF),
            red,
        ],
        devices=[device("crowd", "one", 0.95), device("d", "two", amps)],
    )
    over = [one for one in fitness(made, "d").heavy if one.code == "fit.amps"]
    assert {one.elements[0] for one in over} == short
    assert all(one.compared.observed == pytest.approx(0.95 + amps, abs=1e-3) for one in over)
    # Where its own rail carries both, it is that one.
    even = made.model_dump(mode="json")
    even["supplies"][1]["set_v"] = 5.3
    assert {one.elements[0] for one in fitness(Plan.model_validate(even), "d").heavy} == ({"two"} if short else set())
