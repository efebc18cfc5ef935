"""What reacts in line with a wire, in time: fuses by their I²t, NTCs by their heat, the resistor of an anti-spark plug."""

import math
from typing import Any

import numpy as np
import pytest

from tests.plans import device, plan, rail, regulator
from tests.reference.test_runs import BULK, PLUG, scenario
from yardmeter.core.answers.limits import wire_bound_a, wire_limits
from yardmeter.core.checks.running import RunCase, fuses
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.fixes.helps import helps_for
from yardmeter.core.physics.inline import (
    MELTS_FRAC,
    fuse_burst_frac,
    fuse_s,
    ntc_ohm,
    ntc_settled_c,
    ntc_temp_c,
    ntc_w_k,
)
from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.runs import Run, run_scenario
from yardmeter.core.runs.report import report
from yardmeter.core.runs.why import whys
from yardmeter.words.run import link_words, outcome_words

FUSE = {"kind": "fuse", "melts_a2s": 50}
NTC = {"kind": "ntc", "cold_ohm": 2.5, "cools_s": 40}


def with_lead(inline: dict[str, Any] | None, ohm: float = 0.002, limit: float = 5.0, **parts: Any) -> Plan:
    document = plan(cell_ohm=0.005, **parts).model_dump(mode="json")
    document["pack"]["lead"].update(connector_ohm=ohm, connector_limit_a=limit, inline=inline)
    return load_plan(document)


def resistor(amps: float, **fields: Any) -> dict[str, Any]:
    return device("lamp", "pack-rail", amps, law="resistance", nominal_v=16.8, min_v=1, max_v=20, **fields)


def melting(run: Run) -> list[float]:
    return [one.at_s for one in run.events if one.code == "melts"]


# --- fuses ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("amps", [7.5, 10.0, 20.0, 60.0])
def test_a_fuse_melts_when_its_closed_form_says(amps: float) -> None:
    """`t = τ ln(x / (x − 1.35²))` of a first-order heat under a constant current (textbook), from a cold fuse."""
    made = with_lead(FUSE, devices=[resistor(amps)])
    run = run_scenario(made, scenario(PLUG, lasts=20))
    steady_a = float(np.interp(1e-3, run.times_s, run.pack_a))  # after the moment in which a rail's ceramic fills
    heat = (steady_a / 5) ** 2
    tau = 50 / (1.35**2 * 25)
    assert melting(run) == [pytest.approx(tau * math.log(heat / (heat - 1.35**2)), rel=5e-3)]
    assert run.pack_a[-1] < 1e-3
    if amps == 60:  # a short leaves it no time to cool: its I²t
        assert melting(run)[0] * steady_a**2 == pytest.approx(50, rel=0.02)


def test_a_fuse_carries_a_third_over_its_print_for_ever_and_a_plugs_inrush() -> None:
    for amps, melts in ((6.7, False), (6.95, True)):
        run = run_scenario(with_lead(FUSE, devices=[resistor(amps)]), scenario(PLUG, lasts=120))
        assert bool(melting(run)) is melts, run.pack_a.max()
    run = run_scenario(with_lead(FUSE, filters=[BULK]), scenario(PLUG, lasts=0.05))
    assert run.pack_a.max() > 50
    assert not melting(run)


def test_a_fuse_that_was_warm_melts_sooner() -> None:
    """From 5 A of its print the heat stands at 1: `t = τ ln((x − 1)/(x − 1.35²))`."""
    made = with_lead(FUSE, devices=[device("load", "pack-rail", 5, nominal_v=16.8, min_v=1, max_v=20)])
    run = run_scenario(made, scenario({"act": "draw", "device": "load", "value": 10, "at_s": 0}, lasts=5, begins="bench"))  # fmt: skip
    assert melting(run) == [pytest.approx(fuse_s(5, 50) * math.log(3 / (4 - MELTS_FRAC**2)), rel=5e-3)]


