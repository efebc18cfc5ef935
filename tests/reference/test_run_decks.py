"""Runs against decks for ngspice that were written by hand, circuit by circuit: none of their lines is the netlist writer's."""

from __future__ import annotations

import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.conftest import need
from tests.plans import STILL, device, plan, rail, regulator
from yardmeter.core.physics.conductors import wire_ohm
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.runs import Run, run_scenario

PACK_V, PACK_OHM, PACK_H = 16.8, 0.048, 60e-9
"""4S, full, 12 mΩ a cell, its plates and tabs; of which three tenths polarise in 20 s (`in_time.POLARISED_FRAC`)."""


def deck(lines: str, lasts_s: float, step_s: float, out: str, folder: Path) -> tuple[np.ndarray, np.ndarray]:
    """Times and one vector of a deck, from nothing charged (`uic`)."""
    data, file = folder / "deck.dat", folder / "deck.cir"
    file.write_text(
        f"* by hand\n{lines}\n.options reltol=1e-5\n.tran {step_s} {lasts_s} 0 {step_s} uic\n.control\nset wr_singlescale\nrun\nwrdata {data} {out}\n.endc\n.end\n"
    )
    said = subprocess.run([need("ngspice"), "-b", str(file)], capture_output=True, text=True, timeout=120, check=False)
    assert data.exists(), said.stdout[-800:] + said.stderr[-800:]
    times, values = np.loadtxt(data).T
    return times, values


def made(*, cell_ohm: float = 0.012, series: int = 4, **parts: Any) -> Plan:
    return plan(series=series, cell_ohm=cell_ohm, conditions=[STILL], **parts)


def ran(made: Plan, *acts: dict[str, Any], lasts: float, begins: str | None = None) -> Run:
    return run_scenario(
        made, Scenario.model_validate({"id": "s", "name": "S", "begins": begins, "duration_s": lasts, "acts": acts})
    )


def loop(run: Run, *roles: str) -> tuple[float, float]:
    """Ohms and henries of the wires with these roles, in series, as the plan's sheet gives them."""
    s, keys = run.moving.circuit.series, run.moving.series
    mine = [k for key, k in keys.items() if key.role in roles]
    return float(s.ohm[0, mine].sum()), float(s.henry[0, mine].sum())


def filter_f(run: Run) -> float:
    """What is left of the one capacitor that is fitted, old and cold [F]."""
    k = next(k for key, k in run.moving.series.items() if key.role == "filter")
    return 1 / float(run.moving.circuit.series.elastance[0, k])


def agree(run: Run, ours: np.ndarray, theirs: tuple[np.ndarray, np.ndarray], tol: float, after_s: float = 0.0) -> None:
    """98 % of the moments within `tol` of the largest, and both extremes."""
    times, values = theirs
    late = times > after_s
    mine, their = np.interp(times[late], run.times_s, ours), values[late]
    bound = tol * np.abs(their).max()
    assert np.percentile(np.abs(mine - their), 98) < bound
    assert abs(mine.max() - their.max()) < bound
    assert abs(mine.min() - their.min()) < bound


PLUG = {"act": "plug", "at_s": 0.0}


def test_a_plug_into_two_capacitors_on_leads(tmp_path: Path) -> None:
    """Half a millifarad on the rail and 100 µF at the end of a wire: two loops that ring into each other."""
    bulk = {"kind": "capacitor", "id": "c", "name": "C", "at": "pack-rail", "farad": 470e-6, "esr_ohm": 0.02, "rated_v": 35, "lead_m": 0.01}  # fmt: skip
    eye = device("eye", "pack-rail", 4.2, law="resistance", nominal_v=16.8, min_v=1, max_v=40, input_f=100e-6)
    run = ran(made(devices=[eye], filters=[bulk]), PLUG, lasts=4e-4)
    s, keys = run.moving.circuit.series, run.moving.series
    lead_ohm, lead_h = loop(run, "pack", "lead")
    gnd = next(k for key, k in keys.items() if key.element == "main-gnd")
    feed, back = (next(k for key, k in keys.items() if key.element == one) for one in ("eye", "eye-gnd"))
    esl = float(s.henry[0, next(k for key, k in keys.items() if key.role == "filter")])
    bulk_f = filter_f(run)
    lines = f"""V1 e 0 {PACK_V}
R1 e a {lead_ohm + float(s.ohm[0, gnd]):.9g}
L1 a r {lead_h + float(s.henry[0, gnd]):.9g} ic=0
C1 r c1 {bulk_f:.9g} ic=0
R2 c1 c2 0.02
L2 c2 0 {esl:.9g} ic=0
Cb r c3 100n ic=0
Rb c3 0 0.5
R3 r b {float(s.ohm[0, [feed, back]].sum()):.9g}
L3 b p {float(s.henry[0, [feed, back]].sum()):.9g} ic=0
C3 p c4 100u ic=0
R4 c4 0 0.02
R5 p 0 4"""
    agree(run, run.pin_v("eye"), deck(lines, 4e-4, 1e-7, "v(p)", tmp_path), 0.01)


