"""Scenarios: what they may say, what a run of one shows, why a device reset, and what helps."""

import json
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.plans import STILL, device, plan, rail, regulator
from tests.reference.test_runs import BULK, PLUG, scenario
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.running import RunCase, condition_like, spike_weight, surge_weight
from yardmeter.core.checks.steady import Steady
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError, PlanError, UnknownElementError
from yardmeter.core.fixes.helps import _worse, helps_for, hold_up
from yardmeter.core.formats.run_csv import write_run_csv
from yardmeter.core.formats.timetable_svg import write_timetable_svg
from yardmeter.core.physics.pack import charge_left_frac
from yardmeter.core.plan import Plan, Scenario, load_plan
from yardmeter.core.plan.operations import Add, Remove, SetQuantity, SetValue
from yardmeter.core.runs import Run, find_scenario, run_scenario, scenarios_of
from yardmeter.core.runs.chance import chances
from yardmeter.core.runs.drawn import more_of, throttle_frac
from yardmeter.core.runs.report import report
from yardmeter.core.runs.why import whys
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.core.verdict import Verdict
from yardmeter.review.instant import named_instant as instant
from yardmeter.review.run_helps import hold_up_seen
from yardmeter.review.running import envelope, run_seen
from yardmeter.run_cli import as_data, as_table
from yardmeter.words.run import outcome_words, why_words
from yardmeter.words.told import tell


def lives(run: Run, name: str):
    return next(one for one in report(run).devices if one.id == name)


def codes(run: Run, element: str) -> list[Happening]:
    return [one.code for one in run.events if one.element == element]


def judged(made: Plan, *scenarios: Scenario) -> list[Verdict]:
    through = tuple((one, report(run_scenario(made, one))) for one in scenarios)
    return list(run_rules(RunCase(made, through, Steady(solve_plan(made))), "runs"))


# --- scenarios as data ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("act", "says"),
    [
        ({"act": "plug", "at_s": -1e-3}, "greater than or equal to 0"),
        ({"act": "plug", "at_s": 2.0}, "after the scenario's end"),
        ({"act": "plug", "at_s": 1e9}, "less than or equal to 86400"),
        ({"act": "state", "at_s": 0, "device": "nobody", "state": "peak"}, "names “nobody”, which is no device"),
        ({"act": "connect", "at_s": 0, "inlet": "usb"}, "names “usb”, which is no inlet"),
        ({"act": "strap", "at_s": 0, "supply": "bec", "selected": []}, "which is no strap"),
        ({"act": "fail", "at_s": 0, "element": "pack-rail"}, "which is no device and no supply"),
        ({"act": "dance", "at_s": 0}, "dance"),
    ],
)
def test_nonsense_in_a_scenario_is_refused_with_its_place(act: dict[str, object], says: str) -> None:
    made = plan(rails=[rail("r", 5)], supplies=[regulator("bec", "buck", "pack-rail", "r", 5.0)])
    with pytest.raises((PlanError, EditError)) as error:
        apply_edits(
            made, [Add(kind="scenario", value={"id": "mine", "name": "Mine", "duration_s": 1.0, "acts": [act]})]
        )
    assert says in str(error.value)
    assert made.scenarios == ()


def test_a_scenario_is_edited_like_anything_else() -> None:
    """Typed times with their units, minutes too; a removed device takes its acts along; a bad number changes nothing."""
    made = plan(devices=[device("radio", "pack-rail", 0.2, max_v=20, nominal_v=12)])
    acts = [PLUG, {"act": "state", "at_s": 0.1, "device": "radio", "state": "peak"}]
    made = apply_edits(
        made, [Add(kind="scenario", value={"name": "My own", "duration_s": 1.0, "begins": "bench", "acts": acts})]
    )
    assert made.scenarios[0].id == "my-own"
    made = apply_edits(made, [SetQuantity(element="my-own", field="duration_s", text="2 min")])
    made = apply_edits(made, [SetQuantity(element="my-own", field="acts.1.at_s", text="250ms")])
    assert (made.scenarios[0].duration_s, made.scenarios[0].acts[1].at_s) == (120.0, 0.25)
    with pytest.raises(EditError, match="greater than or equal to 0"):
        apply_edits(made, [SetValue(element="my-own", field="acts.0.at_s", value=-1)])
    assert [one.act for one in apply_edits(made, [Remove(element="radio")]).scenarios[0].acts] == ["plug"]
    assert apply_edits(made, [Remove(element="bench")]).scenarios[0].begins == "low"
    assert load_plan(json.loads(made.model_dump_json())) == made
    with pytest.raises(UnknownElementError, match="my-own"):
        find_scenario(made, "mine")


def test_every_plan_has_its_scenarios_and_its_own_take_their_place() -> None:
    made = demo.plan("marshlight-as-soldered")
    names = [one.id for one in scenarios_of(made)]
    assert names == ["plug-in", "cold-start", "usb-then-pack", "punch-on-low-pack", "punch-and-brake", "everything-at-once", "bench-ten-minutes", "whole-flight"]  # fmt: skip
    bare = [one.id for one in scenarios_of(plan())]
    assert bare == ["plug-in", "cold-start", "everything-at-once", "bench-ten-minutes"]
    own = find_scenario(made, "plug-in").model_copy(update={"duration_s": 0.5})
    changed = apply_edits(made, [Add(kind="scenario", value=own.model_dump(mode="json"))])
    assert find_scenario(changed, "plug-in").duration_s == 0.5
    assert len(scenarios_of(changed)) == 8
    # An id that something else of the plan has is left to it.
    taken = plan(conditions=[{**STILL, "id": "plug-in"}])
    assert scenarios_of(taken)[0].id == "plug-in-run"
    # The flight lasts until four fifths of the charge are gone.
    flight = run_scenario(made, find_scenario(made, "whole-flight"))
    assert flight.charge_c[-1] == pytest.approx(0.8 * 5 * 3600, rel=0.1)


