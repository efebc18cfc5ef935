"""One sign, factor or choice each that once could be changed without a test noticing."""

import cmath
import math
from itertools import pairwise
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from tests.core.test_changes import found
from tests.core.test_noise import MOTORS
from tests.core.test_rule_limits import lifted
from tests.plans import STILL, device, draws, plan, rail, regulator
from tests.reference.test_runs import PLUG, scenario
from yardmeter.core.answers.conditions import knows_full_pack, solve_conditions
from yardmeter.core.answers.dips import _Hungry
from yardmeter.core.answers.limits import wire_bound_a
from yardmeter.core.answers.loops import Loop, loop_current_a, motor_ripple_a
from yardmeter.core.answers.noise import tolerated_v
from yardmeter.core.answers.noise_sources import noise_lines
from yardmeter.core.answers.returns import logic_levels
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.answers.sources import back_flows, trace_sources
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.running import RunCase, clamp_energy, never_starts, spikes
from yardmeter.core.choices.grounding import GroundWay, newly_cut, video_board
from yardmeter.core.choices.places import Weights
from yardmeter.core.elements.coil import CORE_LOSS, coil_ohm
from yardmeter.core.fixes.helps import _capacitor, _start_order, hold_up
from yardmeter.core.graph import Ring
from yardmeter.core.network import Situation
from yardmeter.core.network.loads import load_value
from yardmeter.core.physics.capacitors import BODY_H
from yardmeter.core.physics.pack import REST_CURVE
from yardmeter.core.physics.preferred import e_series
from yardmeter.core.plan import LcFilter, Plan, load_plan
from yardmeter.core.runs import run_scenario
from yardmeter.core.runs.report import report
from yardmeter.core.runs.timetable import STEPPED_BURSTS, Spread, beginning, timetable
from yardmeter.core.runs.why import whys
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.core.verdict import direction_of
from yardmeter.review.analysis import review as analysed
from yardmeter.review.compare import Side, compare
from yardmeter.review.feed_schools import feed_schools
from yardmeter.review.hookup import hookup
from yardmeter.review.instant import named_instant as instant
from yardmeter.review.noise_changes import _moved
from yardmeter.review.noise_review import review_noise
from yardmeter.review.schools import _refused


def verdicts(made: Plan, code: str) -> list[Any]:
    return [one for one in run_rules(solve_plan(made)) if one.code == code]


# --- noise and grounds ------------------------------------------------------------------------------------------------


def test_a_loop_is_driven_against_its_reactance_and_its_resistance() -> None:
    """`I = U / √(R² + (2π f L)²)`, by hand at 24 kHz: 1 µH is 0.1508 Ω."""
    made = plan()
    loop = Loop(Ring((), ()), 0.2, 1e-6, 1e-4)
    assert made.policy.pwm_hz == 24e3
    assert loop_current_a(made, loop, 1.0) == pytest.approx(1 / math.hypot(0.2, 0.150796), rel=1e-4)
    assert motor_ripple_a(made.conditions[0].model_copy(update={"throttle_frac": 0.2}), 10) == pytest.approx(4.0)


def test_a_coil_resonates_at_its_own_frequency() -> None:
    """There it is a resistance, `50 · 2π f0 L`; far below it is its inductance, far above its winding's capacitance."""
    coil = LcFilter(kind="lc", id="l", name="L", at="x", henry=10e-6, resonance_hz=5e6, farad=1e-4, saturation_a=3, dcr_ohm=0.01)  # fmt: skip
    law = coil_ohm(coil.henry, coil.saturation_a, coil.resonance_hz, 0.0)

    def at(hertz: float) -> complex:
        s = 2j * math.pi * hertz
        up, down = (sum(c * s**k for k, c in enumerate(part)) for part in (law.num, law.den))
        return complex(up / down)

    peak = CORE_LOSS * 2 * math.pi * 5e6 * 10e-6
    assert at(5e6) == pytest.approx(peak, rel=1e-9)
    assert abs(at(5e4)) == pytest.approx(2 * math.pi * 5e4 * 10e-6, rel=1e-3)
    assert cmath.phase(at(5e4)) == pytest.approx(math.pi / 2, abs=0.01)
    assert abs(at(50e6)) == pytest.approx(2 * math.pi * 5e6 * 10e-6 / (10 - 0.1), rel=0.01)


@pytest.mark.parametrize(
    ("kind", "volts"),
    [("camera", 0.05), ("sender", 0.1), ("digital", 0.2), ("logic", 0.1), ("receiver", 0.1), ("gnss", 0.1), ("servo", 0.25)],
)  # fmt: skip
def test_the_ripple_a_kind_of_device_stands(kind: str, volts: float) -> None:
    made = plan(devices=[device("d", "pack-rail", 0.1, kind=kind), device("told", "pack-rail", 0.1, kind=kind, ripple_max_v=0.3)])  # fmt: skip
    assert [tolerated_v(made.device_of[name]) for name in ("d", "told")] == [volts, 0.3]


