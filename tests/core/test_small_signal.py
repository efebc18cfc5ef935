"""Pieces of the small-signal network, each against what its own formula says."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.plans import STILL, device, plan, rail, regulator
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.small_signal import PLANNED, Asked, operating_point, solve_variants
from yardmeter.core.network import branch_table
from yardmeter.core.network.ac_build import build_ac
from yardmeter.core.network.keys import Key, feed_key, ground_node, pin_node, rail_node
from yardmeter.core.physics.capacitors import left_f
from yardmeter.core.physics.filters import (
    coil_rise_k,
    ferrite_ohm_h,
    inductor_left_h,
    input_ohm,
)
from yardmeter.core.physics.inductance import pair_h
from yardmeter.core.plan import Plan
from yardmeter.core.solver.ac import AcCircuit, admittance_matrix, solve_ac

EFF = [{"amps": 1, "efficiency_frac": 0.9}]


def gain(made: Plan, start: str, end: str, hertz: list[float]) -> list[complex]:
    """Volts at `end` over volts at `start` when the pack's rail is driven; both above the main ground."""
    solved = solve_conditions(made)
    network = build_ac(operating_point(solved, made.conditions[0]))
    driven = np.zeros((len(network.node), 1), complex)
    driven[network.node[rail_node("pack-rail")], 0] = 1
    driven[network.node[ground_node("main")], 0] = -1
    found = solve_ac(network.circuit(np.array(hertz)), driven)[:, :, 0]
    ground = found[:, network.node[ground_node("main")]]
    ratio: list[complex] = ((found[:, network.node[end]] - ground) / (found[:, network.node[start]] - ground)).tolist()
    return ratio


def stepped(kind: str = "buck", *, series: int = 4, amps: float = 0.5, **fields: Any) -> Plan:
    own = regulator("reg", kind, "pack-rail", "five", 5.0, efficiency=EFF, output_f=0.0, **fields)
    load = device("load", "five", amps, law="current")
    return plan(series=series, rails=[rail("five", 5)], supplies=[own], devices=[load], conditions=[STILL])


@pytest.mark.parametrize("kind", ["buck", "linear"])
def test_a_regulator_rejects_what_its_sheet_says(kind: str) -> None:
    made = stepped(kind, rejection_db=50, bandwidth_hz=10e3)
    low, corner, high = gain(made, rail_node("pack-rail"), rail_node("five"), [20.0, 10e3, 50e6])
    assert abs(low) == pytest.approx(10 ** (-50 / 20), rel=0.01)
    assert abs(corner) == pytest.approx(10 ** (-50 / 20) * math.sqrt(2), rel=0.01)
    assert abs(high) == pytest.approx(1.0, rel=0.01)


def test_in_dropout_everything_comes_through() -> None:
    # A linear regulator for 5 V on one cell: what the pack does its output does.
    made = stepped("linear", series=1, start_v=2, stop_v=2)
    (low,) = gain(made, rail_node("pack-rail"), rail_node("five"), [100.0])
    assert abs(low) == pytest.approx(1.0, rel=0.02)


def test_a_regulator_that_is_off_passes_nothing() -> None:
    made = stepped(start_v=40, stop_v=38)
    network = build_ac(operating_point(solve_conditions(made), made.conditions[0]))
    assert network.controlled == ()
    assert not [b for b in network.branches if b.key == Key("slope", "reg")]


def test_a_switching_regulator_is_a_negative_resistance_at_its_input() -> None:
    made = stepped(amps=1.0)
    solved = solve_conditions(made)
    network = build_ac(operating_point(solved, made.conditions[0]))
    (own,) = [b for b in network.branches if b.key == Key("slope", "reg")]
    point = solved.given["bench"].op
    volts = point.supply_in_v(0, made.supplies[0])
    watts = point.supply_out_v(0, made.supplies[0]) * point.supply_a(0, made.supplies[0])
    at_dc = own.siemens(np.array([2j * math.pi * 0.1]))[0]
    assert at_dc.real == pytest.approx(-watts / volts**2, rel=1e-3)
    assert at_dc.real == pytest.approx(-1 / input_ohm(volts, watts), rel=1e-3)
    fast = own.siemens(np.array([2j * math.pi * 20e6]))[0]
    assert abs(fast) < abs(at_dc) / 500


def test_wires_carry_their_inductance() -> None:
    wire = {"gauge_awg": 20, "length_m": 0.2}
    lamp = device("lamp", "pack-rail", 0.1, nominal_v=14, min_v=6, max_v=20, feed={"rail": "pack-rail", "wire": wire})
    made = plan(devices=[lamp], conditions=[STILL])
    network = build_ac(operating_point(solve_conditions(made), made.conditions[0]))
    (feed,) = [b for b in network.branches if b.key == feed_key("lamp")]
    s = 2j * math.pi * 1e6
    impedance = 1 / feed.siemens(np.array([s]))[0]
    # Half of a touching pair of AWG 20: radius 0.406 mm, centre to centre over 0.5 mm of silicone and 1.15 of lay.
    henry = pair_h(0.2, 1.15 * 0.812e-3 + 1e-3, 0.406e-3) / 2
    assert impedance.imag / abs(s) == pytest.approx(henry, rel=1e-3)
    assert impedance.real == pytest.approx(0.2 * 33.3e-3, rel=2e-3)