# --- states -----------------------------------------------------------------------------------------------------------


def radio(**fields: object):
    return device("radio", "pack-rail", 0.5, **{"nominal_v": 12, "min_v": 9, "max_v": 20, "brownout_v": 8, "restart_v": 9, "hold_s": 1e-3, "boot_s": 0.01, "input_f": 1e-5, **fields})  # fmt: skip


def test_a_device_boots_runs_resets_after_its_hold_time_and_boots_again() -> None:
    made = plan(devices=[radio()])
    out = [PLUG, {"act": "unplug", "at_s": 0.05}, {"act": "plug", "at_s": 0.08}]
    run = run_scenario(made, scenario(*out, lasts=0.12))
    h = Happening
    assert codes(run, "radio") == [h.BOOTS, h.RUNS, h.UNDER, h.RESET, h.BOOTS, h.RUNS]
    times = {one.code: one.at_s for one in run.events if one.element == "radio" and one.at_s < 0.06}
    assert times[h.RUNS] - times[h.BOOTS] == pytest.approx(0.01, abs=1e-6)
    assert times[h.RESET] - times[h.UNDER] == pytest.approx(1e-3, abs=1e-6)
    life = lives(run, "radio")
    assert [one.state for one in life.spans] == ["off", "boot", "run", "off", "boot", "run"]
    assert (life.ran, life.never, len(life.resets_s)) == (True, False, 1)
    # A gap shorter than its hold time is lived through.
    brief = [PLUG, {"act": "unplug", "at_s": 0.05}, {"act": "plug", "at_s": 0.0505}]
    assert Happening.RESET not in codes(run_scenario(made, scenario(*brief, lasts=0.1)), "radio")


def test_a_device_that_is_off_or_has_no_volts_does_not_boot() -> None:
    high = plan(devices=[radio(restart_v=18, brownout_v=17, min_v=16, max_v=24, nominal_v=20)])
    run = run_scenario(high, scenario(PLUG, lasts=0.2))
    assert lives(run, "radio").never
    assert not lives(run, "radio").ran
    off = [PLUG, {"act": "state", "at_s": 0.0, "device": "radio", "state": "off"}, {"act": "state", "at_s": 0.1, "device": "radio", "state": "typical"}]  # fmt: skip
    run = run_scenario(plan(devices=[radio()]), scenario(*off, lasts=0.2))
    assert next(one.at_s for one in run.events if one.code is Happening.BOOTS) == pytest.approx(0.1001, abs=2e-5)


@pytest.mark.parametrize(("style", "expected"), [("constant", {"limits"}), ("fold back", {"limits"}), ("hiccup", {"limits", "hiccups", "retries"}), ("latch", {"limits", "latches"})])  # fmt: skip
def test_past_its_limit_a_regulator_does_what_its_style_says(style: str, expected: set[str]) -> None:
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style=style)
    load = device("d", "r", 2.0, law="resistance", boot_s=0, min_v=0.5, brownout_v=0.4)
    made = plan(rails=[rail("r", 5)], supplies=[weak], devices=[load])
    run = run_scenario(made, scenario(PLUG, lasts=1.0))
    assert {str(one) for one in codes(run, "bec")} - {"starts", "free"} == expected
    if style == "constant":  # one ampere through two and a half ohms
        assert run.rail_v("r")[-1] == pytest.approx(2.5, rel=0.01)
    if style == "fold back":  # it gives 0.3 + 0.7 v/5 of its ampere: v = 2.5 (0.3 + 0.14 v)
        assert run.rail_v("r")[-1] == pytest.approx(0.75 / (1 - 0.35), rel=0.02)
    if style == "latch":
        assert run.rail_v("r")[-1] == pytest.approx(0.0, abs=1e-3)
        again = [PLUG, {"act": "unplug", "at_s": 0.2}, {"act": "plug", "at_s": 0.5}]
        assert codes(run_scenario(made, scenario(*again, lasts=1.0)), "bec").count(Happening.LATCHES) == 2


def test_soft_start_and_under_voltage_stop() -> None:
    bec = regulator("bec", "buck", "pack-rail", "r", 5.0, soft_start_s=0.01, start_v=9.0, stop_v=8.0)
    made = plan(rails=[rail("r", 5)], supplies=[bec], devices=[device("d", "r", 0.2, boot_s=0)])
    run = run_scenario(made, scenario(PLUG, {"act": "unplug", "at_s": 0.05}, lasts=0.06))
    begun = next(one.at_s for one in run.events if one.code is Happening.STARTS)
    half = np.interp(begun + 0.005, run.times_s, run.rail_v("r"))
    assert half == pytest.approx(2.5, abs=0.15)
    stop = next(one.at_s for one in run.events if one.code is Happening.STOPS)
    assert stop > 0.05
    assert run.supply_in_v("bec")[run.at(stop)] == pytest.approx(8.0, abs=0.1)


