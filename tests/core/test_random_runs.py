"""Runs of builds nobody thought of, in orders nobody meant: no way out of what feeds a rail, nothing made from nothing, none stuck."""

from __future__ import annotations

import random
from typing import Any

import numpy as np
import pytest

from tests.balance import check_run
from tests.builds import random_build
from tests.plans import STILL, device, plan, rail, regulator
from tools.random_orders import random_order
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.runs import Run, run_scenario
from yardmeter.core.runs.report import lasting

BELOW_V, RINGS_S, RISES = -1.6, 1e-5, 2.2
"""Below its ground by more than body diodes let it be a rail is for as long as a lead rings; a step doubles what feeds it at most."""
FOUND = (22, 41, 60, 77, 92, 105, 111, 118, 141, 142)
"""Orders that were wrong once: arcs of a pack that was out, motors whose amps went on without volts, pins that hung in the air."""


def check_span(run: Run) -> None:
    plan = run.plan
    top_v = max(plan.pack.rest_v("full"), *(one.volts for one in plan.inlets if one.is_port), 0.0)
    for one in plan.rails:
        volts = run.rail_v(one.id)
        assert volts.max() < RISES * top_v, f"{one.name} rises to {volts.max():.1f} V"
        below_s = lasting(run.times_s, volts < BELOW_V)
        assert below_s < RINGS_S, f"{one.name} is at {volts.min():.2f} V, below {BELOW_V} V for {below_s * 1e6:.1f} µs"


@pytest.mark.parametrize("seed", [*FOUND, *random.Random(29).sample(range(200, 4000), 26)])
def test_a_random_order_on_a_random_build(seed: int) -> None:
    """400 of these were run (seeds 0 to 399), 160 with straps and limiters; ten that were wrong once and another 26 stay."""
    made = random_build(seed % 160)
    run = run_scenario(made, random_order(made, seed, straps=seed not in FOUND))
    assert run.stuck_s is None
    check_run(run)
    check_span(run)


# --- what a hand does at the plug -------------------------------------------------------------------------------------


def held(*acts: dict[str, Any], begins: str | None = "bench", lasts: float = 0.05, **parts: Any) -> Run:
    """A lamp of 4 Ω on the pack, and what is done to it."""
    lamp = device("lamp", "pack-rail", 4.2, law="resistance", nominal_v=16.8, min_v=1, max_v=20)
    made = plan(devices=[lamp, *parts.pop("devices", [])], conditions=[STILL], **parts)
    own = Scenario.model_validate({"id": "s", "name": "S", "begins": begins, "duration_s": lasts, "acts": acts})
    return run_scenario(made, own)


def amps_at(run: Run, time_s: float) -> float:
    return float(run.pack_a[run.at(time_s)])


def test_what_is_out_draws_no_arc_when_it_is_pulled_again() -> None:
    run = held({"act": "unplug", "at_s": 0.01}, {"act": "unplug", "at_s": 0.02})
    assert amps_at(run, 0.0199) == pytest.approx(0.0, abs=1e-4)
    assert np.abs(run.pack_a[run.times_s > 0.0199]).max() < 1e-4
    never = held({"act": "unplug", "at_s": 0.02}, begins=None)
    assert np.abs(never.pack_a).max() < 1e-4


def test_a_pack_pulled_while_it_bounces_or_has_its_resistor_stays_out() -> None:
    for plug in ({"bounces": 5}, {"anti_spark_ohm": 4.7, "anti_spark_s": 0.02}):
        run = held({"act": "plug", "at_s": 0.001, **plug}, {"act": "unplug", "at_s": 0.0045}, begins=None)
        assert amps_at(run, 0.002) > 1.0
        assert np.abs(run.pack_a[run.times_s > 0.005]).max() < 1e-4, plug