def test_a_punch_sags_the_pack_and_its_slow_part(tmp_path: Path) -> None:
    """From 0 to 60 A of throttle with the motors' 30 ms: 0.7 of the pack's ohms at once, 0.3 behind 20 s."""
    motors = device("m", "pack-rail", 0, kind="motor", nominal_v=14.8, min_v=6, max_v=20, input_f=1e-3, throttle=[{"throttle_frac": 1, "amps": 60}])  # fmt: skip
    run = ran(
        made(devices=[motors]),
        {"act": "throttle", "at_s": 0.1, "to_frac": 1, "over_s": 0.05},
        lasts=5.0,
        begins="bench",
    )
    wires_ohm, wires_h = loop(run, "lead", "feed", "return")
    lines = f"""V1 e 0 {PACK_V}
R1 e f {0.7 * PACK_OHM}
R2 f g {0.3 * PACK_OHM}
C2 f g {20 / (0.3 * PACK_OHM)} ic=0
R3 g h {wires_ohm:.9g}
L3 h p {wires_h + PACK_H:.9g} ic=0
C3 p c 1m ic={PACK_V}
R4 c 0 0.02
Va a 0 PWL(0 0 0.1 0 0.15 60)
Ra a t 1
Ct t 0 0.03 ic=0
B1 p 0 I=V(t)*min(max(V(p),0)/7.4,1)"""
    ours = run.pin_v("m")
    used_v = run.rest_v(0) - run.rest_v(-1)
    assert used_v < 0.12, "its charge falls by 80 mAh of 3 Ah, which the deck has not"
    agree(run, ours, deck(lines, 5.0, 1e-3, "v(p)", tmp_path), 0.01)


@pytest.mark.parametrize("watts", [3.0, 6.0])
def test_a_device_behind_a_diode_lives_on_its_capacitor(watts: float, tmp_path: Path) -> None:
    """The pack is pulled; a millifarad behind a diode of 0.4 V goes down as a constant power takes it, to where it resets."""
    fed = device("d", "r", watts, unit="W", law="power", nominal_v=15, min_v=6, max_v=20, brownout_v=6.0, input_f=0, hold_s=1.0)  # fmt: skip
    diode = {"id": "diode", "name": "Diode", "kind": "diode", "input": "pack-rail", "output": "r", "board": "main", "drop_v": 0.4, "series_ohm": 0.05, "rating_a": 3}  # fmt: skip
    cap = {"kind": "capacitor", "id": "c", "name": "C", "at": "r", "farad": 1e-3, "esr_ohm": 0.05, "dielectric": "polymer", "rated_v": 35, "lead_m": 0.0}  # fmt: skip
    run = ran(
        made(devices=[fed], supplies=[diode], rails=[rail("r")], filters=[cap]),
        {"act": "unplug", "at_s": 0.001},
        lasts=0.02,
        begins="bench",
    )
    farad = filter_f(run)
    start = float(run.rail_v("r")[0])
    lines = f"""V1 c 0 0
C1 r x {farad:.9g} ic={start:.6f}
R1 x 0 0.05
B1 r 0 I=(time<0.001) ? 0 : {watts}*min(max(V(r),0)/6,1)/max(V(r),6)"""
    agree(run, run.rail_v("r"), deck(lines, 0.02, 1e-5, "v(r)", tmp_path), 0.01, after_s=0.0012)


def test_a_regulator_at_its_limit_charges_a_large_capacitor(tmp_path: Path) -> None:
    """5 V, 1.5 A at most, into 4.7 mF with 0.5 A drawn from where the load's law lets it: a ramp, then its output's ohms."""
    ldo = regulator("ldo", "linear", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1.5, output_ohm=0.05, soft_start_s=1e-6, output_f=0, limit_style="constant", theta_still_k_w=0.01)  # fmt: skip
    cap = {"kind": "capacitor", "id": "c", "name": "C", "at": "r", "farad": 4.7e-3, "esr_ohm": 0.03, "dielectric": "polymer", "rated_v": 35, "lead_m": 0.0}  # fmt: skip
    load = device("d", "r", 2.5, unit="W", law="resistance", nominal_v=5, min_v=0.1, max_v=6)
    run = ran(made(devices=[load], supplies=[ldo], rails=[rail("r", 5)], filters=[cap]), PLUG, lasts=0.05)
    farad = filter_f(run)
    lines = f"""Vg g 0 PWL(0 0 1e-6 0 2e-6 1)
B1 0 r I=V(g)*min(max((5-V(r))/0.05,0),1.5)
C1 r x {farad:.9g} ic=0
R1 x 0 0.03
R2 r 0 10
R3 r 0 1meg"""
    agree(run, run.rail_v("r"), deck(lines, 0.05, 2e-5, "v(r)", tmp_path), 0.01, after_s=1e-3)


