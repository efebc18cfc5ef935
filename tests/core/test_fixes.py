"""Every fix that is offered on the demo builds: it cures what it is offered for, and breaks nothing else."""

from __future__ import annotations

import contextlib
import functools
import itertools
import math
from dataclasses import replace

import pytest

from tests.core.test_noise import HOVER
from tests.plans import STILL, device, fixes_of, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.edits import apply_edits
from yardmeter.core.fixes import Trials, from_shelf, vetted
from yardmeter.core.fixes.filters import MOST_G, with_filters
from yardmeter.core.patience import AbandonedError, patience
from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.verdict import SEVERITY_ORDER
from yardmeter.review import review
from yardmeter.review.fixes import FixesOf, tried_fixes
from yardmeter.review.noise_review import NoiseReviewed, review_noise
from yardmeter.words.fixes import title
from yardmeter.words.told import Finding

PLANS = {
    "culvert-first-wiring": 3,
    "culvert-lights-on": 0,
    "marshlight-as-soldered": 10,
    "marshlight-second-wiring": 0,
    "wren-boosted-logic": 0,
    "wren-straight-from-the-cell": 1,
}
"""Demo plans with how many fixes they are offered at least."""
SHELF = {part.key for part in demo.starter_parts()}
EFF = [{"amps": 1, "efficiency_frac": 0.9}]


def findings(made: Plan) -> dict[str, Finding]:
    found = review(made)
    return {one.key: one for one in (*found.analysis.findings, *review_noise(found.solved.solved).review.findings)}


@pytest.mark.parametrize("name", PLANS)
def test_no_fix_does_harm(name: str) -> None:
    made = demo.plan(name)
    before = findings(made)
    solved = review(made)
    offered = [
        (before[one.key], fix) for one in tried_fixes(solved, review_noise(solved.solved.solved)) for fix in one.fixes
    ]
    assert len(offered) >= PLANS[name]
    for one, fix in offered:
        after = findings(apply_edits(made, fix.edits))
        worse = [f.title for key, f in after.items() if key not in before and f.severity in ("danger", "fault")]
        assert worse == [], f"{fix.title}, for {one.title}"
        left = after.get(one.key)
        # Cured, or at least in the condition it was offered for.
        assert left is None or left.severity != one.severity, f"{fix.title}, for {one.title}"


