"""What builders caught the program contradicting itself at, each held in place."""

from __future__ import annotations

from dataclasses import replace

import pytest

from tests.core.test_changes import found, told
from tests.plans import LOW, STILL, device, plan, rail, regulator
from tests.reference.test_stable_points import chain
from yardmeter.core.answers.limits import UNSURE_FRAC, wire_weight, wire_weights
from yardmeter.core.answers.model import SupplyMode
from yardmeter.core.answers.operating import operate
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.answers.supplies import supply_weight
from yardmeter.core.checks import run_rules
from yardmeter.core.choices.places import Weights
from yardmeter.core.edits import apply_edits
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.errors import YardError
from yardmeter.core.fitness import fitness
from yardmeter.core.graph import graph_of
from yardmeter.core.network import Situation, branch_table
from yardmeter.core.network.keys import supply_key
from yardmeter.core.plan import Plan, Scenario, Wire, load_plan
from yardmeter.core.plan.operations import ChooseWay, Remove, SetValue
from yardmeter.core.runs import run_scenario, timetable
from yardmeter.core.runs.report import report
from yardmeter.core.verdict import Severity
from yardmeter.review import analyse, review
from yardmeter.review.changes import finding_changes
from yardmeter.review.compare import Side, compare
from yardmeter.review.differences import differences
from yardmeter.review.lead import lead
from yardmeter.review.noise_review import review_noise
from yardmeter.review.placement import places
from yardmeter.review.working import working
from yardmeter.words.run import outcome_words

FIVE = [rail("five", 5)]


def behind(amps: float, *more: dict[str, object], **buck: object) -> Plan:
    """A 5 V buck of 3 A, limit 4 A, with one device, on a full pack at rest."""
    made = {"rating_a": 3, "current_limit_a": 4.0, "theta_still_k_w": 2.0, **buck}
    fed = [device("cam", "five", amps), *more]
    return plan(rails=FIVE, supplies=[regulator("b", "buck", "pack-rail", "five", 5.0, **made)], devices=fed, conditions=[STILL])  # fmt: skip


@pytest.mark.parametrize(
    ("amps", "over"), [(3.0, False), (3.0 * (1 + 5e-7), False), (3.0 * (1 + 4e-6), True), (3.1, True)]
)
def test_a_limit_that_is_met_exactly_is_kept_everywhere(amps: float, over: bool) -> None:
    made = behind(amps)
    solved = solve_plan(made)
    state = solved.rail("five").states["bench"]
    assert exceeds(amps, 3.0) is over
    assert (state.tone != "ok") is over
    assert state.over is over
    assert fitness(made, "cam").fits is not over
    assert ("load.over" in {one.code for one in run_rules(solved)}) is over
    # At its limit nothing is over, and nothing is left either.
    assert ("load.thin" in {one.code for one in run_rules(solved)}) is not over


def test_a_device_on_a_rail_that_is_over_is_not_told_it_could_live_there() -> None:
    made = behind(2.0, device("heater", "five", 1.5))
    here = next(one for one in places(made, "cam") if one.current)
    assert here.refused is not None
    assert "0.50 A short" in here.refused
    assert lead(made, "cam").not_here == here.refused
    assert lead(behind(2.0), "cam").not_here is None


def test_a_place_that_is_over_already_stands_below_one_that_is_not() -> None:
    """The full rail is over with the idle device or without it; the free one is the noisier, and nothing else counts."""
    rails = [*FIVE, rail("nine", 9), rail("free", 5)]
    supplies = [
        regulator("b", "buck", "pack-rail", "five", 5.0),
        regulator("n", "buck", "pack-rail", "nine", 9.0),
        regulator("c", "buck", "nine", "free", 5.0),
    ]
    idle = device("cam", "free", 0.0)
    made = plan(rails=rails, supplies=supplies, devices=[idle, device("heater", "five", 3.5)], conditions=[STILL])
    noise = Weights(**dict.fromkeys(Weights.model_fields, 0.0) | {"noise": 1.0})
    found = [one for one in places(made, "cam", noise) if one.rail in ("five", "free") and one.refused is None]
    assert [one.rail for one in found] == ["free", "five"]
    assert found[0].score < found[1].score
    assert found[0].already is None
    assert "short" in (found[1].already or "")


