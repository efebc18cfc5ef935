"""What a meter reads against ngspice: resistances, junctions and the length of a beep, sound and faulted."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import need
from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.faults import every_fault, faulted, find_fault
from yardmeter.core.probing import METER, find_point, read
from yardmeter.core.probing.passive import PassiveTable, passive_table
from yardmeter.core.probing.reading import read_after
from yardmeter.core.solver.junctions import DECADE_V, FLOOR_S, KNEE_A
from yardmeter.core.solver.passive import PassiveNetwork, charge_until, probe
from yardmeter.core.solver.passive_loops import probes, rises

THERMAL_V = 0.025864186
"""kT/q at 27 °C, which ngspice works at."""
SOURCE_OHM = METER.ohms_v / METER.test_a
PROBES = (
    ("plug:plus", "plug:minus"),
    ("plug:minus", "plug:plus"),
    ("rail-5v", "plug:minus"),
    ("plug:minus", "rail-3v3"),
    ("plug:plus", "rail-12v"),
    ("rail-12v", "rail-5v"),
)


def deck(table: PassiveTable, red: int, black: int, corner: int, open_v: float, ending: str) -> str:
    """The passive network of one tolerance corner as a netlist; the black probe is node 0."""
    net = table.compiled()

    def at(node: int) -> str:
        return "0" if node == black else f"n{node}"

    lines = ["* a meter on an unpowered build", f"V1 src 0 DC {open_v}", f"R1 src {at(red)} {SOURCE_OHM * open_v / 2}"]
    for k, (a, b) in enumerate(zip(net.res_a, net.res_b, strict=True)):
        lines.append(f"RR{k} {at(a)} {at(b)} {1 / net.siemens[corner, k]:.9g}")
    ideality = DECADE_V / (np.log(10) * THERMAL_V)
    for k, (a, b) in enumerate(zip(net.jun_a, net.jun_k, strict=True)):
        saturation = KNEE_A * 10 ** (-net.forward_v[corner, k] / DECADE_V)
        lines += [f"DJ{k} {at(a)} {at(b)} DM{k}", f".model DM{k} D(IS={saturation:.6g} N={ideality:.6g})"]
    for k, (a, b) in enumerate(zip(net.cap_a, net.cap_b, strict=True)):
        lines += [f"RC{k} {at(a)} c{k} {net.esr_ohm[k]:.6g}", f"CC{k} c{k} {at(b)} {net.farad[corner, k]:.6g} IC=0"]
    lines += [f"RF{n} n{n} 0 {1 / FLOOR_S:g}" for n in range(net.nodes) if n != black]
    return "\n".join([*lines, ".options reltol=1e-5 gmin=1e-14 abstol=1e-13", ending, ".end", ""])


def simulated(text: str, folder: Path) -> str:
    source = folder / "probe.cir"
    source.write_text(text)
    done = subprocess.run(
        [need("ngspice"), "-b", str(source)], capture_output=True, text=True, timeout=120, check=False
    )
    return done.stdout


def settled_v(table: PassiveTable, red: int, black: int, corner: int, open_v: float, folder: Path) -> float:
    out = simulated(deck(table, red, black, corner, open_v, f".op\n.print op v(n{red})"), folder)
    found = re.search(rf"^\s*n{red}\s+([-\d.e+]+)", out, re.MULTILINE) or re.search(
        r"^0\s+([-\d.e+]+)", out, re.MULTILINE
    )
    assert found, out[-800:]
    return float(found.group(1))


@pytest.mark.parametrize(("red", "black"), PROBES)
def test_ohms_and_diode_tests_agree_with_ngspice(red: str, black: str, tmp_path: Path) -> None:
    table = passive_table(demo.plan("marshlight-as-soldered"))
    one, other = find_point(table, red), find_point(table, black)
    volts = settled_v(table, one.node, other.node, 1, METER.ohms_v, tmp_path)
    ohms = volts / ((METER.ohms_v - volts) / SOURCE_OHM)
    # The usual value holds the middle of the leads' 0.1 to 0.3 Ω beside it.
    assert read(table, one, other, "ohms").usual == pytest.approx(ohms + 0.2, rel=2e-3, abs=0.01)
    volts = settled_v(table, one.node, other.node, 1, METER.diode_v, tmp_path)
    assert read(table, one, other, "diode").usual == pytest.approx(volts, rel=2e-3, abs=1e-3)


def test_corners_are_the_ends_of_the_range(tmp_path: Path) -> None:
    table = passive_table(demo.plan("culvert-first-wiring"))
    one, other = find_point(table, "rail-5v"), find_point(table, "plug:minus")
    ends = [settled_v(table, one.node, other.node, corner, METER.ohms_v, tmp_path) for corner in (0, 2)]
    low, high = (v / ((METER.ohms_v - v) / SOURCE_OHM) for v in ends)
    found = read(table, one, other, "ohms")
    assert found.low == pytest.approx(low * 0.99, rel=3e-3)
    assert found.high == pytest.approx(high * 1.01 + 0.4, rel=3e-3)


def test_every_kind_of_fault_reads_as_ngspice_has_it(tmp_path: Path) -> None:
    table = passive_table(demo.plan("marshlight-second-wiring"))
    kinds = {fault.kind: fault for fault in every_fault(table) if fault.traced}
    one, other = find_point(table, "plug:plus"), find_point(table, "plug:minus")
    for fault in kinds.values():
        with_it = faulted(table, fault)
        volts = settled_v(with_it, one.node, other.node, 1, METER.ohms_v, tmp_path)
        ohms = volts / ((METER.ohms_v - volts) / SOURCE_OHM)
        assert read(with_it, one, other, "ohms").usual == pytest.approx(ohms + 0.2, rel=3e-3, abs=0.01), fault.id


def charged(farad: float) -> PassiveTable:
    """A pack rail with one capacitor on it, and next to nothing else."""
    quiet = device("d", "pack-rail", 0.01, nominal_v=14, min_v=6, max_v=20)
    bulk = {"id": "bulk", "name": "Bulk", "kind": "capacitor", "at": "pack-rail", "farad": farad, "esr_ohm": 0.03}
    return passive_table(plan(devices=[quiet], filters=[bulk]))


def test_a_capacitor_behind_a_junction_charges_as_its_equation_does() -> None:
    """Not empty at first, a resistance beside it and one below; both rows by SciPy. One node hangs on nothing."""
    from scipy.integrate import solve_ivp
    from scipy.optimize import brentq

    forward, farad, below, beside, start_v = (0.3, 0.6), (100e-6, 20e-6), 50.0, 10e3, 0.2
    net = PassiveNetwork(
        5, np.array([2, 3]), np.array([0, 0]), np.array([[1 / beside, 1 / below]] * 2), np.array([1]), np.array([2]),
        np.array(forward)[:, None], np.array([2]), np.array([3]), np.array(farad)[:, None], np.array([20.0]),
    )  # fmt: skip
    esr, levels, held = 20.0 + below, (1.0, 1.4), np.array([[0, 0, start_v, 0, 0]] * 2)
    found = charge_until(net, 1, 0, METER.ohms_v, SOURCE_OHM, (0.1, *levels), from_s=1e-5, to_s=9.0, held_v=held)
    assert (found[0] == 0).all(), "above it at once"
    for row in range(2):

        def red_v(held: float, row: int = row) -> float:
            def left(red: float) -> float:
                amps = (METER.ohms_v - red) / SOURCE_OHM
                behind = (amps + held / esr) / (1 / esr + 1 / beside)
                return KNEE_A * 10 ** ((red - behind - forward[row]) / DECADE_V) - amps

            return float(brentq(left, 0, METER.ohms_v))

        def rate(_s: float, held: np.ndarray, row: int = row) -> list[float]:
            amps = (METER.ohms_v - red_v(held[0])) / SOURCE_OHM
            return [((amps + held[0] / esr) / (1 / esr + 1 / beside) - held[0]) / esr / farad[row]]

        passed = [lambda _s, held, level=level: red_v(held[0]) - level for level in levels]
        passed[-1].terminal = True  # type: ignore[attr-defined]
        done = solve_ivp(rate, (0, 9), [start_v], events=passed, rtol=1e-4)
        assert found[1:, row] == pytest.approx([one[0] for one in done.t_events], rel=0.02), row


@pytest.mark.parametrize("source_ohm", [1e-4, 0.9e-3, 1e-3, 2e-3, 2000.0])
def test_a_source_of_any_resistance_drives_what_ohms_law_says(source_ohm: float) -> None:
    """A pack's may be under the milliohm that ties the black probe down: a short's amps had turned round."""
    none, no_rows = np.zeros(0, np.int64), np.zeros((1, 0))
    net = PassiveNetwork(2, np.array([0]), np.array([1]), np.array([[500.0]]), none, none, no_rows, none, none, no_rows, np.zeros(0))  # fmt: skip
    assert probe(net, 0, 1, 4.2, source_ohm).amps[0] == pytest.approx(4.2 / (source_ohm + 0.002), rel=1e-6)


def test_machine_code_is_made_once_for_all_networks() -> None:
    """With many junctions, one or none, one variant or three: what is compiled with the program is what runs."""
    marsh, bare = demo.plan("marshlight-as-soldered"), plan()
    for table in (passive_table(marsh), passive_table(bare), charged(1e-3)):
        read_after(table, find_point(table, "plug:plus"), find_point(table, "plug:minus"))
        probe(table.compiled().row(1), 0, 1, 2.0, 100.0)
    assert len(probes.signatures) == len(rises.signatures) == 1  # type: ignore[attr-defined]


def test_a_beep_lasts_as_long_as_the_capacitor_charges(tmp_path: Path) -> None:
    """2 V behind 2 kΩ into 2200 µF: 30 Ω are passed at 29.6 mV, after −τ ln(1 − 29.6 mV/V∞), a little over R·C = 66 ms."""
    table = charged(2200e-6)
    one, other = find_point(table, "plug:plus"), find_point(table, "plug:minus")
    found = read(table, one, other, "beep")
    assert found.beeps == "chirp"
    until = METER.ohms_v * METER.beep_low_ohm / (SOURCE_OHM + METER.beep_low_ohm)
    least, most = 30 * 2200e-6 * 0.8, 50 * 2200e-6 * 1.2
    assert found.beep_low_s == pytest.approx(least, rel=0.04)
    assert found.beep_high_s == pytest.approx(most, rel=0.04)
    ending = f".tran 10u 0.3 UIC\n.meas tran passed when v(n{one.node})={until:.6g} rise=1"
    out = simulated(deck(table, one.node, other.node, 0, METER.ohms_v, ending), tmp_path)
    passed = re.search(r"passed\s*=\s*([-\d.e+]+)", out)
    assert passed, out[-800:]
    assert found.beep_low_s == pytest.approx(float(passed.group(1)), rel=0.03)
    # A tenth of it is over before a meter answers; a short stays.
    assert read(charged(220e-6), one, other, "beep").beeps == "no"
    shorted = faulted(table, find_fault(table, "short-pack-rail-ground"))
    assert read(shorted, one, other, "beep").beeps == "steady"


def test_a_line_of_leds_glows_on_a_diode_test_only() -> None:
    """Red, 2.0 V lit: at a milliampere a tenth less, and 0.24 V across two resistors of 470 Ω side by side; a tenth up and down."""
    led = {"forward_v": 2.0, "series": 1, "strings": 2, "resistor_ohm": 470}
    line = device("line", "pack-rail", 0.02, law="led", kind="led", led=led, nominal_v=14, min_v=2, max_v=20)
    table = passive_table(plan(devices=[line]))
    plus, ground = find_point(table, "line:plus"), find_point(table, "line:ground")
    lit = read(table, plus, ground, "diode")
    # Of 3 V behind 3 kΩ a good third is left for the junction's milliampere, which takes a little less then.
    assert lit.usual == pytest.approx(1.8 + 0.235 + DECADE_V * np.log10((3 - 2.0) / 3), abs=0.03)
    assert lit.carriers[0].element == "line"
    assert read(table, plus, ground, "ohms").low > 3000
    assert read(table, ground, plus, "diode").high is None


def test_the_other_way_round_a_regulator_conducts_through_its_body() -> None:
    made = plan(rails=[rail("five", 5)], supplies=[regulator("reg", "buck", "pack-rail", "five", 5.0)])
    table = passive_table(made)
    plus, five = find_point(table, "plug:plus"), find_point(table, "five")
    assert read(table, five, plus, "diode").high == pytest.approx(0.6, abs=0.02)
    # Forwards there is no way but through what hangs on both: the input's 100 kΩ and the output's 4 kΩ.
    assert read(table, plus, five, "ohms").usual == pytest.approx(104e3, rel=0.01)
    boost = plan(rails=[rail("five", 5)], supplies=[regulator("reg", "boost", "pack-rail", "five", 5.0)])
    up = passive_table(boost)
    assert read(up, find_point(up, "plug:plus"), find_point(up, "five"), "diode").high == pytest.approx(0.6, abs=0.02)