def test_ripple_that_moved_is_told_by_how_much_and_which_way() -> None:
    made = plan(devices=[device("eye", "pack-rail", 0.1)])
    was, now = (SimpleNamespace(total_v={"bench": volts}) for volts in (0.010, 0.040))
    (worse,) = _moved(made, (), {"eye": was}, {"eye": now})
    assert (worse.direction, "+12.0 dB" in worse.text) == ("worse", True), worse.text
    (better,) = _moved(made, (), {"eye": now}, {"eye": was})
    assert better.direction == "better"
    assert not _moved(made, (), {"eye": was}, {"eye": was})


# --- sources ----------------------------------------------------------------------------------------------------------


class Seen:
    """Operating points as `sources` asks for them."""

    def __init__(self, amps: float, volts: float = 5.0) -> None:
        self.amps, self.volts = amps, volts

    def supply_a(self, _: Any) -> float:
        return self.amps

    def supply_on(self, _: str) -> bool:
        return True

    def supply_out_v(self, _: Any) -> float:
        return self.volts


@pytest.mark.parametrize(("amps", "flows"), [(0.002, False), (-0.0005, False), (-0.0015, True)])
def test_energy_goes_back_through_a_link_from_a_milliampere_on(amps: float, flows: bool) -> None:
    link = {"id": "link", "name": "Link", "kind": "link", "input": "pack-rail", "output": "five", "board": "main"}
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five"}
    bench = {"id": "bench", "name": "Bench", "energy": ["usb"]}
    made = plan(rails=[rail("five", 5)], supplies=[link], inlets=[usb], conditions=[bench])
    seen: Any = Seen(amps)
    assert [(one.from_rail, one.to, one.amps_a) for one in back_flows(made, seen)] == ([("five", "pack-rail", -amps)] if flows else [])  # fmt: skip
    assert trace_sources(made, made.conditions[0], seen)["pack-rail"] == (("usb",) if flows else ())


# --- verdicts ---------------------------------------------------------------------------------------------------------


def test_better_in_one_condition_and_worse_in_another_goes_by_the_number() -> None:
    was = found(3, 1, conditions=("a", "b"), by={"a": "note"})
    now = found(2, 1, conditions=("a", "b"), by={"b": "note"})
    assert [direction_of(was, now), direction_of(now, was)] == ["better", "worse"]


def test_an_inrush_its_load_leaves_nothing_for_is_told_with_nothing_left() -> None:
    load = device("d", "five", 1.5, input_f=20e-3)
    five = regulator("reg", "buck", "pack-rail", "five", 5.0, rating_a=1, current_limit_a=1)
    (told,) = verdicts(plan(rails=[rail("five", 5)], supplies=[five], devices=[load]), "load.inrush")
    assert told.facts.left_a == 0.0
    (told,) = verdicts(plan(rails=[rail("five", 5)], supplies=[{**five, "current_limit_a": 1.6}], devices=[load]), "load.inrush")  # fmt: skip
    assert told.facts.left_a == pytest.approx(0.1, rel=0.01)
    assert told.compared.observed == pytest.approx(20e-3 * 5 / 0.1, rel=0.02)


def test_the_largest_device_another_pad_holds_is_the_one_to_move() -> None:
    pads = [{"id": "p1", "label": "P1", "direction": "out", "limit_a": 1.0}, {"id": "p2", "label": "P2", "direction": "out", "limit_a": 0.7}]  # fmt: skip
    devices = [device(name, "pack-rail", amps, nominal_v=16, max_v=18) for name, amps in (("tip", 0.1), ("eye", 0.6), ("big", 0.8))]  # fmt: skip
    made = plan(devices=devices).model_dump(mode="json")
    made["rails"][0]["pads"] = pads
    for one in made["devices"]:
        one["feed"]["pad"] = "p1"
    (told,) = verdicts(load_plan(made), "load.pad")
    assert [(edit.device, edit.pad) for fix in told.fixes for edit in fix.edits] == [("eye", "p2")]


# --- signals ----------------------------------------------------------------------------------------------------------


def linked(**sink: Any) -> Plan:
    tx = {"id": "tx", "label": "TX", "role": "tx", "level_v": 3.3}
    rx = {"id": "rx", "label": "RX", "role": "rx", "level_v": 5.0, **sink}
    signal = {"id": "s", "name": "Serial", "kind": "serial", "source": "tx", "sink": "rx"}
    return plan(devices=[device("eye", "pack-rail", 0.1, pins=[tx]), device("ear", "pack-rail", 0.1, pins=[rx])], signals=[signal])  # fmt: skip


