"""Wires, contacts, diodes and ports at every moment of a run: warmth against closed forms, surges by hand, each edge from both sides."""

from __future__ import annotations

import numpy as np
import pytest

from tests.plans import STILL, device, plan
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.running import RunCase
from yardmeter.core.checks.running_copper import heat_weight
from yardmeter.core.checks.steady import Steady
from yardmeter.core.physics.conductors import wire_burst_limit_a, wire_limit_a, wire_time_constant_s
from yardmeter.core.plan import Plan
from yardmeter.core.plan.scenarios import PartFails, Scenario
from yardmeter.core.runs import run_scenario
from yardmeter.core.runs.copper import CONTACT_RISE_K, surge_a2s, warming
from yardmeter.core.runs.report import Report, Warm, report
from yardmeter.core.verdict import Verdict
from yardmeter.words.told import tell

MARSH = demo.plan("marshlight-as-soldered")


def test_a_wire_warms_as_its_time_constant_says() -> None:
    """`ΔT (1 − exp(−t/τ))` whatever the steps, and the burst limit of a wire is what brings it to its rise in that time."""
    times = np.array([0.0, 0.1, 0.1, 3.0, 7.5, 40.0])
    assert warming(times, np.full(6, 80.0), 5.0, warm=False) == pytest.approx(80 * (1 - np.exp(-times / 5.0)))
    assert warming(times, np.full(6, 80.0), 5.0, warm=True) == pytest.approx(np.full(6, 80.0))
    burst_a, limit_a = wire_burst_limit_a(20, 7.0), wire_limit_a(20)
    held = np.linspace(0, 7, 50)
    rise = warming(held, np.full(50, 60 * (burst_a / limit_a) ** 2), wire_time_constant_s(20), warm=False)
    assert rise[-1] == pytest.approx(60.0)


def short(
    gauge: int, act_s: float = 0.1, *, acts: bool = True, connector_a: float | None = None
) -> tuple[Plan, Scenario]:
    """A device on the pack behind thin wires that fails short."""
    wire = {"gauge_awg": gauge, "length_m": 0.5, "connector_limit_a": connector_a}
    load = device(
        "d",
        "pack-rail",
        0.5,
        nominal_v=14.8,
        min_v=6,
        max_v=20,
        feed={"rail": "pack-rail", "wire": wire},
        returns=[{"id": "g", "to": "main", "wire": wire}],
    )
    made = plan(devices=[load], conditions=[STILL])
    fails = (PartFails(at_s=act_s, element="d", how="short"),) if acts else ()
    return made, Scenario(id="s", name="Short", begins=made.conditions[0].id, duration_s=1.0, acts=fails)


def wires_of(made: Plan, scenario: Scenario) -> tuple[list[Verdict], Report]:
    one = report(run_scenario(made, scenario))
    made = made.model_copy(update={"scenarios": (scenario,)})
    return [v for v in run_rules(RunCase(made, ((scenario, one),)), "runs") if v.code == "run.wire"], one


def test_a_short_through_a_thin_wire_is_told_as_warm_as_it_gets() -> None:
    """Against SciPy's integration of the same balance with the amps of the run."""
    from scipy.integrate import solve_ivp  # loaded by the worker that needs it, not by each that collects

    made, scenario = short(22)
    run = run_scenario(made, scenario)
    (found,), _ = wires_of(made, scenario)
    keys = [one.key for one in run.moving.table.conductors]
    amps = np.abs(run.series_a(next(k for k, one in enumerate(keys) if one.role == "feed")))
    tau, limit = wire_time_constant_s(22), wire_limit_a(22, made.policy.wire_rise_k)

    def change(t: float, rise: np.ndarray) -> np.ndarray:
        return (made.policy.wire_rise_k * (np.interp(t, run.times_s, amps) / limit) ** 2 - rise) / tau

    first = made.policy.wire_rise_k * (amps[0] / limit) ** 2
    solved = solve_ivp(change, (float(run.times_s[0]), 1.0), [first], max_step=1e-3, rtol=1e-6)
    assert found.compared.observed == pytest.approx(solved.y[0].max(), rel=0.02)
    assert found.compared.limit == made.policy.wire_rise_k
    assert found.elements == ("d",)
    assert found.severity == heat_weight(found.compared.observed / found.compared.limit)
    told = tell(made.model_copy(update={"scenarios": (scenario,)}), found)
    assert "wire warms by" in told.title
    thick, _ = wires_of(*short(8))
    assert not thick
    calm, one = wires_of(*short(22, acts=False))
    assert not calm
    assert all(wire.warm is None for wire in one.wires)


