"""Layouts: the program against every choice there is, choices as plans, the front, holds, what cannot be, wishes that make no sense."""

from __future__ import annotations

import itertools
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.builds import random_build
from yardmeter import demo, layouts_cli
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.starting import start_plan
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.layouts import search
from yardmeter.core.layouts.candidates import Field, drawn_a, field_of
from yardmeter.core.layouts.made import heavy
from yardmeter.core.layouts.program import AIMS, Aim, Program
from yardmeter.core.layouts.search import Layouts, alternatives, lightest, next_best, propose
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Remove, SetValue
from yardmeter.review.layouts import layouts_seen, with_shelf

PARTS = demo.starter_parts()
BECS = [one for one in PARTS if one.bec]
MARSH = demo.plan("marshlight-as-soldered")


@pytest.fixture(scope="module")
def marsh() -> Layouts:
    return propose(MARSH, Wishes(), PARTS, with_shelf(PARTS))


def fewest(plan: Plan, **wishes: Any) -> Layouts:
    """Layouts with an eye to their parts alone: what a wish forbids, it forbids whatever a layout is best at."""
    return propose(plan, Wishes(**wishes), PARTS, with_shelf(PARTS), aims=("parts",))


def small(seed: int) -> Program:
    """A demo craft of which only a few devices may move, to a few places, with two parts to buy."""
    rng = np.random.default_rng(seed)
    plan = demo.plan(
        str(
            rng.choice(
                ["marshlight-as-soldered", "culvert-first-wiring", "heathwatch-as-stacked", "marshlight-second-wiring"]
            )
        )
    )
    parts = [BECS[int(k)] for k in rng.permutation(len(BECS))[:2]]
    names = [d.id for d in plan.devices]
    free = set(rng.permutation(names)[: int(rng.integers(3, 6))])
    wishes = Wishes(
        held=frozenset(set(names) - free),
        school={"fill": str(rng.choice(["0.9", "1.0"])), "control": str(rng.choice(["open", "apart"]))},
    )
    return Program(field_of(solve_plan(plan), wishes, parts), wishes)


def every_choice(program: Program, aim: Aim) -> float | None:
    """The least cost over all choices, each held to the amps by adding them up here; None where none is within."""
    of = program.field
    options = [[p for p in of.places if p.device == d] for d in of.movable]
    cost = program.cost_of(aim)
    best = None
    for chosen in itertools.product(*options):
        if not _within(program, of, chosen):
            continue
        bought = {p.rail for p in chosen if p.bought}
        if any(key.endswith("#1") and key.replace("#1", "#0") not in bought for key in bought):
            continue
        total = sum(cost[program.x[p.device, p.rail]] for p in chosen) + sum(cost[program.y[key]] for key in bought)
        total += cost[program.top] * _fullest(of, chosen)
        best = total if best is None else min(best, total)
    return best


def _asked(of: Field, chosen: tuple[Any, ...], rail: str, condition: str) -> float:
    total = 0.0
    for p in chosen:
        if p.rail == rail:
            total += p.amps_a[condition]
        elif p.bought is None:
            total += p.amps_a[condition] * dict(of.supplies[p.rail].above).get(rail, 0.0)
        elif rail == of.case.plan.pack.rail:
            total += (
                p.amps_a[condition] * p.bought.set_v / (0.85 * max(of.case.rail(rail).states[condition].volts_v, 1.0))
            )
    return total


def _within(program: Program, of: Field, chosen: tuple[Any, ...]) -> bool:
    fill = program.wishes.fill_frac
    for c in (one.id for one in of.case.pack_conditions()):
        for rail in of.supplies:
            if (
                np.isfinite(of.supplies[rail].usable_a[c])
                and _asked(of, chosen, rail, c) > program._left(rail, c, fill) + 1e-7
            ):
                return False
        for one in of.bought:
            if _asked(of, chosen, one.key, c) > fill * one.usable_a[c] + 1e-7:
                return False
    if program.wishes.school.get("control") == "apart":
        plan = of.case.plan
        for a, b in itertools.permutations(chosen, 2):
            control = plan.device_of[a.device].keeps_control and plan.device_of[a.device].kind == "receiver"
            if control and a.rail == b.rail and plan.device_of[b.device].kind in ("servo", "sender", "digital"):
                return False
    return True


