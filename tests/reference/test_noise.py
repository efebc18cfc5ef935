"""Noise against outside sources: ngspice's AC analysis of whole plans, SciPy's LC sections, published formulas and series."""

from __future__ import annotations

import math
import re
import subprocess
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import need
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.filtering import SWEEP
from yardmeter.core.answers.small_signal import operating_point
from yardmeter.core.edits import apply_edits
from yardmeter.core.elements.capacitor import admittance as capacitor
from yardmeter.core.formats.ac_netlist import write_ac_netlist
from yardmeter.core.formats.netlist import node_name
from yardmeter.core.network.ac_build import build_ac
from yardmeter.core.network.keys import ground_node, pin_node, rail_node
from yardmeter.core.physics.capacitors import left_f
from yardmeter.core.physics.filters import characteristic_ohm, damping_ohm, wanted_corner_hz
from yardmeter.core.physics.preferred import e_series, next_up
from yardmeter.core.physics.ripple import electrical_hz, pulse_lines
from yardmeter.core.physics.video import S525, S625, drift_rows_s, level_db, stripe_pitch_lines
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Add
from yardmeter.core.solver.ac import solve_ac

LC = {
    "id": "lc",
    "name": "LC",
    "kind": "lc",
    "at": "sender",
    "henry": 22e-6,
    "farad": 220e-6,
    "esr_ohm": 0.06,
    "dcr_ohm": 0.09,
    "saturation_a": 2.0,
    "damping_ohm": 0.5,
    "damping_farad": 880e-6,
}
BULK = {
    "id": "bulk",
    "name": "Bulk",
    "kind": "capacitor",
    "at": "esc-rail",
    "farad": 470e-6,
    "count": 2,
    "esr_ohm": 0.03,
    "rated_v": 35,
}
BEAD = {"id": "bead", "name": "Bead", "kind": "ferrite", "at": "camera", "ohm_100mhz": 120, "dcr_ohm": 0.03}
LOCAL = {
    "id": "local",
    "name": "Local",
    "kind": "capacitor",
    "at": "rail-3v3",
    "farad": 10e-6,
    "esr_ohm": 0.004,
    "rated_v": 10,
    "dielectric": "x5r",
}


def filtered(name: str) -> Plan:
    made = demo.plan(name)
    wanted = [one for one in (LC, BULK, BEAD, LOCAL) if one["id"] not in {f.id for f in made.filters}]
    return apply_edits(made, [Add(kind="filter", value=one) for one in wanted])


@pytest.mark.parametrize("name", ["marshlight-as-soldered", "marshlight-second-wiring"])
@pytest.mark.parametrize("condition_id", ["usb-bench", "hover", "punch-low"])
def test_whole_plans_against_ngspice(name: str, condition_id: str, tmp_path: Path) -> None:
    """Every node at five frequencies, magnitude and phase, from a netlist that is written element by element."""
    solved = solve_conditions(filtered(name))
    point = operating_point(solved, solved.plan.condition(condition_id))
    hertz = [120.0, 3.3e3, 24e3, 500e3, 1.7e6]
    driven = (
        (rail_node("rail-5v"), ground_node("controller"))
        if condition_id == "usb-bench"
        else (pin_node("motors"), ground_node("motors"))
    )
    file = tmp_path / "ac.cir"
    file.write_text(write_ac_netlist(point, *driven, hertz))
    text = subprocess.run(
        [need("ngspice"), "-b", str(file)], capture_output=True, text=True, timeout=60, check=False
    ).stdout
    blocks = re.split(r"(?m)^.*No\. of Data Rows.*$", text)[1:]
    assert len(blocks) == len(hertz), text[-600:]
    network = build_ac(point)
    injected = np.zeros((len(network.node), 1), complex)
    injected[network.node[driven[0]], 0], injected[network.node[driven[1]], 0] = -1, 1
    ours = solve_ac(network.circuit(np.array(hertz)), injected)[:, :, 0]
    for row, block in zip(ours, blocks, strict=True):
        theirs = {
            n: complex(float(re_), float(im))
            for n, re_, im in re.findall(r"(?m)^(\w+) = \(?\s*([-\d.e+]+),\s*([-\d.e+]+)\)?", block)
        }
        largest = np.abs(row).max()
        for node, index in network.node.items():
            # ngspice solves to about 1e-9 of the largest node; ten figures are printed.
            assert abs(row[index] - theirs[node_name(node)]) < 1e-5 * largest + 1e-9, node


@pytest.mark.parametrize("wanted_db", [6.0, 20.0, 40.0])
def test_the_corner_asked_for_takes_off_what_was_asked(wanted_db: float) -> None:
    """Against SciPy's transfer function of an ideal section."""
    from scipy import signal  # loaded by the worker that needs it, not by each that collects

    hertz = 48e3
    omega = 2 * math.pi * wanted_corner_hz(hertz, wanted_db)
    ideal = signal.TransferFunction([omega**2], [1, 0, omega**2])
    _, found = signal.freqresp(ideal, [2 * math.pi * hertz])
    assert -20 * math.log10(abs(found[0])) == pytest.approx(wanted_db, rel=1e-9)