@pytest.mark.parametrize(
    ("share", "weight"), [(0.999, None), (1.001, "caution"), (1 + UNSURE_FRAC - 0.001, "caution"), (1.101, "fault")]
)
def test_how_heavy_a_burst_on_a_connector_is_follows_from_how_sure_its_limit_is(
    share: float, weight: str | None
) -> None:
    """6 A for long is printed; 9.6 A for ten seconds is our own factor of 1.6, and 9.605 A burns nothing."""
    made = plan(conditions=[LOW, STILL])
    wire = Wire(gauge_awg=14, connector="plug", connector_limit_a=6.0)
    punch, rest = made.condition("low"), made.condition("bench")
    assert wire_weight(made, wire, punch, 9.6 * share) == weight
    heavy = {punch.id: weight, rest.id: None if share < 1 else "fault"}
    for amps in ({punch.id: 9.6 * share, rest.id: 6.0 * share}, {punch.id: 9.6 * share, rest.id: 0.0}):
        assert wire_weights(made, wire, amps) == {c: w for c, w in heavy.items() if w and amps[c]}
    assert wire_weight(made, wire, rest, 6.0 * share) == (None if share < 1 else "fault")


def test_what_an_overload_upstream_starves_is_no_finding_of_its_own() -> None:
    """The first of two holds 1.3 A of three: the second's input falls, and only the first is told of."""
    made = plan(
        rails=[rail("nine", 9), rail("five", 5)],
        supplies=[
            regulator("first", "buck", "pack-rail", "nine", 9.0, current_limit_a=1.3, limit_style="constant"),
            regulator("second", "buck", "nine", "five", 5.0),
        ],
        devices=[device("load", "five", 0.2), device("hog", "nine", 3.0, law="resistance", nominal_v=9, min_v=1)],
    )
    case = solve_plan(made)
    second = case.supply("second").states
    low = {c for c, state in second.items() if state.headroom_v is not None and state.headroom_v < 0}
    assert low == {c.id for c in made.conditions}, "its input is held down in every condition"
    assert not case.serving("second")
    assert [c.id for c, _ in case.serving("first")] == [c.id for c in made.conditions]
    assert not [one for one in run_rules(case) if one.code.startswith("headroom.") and "second" in one.elements]


@pytest.mark.parametrize(("style", "mode", "volts"), [("constant", "limiting", None), ("hiccup", "gives up", 0.0), ("latch", "gives up", 0.0)])  # fmt: skip
def test_a_rail_past_the_limit_of_what_gives_up_is_down_as_its_run_says(
    style: str, mode: str, volts: float | None
) -> None:
    """4.2 A of resistance-like loads on a limit of 4: held, they get a little less; given up, they get nothing and reset."""
    made = behind(2.0, device("lamp", "five", 2.2), limit_style=style)
    solved = solve_plan(made)
    assert solved.supply("b").states["bench"].mode == mode
    state = solved.device("cam").states["bench"]
    if volts is None:
        assert 0.5 < state.pin_v < 4.95
    else:
        assert (state.verdict, state.pin_v) == ("reset", 0.0)
        life = report(run_scenario(made, Scenario(id="held", name="Held", begins="bench", duration_s=0.5)))
        assert {one.id for one in life.devices if one.resets_s or one.never or one.short} == {"cam", "lamp"}
    for amps in (1.99, 2.0, 2.0 * (1 + 1e-7)):  # what is exactly met is held
        below = solve_plan(behind(2.0, device("lamp", "five", amps), limit_style=style))
        assert below.supply("b").states["bench"].mode == "regulating"


@pytest.mark.parametrize(("amps", "told"), [(1.98, False), (2.02, True)])
@pytest.mark.parametrize("style", ["constant", "hiccup"])
def test_one_that_cuts_off_below_its_print_is_told_of(style: str, amps: float, told: bool) -> None:
    """Print 3 A, cut off at 2: what is asked over that is an overload, though the print would let it pass."""
    solved = solve_plan(behind(amps, current_limit_a=2.0, limit_style=style))
    assert solved.rail("five").states["bench"].usable_a == 2.0
    assert ("load.over" in {one.code for one in run_rules(solved)}) is told
    assert (solved.supply("b").states["bench"].mode == "regulating") is not told


