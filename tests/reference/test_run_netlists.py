"""What bends or warms in a run against ngspice: cores that fill, ceramics that fall, filaments, NTCs, fuses that melt."""

from pathlib import Path
from typing import Any

import pytest

from tests.core.test_inline import FUSE, NTC, resistor, with_lead
from tests.plans import STILL, device, plan, rail, regulator
from tests.reference.test_runs import BULK, PLUG, far_off, scenario, theirs_of
from tools.agree.cases import case_of
from tools.agree.ordered import PAUSES_S, RESTS_S
from tools.random_orders import random_order
from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.formats.netlist import node_name
from yardmeter.core.network.keys import ground_node, pin_node
from yardmeter.core.parts.own_cell import may_be_its_own, own_cell
from yardmeter.core.runs import run_scenario
from yardmeter.core.solver.transient.trace import Happening

CELL = next(one for one in demo.starter_parts() if may_be_its_own(one))
SECTION = {"id": "lc", "name": "LC", "kind": "lc", "at": "eye", "henry": 10e-6, "farad": 22e-6, "esr_ohm": 0.05, "rated_v": 25, "saturation_a": 1.5, "dcr_ohm": 0.02}  # fmt: skip


def eye(amps: float = 0.5, **fields: Any) -> dict[str, Any]:
    return device("eye", "pack-rail", amps, nominal_v=16, min_v=5, max_v=30, brownout_v=5, boot_s=0.0005, **fields)


@pytest.mark.parametrize("dielectric", ["electrolytic", "x5r"])
def test_a_section_whose_core_fills_and_whose_ceramic_falls_rings_as_in_ngspice(dielectric: str, tmp_path: Path) -> None:  # fmt: skip
    made = plan(devices=[eye()], filters=[{**SECTION, "dielectric": dielectric, "rated_v": 16 if dielectric == "x5r" else 25}])  # fmt: skip
    run = run_scenario(made, scenario(PLUG, lasts=1e-3))
    s = run.moving.circuit.series
    assert s.core is not None
    assert abs(run.series_a(int(s.core.at[0]))).max() > 4 * 1.5, "far over its saturation"
    assert (s.curve is not None and s.curve.at.size == 1) == (dielectric == "x5r")
    assert not far_off(run, tmp_path, 2e-7, 10e-6)


def test_a_run_from_a_condition_finds_its_first_step_in_ngspice(tmp_path: Path) -> None:
    """Regulators that follow at once, behind inductances with currents in them, left a simulator no first step."""
    made = demo.plan("heathwatch-as-stacked")
    act = {"act": "draw", "at_s": 0.004, "device": made.devices[-1].id, "value": 0.0, "over_s": 2e-4}
    run = run_scenario(made, scenario(act, lasts=0.02, begins="landing"))
    assert not far_off(run, tmp_path, 1e-5, 2e-3)


def test_a_lamp_in_line_warms_as_in_ngspice(tmp_path: Path) -> None:
    lamp = {"id": "lamp", "name": "Lamp", "kind": "lamp", "rail": "pack-rail", "volts": 12, "limit_a": 2}
    own = {**STILL, "energy": ["pack", "lamp"]}
    load = device("load", "pack-rail", 4, law="resistance", nominal_v=16.8, min_v=1, max_v=20)
    made = plan(devices=[load], filters=[BULK], inlets=[lamp], conditions=[own])
    act = {"act": "draw", "device": "load", "value": 8, "at_s": 0.1}
    run = run_scenario(made, scenario(act, lasts=1.0, begins="bench"))
    glows = run.pin_v("lamp")
    assert glows[run.at(0.09)] == pytest.approx(glows[0], rel=0.01), "it begins warm"
    assert glows[-1] > 1.2 * glows[0]
    assert not far_off(run, tmp_path, 1e-4, 1e-3)