def test_lc_section_against_scipy() -> None:
    """Undamped and damped transfer of an LC section with a stiff source, against SciPy's rational transfer functions."""
    from scipy import signal  # loaded by the worker that needs it, not by each that collects

    henry, farad, dcr, esr = 22e-6, 220e-6, 0.09, 0.06
    omega = 2 * math.pi * np.logspace(2, 6, 60)
    s = 1j * omega
    branch = capacitor(farad, esr, 0.0)(s)
    ours = 1 / (1 + (dcr + s * henry) * branch)
    system = signal.TransferFunction([farad * esr, 1], [henry * farad, (dcr + esr) * farad, 1])
    _, theirs = signal.freqresp(system, omega)
    assert ours == pytest.approx(theirs, rel=1e-9)
    corner = 1 / math.sqrt(henry * farad)
    assert abs(signal.freqresp(system, [corner])[1][0]) == pytest.approx(
        abs(complex(1, esr / characteristic_ohm(henry, farad))) / (dcr + esr) * characteristic_ohm(henry, farad),
        rel=1e-6,
    )


@pytest.mark.parametrize("ratio", [1.0, 4.0, 10.0])
def test_damping_against_a_search(ratio: float) -> None:
    """Erickson & Maksimović: the best resistor of an Rd–Cd branch and the peak it leaves, against SciPy-free brute force."""
    henry, farad = 10e-6, 100e-6
    omega = np.logspace(3.5, 6, 4000)
    s = 1j * omega

    def peak(ohm: float) -> float:
        admittance = 1 / (s * henry) + s * farad + 1 / (ohm + 1 / (s * ratio * farad))
        return float(np.max(np.abs(1 / admittance)))

    best = damping_ohm(henry, farad, ratio)
    found = min(np.linspace(0.3, 3, 271) * best, key=peak)
    assert best == pytest.approx(found, rel=0.03)


def test_preferred_values_of_iec_60063() -> None:
    # IEC 60063: E12 and E24 as printed there; some of E96.
    assert e_series(12) == (10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82)
    # Half of E24 is E12; what lies between two of those is printed too.
    assert e_series(24)[::2] == e_series(12)
    assert e_series(24)[1::2] == (11, 13, 16, 20, 24, 30, 36, 43, 51, 62, 75, 91)
    assert {10.2, 49.9, 97.6} < set(e_series(96))
    assert 92.0 in e_series(192)
    assert next_up(470) == 470
    assert next_up(471, 12) == 560
    assert next_up(0.0951, 24) == pytest.approx(0.1)
    with pytest.raises(ValueError, match="no preferred value"):
        next_up(0)


def test_line_rates_and_levels_of_the_standards() -> None:
    # SMPTE ST 170: 15 734.27 Hz, 59.94 fields; BT.1700: 15 625 Hz, 50 fields; 714 and 700 mV of picture.
    assert S525.line_hz == pytest.approx(15_734.27, abs=0.01)
    assert S525.field_hz == pytest.approx(59.94, abs=0.001)
    assert S625.field_hz == 50
    assert level_db(0.0714, S525) == pytest.approx(-20)
    # A line 525 Hz above the fourth multiple of the line rate repeats every 15 734/525 = 30 lines; 50 Hz rolls at 9.94 a second.
    assert stripe_pitch_lines(S525, 4 * S525.line_hz + 524.475) == pytest.approx(30.0, rel=1e-3)
    assert stripe_pitch_lines(S625, 2 * S625.line_hz + 0.5) == pytest.approx(
        31_250
    )  # half a cycle a second: a bar that creeps
    assert stripe_pitch_lines(S625, 2 * S625.line_hz) == math.inf
    assert drift_rows_s(S525, 50.0) == pytest.approx(9.94, abs=0.001)


def test_pulse_lines_against_a_transform() -> None:
    """Fourier lines of a pulse train against NumPy's transform of one sampled period."""
    duty, height, count = 0.3, 4.0, 20_000
    wave = np.where(np.arange(count) < duty * count, height, 0.0)
    spectrum = 2 * np.abs(np.fft.rfft(wave)) / count
    for order, (hz, peak) in enumerate(pulse_lines(height, duty, 1000.0, 4), 1):
        assert hz == order * 1000
        assert peak == pytest.approx(spectrum[order], rel=1e-3)


def test_handbook_ripple() -> None:
    # 1000 Kv on 22 V at half throttle, three quarters under load, 7 pole pairs: 6 · 7 · 8250/60 = 5.8 kHz.
    assert electrical_hz(1000, 22, 0.5, 0.75, 7) == pytest.approx(5775)
    # An X5R at its rated volts has lost three quarters (typical curves, from memory).
    assert left_f(10e-6, "x5r", 10, 10, aged=False) == pytest.approx(2.5e-6)


def test_the_sweep_covers_what_matters() -> None:
    low, high, count = SWEEP
    assert low <= 200
    assert high >= 1e6
    assert count >= 200
