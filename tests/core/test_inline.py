"""What reacts in line with a wire, in time: fuses by their I²t, NTCs by their heat, the resistor of an anti-spark plug."""

import math
from typing import Any

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests.plans import device, plan
from tests.reference.test_runs import BULK, PLUG, scenario
from yardmeter.core.checks.running import RunCase, fuses
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.fixes.helps import helps_for
from yardmeter.core.physics.inline import MELTS_FRAC, fuse_s, ntc_ohm, ntc_settled_c, ntc_temp_c, ntc_w_k
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
    heat = (float(run.pack_a.max()) / 5) ** 2
    tau = 50 / (1.35**2 * 25)
    assert melting(run) == [pytest.approx(tau * math.log(heat / (heat - 1.35**2)), rel=5e-3)]
    assert run.pack_a[-1] < 1e-3
    if amps == 60:  # a short leaves it no time to cool: its I²t
        assert melting(run)[0] * run.pack_a.max() ** 2 == pytest.approx(50, rel=0.02)


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
    run = run_scenario(with_lead(NTC, ohm=0.06, limit=8, devices=[resistor(6)]), scenario(PLUG, lasts=20))
    s = run.moving.circuit.series
    fixed, slow = float(s.ohm[0].sum()) - 0.06 + 16.8 / 6, float(s.lag_ohm[0].sum())
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
        with_lead(inline, ohm=ohm, limit=limit)  # type: ignore[arg-type]


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
