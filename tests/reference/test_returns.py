"""Returns against outside sources: Rosa's formulas and published numbers, and ngspice for star and chain."""

from __future__ import annotations

import math
import re
import subprocess
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import need
from tests.core.test_grounds import fed, wired
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.ground_net import GroundNet
from yardmeter.core.answers.grounded import grounded
from yardmeter.core.answers.returns import returns
from yardmeter.core.network import branch_table
from yardmeter.core.physics.fusing import fusing_a
from yardmeter.core.physics.inductance import pair_h, square_loop_h, straight_wire_h
from yardmeter.core.physics.levels import logic_margin
from yardmeter.core.plan import Plan


def test_straight_wire_against_published_value() -> None:
    # Rosa 1908 in the practical form 0.002 l (ln(2l/r) − 3/4) µH, l in cm (Terman, Radio Engineers' Handbook, from memory):
    # 10 cm of 1 mm diameter wire: 0.02 (5.9915 − 0.75) = 0.1048 µH.
    assert straight_wire_h(0.10, 0.0005) == pytest.approx(0.1048e-6, rel=1e-3)


def mutual_h(length: float, apart: float) -> float:
    """Two parallel filaments by SciPy's quadrature of Neumann's formula."""
    from scipy.integrate import dblquad  # loaded by the worker that needs it, not by each that collects

    integral, _ = dblquad(lambda x, y: 1 / math.hypot(x - y, apart), 0, length, 0, length)
    return 1e-7 * float(integral)


def test_a_pair_is_two_wires_less_their_mutual() -> None:
    """Go and return: 2 (L − M), which for long wires is Rosa's formula for the pair."""
    length, apart, radius = 2.0, 0.004, 0.0004
    two = 2 * (straight_wire_h(length, radius) - mutual_h(length, apart))
    assert pair_h(length, apart, radius) == pytest.approx(two, rel=2e-3)
    # Coaxial and pair tables: 1 µH/m is a pair near s/r = 9.5 (µ0/π (ln 9.5 + 0.25) = 1.0004 µH/m).
    assert pair_h(1.0, 9.5e-3, 1e-3) == pytest.approx(1.0e-6, rel=1e-3)


def test_square_loop_is_four_sides_less_the_opposite_ones() -> None:
    """Grover: four straight sides, opposite ones carry opposite currents; corners change little for thin wire."""
    side, radius = 0.1, 0.0002
    sides = 4 * (straight_wire_h(side, radius) - mutual_h(side, side))
    assert square_loop_h(side, radius) == pytest.approx(sides, rel=0.01)


def test_thresholds_of_the_standard() -> None:
    # JESD8C: VIL 0.8 V, VIH 2.0 V, and 0.4 V of noise margin at low (VOL 0.4 V).
    margin = logic_margin(3.3, 3.3, "ttl")
    assert margin.low_v == pytest.approx(0.4)
    assert margin.high_v == pytest.approx(3.3 - 0.4 - 2.0)


def test_fusing_current_of_preece() -> None:
    # Preece: 80 d^1.5, d in mm; AWG 20 (0.812 mm) about 58 A. From memory of handbook fuse tables.
    assert fusing_a(20) == pytest.approx(58.5, rel=0.01)


STAR = {"camera": "main", "sender": "main", "recorder": "main"}
CHAIN = {"camera": "sender", "sender": "recorder", "recorder": "main"}


def soldered(ways: dict[str, str]) -> Plan:
    amps = {"camera": 0.3, "sender": 1.2, "recorder": 0.5}
    still = {"value": 0.0, "provenance": "measured"}
    devices = [
        fed(
            name, a, ways[name], draws={"idle": still, "typical": still, "peak": {"value": a, "provenance": "measured"}}
        )
        for name, a in amps.items()
    ]
    return wired(*devices)


def simulate(made: Plan, stepping: str, folder: Path) -> tuple[dict[str, float], dict[str, float]]:
    """Grounds of every device in ngspice: steady, and at the end of one device's edge with nothing else drawing."""
    net, edge = GroundNet(branch_table(made)), made.policy.edge_s
    lines = [f"* returns, {stepping} steps", ".option reltol=1e-6 abstol=1e-9"]
    for (owner, wire), ohm, henry in zip(net.wires, net.ohm, net.henry, strict=True):
        to = "0" if wire.to == "pack" else wire.to
        lines += [f"R{wire.id} {owner} {wire.id}_m {ohm:.9g}", f"L{wire.id} {wire.id}_m {to} {henry:.9g}"]
    for d in made.devices:
        amps, home = d.draws.peak.value, "main" if d.id == stepping else "0"
        law = f"PWL(0 0 {edge} 0 {2 * edge} {amps} 1 {amps})" if d.id == stepping else "0"
        lines.append(f"I{d.id} {home} {d.id} {law}")
    names = " ".join(f"v({d.id})" for d in made.devices)
    lines += [f".tran {edge / 200} {2 * edge} 0 {edge / 200}", f".print tran {names}", ".end"]
    file = folder / "step.cir"
    file.write_text("\n".join(lines) + "\n")
    text = subprocess.run(
        [need("ngspice"), "-b", str(file)], capture_output=True, text=True, timeout=60, check=False
    ).stdout
    table = re.findall(r"^\d+\t(.+)$", text, re.MULTILINE)
    rows = np.array([[float(v) for v in line.split("\t") if v.strip()] for line in table])
    late = rows[(rows[:, 0] > 1.97 * edge) & (rows[:, 0] < 1.999 * edge)][-1]
    steps = dict(zip([d.id for d in made.devices], late[1:], strict=True))
    steady = ["* steady returns", *[line for line in lines if line.startswith(("R", "L"))]]
    steady += [f"I{d.id} 0 {d.id} {d.draws.peak.value}" for d in made.devices] + [
        ".control",
        "op",
        "print all",
        ".endc",
        ".end",
    ]
    file.write_text("\n".join(steady) + "\n")
    text = subprocess.run(
        [need("ngspice"), "-b", str(file)], capture_output=True, text=True, timeout=60, check=False
    ).stdout
    volts = {n: float(v) for n, v in re.findall(r"^(\w+) = (\S+)\s*$", text, re.MULTILINE)}
    return volts, steps


@pytest.mark.parametrize("ways", [STAR, CHAIN], ids=["star", "chain"])
@pytest.mark.parametrize("stepping", ["sender", "camera"])
def test_star_and_chain_against_ngspice(ways: dict[str, str], stepping: str, tmp_path: Path) -> None:
    made = soldered(ways)
    volts, steps = simulate(made, stepping, tmp_path)
    found = {g.id: g.states["punch"] for g in returns(grounded(solve_conditions(made))).grounds}
    net = GroundNet(branch_table(made))
    device = made.device_of[stepping]
    column = list(made.devices).index(device)
    ours = (net.by_ampere + net.by_slope / made.policy.edge_s) @ net.sudden[:, column] * device.draws.peak.value
    for name in ways:
        # ngspice prints seven figures; its own operating point is good to 1e-6 relative.
        assert found[name].volts_v == pytest.approx(volts[name], abs=2e-6)
        # The last point before the corner lies within 1 % of the edge's end; the network is a tree, so the law is exact.
        assert ours[net.node[name]] == pytest.approx(steps[name], rel=0.02, abs=2e-5)