def test_a_fuse_in_a_devices_wire_takes_that_device_alone_and_the_chain_says_so() -> None:
    feed = {"rail": "pack-rail", "wire": {"gauge_awg": 20, "length_m": 0.1, "connector_ohm": 0.01, "connector_limit_a": 2, "inline": {"kind": "fuse", "melts_a2s": 2}}}  # fmt: skip
    pump = device("pump", "pack-rail", 1.5, nominal_v=16.8, min_v=5, max_v=20, brownout_v=5, feed=feed)
    made = with_lead(None, devices=[pump, device("eye", "pack-rail", 0.5, nominal_v=16.8, min_v=5, max_v=20, brownout_v=5)])  # fmt: skip
    run = run_scenario(made, scenario({"act": "draw", "device": "pump", "value": 6, "at_s": 0.5}, lasts=3, begins="bench"))  # fmt: skip
    found = report(run)
    (lost,) = found.melted
    assert (lost.element, lost.rated_a) == ("pump", 2)
    assert lost.amps == pytest.approx(6, rel=0.01)
    lives = {one.id: one for one in found.devices}
    assert lives["pump"].resets_s
    assert not lives["eye"].resets_s
    assert f"fuse of Pump melts at {lost.at_s * 1e3:.0f} ms" in outcome_words(made, found)
    (why,) = whys(run)
    assert [one.kind for one in why.chain if one.kind in ("fuse", "act")] == ["act", "fuse"]
    fuse = next(one for one in why.chain if one.kind == "fuse")
    assert link_words(made, fuse, run.scenario.acts).startswith("fuse of Pump melted at 6.0")
    (verdict,) = fuses(RunCase(made, ((run.scenario, found),)))
    assert (verdict.severity, verdict.elements, verdict.compared.limit) == ("fault", ("pump",), 2)
    broken = scenario({"act": "fail", "element": "pump", "how": "short", "at_s": 0.5}, lasts=3, begins="bench")
    run = run_scenario(made, broken)
    assert report(run).melted
    assert not list(fuses(RunCase(made, ((broken, report(run)),)))), "that is what it is for"


# --- NTCs -------------------------------------------------------------------------------------------------------------


def test_an_ntcs_law_goes_through_its_three_points() -> None:
    assert ntc_ohm(2.5, 25) == pytest.approx(2.5)
    warm = ntc_temp_c(2.5, 0.06)
    assert ntc_ohm(2.5, warm) == pytest.approx(0.06)
    given = ntc_w_k(2.5, 0.06, 8)
    assert given * (warm - 25) == pytest.approx(8**2 * 0.06)
    assert ntc_settled_c(2.5, given, 8, 25) == pytest.approx(warm, abs=1e-6)
    assert ntc_settled_c(2.5, given, 0, 25) == pytest.approx(25)


def test_an_ntc_warms_as_scipy_says() -> None:
    """SciPy's `solve_ivp` of `C dT/dt = I² R(T) − δ (T − Ta)` beside the cell's own slow part."""
    from scipy.integrate import solve_ivp  # loaded by the worker that needs it, not by each that collects

    run = run_scenario(with_lead(NTC, ohm=0.06, limit=8, devices=[resistor(6)]), scenario(PLUG, lasts=20))
    s = run.moving.circuit.series
    wires_and_pack = run.moving.pack + 1
    fixed, slow = float(s.ohm[0, :wires_and_pack].sum()) - 0.06 + 16.8 / 6, float(s.lag_ohm[0].sum())
    given = ntc_w_k(2.5, 0.06, 8)

    def amps(temp_c: float, lag: float) -> float:
        return (16.8 - slow * lag) / (ntc_ohm(2.5, temp_c) + fixed)

    def law(_: float, y: np.ndarray[Any, Any]) -> list[float]:
        now = amps(y[0], y[1])
        return [(now**2 * ntc_ohm(2.5, y[0]) - given * (y[0] - 30)) / (40 * given), (now - y[1]) / 20]

    solved = solve_ivp(law, (0, 20), [30, 0], rtol=1e-8, dense_output=True)
    for at in (0.2, 0.5, 2.0, 5.0, 15.0):
        assert np.interp(at, run.times_s, run.pack_a) == pytest.approx(amps(*solved.sol(at)), rel=0.01), at


