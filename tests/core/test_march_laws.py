"""The laws the march compiles against those the operating point is solved with, and what only the march has."""

from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from tests.plans import device, plan, rail, regulator
from tests.reference.test_runs import BULK, PLUG, scenario
from yardmeter import demo
from yardmeter.core.elements.motor import given_back
from yardmeter.core.elements.regulator import MIN_INPUT_V, loss_law, most_law
from yardmeter.core.runs import find_scenario, run_scenario
from yardmeter.core.runs.timetable import timetable
from yardmeter.core.solver.circuit import Converters, Loads
from yardmeter.core.solver.laws import converter_input, load_current
from yardmeter.core.solver.transient.currents import (
    _input,
    ask,
    asked_at,
    consumer_law,
    fill_slots,
    flow,
    share_of,
)
from yardmeter.core.solver.transient.loops import Loops, Slow
from yardmeter.core.solver.transient.marching import Marching
from yardmeter.core.solver.transient.order import factor, new_factors, order_of_ends, solve
from yardmeter.core.solver.transient.packed import CONSUMER, CONVERTER
from yardmeter.core.solver.transient.trace import Event, Happening

VOLTS = [-3.0, -0.1, 0.0, 0.4, 2.0, 2.9999, 3.0, 3.0001, 7.0, 30.0]


def record(of: np.dtype[Any], /, **fields: Any) -> Any:
    made = np.zeros(1, of)
    for name, value in fields.items():
        made[name] = value
    return made[0]


# --- consumers --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("law", "value"), [(0, 1.5), (1, 6.0), (2, 12.0), (3, 4.0)])
def test_a_consumers_law_is_that_of_the_operating_point(law: int, value: float) -> None:
    one = record(CONSUMER, law=law, knee_v=3.0)
    ends = np.zeros(1, np.int64)
    for volts in VOLTS:
        loads = Loads(ends, ends, np.array([law]), np.array([[value]]), np.array([3.0]))
        amps, slope = load_current(loads, np.array([[volts]]))
        assert consumer_law(one, value, volts, 1.0) == pytest.approx((amps[0, 0], slope[0, 0])), volts


def test_motors_give_back_until_their_rail_takes_no_more() -> None:
    assert consumer_law(record(CONSUMER, law=0, knee_v=3.0), -8.0, 1.0, 1.0) == (-8.0, 0.0)
    found = [given_back(-8.0, volts, 20.0) for volts in (15.0, 19.0, 19.5, 20.0, 21.0)]
    assert [amps for amps, _ in found] == pytest.approx([-8, -8, -4, 0, 0])
    assert [slope for _, slope in found] == pytest.approx([0, 0, 8, 0, 0])


def test_a_lamp_is_its_filament_and_off_what_asks_nothing() -> None:
    lamp = record(CONSUMER, law=4, knee_v=12.0, lamp_a=2.0)
    assert consumer_law(lamp, 2.0, 6.0, 1.5) == pytest.approx((4.0, 1 / 1.5))
    assert consumer_law(lamp, 0.0, 6.0, 1.5) == (0.0, 0.0)
    assert consumer_law(record(CONSUMER, law=2), np.inf, 6.0, 1.0)[0] == pytest.approx(0, abs=1e-20)


def test_a_device_asks_by_its_mode_and_a_ramp_in_a_straight_line() -> None:
    fields = {"off": 0.1, "boot": 0.7, "from_value": 2.0, "to_value": 4.0, "from_s": 1.0, "to_s": 3.0}
    own = {mode: record(CONSUMER, machine=True, mode=mode, **fields) for mode in (0, 1, 2)}
    assert [asked_at(own[0], 2.0), asked_at(own[1], 2.0)] == [0.1, 0.7]
    assert [asked_at(own[2], t) for t in (0.0, 1.0, 1.5, 2.5, 3.0, 9.0)] == pytest.approx([2, 2, 2.5, 3.5, 4, 4])
    assert asked_at(record(CONSUMER, mode=0, **fields), 2.0) == 3.0, "a lamp has no modes"


def test_what_is_switched_by_its_ohms_comes_and_goes_by_its_siemens() -> None:
    """From nothing to 4 Ω in four seconds: a quarter of the siemens after one, all of them at the end; and the way back."""
    comes = record(CONSUMER, from_value=np.inf, to_value=4.0, from_s=1.0, to_s=5.0)
    goes = record(CONSUMER, from_value=4.0, to_value=np.inf, from_s=1.0, to_s=5.0)
    assert [1 / asked_at(comes, t) for t in (1.0, 2.0, 3.0, 5.0)] == pytest.approx([0, 1 / 16, 1 / 8, 1 / 4])
    assert [1 / asked_at(goes, t) for t in (1.0, 2.0, 3.0, 5.0)] == pytest.approx([1 / 4, 3 / 16, 1 / 8, 0])


