"""From symptoms to causes: chances by hand, hidden causes found again, what is dangerous not offered, answers that contradict refused."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator
from pathlib import Path
from statistics import NormalDist

import numpy as np
import pytest

from tests.builds import random_build
from tests.plans import device, plan, rail, regulator
from yardmeter import demo, diagnose_cli
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.diagnosis.advice import Diagnosis, Evidence, diagnose, question_bits
from yardmeter.core.diagnosis.causes import Cause
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.observed import Observer, trip_chance
from yardmeter.core.diagnosis.played import found_by, hidden, play, shown_by
from yardmeter.core.diagnosis.remedies import remedies
from yardmeter.core.diagnosis.situations import situations, whens
from yardmeter.core.diagnosis.symptoms import SYMPTOMS, asked_about, find_symptom, places
from yardmeter.core.diagnosis.tries import MENDED, find_try
from yardmeter.core.diagnosis.twins import twin
from yardmeter.core.diagnosis.weighing import Complaint, fit_of
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.plan.operations import SetValue
from yardmeter.review.diagnosis import seen_diagnosis, symptoms_of
from yardmeter.words.diagnosis import SETTING_WORDS, SYMPTOM_WORDS, cause_words, mend_words


@pytest.fixture(scope="module")
def marsh() -> Known:
    """The demo as it was soldered."""
    return Known(demo.plan("marshlight-as-soldered"))


def about(known: Known, symptom: str, where: str | None = None) -> Complaint:
    found = find_symptom(symptom)
    return Complaint(found, asked_about(known.plan, found, where))


def first(found: Diagnosis) -> Cause:
    return found.suspects[0].cause


def test_the_chance_of_a_trip_is_worked_out_from_its_temperature() -> None:
    """Four in five known to a fifth of their rise, one in five, shut in, to a half; normal distribution by SciPy."""
    by_hand = 0.8 * NormalDist(0, 0.2 * 73).cdf(-22) + 0.2 * NormalDist(0, 0.5 * 73).cdf(-22)
    assert trip_chance(103.0, 125.0, 73.0) == pytest.approx(by_hand, rel=1e-9)
    assert trip_chance(125.0, 125.0, 95.0) == pytest.approx(0.5)


def test_a_reset_on_the_bench_after_a_while_is_the_hot_regulator(marsh: Known) -> None:
    complaint = about(marsh, "resets-warm", "mcu")
    found = diagnose(marsh, [complaint])
    assert first(found).id == "trip-buck-5v"
    # Its own loss through its own θ, from the solved bench: what the table says beside it.
    solved = solve_conditions(marsh.by.posed(marsh.plan))
    supply = marsh.plan.supply_of["buck-5v"]
    loss_w = solved.mean["bench"].supply_loss_w(supply)
    assert isinstance(supply, Regulator)
    settled = marsh.plan.policy.still_air_c + loss_w * supply.theta_still_k_w
    assert marsh.by.planned.temps_c["buck-5v"][marsh.by.rows.index("warm")] == pytest.approx(settled)
    words = seen_diagnosis(marsh, found, ())
    assert f"settles at {settled:.0f} °C in still air, switches off at 125 °C" in words.causes[0].speaks_for[0]
    # It keeps running with air blown at it: that speaks for heat, and against software that restarts itself.
    cooler = diagnose(marsh, [complaint], [Evidence("again-blown", yes=False)])
    before, after = ({s.cause.id: s.chance for s in d.suspects} for d in (found, cooler))
    assert after["trip-buck-5v"] > before["trip-buck-5v"]
    assert after.get("setting-watchdog", 0.0) < before["setting-watchdog"]
    warm = diagnose(marsh, [complaint], [Evidence("again-blown", yes=True)])
    assert {s.cause.id: s.chance for s in warm.suspects}.get("trip-buck-5v", 0.0) < before["trip-buck-5v"] / 2


def test_what_is_tried_tells_what_it_tells() -> None:
    """Bits of a question by Shannon's formula: two causes as likely, told apart with one error in twenty, leave H(0.05)."""
    bits, then = question_bits(np.array([0.95, 0.05]), np.array([0.5, 0.5]), np.array([0, 1]))
    assert bits == pytest.approx(1 + 0.05 * math.log2(0.05) + 0.95 * math.log2(0.95))
    assert then == pytest.approx((0.95, 0.05))
    # What is mended alike need not be told apart.
    same, _ = question_bits(np.array([0.95, 0.05]), np.array([0.5, 0.5]), np.array([0, 0]))
    assert same == pytest.approx(0.0, abs=1e-12)


