"""The march itself: its order, its batch, its bent parts, its switches, and what of a loop may be skipped."""

import math

import numpy as np
import pytest

from tests.core.crowded import crowded
from tests.plans import device, plan, rail, regulator
from tests.reference.test_runs import BULK, PLUG, scenario
from yardmeter import demo
from yardmeter.core.elements.capacitor import ceramic_c, ceramic_v
from yardmeter.core.elements.coil import core_flux
from yardmeter.core.elements.pack import rest_fall_v
from yardmeter.core.fixes.helps import helps_for
from yardmeter.core.network import Situation, branch_table, build_network
from yardmeter.core.network.in_time import lag_s, moving
from yardmeter.core.physics.filters import core_bend_a, inductor_left_h
from yardmeter.core.physics.pack import PackState, charge_left_frac
from yardmeter.core.plan import Plan
from yardmeter.core.runs import Run, find_scenario, run_scenario
from yardmeter.core.runs.chance import chances
from yardmeter.core.runs.report import lasting, report
from yardmeter.core.runs.timetable import Spread, beginning, timetable
from yardmeter.core.runs.why import whys
from yardmeter.core.solver.transient import march
from yardmeter.core.solver.transient.inverse import inverse_of
from yardmeter.core.solver.transient.scheme import RUNNING, STARTING, D
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.words.run import CODES, act_words, event_words, link_words, seconds


def of(run: Run, code: Happening, element: str) -> list[float]:
    return [one.at_s for one in run.events if one.code is code and one.element == element]


# --- the step ---------------------------------------------------------------------------------------------------------


def test_both_methods_have_their_order() -> None:
    """Order conditions of Runge-Kutta methods: Σb = 1 and Σbc = 1/2; the companion of the running one is of third order."""
    (first, second, third), (stands, *error) = RUNNING
    weights = np.array([second, third, D])
    at = np.array([0.0, stands, 1.0])
    assert first + D == pytest.approx(stands)
    assert weights.sum() == pytest.approx(1.0)
    assert weights @ at == pytest.approx(0.5)
    companion = weights - np.array(error)
    assert [companion.sum(), companion @ at, companion @ at**2] == pytest.approx([1.0, 0.5, 1 / 3])
    (first, _, third), (stands, *error) = STARTING
    assert (first, stands) == (0.0, D)
    assert third + D == pytest.approx(1.0)
    assert third * D + D * 1.0 == pytest.approx(0.5)
    assert sum(error) == pytest.approx(0.0)


def test_a_tighter_bound_brings_the_closed_form_nearer() -> None:
    """Error against `v = E (1 − …)`: a tenth of the bound leaves less than a third of it."""
    made = plan(filters=[{**BULK, "farad": 100e-6}])
    gaps = []
    for rtol in (3e-3, 3e-4):
        run = run_scenario(made, scenario(PLUG, lasts=1e-3), rtol=rtol)
        s = run.moving.circuit.series
        kept = next(k for key, k in run.moving.series.items() if key.role == "filter")
        loop = [k for key, k in run.moving.series.items() if key.role != "bypass"]
        ohm, henry, farad, emf = s.ohm[0, loop].sum(), s.henry.sum(), 1 / s.elastance[0, kept], s.emf.max()
        a, w = ohm / 2 / henry, math.sqrt(1 / (henry * farad) - (ohm / 2 / henry) ** 2)
        exact = emf * (1 - np.exp(-a * run.times_s) * (np.cos(w * run.times_s) + a / w * np.sin(w * run.times_s)))
        gaps.append(float(np.abs(run.charge_of(kept) / farad - exact).max()))
    assert gaps[1] < gaps[0] / 3
    assert gaps[0] < 0.01 * 16.8