def _chosen_from(of: Field, rail: str) -> bool:
    """Whether any choice asks something of it."""
    on_pack = rail == of.case.plan.pack.rail and bool(of.bought)
    return on_pack or any(
        p.rail == rail or (p.bought is None and rail in dict(of.supplies[p.rail].above)) for p in of.places
    )


def _fullest(of: Field, chosen: tuple[Any, ...]) -> float:
    shares = [0.0]
    for c in (one.id for one in of.case.pack_conditions()):
        for rail, supply in of.supplies.items():
            asked = _asked(of, chosen, rail, c)
            usable = supply.usable_a[c]
            if _chosen_from(of, rail) and np.isfinite(usable) and usable > 0:
                shares.append((asked + min(supply.fixed_a[c], usable)) / usable)
        shares += [_asked(of, chosen, one.key, c) / one.usable_a[c] for one in of.bought]
    return max(shares)


@pytest.mark.parametrize("seed", [0, 1, 3, 4, 5, 6, 7])
def test_the_program_finds_the_best_of_every_choice_there_is(seed: int) -> None:
    program = small(seed)
    for aim in AIMS:
        found, best = program.solve(aim), every_choice(program, aim)
        assert (found is None) == (best is None), aim
        if found is not None and best is not None:
            assert found.within
            assert found.value == pytest.approx(best, abs=1e-4), aim
            assert program.allows(found.at)
            assert program.value(aim, found.at) == pytest.approx(found.value, abs=1e-4)


def test_every_layout_of_a_demo_stands_and_none_is_beaten(marsh: Layouts) -> None:
    assert marsh.today.heavy == 10
    assert 3 <= len(marsh.layouts) <= 6
    assert marsh.impossible == ()
    for one in marsh.layouts:
        # Its edits make it from today's plan, and that plan is without danger and fault.
        made = apply_edits(MARSH, one.edits)
        assert made.model_dump() == one.plan.model_dump()
        assert heavy(solve_plan(made)) == ()
        assert one.numbers.parts_added == len(one.made.rail_of)
        for other in marsh.layouts:
            beaten = (
                all(a <= b for a, b in zip(other.numbers.scale, one.numbers.scale, strict=True))
                and other.numbers.scale != one.numbers.scale
            )
            assert not beaten
    names = [name for one in marsh.layouts for name in one.best_at]
    assert sorted(names) == sorted(set(names))
    fewest = next(one for one in marsh.layouts if "fewest parts" in one.best_at)
    assert fewest.numbers.parts_added == min(one.numbers.parts_added for one in marsh.layouts)


@pytest.mark.parametrize("name", ["culvert-first-wiring", "wren-straight-from-the-cell", "heathwatch-own-supply"])
def test_what_is_wrong_with_a_demo_is_cured_or_named(name: str) -> None:
    found = propose(demo.plan(name), Wishes(), PARTS, with_shelf(PARTS))
    assert found.layouts
    left = {v.key for one in found.layouts for v in heavy(solve_plan(one.plan))}
    assert left <= {one.verdict.key for one in found.impossible if one.verdict}
    assert left <= {"signal.level:range,rangefinder,controller"}


def test_holding_everything_gives_todays_plan_back() -> None:
    sound = demo.plan("marshlight-second-wiring")
    everything = frozenset(d.id for d in sound.devices)
    found = propose(sound, Wishes(held=everything), PARTS, with_shelf(PARTS))
    assert [one.edits for one in found.layouts] == [()]
    assert found.layouts[0].plan.model_dump() == sound.model_dump()