def test_an_ntc_holds_the_inrush_back_while_it_is_cold_and_not_once_it_is_warm() -> None:
    made = with_lead(NTC, ohm=0.06, limit=8, filters=[BULK], devices=[resistor(6)])
    run = run_scenario(made, scenario(PLUG, lasts=0.02))
    assert run.pack_a.max() == pytest.approx(16.8 / (2.5 * ntc_ohm(1, 30)), rel=0.06)
    warm = scenario({"act": "unplug", "at_s": 0.01}, {"act": "plug", "at_s": 0.2}, lasts=0.21, begins="bench")
    assert run_scenario(made, warm).pack_a.max() > 5 * run.pack_a.max()


@pytest.mark.parametrize(
    ("inline", "ohm", "limit", "told"),
    [(FUSE, 0.002, None, "connector_limit_a"), (NTC, 0.0, 8, "connector_ohm"), (NTC, 2.5, 8, "below its 2.5"), (NTC, 0.06, None, "connector_limit_a")],
)  # fmt: skip
def test_what_is_in_line_needs_its_numbers(inline: dict[str, Any], ohm: float, limit: float | None, told: str) -> None:
    with pytest.raises(YardError, match=told):
        with_lead(inline, ohm=ohm, limit=limit)


# --- anti-spark plugs -------------------------------------------------------------------------------------------------


def test_the_packs_own_plug_is_used_where_the_act_names_no_resistor() -> None:
    made = with_lead({"kind": "spark", "ohm": 5.6, "for_s": 2e-3}, limit=60, filters=[BULK])
    first = {name: run_scenario(made, scenario({**PLUG, **own}, lasts=1e-3)).pack_a.max() for name, own in (("own", {}), ("none", {"anti_spark_ohm": 0}), ("act", {"anti_spark_ohm": 2.0}))}  # fmt: skip
    assert first["own"] == pytest.approx(16.8 / 5.6, rel=0.06)
    assert first["act"] == pytest.approx(16.8 / 2.0, rel=0.1)
    assert first["none"] > 50
    late = run_scenario(made, scenario(PLUG, lasts=4e-3))
    assert late.times_s[int(late.pack_a.argmax())] == pytest.approx(2e-3, abs=3e-4)


def test_an_anti_spark_plug_that_helps_becomes_the_builds() -> None:
    camera = device("eye", "pack-rail", 0.2, nominal_v=16.8, min_v=5, max_v=17.5, input_f=22e-6)
    camera["feed"]["wire"] = {"gauge_awg": 24, "length_m": 0.4}
    made = with_lead(None, limit=60, devices=[camera])
    run = run_scenario(made, scenario(PLUG, lasts=5e-3))
    helped = next(one for one in helps_for(run, "eye") if one.kind == "anti-spark" and one.cured)
    after = apply_edits(made, helped.edits)
    assert after.pack.lead.inline is not None
    assert after.pack.lead.inline.kind == "spark"
    assert after.scenarios == made.scenarios
    again = run_scenario(after, scenario(PLUG, lasts=5e-3))
    assert next(one for one in report(again).devices if one.id == "eye").over_s == 0


# --- budgets ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("melts", "factor"), [(50, 1.0), (5000, 1.6), (500, 1.0 / math.sqrt(1 - math.exp(-10 / fuse_s(5, 500))))])  # fmt: skip
def test_a_fuse_is_no_contact_that_stands_more_for_a_punch(melts: float, factor: float) -> None:
    """A quick one carries its print for ten seconds and no more: at 1.6 times it, it would melt within two."""
    made = with_lead({**FUSE, "melts_a2s": melts}, devices=[resistor(4)])
    punch = next(one for one in made.conditions if one.is_punch)
    (limit,) = [one for one in wire_limits(made, made.pack.lead, "lead", punch, "pack") if one.kind == "connector"]
    assert limit.amps_a == pytest.approx(5 * factor, rel=1e-3)
    assert fuse_burst_frac(5, melts, 1e9) == pytest.approx(1.0)
    still = wire_limits(made, made.pack.lead, "lead", made.conditions[0], "pack")
    assert next(one.amps_a for one in still if one.kind == "connector") == 5