def test_straps_failures_and_braking_do_what_they_say() -> None:
    strap = {"id": "sel", "name": "Strap", "kind": "strap", "input": "pack-rail", "output": "out", "board": "main", "choices": ["pack-rail", "r"], "selected": ["r"]}  # fmt: skip
    bec = regulator("bec", "buck", "pack-rail", "r", 5.0)
    made = plan(rails=[rail("r", 5), rail("out")], supplies=[bec, strap], devices=[device("d", "out", 0.1, max_v=20)])
    acts = [{"act": "strap", "at_s": 0.1, "supply": "sel", "selected": ["pack-rail"]}, {"act": "strap", "at_s": 0.2, "supply": "sel", "selected": []}]  # fmt: skip
    run = run_scenario(made, scenario(*acts, lasts=0.3, begins="bench"))
    assert [run.rail_v("out")[run.at(t)] for t in (0.09, 0.19, 0.29)] == pytest.approx([5.0, 16.8, 0.0], abs=0.1)
    through = run_scenario(
        made, scenario({"act": "fail", "at_s": 0.1, "element": "bec", "how": "short"}, lasts=0.2, begins="bench")
    )
    assert through.rail_v("r")[-1] == pytest.approx(16.8, abs=0.1)
    gone = run_scenario(
        made, scenario({"act": "fail", "at_s": 0.1, "element": "bec", "how": "open"}, lasts=0.2, begins="bench")
    )
    assert gone.rail_v("r")[-1] < 4.5  # what its own capacitor holds when its device is gone
    assert Happening.RESET in codes(gone, "d")
    motors = device(
        "m",
        "pack-rail",
        40,
        kind="motor",
        nominal_v=14.8,
        min_v=6,
        max_v=20,
        throttle=[{"throttle_frac": 1, "amps": 40}],
    )
    craft = plan(devices=[motors])
    braked = run_scenario(craft, scenario({"act": "throttle", "at_s": 0, "to_frac": 0}, {"act": "brake", "at_s": 0.5, "share_frac": 0.5, "for_s": 0.3}, lasts=1.0, begins="low"))  # fmt: skip
    assert braked.pack_a.min() == pytest.approx(-20, rel=0.02)
    assert braked.rail_v("pack-rail").max() > 14.0  # above its own 14.0 V at rest
    assert braked.pack_a[-1] == pytest.approx(0, abs=0.1)


def test_an_electronic_limiter_opens_on_a_short_and_holds_on_a_sound_craft() -> None:
    fuse = {"id": "fuse", "name": "Fuse", "kind": "fuse", "rail": "pack-rail", "volts": 20, "limit_a": 2}
    through = [{"act": "connect", "at_s": 0.0, "inlet": "fuse"}, PLUG]
    sound = plan(inlets=[fuse], devices=[radio()])
    shorted = plan(inlets=[fuse], devices=[radio(law="resistance", draws=device("x", "r", 50)["draws"])])
    assert report(run_scenario(sound, scenario(*through, lasts=0.1))).limiter == "dark"
    assert report(run_scenario(shorted, scenario(*through, lasts=0.1))).limiter == "opened"


def test_saturated_coils_and_derated_ceramics_ring_faster() -> None:
    """Against the same parts without bending: a ceramic at its rating holds less, so its ring is faster and higher in pitch."""
    straight = {**BULK, "farad": 22e-6, "dielectric": "c0g", "rated_v": 20}
    bent = {**straight, "dielectric": "x7r", "farad": 22e-6 / (0.9 * 0.9)}  # the same after cold and years
    tops = []
    for part in (straight, bent):
        run = run_scenario(plan(filters=[part]), scenario(PLUG, lasts=2e-4))
        tops.append(float(run.times_s[run.rail_v("pack-rail").argmax()]))
    assert tops[1] < 0.9 * tops[0]
    coil = {"kind": "lc", "id": "coil", "name": "Coil", "at": "radio", "henry": 47e-6, "farad": 1e-6, "saturation_a": 0.2, "dcr_ohm": 0.05, "dielectric": "polymer"}  # fmt: skip
    dips = []
    for amps in (0.2, 50.0):
        made = plan(devices=[radio(input_f=0)], filters=[{**coil, "saturation_a": amps}])
        run = run_scenario(
            made, scenario({"act": "draw", "at_s": 1e-3, "device": "radio", "value": 4.0}, lasts=3e-3, begins="bench")
        )
        dips.append(float(run.pin_v("radio").min()))
    assert dips[0] > dips[1] + 0.5  # a full core gives way sooner


# --- balance ----------------------------------------------------------------------------------------------------------


@settings(max_examples=6, deadline=None)
@given(
    amps=st.floats(0.1, 20), farad=st.sampled_from([10e-6, 470e-6, 4.7e-3]), cells=st.sampled_from([1, 3, 6]), ohm=st.sampled_from([0.0, 2.0]),
)  # fmt: skip
def test_charge_and_energy_balance(amps: float, farad: float, cells: int, ohm: float) -> None:
    """Coulombs and joules of the pack are found again in the capacitor, the load and the copper; nothing is made or lost."""
    top = cells * 4.5
    load = device("d", "pack-rail", amps, law="resistance", nominal_v=cells * 4.2, min_v=0.1, max_v=top)
    made = plan(series=cells, devices=[load], filters=[{**BULK, "farad": farad, "rated_v": 63}])
    acts = [{**PLUG, "anti_spark_ohm": ohm, "anti_spark_s": 2e-3}]
    run = run_scenario(made, scenario(*acts, lasts=4e-3), rtol=2e-4)
    times, s = run.times_s, run.moving.circuit.series
    steps = np.diff(times)

    def over(values: np.ndarray) -> float:
        return float((steps * (values[1:] + values[:-1]) / 2).sum())

    kept = next(k for key, k in run.moving.series.items() if key.role == "filter")
    # The capacitor's charge and the load's coulombs are the pack's.
    assert run.charge_c[-1] == pytest.approx(run.charge_of(kept)[-1] + over(run.load_a("d")), rel=0.01, abs=1e-7)
    given_j = over(run.pack_a * float(s.emf[0, run.moving.pack]))
    stored = run.charge_of(kept)[-1] ** 2 * s.elastance[0, kept] / 2
    ohms = s.ohm[0].copy()
    lost = sum(over(run.series_a(k) ** 2) * ohms[k] for k in range(ohms.size) if k != run.moving.pack)
    pack_ohm = ohms[run.moving.pack] + np.where(times <= 2e-3, ohm, 0.0)
    lost += over(run.pack_a**2 * pack_ohm)
    taken = over(run.load_a("d") * run.pin_v("d"))
    assert given_j == pytest.approx(stored + lost + taken, rel=0.03, abs=1e-6)