def test_a_lag_follows_by_its_share() -> None:
    assert [share_of(1e-3, 0.0), share_of(1e-3, 1e-3), share_of(1e-3, 3e-3)] == pytest.approx([1, 0.5, 0.25])


# --- converters -------------------------------------------------------------------------------------------------------

BUCK = {"k1_v": 0.4, "k2_ohm": 0.1, "drop_v": 0.1, "drop_ohm": 0.2, "quiescent_a": 0.01, "ceil_gain": 1.0, "set_v": 5.0}


def as_converters(kind: int, **more: Any) -> Converters:
    one = {
        name: np.array([[value]]) for name, value in {"out_ohm": 0.01, "limit_a": 9.0, "stop_v": 0.0, **BUCK}.items()
    }
    ends, no = np.zeros(1, np.int64), np.zeros(1, bool)
    return Converters(inp=ends, out=ends, gnd=ends, kind=np.array([kind]), passes=no, sinks=np.array([more.get("sinks", False)]), enabled=np.ones((1, 1), bool), gives_up=no, start_v=np.zeros(1), **one)  # fmt: skip


def test_a_switchers_loss_is_what_was_fitted_and_never_less_than_its_switch_drops() -> None:
    """0.4 I + 0.1 I² up to 3 A, where 0.1 I + 0.2 I² takes over; backwards the slope turns round."""
    for amps, watts, slope in (
        (-2.0, 1.2, -0.8),
        (0.0, 0.0, 0.4),
        (2.9, 2.001, 0.98),
        (3.1, 2.232, 1.34),
        (8.0, 13.6, 3.3),
    ):
        assert loss_law(0.4, 0.1, 0.1, 0.2, amps) == pytest.approx((watts, slope))


@pytest.mark.parametrize(("kind", "sinks"), [(0, False), (0, True), (1, False)])
def test_what_a_converter_takes_is_that_of_the_operating_point(kind: int, sinks: bool) -> None:
    one, own = as_converters(kind, sinks=sinks), record(CONVERTER, on=True, kind=kind, sinks=sinks, **BUCK)
    for vin, vo, amps in ((12.0, 5.0, 2.0), (12.0, 5.0, 0.4), (9.0, 3.0, -0.5), (20.0, 5.0, 0.0)):
        if kind == 1 and amps <= 0:
            continue  # what goes backwards through a switcher is capped, see below
        volts = [np.array([[value]]) for value in (vin, vo, amps)]
        full = converter_input(one, np.ones((1, 1), np.int64), np.ones((1, 1), bool), *volts)
        expected = (full.amps, full.by_input, full.by_output, full.by_amps)
        assert _input(own, vin, vo, amps, vin, 1.0) == pytest.approx([float(each[0, 0]) for each in expected])


def test_a_switch_passes_its_coils_current_and_no_more_and_answers_to_the_volts_that_entered() -> None:
    own = record(CONVERTER, on=True, kind=1, **BUCK)
    assert _input(own, 0.8, 5.0, 2.0, 0.8, 1.0) == pytest.approx((2.0 + 0.008, 0, 0, 1.0)), "a buck never steps up"
    boost = record(CONVERTER, on=True, kind=1, **{**BUCK, "ceil_gain": 4.0})
    assert _input(boost, 0.8, 5.0, 2.0, 0.8, 1.0)[0] == pytest.approx(8.0 + 0.008)
    loss = 0.4 * 2 + 0.1 * 4
    assert _input(own, 20.0, 5.0, 2.0, 10.0, 0.25) == pytest.approx(
        ((10 + loss) / 10 + 0.01, -(10 + loss) / 100 * 0.25, 0.2, (5 + 0.8) / 10)
    )
    low = _input(record(CONVERTER, on=True, kind=1, **{**BUCK, "ceil_gain": 1e3}), 0.1, 0.2, 1.0, 0.1, 1.0)
    assert low[:2] == pytest.approx(((0.2 + 0.5) / MIN_INPUT_V + 0.001, 0.0))
    assert _input(record(CONVERTER, on=False, kind=1, **BUCK), 12.0, 5.0, 2.0, 12.0, 1.0) == (0, 0, 0, 0)


def test_a_limit_folds_back_to_three_tenths_into_a_short() -> None:
    fold = [most_law(2.0, True, 5.0, vo) for vo in (-1.0, 0.0, 2.5, 5.0, 6.0)]
    assert [amps for amps, _ in fold] == pytest.approx([0.6, 0.6, 1.3, 2.0, 2.0])
    assert [slope for _, slope in fold] == pytest.approx([0, 0, 0.28, 0, 0])
    assert most_law(2.0, False, 5.0, 0.0) == (2.0, 0.0)


# --- what a craft has beside ------------------------------------------------------------------------------------------


