"""What lasts in a run and is over a limit: told, but where a condition of the plan tells it already."""

from __future__ import annotations

from typing import Any

import pytest

from tests.plans import STILL, device, draws, plan, rail, regulator
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.running import RunCase
from yardmeter.core.checks.steady import Steady
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.runs import run_scenario
from yardmeter.core.runs.report import report

IDLE = {**STILL, "default_state": "idle"}
BROAD = {"nominal_v": 14.8, "min_v": 6, "max_v": 20}


def codes(made: Plan, *acts: dict[str, Any], lasts: float = 1.2) -> tuple[dict[str, str], set[str]]:
    """What a run tells beside the plan's own rules, with its weight, and what those tell."""
    own = Scenario.model_validate({"id": "s", "name": "S", "begins": "bench", "duration_s": lasts, "acts": acts})
    case = solve_plan(made)
    told = run_rules(RunCase(made, ((own, report(run_scenario(made, own))),), Steady(case)), "runs")
    return {one.code: one.severity for one in told}, {one.code for one in run_rules(case)}


@pytest.mark.parametrize(("typical", "bench"), [(IDLE, False), (STILL, True)])
def test_a_wire_that_is_too_thin_for_minutes(typical: dict[str, Any], bench: bool) -> None:
    """40 A through 20 AWG (some 20 A): a condition in which it idles tells nothing, one in which it draws that does."""
    heavy = device("d", "pack-rail", 40, **BROAD, draws={**draws(40), "idle": draws(0.1)["idle"]})
    runs, own = codes(
        plan(devices=[heavy], conditions=[typical]),
        {"act": "state", "at_s": 0.0, "device": "d", "state": "typical"},
        lasts=120.0,
    )
    assert ("run.wire" in runs, "wire.limit" in own) == (not bench, bench)


def behind(max_v: float, cap_v: float, **more: Any) -> Plan:
    """A device and a capacitor behind a regulator of 5 V."""
    bec = regulator("bec", "linear", "pack-rail", "r", 5.0, input_max_v=40)
    cap = {"kind": "capacitor", "id": "c", "name": "C", "at": "r", "farad": 1e-4, "esr_ohm": 0.05, "rated_v": cap_v}
    return plan(
        devices=[device("d", "r", 0.2, max_v=max_v)], supplies=[bec], rails=[rail("r", 5)], filters=[cap],
        conditions=[STILL], **more,
    )  # fmt: skip


def test_volts_that_stay_when_a_regulator_is_shorted_through() -> None:
    """No condition has 16 V on a rail of 5: a second of it is no spike, and told."""
    runs, own = codes(behind(5.5, 10), {"act": "fail", "at_s": 0.1, "element": "bec", "how": "short"})
    assert {k: v for k, v in runs.items() if k in ("run.spike", "run.capacitor")} == {
        "run.spike": "danger",
        "run.capacitor": "danger",
    }
    assert "window.over" not in own


def test_volts_that_every_condition_has_are_told_by_those() -> None:
    """5 V for a device of 4.8 and a capacitor of 4: rules and noise tell that, and the run says nothing more of it."""
    made = behind(4.8, 4.0)
    runs, own = codes(made)
    assert "window.over" in own
    assert not {"run.spike", "run.capacitor"} & set(runs)
    scenario = Scenario.model_validate({"id": "s", "name": "S", "begins": "bench", "duration_s": 1.2})
    case = RunCase(made, ((scenario, report(run_scenario(made, scenario))),))
    assert {"run.spike", "run.capacitor"} <= {one.code for one in run_rules(case, "runs")}, "with nobody to tell it"


def test_an_input_over_its_maximum() -> None:
    """A second regulator of 12 V at most behind the one that fails; and one on the pack, which conditions tell."""
    small = regulator("small", "linear", "r", "s", 3.3, input_max_v=12)
    made = behind(20, 25)
    made = Plan.model_validate(
        {**made.model_dump(), "supplies": [made.model_dump()["supplies"][0], small], "rails": [*made.model_dump()["rails"], rail("s", 3.3)]}
    )  # fmt: skip
    runs, own = codes(made, {"act": "fail", "at_s": 0.1, "element": "bec", "how": "short"})
    assert (runs.get("run.input"), "window.input" in own) == ("fault", False)
    steady = Steady(solve_plan(made))
    at_edge = [made.supply_of["small"].model_copy(update={"input_max_v": volts}) for volts in (4.9, 5.1)]
    assert [steady.over_input(one) for one in at_edge] == [True, False]  # type: ignore[arg-type]


@pytest.mark.parametrize(("limit_a", "rule"), [(0.3, "load.usb"), (3.0, None)])
def test_a_port_at_its_limit(limit_a: float, rule: str | None) -> None:
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "r", "volts": 5.0, "limit_a": limit_a}
    on_usb = {"id": "usb-bench", "name": "On USB", "energy": ["usb"], "default_state": "typical"}
    made = plan(devices=[device("d", "r", 0.5)], rails=[rail("r", 5)], inlets=[usb], conditions=[STILL, on_usb])
    case = solve_plan(made)
    assert ("load.usb" in {one.code for one in run_rules(case)}) == (rule is not None)
    assert Steady(case).at_limit(made.inlets[0]) == (rule is not None)