def test_an_ntc_warms_and_a_fuse_is_gone_as_in_ngspice(tmp_path: Path) -> None:
    warm = run_scenario(with_lead(NTC, ohm=0.06, limit=8, filters=[BULK], devices=[resistor(6)]), scenario(PLUG, lasts=4.0))  # fmt: skip
    assert warm.pack_a[-1] > 1.5 * warm.pack_a[warm.at(0.1)]
    assert not far_off(warm, tmp_path, 2e-3, 0.01)
    gone = run_scenario(with_lead(FUSE, filters=[BULK], devices=[resistor(20)]), scenario(PLUG, lasts=0.2))
    melts = next(one.at_s for one in gone.events if one.code is Happening.MELTS)
    times, volts, nodes = theirs_of(gone, tmp_path, 2e-5)
    rail = volts[:, nodes.index("rail_pack_rail")] - volts[:, nodes.index("gnd_main")]
    assert rail[times < melts][-5] > 15
    assert rail[-1] < 0.1
    assert not far_off(gone, tmp_path, 2e-5, 1e-3, peaks=False)


@pytest.mark.parametrize(("kind", "set_v"), [("linear", 5.0), ("buck", 5.0), ("boost", 24.0)])
@pytest.mark.parametrize("at_s", [0.0, 2e-3])
def test_a_regulator_that_fails_short_is_a_wire_in_the_netlist_too(
    kind: str, set_v: float, at_s: float, tmp_path: Path
) -> None:
    """It had its limit and its dropout there: a rail that goes up to the pack's volts stayed at 1.2 V."""
    own = regulator("reg", kind, "pack-rail", "out", set_v, rating_a=0.5)
    eye = device("eye", "out", 0.2, law="resistance", nominal_v=set_v, max_v=30)
    made = plan(rails=[rail("out", set_v)], supplies=[own], devices=[eye])
    act = {"act": "fail", "element": "reg", "how": "short", "at_s": at_s}
    run = run_scenario(made, scenario(act, lasts=6e-3, begins="bench"))
    assert 15 < run.pin_v("eye")[-1] < 16.8
    assert not far_off(run, tmp_path, 2e-6, at_s + 1e-4, peaks=False)


def test_what_failed_short_and_then_breaks_open_is_open_in_the_netlist_too(tmp_path: Path) -> None:
    made = plan(rails=[rail("out", 5)], supplies=[regulator("reg", "buck", "pack-rail", "out", 5.0)], devices=[device("eye", "out", 0.2, law="resistance", max_v=30)])  # fmt: skip
    acts = [{"act": "fail", "element": "reg", "how": how, "at_s": at} for how, at in (("short", 1e-3), ("open", 3e-3))]
    run = run_scenario(made, scenario(*acts, lasts=8e-3, begins="bench"))
    assert run.pin_v("eye")[run.at(2.9e-3)] > 15
    assert run.pin_v("eye")[-1] < 1
    assert not far_off(run, tmp_path, 2e-6, 1.1e-3, peaks=False)


def test_one_that_takes_both_ways_is_a_wire_both_ways_once_it_failed_short(tmp_path: Path) -> None:
    """The pack is pulled, and what is in the capacitor behind it feeds the lamp before it."""
    own = regulator("reg", "buck", "pack-rail", "out", 5.0, two_way=True)
    lamp = device("lamp", "pack-rail", 1, law="resistance", nominal_v=16, min_v=1, max_v=20)
    made = plan(rails=[rail("out", 5)], supplies=[own], devices=[lamp], filters=[{**BULK, "at": "out", "rated_v": 35}])
    acts = [{"act": "fail", "element": "reg", "how": "short", "at_s": 1e-3}, {"act": "unplug", "at_s": 3e-3}]
    run = run_scenario(made, scenario(*acts, lasts=8e-3, begins="bench"))
    assert run.pin_v("lamp")[run.at(4e-3)] > 10
    assert not far_off(run, tmp_path, 2e-6, 1.2e-3, peaks=False)