def test_a_held_thing_that_is_wrong_is_told_and_stays() -> None:
    """A strobe for 24 V on a full pack of 25.2 V."""
    found = fewest(MARSH, held=frozenset({"strobe"}))
    for one in found.layouts:
        feed = one.plan.device_of["strobe"].feed
        assert feed is not None
        assert feed.rail == "pack-rail"
    assert any(
        one.verdict is not None and "strobe" in one.verdict.elements and one.verdict.code == "window.over"
        for one in found.impossible
    )


def test_what_is_turned_down_is_not_proposed_again(marsh: Layouts) -> None:
    first = marsh.layouts[0]
    of = {b.key: b for b in marsh.of.bought}
    device = "strobe"
    place = first.made.chosen.at[device]
    key = of[place].part.key if place in of else place
    again = fewest(MARSH, turned_down=frozenset({(device, key)}))
    assert again.layouts
    for one in again.layouts:
        at = one.made.chosen.at[device]
        assert (of[at].part.key if at in of else at) != key
    other = next_best(marsh, first, [device])
    assert other is not None
    assert other.rail != place


def test_nothing_is_bought_where_nothing_may_be_and_nothing_heavier_than_wished(marsh: Layouts) -> None:
    none = fewest(MARSH, buy=frozenset())
    assert all(not one.made.rail_of for one in none.layouts)
    # The strobe has nowhere: no rail of 12 V carries it beside the sender.
    assert none.impossible
    light = fewest(MARSH, max_g=11.0)
    assert light.layouts
    for one in light.layouts:
        grams = {b.key: b.part.weight_g for b in light.of.bought}
        assert sum(grams[key] for key in one.made.rail_of) <= 11.0


def test_what_lies_in_the_drawer_is_used_before_anything_is_bought() -> None:
    plan = demo.plan("culvert-first-wiring")
    bought = fewest(plan).layouts[0].made.rail_of
    assert bought
    heavier = "bec-5v-8a"
    assert not any(key.startswith(heavier) for key in bought)
    owned = fewest(plan, owned={heavier: 1})
    first = owned.layouts[0].made.rail_of
    assert any(key.startswith(heavier) for key in first)
    seen = layouts_seen(plan, owned, Wishes(owned={heavier: 1}), PARTS)
    assert [line.owned for line in seen.layouts[0].lines if line.do == "add" and line.place == heavier] == [True]


def test_a_school_that_is_held_to_is_kept() -> None:
    found = fewest(MARSH, school={"control": "apart", "fill": "0.8"})
    assert found.layouts
    for one in found.layouts:
        receiver = one.plan.device_of["receiver"].feed
        assert receiver is not None
        kinds = {d.kind for d in one.plan.devices_on(receiver.rail) if d.id != "receiver"}
        assert not kinds & {"servo", "sender", "digital"}
        for key, rail in one.made.rail_of.items():
            usable = next(b.usable_a for b in found.of.bought if b.key == key)
            for c, most in usable.items():
                assert one.made.solved.rail(rail).states[c].asked_a <= 0.8 * most * 1.03


def test_a_school_nothing_keeps_to_is_said_so() -> None:
    """A camera for 5 V and a sender for 7 V and more share no rail."""
    narrow = apply_edits(MARSH, [SetValue(element="camera", field="max_v", value=5.5)])
    assert MARSH.device_of["sender"].min_v == 7.0
    found = fewest(narrow, school={"sender": "shared"})
    assert found.layouts == ()
    assert [one.school for one in found.impossible] == [True]
    one_camera = apply_edits(MARSH, [Remove(element="thermal")])
    shared = fewest(one_camera, school={"sender": "shared"})
    assert shared.layouts
    assert all(one.made.chosen.at["sender"] == one.made.chosen.at["camera"] for one in shared.layouts)