def test_rows_of_a_batch_are_runs_of_their_own() -> None:
    """Each row by its own clock: together they come to what each comes to alone."""
    rx = device("rx", "pack-rail", 0.5, nominal_v=12, min_v=9, max_v=20, brownout_v=13.0, restart_v=13.2, boot_s=0.01)
    motors = device("m", "pack-rail", 60, kind="motor", nominal_v=14.8, min_v=6, max_v=20, throttle=[{"throttle_frac": 1, "amps": 60}])  # fmt: skip
    made = plan(
        cell_ohm=0.008, devices=[motors, rx], conditions=[{"id": "still", "name": "Still", "pack_state": "nominal"}]
    )
    own = scenario({"act": "throttle", "at_s": 0.05, "to_frac": 1, "over_s": 0.02}, lasts=0.4, begins="still")
    factors = np.array([0.4, 0.7, 1.0, 1.3])

    def least(rows: np.ndarray) -> tuple[np.ndarray, set[int]]:
        spread = Spread({"m": rows}, {}, np.ones(rows.size))
        table = timetable(made, own, [Situation(beginning(made, own))] * rows.size, spread)
        trace = march(table.moving.circuit, table.acts, own.duration_s, table.start, keep=False)
        k = table.moving.consumer["rx"]
        return trace.least_v[:, k], {one.row for one in trace.events if one.what is Happening.RESET and one.index == k}

    together, reset = least(factors)
    for row, factor in enumerate(factors):
        alone, own_reset = least(np.array([factor]))
        assert together[row] == pytest.approx(alone[0], rel=2e-3)
        assert (row in reset) == bool(own_reset)
    assert 0 < len(reset) < factors.size
    assert np.all(np.diff(together) < 0)


def test_a_plug_keeps_each_rows_own_pack() -> None:
    """Volts by the divider of load and what of the pack's resistance is there at once, of each row; after the anti-spark resistor too."""
    lamp = device("lamp", "pack-rail", 16.8, law="resistance", nominal_v=16.8, min_v=1, max_v=20)
    made = plan(cell_ohm=0.05, devices=[lamp])
    own = scenario({**PLUG, "anti_spark_ohm": 2.0, "anti_spark_s": 1e-3}, lasts=5e-3)
    factors = np.array([0.5, 1.0, 2.0])
    table = timetable(made, own, [Situation(beginning(made, own))] * 3, Spread({}, {}, factors))
    trace = march(table.moving.circuit, table.acts, own.duration_s, table.start)
    wires = float(table.moving.circuit.series.ohm[0, : len(table.moving.table.conductors)].sum())
    at_first_a, then_a = (16.8 / (1.0 + ohm + wires + 0.14 * factors) for ohm in (2.0, 0.0))
    heat_j = at_first_a**2 * 1e-3 + then_a**2 * 4e-3
    assert trace.energy_j[:, 0] == pytest.approx(heat_j, rel=2e-3), "what its one ohm turns into heat"
    first = np.array(trace.times_s) < 0.9e-3
    load = np.array(trace.load_a)[first, 0]
    assert load.max() == pytest.approx(16.8 / (3.0 + wires + 0.14 * 0.5), rel=5e-3)


# --- parts that bend --------------------------------------------------------------------------------------------------


def test_charge_and_volts_of_a_ceramic_are_each_others_inverse() -> None:
    kind = (10e-6, 0.55, 25.0)
    for volts in (-40.0, -10.0, 0.0, 5.0, 24.9, 25.1, 60.0):
        charge = ceramic_c(volts, *kind)
        back, slope = ceramic_v(charge, *kind)
        assert back == pytest.approx(volts, abs=1e-9)
        assert slope == pytest.approx(1e-4 / (ceramic_c(volts + 1e-4, *kind) - charge), rel=1e-3)
    # At its rating 45 % are left: C = C0 (1 − loss · v/Vr), as for alternating current.
    assert 1 / ceramic_v(ceramic_c(24.999, *kind), *kind)[1] == pytest.approx(4.5e-6, rel=1e-3)


def test_flux_is_the_integral_of_the_inductance_that_is_left() -> None:
    saturation = 2.0
    bend = core_bend_a(saturation)
    amps = np.linspace(0, 8, 4001)
    left = np.array([inductor_left_h(47e-6, one, saturation) for one in amps])
    flux, henry = np.array([core_flux(one, 47e-6, bend) for one in amps]).T
    assert flux == pytest.approx(np.concatenate([[0], np.cumsum((left[1:] + left[:-1]) / 2 * np.diff(amps))]), abs=1e-9)
    assert [core_flux(-one, 47e-6, bend)[0] for one in amps[::500]] == pytest.approx(-flux[::500])
    assert henry == pytest.approx(left)