def test_a_pack_put_back_while_its_arc_still_burns_is_in() -> None:
    """An arc goes through its three parts in 150 µs."""
    run = held({"act": "unplug", "at_s": 0.01}, {"act": "plug", "at_s": 0.01008})
    assert amps_at(run, 0.049) == pytest.approx(amps_at(run, 0.009), rel=1e-3)


def test_a_pack_that_is_in_has_its_resistor_behind_it_and_can_come_loose() -> None:
    run = held({"act": "plug", "at_s": 0.01, "anti_spark_ohm": 4.7, "anti_spark_s": 0.02, "bounces": 1})
    assert amps_at(run, 0.011) == pytest.approx(amps_at(run, 0.009), rel=1e-3)
    assert amps_at(run, 0.0135) == pytest.approx(0.0, abs=1e-4), "2 ms after it begins to bounce, for 2 ms"
    assert amps_at(run, 0.015) == pytest.approx(amps_at(run, 0.009), rel=5e-3)


# --- what has no volts ------------------------------------------------------------------------------------------------


def test_motors_draw_by_the_volts_that_are_there() -> None:
    """Pulled at 100 A: half their nominal volts is where their amps begin to go down with the volts, at once and not 30 ms later."""
    motors = device("m", "pack-rail", 0.5, kind="motor", nominal_v=14.8, min_v=6, max_v=20, input_f=1e-3, throttle=[{"throttle_frac": 1, "amps": 100}])  # fmt: skip
    punch = {**STILL, "throttle_frac": 1.0, "id": "punch"}
    made = plan(devices=[motors], conditions=[punch], cell_ohm=0.003)
    own = Scenario.model_validate(
        {"id": "s", "name": "S", "begins": "punch", "duration_s": 0.06, "acts": [{"act": "unplug", "at_s": 0.01}]}
    )
    run = run_scenario(made, own)
    pin, amps, late = run.pin_v("m"), run.load_a("m"), run.times_s > 0.0102
    check_span(run)
    assert pin.min() > -0.1
    bends = np.minimum(pin[late] / 7.4, 1.0)
    asked = run.trace.column("asked")[late, run.moving.consumer["m"]]
    still = (pin[late] > 0.5) & (asked == 100)
    assert still.sum() > 3
    assert amps[late][still] == pytest.approx(100 * bends[still], rel=0.01)


@pytest.mark.parametrize(("amps", "min_v"), [(0.08, 3.3), (0.045, 4.5), (0.3, 4.5)])
def test_a_wire_that_breaks_leaves_its_device_at_nothing(amps: float, min_v: float) -> None:
    """A pin without any capacitor of the plan's: the arc comes to where its law bends, and then nothing holds it up."""
    made = _small(amps, min_v)
    own = Scenario.model_validate(
        {"id": "s", "name": "S", "begins": "bench", "duration_s": 0.1, "acts": [{"act": "fail", "at_s": 0.02, "element": "d", "how": "open"}]}
    )  # fmt: skip
    run = run_scenario(made, own)
    assert run.stuck_s is None
    check_run(run)
    assert abs(run.pin_v("d")[-1]) < 0.01
    assert run.pin_v("d").min() > -0.2


def _small(amps: float, min_v: float) -> Plan:
    bec = regulator("bec", "linear", "pack-rail", "r", 5.0)
    return plan(devices=[device("d", "r", amps, min_v=min_v)], rails=[rail("r", 5)], supplies=[bec], conditions=[STILL])


def test_a_regulator_that_stops_leaves_no_volts_from_nowhere() -> None:
    """5 A end at once beside a capacitor on leads: its kick goes through the ceramic's half ohm, and is no −17 V of one step."""
    from tests.reference.test_runs import PLUG, chattering, scenario

    run = run_scenario(chattering(13.5), scenario(PLUG, lasts=0.003))
    after = run.times_s > 0.0016
    kick_v = 5.0 * 0.5
    volts = run.supply_in_v("ldo")[after]
    assert 13.5 - kick_v < volts.min() <= volts.max() < 13.5 + 1.1 * kick_v
    check_span(run)