# --- reading a run ----------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def punched() -> Run:
    made = demo.plan("wren-straight-from-the-cell")
    return run_scenario(made, find_scenario(made, "punch-on-low-pack"))


def test_the_chain_of_a_reset_goes_from_the_act_to_the_pins(punched: Run) -> None:
    found = whys(punched)
    assert [one.device for one in found] == ["receiver"]
    why = found[0]
    assert [one.kind for one in why.chain] == ["act", "motors", "pack", "dropout", "rail", "pins"]
    assert why.steady  # the pack stays low for as long as the throttle stands: no capacitor cures that
    at = [one.at_s for one in why.chain]
    assert at[0] == pytest.approx(0.2, abs=1e-6)
    assert at[-1] <= why.at_s < 0.5
    words = why_words(punched.plan, why, punched.scenario.acts)
    assert words.startswith("throttle to 100 % over 50.0 ms → motors 8.")
    assert "3.3 V linear in dropout" in words
    held = hold_up(punched, why)
    assert held.needed_f is None
    # Ten microfarads: t = C (V1² − V2²) / 2P.
    assert held.per_10uf_s == pytest.approx(10e-6 * (held.from_v**2 - 3.0**2) / (2 * held.watts))
    tried = helps_for(punched, "receiver")
    assert not any(one.kind in ("capacitor", "diode and capacitor") for one in tried)
    assert {one.kind for one in tried} >= {"bulk", "slower throttle"}
    assert not any(one.cured for one in tried if one.kind == "bulk")


def test_a_dip_is_cured_by_the_capacitor_it_was_sized_for() -> None:
    """A servo's short stall on a weak regulator: a true dip; the capacitor behind a diode holds, and is no larger than it must be."""
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="constant")
    servo = device("servo", "r", 0.1, peak=2.5, kind="servo", law="resistance", min_v=1, brownout_v=0.5)
    rx = device(
        "rx",
        "r",
        0.1,
        boot_s=0.2,
        hold_s=1e-4,
        min_v=4,
        brownout_v=3.8,
        restart_v=4.2,
        keeps_control=True,
        input_f=1e-5,
    )
    made = plan(rails=[rail("r", 5)], supplies=[weak], devices=[servo, rx])
    stall = [{"act": "state", "at_s": 0.1, "device": "servo", "state": "peak"}, {"act": "state", "at_s": 0.12, "device": "servo", "state": "typical"}]  # fmt: skip
    run = run_scenario(made, scenario(*stall, lasts=0.4, begins="bench"))
    why = next(one for one in whys(run) if one.device == "rx")
    assert [one.kind for one in why.chain][0::2][:2] == ["act", "rail"] or why.chain[1].kind == "limit"
    assert not why.steady
    assert why.below_s == pytest.approx(0.02, rel=0.1)
    held = hold_up(run, why)
    assert held.needed_f == pytest.approx(0.1 * why.below_s / (held.from_v - 3.8), rel=0.1)
    tried = {one.kind: one for one in helps_for(run, "rx")}
    cure = tried["diode and capacitor"] if "diode and capacitor" in tried else tried["capacitor"]
    assert cure.cured
    assert cure.resets == 0
    after = run_scenario(apply_edits(made, cure.edits), run.scenario)
    assert lives(after, "rx").resets_s == ()
    assert lives(after, "rx").least_v == pytest.approx(cure.least_v, rel=1e-6)


def drained(*acts: dict[str, object], heater_a: float, restart_v: float = 5.4, lasts: float = 0.4) -> Run:
    """A receiver beside a heater on a regulator of 1 A; a heater that has dropped out does not come back."""
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="constant")
    heater = device("heater", "r", heater_a, min_v=4.6, brownout_v=4.5, restart_v=restart_v, hold_s=0.02, boot_s=0.0)
    rx = device(
        "rx",
        "r",
        0.1,
        boot_s=0.2,
        hold_s=1e-4,
        min_v=4,
        brownout_v=3.8,
        restart_v=4.2,
        keeps_control=True,
        input_f=1e-5,
    )
    made = plan(rails=[rail("r", 5)], supplies=[weak], devices=[heater, rx])
    return run_scenario(made, scenario(*acts, lasts=lasts, begins="bench"))


def test_what_ends_only_because_somebody_drops_out_is_an_overload() -> None:
    """1.5 A for good on 1 A: the receiver is without its volts for 20 ms, until the heater has gone. No capacitor cures that; the same
    amps for 20 ms are a dip, and one does."""
    asks = {"act": "draw", "at_s": 0.1, "device": "heater", "value": 1.5}
    run = drained(asks, heater_a=0.1)
    found = next(one for one in whys(run) if one.device == "rx")
    assert not found.steady
    assert found.below_s < 0.05
    held = hold_up(run, found)
    assert held.steady
    assert held.needed_f is None
    tried = helps_for(run, "rx")
    assert not any(one.kind in ("capacitor", "diode and capacitor") for one in tried)
    own = next(one for one in tried if one.kind == "own regulator")
    assert own.cured
    assert tried.index(own) == 0 or tried[0].cured
    short = drained(asks, {"act": "draw", "at_s": 0.12, "device": "heater", "value": 0.1}, heater_a=0.1)
    dip = hold_up(short, next(one for one in whys(short) if one.device == "rx"))
    assert not dip.steady
    assert dip.dip_s == pytest.approx(0.02, rel=0.15)
    assert (dip.missing_rail, dip.missing_a) == (None, 0.0)