def test_what_gives_up_takes_nothing_from_those_that_stand_beside_it() -> None:
    """Two regulators on one pack: the one far over its limit is down, the other holds, and the pack feeds it alone."""
    made = plan(
        rails=[*FIVE, rail("nine", 9)],
        supplies=[
            regulator("b", "buck", "pack-rail", "five", 5.0, current_limit_a=4.0),
            regulator("c", "buck", "pack-rail", "nine", 9.0, efficiency=[{"amps": 1, "efficiency_frac": 0.9}]),
        ],
        devices=[device("heater", "five", 9.0), device("cam", "nine", 1.0, nominal_v=9, min_v=8, max_v=10)],
        conditions=[STILL],
    )
    op = operate(branch_table(made), [Situation(made.conditions[0])])
    assert op.gives_up(0, "b")
    assert not op.gives_up(0, "c")
    assert op.pack_a(0) == pytest.approx(9.0 / 0.9 / 16.8, rel=0.02)  # by hand


def test_an_idle_regulator_beside_a_cut_board_is_not_said_to_start_and_stop() -> None:
    board = {"id": "loose", "name": "Loose", "kind": "regulator", "returns": []}
    made = plan(
        boards=[board],
        rails=[*FIVE, rail("own", 5, "loose")],
        supplies=[
            regulator("b", "buck", "pack-rail", "five", 5.0),
            regulator("c", "buck", "pack-rail", "own", 5.0) | {"board": "loose", "quiescent_a": 0.005},
        ],
        conditions=[STILL],
    )
    solved = solve_plan(made)
    assert {one.id: one.states["bench"].mode for one in solved.budget.supplies} == {"b": "regulating", "c": "off"}
    op = solved.solved.given["bench"].op
    assert [op.network.circuit.converters.enabled[0, op.network.table.converter[supply_key(n)]] for n in "bc"] == [1, 0]


def test_without_a_way_back_to_the_pack_nothing_is_fed_whatever_volts_float() -> None:
    """The board's wire to the pack's negative is out; its port makes it no island, and is not plugged."""
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five", "limit_a": 0.5}
    whole = plan(rails=FIVE, inlets=[usb], devices=[device("d", "pack-rail", 0.1, nominal_v=14, min_v=6, max_v=20)], conditions=[STILL])  # fmt: skip
    assert solve_plan(whole).device("d").states["bench"].sources == ("pack",)
    cut = solve_plan(apply_edits(whole, [Remove(element=whole.board_of["main"].returns[0].id)]))
    state = cut.device("d").states["bench"]
    assert (state.verdict, state.sources) == ("dead", ())
    assert [one.verdict for one in cut.windows.patterns[0].lives["d"]] == ["dead"]
    assert "source.none" in {one.code for one in run_rules(cut)}


def test_a_port_that_is_not_plugged_is_no_way_back_and_the_pack_none_on_usb() -> None:
    """A board joined to the rest by its 5 V alone: fed on its own port, dead on the pack, whatever could come back by that wire."""
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "own", "limit_a": 0.5}
    red = {"kind": "link", "id": "red", "name": "Red wire", "input": "five", "output": "own", "board": "fc", "feed": {"gauge_awg": 26, "length_m": 0.1}}  # fmt: skip
    made = plan(
        boards=[{"id": "fc", "name": "Controller"}], rails=[*FIVE, rail("own", 5, "fc")], inlets=[usb],
        supplies=[regulator("b", "buck", "pack-rail", "five", 5.0), regulator("c", "buck", "pack-rail", "own", 5.0, board="fc"), red],
        devices=[device("d", "own", 0.1, ground="fc"), device("e", "five", 0.3)],
        conditions=[STILL, {**STILL, "id": "on-usb", "name": "On USB", "energy": ["usb"]}],
    )  # fmt: skip
    states = solve_plan(made).device("d").states
    assert [states[one].verdict for one in ("bench", "on-usb")] == ["dead", "ok"]
    assert [one.verdict for one in solve_plan(made).windows.patterns[0].lives["d"]] == ["dead"]
    assert {one.verdict for one in [solve_plan(made).device("e").states["on-usb"]]} == {"dead"}


def test_a_run_does_not_begin_where_no_point_was_found(monkeypatch: pytest.MonkeyPatch) -> None:
    """No plan without a point is known: 1,500 chains of three regulators far over their limits all have one."""
    lost = chain(543)
    condition = lost.conditions[0]
    real = timetable.solve_as_given
    monkeypatch.setattr(timetable, "solve_as_given", lambda *of: replace(found := real(*of), converged=~found.converged))  # fmt: skip
    with pytest.raises(YardError, match="no operating point") as refused:
        run_scenario(lost, Scenario(id="held", name="Held", begins=condition.id, duration_s=0.1))
    assert "plug the pack in" in (refused.value.remedy or "")
    run = run_scenario(lost, Scenario(id="plug", name="Plug", duration_s=0.01, acts=[{"act": "plug", "at_s": 0.0}]))
    assert run.times_s[-1] > 0