@pytest.mark.parametrize("size", [1, 2, 7, 36])
def test_the_inverse_agrees_with_the_librarys(size: int) -> None:
    """NumPy's inverse (LAPACK); rows out of order and of very different size, and a matrix that has none."""
    rng = np.random.default_rng(size)
    matrix = rng.normal(size=(size, size))[::-1] * 10.0 ** rng.integers(-6, 6, (size, 1))
    if size > 1:
        matrix[0, 0] = 0.0
    found = np.zeros((size, size))
    assert inverse_of(matrix.copy(), size, found)
    assert found @ matrix == pytest.approx(np.eye(size), abs=1e-7)
    assert found == pytest.approx(np.linalg.inv(matrix), rel=1e-7, abs=1e-9 * np.abs(found).max())
    matrix[-1] = 0.0
    assert not inverse_of(matrix, size, found)


def test_a_packs_rest_volts_fall_along_its_curve() -> None:
    """A 3 Ah LiPo at 4.2 V a cell: a fifth of its charge takes it to the curve's 4.02 V."""
    made = plan()
    network = build_network(branch_table(made), [Situation(made.conditions[0])])
    curve = moving(network).circuit.series.curve
    assert curve is not None
    full_c = 3 * 3600
    for taken, gone in ((0.2, 4 * (4.20 - 4.02)), (0.1, 4 * 0.09), (0.0, 0.0)):
        assert rest_fall_v(taken * full_c, curve.taken_c, curve.rest_v) == pytest.approx(gone)
    assert rest_fall_v(1.1 * full_c, curve.taken_c, curve.rest_v) > 4 * 1.2


@pytest.mark.parametrize(("law", "kind", "expected"), [("power", "camera", 1 / (2 * math.pi * 20e3)), ("current", "camera", 1e-6), ("resistance", "servo", 0.0), ("current", "motor", 0.03)])  # fmt: skip
def test_consumers_follow_as_fast_as_their_law_says(law: str, kind: str, expected: float) -> None:
    fields = {"throttle": [{"throttle_frac": 1, "amps": 5}]} if kind == "motor" else {}
    made = plan(devices=[device("d", "pack-rail", 1, law=law, kind=kind, max_v=20, **fields)])
    assert lag_s(made, made.devices[0]) == pytest.approx(expected)
    if law == "current" and kind == "motor":  # 63 % of a step after one time constant
        run = run_scenario(made, scenario({"act": "throttle", "at_s": 0.1, "to_frac": 1}, lasts=0.4, begins="bench"))
        assert np.interp(0.13, run.times_s, run.load_a("d")) == pytest.approx(5 * (1 - math.exp(-1)), rel=0.02)


# --- loops ------------------------------------------------------------------------------------------------------------


def looping() -> Plan:
    """A regulator of 1 A that stops over and over under 2 A, and warms by it."""
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="hiccup", retry_s=0.05, tau_s=5, theta_still_k_w=30, trip_c=200)  # fmt: skip
    return plan(
        rails=[rail("r", 5)],
        supplies=[weak],
        devices=[device("d", "r", 2, law="resistance", min_v=0.5, brownout_v=0.4)],
    )


def test_skipped_rounds_warm_as_rounds_that_are_run(monkeypatch: pytest.MonkeyPatch) -> None:
    own = scenario(PLUG, lasts=4.0)
    skipped = run_scenario(looping(), own)
    monkeypatch.setattr("yardmeter.core.solver.transient.loops.ROUNDS", 10**6)
    whole = run_scenario(looping(), own)
    assert skipped.trace.steps < whole.trace.steps / 4
    told = next(one for one in skipped.events if one.code is Happening.RETRIES)
    tries = np.diff(of(whole, Happening.HICCUPS, "bec"))
    assert told.period_s == pytest.approx(tries.mean(), rel=0.02)
    assert len(of(whole, Happening.HICCUPS, "bec")) == pytest.approx(
        len(of(skipped, Happening.HICCUPS, "bec")) + told.rounds, abs=2
    )
    assert skipped.temp_c("bec")[-1] == pytest.approx(whole.temp_c("bec")[-1], abs=1.0)
    assert skipped.charge_c[-1] == pytest.approx(whole.charge_c[-1], rel=0.05)
    assert whole.temp_c("bec")[-1] > 31