def test_an_overload_is_told_with_the_amps_that_are_missing() -> None:
    """By hand: 1.5 + 0.1 A asked of a regulator that cuts off at 1 A."""
    run = drained(heater_a=1.5, restart_v=4.6)
    made = run.plan
    late = scenario({"act": "state", "at_s": 0.0, "device": "heater", "state": "off"}, {"act": "state", "at_s": 0.1, "device": "heater", "state": "typical"}, lasts=0.4, begins="bench")  # fmt: skip
    run = run_scenario(made, late)
    found = next((one for one in whys(run) if one.device == "rx"), None)
    assert found is not None
    held = hold_up(run, found)
    assert held.steady
    assert held.missing_rail == "r"
    assert held.missing_a == pytest.approx(0.6, abs=1e-6)
    seen = hold_up_seen(run, "rx")
    assert seen is not None
    assert seen.words.startswith("An overload, and no capacitor cures it: r is short by 600 mA with everybody on.")


def test_a_remedy_that_hurts_somebody_else_is_none() -> None:
    """Nothing of the run may come out heavier than it was, whatever it does for the one it is for."""
    quiet = {"run.spike:a": "caution"}
    assert not _worse(quiet, {"run.spike:a": "caution", "run.wire:b": "note"})
    assert _worse(quiet, {"run.spike:a": "fault"})
    assert _worse(quiet, {"run.wire:b": "caution"})
    assert not _worse({"run.wire:b": "danger"}, {"run.wire:b": "fault"})


def test_chances_follow_the_bands(punched: Run) -> None:
    """The receiver stands at its threshold: with bands it resets in many runs and not in all; without any, in each."""
    found = chances(punched.plan, punched.scenario, samples=60)
    first = found.devices[0]
    assert (first.device, found.stuck) == ("receiver", 0)
    assert 0.5 < first.chance_frac < 1.0
    assert first.least_low_v < lives(punched, "receiver").least_v < first.least_high_v
    assert chances(punched.plan, punched.scenario, samples=60) == found
    sure = punched.plan.model_dump(mode="json")
    sure["policy"] |= {"tol_measured_frac": 0, "tol_sheet_frac": 0, "tol_reported_frac": 0, "tol_guess_frac": 0}
    sure["pack"]["resistance_tol_frac"] = 0
    for one in sure["supplies"]:
        if "set_tol_frac" in one:
            one["set_tol_frac"] = 0
    assert chances(load_plan(sure), punched.scenario, samples=3).devices[0].chance_frac == 1.0


def test_an_instant_has_the_shape_of_a_condition(punched: Run) -> None:
    made = punched.plan
    solved = solve_plan(made)
    for time_s in (0.0, 0.15, 1.0, 99.0):
        now = instant(punched, solved, time_s)
        at = min(time_s, 2.0)
        for seen, values in ((now.rails["pack-rail"].volts_v, punched.rail_v("pack-rail")), (now.devices["receiver"].pin_v, punched.pin_v("receiver"))):  # fmt: skip
            assert seen == pytest.approx(np.interp(at, punched.times_s, values))
        assert set(now.rails) == set(made.rail_of)
        assert set(now.grounds) == {one.id for one in made.owners}
    late = instant(punched, solved, 1.0)
    assert late.devices["receiver"].state == "off"
    assert late.condition.throttle_frac == 1.0
    assert late.condition.states["receiver"] == "off"
    # Kept as a condition it solves to what the instant showed.
    kept = apply_edits(made, [Add(kind="condition", value=late.condition.model_dump(mode="json"))])
    volts = solve_plan(kept).rail("pack-rail").states[late.condition.id].volts_v
    assert volts == pytest.approx(late.rails["pack-rail"].volts_v, abs=0.1)


@pytest.mark.parametrize("act", [{"act": "throttle", "to_frac": 0.8, "over_s": 1.0}, {"act": "draw", "device": "m", "value": 16.0, "over_s": 1.0}])  # fmt: skip
def test_a_condition_kept_of_an_instant_has_the_amps_the_motors_had(act: dict[str, object]) -> None:
    """Half way up a ramp to 16 A, 30 ms behind it: 7.5 A of 20, whether a stick or a recorded flight asks for them."""
    motors = device("m", "pack-rail", 1, kind="motor", nominal_v=14.8, min_v=3, max_v=60, throttle=[{"throttle_frac": 1, "amps": 20}])  # fmt: skip
    made = plan(devices=[motors], conditions=[{**STILL, "throttle_frac": 0.0}])
    run = run_scenario(made, scenario({**act, "at_s": 0.0}, lasts=1.5, begins="bench"))
    for at_s, amps in ((0.5, 16 * (0.5 - 0.03)), (1.4, 16.0)):
        now = instant(run, solve_plan(made), at_s)
        assert now.condition.throttle_frac == pytest.approx(amps / 20, abs=0.003)
        kept = apply_edits(made, [Add(kind="condition", value=now.condition.model_dump(mode="json"))])
        assert solve_plan(kept).device("m").states[now.condition.id].asked_a == pytest.approx(amps, abs=0.1)


def test_a_run_is_shown_and_written_whole(punched: Run) -> None:
    seen = run_seen(punched, 0.2, 0.5)
    assert (seen.from_s, seen.to_s) == (0.2, 0.5)
    receiver = next(one for one in seen.lines if one.id == "receiver")
    assert min(v for v in receiver.low_v if v is not None) <= 3.0 < max(v for v in receiver.high_v if v is not None)
    assert [one.code for one in seen.stations if one.act is not None] == [Happening.ACT]
    data = as_data(punched)
    assert (
        len(data["times_s"]) == len(data["devices"]["receiver"]["pin_v"]) == len(data["rails"]["pack-rail"]["volts_v"])
    )
    assert data["devices"]["receiver"]["states"][-1] == "off"
    assert [one["code"] for one in data["events"]] == ["act", "under", "reset"]
    table = as_table(punched).splitlines()
    assert table[0].startswith("time_s,pack-rail.volts_v")
    assert len(table) == len(data["times_s"]) + 1