def test_a_device_that_ends_without_its_volts_is_told_of_in_its_run() -> None:
    far = device("cam", "nine", 0.1)
    made = plan(rails=[rail("nine", 9)], supplies=[regulator("b", "buck", "pack-rail", "nine", 4.0)], devices=[far], conditions=[STILL])  # fmt: skip
    run = run_scenario(made, Scenario(id="held", name="Held", begins="bench", duration_s=0.5))
    assert any("Cam" in one for one in outcome_words(made, report(run)))
    well = behind(0.1)
    assert (
        outcome_words(well, report(run_scenario(well, Scenario(id="h", name="H", begins="bench", duration_s=0.5))))
        == ()
    )


@pytest.mark.parametrize(("severity", "cured"), [("fault", False), ("caution", False), ("note", True)])
def test_what_became_a_worse_finding_was_not_cured(severity: Severity, cured: bool) -> None:
    was = found(severity="caution")
    now = found(severity=severity)
    gone, come = (
        told(type(v)(**{**vars(v), "code": code}), code) for v, code in ((was, "load.thin"), (now, "load.over"))
    )
    texts = [one.text for one in finding_changes((gone,), (come,))]
    assert ("Cured: load.thin" in texts) is cured
    assert "load.over" in texts


def test_what_went_with_one_and_came_with_another_of_its_name_has_moved() -> None:
    gone, come = (told(type(v)(**{**vars(v), "elements": (name,), "code": "x"}), "one title") for name in ("a", "b") for v in (found(),))  # fmt: skip
    assert [(one.direction, one.element) for one in finding_changes((gone,), (come,))] == [("moved", "b")]


def test_the_window_of_the_way_in_use_is_the_devices() -> None:
    ways = [
        {"name": "plug", "nominal_v": 5, "min_v": 4.5, "max_v": 5.5},
        {"name": "pins", "nominal_v": 12, "min_v": 9, "max_v": 14},
    ]
    made = plan(rails=FIVE, devices=[device("cam", "five", 0.1, ways=ways, way="plug")], conditions=[STILL])
    edited = apply_edits(made, [SetValue(element="cam", field="min_v", value=4.7)])
    assert [one.min_v for one in edited.device_of["cam"].ways] == [4.7, 9]
    back = apply_edits(edited, [ChooseWay(device="cam", way="pins"), ChooseWay(device="cam", way="plug")])
    assert back.device_of["cam"].min_v == 4.7


def test_an_output_is_not_called_good_for_more_than_a_regulator_behind_it_takes() -> None:
    made = plan(
        rails=[*FIVE, rail("three", 3.3)],
        supplies=[
            regulator("b", "buck", "pack-rail", "five", 5.0),
            regulator("ldo", "linear", "five", "three", 3.3, input_max_v=6.5),
        ],
        devices=[device("cam", "five", 0.1, max_v=20.0)],
        conditions=[STILL],
    )
    advice = next(one for one in solve_plan(made).windows.advice if one.supply == "b")
    assert advice.high_v == pytest.approx(6.5 * 0.98)
    assert (advice.high.kind, advice.high.element) == ("takes", "ldo")


def test_a_port_that_feeds_through_a_wire_the_pack_out_flows_as_it_should() -> None:
    link = {"kind": "link", "id": "harness", "name": "Harness", "input": "far", "output": "five", "board": "main"}
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five", "limit_a": 0.5}
    on_usb = {**STILL, "id": "usb-bench", "name": "USB bench", "energy": ["usb"]}
    made = plan(rails=[*FIVE, rail("far", 5)], supplies=[link], inlets=[usb], devices=[device("cam", "far", 0.08)], conditions=[on_usb])  # fmt: skip
    solved = solve_plan(made)
    assert solved.device("cam").states["usb-bench"].verdict == "ok"
    assert [one.amps_a for one in solved.budget.conditions[0].back_flows] == [pytest.approx(0.08, abs=1e-3)]
    assert "source.backfeed" not in {one.code for one in run_rules(solved)}