def test_a_slow_soft_start_beside_a_loop_takes_its_own_time(monkeypatch: pytest.MonkeyPatch) -> None:
    """One regulator hiccups every few milliseconds, another comes up over a fifth of a second."""
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="hiccup", retry_s=3e-3, soft_start_s=1e-4, theta_still_k_w=0.1)  # fmt: skip
    slow = regulator("slow", "linear", "pack-rail", "s", 5.0, soft_start_s=0.2)
    loads = [device("d", "r", 2, law="resistance", min_v=0.5), device("e", "s", 0.1, law="resistance", min_v=0.5)]
    made = plan(rails=[rail("r", 5), rail("s", 5)], supplies=[weak, slow], devices=loads)
    own = scenario(PLUG, lasts=0.8)
    run = run_scenario(made, own)
    monkeypatch.setattr("yardmeter.core.solver.transient.loops.ROUNDS", 10**6)
    whole = run_scenario(made, own)
    assert run.trace.steps < whole.trace.steps / 2
    for at in (0.05, 0.1, 0.19, 0.25, 0.75):
        mine, every = (float(np.interp(at, one.times_s, one.rail_v("s"))) for one in (run, whole))
        assert mine == pytest.approx(every, abs=0.15), at
    assert whole.rail_v("s")[whole.at(0.1)] == pytest.approx(2.5, abs=0.1)


def test_two_loops_that_fall_into_step_are_skipped_together(monkeypatch: pytest.MonkeyPatch) -> None:
    """A boost and a sender take the regulator before them down in turns: three stops of the one to two resets of the other."""
    made, own = crowded(), find_scenario(crowded(), "punch-on-low-pack")
    run = run_scenario(made, own)
    monkeypatch.setattr("yardmeter.core.solver.transient.loops.ROUNDS", 10**6)
    whole = run_scenario(made, own)
    assert run.trace.steps < whole.trace.steps / 2
    told = sum(one.rounds for one in run.events if one.code is Happening.CHATTERS)
    stops = [len(of(one, Happening.STOPS, "boost12")) for one in (run, whole)]
    assert stops[0] + told == pytest.approx(stops[1], rel=0.1)
    assert run.charge_c[-1] == pytest.approx(whole.charge_c[-1], rel=2e-3)


def test_a_ramp_beside_a_loop_is_followed(monkeypatch: pytest.MonkeyPatch) -> None:
    """Motors thrown over a second while a regulator hiccups: the pack's amps follow, though rounds are skipped."""
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="hiccup", retry_s=3e-3, soft_start_s=1e-4, theta_still_k_w=0.1)  # fmt: skip
    motors = device("m", "pack-rail", 8, kind="motor", nominal_v=12, min_v=3, max_v=60, throttle=[{"throttle_frac": 1, "amps": 40}])  # fmt: skip
    made = plan(rails=[rail("r", 5)], supplies=[weak], devices=[device("d", "r", 2, law="resistance", min_v=0.5), motors])  # fmt: skip
    own = scenario({"act": "throttle", "at_s": 0.5, "to_frac": 1.0, "over_s": 1.0}, lasts=1.7, begins="bench")
    run = run_scenario(made, own)
    monkeypatch.setattr("yardmeter.core.solver.transient.loops.ROUNDS", 10**6)
    whole = run_scenario(made, own)
    assert run.trace.steps < 0.8 * whole.trace.steps
    for at in (0.45, 0.8, 1.0, 1.3, 1.6):
        assert np.interp(at, run.times_s, run.load_a("m")) == pytest.approx(np.interp(at, whole.times_s, whole.load_a("m")), abs=1.0), at  # fmt: skip