def test_throttle_amps_charge_and_heat_are_drawn_below_the_volts(punched: Run) -> None:
    more = {one.id: one for one in run_seen(punched).more}
    assert list(more)[:4] == ["throttle", "motors-amps", "pack-amps", "pack-charge"]
    amps, charge, motors = more["pack-amps"], more["pack-charge"], more["motors-amps"]
    assert max(one for one in amps.high if one is not None) == pytest.approx(float(punched.pack_a.max()), rel=1e-3)
    assert max(one for one in motors.high if one is not None) == pytest.approx(
        float(punched.load_a("motors").max()), rel=1e-3
    )
    pack = punched.plan.pack
    assert amps.limit == pack.limit_a
    begun = 100 * charge_left_frac(pack.chemistry, punched.rest_v(0) / pack.series)
    used = 100 * float(punched.charge_c[-1]) / (pack.charge_ah * 3600)
    assert charge.high[0] == pytest.approx(begun, rel=1e-3)
    assert charge.low[-1] == pytest.approx(begun - used, rel=1e-3)
    assert used > 0.05


def test_the_stick_goes_from_where_it_was_when_a_ramp_is_broken_off() -> None:
    """Up over 0.2 s from 0.1 s on, and down over 0.1 s from the middle of that."""
    motors = device("m", "pack-rail", 1, kind="motor", nominal_v=12, min_v=3, max_v=60, throttle=[{"throttle_frac": 1, "amps": 20}])  # fmt: skip
    made = plan(devices=[motors])
    acts = [{"act": "throttle", "at_s": 0.1, "to_frac": 0.8, "over_s": 0.2}, {"act": "throttle", "at_s": 0.2, "to_frac": 0.0, "over_s": 0.1}]  # fmt: skip
    run = run_scenario(made, scenario(*acts, lasts=0.5, begins="bench"))
    stick = throttle_frac(run)
    assert stick is not None
    for at_s, stands in ((0.05, 0.0), (0.15, 0.2), (0.2, 0.4), (0.25, 0.2), (0.3, 0.0), (0.45, 0.0)):
        k = run.at(at_s)
        assert stick[k] == pytest.approx(np.interp(run.times_s[k], [0, 0.1, 0.2, 0.3], [0, 0, 0.4, 0.0])), at_s
        assert abs(float(np.interp(at_s, run.times_s, stick)) - stands) < 0.05
    still = run_scenario(
        made, scenario({"act": "draw", "device": "m", "value": 9, "at_s": 0.1}, lasts=0.2, begins="bench")
    )
    assert throttle_frac(still) is None, "a flight that is played by its amps says nothing of its stick"


def test_a_regulator_is_drawn_where_it_warms() -> None:
    """6.8 V at 1 A in a linear regulator of 20 K/W: 130 K over the air. One that gives 10 mA is not worth a row."""
    for amps, drawn in ((1.0, True), (0.01, False)):
        own = regulator("ldo", "linear", "pack-rail", "r", 10.0, theta_still_k_w=20, tau_s=10, trip_c=200)
        made = plan(rails=[rail("r", 10)], supplies=[own], devices=[device("d", "r", amps, nominal_v=10, min_v=5, max_v=12)])  # fmt: skip
        rows = {one.id: one for one in run_seen(run_scenario(made, scenario(PLUG, lasts=60.0))).more}
        assert ("ldo-heat" in rows) is drawn
        if drawn:
            assert (rows["ldo-heat"].unit, rows["ldo-heat"].limit) == ("°C", 200)


def test_what_is_taken_away_has_names_every_step_and_every_peak() -> None:
    """The plug of Marshlight rings far over its volts for microseconds: the picture keeps that, with the limits of who sees it."""
    made = demo.plan("marshlight-as-soldered")
    run = run_scenario(made, find_scenario(made, "plug-in"))
    rows = write_run_csv(run, names=True).splitlines()
    assert len(rows) == run.times_s.size + 1
    assert rows[0].startswith("time [s],Pack rail [V]")
    assert "Low-light camera [V at its pins]" in rows[0]
    assert "-" not in rows[0].replace("Low-light", "").replace("Near-infrared", "").replace("Long-range", "").replace(
        "Four-way", ""
    )
    picture = write_timetable_svg(run)
    shapes = re.findall(r'<polygon points="([^"]*)"', picture)
    assert len(shapes) == len(made.rails) + len(made.devices) + len(list(more_of(run)))
    heights = [min(float(p.split(",")[1]) for p in one.split()) for one in shapes]
    for k, rail_ in enumerate(made.rails):  # every rail's most reaches the top of its row
        if float(run.rail_v(rail_.id).max()) > 0.1:
            assert heights[k] == pytest.approx(64 + 34 * k + 25 - 21 - 0.4, abs=0.06), rail_.id
    near = [float(run.pin_v(d.id).max()) > 0.7 * d.max_v for d in made.devices]
    near += [one.limit is not None and float(one.values.max()) > 0.7 * one.limit for one in more_of(run)]
    assert picture.count('stroke-dasharray="7 4"') == sum(near)


def test_an_envelope_keeps_every_peak_and_draws_straight_lines_between() -> None:
    times, values = np.array([0.0, 1.0, 1.01, 1.02, 3.0]), np.array([0.0, 1.0, 9.0, 1.0, 3.0])
    low, high = envelope(values, times, np.linspace(0, 4, 9))
    assert high[2] == 9.0
    assert low[2] == pytest.approx(1.0)
    assert (low[0], high[0]) == pytest.approx((0.0, 0.5))
    assert high[5] == pytest.approx(3.0)
    assert np.isnan(high[7])