def test_hidden_causes_are_found_again() -> None:
    """A sample of all causes of a demo craft and of random ones: their repair comes first, within few tries."""
    played = []
    for known in _crafts():
        rng = np.random.default_rng(len(known.causes))
        for k in rng.permutation(len(known.causes))[:6]:
            cause = known.causes[int(k)]
            shown = shown_by(known, cause)
            if shown:
                played.append(play(known, cause, shown[0][1], int(k)))
    assert len(played) > 11
    assert np.mean([one.rank == 0 for one in played]) >= 0.75
    assert np.mean([one.rank < 3 for one in played]) >= 0.9
    assert np.mean([len(one.tried) for one in played]) <= 3.6
    assert sum(one.minutes for one in played) <= 0.5 * sum(one.usual_minutes for one in played)
    sure = [one for one in played if one.chance >= 0.9]
    assert np.mean([one.rank == 0 for one in sure]) >= 0.85


def _crafts() -> Iterator[Known]:
    yield Known(demo.plan("wren-straight-from-the-cell"))
    yield Known(demo.plan("culvert-lights-on"))
    yield Known(random_build(3))


def test_with_a_short_suspected_nothing_is_powered_but_behind_a_limiter(marsh: Known) -> None:
    complaint = about(marsh, "beep-stays", "rail-5v")
    found = diagnose(marsh, [complaint])
    assert found.limited
    assert {one.tried.power for one in found.offered} <= {"off", "limited"}
    # Once the meter says that nothing is shorted, power is offered again.
    dead = about(marsh, "dead", "computer")
    assert diagnose(marsh, [dead]).limited
    sound = [
        Evidence("ohms-rails-rail-5v-plug-minus", value=76.0),
        Evidence("ohms-rails-ctl-pack-rail-5v", value=8000.0),
    ]
    calm = diagnose(
        marsh,
        [dead],
        [*sound, Evidence("ohms-rails-rail-3v3-plug-minus", value=516.0), Evidence("amps-bench", value=1.6)],
    )
    assert not calm.limited


def test_what_may_take_it_down_is_not_flown(marsh: Known) -> None:
    found = diagnose(marsh, [about(marsh, "resets-hover", "mcu")])
    assert found.grounded
    assert all(one.tried.power != "air" for one in found.offered)


def test_answers_that_contradict_each_other_are_refused_with_both(marsh: Known) -> None:
    complaint = about(marsh, "resets-warm", "mcu")
    with pytest.raises(EditError, match=r"5\.05 and 3\.1") as told:
        diagnose(
            marsh,
            [complaint],
            [Evidence("volts-bench-rail-5v", value=5.05), Evidence("volts-bench-rail-5v", value=3.1)],
        )
    assert told.value.where == "volts-bench-rail-5v"
    with pytest.raises(EditError, match="yes and no"):
        diagnose(marsh, [complaint], [Evidence("again-blown", yes=True), Evidence("again-blown", yes=False)])
    # The last digit is no contradiction; a reading where yes or no is asked is, and the other way round.
    diagnose(
        marsh, [complaint], [Evidence("volts-bench-rail-5v", value=5.05), Evidence("volts-bench-rail-5v", value=5.01)]
    )
    with pytest.raises(EditError, match="yes or no"):
        diagnose(marsh, [complaint], [Evidence("again-blown", value=3.0)])
    with pytest.raises(EditError, match="by a reading"):
        diagnose(marsh, [complaint], [Evidence("volts-bench-rail-5v", yes=True)])
    with pytest.raises(UnknownElementError):
        diagnose(marsh, [complaint], [Evidence("again-the-moon", yes=True)])