def test_a_loop_ends_where_something_is_done() -> None:
    """The load goes at two seconds: what went round until then comes up and stays."""
    own = scenario(PLUG, {"act": "state", "at_s": 2.0, "device": "d", "state": "off"}, lasts=3.0)
    run = run_scenario(looping(), own)
    assert of(run, Happening.RETRIES, "bec")
    assert max(of(run, Happening.HICCUPS, "bec")) < 2.06
    assert run.rail_v("r")[-1] == pytest.approx(5.0, abs=0.05)
    assert next(one.at_s for one in run.events if one.act == 1) == pytest.approx(2.0, abs=1e-9)


# --- chains of causes ---------------------------------------------------------------------------------------------------


def radio(rail_id: str, **fields: object):
    return device(
        "radio", rail_id, 0.3, boot_s=0.02, hold_s=1e-4, min_v=4, brownout_v=3.8, restart_v=4.2, input_f=1e-5, **fields
    )


def kinds(run: Run) -> list[str]:
    return [one.kind for one in whys(run)[0].chain]


def test_a_chain_names_the_switch_that_took_a_rail_away() -> None:
    def bec(**fields: object) -> dict[str, object]:
        return regulator("bec", "linear", "pack-rail", "r", 5.0, **fields)

    def with_it(own: dict[str, object], **fields: object) -> Plan:
        return plan(rails=[rail("r", 5)], supplies=[own], devices=[radio("r"), device("hog", "r", 0.1, peak=4, law="resistance", min_v=0.5, brownout_v=0.4)], **fields)  # fmt: skip

    stall = scenario({"act": "state", "at_s": 0.1, "device": "hog", "state": "peak"}, lasts=0.3, begins="bench")
    limited = run_scenario(with_it(bec(rating_a=1, current_limit_a=1, limit_style="constant")), stall)
    assert kinds(limited) == ["act", "limit", "rail", "pins"]
    link = whys(limited)[0].chain[1]
    assert (link.element, link.limit) == ("bec", 1.0)
    assert link.amps_a == pytest.approx(1.0, rel=0.01)
    latched = run_scenario(with_it(bec(rating_a=3, current_limit_a=3.9, limit_style="latch")), stall)
    assert "latched" in kinds(latched)
    hot = regulator(
        "bec", "linear", "pack-rail", "r", 5.0, theta_still_k_w=60, tau_s=0.2, trip_c=90, limit_style="constant"
    )
    tripped = run_scenario(with_it(hot), scenario(PLUG, lasts=3.0))
    assert "tripped" in kinds(tripped)
    assert (
        link_words(
            tripped.plan, next(one for one in whys(tripped)[0].chain if one.kind == "tripped"), tripped.scenario.acts
        )
        == "bec has tripped at 90 °C"
    )
    thin = {"gauge_awg": 34, "length_m": 2.0}
    far = device(
        "radio",
        "r",
        0.3,
        boot_s=0.02,
        hold_s=1e-4,
        min_v=4,
        brownout_v=3.8,
        restart_v=4.2,
        peak=1.5,
        feed={"rail": "r", "wire": thin},
    )
    wired = run_scenario(plan(rails=[rail("r", 5)], supplies=[bec()], devices=[far]), scenario({"act": "state", "at_s": 0.1, "device": "radio", "state": "peak"}, lasts=0.3, begins="bench"))  # fmt: skip
    assert kinds(wired)[:2] == ["act", "wire"]
    gone = run_scenario(
        with_it(bec(start_v=9, stop_v=8)), scenario({"act": "unplug", "at_s": 0.1}, lasts=0.3, begins="bench")
    )
    assert "stopped" in kinds(gone)
    assert kinds(gone)[0] == "act"