# --- rules ------------------------------------------------------------------------------------------------------------


def test_resets_and_loops_are_judged_by_what_they_take_down() -> None:
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="constant")
    rx = device(
        "rx",
        "r",
        0.8,
        boot_s=0.05,
        hold_s=1e-4,
        min_v=4,
        brownout_v=3.8,
        restart_v=4.2,
        keeps_control=True,
        input_f=1e-4,
    )
    hungry = device("cam", "r", 0.1, peak=0.6, boot_s=0.05, min_v=3, brownout_v=2.5)
    made = plan(rails=[rail("r", 5)], supplies=[weak], devices=[rx, hungry])
    peak = scenario({"act": "state", "at_s": 0.1, "device": "cam", "state": "peak"}, lasts=1.0, begins="bench")
    found = {one.code: one for one in judged(made, peak)}
    assert set(found) & {"run.reset", "run.loop"}
    worst = found.get("run.loop") or found["run.reset"]
    assert (worst.severity, worst.elements, tuple(worst.by_condition)) == ("danger", ("rx",), ("bench",))
    calm = scenario({"act": "state", "at_s": 0.1, "device": "cam", "state": "typical"}, lasts=0.5, begins="bench")
    assert judged(made, calm) == []


@pytest.mark.parametrize(("most", "weight"), [(28.0, None), (22.0, "caution"), (18.0, "danger")])
def test_a_spike_is_told_where_the_packs_own_volts_are_fine(most: float, weight: str | None) -> None:
    made = plan(devices=[radio(max_v=most, boot_s=0.5)], filters=[{**BULK, "farad": 47e-6}])
    found = [one for one in judged(made, find_scenario(made, "plug-in")) if one.code == "run.spike"]
    assert [one.severity for one in found] == ([weight] if weight else [])
    if found:
        assert found[0].compared.observed > most
        assert found[0].compared.limit == most
        words = tell(made, found[0])
        assert "in “Plug in”" in words.title
    # Over its maximum all the time is for a condition to tell.
    steady = plan(devices=[radio(max_v=16.0, boot_s=0.5)])
    assert not [one for one in judged(steady, find_scenario(steady, "cold-start")) if one.code == "run.spike"]


def test_a_regulator_that_gets_too_much_at_its_input_is_told_of_too() -> None:
    """It hangs where the plug rings: just under the ring's top it is told, just over nothing is; a longer ring is a fault."""

    def made(limit_v: float) -> Plan:
        buck = regulator("b", "buck", "pack-rail", "r", 5, input_max_v=limit_v)
        return plan(rails=[rail("r", 5)], supplies=[buck], devices=[device("cam", "r", 0.1)], filters=[{**BULK, "farad": 47e-6, "rated_v": 63}])  # fmt: skip

    plug = find_scenario(made(99.0), "plug-in")
    [top] = [one.most_in_v for one in report(run_scenario(made(99.0), plug)).supplies]
    assert top is not None
    assert top > 1.2 * 16.8
    for limit_v, weight in ((1.01 * top, None), (0.999 * top, "note"), (0.85 * top, "caution"), (18.5, "fault")):
        found = [one for one in judged(made(limit_v), plug) if one.code == "run.input"]
        assert [one.severity for one in found] == ([weight] if weight else []), limit_v
        said = [
            one
            for one in outcome_words(made(limit_v), report(run_scenario(made(limit_v), plug)))
            if "at its input" in one
        ]
        assert bool(said) is (weight is not None)
        if weight:
            assert (found[0].compared.observed, found[0].compared.limit) == (pytest.approx(top, rel=1e-3), limit_v)
    assert not [
        one for one in judged(made(16.0), find_scenario(made(16.0), "cold-start")) if one.code == "run.input"
    ], "a condition tells what stays"


@pytest.mark.parametrize(
    ("most_v", "lasted_s", "weight"),
    [
        (5.8, 2e-6, "note"), (6.05, 9.9e-6, "note"), (6.06, 2e-6, "caution"), (13.5, 9.9e-6, "caution"),
        (5.8, 10e-6, "fault"), (8.25, 60e-6, "fault"), (8.3, 60e-6, "danger"), (13.5, 60e-6, "danger"),
    ],
)  # fmt: skip
def test_three_hundred_millivolts_for_two_microseconds_are_not_eight_volts_for_sixty(
    most_v: float, lasted_s: float, weight: str
) -> None:
    assert spike_weight(most_v, 5.5, lasted_s) == weight


@pytest.mark.parametrize(
    ("kind", "most_v", "lasted_s", "weight"),
    [
        ("electrolytic", 28.75, 1e-3, "note"), ("electrolytic", 28.8, 1e-3, "fault"), ("electrolytic", 28.8, 2e-6, "caution"),
        ("tantalum", 25.1, 2e-6, "danger"), ("x7r", 27.4, 2e-6, "note"), ("x7r", 38.0, 1e-3, "danger"),
    ],
)  # fmt: skip
def test_a_wet_capacitor_stands_a_surge_and_a_tantalum_none(kind: str, most_v: float, lasted_s: float, weight: str) -> None:  # fmt: skip
    assert surge_weight(kind, most_v, 25.0, lasted_s) == weight