def test_levels_are_read_as_the_reader_says() -> None:
    for thresholds in ("ttl", "cmos"):
        made = linked(input_levels=thresholds)
        assert logic_levels(made, made.signals[0]).thresholds == thresholds
    made = linked()
    unknown = made.signals[0].model_copy(update={"sink": "ear"})
    assert logic_levels(made, unknown).thresholds == "ttl"


def test_a_signals_wire_goes_from_its_source_to_its_sink() -> None:
    row = next(one for one in hookup(solve_plan(linked())).rows if one.id == "signal:s")
    assert ("TX" in str(row.start), "RX" in str(row.end)) == (True, True)


# --- runs -------------------------------------------------------------------------------------------------------------


def test_a_spike_is_told_once_and_a_capacitor_gets_a_quarter_more_volts_than_it_sees() -> None:
    eye = device("eye", "pack-rail", 0.2, nominal_v=16, min_v=5, max_v=17, input_f=1e-5)
    made = plan(devices=[eye])
    run = run_scenario(made, scenario(PLUG, lasts=5e-3))
    (told,) = spikes(RunCase(made, ((run.scenario, report(run)),)))
    assert told.facts.times == 1
    assert [_capacitor(made, "eye", "C", 1e-5, volts).value["rated_v"] for volts in (12.8, 12.9, 20.0, 20.1, 90.0)] == [16, 25, 25, 35, 100]  # fmt: skip


def pulsing(period_s: float, lasts: float) -> Any:
    beacon = device("beacon", "pack-rail", 0.5, nominal_v=16, min_v=5, max_v=18, burst={"period_s": period_s, "duty_frac": 0.25})  # fmt: skip
    beacon["draws"] = draws(0.2, peak=1.0)
    own = {**STILL, "id": "busy", "name": "Busy", "default_state": "peak"}
    return run_scenario(plan(devices=[beacon], conditions=[own]), scenario(lasts=lasts, begins="busy"))


def test_bursts_are_stepped_through_while_they_are_few_and_averaged_beyond() -> None:
    few = pulsing(0.1, 0.1 * (STEPPED_BURSTS - 1))
    assert {round(float(one), 2) for one in few.load_a("beacon")[5:]} >= {0.2, 1.0}
    many = pulsing(0.1, 0.1 * (STEPPED_BURSTS + 1))
    assert many.load_a("beacon")[-1] == pytest.approx(0.25 * 1.0 + 0.75 * 0.2, rel=1e-3)
    assert few.charge_c[-1] / few.times_s[-1] == pytest.approx(many.charge_c[-1] / many.times_s[-1], rel=0.02)


def test_after_braking_motors_go_back_to_the_throttle_they_had() -> None:
    motors = device("m", "pack-rail", 8, kind="motor", nominal_v=12, min_v=3, max_v=60, throttle=[{"throttle_frac": 1, "amps": 40}])  # fmt: skip
    acts = [{"act": "throttle", "at_s": 0, "to_frac": 0.5}, {"act": "brake", "at_s": 0.3, "for_s": 0.1}]
    run = run_scenario(plan(devices=[motors]), scenario(*acts, lasts=1.0, begins="bench"))
    assert run.load_a("m")[-1] == pytest.approx(20, rel=1e-3)
    assert run.load_a("m").min() == pytest.approx(-10 + 30 * math.exp(-0.1 / 0.03), abs=0.2)


@pytest.mark.parametrize("share", [0.8, 1.25])
def test_a_lamp_counts_as_lit_from_its_share_of_volts(share: float) -> None:
    lamp = {"id": "lamp", "name": "Lamp", "kind": "lamp", "rail": "pack-rail", "volts": 12, "limit_a": 2}
    own = {**STILL, "energy": ["pack", "lamp"]}
    cold_a = 2 * 0.15**0.55 * share**0.55
    load = device("d", "pack-rail", cold_a, nominal_v=15, min_v=1, max_v=18)
    run = run_scenario(plan(devices=[load], inlets=[lamp], conditions=[own]), scenario(lasts=3.0, begins="bench"))
    assert run.pin_v("lamp")[-1] / 12 == pytest.approx(0.15 * share, rel=0.1)
    assert report(run).limiter == ("lit" if share > 1 else "dark")