def test_what_no_volts_suit_is_named_with_what_would_change_it() -> None:
    """A camera for 60 V on six cells; nothing gives that."""
    odd = apply_edits(
        MARSH,
        [
            SetValue(element="thermal", field=f, value=v)
            for f, v in (("max_v", 66.0), ("nominal_v", 60.0), ("min_v", 55.0))
        ],
    )
    found = fewest(odd)
    assert [one.devices for one in found.impossible if one.nowhere] == [("thermal",)]
    seen = layouts_seen(odd, found, Wishes(), PARTS)
    told = next(one for one in seen.impossible if "thermal" in one.devices)
    assert "55.0 V to 66.0 V" in told.why
    assert "60.0 V" in told.least_change


@pytest.mark.parametrize(("seed", "cut"), [(5, False), (12, False), (114, True)])
def test_a_random_pile_ends_in_layouts_that_stand_or_in_a_reason(seed: int, cut: bool) -> None:
    """Where choices had to be cut the same is true: nothing shown has a danger or fault that the pile had not, and all is told."""
    pile = random_build(seed)
    today = {v.key for v in heavy(solve_plan(pile))}
    found = propose(pile, Wishes(), PARTS, with_shelf(PARTS))
    assert bool(found.cuts) == cut
    assert found.layouts or found.impossible
    told = {one.verdict.key for one in found.impossible if one.verdict}
    for one in found.layouts:
        assert {v.key for v in heavy(solve_plan(one.plan))} <= told & today


def test_what_another_beats_in_everything_is_not_shown(marsh: Layouts, monkeypatch: pytest.MonkeyPatch) -> None:
    best, other, worse = (marsh.layouts[k].made for k in range(3))
    base = marsh.layouts[0].numbers
    given = {
        id(best.solved): replace(base, grams=5.0, least_spare_a=0.1), id(other.solved): replace(base, grams=9.0, least_spare_a=0.5),
        id(worse.solved): replace(base, grams=9.0, least_spare_a=0.4),
    }  # fmt: skip
    monkeypatch.setattr(search, "numbers", lambda _before, solved, _parts, **_: given[id(solved)])
    aims: dict[int, Aim] = {id(one): "parts" for one in (best, other, worse)}
    kept = search._front(MARSH, [worse, other, best], aims, (), replace(base, heavy=9))
    assert [one.made for one in kept] == [best, other]
    assert "fewest parts" in kept[0].best_at
    assert "most left over" in kept[1].best_at
    # Nor what today's plan beats, as long as that is no worse off.
    sound = replace(base, grams=0.0, wires=0, parts_added=0, least_spare_a=0.3)
    assert [one.made for one in search._front(MARSH, [other, best], aims, (), sound)] == [other]


def test_a_full_pack_counts_though_no_condition_has_one() -> None:
    """A strobe for 24 V where every condition has a pack of 21.8 V and less: a full one of 25.2 V would burn it."""
    tired = MARSH.model_copy(update={"conditions": tuple(c for c in MARSH.conditions if c.id in ("hover", "landing"))})
    case = solve_plan(tired)
    assert max(case.rail("pack-rail").states[c.id].volts_v for c in case.pack_conditions()) < 23.5
    of = field_of(case, Wishes(), BECS)
    assert ("strobe", "pack-rail") not in {(p.device, p.rail) for p in of.places}


def test_a_held_part_is_not_exchanged_and_no_filter_is_fitted_unbought() -> None:
    held = fewest(MARSH, held=frozenset({"esc-capacitor"}))
    assert held.layouts
    for one in held.layouts:
        assert one.plan.elements["esc-capacitor"] == MARSH.elements["esc-capacitor"]
    assert any(one.verdict and "esc-capacitor" in one.verdict.elements for one in held.impossible)
    stack = demo.plan("heathwatch-as-stacked")
    bare = fewest(stack, buy=frozenset({"bec"}))
    assert all(len(one.plan.filters) == len(stack.filters) for one in bare.layouts)
    assert bare.layouts or bare.impossible