def test_an_ntc_lets_the_inrush_in_and_warms(tmp_path: Path) -> None:
    """10 Ω cold with B 3000 and a heat balance of its own: amps into 2 mF and 4 Ω, and its ohms on the way down."""
    wire = {"gauge_awg": 16, "length_m": 0.2, "connector": "NTC", "connector_ohm": 0.3, "connector_limit_a": 5.0, "inline": {"kind": "ntc", "cold_ohm": 10.0, "cools_s": 20.0}}  # fmt: skip
    eye = device(
        "eye", "pack-rail", 4.2, law="resistance", nominal_v=16.8, min_v=1, max_v=40, input_f=2e-3,
        feed={"rail": "pack-rail", "wire": wire},
    )  # fmt: skip
    run = ran(made(devices=[eye]), PLUG, lasts=20.0)
    lead_ohm, _ = loop(run, "pack", "lead", "return")
    own = run.moving.circuit.series.inline
    assert own is not None
    watts_a_kelvin, air = float(own.w_k[0]), float(own.air_c[0])
    lines = f"""V1 e 0 {PACK_V}
R1 e a {lead_ohm + wire_ohm(16, 0.2, run.plan.policy.copper_c):.9g}
B1 a p I=V(a,p)/(10*exp(3000*(1/(V(t)+273.15)-1/298.15)))
C1 p c 2m ic=0
R2 c 0 0.02
R3 p 0 4
B2 0 t I={watts_a_kelvin:.9g}*{air}+V(a,p)*V(a,p)/(10*exp(3000*(1/(V(t)+273.15)-1/298.15)))
Rt t 0 {1 / watts_a_kelvin:.9g}
Ct t 0 {20.0 * watts_a_kelvin:.9g} ic={air}"""
    agree(run, run.pin_v("eye"), deck(lines, 20.0, 5e-3, "v(p)", tmp_path), 0.01, after_s=0.05)


def test_usb_and_then_the_pack_share_a_rail_through_their_diodes(tmp_path: Path) -> None:
    """A port of 5 V and 0.5 A at most, 120 µF that stand charged, 0.2 Ω and 0.3 V of diode; at 20 ms a regulator of 5.2 V behind 0.35 V takes over."""
    usb = {
        "id": "usb",
        "name": "USB",
        "kind": "usb",
        "rail": "r",
        "limit_a": 0.5,
        "series_ohm": 0.2,
        "drop_v": 0.3,
        "output_f": 120e-6,
    }
    bec = regulator("bec", "linear", "pack-rail", "q", 5.2, rating_a=2, output_ohm=0.02, soft_start_s=1e-4, output_f=0, theta_still_k_w=0.01)  # fmt: skip
    diode = {"id": "diode", "name": "Diode", "kind": "diode", "input": "q", "output": "r", "board": "main", "drop_v": 0.35, "series_ohm": 0.03, "rating_a": 3}  # fmt: skip
    cap = {"kind": "capacitor", "id": "c", "name": "C", "at": "r", "farad": 470e-6, "esr_ohm": 0.03, "dielectric": "polymer", "rated_v": 35, "lead_m": 0.0}  # fmt: skip
    load = device("d", "r", 1.25, unit="W", law="resistance", nominal_v=5, min_v=0.1, max_v=6)
    run = ran(
        made(devices=[load], supplies=[bec, diode], rails=[rail("q", 5.2), rail("r", 5)], filters=[cap], inlets=[usb]),
        {"act": "connect", "inlet": "usb", "at_s": 0.001}, {"act": "plug", "at_s": 0.02}, {"act": "disconnect", "inlet": "usb", "at_s": 0.03},
        lasts=0.04,
    )  # fmt: skip
    farad = filter_f(run)
    lines = f"""B1 0 port I=min(max((5-V(port))/0.001,0),0.5)
C2 port y 120u ic=5
R4 y 0 0.03
Vg g 0 PWL(0 0 0.001 0 0.001001 1 0.03 1 0.030001 0)
B3 port r I=V(g)*max((V(port)-0.3-V(r))/0.2,0)
Vs s 0 PWL(0 0 0.02 0 0.0201 5.2)
B2 0 r I=max((V(s)-0.35-V(r))/0.05,0)
C1 r x {farad:.9g} ic=0
R1 x 0 0.03
R2 r 0 20
R3 r 0 1meg"""
    agree(run, run.rail_v("r"), deck(lines, 0.04, 2e-5, "v(r)", tmp_path), 0.015, after_s=1.2e-3)