def test_an_ntc_stands_no_more_for_a_punch_and_a_bare_connector_does() -> None:
    for inline, factor in ((NTC, 1.0), (None, 1.6)):
        made = with_lead(inline, ohm=0.06, limit=8, devices=[resistor(4)])
        punch = next(one for one in made.conditions if one.is_punch)
        assert wire_bound_a(made, made.pack.lead, punch) == pytest.approx(8 * factor)


def test_an_anti_spark_contact_elsewhere_is_refused_with_its_place() -> None:
    feed = {"rail": "pack-rail", "wire": {"inline": {"kind": "spark", "ohm": 5.6}}}
    with pytest.raises(YardError, match="“lamp” has an anti-spark contact"):
        with_lead(None, devices=[resistor(1, feed=feed)])


# --- loops ------------------------------------------------------------------------------------------------------------


def hiccuping(amps: float, **lead: Any) -> Plan:
    """A regulator that gives up 1.2 ms after each start and tries again after as long: a fuse sees some half of its amps."""
    weak = regulator("bec", "linear", "pack-rail", "five", 5.0, rating_a=9, current_limit_a=amps, limit_style="hiccup", retry_s=1.2e-3, soft_start_s=1e-6, theta_still_k_w=0.01, output_f=1e-6)  # fmt: skip
    load = device("load", "five", 30, law="resistance", min_v=0.5, brownout_v=0.4)
    return with_lead(lead or None, rails=[rail("five", 5)], supplies=[weak], devices=[load])


def test_a_fuse_melts_in_a_loop_whose_rounds_are_skipped(monkeypatch: pytest.MonkeyPatch) -> None:
    """Against every round run; its heat goes on through the rounds that are not."""
    for amps, melts, lasts_s in ((8.5, False, 0.8), (12.0, True, 2.0)):
        made, own = hiccuping(amps, **FUSE), scenario(PLUG, lasts=lasts_s)
        run = run_scenario(made, own)
        with monkeypatch.context() as patch:
            patch.setattr("yardmeter.core.solver.transient.loops.ROUNDS", 10**6)
            whole = run_scenario(made, own)
        assert run.trace.steps < whole.trace.steps / 3
        assert bool(melting(whole)) is melts
        assert melting(run) == [pytest.approx(at, rel=0.02) for at in melting(whole)]


def test_an_ntc_warms_through_skipped_rounds_as_through_those_that_are_run(monkeypatch: pytest.MonkeyPatch) -> None:
    """It shapes the loop, so that it is looked at again before it has moved far: what it drops falls alike."""
    cold = hiccuping(3.0).model_dump(mode="json")
    cold["pack"]["lead"].update(connector_ohm=0.06, connector_limit_a=8, inline={**NTC, "cools_s": 4})
    made, own = load_plan(cold), scenario(PLUG, lasts=1.7)
    run = run_scenario(made, own)
    monkeypatch.setattr("yardmeter.core.solver.transient.loops.ROUNDS", 10**6)
    whole = run_scenario(made, own)

    def ohm(of: Run, since_s: float) -> float:
        loaded = (of.times_s > since_s) & (of.times_s < since_s + 0.2) & (of.pack_a > 1)
        return float(np.median((16.8 - of.rail_v("pack-rail"))[loaded] / of.pack_a[loaded]))

    assert run.trace.steps < 0.8 * whole.trace.steps
    for since in (0.1, 0.7, 1.4):
        assert ohm(run, since) == pytest.approx(ohm(whole, since), rel=0.05), since
    assert ohm(whole, 1.4) < 0.75 * ohm(whole, 0.1)