def test_a_symptom_of_what_is_not_there_names_the_nearest() -> None:
    lamp = Plan.model_validate(
        {
            "name": "Lamp", "pack": {"rail": "r", "series": 3}, "boards": [{"id": "b", "name": "Board", "returns": [{"id": "g", "to": "pack"}]}],
            "rails": [{"id": "r", "name": "Pack rail", "board": "b"}],
            "devices": [
                {
                    "id": "lamp", "name": "Lamp", "nominal_v": 12, "min_v": 6, "max_v": 14, "feed": {"rail": "r"}, "returns": [{"id": "lg", "to": "b"}],
                    "draws": {"idle": {"value": 0.1}, "typical": {"value": 0.2}, "peak": {"value": 0.3}},
                }
            ],
        }
    )  # fmt: skip
    with pytest.raises(EditError, match="nothing that could show this") as told:
        asked_about(lamp, SYMPTOMS["lines-throttle"], None)
    assert "Nearest" in (told.value.remedy or "")
    assert {"bench", "late", "punch"} <= set(whens(lamp))
    assert "hover" not in whens(lamp)
    known = Known(lamp)
    assert diagnose(known, [about(known, "dead")]).suspects
    # Every symptom says here either what it is about, or what is nearest to it.
    for one in symptoms_of(lamp):
        assert one.places or one.near or not SYMPTOMS[one.id].near or one.group in ("picture", "signals", "power")


def test_mending_what_was_not_it_brings_up_the_next(marsh: Known) -> None:
    complaint = about(marsh, "resets-warm", "mcu")
    named = first(diagnose(marsh, [complaint]))
    still = diagnose(marsh, [complaint], [Evidence(MENDED + named.id, yes=True)])
    assert first(still).mended_by != named.mended_by
    assert find_try(marsh, complaint, MENDED + named.id).kind == "mended"


def test_two_complaints_with_two_causes_say_that_there_is_a_second(marsh: Known) -> None:
    both = [about(marsh, "heading-swings", "gnss"), about(marsh, "resets-punch", "mcu")]
    alone = diagnose(marsh, both[:1])
    assert alone.named is not None
    assert alone.second is None
    found = diagnose(marsh, both)
    assert found.named is not None
    assert found.named.id == "field-gnss"
    assert found.second is not None
    assert found.second.id == "overload-buck-5v"
    # One that explains both is taken before two that each explain one.
    dark = [about(marsh, "picture-black-punch", "video-cam"), about(marsh, "resets-punch", "computer")]
    assert first(diagnose(marsh, dark)).id == "overload-buck-5v"
    assert diagnose(marsh, dark).second is None


def test_a_remedy_takes_the_symptom_away_and_brings_nothing_as_bad(
    marsh: Known, monkeypatch: pytest.MonkeyPatch
) -> None:
    complaint = about(marsh, "resets-warm", "mcu")
    found = remedies(marsh, complaint, marsh.cause["trip-buck-5v"])
    assert found
    for one in found:
        made = apply_edits(marsh.plan, one.fix.edits)
        left = Observer(made).planned.p("lost", "warm", "mcu")
        assert left == pytest.approx(one.after, abs=1e-6)
        assert left <= 0.5 * one.before
        assert one.now_c is not None
        assert one.was_c is not None
        assert one.now_c < one.was_c - 10
    assert remedies(marsh, complaint, marsh.cause["broken-mcu"]) == ()
    # What was tried for one complaint and cause is not tried again, and says nothing of another's.
    tried: list[str] = []
    monkeypatch.setattr("yardmeter.core.diagnosis.remedies._tried", lambda *asked: tried.append(asked[2].id))
    monkeypatch.setattr(marsh, "_tried", dict(marsh._tried))
    assert remedies(marsh, complaint, marsh.cause["trip-buck-5v"]) == found
    assert not tried
    for other in (about(marsh, "resets-hover", "mcu"), about(marsh, "resets-warm", "receiver")):
        assert remedies(marsh, other, marsh.cause["trip-buck-5v"]) == ()
        assert tried
        tried.clear()