def test_compare_says_that_packs_differ_and_counts_minutes_from_full() -> None:
    """3 Ah at 6 A are half an hour, whatever is left in the condition; a pack of another size is told as one."""
    hover = {"id": "hover", "name": "Hover", "pack_state": "low", "throttle_frac": 0.3}
    lamp = device("d", "pack-rail", 6.0, nominal_v=14, min_v=6, max_v=20)
    one, other = plan(devices=[lamp], conditions=[hover]), plan(devices=[lamp], conditions=[hover], series=3)
    table = compare([Side(p, analyse(p), review_noise(review(p).solved.solved).review) for p in (one, other)])
    minutes = next(row for row in table.rows if row.label.startswith("minutes"))
    assert [cell.value for cell in minutes.cells] == [pytest.approx(30.0, rel=1e-3)] * 2
    assert any("3S" in words and "4S" in words for words in table.differences[0])
    assert differences(one, one) == []
    warmer = apply_edits(one, [SetValue(element="hover", field="air", value="still")])
    assert differences(one, warmer) == ["Hover changed"]


def test_a_working_says_what_it_has_not_rather_than_nought() -> None:
    made = plan(rails=FIVE, supplies=[regulator("b", "boost", "pack-rail", "five", 30.0)], conditions=[STILL])
    assert working(solve_plan(made), "b", "headroom", "bench").formula == "it steps up: it needs none"


def test_every_contact_of_a_bridged_strap_counts() -> None:
    strap = {"kind": "strap", "id": "s", "name": "S", "input": "pack-rail", "choices": ["pack-rail", "five"], "selected": ["pack-rail", "five"], "output": "out", "board": "main"}  # fmt: skip
    made = plan(rails=[*FIVE, rail("out")], supplies=[regulator("b", "buck", "pack-rail", "five", 5.0), strap], devices=[device("d", "out", 1.0, nominal_v=14, min_v=6, max_v=20)], conditions=[STILL])  # fmt: skip
    run = run_scenario(made, Scenario(id="held", name="Held", begins="bench", duration_s=0.01))
    contacts = {key: k for key, k in run.moving.series.items() if key.role == "link" and key.element == "s"}
    told_of = {one.part: one.amps for one in report(run).wires if (one.role, one.element) == ("link", "s")}
    assert told_of == {key.part: pytest.approx(float(abs(run.series_a(k)).max())) for key, k in contacts.items()}
    assert len(told_of) == 2
    assert max(told_of.values()) > 10 * min(told_of.values())


@pytest.mark.parametrize(("starts", "mode"), [(11.5, "hiccup"), (11.99, "hiccup"), (12.01, "off"), (13.0, "off")])
def test_what_does_not_come_back_to_where_it_starts_has_stopped_for_good(starts: float, mode: str) -> None:
    """12 V through 2 Ω to 10 W at 90 %: on, the input is 9.7 V and under its 11 V stop; off, it is the pack's 12 V again."""
    feed = {"gauge_awg": 14, "length_m": 0.05, "connector_ohm": 2.0}
    buck = regulator("b", "buck", "pack-rail", "five", 5.0, start_v=starts, stop_v=11.0, quiescent_a=0, feed=feed, efficiency=[{"amps": 2, "efficiency_frac": 0.9}])  # fmt: skip
    made = plan(rails=FIVE, supplies=[buck], devices=[device("cam", "five", 2.0)], conditions=[{**LOW, "pack_v": 12.0}])
    assert solve_plan(made).supply("b").states["low"].mode == mode
    run = run_scenario(made, Scenario(id="held", name="Held", begins="low", duration_s=0.3))
    late = [one for one in run.events if one.element == "b" and one.at_s > 0.1]
    assert bool(late) is (mode == "hiccup")


@pytest.mark.parametrize(("nominal", "least", "restarts"), [(5.0, 4.8, 4.9), (5.0, 3.0, 3.15), (4.8, 4.8, 5.04), (9.0, 4.8, 5.04)])  # fmt: skip
def test_a_device_starts_at_volts_its_rail_has(nominal: float, least: float, restarts: float) -> None:
    """A twentieth above its reset, and no more than half way to its nominal volts where that is nearer."""
    made = plan(rails=FIVE, devices=[device("cam", "five", 0.1, nominal_v=nominal, min_v=least, max_v=10)])
    assert made.device_of["cam"].restarts_v == pytest.approx(restarts)