def test_two_capacitors_of_a_filter_hold_twice_the_charge() -> None:
    held = {}
    for count in (1, 2):
        run = run_scenario(plan(filters=[{**BULK, "count": count}]), scenario(PLUG, lasts=0.2))
        k = next(k for key, k in run.moving.series.items() if key.role == "filter")
        held[count] = run.charge_of(k)[-1]
    assert held[2] == pytest.approx(2 * held[1], rel=1e-4)
    assert held[1] == pytest.approx(1 / run.moving.circuit.series.elastance[0, k] / 2 * run.rail_v("pack-rail")[-1], rel=1e-4)  # fmt: skip


@pytest.mark.parametrize(
    ("at", "count"),
    [((0, 1, 2, 3), 1), ((0, 1, 2, 3.05), 1), ((0, 1, 2, 3.16), 0), ((0, 1, 2.5, 4.6), 0), ((0, 1, 2), 0),
     ((0, 1, 4, 5, 8, 9, 12), 2), ((0, 1, 4, 5, 8, 9, 12.5), 0), ((0, 5, 6, 8, 11, 12, 14, 17, 18, 20, 23), 3)],
)  # fmt: skip
def test_rounds_make_a_loop_when_three_of_them_are_equal_to_a_twentieth(at: tuple[float, ...], count: int) -> None:
    """A round may have several events: then the loop is told with their mean pause, and skips whole rounds."""
    nothing = np.full((1, 1), np.inf)
    still = np.zeros((1, 1))
    machines = SimpleNamespace(
        events=[], reset_at=nothing, ready_at=nothing, begin_at=nothing, from_s=still, to_s=still,
        retry_at=nothing, blank_at=nothing, on_at=nothing, arc_at=nothing, on=np.ones((1, 1), bool),
        from_value=nothing, to_value=nothing, circuit=SimpleNamespace(converting=SimpleNamespace(soft_s=np.zeros(1))),
    )  # fmt: skip
    followed = Loops(machines, Slow(np.array([10.0]), np.array([np.inf]), np.array([np.inf])), np.zeros(1))
    found = []
    for time in at:
        machines.events.append(Event(0, time, Happening.HICCUPS, 0))
        found += followed.skips(np.array([[30.0]]), np.array([[time * 2.0]]), np.array([100.0]))
    assert len(found) == (count > 0)
    if found:
        period = at[-1] - at[-1 - count]
        rounds = int((100 - at[-1]) / period) - 1
        assert (found[0].rounds, found[0].period_s) == (rounds, pytest.approx(period))
        assert found[0].charge_c[0] == pytest.approx(2 * at[-1] + rounds * 2 * period)
        told = machines.events[-1]
        assert (told.what, told.rounds, told.period_s) == (Happening.RETRIES, rounds * count, pytest.approx(period / count))  # fmt: skip


def test_what_lifts_its_capacitor_from_try_to_try_is_no_loop_and_comes_up() -> None:
    """1 mF behind 12 V that stops at 0.65 A: each try lifts it by what 3 ms of soft start and limit give, 1.95 V, so it is up
    after six pauses and 12 V · 1 mF / 0.65 A. With 50 mA drawn it loses in each pause more than it gains, and never is."""
    made = plan(
        rails=[rail("r", 12)],
        supplies=[regulator("bec", "buck", "pack-rail", "r", 12.0, rating_a=0.5, current_limit_a=0.65, limit_style="hiccup", retry_s=0.1, efficiency=[{"amps": 1, "efficiency_frac": 0.9}])],
        filters=[{"id": "c", "name": "C", "kind": "capacitor", "at": "r", "farad": 1e-3, "rated_v": 25, "esr_ohm": 0.02}],
    )  # fmt: skip
    up = run_scenario(made, scenario({"act": "plug", "at_s": 0}, lasts=5.0))
    assert up.rail_v("r")[-1] == pytest.approx(12.0, abs=0.05)
    at_s = up.times_s[int(np.argmax(up.rail_v("r") > 11.9))]
    assert at_s == pytest.approx(6 * 0.1 + 12 * 1e-3 / 0.65, abs=4e-3)
    lamp = device("lamp", "r", 0.05, min_v=1, max_v=20, nominal_v=12, law="resistance")
    drained = made.model_copy(update={"devices": plan(rails=[rail("r", 12)], devices=[lamp]).devices})
    never = run_scenario(drained, scenario({"act": "plug", "at_s": 0}, lasts=60.0))
    assert never.rail_v("r").max() < 11
    assert never.times_s.size < 4000