def test_twins_made_quickly_are_those_that_edits_make() -> None:
    """Volts of a twin against the one the edit path makes: the same."""
    known = Known(demo.plan("heathwatch-as-stacked"))
    some = [one for one in known.causes if one.edits][::13]
    assert len(some) > 8
    for cause in some:
        quick, whole = twin(known.plan, cause.edits or ()), apply_edits(known.plan, cause.edits or ())
        a, b = known.by.look(quick), known.by.look(whole)
        np.testing.assert_allclose(a.pins_v, b.pins_v, atol=1e-9)
        np.testing.assert_allclose(a.chance["lost"], b.chance["lost"], atol=1e-9)


def test_what_is_fine_is_seen_on_the_whole_craft(marsh: Known) -> None:
    """Nothing explains that it works on USB where the plan has it dead there; a cause that kills it on the pack explains the rest."""
    dead_on_usb = fit_of(marsh, marsh.cause["broken-camera"], about(marsh, "usb-only", "camera"))
    assert dead_on_usb <= 0.06
    assert fit_of(marsh, marsh.cause["broken-camera"], about(marsh, "dead", "camera")) >= 0.85


def test_everything_has_its_words() -> None:
    assert set(SYMPTOM_WORDS) == set(SYMPTOMS)
    assert len(SYMPTOMS) >= 40
    reached: set[str] = set()
    for name in ("marshlight-as-soldered", "culvert-first-wiring"):
        known = Known(demo.plan(name))
        for cause in known.causes:
            assert cause_words(known.plan, cause)
            assert mend_words(known.plan, cause)
        assert len({one.id for one in known.causes}) == len(known.causes)
        reached |= {one.id for one in SYMPTOMS.values() if places(known.plan, one)}
    assert len(reached) >= 40
    assert all(how.endswith(".") for _, how in SETTING_WORDS.values())


def test_a_guess_is_told_as_what_the_answer_rests_on(marsh: Known) -> None:
    complaint = about(marsh, "resets-warm", "mcu")
    told = seen_diagnosis(marsh, diagnose(marsh, [complaint]), ())
    assert any("Companion computer" in one and "guessed" in one for one in told.rests_on)
    sure = apply_edits(marsh.plan, [SetValue(element="computer", field="draws.typical.provenance", value="measured")])
    known = Known(sure)
    again = diagnose(known, [about(known, "resets-warm", "mcu")])
    before, after = (
        next(s.chance for s in d.suspects if s.cause.id == "draws-more-computer")
        for d in (diagnose(marsh, [complaint]), again)
    )
    assert after < before / 3
    assert not any("Companion" in one for one in seen_diagnosis(known, again, ()).rests_on)


def test_an_exercise_hides_a_cause_that_shows_and_answers_the_same_twice(marsh: Known) -> None:
    cause, complaint = hidden(marsh, 5)
    assert hidden(marsh, 5) == (cause, complaint)
    assert fit_of(marsh, cause, complaint) >= 0.3
    one = find_try(marsh, complaint, "amps-bench")
    said = [found_by(marsh, complaint, one, cause, np.random.default_rng(1)) for _ in range(2)]
    assert said[0] == said[1]