@pytest.mark.parametrize(("takes", "fits"), [(16.7, False), (16.81, True)])
def test_a_place_is_judged_by_the_most_it_ever_gets_not_by_its_conditions(takes: float, fits: bool) -> None:
    """A full pack is known with 20 A drawn (16.5 V), and landing with nothing: on a full pack that has 16.8 V."""
    calm = {**LOW, "id": "calm", "name": "Calm", "throttle_frac": 0, "default_state": "off"}
    draw = device("heater", "pack-rail", 20, nominal_v=14, min_v=6, max_v=20)
    cam = device("cam", "pack-rail", 0.1, nominal_v=14, min_v=6, max_v=takes)
    made = plan(devices=[draw, cam], conditions=[STILL, calm])
    solved = solve_plan(made)
    assert solved.device("cam").states["bench"].pin_v < 16.6
    assert solved.most_pin_v(made.device_of["cam"]) == pytest.approx(16.8, abs=1e-3)
    assert fitness(made, "cam").fits is fits
    assert any(one.code == "window.over" for one in run_rules(solved)) is not fits


def test_what_is_wrong_with_both_wires_or_in_two_conditions_is_told_once() -> None:
    """8 A in 30 AWG both ways; and 400 W from 12 V behind 0.2 Ω, of which V²/4R = 180 W get through."""
    thin = {"gauge_awg": 30, "length_m": 0.05}
    hot = device("hot", "pack-rail", 8, nominal_v=14, min_v=6, max_v=20, feed={"rail": "pack-rail", "wire": thin}, returns=[{"id": "g", "to": "main", "wire": thin}])  # fmt: skip
    told_of = [
        one for one in run_rules(solve_plan(plan(devices=[hot], conditions=[STILL]))) if one.code == "wire.limit"
    ]
    assert len(told_of) == 1
    assert {one.field for one in told_of[0].fixes[0].edits if isinstance(one, SetValue)} == {"feed.wire.gauge_awg", "returns.0.wire.gauge_awg"}  # fmt: skip
    far_too_much = device("all", "pack-rail", 400, unit="W", law="power", nominal_v=12, min_v=1, max_v=20, brownout_v=1)
    again = {**LOW, "id": "again", "name": "Again", "pack_state": "floor"}
    made = plan(series=3, cell_ohm=0.2 / 3, devices=[far_too_much], conditions=[LOW, again])
    once = [one for one in run_rules(solve_plan(made)) if one.code == "load.collapse"]
    assert [set(one.by_condition) for one in once] == [{"low", "again"}]
    assert once[0].worst == "again", "the emptier pack carries less"


def test_a_load_that_would_take_the_pack_down_is_at_its_regulators_limit_first() -> None:
    """33 A of 5 V ask 165 W of a pack that has 7²/(4·0.1) = 122 W: a regulator of 4 A gives up long before."""
    buck = regulator("b", "buck", "pack-rail", "five", 5.0, current_limit_a=4.0, limit_style="hiccup", start_v=6.5, stop_v=6.0)  # fmt: skip
    made = plan(series=2, cell_ohm=0.05, rails=FIVE, supplies=[buck], devices=[device("d", "five", 33.0)], conditions=[{**LOW, "pack_v": 7.0}])  # fmt: skip
    solved = solve_plan(made)
    assert solved.supply("b").states["low"].mode == "gives up"
    assert solved.device("d").states["low"].verdict == "reset"
    # Nothing flows, and it is asked for all the same: the sheet's amps, and upstream what they take at nine tenths.
    assert solved.rail("five").states["low"].asked_a == pytest.approx(33.0)
    assert solved.rail("five").states["low"].tone == "fault"
    assert solved.rail("pack-rail").states["low"].asked_a == pytest.approx(33 * 5 / (0.9 * 7.0), rel=2e-3)


def test_regulators_asleep_between_stop_and_start_have_a_point_at_any_volts() -> None:
    """Two that stop at 4.2 V and take 5 mA awake, behind 9 mΩ: asleep their input is above the stop by less than that moves it."""
    source = {"start_v": 4.5, "stop_v": 4.2, "quiescent_a": 0.005, "rating_a": 3}
    bucks = [
        regulator(name, "buck", "pack-rail", rail_id, 3.3, **source) for name, rail_id in (("a", "ra"), ("b", "rb"))
    ]
    fed = [
        device(name, rail_id, 2.0, nominal_v=3.3, min_v=3, max_v=3.6) for name, rail_id in (("d", "ra"), ("e", "rb"))
    ]
    made = plan(series=1, cell_ohm=0.009, rails=[rail("ra"), rail("rb")], supplies=bucks, devices=[*fed, device("heater", "pack-rail", 4.0, nominal_v=4, min_v=3, max_v=5)], conditions=[LOW])  # fmt: skip
    situations = [Situation(made.conditions[0], cell_v=4.2 + k * 1e-4) for k in range(0, 900, 7)]
    op = operate(branch_table(made), situations)
    assert all(op.converged(row) for row in range(len(situations)))