def test_a_dip_is_one_until_half_a_second_and_its_cause_is_not_told_once_it_is_long_ago() -> None:
    weak = regulator("reg", "linear", "pack-rail", "five", 5.0, rating_a=1, current_limit_a=1)
    rx = device("rx", "five", 0.2, brownout_v=4.0, restart_v=4.5, hold_s=1e-3, boot_s=0.01)
    pump = device("pump", "five", 0.1, law="resistance", min_v=0.5)
    made = plan(rails=[rail("five", 5)], supplies=[weak], devices=[rx, pump])
    for lasts, steady in ((0.4, False), (0.6, True)):
        acts = [{"act": "draw", "device": "pump", "value": 3, "at_s": 1.0}, {"act": "draw", "device": "pump", "value": 0.1, "at_s": 1.0 + lasts}]  # fmt: skip
        (why,) = whys(run_scenario(made, scenario(*acts, lasts=4.0, begins="bench")))
        assert (why.steady, why.below_s) == (steady, pytest.approx(lasts, rel=0.02))
        assert why.chain[0].kind == "act"
    creep = {"act": "draw", "device": "pump", "value": 1.2, "over_s": 10.0, "at_s": 0.0}
    (why,) = whys(run_scenario(made, scenario(creep, lasts=12.0, begins="bench")))
    assert why.at_s > 5
    assert "act" not in {one.kind for one in why.chain}


@pytest.mark.parametrize("law", ["power", "current"])
def test_what_a_capacitor_has_to_hold_is_worked_out_by_the_devices_law(law: str) -> None:
    """`C = 2 P t / (V1² − V2²)` for a power, `I t / (V1 − V2)` for a current (textbook)."""
    unit, value = ("W", 2.0) if law == "power" else ("A", 0.4)
    rx = device(
        "rx", "five", value, unit=unit, law=law, min_v=3.9, brownout_v=4.0, restart_v=4.5, hold_s=1e-4, boot_s=0.01
    )
    pump = device("pump", "five", 0.1, law="resistance", min_v=0.5)
    made = plan(rails=[rail("five", 5)], supplies=[regulator("reg", "linear", "pack-rail", "five", 5.0, rating_a=1, current_limit_a=1)], devices=[rx, pump])  # fmt: skip
    acts = [{"act": "draw", "device": "pump", "value": 4, "at_s": 0.2}, {"act": "draw", "device": "pump", "value": 0.1, "at_s": 0.22}]  # fmt: skip
    run = run_scenario(made, scenario(*acts, lasts=0.5, begins="bench"))
    (why,) = whys(run)
    told = hold_up(run, why)
    assert told.needed_f is not None
    start = float(np.interp(0.19, run.times_s, run.pin_v("rx")))
    by_law = 2 * 2.0 / (start**2 - 16) if law == "power" else 0.4 / (start - 4.0)
    assert told.needed_f == pytest.approx(by_law * told.dip_s, rel=0.05)
    assert told.per_10uf_s == pytest.approx(10e-6 / by_law, rel=0.05)


# --- `run.` rules at their edges --------------------------------------------------------------------------------------


def told_of(made: Plan, rule_of: Any, *, device_life: dict[str, Any] | None = None, clamp: dict[str, Any] | None = None) -> list[Any]:  # fmt: skip
    """A rule's verdicts on a run whose report says something else of its one device or clamp."""
    own = scenario(PLUG, lasts=1.0)
    seen = report(run_scenario(made, own))
    if device_life:
        seen = seen.model_copy(update={"devices": tuple(one.model_copy(update=device_life) for one in seen.devices)})
    if clamp:
        seen = seen.model_copy(update={"clamps": tuple(one.model_copy(update=clamp) for one in seen.clamps)})
    woken = own.model_copy(update={"id": "woken"})
    ran = seen.model_copy(update={"devices": tuple(one.model_copy(update={"ran": True, "never": False}) for one in seen.devices)})  # fmt: skip
    return list(rule_of(RunCase(made, ((own, seen), (woken, ran)))))


def test_a_spike_weighs_from_ten_microseconds() -> None:
    made = plan(devices=[device("eye", "pack-rail", 0.1, nominal_v=16, min_v=5, max_v=30)])
    for over_s, severity in ((0.501, "fault"), (11e-6, "fault"), (9e-6, "note")):
        found = told_of(made, spikes, device_life={"over_s": over_s, "most_v": 31.0})
        assert [one.severity for one in found] == ([severity] if severity else []), over_s


def test_what_never_starts_is_told_where_a_third_of_its_volts_came() -> None:
    made = plan(devices=[device("eye", "pack-rail", 0.1, nominal_v=16, min_v=5, max_v=30, brownout_v=9, restart_v=10)])
    for most_v, told in ((2.9, 0), (3.1, 1)):
        assert len(told_of(made, never_starts, device_life={"never": True, "ran": False, "most_v": most_v})) == told


def test_a_clamp_is_told_from_half_of_its_pulse_and_weighs_from_all_of_it() -> None:
    clamp = {"id": "c", "name": "Clamp", "at": "pack-rail", "standoff_v": 17, "breakdown_v": 19, "dynamic_ohm": 0.02, "pulse_j": 2.0}  # fmt: skip
    for joules, severity in ((0.99, None), (1.01, "caution"), (1.99, "caution"), (2.01, "fault")):
        found = told_of(plan(clamps=[clamp]), clamp_energy, clamp={"energy_j": joules})
        assert {one.severity for one in found} == ({severity} if severity else set()), joules