def test_situations_are_those_of_the_plan(marsh: Known) -> None:
    found = situations(marsh.plan)
    assert found["punch"].throttle_frac == 1.0
    assert found["punch"].pack_state == "low"
    assert found["usb"].energy == ("usb",)
    assert found["servo"].state_of("servo") == "peak"
    assert found["servo"].throttle_frac == 0
    assert found["bench"].air == "still"


def test_the_terminal_gives_causes_tests_and_refusals(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    plan = tmp_path / "plan.json"
    plan.write_bytes(demo.plan("wren-straight-from-the-cell").model_dump_json().encode())
    said = tmp_path / "said.json"
    said.write_text('[{"test": "amps-bench", "value": 0.9}]')
    assert diagnose_cli.main([str(plan), "--symptom", "dead", "--where", "camera", "--evidence", str(said)]) == 0
    found = json.loads(capsys.readouterr().out)
    assert sum(one["chance"] for one in found["causes"]) + found["unknown"] <= 1.001
    assert {"id", "chance", "for", "against"} <= found["causes"][0].keys()
    assert {"id", "minutes", "bits", "expect"} <= found["tests"][0].keys()
    assert "amps-bench" not in {one["id"] for one in found["tests"]}
    assert diagnose_cli.main([str(plan), "--list"]) == 0
    assert len(json.loads(capsys.readouterr().out)) == len(SYMPTOMS)
    for text, told in (
        ("{}", "no list"),
        ("[", "no JSON"),
        ('[{"test": "amps-bench"}]', "yes or a value"),
        ('[{"test": "x", "yes": true}]', "nothing to try"),
    ):
        said.write_text(text)
        assert diagnose_cli.main([str(plan), "--symptom", "dead", "--evidence", str(said)]) == 1
        assert told in capsys.readouterr().err.replace("either yes or a value", "yes or a value")
    assert diagnose_cli.main([str(plan), "--symptom", "bewitched"]) == 1
    assert "no symptom" in capsys.readouterr().err
    assert diagnose_cli.main([str(plan), "--symptom", "dead", "--at", "nowhere"]) == 1
    assert "no condition" in capsys.readouterr().err


def test_the_wires_of_one_device_do_nothing_to_another() -> None:
    """What is left unsolved for that reason, solved after all: next to nothing."""
    known = Known(demo.plan("culvert-lights-on"))
    left = [(c, d) for c in known.causes for d in known.plan.device_of if known._elsewhere(c, d)]
    assert len(left) > 50
    base = known.by.planned
    for cause, name in left[::7]:
        world = known.world(cause)
        assert world is not None
        for when in known.by.rows:
            assert world.p("lost", when, name) <= base.p("lost", when, name) + 0.01
    assert not known._elsewhere(known.cause["poor-joint-receiver"], "receiver")


def test_what_the_plug_does_is_run(marsh: Known) -> None:
    """The recorder of the demo resets as the pack joins USB: the run says so, no operating point does."""
    complaint = about(marsh, "resets-plug", "recorder")
    found = diagnose(marsh, [complaint])
    assert first(found).id == "plug-recorder"
    assert marsh.chance(marsh.cause["plug-recorder"], "lost", "bench", "recorder") == 0.0
    assert fit_of(marsh, marsh.cause["plug-lidar"], about(marsh, "resets-plug", "lidar")) < 1e-4


def test_what_gets_far_too_much_is_gone_and_a_little_too_much_is_not(marsh: Known) -> None:
    world = marsh.world(marsh.cause["whisker-ctl-pack-rail-5v"])
    assert world is not None
    # 24.6 V and more on parts for 5.25 V; the strobe of the plan gets 25.1 V and takes 24.
    assert world.p("lost", "bench", "computer") == 1.0
    assert marsh.by.planned.p("over", "bench", "strobe") > 0.95
    assert marsh.by.planned.p("lost", "bench", "strobe") < 0.01


def test_air_that_does_not_cool_changes_nothing() -> None:
    """With the same thermal resistance in moving air what switches off when warm does so with air blown at it, from 5 K lower."""
    plan = demo.plan("marshlight-as-soldered")
    still = plan.supply_of["buck-5v"]
    assert isinstance(still, Regulator)
    alike = apply_edits(plan, [SetValue(element="buck-5v", field="theta_moving_k_w", value=still.theta_still_k_w)])
    seen = Observer(alike).planned
    warm, blown = (seen.p("lost", when, "mcu") for when in ("warm", "blown"))
    assert 0.5 * warm < blown < warm


def test_what_was_changed_last_is_suspected_first(marsh: Known) -> None:
    complaint = about(marsh, "resets-warm", "mcu")
    since = Complaint(complaint.symptom, complaint.where, frozenset({"computer"}))
    odds = []
    for one in (complaint, since):
        chance = {s.cause.id: s.chance for s in diagnose(marsh, [one]).suspects}
        odds.append(chance["draws-more-computer"] / chance["trip-buck-5v"])
    assert odds[1] / odds[0] == pytest.approx(4.0, rel=1e-6)


def test_what_nothing_explains_is_called_unknown(marsh: Known) -> None:
    complaint = about(marsh, "rail-high", "rail-12v")
    evidence = [
        Evidence("volts-bench-rail-12v", value=12.0), Evidence("amps-bench", value=1.61), Evidence("look-buck-12v", yes=False),
        Evidence("ohms-rails-ctl-pack-rail-12v", value=9686.0), Evidence(MENDED + "regulator-shorted-buck-12v", yes=True),
    ]  # fmt: skip
    before, found = diagnose(marsh, [complaint]), diagnose(marsh, [complaint], evidence)
    assert before.standing != "unknown"
    assert found.standing == "unknown"
    assert found.unknown > 0.5
    assert found.named is None


def test_a_worn_pack_loses_more_volts_in_a_punch(marsh: Known) -> None:
    """Two and a half times a cell's resistance: 6 × 1.5 × 3 mΩ more in the way of what a punch draws; by hand."""
    world = marsh.world(marsh.cause["aged-pack"])
    assert world is not None
    w = marsh.by.rows.index("punch")
    r = marsh.by.subjects.index["rail"]["pack-rail"]
    more_ohm = 1.5 * marsh.plan.pack.internal_ohm
    lost_v = float(marsh.by.planned.rails_v[w, r] - world.rails_v[w, r])
    assert lost_v == pytest.approx(more_ohm * float(world.pack_a[w]), rel=0.05)
    assert marsh.chance(marsh.cause["draws-more-computer"], "greedy", "bench", "craft") > marsh.chance(
        marsh.cause["draws-more-camera"], "greedy", "bench", "craft"
    )


def test_a_rail_that_another_regulator_holds_up_is_not_lost() -> None:
    """One that gives up over and over takes a device along where it is alone, and not where a stronger one feeds the same net."""
    weak = regulator("weak", "buck", "pack-rail", "five", 5.3, rating_a=0.5, current_limit_a=0.6, limit_style="hiccup", retry_s=0.1)  # fmt: skip
    strong = regulator("strong", "buck", "pack-rail", "other", 5.0, rating_a=5)
    link = {"id": "red", "name": "Red", "kind": "link", "input": "other", "output": "five", "board": "main"}
    for supplies, said in (([weak, strong, link], ("ok", False)), ([weak], ("reset", True))):
        made = plan(rails=[rail("five", 5), rail("other", 5)], supplies=supplies, devices=[device("cam", "five", 1.0, brownout_v=4.0)])  # fmt: skip
        by = Observer(made)
        at = by.rows.index("bench"), by.subjects.index["device"]["cam"]
        verdict = solve_plan(by.posed(made)).device("cam").states["bench"].verdict
        assert (verdict, bool(by.planned.chance["lost"][at] > 0.5)) == said