@pytest.mark.parametrize(
    ("seed", "left", "bought"), [(10, 0, 1), (34, 0, 1), (2, 1, 1), (4, None, 0), (27, None, 0), (39, None, 0)]
)
def test_a_new_plan_is_wired_only_where_that_makes_it_better(seed: int, left: int | None, bought: int) -> None:
    """Wrong with the last two is what no wiring cures: ESCs under their motors, a port under what its rail takes on USB, which
    telling the sender off would only talk away."""
    pile = random_build(seed)
    before = heavy(solve_plan(pile))
    found = lightest(pile, Wishes(), PARTS, with_shelf(PARTS))
    assert bool(before) == (seed != 4)
    if left is None:
        assert found is None
        return
    assert found is not None
    assert left < len(before)
    made = apply_edits(pile, list(found.edits))
    assert len(heavy(solve_plan(made))) == left
    assert len(found.made.rail_of) == bought
    assert made.conditions == pile.conditions  # what is off when is the builder's to say


FIVE_ONLY = ("pack-4s-1500", ["esc-four", "fc-5v-only"], ["rx-mini"])


def test_a_board_without_a_source_gets_one_that_serves_what_hangs_on_it_too() -> None:
    """One BEC of 1 g for controller and receiver, where each of its own would be two; none where none may be bought, or it is a
    tenth of a gram too heavy."""
    pack, boards, devices = FIVE_ONLY
    by_key = {one.key: one for one in PARTS}
    plan = start_plan("craft", by_key[pack], [by_key[k] for k in boards], [by_key[k] for k in devices], "stack")
    found = lightest(plan, Wishes(), PARTS, with_shelf(PARTS))
    assert found is not None
    assert found.numbers.heavy == 0
    assert found.numbers.grams == pytest.approx(1.0)
    assert len(found.plan.supplies) == len(plan.supplies) + 1
    assert lightest(plan, Wishes(max_g=1.0), PARTS, with_shelf(PARTS)) is not None
    heavier = propose(
        plan, Wishes(max_g=1.5, turned_down=frozenset({("mini-receiver", "b-five-in")})), PARTS, with_shelf(PARTS)
    )
    assert all(one.numbers.grams <= 1.5 for one in heavier.layouts)  # a BEC of the receiver's own besides would be 2 g
    for wishes in (Wishes(max_g=0.9), Wishes(buy=frozenset(("capacitor", "filter")))):
        assert lightest(plan, wishes, PARTS, with_shelf(PARTS)) is None