# --- what a report and a timetable say --------------------------------------------------------------------------------


def test_a_rails_least_is_counted_once_it_stands() -> None:
    """Up at nine tenths of its most; what it was on its way is no dip."""
    load = device("d", "five", 0.1, law="resistance", min_v=0.5)
    weak = regulator("reg", "linear", "pack-rail", "five", 5.0, rating_a=1, current_limit_a=1, soft_start_s=0.05)
    made = plan(rails=[rail("five", 5)], supplies=[weak], devices=[load])
    acts = [PLUG, {"act": "draw", "device": "d", "value": 1.6, "at_s": 0.2}, {"act": "draw", "device": "d", "value": 0.1, "at_s": 0.3}]  # fmt: skip
    life = next(one for one in report(run_scenario(made, scenario(*acts, lasts=0.5))).rails if one.id == "five")
    assert life.least_v == pytest.approx(1.0 * 5 / 1.6, rel=0.02)
    assert 0.2 < life.least_at_s < 0.31
    calm = report(run_scenario(made, scenario(PLUG, lasts=0.5)))
    life = next(one for one in calm.rails if one.id == "five")
    assert life.least_v >= 0.9 * life.most_v


def test_tolerance_is_in_what_a_device_boots_and_runs_with() -> None:
    eye = device("eye", "pack-rail", 0.5, nominal_v=16, min_v=5, max_v=18)
    eye["draws"]["boot"] = {"value": 0.8, "unit": "A", "provenance": "measured"}
    made, own = plan(devices=[eye]), scenario(PLUG, lasts=0.1)
    spread = Spread({"eye": np.array([0.5, 2.0])}, {}, np.ones(2))
    table = timetable(made, own, [Situation(beginning(made, own))] * 2, spread)
    assert table.moving.circuit.consumers.boot[:, 0] == pytest.approx([0.4, 1.6])
    assert table.moving.circuit.consumers.run[:, 0] == pytest.approx([0.25, 1.0])


@pytest.mark.parametrize(("at_s", "steady"), [(0.25, True), (0.35, False)])
def test_volts_gone_to_the_end_are_no_dip_from_a_quarter_of_the_scenario_on(at_s: float, steady: bool) -> None:
    rx = device("rx", "pack-rail", 0.2, nominal_v=16, min_v=5, max_v=18, brownout_v=4.0, hold_s=1e-3)
    run = run_scenario(plan(devices=[rx]), scenario({"act": "unplug", "at_s": at_s}, lasts=0.4, begins="bench"))
    (why,) = whys(run)
    assert why.steady is steady
    assert why.below_s == pytest.approx(0.4 - at_s, abs=5e-3)


# --- reviews ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("nominal", "least", "most", "volts"), [(5.0, 4.5, 5.5, 5.0), (5.0, 4.9, 9.0, 5.1), (9.0, 5.0, 9.2, 8.7)]
)
def test_a_bec_of_its_own_is_set_a_twentieth_inside_its_window(nominal: float, least: float, most: float, volts: float) -> None:  # fmt: skip
    made = plan(devices=[device("eye", "pack-rail", 0.3, nominal_v=nominal, min_v=least, max_v=most)])
    table = feed_schools(made, "eye", ())[1]
    edits = next(one.edits for one in table.schools if one.key == "bec")
    assert next(one.value for one in edits if one.op == "add" and one.kind == "supply")["set_v"] == pytest.approx(volts)


def test_an_instant_after_the_pack_is_empty_has_nothing_left() -> None:
    made = plan(devices=[device("load", "pack-rail", 20, nominal_v=15, min_v=1, max_v=18)])
    run = run_scenario(made, scenario(lasts=900.0, begins="bench"))
    solved = solve_plan(made)
    left = [instant(run, solved, at).head.charge_left_frac for at in (0.0, 270.0, 900.0)]
    assert left[:2] == [pytest.approx(1.0), pytest.approx(0.5, abs=0.02)]
    assert 0 <= left[2] < 0.05


def test_capacitors_have_the_inductance_of_their_bodies() -> None:
    """From a fraction of a nanohenry for a chip to some twenty for a can; typical of data sheets, from memory."""
    assert all(0.3e-9 <= one <= 20e-9 for one in BODY_H.values()), BODY_H
    assert BODY_H["x5r"] < BODY_H["tantalum"] < BODY_H["polymer"] < BODY_H["electrolytic"]