def test_a_pack_and_a_cell_fall_by_what_was_taken_as_in_ngspice(tmp_path: Path) -> None:
    """A minute: the slow part of the pack's resistance, its charge, and a cell of a device's own, each to a few millivolts."""
    lamp = device("lamp", "pack-rail", 15, law="resistance", nominal_v=16, min_v=1, max_v=20)
    made = plan(devices=[lamp, device("eye", "pack-rail", 0.4, nominal_v=4, min_v=3, max_v=30)], conditions=[STILL])
    made = apply_edits(made, own_cell(made, made.device_of["eye"], CELL))
    cells = {"energy": ["pack", *(one.id for one in made.inlets)]}
    made = made.model_copy(update={"conditions": tuple(one.model_copy(update=cells) for one in made.conditions)})
    acts = ({"act": "draw", "device": name, "value": amps, "at_s": 0.1} for name, amps in (("lamp", 30), ("eye", 0.5)))
    run = run_scenario(made, scenario(*acts, lasts=60, begins="bench"))
    _, volts, nodes = theirs_of(run, tmp_path, 0.05)
    for name, fell_v in (("lamp", 0.5), ("eye", 0.01)):
        plus, minus = (nodes.index(node_name(one(name))) for one in (pin_node, ground_node))
        mine, their = run.pin_v(name), volts[:, plus] - volts[:, minus]
        assert mine[run.at(1.0)] - mine[-1] > fell_v
        assert their[-1] == pytest.approx(mine[-1], abs=0.004 * fell_v), name


@pytest.mark.parametrize("number", [2, 3])
def test_cells_of_a_thousand_farads_let_a_simulator_come_to_its_end(number: int, tmp_path: Path) -> None:
    """A pack that bounces, beside a cell of a device's own: two minutes and no end, while their farads stood in the netlist."""
    made = case_of(number, 47).plan
    run = run_scenario(made, random_order(made, number, pauses_s=PAUSES_S, rests_s=RESTS_S))
    theirs_of(run, tmp_path, 1e-5)


@pytest.mark.parametrize(("kind", "series"), [("buck", 1), ("linear", 1), ("buck", 4), ("boost", 1)])
def test_a_regulator_comes_out_of_its_limit_as_in_ngspice(kind: str, series: int, tmp_path: Path) -> None:
    """In the netlist its control wound up behind its limit: a rail left at 1 V shot up to 4.4 V for 4.03 out of 4.35 in."""
    lamp = device("lamp", "out", 0.1, law="resistance", nominal_v=5, min_v=1, max_v=20)
    own = regulator("reg", kind, "pack-rail", "out", 5.0, rating_a=1, limit_style="constant")
    made = plan(series=series, rails=[rail("out", 5)], supplies=[own], devices=[lamp], filters=[{**BULK, "farad": 10e-6, "at": "out"}])  # fmt: skip
    acts = ({"act": "draw", "device": "lamp", "value": amps, "at_s": at_s} for amps, at_s in ((4.0, 1e-3), (0.0, 2e-3)))
    run = run_scenario(made, scenario(*acts, lasts=3e-3, begins="bench"))
    assert {Happening.LIMITS, Happening.FREE} <= {one.code for one in run.events}
    mine, (_, volts, nodes) = run.rail_v("out"), theirs_of(run, tmp_path, 1e-6)
    their = volts[:, nodes.index("rail_out")] - volts[:, nodes.index("gnd_main")]
    assert their.max() == pytest.approx(mine.max(), rel=0.005)
    assert their[-1] == pytest.approx(mine[-1], rel=0.005)
    assert not far_off(run, tmp_path, 1e-6, 1e-4)


def test_a_pack_that_was_never_plugged_charges_nothing_in_ngspice(tmp_path: Path) -> None:
    """Through its open contact went a microamp for each volt: a third of a volt in 12 ms on a rail with little on it."""
    run = run_scenario(plan(series=12), scenario({"act": "unplug", "at_s": 1e-3}, lasts=0.02))
    _, volts, _ = theirs_of(run, tmp_path, 1e-5)
    assert abs(volts[-1]).max() < 0.01