def test_what_starts_beside_a_device_is_put_off() -> None:
    """Two that boot at once are too much for their regulator; one second apart they are not."""
    weak = regulator("bec", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, limit_style="constant")
    boots = {"idle": {"value": 0.3}, "typical": {"value": 0.3}, "peak": {"value": 0.3}, "boot": {"value": 0.65}}
    one = device(
        "one", "r", 0.3, boot_s=0.3, draws=boots, min_v=4, brownout_v=3.6, restart_v=4.5, hold_s=5e-4, input_f=1e-5
    )
    two = device(
        "two", "r", 0.3, boot_s=0.3, draws=boots, min_v=3, brownout_v=2.5, restart_v=4.4, hold_s=5e-4, input_f=1e-5
    )
    made = plan(rails=[rail("r", 5)], supplies=[weak], devices=[one, two])
    run = run_scenario(made, scenario(PLUG, lasts=3.0))
    assert of(run, Happening.RESET, "one")
    order = [one for one in helps_for(run, "one") if one.kind == "start order"]
    assert [one.cured for one in order] == [True]


def test_an_anti_spark_plug_and_a_clamp_keep_a_spike_away() -> None:
    made = plan(devices=[device("cam", "pack-rail", 0.2, nominal_v=12, min_v=9, max_v=24, boot_s=0.5)], filters=[{**BULK, "farad": 47e-6}])  # fmt: skip
    run = run_scenario(made, find_scenario(made, "plug-in"))
    tried = {(one.kind, one.rail): one for one in helps_for(run, "cam")}
    assert {one.kind for one in tried.values() if one.cured} == {"anti-spark", "clamp"}
    assert tried["clamp", "pack-rail"].value == pytest.approx(16.8 + 0.3 * (24 - 16.8))
    assert tried["clamp", "pack-rail"].most_v < 24


# --- figures and words ------------------------------------------------------------------------------------------------


def test_a_stretch_is_as_long_as_its_steps() -> None:
    times = np.array([0.0, 1.0, 1.5, 3.0])
    assert lasting(times, np.array([False, True, False, True])) == pytest.approx(2.5)
    assert lasting(times, np.zeros(4, bool)) == 0.0


@pytest.mark.parametrize("state", ["full", "nominal", "low"])
def test_charge_left_is_what_is_there_at_the_mean_current(state: PackState) -> None:
    """Two amps of 3 Ah: ninety minutes of a full pack, less the one that went; a fifth of that of a low one."""
    made = plan(devices=[device("lamp", "pack-rail", 2, max_v=20, nominal_v=12)])
    found = report(run_scenario(made, scenario(lasts=60, begins="bench", pack_state=state)))
    assert found.charge_ah == pytest.approx(2 / 60, rel=0.01)
    share = charge_left_frac("lipo", made.pack.rest_v(state) / made.pack.series)
    assert (share == 1) == (state == "full")
    assert found.left_min == pytest.approx(90 * share - 1, rel=0.02)
    idle = report(run_scenario(plan(), scenario(lasts=1, begins="bench")))
    assert idle.left_min is None


def test_every_act_and_every_switch_has_its_words() -> None:
    made = plan(
        rails=[rail("r", 5)], supplies=[regulator("bec", "buck", "pack-rail", "r", 5.0)], devices=[device("cam", "r", 0.2, unit="W", law="power")],
        inlets=[{"id": "usb", "name": "USB port", "kind": "usb", "rail": "r"}],
    )  # fmt: skip
    acts: list[tuple[dict[str, object], str]] = [
        ({"act": "plug", "anti_spark_ohm": 10, "bounces": 2}, "pack in through 10.0 Ω, bounces 2 times"),
        ({"act": "unplug"}, "pack out"),
        ({"act": "connect", "inlet": "usb"}, "USB port in"),
        ({"act": "disconnect", "inlet": "usb"}, "USB port out"),
        ({"act": "throttle", "to_frac": 0.35, "over_s": 0.2}, "throttle to 35 % over 200 ms"),
        ({"act": "brake"}, "brake for 150 ms"),
        ({"act": "state", "device": "cam", "state": "off"}, "Cam: off"),
        ({"act": "draw", "device": "cam", "value": 3}, "Cam draws 3.00 W"),
        ({"act": "fail", "element": "bec", "how": "short"}, "bec fails short"),
    ]
    made_acts = scenario(*({**act, "at_s": 0.0} for act, _ in acts), lasts=1.0).acts
    assert len({type(one) for one in made_acts}) == 9
    for one, (_, words) in zip(made_acts, acts, strict=True):
        assert act_words(made, one) == words
    assert set(CODES) == set(Happening)
    assert (
        event_words(made, Happening.LOOPS, "cam", 0.0065, 72)
        == "Cam boots and resets over and over, every 6.50 ms, 72 rounds not drawn"
    )
    assert (seconds(0.0065), seconds(90), seconds(150)) == ("6.50 ms", "90.0 s", "2.5 min")