def crossed(*more: dict[str, Any]) -> Plan:
    """A transmitter wired to a transmitter of a port that has a receiver too; `more` signals beside it."""
    pins = [{"id": f"{port}-{role}", "label": f"{port}{role}", "role": role, "port": port} for port in ("a", "b") for role in ("tx", "rx")]  # fmt: skip
    ear = device("ear", "pack-rail", 0.1, pins=pins)
    eye = device("eye", "pack-rail", 0.1, pins=[{"id": "eye-tx", "label": "TX", "role": "tx"}, {"id": "eye-rx", "label": "RX", "role": "rx"}])  # fmt: skip
    signal = {"id": "s", "name": "Serial", "kind": "serial", "source": "eye-tx", "sink": "a-tx"}
    return plan(devices=[ear, eye], signals=[signal, *more])


def rewired(made: Plan) -> list[tuple[str, dict[tuple[str, str], Any]]]:
    told = next(one for one in verdicts(made, "signal.crossed") if one.elements[0] == "s")
    assert (told.compared.observed, told.compared.limit) == (2, 1), "two that talk, of one"
    return [(fix.kind, {(edit.element, edit.field): edit.value for edit in fix.edits if edit.op == "set"}) for fix in told.fixes]  # fmt: skip


def test_a_crossed_wire_goes_to_the_sister_of_its_port_or_changes_places_with_what_is_there() -> None:
    to_sister = {("s", "source"): "eye-tx", ("s", "sink"): "a-rx"}
    assert rewired(crossed()) == [("rewire", to_sister)]
    taken = {"id": "o", "name": "Other", "kind": "serial", "source": "eye-rx", "sink": "a-rx"}
    ((kind, edits),) = rewired(crossed(taken))
    assert kind == "exchange"
    assert edits == {**to_sister, ("o", "source"): "a-tx", ("o", "sink"): "eye-rx"}


@pytest.mark.parametrize(("count", "told"), [(2, "D0, D1"), (3, "D0, D1, D2"), (4, "D0, D1, D2 and 1 more"), (5, "D0, D1, D2 and 2 more")])  # fmt: skip
def test_a_way_that_takes_grounds_away_names_three_of_them(count: int, told: str) -> None:
    made = plan(devices=[device(f"d{k}", "pack-rail", 0.1) for k in range(count)])
    cut = made.model_copy(update={"devices": tuple(one.model_copy(update={"returns": ()}) for one in made.devices)})
    assert _refused(made, GroundWay("star", cut=newly_cut(made, cut))) == f"{told} would have no way back to the pack"


# --- answers ----------------------------------------------------------------------------------------------------------


def test_a_wire_that_is_too_thin_gets_the_thinnest_gauge_that_stands_its_current() -> None:
    thin = {"rail": "pack-rail", "wire": {"gauge_awg": 30, "length_m": 0.1}}
    made = plan(devices=[device("load", "pack-rail", 8, feed=thin, nominal_v=16, min_v=5, max_v=18)])
    told = next(one for one in verdicts(made, "wire.limit") if one.elements == ("load",))
    (fix,) = told.fixes
    (edit,) = fix.edits
    assert edit.op == "set"
    condition, wire = made.conditions[0], made.device_of["load"].feed.wire
    stands = {gauge: wire_bound_a(made, wire.model_copy(update={"gauge_awg": gauge}), condition) for gauge in range(10, 32, 2)}  # fmt: skip
    assert edit.value == max(gauge for gauge, amps in stands.items() if amps >= 8)
    assert stands[30] < 8


@pytest.mark.parametrize(("pack_v", "throttle", "knows"), [(16.8, 0.0, True), (16.79, 0.0, False), (16.0, 0.0, False), (16.8, 0.4, False)])  # fmt: skip
def test_a_full_pack_is_known_where_a_condition_rests_on_it(pack_v: float, throttle: float, knows: bool) -> None:
    own = {"id": "own", "name": "Own", "pack_v": pack_v, "throttle_frac": throttle}
    assert knows_full_pack(plan(conditions=[own])) is knows


def test_a_link_that_is_fed_backwards_asks_nothing_of_its_input() -> None:
    link = {"id": "link", "name": "Link", "kind": "link", "input": "four", "output": "five", "board": "main"}
    reg = regulator("reg", "buck", "pack-rail", "five", 5.0)
    made = plan(rails=[rail("four"), rail("five", 5)], supplies=[reg, link], devices=[device("d", "four", 0.7)])
    case = solve_plan(made)
    demand = dict(zip((one.id for one in made.rails), case.solved.free.rail_demand_a()[0].tolist(), strict=True))
    assert demand["four"] == pytest.approx(0.7, rel=1e-3)
    assert demand["five"] == pytest.approx(0.0, abs=1e-9)