def test_a_new_plan_takes_no_wiring_that_brings_what_was_not_wrong(
    marsh: Layouts, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Fewer things wrong in all, one of them new: the plan stays."""
    pile = random_build(19)
    wrong = heavy(solve_plan(pile))
    strange = heavy(solve_plan(MARSH))[0]
    for left, taken in ((wrong[:2], True), ((*wrong[:1], strange), False), (wrong, False)):
        one = replace(marsh.layouts[0], made=replace(marsh.layouts[0].made, left=left))
        monkeypatch.setattr(search, "propose", lambda *_, one=one, **__: replace(marsh, layouts=(one,)))
        assert (lightest(pile, Wishes(), PARTS) is one) == taken


def test_places_of_one_device_are_what_moving_it_there_makes() -> None:
    of, found = alternatives(MARSH, "computer", BECS)
    assert {one.rail for one in found} >= {"rail-5v", "sender-5v"}
    here = next(one for one in found if one.rail == "rail-5v")
    assert here.made.edits == ()
    assert here.numbers.least_spare_a == pytest.approx(-1.78, abs=0.01)
    for one in found:
        assert heavy(solve_plan(apply_edits(MARSH, one.made.edits))) == one.made.left
    assert of.movable == ("computer",) or "computer" in of.movable


def test_amps_elsewhere_follow_the_law_of_a_device() -> None:
    """A sender of constant power: 12 W are 1 A at 12 V and 1.33 A at 9 V; one of constant amps draws the same anywhere."""
    case = solve_plan(MARSH)
    device = MARSH.device_of["sender"].model_copy(update={"law": "power"})
    condition = case.pack_conditions()[0]
    watts = device.draws.typical.watts_at(device.nominal_v)
    assert drawn_a(case, device, 12.0, condition) == pytest.approx(watts / 12.0)
    assert drawn_a(case, device, 9.0, condition) == pytest.approx(watts / 9.0)
    steady = device.model_copy(update={"law": "current"})
    assert drawn_a(case, steady, 9.0, condition) == drawn_a(case, steady, 12.0, condition)


@pytest.mark.parametrize(
    ("wishes", "error", "told"),
    [
        (Wishes(held=frozenset({"nobody"})), UnknownElementError, "no “nobody” to hold"),
        (Wishes(max_g=-1.0), EditError, "nothing or more"),
        (Wishes(max_g=float("nan")), EditError, "nothing or more"),
        (Wishes(buy=frozenset({"luck"})), EditError, "“luck” is nothing"),  # type: ignore[arg-type]
        (Wishes(school={"fill": "2"}), EditError, "no school"),
        (Wishes(turned_down=frozenset({("nobody", "rail-5v")})), UnknownElementError, "no device “nobody”"),
    ],
)
def test_wishes_that_make_no_sense_say_what_and_where(wishes: Wishes, error: type[Exception], told: str) -> None:
    with pytest.raises(error, match=told):
        propose(MARSH, wishes, PARTS)


def test_the_terminal_gives_plans_numbers_and_lines(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "plan.json"
    file.write_text(demo.plan("wren-straight-from-the-cell").model_dump_json())
    assert layouts_cli.main([str(file), "--max-grams", "5"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["today"]["heavy"] == 3
    one = found["layouts"][0]
    assert one["numbers"]["heavy"] == 0
    assert heavy(solve_plan(Plan.model_validate(one["plan"]))) == ()
    assert {"do", "element", "why", "next_best"} <= one["lines"][0].keys()
    assert layouts_cli.main([str(file), "--hold", "all", "--buy", "none"]) == 0
    stuck = json.loads(capsys.readouterr().out)
    assert stuck["impossible"]
    assert stuck["impossible"][0]["why"]
    assert layouts_cli.main([str(file), "--school", "fill"]) == 1
    assert "no key and value" in capsys.readouterr().err


def test_amps_behind_a_buck_are_counted_at_the_pack_as_its_power_is() -> None:
    """An ampere at 5.05 V is 5.05 / (0.85 × 19.2) A at a pack that sags to 19.2 V; along a cable it stays one."""
    case = solve_plan(MARSH)
    of = field_of(case, Wishes(), BECS)
    least = min(case.rail("ctl-pack").states[c.id].volts_v for c in case.pack_conditions())
    above = dict(of.supplies["rail-5v"].above)
    assert least == pytest.approx(19.2, abs=0.1)
    assert above["ctl-pack"] == pytest.approx(5.05 / (0.85 * least))
    assert above["pack-rail"] == pytest.approx(above["ctl-pack"])
    # One that only steps up is no part for a pack that is above it; one that takes less than a full pack is none either.
    keys = {one.part.key for one in of.bought}
    assert not any(one.bec.kind == "boost" for one in BECS if one.key in keys and one.bec)
    assert all(one.bec.input_max_v >= 25.2 for one in BECS if one.key in keys and one.bec)


def test_a_reason_is_told_that_no_reserve_is_part_of() -> None:
    """Eight motors take the volts of a 2S pack down: with all that is usable used there are choices, and what stands against them is the
    pack under its motors, not the amps of a regulator."""
    found = fewest(random_build(18))
    assert not found.layouts
    assert found.tried
    assert {one.verdict.code for one in found.impossible if one.verdict} >= {"load.over", "load.esc"}
    assert not any(one.missing_a for one in found.impossible)