def test_trials_that_were_called_off_are_gone_on_with() -> None:
    found = review(demo.plan("wren-straight-from-the-cell"))
    noise = review_noise(found.solved.solved)

    def asked(trials: Trials, most: float = math.inf) -> int:
        """How often it was asked whether somebody waits; nobody does from `most` on."""
        turns = itertools.count(1)
        with patience(lambda: next(turns) >= most), contextlib.suppress(AbandonedError):
            assert tried_fixes(found, noise, trials=trials) == tried_fixes(found, noise)
        return next(turns) - 1

    asked(Trials())  # what is worked out once for the plan has been
    every, some = Trials(), Trials()
    turns = asked(every)
    asked(some, turns // 3)
    assert 1 < len(some) < len(every)
    known = dict(some)
    assert asked(some) < turns
    assert some == every
    assert known.items() <= every.items()


def test_half_of_a_fix_is_no_fix() -> None:
    """One with the same first edit and no second is tried for itself."""
    found = solve_plan(plan(devices=[device("d", "pack-rail", 1.2)], conditions=[STILL]))
    told = next(one for one in run_rules(found) if one.code == "window.over")
    whole = vetted(found, [told])[told.key][0]
    half = replace(whole, edits=whole.edits[:1])
    assert len(whole.edits) > 1
    assert vetted(found, [replace(told, fixes=(whole, half))]) == {told.key: (whole,)}


def crowded(**devices: float) -> Plan:
    """A 5 V rail for 1 A with these devices, and a linear 3.3 V rail that hangs from it."""
    first = regulator("first", "buck", "pack-rail", "five", 5.0, rating_a=1.0, efficiency=EFF)
    second = regulator("second", "linear", "five", "three", 3.3, rating_a=2.0)
    loads = [device(name, "five", amps, min_v=3.0, max_v=5.5) for name, amps in devices.items()]
    return plan(rails=[rail("five", 5), rail("three", 3.3)], supplies=[first, second], devices=loads)


def moves(made: Plan, code: str) -> list[str]:
    return [fix.title for fix in fixes_of(made, code)]


def test_what_hangs_from_the_crowded_rail_is_no_way_out() -> None:
    titles = moves(crowded(camera=0.9, beeper=0.3), "load.over")
    assert titles
    assert not [one for one in titles if "three" in one.lower()]


@pytest.mark.parametrize(("max_v", "offered"), [(16.0, False), (18.0, True)])
def test_the_pack_is_no_way_out_for_what_a_full_one_kills(max_v: float, offered: bool) -> None:
    """Hovering on 14.8 V is the only condition; charged, the pack has 16.8."""
    loads = [device(n, "five", amps, min_v=3.0, max_v=max_v) for n, amps in (("camera", 0.7), ("beeper", 0.5))]
    buck = regulator("buck", "buck", "pack-rail", "five", 5.0, rating_a=1.0, efficiency=EFF)
    made = plan(rails=[rail("five", 5)], supplies=[buck], devices=loads, conditions=[HOVER])
    assert ("Camera → pack-rail" in moves(made, "load.over")) == offered


def test_one_move_is_offered_only_where_one_is_enough() -> None:
    roomy = regulator("roomy", "buck", "pack-rail", "side", 5.0, rating_a=1.0, efficiency=EFF)

    def beside(**devices: float) -> list[str]:
        made = crowded(**devices)
        sides = {"rails": (*made.rails, *plan(rails=[rail("side", 5)]).rails[1:])}
        supplies = plan(rails=[rail("side", 5)], supplies=[roomy]).supplies
        return moves(made.model_copy(update={**sides, "supplies": (*made.supplies, *supplies)}), "load.over")

    assert "Camera → side" in beside(camera=0.7, beeper=0.5)
    # Two of three would have to go; no single one is enough.
    assert not [one for one in beside(camera=0.7, beeper=0.65, lamp=0.6) if one.endswith("→ side")]


def titles(made: Plan, code: str) -> list[str]:
    return [fix.title for fix in fixes_of(made, code)]


def test_what_a_port_cannot_carry_is_left_out_where_it_is_the_source() -> None:
    """0.4, 0.3 and 0.15 A on a port of 0.5: without the largest 0.45 are left, and the receiver stays on."""
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five", "limit_a": 0.5}
    rx = device("rx", "five", 0.4, keeps_control=True)
    made = plan(
        rails=[rail("five", 5)],
        inlets=[usb],
        devices=[rx, device("a", "five", 0.3), device("b", "five", 0.06)],
        conditions=[{**STILL, "energy": ["usb"]}],
    )
    assert titles(made, "load.usb") == ["Leave A off in Bench"]


@pytest.mark.parametrize(("amps", "rating"), [(1.5, 2), (1.81, 3), (7.3, None)])
def test_the_next_larger_that_carries_it_takes_a_small_ones_place(amps: float, rating: float | None) -> None:
    """Nine tenths of its print count where it stands alone: 2 A carry 1.8, 8 A carry 7.2."""
    cool = {"theta_still_k_w": 5, "theta_moving_k_w": 5, "efficiency": [{"amps": 1, "efficiency_frac": 0.95}]}
    small = regulator("b", "buck", "pack-rail", "five", 5.0, place="alone", rating_a=1, derate_frac=None, **cool)
    made = plan(rails=[rail("five", 5)], supplies=[small], devices=[device("d", "five", amps)], conditions=[STILL])
    found = [one for one in titles(made, "load.over") if one.startswith("Exchange")]
    assert found == ([f"Exchange b for one of {rating} A"] if rating else [])


def test_a_regulator_is_taken_off_the_rail_it_overloads() -> None:
    """1.5 A at 5 V ask some 0.95 A of the 9 V regulator of 0.8: from the pack it is nobody's."""
    eff = {"efficiency": [{"amps": 1, "efficiency_frac": 0.9}]}
    made = plan(
        rails=[rail("nine", 9), rail("five", 5)],
        supplies=[
            regulator("b9", "buck", "pack-rail", "nine", 9.0, rating_a=0.8, **eff),
            regulator("b5", "buck", "nine", "five", 5.0, **eff),
        ],
        devices=[device("d", "five", 1.5, keeps_control=True)],
        conditions=[STILL],
    )
    assert titles(made, "load.over") == ["Feed b5 from pack-rail instead of nine"]


@pytest.mark.parametrize(("place", "adjustable", "offered"), [("board", None, False), ("board", True, True), ("alone", None, True), ("alone", False, False)])  # fmt: skip
def test_volts_are_set_only_where_they_can_be(place: str, adjustable: bool | None, offered: bool) -> None:
    low = device("d", "out", 0.2, nominal_v=12, min_v=7, max_v=16)
    buck = regulator("b", "buck", "pack-rail", "out", 14.5, place=place, adjustable=adjustable)
    made = plan(rails=[rail("out", 14.5)], supplies=[buck], devices=[low])
    assert any(one.startswith("Set b to") for one in titles(made, "headroom.dropout")) == offered


def test_regulators_are_offered_from_the_shelf_and_a_boards_own_logic_stays() -> None:
    """1.2 A of 5 V on a rail of 12: the lightest of the shelf that gives 2 A where a fifth is kept, not one of 1 A, nor of 12 V."""
    camera = device("d", "pack-rail", 1.2)
    logic = device("mcu", "pack-rail", 0.1, kind="logic")
    found = review(plan(devices=[camera, logic], conditions=[STILL]))
    becs = [one for one in demo.starter_parts() if one.bec]
    offered = {
        one.key: [fix.title for fix in one.fixes] for one in tried_fixes(found, review_noise(found.solved.solved), becs)
    }
    assert offered["window.over:d"] == ["D → a new BEC 5 V 2 A on pack-rail", "D → a new BEC 5 V 3 A on pack-rail"]
    assert "window.over:mcu" not in offered
    assert "window.over:mcu" in {one.key for one in found.verdicts}


@functools.cache
def with_the_shelf(name: str) -> tuple[NoiseReviewed, tuple[FixesOf, ...]]:
    """The noise of a demo, and what is offered for it and for all else."""
    found = review(demo.plan(name))
    noise = review_noise(found.solved.solved)
    return noise, tried_fixes(found, noise, demo.starter_parts())


@pytest.mark.parametrize(
    ("name", "code", "words"),
    [
        ("heathwatch-as-stacked", "noise.ripple", "LC section 10 µH 470 µF, 2 A at Sender"),
        ("heathwatch-as-stacked", "noise.video", "LC section 22 µH 220 µF, 1 A at Sender"),
        ("heathwatch-own-supply", "noise.video", "Bulk capacitor 470 µF 35 V low ESR at ESC pack"),
        ("marshlight-as-soldered", "noise.capacitor_volts", "Bulk capacitor 470 µF 35 V low ESR in the place of Capacitor at the ESC"),
        ("marshlight-as-soldered", "noise.capacitor_ripple", "2 of Capacitor at the ESC side by side"),
    ],
)  # fmt: skip
def test_what_the_noise_needs_is_offered_from_the_shelf_and_cures_it(name: str, code: str, words: str) -> None:
    made, (noise, offered) = demo.plan(name), with_the_shelf(name)
    finding = next(one for one in noise.review.findings if one.code == code)
    fixes = next(one.fixes for one in offered if one.key == finding.key)
    assert words in [fix.title for fix in fixes]
    for fix in fixes:
        after = review(apply_edits(made, fix.edits))
        left = {one.key: one.severity for one in review_noise(after.solved.solved).review.findings}
        weight = SEVERITY_ORDER[finding.severity]
        assert SEVERITY_ORDER.get(left.get(finding.key, "note"), 9) > weight, fix.title
        assert all(edit.value["part"] in SHELF for edit in fix.edits if edit.op == "add")


@pytest.mark.parametrize(("cells", "heavy"), [(6, True), (3, True), (2, False), (1, False)])
def test_a_small_craft_is_offered_no_filter_that_weighs_as_much_as_its_camera(cells: int, heavy: bool) -> None:
    """A bulk capacitor of 8 g would cure the picture of a craft of two cells, and ground it."""
    document = demo.plan("heathwatch-as-stacked").model_dump(mode="json")
    made = load_plan({**document, "pack": {**document["pack"], "series": cells}})
    of_six = review_noise(review(demo.plan("heathwatch-as-stacked")).solved.solved).verdicts
    proposed = [edit.value for one in with_filters(made, of_six, demo.starter_parts()) for fix in one.fixes for edit in fix.edits if edit.op == "add"]  # fmt: skip
    weights = [float(one["weight_g"]) * (one.get("count") or 1) for one in proposed]
    assert any(weight > MOST_G for weight in weights) is heavy


def on_a_pack(amps: float, **pack: object) -> Plan:
    """Something large straight on a 4S pack that gives 30 A."""
    load = device(
        "motor",
        "pack-rail",
        amps,
        kind="other",
        nominal_v=14.8,
        min_v=6,
        max_v=20,
        feed={"rail": "pack-rail", "wire": {"gauge_awg": 8, "length_m": 0.01}},
    )
    made = plan(rails=[], supplies=[], devices=[load], conditions=[STILL])
    values: dict[str, object] = {
        "capacity_ah": 1.5,
        "discharge_c": 20.0,
        "series": 4,
        "chemistry": "lipo",
        "parallel": 1,
        **pack,
    }
    values["lead"] = made.pack.lead.model_copy(update={"gauge_awg": 4})
    return made.model_copy(update={"pack": made.pack.model_copy(update=values)})


def packs_for(made: Plan) -> list[str]:
    verdicts = from_shelf(made, tuple(run_rules(solve_plan(made))), demo.starter_parts())
    return [title(made, fix) for one in verdicts for fix in one.fixes if fix.kind == "larger pack"]


def test_a_larger_pack_is_offered_that_gives_what_is_asked() -> None:
    """The shelf's 4S packs give 148.5 and 150 A; the lighter is tried first."""
    assert not packs_for(on_a_pack(30.0))
    assert packs_for(on_a_pack(31.0)) == [f"Fly {one} instead of Pack" for one in ("4S 1.5 Ah", "4S 3.3 Ah")]
    assert packs_for(on_a_pack(149.0)) == ["Fly 4S 1.5 Ah instead of Pack"]
    assert not packs_for(on_a_pack(151.0))
    assert not packs_for(on_a_pack(31.0, series=5))


def test_strings_side_by_side_give_and_last_as_often_as_there_are() -> None:
    one, two = (solve_plan(on_a_pack(10.0, parallel=n, cell_ohm=0.004 * n)).budget.conditions[0] for n in (1, 2))
    assert (one.minutes, two.minutes) == (
        pytest.approx(one.charge_left_frac * 1.5 / one.pack_a * 60),
        pytest.approx(2 * (one.minutes or 0), rel=1e-6),
    )
    assert not packs_for(on_a_pack(59.0, parallel=2))
    assert packs_for(on_a_pack(61.0, parallel=2))