def test_a_measured_line_says_so_and_swings_half_of_its_peak_to_peak() -> None:
    noise = {
        "id": "n",
        "name": "Scope",
        "element": "reg",
        "kind": "switching",
        "hz": 300e3,
        "amplitude_pp": 0.03,
        "unit": "V",
    }
    made = plan(rails=[rail("five", 5)], supplies=[regulator("reg", "buck", "pack-rail", "five", 5.0)], devices=[device("d", "five", 0.7)], noises=[noise])  # fmt: skip
    view = solve_plan(made).solved.given["bench"]
    (line,) = [one for one in noise_lines(made, made.conditions[0], view) if one.element == "reg"]
    assert (line.measured, line.in_volts, line.peak, line.hz) == (True, True, pytest.approx(0.015), 300e3)
    bare = made.model_copy(update={"noises": ()})
    assert {one.measured for one in noise_lines(bare, made.conditions[0], view)} == {False}


def test_a_measured_line_is_heard_while_what_makes_it_runs() -> None:
    own = [
        {"id": f"n-{one}", "name": "Scope", "element": one, "kind": "pwm", "hz": 24e3, "amplitude_pp": 0.1}
        for one in ("motors", "d")
    ]
    states = [("still", 0, {}), ("full", 1, {}), ("dark", 0.5, {"d": "off"})]
    conditions = [{"id": name, "name": name, "throttle_frac": at, "states": off} for name, at, off in states]
    made = plan(devices=[MOTORS, device("d", "pack-rail", 0.3, max_v=20)], noises=own, conditions=conditions)
    solved = solve_conditions(made)
    heard = {
        c.id: {one.element for one in noise_lines(made, c, solved.given[c.id]) if one.measured} for c in made.conditions
    }
    assert heard == {"still": {"d"}, "full": {"motors", "d"}, "dark": {"motors"}}


@pytest.mark.parametrize(("volts", "amps"), [(3.99, 0.0), (4.0, 2.5), (4.5, 10 / 4.5), (6.0, 2.0)])
def test_a_constant_power_asks_more_the_lower_it_falls_and_nothing_once_it_gave_up(volts: float, amps: float) -> None:
    assert _Hungry(10.0, 4.0, held_v=5.0).amps(volts) == pytest.approx(amps)


@pytest.mark.parametrize(("amps", "told"), [(9.5, False), (10.5, True)])
def test_a_shift_is_compared_from_a_quarter_of_its_margin(amps: float, told: bool) -> None:
    """TTL at 3.3 V leaves 0.4 V at low, of which 10 mΩ take a quarter at 10 A."""
    solved = analysed(lifted(amps))
    side = Side(solved.plan, solved.analysis, review_noise(solved.solved.solved).review)
    rows = [one.label for one in compare([side, side]).rows if one.group == "ground shift along a signal, worst"]
    assert rows == (["S"] if told else [])


def test_the_video_board_is_the_one_its_signal_ends_at_whatever_its_kind() -> None:
    boards = [{"id": name, "name": name, "kind": kind, "returns": [{"id": f"{name}-gnd", "to": "main", "wire": {}}]} for name, kind in (("fc", "controller"), ("osd", "other"))]  # fmt: skip
    camera = device("cam", "pack-rail", 0.1, max_v=20, kind="camera")
    line = {"id": "v", "name": "V", "kind": "video", "source": "cam", "sink": "osd"}
    assert video_board(plan(boards=boards, devices=[camera], signals=[line])) == "osd"
    assert video_board(plan(boards=boards, devices=[camera], signals=[{**line, "kind": "serial"}])) == "fc"
    assert video_board(plan(devices=[camera])) == "main"


def test_a_pack_of_more_than_an_ohm_is_closed_from_the_start() -> None:
    """0.4 Ω a cell, four of them: 1 A takes 1.6 V of 16.8."""
    made = plan(cell_ohm=0.4, devices=[device("d", "pack-rail", 1, max_v=20)])
    run = run_scenario(made, scenario({"act": "state", "at_s": 0.5, "device": "d", "state": "off"}, lasts=1.0, begins="bench"))  # fmt: skip
    assert run.rail_v("pack-rail")[run.at(0.4)] == pytest.approx(15.2, abs=0.05)


# --- tables and bounds ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("curve", REST_CURVE.values(), ids=REST_CURVE)
def test_a_cells_rest_volts_rise_with_its_charge_from_empty_to_full(curve: tuple[tuple[float, float], ...]) -> None:
    charge, volts = zip(*curve, strict=True)
    assert (charge[0], charge[-1]) == (0, 1)
    assert all(low < high for one in (charge, volts) for low, high in pairwise(one))


def test_e192_has_the_one_value_the_standard_rounds_otherwise() -> None:
    """IEC 60063: … 9.09, 9.20, 9.31 …; 10^(185/192) is 9.195 and would be 9.19."""
    near = [one for one in e_series(192) if 90.5 < one < 93.5]
    assert near == [90.9, 92.0, 93.1]


@pytest.mark.parametrize("name", Weights.model_fields)
def test_weights_of_a_place_are_from_nothing_to_ten(name: str) -> None:
    for value in (0.0, 10.0):
        assert getattr(Weights(**{name: value}), name) == value
    for value in (-0.1, 10.1):
        with pytest.raises(ValidationError):
            Weights(**{name: value})