def test_the_slider_falls_where_a_regulator_stops_not_on_a_line_between_two_points() -> None:
    """A buck that stops at 14.1 V of four cells: 3.525 V of each, and its device is well above and dead below."""
    buck = regulator("b", "buck", "pack-rail", "five", 5.0, start_v=14.6, stop_v=14.1)
    made = plan(rails=FIVE, supplies=[buck], devices=[device("cam", "five", 0.05)], conditions=[LOW])
    spans = solve_plan(made).windows.patterns[0].lives["cam"]
    ends = [*(one.cell_v for one in spans[1:]), 3.0]
    wide = [one.verdict for one, end in zip(spans, ends, strict=True) if one.cell_v - end > 5e-3]
    assert wide == ["ok", "dead"]
    assert spans[-1].cell_v == pytest.approx(14.1 / 4, abs=5e-3)


@pytest.mark.parametrize(("starts", "runs"), [(4.1, True), (4.2, True), (4.21, False), (4.5, False)])
def test_a_regulator_the_fullest_pack_does_not_start_runs_in_no_flight(starts: float, runs: bool) -> None:
    """One cell has 4.2 V at most: what starts above that is never up to be kept up by its lower stop."""
    buck = regulator("b", "buck", "pack-rail", "three", 3.3, start_v=starts, stop_v=3.0, quiescent_a=0)
    small = device("cam", "three", 0.01, nominal_v=3.3, min_v=3, max_v=3.6)
    made = plan(series=1, rails=[rail("three", 3.3)], supplies=[buck], devices=[small], conditions=[LOW])
    solved = solve_plan(made)
    assert (solved.supply("b").states["low"].mode != "off") is runs
    told_of = [one for one in run_rules(solved) if one.code == "headroom.start"]
    assert [one.compared.limit for one in told_of] == ([] if runs else [starts])


@pytest.mark.parametrize(("kind", "source_v", "starts", "never"), [("buck", 5.0, 5.0, False), ("buck", 5.0, 5.1, True), ("boost", 5.0, 16.7, False), ("boost", 18.0, 17.9, False)])  # fmt: skip
def test_what_a_regulator_may_be_started_by_is_the_most_of_what_feeds_it(kind: str, source_v: float, starts: float, never: bool) -> None:  # fmt: skip
    """A buck gives its set volts and no more; a boost passes on the 16.8 V of its input where they are more than it makes."""
    chain_of = [
        regulator("a", kind, "pack-rail", "five", source_v),
        regulator("b", "linear", "five", "low", 3.3, start_v=starts),
    ]
    made = plan(rails=[*FIVE, rail("low", 3.3)], supplies=chain_of, conditions=[STILL])
    assert ("b" in graph_of(made).never_start) is never


@pytest.mark.parametrize("kind", ["buck", "boost"])
@pytest.mark.parametrize(("amps", "mode"), [(1.3, "held"), (1.3 * (1 + 4e-6), "gives up")])
def test_a_limit_met_exactly_is_held_wherever_another_gives_up_beside_it(kind: str, amps: float, mode: str) -> None:
    """What leaks beside a load that takes all its regulator gives would pull the rail down: it hung on where it was come from."""
    own = regulator("a", kind, "pack-rail", "five", 5.0, rating_a=1, current_limit_a=1.3, limit_style="hiccup")
    other = regulator("b", "buck", "pack-rail", "three", 3.3, rating_a=1, current_limit_a=1.0, limit_style="hiccup")
    devices = [device("cam", "five", amps, max_v=30), device("heavy", "three", 2.0, nominal_v=3.3, min_v=3, max_v=3.6)]
    made = plan(rails=[*FIVE, rail("three", 3.3)], supplies=[own, other], devices=devices, conditions=[STILL, LOW])
    solved = solve_plan(made)
    for one in made.conditions:
        assert solved.supply("b").states[one.id].mode == "gives up"
        found = solved.supply("a").states[one.id].mode
        assert found == mode or (mode == "held" and found in ("regulating", "dropout")), one.id


