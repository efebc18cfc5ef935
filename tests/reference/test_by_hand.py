"""A pack, wires, a buck and mixed loads worked by hand.

4S pack at 3.7 V a cell behind 4 × 3 mΩ; leads of 14 AWG, 0.1 m each way; a buck to 5 V with 90 % at 1 A; on the pack
rail a 2 A constant current behind 0.1 m of 20 AWG each way; on 5 V a 1 A constant current behind the same.
"""

import pytest

from tests.plans import WIRE, device, plan, rail, regulator
from yardmeter.core.answers.operating import operate
from yardmeter.core.network import Situation, branch_table
from yardmeter.core.physics.conductors import wire_ohm


def test_worked_case() -> None:
    hover = {"id": "hover", "name": "Hover", "pack_state": "nominal"}
    buck = regulator(
        "buck",
        "buck",
        "pack-rail",
        "five",
        5.0,
        output_ohm=0.02,
        quiescent_a=0.0,
        dropout_v=0.1,
        dropout_ohm=0.05,
        efficiency=[{"amps": 1.0, "efficiency_frac": 0.9}],
    )
    loads = [device("pump", "pack-rail", 2.0, min_v=6, max_v=20, nominal_v=14.8), device("camera", "five", 1.0)]
    made = plan(conditions=[hover], rails=[rail("five", 5)], supplies=[buck], devices=loads)
    op = operate(branch_table(made), [Situation(made.conditions[0])])

    r20 = wire_ohm(20, WIRE["length_m"])
    r14 = wire_ohm(14, 0.1)
    # The buck: set point less 20 mΩ at 1 A; loss fitted by one point: 5 W · (1/0.9 − 1) = 0.5556 W at 1 A.
    five_v = 5.0 - 0.02 * 1.0
    input_w = five_v * 1.0 + 5.0 * (1 / 0.9 - 1)
    # Pack current I solves I = 2 + P / (E − I R) with R = cells + both leads, the buck's ground being the board's:
    # R I² − (E + 2R) I + 2E + P = 0, the smaller root.
    emf, ohm = 4 * 3.7, 4 * 0.003 + 2 * r14
    b = emf + 2 * ohm
    pack_a = (b - (b * b - 4 * ohm * (2 * emf + input_w)) ** 0.5) / (2 * ohm)
    board_v = emf - pack_a * ohm

    assert op.pack_a(0) == pytest.approx(pack_a, abs=1e-6)
    assert op.rail_v(0, "pack-rail") == pytest.approx(board_v, abs=1e-6)
    assert op.rail_v(0, "five") == pytest.approx(five_v, abs=1e-6)
    assert op.pin_v(0, "pump") == pytest.approx(board_v - 2 * 2.0 * r20, abs=1e-6)
    assert op.pin_v(0, "camera") == pytest.approx(five_v - 2 * 1.0 * r20, abs=1e-6)
    assert op.ground_v(0, "main") == pytest.approx(pack_a * r14, abs=1e-6)
    assert op.supply_loss_w(0, made.supplies[0]) == pytest.approx(5.0 * (1 / 0.9 - 1), abs=1e-6)