@pytest.mark.parametrize("at", ["pack-rail", "cam"])
def test_a_capacitor_that_rings_over_its_print_is_told(at: str) -> None:
    """The plug rings to well over the pack's 16.8 V wherever it is fitted; printed just under that it is told, just over not."""

    def made(rated_v: float) -> Plan:
        part = {**BULK, "id": "cap", "at": at, "farad": 47e-6, "rated_v": rated_v, "dielectric": "c0g"}
        return plan(devices=[device("cam", "pack-rail", 0.1, max_v=60)], filters=[part])

    plug = find_scenario(made(99.0), "plug-in")
    [seen] = report(run_scenario(made(99.0), plug)).capacitors
    assert seen.most_v > 1.2 * 16.8
    assert seen.over_s == 0
    derated = 0.999 * seen.most_v
    [one] = [one for one in judged(made(derated), plug) if one.code == "run.capacitor"]
    assert one.elements == ("cap", at)
    assert one.compared.limit == derated
    assert "over its print" in " ".join(outcome_words(made(derated), report(run_scenario(made(derated), plug))))
    assert not [one for one in judged(made(1.05 * seen.most_v), plug) if one.code == "run.capacitor"]


def test_a_clamp_is_told_by_its_energy() -> None:
    clamp = {"id": "tvs", "name": "Clamp", "at": "pack-rail", "standoff_v": 17, "breakdown_v": 18, "dynamic_ohm": 0.05}
    heavy: dict[str, str | None] = {}
    for pulse in (1e-4, 1.0):
        made = plan(filters=[{**BULK, "farad": 220e-6}], clamps=[{**clamp, "pulse_j": pulse}])
        run = run_scenario(made, find_scenario(made, "plug-in"))
        energy = report(run).clamps[0].energy_j
        found = [one for one in judged(made, run.scenario) if one.code == "run.clamp"]
        heavy[str(pulse)] = found[0].severity if found else None
        assert 1e-3 < energy < 0.1
    assert heavy == {"0.0001": "fault", "1.0": None}


def test_the_order_of_power_is_told_where_one_fails() -> None:
    made = demo.plan("marshlight-as-soldered")
    found = {
        one.code: one for one in judged(made, *(find_scenario(made, name) for name in ("cold-start", "usb-then-pack")))
    }
    assert found["run.order"].elements == ("recorder",)
    assert (found["run.order"].compared.observed, found["run.order"].compared.limit) == (1, 0)
    assert found["run.loop"].elements == ("recorder",)
    assert found["run.loop"].compared.observed >= 3
    likes = {
        name: condition_like(made, find_scenario(made, name))
        for name in ("usb-then-pack", "punch-on-low-pack", "cold-start")
    }
    assert {name: one.id for name, one in likes.items() if one} == {"usb-then-pack": "usb-bench", "punch-on-low-pack": "punch-low", "cold-start": "pack-bench"}  # fmt: skip


def test_what_never_starts_trips_or_gives_up_is_told_where_its_source_is_to_blame() -> None:
    slow = device("cam", "r", 0.2, min_v=4, brownout_v=3.5, restart_v=4.8, boot_s=0.05)
    weak = regulator("bec", "linear", "pack-rail", "r", 4.6)

    def never(**fields: object) -> list[tuple[str, tuple[str, ...]]]:
        made = plan(rails=[rail("r", 5)], supplies=[{**weak, **fields}], devices=[slow], inlets=[{"id": "usb", "name": "USB", "kind": "usb", "rail": "r", "volts": 5.2}])  # fmt: skip
        usb = scenario({"act": "connect", "at_s": 0.0, "inlet": "usb"}, lasts=0.5).model_copy(
            update={"id": "usb-alone"}
        )
        runs = []
        for name, own in (("pack-alone", scenario(PLUG, lasts=0.5)), ("usb-alone", usb)):
            named = own.model_copy(update={"id": name})
            runs.append((named, report(run_scenario(made, named))))
        found = list(run_rules(RunCase(made, tuple(runs)), "runs"))
        return [(one.code, one.elements) for one in found if one.code in ("run.never", "run.order")]

    # 4.6 V never reach 4.8 V; USB's 5.2 V do. At 5 V it starts either way. From nothing at all it is a condition's to tell.
    assert never() == [("run.never", ("cam",))]
    assert never(set_v=5.0) == []
    assert ("run.never", ("cam",)) not in never(set_v=1.0)


@pytest.mark.parametrize(("theta", "trips"), [(30.0, False), (60.0, True)])
def test_a_trip_is_told_from_the_trip_temperature_on(theta: float, trips: bool) -> None:
    """0.1 A through (16.8 − 5) V is 1.18 W and 6 mW of its own: 30 K/W stay under 90 °C, 60 K/W do not."""
    ldo = regulator("ldo", "linear", "pack-rail", "r", 5.0, theta_still_k_w=theta, tau_s=3, trip_c=90)
    made = plan(rails=[rail("r", 5)], supplies=[ldo], devices=[device("d", "r", 0.1, boot_s=0)])
    own = scenario(lasts=30, begins="bench", air="still")
    made = made.model_copy(update={"scenarios": (own,)})
    found = [one for one in judged(made, own) if one.code == "run.trip"]
    assert [(one.severity, one.elements, one.compared.limit) for one in found] == (
        [("fault", ("ldo",), 90.0)] if trips else []
    )
    if trips:
        assert found[0].compared.observed == pytest.approx(90, abs=0.5)
        assert "trips after" in tell(made, found[0]).title


@pytest.mark.parametrize(("amps", "told"), [(0.9, False), (1.5, True)])
def test_a_regulator_that_gives_up_is_told(amps: float, told: bool) -> None:
    weak = regulator("bec", "buck", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1.2)
    made = plan(rails=[rail("r", 5)], supplies=[weak], devices=[device("d", "r", amps, law="resistance", boot_s=0)])
    found = [one for one in judged(made, scenario(PLUG, lasts=0.5)) if one.code == "run.gives_up"]
    assert [one.compared.limit for one in found] == ([1.2] if told else [])