@pytest.mark.parametrize(("share", "weight"), [(1.2, "caution"), (1.22, "fault"), (3.0, "fault"), (3.01, "danger")])
def test_what_a_rise_weighs(share: float, weight: str) -> None:
    assert heat_weight(share) == weight


def test_contacts_stand_their_burst_for_as_long_as_a_punch() -> None:
    """Made so: at `connector_burst_frac` times the print they reach what they are allowed when a punch ends."""
    made, _ = short(4)
    policy = made.policy
    tau = -policy.punch_s / np.log(1 - 1 / policy.connector_burst_frac**2)
    steady = np.full(200, CONTACT_RISE_K * policy.connector_burst_frac**2)
    assert warming(np.linspace(0, policy.punch_s, 200), steady, tau, warm=False)[-1] == pytest.approx(CONTACT_RISE_K)
    told, one = wires_of(*short(8, connector_a=9.0))
    assert [v.facts.of for v in told] == ["connector"]  # type: ignore[attr-defined]
    assert [w.warm and w.warm.of for w in one.wires if w.element in ("d", "g")] == ["connector", "connector"]


def test_over_for_most_of_a_scenario_is_left_to_a_condition_that_tells_it() -> None:
    """Half of it is the edge; nothing is left where the condition tells nothing, or something fails."""
    made, scenario = short(22, acts=False)
    _, one = wires_of(made, scenario)
    hot = plan(devices=[device("d", "pack-rail", 60, nominal_v=14.8, min_v=6, max_v=20)], conditions=[STILL])
    failing = scenario.model_copy(update={"acts": (PartFails(at_s=0.0, element="d", how="short"),)})
    for own, conditions, over_s, told in (
        (scenario, hot, 0.49, 1),
        (scenario, hot, 0.51, 0),
        (scenario, made, 0.51, 1),
        (failing, hot, 0.51, 1),
    ):
        warm = Warm(of="wire", rise_k=61.0, allowed_k=60.0, at_s=0.3, over_s=over_s)
        wires = tuple(
            w.model_copy(update={"warm": warm if (w.role, w.element) == ("feed", "d") else None}) for w in one.wires
        )
        seen = ((own, one.model_copy(update={"wires": wires})),)
        case = RunCase(made.model_copy(update={"scenarios": (own,)}), seen, Steady(solve_plan(conditions)))
        assert len([v for v in run_rules(case, "runs") if v.code == "run.wire"]) == told


def test_a_surge_is_what_passes_beyond_the_print() -> None:
    """By hand: 100 A for 1 ms through 3 A are 9.99 A²s."""
    times = np.array([0.0, 1e-3, 2e-3, 3e-3])
    assert surge_a2s(times, np.array([0.0, 100.0, 2.0, 3.0]), 3.0) == pytest.approx(9.991e-0, rel=1e-4)


def changed(code: str, element: str, **life: float) -> list[Verdict]:
    """What is told of a plan's own run with the life of one supply changed."""
    found = demo.plan("marshlight-second-wiring")
    from yardmeter.core.runs.shipped import find_scenario

    scenario = find_scenario(found, "usb-then-pack")
    one = report(run_scenario(found, scenario))
    assert any(own.id == element for own in one.supplies)
    supplies = tuple(own.model_copy(update=life) if own.id == element else own for own in one.supplies)
    case = RunCase(found, ((scenario, one.model_copy(update={"supplies": supplies})),), Steady(solve_plan(found)))
    return [v for v in run_rules(case, "runs") if v.code == code]


def test_edges_of_diodes_and_ports() -> None:
    """A diode of I stands (20 I)² · 8.3 ms / 2; a port 10 ms at its limit."""
    made = demo.plan("marshlight-second-wiring")
    diode = next(one for one in made.supplies if one.kind == "diode")
    port = next(one for one in made.inlets if one.kind == "usb")
    stands = (20 * float(diode.rating_a or 0)) ** 2 * 8.3e-3 / 2
    assert not changed("run.diode", diode.id, surge_a2s=stands * 0.999)
    (over,) = changed("run.diode", diode.id, surge_a2s=stands * 1.001)
    assert (over.severity, over.compared.limit) == ("fault", pytest.approx(stands))
    assert not changed("run.port", port.id, limits_s=0.0099)
    assert [v.severity for v in changed("run.port", port.id, limits_s=0.0101)] == ["caution"]
    assert [v.severity for v in changed("run.port", port.id, limits_s=1000.0)] == ["caution"], "no condition has it so"