@pytest.mark.parametrize(("kind", "hz"), [("lc", 50e3), ("ferrite", 500e3)])
def test_a_filter_in_a_feed_divides_by_its_impedance(kind: str, hz: float) -> None:
    """Against the divider written out: feed and coil over the device's capacitor, its return neglected by being short."""
    values = {"henry": 10e-6, "farad": 1e-4, "esr_ohm": 0.05, "lead_m": 0.0} if kind == "lc" else {"ohm_100mhz": 120.0}
    one = {"id": "f", "name": "F", "kind": kind, "at": "lamp", **values}
    short = {"gauge_awg": 8, "length_m": 0.001}
    lamp = device(
        "lamp",
        "pack-rail",
        0.1,
        law="current",
        nominal_v=14,
        min_v=6,
        max_v=20,
        input_f=10e-6,
        feed={"rail": "pack-rail", "wire": {"gauge_awg": 20, "length_m": 0.1}},
        returns=[{"id": "g", "to": "main", "wire": short}],
    )
    made = plan(devices=[lamp], filters=[one], conditions=[STILL])
    ours = abs(gain(made, rail_node("pack-rail"), pin_node("lamp"), [hz])[0])
    bare = abs(gain(plan(devices=[lamp], conditions=[STILL]), rail_node("pack-rail"), pin_node("lamp"), [hz])[0])
    assert ours < bare / 3


def test_a_bead_is_mostly_resistance_at_its_frequency() -> None:
    ohm, henry = ferrite_ohm_h(120.0)
    s = 2j * math.pi * 100e6
    impedance = 1 / (1 / ohm + 1 / (s * henry))
    assert abs(impedance) == pytest.approx(120, rel=0.03)
    assert impedance.real > 3 * abs(impedance.imag)


def test_derating_of_coils_and_capacitors() -> None:
    # The usual definition of a saturation current: 30 % of the inductance is gone.
    assert inductor_left_h(10e-6, 2.0, 2.0) == pytest.approx(7e-6)
    assert inductor_left_h(10e-6, 0.0, 2.0) == pytest.approx(10e-6)
    assert inductor_left_h(10e-6, 200.0, 2.0) == pytest.approx(0.4e-6, rel=1e-3), "as without its core"
    assert left_f(10e-6, "c0g", 25, 25) == 10e-6
    assert left_f(10e-6, "x7r", 25, 25) < 0.5 * 10e-6
    assert left_f(470e-6, "electrolytic", 20, 35, aged=False) == 470e-6


def test_a_coil_warms_with_the_square_of_its_current() -> None:
    # 40 K at the heating current is how sheets state it (common practice, no source).
    assert coil_rise_k(2.0, 2.0) == pytest.approx(40)
    assert coil_rise_k(1.0, 2.0) == pytest.approx(10)


@given(st.lists(st.floats(0.1, 100), min_size=3, max_size=3), st.floats(1e-9, 1e-5), st.floats(10, 1e6))
def test_a_ladder_by_hand(ohms: list[float], farad: float, hz: float) -> None:
    """Source through R1 to a node with R2 and C to ground, then R3 to ground: the divider written out."""
    s = 2j * math.pi * hz
    one, two, three = (1 / ohm for ohm in ohms)
    table = np.array([[one, two + s * farad, three]])
    nothing = np.zeros(0, np.int64)
    ends = np.array([0, 0, 0]), np.array([-1, -1, -1])
    circuit = AcCircuit(1, *ends, table, nothing, nothing, nothing, nothing, np.zeros((1, 0), complex))
    found = solve_ac(circuit, np.array([[1.0 + 0j]]))[0, 0, 0]
    assert found == pytest.approx(1 / (one + two + s * farad + three), rel=1e-6)
    assert admittance_matrix(circuit).shape == (1, 1, 1)


def test_a_controlled_source_amplifies() -> None:
    # One siemens at each node; 3 A per volt of the first node flow out of the second.
    ones = np.ones((1, 2), complex)
    ends = np.array([0, 1]), np.array([-1, -1])
    sources = np.array([1]), np.array([-1]), np.array([0]), np.array([-1])
    circuit = AcCircuit(2, *ends, ones, *sources, np.array([[3.0 + 0j]]))
    found = solve_ac(circuit, np.array([[1.0 + 0j], [0j]]))[0, :, 0]
    assert found == pytest.approx([1.0, -3.0, 0.0], rel=1e-6)


def test_taking_filters_out_of_a_solution_is_the_same_as_building_without_them() -> None:
    """One update of a solved network against another network, built and solved on its own."""
    section = {"kind": "lc", "at": "lamp", "farad": 47e-6, "henry": 10e-6, "esr_ohm": 0.05, "dcr_ohm": 0.02}
    bead = {"kind": "ferrite", "at": "lamp", "ohm_100mhz": 120.0}
    bulk = {"kind": "capacitor", "at": "pack-rail", "farad": 1000e-6, "esr_ohm": 0.02}
    filters = [{"id": f"f{k}", "name": f"F{k}", **one} for k, one in enumerate([section, bead, bulk])]
    made = plan(devices=[device("lamp", "pack-rail", 0.5)], conditions=[STILL], filters=filters)
    point = operating_point(solve_conditions(made), made.conditions[0])
    network = build_ac(point)
    driven = np.zeros((len(network.node), 1), complex)
    driven[network.node[pin_node("lamp")], 0] = 1
    out = {key: key.split() for key in ("f0", "f1", "f2", "f0 f1", "f0 f1 f2")}
    hertz = np.logspace(1, 7, 25)
    changes = {key: network.changes(taken) for key, taken in out.items()}
    (found,) = solve_variants([Asked(network, hertz, driven, changes)])
    for key, taken in out.items():
        left = tuple(one for one in made.filters if one.id not in taken)
        bare = build_ac(replace(point, table=branch_table(made.model_copy(update={"filters": left}))))
        assert len(bare.branches) < len(network.branches) or key == "f1"
        alone = solve_ac(bare.circuit(hertz), driven)
        assert not np.allclose(alone, found[PLANNED], rtol=1e-3), key
        np.testing.assert_allclose(found[key], alone, rtol=1e-7, atol=1e-9, err_msg=key)