@pytest.mark.parametrize(("max_v", "over"), [(16.85, False), (16.8, False), (16.79, True), (16.1, True), (15.0, True)])
def test_a_full_pack_is_judged_with_nothing_drawn_from_it_where_no_condition_rests_on_one(
    max_v: float, over: bool
) -> None:
    """Four cells of 10 mΩ at 20 A of heater: 16 V under load, 16.8 V the moment it is plugged in."""
    heater = device("heater", "pack-rail", 20.0, nominal_v=14, min_v=6, max_v=30)
    made = plan(cell_ohm=0.010, devices=[heater, device("cam", "pack-rail", 0.01, nominal_v=12, min_v=6, max_v=max_v)], conditions=[LOW])  # fmt: skip
    solved = solve_plan(made)
    assert max(pattern.pins_v["cam"][0] for pattern in solved.windows.patterns) < 16.1
    assert ("window.over" in {one.code for one in run_rules(solved) if "cam" in one.elements}) is over
    assert fitness(made, "cam").fits is not over
    buck = regulator("b", "buck", "pack-rail", "five", 5.0, input_max_v=max_v)
    behind_it = plan(cell_ohm=0.010, rails=FIVE, supplies=[buck], devices=[heater], conditions=[LOW])
    assert ("window.input" in {one.code for one in run_rules(solve_plan(behind_it))}) is over


def test_a_limit_met_exactly_is_held_in_a_run_as_in_its_point() -> None:
    """A cut-off of just what is asked for, by one that gives up: 1.3 A of 1.3 stand, a millionth more does not."""
    for amps, held in ((1.3, True), (1.3 * (1 + 1e-5), False)):
        made = behind(amps, rating_a=1, current_limit_a=1.3, limit_style="hiccup")
        run = run_scenario(made, Scenario(id="held", name="Held", begins="bench", duration_s=0.05))
        assert (report(run).supplies[0].gives_up_s == ()) is held
        assert (solve_plan(made).supply("b").states["bench"].mode == "regulating") is held


@pytest.mark.parametrize(
    ("mode", "out_v", "temp_c", "weighs"),
    [("regulating", 5.0, 109.9, None), ("regulating", 5.0, 110.1, "caution"), ("regulating", 5.0, 125.0, "fault"),
     ("dropout", 4.86, 40.0, "caution"), ("dropout", 4.84, 40.0, "fault"), ("dropout", 4.86, 126.0, "fault"),
     ("limiting", 3.0, 126.0, "danger"), ("gives up", 0.0, 25.0, "danger"), ("hiccup", 0.0, 25.0, "danger"),
     ("backwards", 5.0, 25.0, "fault"), ("off", 0.0, 25.0, None), ("unknown", 0.0, 25.0, "danger")],
)  # fmt: skip
def test_what_a_supply_does_and_its_heat_weigh_once_for_rails_tickets_and_rules(mode: SupplyMode, out_v: float, temp_c: float, weighs: str | None) -> None:  # fmt: skip
    """5 V of which three hundredths are 4.85, a trip at 125 °C with 15 K of margin."""
    made = behind(1.0)
    made = made.model_copy(update={"policy": made.policy.model_copy(update={"hot_margin_k": 15.0})})
    assert supply_weight(made, made.supply_of["b"], mode, out_v, temp_c) == weighs


@pytest.mark.parametrize(("amps", "lives"), [(1.7, {"ok"}), (1.94, {"ok"}), (1.96, {"reset"})])
def test_a_boost_that_a_full_pack_passes_through_boosts_further_down_as_its_conditions_say(
    amps: float, lives: set[str]
) -> None:
    """3S through a 12 V boost of 1.5 A, which gives up at 1.95: from the full pack that flows through it, the sweep came to a point
    where it has given up, though it carries what a condition at the same cell volts says it does."""
    full = {"id": "fresh", "name": "Fresh", "pack_state": "full", "throttle_frac": 1.0}
    made = plan(
        rails=[rail("r", 12)],
        supplies=[regulator("b", "boost", "pack-rail", "r", 12.0, rating_a=1.5, limit_style="hiccup", efficiency=[{"amps": 1, "efficiency_frac": 0.9}], start_v=5, stop_v=4.5)],
        devices=[device("tx", "r", amps * 12, unit="W", law="power", nominal_v=12, min_v=7, max_v=26, brownout_v=6.5)],
        conditions=[full, {**full, "id": "low", "name": "Low", "pack_state": "low"}],
    )  # fmt: skip
    solved = solve_plan(
        load_plan({**made.model_dump(mode="json"), "pack": {**made.pack.model_dump(mode="json"), "series": 3}})
    )
    (pattern,) = solved.windows.patterns
    assert {span.verdict for span in pattern.lives["tx"] if span.cell_v < 4.1} | {
        pattern.lives["tx"][-1].verdict
    } == lives
    assert solved.device("tx").states["low"].verdict in lives
