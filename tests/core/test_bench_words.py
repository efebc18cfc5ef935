"""The bench in words: what stands in front of a builder with two probes in hand, held against the craft it is about."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest

from tests.core.test_faults import craft
from tests.core.test_search import after, known_of
from tests.plans import WIRE, device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.faults import KINDS
from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.procedures import checklist, judge
from yardmeter.core.search import Signatures, advise
from yardmeter.core.search.trials import trials
from yardmeter.review.bench import BenchStep, bench_gates, bench_steps
from yardmeter.review.search import effort, search_view
from yardmeter.words.search import REPAIR_WORDS, outcome_words, trial_how, trial_title


def steps_of(made: Plan) -> dict[str, BenchStep]:
    return {one.id: one for one in bench_steps(checklist(solve_plan(made)))}


@pytest.fixture(scope="module")
def marshlight() -> Signatures:
    return known_of(demo.plan("marshlight-as-soldered"))


@pytest.fixture(scope="module")
def told(marshlight: Signatures) -> dict[str, BenchStep]:
    return {one.id: one for one in bench_steps(marshlight.made)}


def test_no_step_speaks_in_ids_or_leaves_a_blank(told: dict[str, BenchStep], marshlight: Signatures) -> None:
    plan = marshlight.made.solved.plan
    ids = [one for one in plan.elements if "-" in one and one not in {e.name for e in plan.elements.values()}]
    for step in told.values():
        said = f"{step.title} {step.how} {step.expects} {step.why}"
        assert step.title.strip()
        assert step.how.strip()
        assert "{" not in said, step.id
        assert "None" not in said, step.id
        assert not [one for one in ids if re.search(rf"(?<![\w-]){re.escape(one)}(?![\w-])", said)], step.id


def test_gates_come_in_the_order_of_a_careful_first_power(marshlight: Signatures) -> None:
    gates = [one.gate for one in bench_gates(marshlight.made)]
    assert gates.index("eyes") < gates.index("plug") < gates.index("cross") < gates.index("states") < gates.index("limiter") < gates.index("volts") < gates.index("load")  # fmt: skip
    assert gates[-4:] == ["function", "pack", "still", "load"]  # ten minutes on the bench before anything turns
    assert [one.id for one in marshlight.made.steps][-5:] == [
        "pack-volts",
        "load-still",
        "load-props",
        "load-hover",
        "load-punch",
    ]
    assert sum(one.count for one in bench_gates(marshlight.made)) == len(marshlight.made.steps)
    load = next(one for one in bench_gates(marshlight.made) if one.gate == "load")
    assert "licensed" in load.caution


def test_a_rail_is_read_before_its_expensive_units_and_then_with_each(told: dict[str, BenchStep]) -> None:
    order = list(told)
    without = order.index("volts-without-rail-5v")
    assert without + 1 == order.index("volts-rail-5v")
    assert order.index("volts-rail-5v") < order.index("volts-with-camera") < order.index("volts-with-computer")
    assert "Low-light camera" in told["volts-without-rail-5v"].how
    assert "volts-without-pack-rail" not in told  # motors are no expensive unit of the pack's


def test_there_is_a_step_for_what_is_there_and_none_for_what_is_not(
    told: dict[str, BenchStep], marshlight: Signatures
) -> None:
    """Motors have three wires and no plus; shells are ground; the red wire that was lifted is live."""
    assert not [one for one in told if "motors-plus" in one or "motors-ground" in one or one == "eyes-polarity-motors"]
    assert not [f.id for f in marshlight.faults if "motors" in f.elements and f.kind != "device shorted"]
    assert "no strand across" in told["eyes-motors-motors"].title
    assert "USB shell" in told["grounds-plug-minus-controller-shell"].title
    assert "antenna shell" in told["grounds-plug-minus-sender-shell"].title
    assert "motors stop" in told["function-fail-safe"].title
    shared = demo.plan("culvert-lights-on")
    spare = next(s.id for s in shared.supplies if isinstance(s, Regulator) and s.place == "esc" and s.id == "esc-2-bec")
    assert "insulated" in steps_of(shared)[f"eyes-lifted-{spare}"].title


def test_what_cannot_be_foreseen_is_shown_and_says_why() -> None:
    """120 A of 5 V behind a regulator of 3 A: its rail is on the list, and nothing that is typed passes it."""
    made = plan(
        rails=[rail("five", 5)],
        supplies=[regulator("reg", "buck", "pack-rail", "five", 5.0)],
        devices=[device("heater", "five", 120.0, min_v=4.5, max_v=5.5)],
    )
    step = checklist(solve_plan(made)).step["volts-five"]
    assert step.unforeseen is not None
    assert not judge(step, 5.0).passed
    assert "cannot be foreseen" in steps_of(made)["volts-five"].expects


def test_thick_leads_come_before_what_heat_kills(told: dict[str, BenchStep]) -> None:
    assert "heat-sensitive" in told["eyes-heat"].title
    assert "eyes-heat" not in steps_of(demo.plan("wren-boosted-logic"))  # 1S on thin leads
    assert "which colour is plus" in told["eyes-polarity-camera"].how


def test_the_first_power_says_how_long_the_limit_may_last() -> None:
    bulk = {"id": "bulk", "name": "Bulk", "kind": "capacitor", "at": "pack-rail", "farad": 10e-3, "rated_v": 35}
    step = steps_of(craft(filters=[bulk]))["limiter-first"]
    assert step.supply
    # Three times 10 mF and 22 µF behind each regulator, at 4S nominal, over the limit, and half a second for what starts.
    by_hand = 3 * (10e-3 + 2 * 22e-6) * 14.8 / step.supply.limit_a + 0.5
    assert step.charge_s == pytest.approx(by_hand, rel=1e-3)
    assert step.supply.volts_v == 14.8
    assert "at the limit of" in step.expects


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ("function-rc", "port UART 1 of Flight controller set to the receiver's protocol, inversion on"),
        ("function-gnss-in", "port UART 2 of Flight controller"),  # the board's, whichever end it is
        ("function-video-cam", "CAM 2 chosen as input, which is not the one shown at power-up"),
        ("function-video-out", "Analogue sender VIDEO chosen as input. Then"),  # it has no other
        ("function-servo-line", "SRV mapped to this servo"),
        ("function-motor-1", "Propellers off."),
        ("function-overlay-controller", "more than 2 % apart"),
    ],
)
def test_settings_that_look_like_a_broken_wire_come_first(told: dict[str, BenchStep], step: str, said: str) -> None:
    assert said in told[step].how


def test_places_are_where_the_drawing_needs_them(told: dict[str, BenchStep]) -> None:
    cross = told["cross-camera-plus-plug-minus"]
    assert cross.red
    assert cross.black
    assert (cross.red.kind, cross.red.owner, cross.red.board, cross.red.rail) == (
        "supply pin",
        "camera",
        "controller",
        "rail-5v",
    )
    assert (cross.black.kind, cross.black.board, cross.black.rail) == ("plug", None, None)
    pad = next(one for one in told.values() if one.red and one.red.kind == "rail")
    assert pad.red
    assert pad.red.board
    assert pad.red.rail == pad.red.point


def test_every_kind_has_its_repair_and_every_trial_its_words(marshlight: Signatures) -> None:
    assert set(REPAIR_WORDS) == set(KINDS)
    plan, failed = marshlight.made.solved.plan, marshlight.made.step["plug-forward"]
    offered = list(trials(marshlight, failed, shorted=True, powered=True, supply=True))
    assert {one.doing for one in offered} == {"probe", "lift", "volts", "millivolts"}  # everything is soldered
    assert len({one.id for one in offered}) == len(offered)
    for one in offered:
        assert trial_title(plan, one)
        assert "{" not in trial_how(one)
    drop = next(one for one in offered if one.doing == "millivolts")
    assert "limited to 1.00 A" in trial_how(drop)
    assert (outcome_words(drop, 0.0123), outcome_words(drop, float("nan"))) == ("12.3 mV", "something else")
    probe = next(one for one in offered if one.doing == "probe")
    # Leads of 0.2 Ω are in what a meter shows of copper; of parts they do not count.
    assert [outcome_words(probe, ohm) for ohm in (0.05, 4700.0, 3e6)] == ["250 mΩ", "4.70 kΩ", "nothing conducts"]


def test_what_is_offered_next_parts_the_faults_in_different_ways(marshlight: Signatures) -> None:
    failed = marshlight.made.step["plug-forward"]
    belief = after(marshlight, [("plug-forward", 0.4)])
    advice = advise(belief, failed, ["probe|plug-forward"], shorted=True, powered=False)
    shown = search_view(advice, failed)
    assert len(shown.options) == 3
    assert len({tuple((o.reads, round(o.chance_frac, 3)) for o in one.outcomes) for one in shown.options}) == 3
    assert [one.bits / one.seconds_s for one in shown.options] == sorted((one.bits / one.seconds_s for one in shown.options), reverse=True)  # fmt: skip
    assert all(sum(o.chance_frac for o in one.outcomes) <= 1 + 1e-9 for one in shown.options)
    assert shown.meanings[0].dangerous
    assert "A through it" in shown.meanings[0].under_power
    # Without a supply nobody is sent for millivolts; a trial that was done is not asked for again.
    first = shown.options[0].id
    later = advise(belief, failed, ["probe|plug-forward", first], shorted=True, powered=False, supply=False)
    assert first not in {one.trial.id for one in later.options}
    assert "millivolts" not in {one.trial.doing for one in later.options}


@pytest.mark.parametrize(("chance", "sure"), [(0.89, False), (0.9, True)])
def test_what_is_found_is_sure_from_nine_in_ten(marshlight: Signatures, chance: float, sure: bool) -> None:
    failed = marshlight.made.step["plug-forward"]
    advice = advise(after(marshlight, [("plug-forward", 0.4)]), failed, [], shorted=True, powered=False)
    found = search_view(replace(advice, named=marshlight.faults[0], chance_frac=chance), failed).found
    assert found
    assert (found.fault, found.sure) == (marshlight.faults[0].id, sure)


def test_effort_counts_what_the_builder_said_happens(marshlight: Signatures) -> None:
    found = effort(marshlight)
    assert [one.level for one in found.levels] == ["quick", "usual", "thorough"]
    assert [one.steps for one in found.levels] == sorted(one.steps for one in found.levels)
    assert found.levels[-1].steps == len(marshlight.made.steps)
    assert found.levels[0].left_frac <= 0.10
    assert found.weights["short"] == 2.0
    # Where only what eyes cannot see happens, eyes leave all of it.
    inside = {kind: (1.0 if kind == "device shorted" else 0.0) for kind in KINDS}
    lamp = plan(
        rails=[rail("five", 5)],
        supplies=[regulator("reg", "buck", "pack-rail", "five", 5.0)],
        devices=[device("lamp", "pack-rail", 0.5, kind="led", nominal_v=14, min_v=6, max_v=20, feed={"rail": "pack-rail", "wire": WIRE})],
        policy={"fault_weights": inside},
    )  # fmt: skip
    only = effort(known_of(lamp))
    assert only.schools[0].left_frac == pytest.approx(1.0)
    assert only.weights["short"] == 0.0