def test_a_resistor_of_an_ampere_is_on_and_a_line_of_leds_without_a_draw_is_off() -> None:
    line = {"forward_v": 2, "series": 2, "strings": 4, "resistor_ohm": 100}
    made = plan(devices=[device("r", "pack-rail", 1, law="resistance"), device("l", "pack-rail", 1, law="led", led=line), device("dark", "pack-rail", 0, law="led", led=line)])  # fmt: skip
    ohms = {one.id: load_value(one, made.conditions[0]) for one in made.devices}
    assert ohms == {"r": pytest.approx(5.0), "l": pytest.approx(25.0), "dark": math.inf}


def test_wires_that_drop_too_much_are_told_after_one_that_does_not() -> None:
    thin = {"gauge_awg": 30, "length_m": 1.0}
    made = plan(devices=[device("a", "pack-rail", 0.1, max_v=20), device("b", "pack-rail", 2, max_v=20, feed={"rail": "pack-rail", "wire": thin})])  # fmt: skip
    assert [one.elements for one in verdicts(made, "wire.drop")] == [("b",)]


def test_what_booted_just_before_comes_a_second_after_the_last_of_it() -> None:
    """Three boots, of which two lie within 50 ms before the reset: the hungrier of them waits."""
    made, own = plan(devices=[device(name, "pack-rail", 1, max_v=20) for name in "abcd"]), scenario(PLUG, lasts=5.0)
    boots = [SimpleNamespace(code=Happening.BOOTS, element=name, at_s=at) for name, at in (("a", 0.1), ("b", 0.46), ("c", 0.49), ("d", 0.5))]  # fmt: skip
    amps = {"a": 9.0, "b": 3.0, "c": 2.0, "d": 99.0}
    run = SimpleNamespace(
        plan=made, scenario=own, events=boots, load_a=lambda name: np.array([0.0, amps[name]]),
        timetable=SimpleNamespace(condition=made.conditions[0]),
    )  # fmt: skip
    ((key, edits, later, unit, _),) = _start_order(run, made.device_of["d"], SimpleNamespace(at_s=0.5))
    assert (key, later, unit) == ("start order", pytest.approx(1.49), "s")
    turned = [(act["device"], act["at_s"], act["state"]) for act in edits[0].value["acts"] if act["act"] == "state"]
    assert turned == [("b", 0.0, "off"), ("b", pytest.approx(1.49), "typical")]


@pytest.mark.parametrize(("duty", "orders"), [(0.5, ["", " × 3", " × 5"]), (0.3, ["", " × 2", " × 3"])])
def test_harmonics_are_named_by_their_order(duty: float, orders: list[str]) -> None:
    """A rectangle of half duty has no even harmonics (Fourier)."""
    pulses = device("d", "pack-rail", 1.0, max_v=20, burst={"duty_frac": duty, "period_s": 0.02}, draws={**draws(1.0), "idle": draws(0.0)["idle"]})  # fmt: skip
    made = plan(devices=[pulses], conditions=[{**STILL, "default_state": "peak"}])
    view = solve_conditions(made).given["bench"]
    lines = [one for one in noise_lines(made, made.conditions[0], view) if one.kind == "burst"]
    assert [(one.words, round(one.hz)) for one in lines[:3]] == [
        (f"D, bursts{order}", 50 * int(order.lstrip(" ×") or 1)) for order in orders
    ]


def test_a_regulators_lead_stands_in_series_with_its_output() -> None:
    """What its load's bursts raise at its rail: 20 mΩ of its own and 53 mΩ of half a metre of AWG 26 (134 mΩ/m is its table value)."""

    def raised_v(lead: dict[str, Any] | None) -> float:
        bec = regulator(
            "bec", "buck", "pack-rail", "five", 5.0, output_ohm=0.02, output_f=1e-9, lead=lead, noisy=False, ripple_v=0
        )
        pulses = device("d", "five", 1.0, burst={"duty_frac": 0.5, "period_s": 0.02}, draws={**draws(1.0), "idle": draws(0.0)["idle"]})  # fmt: skip
        made = plan(rails=[rail("five", 5)], supplies=[bec], devices=[pulses, device("eye", "five", 0.0, kind="camera")], conditions=[{**STILL, "default_state": "peak"}])  # fmt: skip
        lines = next(one for one in review_noise(solve_conditions(made)).review.pins if one.device == "eye").lines[
            "bench"
        ]
        return max(one.pp_v for one in lines if one.kind == "burst")

    ohm = 0.02 + 0.134 * 0.4
    assert raised_v({"gauge_awg": 26, "length_m": 0.4}) / raised_v(None) == pytest.approx(ohm / 0.02, rel=0.05)