def test_ramps_of_a_motor_follow_its_own_time() -> None:
    """A step of throttle: `I = I0 + (I1 − I0)(1 − exp(−t/τ))` with the motors' 30 ms."""
    motors = device("m", "pack-rail", 8, kind="motor", nominal_v=12, min_v=3, max_v=60, throttle=[{"throttle_frac": 1, "amps": 40}])  # fmt: skip
    made = plan(devices=[motors])
    run = run_scenario(made, scenario({"act": "throttle", "at_s": 0.1, "to_frac": 1}, lasts=0.4, begins="bench"))
    for after in (0.01, 0.03, 0.1):
        assert np.interp(0.1 + after, run.times_s, run.load_a("m")) == pytest.approx(40 * (1 - np.exp(-after / 0.03)), rel=0.02)  # fmt: skip


# --- the matrix -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["marshlight-second-wiring", "heathwatch-as-stacked", "culvert-lights-on", "wren-boosted-logic"])  # fmt: skip
@pytest.mark.parametrize("shift", [0.3, -30.0])
def test_the_matrix_is_the_slope_of_the_currents(name: str, shift: float) -> None:
    """Against differences, in the middle of a punch and with volts far below nothing, where every law has its other end."""
    made = demo.plan(name)
    table = timetable(made, find_scenario(made, "punch-and-brake"))
    run = Marching(table.moving.circuit, table.acts, 0.3, table.start, 1e-3, True)
    run.run()
    net, stage, dh = run.net, run.bench.first, 1e-6
    stage.held[:] = run.state.state["value"][0]
    ask(net, 0, 0.3, stage)
    rng = np.random.default_rng(2)
    at = run.state.node["volts"][0] + shift * rng.random(net.nodes)

    def missing(volts: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
        stage.node["volts"][:-1] = volts
        flow(net, 0, dh, 0.0, True, stage)
        return np.array(stage.node["missing"][:-1])

    step = 1e-6
    slopes = np.stack([(missing(at + step * one) - missing(at - step * one)) / (2 * step) for one in np.eye(net.nodes)]).T  # fmt: skip
    missing(at)
    order, factors = run.bench.order, run.bench.factors
    fill_slots(net, 0, stage, order.at, factors.slots)
    nobodys = int(order.at[-1, -1])
    matrix = np.where(order.at == nobodys, 0.0, factors.slots[order.at])[:-1, :-1]
    assert slopes == pytest.approx(matrix, abs=2e-3, rel=2e-3)
    assert factor(order, factors)
    right, found = rng.random(net.nodes), np.zeros(net.nodes + 1)
    solve(order, factors, right, found)
    assert matrix @ found[:-1] == pytest.approx(right, abs=1e-6)


@pytest.mark.parametrize("corner", [1.0, 0.0, 1e-12])
def test_a_pivot_that_is_next_to_nothing_is_gone_round(corner: float) -> None:
    """Two nodes whose own slopes nearly cancel, one against the other; NumPy's solution (LAPACK). And a matrix that has none."""
    ends = [np.array(one, np.int64) for one in ([0], [1], [], [], [], [], [])]
    order = order_of_ends(2, ends)
    factors, matrix = new_factors(order), np.array([[corner, 2.0], [3.0, corner]])

    def fill(values: np.ndarray[Any, Any]) -> None:
        for i in range(2):
            for j in range(2):
                factors.slots[order.at[i, j]] = values[i, j]

    fill(matrix)
    assert factor(order, factors)
    assert bool(factors.dense[0]) is (corner < 1)
    found = np.zeros(3)
    solve(order, factors, np.array([1.0, -2.0]), found)
    assert found[:2] == pytest.approx(np.linalg.solve(matrix, [1.0, -2.0]))
    fill(np.zeros((2, 2)))
    assert not factor(order, factors)


def test_a_limit_that_is_come_to_anew_in_each_round_is_part_of_the_round() -> None:
    """A regulator that would give up after 1 ms at its limit, and two devices that reset every 0.32 ms before that: each round sets its
    patience anew, so that rounds are skipped and none is lost."""
    lamp, cam = device("lamp", "r", 2.2, min_v=4.5), device("cam", "r", 2.0, min_v=4.5)
    own = regulator("b", "buck", "pack-rail", "r", 5.0, rating_a=4, current_limit_a=4.0, limit_style="hiccup", output_f=22e-6, soft_start_s=0.0)  # fmt: skip
    made = plan(rails=[rail("r", 5)], supplies=[own], devices=[lamp, cam])
    run = run_scenario(made, scenario({"act": "plug", "at_s": 0}, lasts=0.5))
    assert run.trace.steps < 5000
    resets = [one for one in run.events if one.code is Happening.RESET and one.element == "cam"]
    loops = [one for one in run.events if one.code is Happening.LOOPS]
    assert loops
    period = loops[0].period_s
    assert period < 1e-3
    skipped = sum(one.rounds for one in loops)
    assert len(resets) + skipped == pytest.approx(0.5 / period, rel=0.02)
    assert not [one for one in run.events if one.code is Happening.HICCUPS]