def test_nothing_within_the_bands_means_nothing_resets() -> None:
    made = plan(devices=[device("lamp", "pack-rail", 0.5, max_v=20, nominal_v=12, min_v=8)])
    found = chances(made, scenario(PLUG, lasts=0.05), samples=8)
    assert (found.stuck, [one.chance_frac for one in found.devices]) == (0, [0.0])


# --- contacts ---------------------------------------------------------------------------------------------------------

USB_IN: dict[str, object] = {"act": "connect", "inlet": "usb", "at_s": 0.01}
ORDERS: dict[str, list[dict[str, object]]] = {
    "pack in at once": [{"act": "plug", "at_s": 0}],
    "pack bounces in": [{"act": "plug", "at_s": 0.01, "bounces": 3}, {"act": "unplug", "at_s": 0.5}],
    "USB, pack, USB out": [USB_IN, {"act": "plug", "at_s": 0.3}, {"act": "disconnect", "inlet": "usb", "at_s": 0.6}],
    "USB, pack, pack out": [USB_IN, {"act": "plug", "at_s": 0.3}, {"act": "unplug", "at_s": 0.6}],
    "USB, pack, USB": [USB_IN, {"act": "disconnect", "inlet": "usb", "at_s": 0.2}, {"act": "plug", "at_s": 0.3}, {"act": "unplug", "at_s": 0.5}, {**USB_IN, "at_s": 0.7}],
    "USB in and out": [USB_IN, {"act": "disconnect", "inlet": "usb", "at_s": 0.4}],
}  # fmt: skip


@pytest.mark.parametrize("name", [name.removesuffix(".json") for one in demo.DEMOS for name in one.files])
@pytest.mark.parametrize("order", ORDERS)
def test_no_everyday_order_of_contacts_is_stuck_or_lifts_a_rail_out_of_what_feeds_it(order: str, name: str) -> None:
    """A rail rings to twice what feeds it at most, and what nothing feeds stays where its board's ground is: within a diode of it."""
    made = demo.plan(name)
    usb = next(one.id for one in made.inlets if one.kind == "usb")  # every demo build has one
    acts = [{**act, "inlet": usb} if "inlet" in act else act for act in ORDERS[order]]
    own = scenario(*acts, lasts=1.0)
    run = run_scenario(made.model_copy(update={"scenarios": (own,)}), own)
    assert run.stuck_s is None
    for one in made.rails:
        volts = run.rail_v(one.id)
        assert -1.0 < volts.min() <= volts.max() < 2.2 * made.pack.rest_v("full"), one.name
    if all("inlet" not in act for act in acts):
        assert abs(run.rail_v(made.inlet_of[usb].rail)).max() < 0.5


@pytest.mark.parametrize(("element", "how"), [("sender", "open"), ("computer", "open"), ("buck-5v", "open"), ("buck-12v", "short")])  # fmt: skip
def test_what_fails_while_it_carries_amps_leaves_its_rail_where_it_was(element: str, how: str) -> None:
    made = demo.plan("marshlight-as-soldered")
    own = scenario({"act": "fail", "element": element, "how": how, "at_s": 0.01}, lasts=0.1, begins="hover")
    run = run_scenario(made, own)
    assert run.stuck_s is None
    before = run.rail_v("pack-rail")[run.times_s < 0.01].max()
    for one in made.rails:
        assert -0.3 < run.rail_v(one.id).min() <= run.rail_v(one.id).max() < before + 2.0, one.name
