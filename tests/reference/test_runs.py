"""Runs in time against closed forms, and against ngspice's own transient of whole plans."""

import math
import subprocess
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import need
from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.small_signal import operating_point
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks.running import RunCase, chatters
from yardmeter.core.formats.run_netlist import names_of, write_run_netlist
from yardmeter.core.network.ac_build import build_ac
from yardmeter.core.network.in_time import POLARISED_FRAC
from yardmeter.core.network.keys import ground_node, pin_node
from yardmeter.core.physics.thermal import trip_time_s
from yardmeter.core.plan import Plan, Scenario, load_plan
from yardmeter.core.runs import Run, find_scenario, run_scenario
from yardmeter.core.runs.report import report
from yardmeter.core.solver.ac import solve_ac
from yardmeter.core.solver.transient.trace import Happening

BULK = {"kind": "capacitor", "id": "bulk", "name": "Bulk", "at": "pack-rail", "farad": 470e-6, "esr_ohm": 0.01, "dielectric": "polymer", "lead_m": 0.003}  # fmt: skip


def scenario(*acts: dict[str, object], lasts: float, **rest: object) -> Scenario:
    return Scenario.model_validate({"id": "mine", "name": "Mine", "duration_s": lasts, "acts": list(acts), **rest})


PLUG = {"act": "plug", "at_s": 0.0}


def loop_of(run: Run) -> tuple[float, float, float, float]:
    """R, L, C and EMF of a pack, its lead, one capacitor and its ground, all in one loop."""
    s, made = run.moving.circuit.series, run.moving
    names = [made.pack, *(k for key, k in made.series.items() if key.role in ("lead", "return", "filter"))]
    farad = next(1 / s.elastance[0, k] for k in names if s.elastance[0, k])
    return float(s.ohm[0, names].sum()), float(s.henry[0, names].sum()), float(farad), float(s.emf[0, made.pack])


def top_of(times: np.ndarray, values: np.ndarray) -> float:
    """Where the parabola through the highest step and its neighbours stands [s]."""
    k = int(values.argmax())
    bend, slope, _ = np.polyfit(times[k - 1 : k + 2] - times[k], values[k - 1 : k + 2], 2)
    return float(times[k] - slope / (2 * bend))


@pytest.mark.parametrize(("series", "farad"), [(1, 47e-6), (4, 470e-6), (12, 220e-6)])
def test_a_hot_plug_rings_as_the_series_circuit_does(series: int, farad: float) -> None:
    """`v = E (1 − e^(−αt) (cos ωt + α/ω sin ωt))`, circuit theory; peak within 1 %, its time within 2 %."""
    made = plan(series=series, filters=[{**BULK, "farad": farad, "rated_v": 63}])
    run = run_scenario(made, scenario(PLUG, lasts=2e-3))
    ohm, henry, farad, emf = loop_of(run)
    damping, omega = ohm / (2 * henry), math.sqrt(1 / (henry * farad) - (ohm / (2 * henry)) ** 2)
    k = next(key for key in run.moving.series if key.role == "filter")
    volts = run.charge_of(run.moving.series[k]) / farad
    peak, at = emf * (1 + math.exp(-damping * math.pi / omega)), math.pi / omega
    assert volts.max() == pytest.approx(peak, rel=0.01)
    assert top_of(run.times_s, volts) == pytest.approx(at, rel=0.02)
    exact = emf * (1 - np.exp(-damping * run.times_s) * (np.cos(omega * run.times_s) + damping / omega * np.sin(omega * run.times_s)))  # fmt: skip
    assert np.abs(volts - exact).max() < 0.012 * emf, "the rail's ceramic rings along, a part in 500 of the smallest"
    # The pack's charge is what the capacitor and the ceramic hold: nothing else is there.
    assert run.charge_c[-1] == pytest.approx(volts[-1] * (farad + 100e-9), rel=1e-4)


def test_a_resistor_in_the_plug_takes_the_ringing_away() -> None:
    """Overdamped: never above the EMF; the inrush is E/R."""
    made = plan(filters=[BULK])
    run = run_scenario(made, scenario({**PLUG, "anti_spark_ohm": 4.7, "anti_spark_s": 0.02}, lasts=0.02))
    emf = made.pack.rest_v("full")
    assert run.rail_v("pack-rail").max() <= emf * 1.0001
    assert run.pack_a.max() == pytest.approx(emf / (4.7 + loop_of(run)[0]), rel=0.01)


@pytest.mark.parametrize("law", ["power", "current"])
def test_a_capacitor_holds_a_device_up_for_as_long_as_its_energy_lasts(law: str) -> None:
    """Cut off from its feed: `t = C (V1² − V2²)/2P` for a power, `C (V1 − V2)/I` for a current; circuit theory."""
    radio = device("radio", "pack-rail", 2.0, unit="W", law=law, nominal_v=12, min_v=9, max_v=20, brownout_v=6.0, hold_s=1e-4, input_f=1e-3)  # fmt: skip
    made = plan(devices=[radio])
    cut = {"act": "fail", "at_s": 0.01, "element": "radio", "how": "open"}
    run = run_scenario(made, scenario(cut, lasts=0.3, begins="bench"))
    before = float(run.pin_v("radio")[run.at(0.0099)])
    farad, watts = 1e-3, 2.0
    lasts = farad * (before**2 - 6**2) / (2 * watts) if law == "power" else farad * (before - 6) / (watts / 12)
    under = next(one for one in run.events if one.code is Happening.UNDER)
    assert under.at_s - 0.01 == pytest.approx(lasts, rel=0.02)
    reset = next(one for one in run.events if one.code is Happening.RESET)
    assert reset.at_s == pytest.approx(under.at_s + 1e-4, abs=2e-6)


def test_a_regulator_trips_when_its_time_constant_says() -> None:
    """One thermal resistance, one time constant: `physics.thermal`; it starts again 20 K cooler."""
    small = regulator("ldo", "linear", "pack-rail", "r", 5.0, theta_still_k_w=40, theta_moving_k_w=40, tau_s=10, trip_c=110, limit_style="constant")  # fmt: skip
    made = plan(rails=[rail("r", 5)], supplies=[small], devices=[device("d", "r", 0.4, boot_s=0)])
    run = run_scenario(made, scenario(lasts=60, begins="bench", air="still"))
    state = solve_plan(made).supply("ldo").states["bench"]
    trip = next(one for one in run.events if one.code is Happening.TRIPS)
    assert trip.at_s == pytest.approx(trip_time_s(30, state.loss_w, 40, 10, 110), rel=0.02)
    cools = next(one for one in run.events if one.code is Happening.COOLS)
    assert cools.at_s - trip.at_s == pytest.approx(10 * math.log((110 - 30) / (90 - 30)), rel=0.02)


def test_hiccups_come_at_the_pause_and_the_time_a_limit_is_stood() -> None:
    """Soft start, a limit stood for a millisecond, a pause: one round is their sum."""
    weak = regulator("bec", "buck", "pack-rail", "r", 5.0, rating_a=1, current_limit_a=1, soft_start_s=0.002, retry_s=0.05)  # fmt: skip
    load = device("d", "r", 2.0, boot_s=0, law="resistance", min_v=0.5, brownout_v=0.4, nominal_v=5)
    run = run_scenario(plan(rails=[rail("r", 5)], supplies=[weak], devices=[load]), scenario(PLUG, lasts=1.0))
    gives_up = [one.at_s for one in run.events if one.code is Happening.HICCUPS]
    assert len(gives_up) >= 3
    # It starts, ramps up to its limit after half of its soft start, and stands it for a millisecond past the ramp's end.
    assert np.diff(gives_up)[0] == pytest.approx(0.05 + 0.002 + 0.001, rel=0.005)
    loop = next(one for one in run.events if one.code is Happening.RETRIES)
    assert loop.period_s == pytest.approx(0.053, rel=0.02)
    assert loop.at_s + loop.rounds * loop.period_s == pytest.approx(1.0, abs=0.12)


@pytest.mark.parametrize("name", ["marshlight-as-soldered", "heathwatch-own-supply", "wren-boosted-logic"])
def test_where_nothing_happens_everything_stays_as_it_was_solved(name: str) -> None:
    """What is overloaded resets and hiccups, as it would; all else stands, but for what the pack loses meanwhile."""
    made = demo.plan(name)
    solved, still = solve_plan(made), 0
    for condition in (one for one in made.conditions if one.on_pack):
        run = run_scenario(made, scenario(lasts=0.5, begins=condition.id))
        pulses = any(one.burst and condition.state_of(one.id) == "peak" for one in made.devices)
        if run.events or pulses:
            continue
        still += 1
        sag = run.rest_v(0) - run.rest_v(run.times_s.size - 1)
        for one in made.rails:
            volts = solved.rail(one.id).states[condition.id].volts_v
            if volts:  # what has no source stands at nothing there by decree
                assert run.rail_v(one.id)[-1] == pytest.approx(volts, abs=1.1 * sag + 3e-3), one.id
    assert still >= 2


def test_a_flight_uses_the_charge_its_current_adds_up_to() -> None:
    """Coulombs: the sum of amps times seconds, and what the endurance sum says for an even hover."""
    made = demo.plan("marshlight-as-soldered")
    run = run_scenario(made, scenario(lasts=300, begins="hover", pack_state="full"))
    by_hand = np.trapezoid(run.pack_a, run.times_s)
    assert run.charge_c[-1] == pytest.approx(by_hand, rel=2e-3)
    hover = next(one for one in solve_plan(made).budget.conditions if one.id == "hover")
    assert run.charge_c[-1] / 300 == pytest.approx(hover.pack_a, rel=0.02)
    assert report(run).charge_ah == pytest.approx(run.charge_c[-1] / 3600)


def test_finer_steps_change_no_event_by_more_than_a_hundredth() -> None:
    made = demo.plan("wren-straight-from-the-cell")
    own = find_scenario(made, "punch-on-low-pack")
    coarse, fine = run_scenario(made, own), run_scenario(made, own, rtol=1e-4)
    assert fine.trace.steps > 1.5 * coarse.trace.steps
    assert [one.code for one in coarse.events] == [one.code for one in fine.events]
    for one, other in zip(coarse.events, fine.events, strict=True):
        assert one.at_s == pytest.approx(other.at_s, rel=0.01)


# --- ngspice ----------------------------------------------------------------------------------------------------------

CLAMPED = load_plan(
    {
        **plan(filters=[{**BULK, "farad": 47e-6}]).model_dump(mode="json"),
        "clamps": [
            {"id": "tvs", "name": "Clamp", "at": "pack-rail", "standoff_v": 17, "breakdown_v": 19, "dynamic_ohm": 0.02}
        ],
    }
)
WHOLE = [
    ("marshlight-as-soldered", "plug-in", 2e-6, 20e-6),
    ("marshlight-as-soldered", "punch-on-low-pack", 1e-3, 1e-3),
    ("heathwatch-as-stacked", "punch-and-brake", 1e-3, 1e-3),
    ("culvert-lights-on", "everything-at-once", 1e-3, 1e-3),
    ("wren-straight-from-the-cell", "punch-on-low-pack", 1e-3, 1e-3),
]  # fmt: skip


APART_S = 1e-7
"""At the edge of a contact a simulator takes hundreds of steps: moments closer than that count as one."""


def theirs_of(run: Run, folder: Path, step_s: float) -> tuple[np.ndarray, np.ndarray, list[str]]:
    """Times, node volts and node names of ngspice's transient of a run's netlist."""
    program = need("ngspice")
    names = names_of(run.moving)
    nodes = [names[k] for k in range(len(names) - 1)]
    data, file = folder / "run.dat", folder / "run.cir"
    control = f".control\nset wr_singlescale\nrun\nwrdata {data} {' '.join(f'v({n})' for n in nodes)}\n.endc\n.end\n"
    file.write_text(write_run_netlist(run, step_s=step_s).replace(".end\n", control))
    said = subprocess.run([program, "-b", str(file)], capture_output=True, text=True, timeout=120, check=False)
    found = np.loadtxt(data)
    assert found[-1, 0] >= 0.999 * run.scenario.duration_s, said.stdout[-500:] + said.stderr[-500:]
    return found[:, 0], found[:, 1:], nodes


def far_off(run: Run, folder: Path, step_s: float, after_s: float, *, peaks: bool = True) -> dict[str, float]:
    """Nodes that differ by more than a hundredth of the largest volts: along the way, and in their least and most."""
    times, volts, nodes = theirs_of(run, folder, step_s)
    ours = run.trace.column("volts")
    late, bound = times > after_s, 0.01 * float(np.abs(ours).max())
    counted = np.diff(times[late], prepend=-1.0) > APART_S
    far = {}
    for k, name in enumerate(nodes):
        mine, their = np.interp(times[late], run.times_s, ours[:, k]), volts[late, k]
        gaps = [
            float(np.percentile(np.abs(mine - their)[counted], 98))
        ]  # a jump a step later is no difference of volts
        gaps += [abs(mine.max() - their.max()), abs(mine.min() - their.min())] if peaks else []
        if max(gaps) > bound:
            far[name] = max(gaps)
    return far


@pytest.mark.parametrize(("name", "which", "step_s", "after_s"), WHOLE)
def test_demo_plans_move_as_ngspice_moves_them(
    name: str, which: str, step_s: float, after_s: float, tmp_path: Path
) -> None:
    """The first microseconds of a plug are left out: the netlist has a nanofarad at each node there, we have none."""
    made = demo.plan(name)
    run = run_scenario(made, find_scenario(made, which))
    assert run.stuck_s is None
    assert not far_off(run, tmp_path, step_s, after_s)


def test_a_clamp_keeps_the_peak_to_what_ngspice_says(tmp_path: Path) -> None:
    bare, clamped = (run_scenario(made, scenario(PLUG, lasts=4e-4)) for made in (plan(filters=[{**BULK, "farad": 47e-6}]), CLAMPED))  # fmt: skip
    times, volts, nodes = theirs_of(clamped, tmp_path, 2e-7)
    rail_at, ground = nodes.index("rail_pack_rail"), nodes.index("gnd_main")
    peak = (volts[:, rail_at] - volts[:, ground])[times > 1e-6].max()
    assert clamped.rail_v("pack-rail").max() == pytest.approx(peak, rel=0.01)
    assert bare.rail_v("pack-rail").max() > 1.2 * peak
    life = report(clamped).clamps[0]
    amps = clamped.load_a("tvs")
    assert life.most_v == pytest.approx(19 + 0.02 * amps.max(), rel=1e-3)
    assert life.energy_j == pytest.approx(np.trapezoid(amps * clamped.pin_v("tvs"), clamped.times_s), rel=0.05)


def test_an_unplugged_craft_falls_without_a_spike_as_in_ngspice(tmp_path: Path) -> None:
    """Under load: the arc takes what was in the leads; what is left runs on the capacitor."""
    load = device("d", "pack-rail", 20, law="resistance", nominal_v=16, min_v=1, max_v=20)
    made = plan(devices=[load], filters=[BULK])
    run = run_scenario(made, scenario({"act": "unplug", "at_s": 2e-3}, {"act": "plug", "at_s": 6e-3, "anti_spark_ohm": 2.2, "anti_spark_s": 1e-3}, lasts=10e-3, begins="bench"))  # fmt: skip
    assert not far_off(run, tmp_path, 1e-5, 1e-4, peaks=False)  # its steps of resistance are a nanosecond there
    assert run.rail_v("pack-rail")[run.times_s < 6e-3].max() < 16.85
    assert run.rail_v("pack-rail")[run.at(5.9e-3)] < 2.0
    assert run.trace.lost_j[0] < 1e-6


def test_braking_without_a_pack_ends_where_the_rail_takes_no_more_as_in_ngspice(tmp_path: Path) -> None:
    """Motors give back nothing at 1.6 times a full pack, all a volt below, in a straight line (our choice): by hand
    `V/26 Ω = 2 A · (1.6 · 16.8 V − V)/1 V`, with the 26 Ω that are left on the rail."""
    motors = device("m", "pack-rail", 8, kind="motor", nominal_v=12, min_v=3, max_v=60, throttle=[{"throttle_frac": 1, "amps": 40}])  # fmt: skip
    draws = device("d", "pack-rail", 1, law="resistance", nominal_v=26, min_v=1, max_v=60)
    made = plan(devices=[motors, draws], filters=[{**BULK, "rated_v": 63}])
    acts = [{"act": "unplug", "at_s": 0.001}, {"act": "brake", "at_s": 0.002, "share_frac": 0.05, "for_s": 0.3}]
    run = run_scenario(made, scenario(*acts, lasts=0.3, begins="bench"))
    assert run.rail_v("pack-rail").max() == pytest.approx(
        1.6 * 16.8 * 52 / 53, rel=1e-3
    )  # less some millivolts in wires
    assert not far_off(run, tmp_path, 1e-5, 1e-4, peaks=False)


def test_a_pack_comes_back_under_a_rail_that_was_braked_up(tmp_path: Path) -> None:
    """240 A that begin again within the microseconds in which 80 V fall to a pack of 50 V: a simulator finds its way through."""
    motors = device("m", "pack-rail", 0.2, kind="motor", nominal_v=44, min_v=1, max_v=90, throttle=[{"throttle_frac": 1, "amps": 240}])  # fmt: skip
    made = plan(series=12, devices=[motors], filters=[{**BULK, "farad": 2e-3, "rated_v": 100}])
    acts = [
        {"act": "brake", "at_s": 0.001, "share_frac": 1.0, "for_s": 0.1},
        {"act": "unplug", "at_s": 0.03},
        {**PLUG, "at_s": 0.06},
    ]
    run = run_scenario(made, scenario(*acts, lasts=0.08, begins="bench"))
    assert run.rail_v("pack-rail").max() == pytest.approx(1.6 * 12 * 4.2, abs=0.1)
    assert not far_off(run, tmp_path, 1e-5, 1e-4, peaks=False)


def test_a_lamp_lights_on_a_short_and_stays_dark_on_a_sound_craft() -> None:
    """First power through a lamp: cold it passes the charge, hot it holds the current to little more than its rating."""
    lamp = {"id": "lamp", "name": "Lamp", "kind": "lamp", "rail": "pack-rail", "volts": 14, "limit_a": 1.5}
    through = [{"act": "connect", "at_s": 0.0, "inlet": "lamp"}, PLUG]

    def tried(amps: float) -> Run:
        made: Plan = plan(inlets=[lamp], filters=[BULK], devices=[device("d", "pack-rail", amps, law="resistance", nominal_v=14, min_v=6, max_v=20)])  # fmt: skip
        return run_scenario(made, scenario(*through, lasts=2.0))

    sound, shorted = tried(0.05), tried(50)
    assert (report(sound).limiter, report(shorted).limiter) == ("dark", "lit")
    assert sound.rail_v("pack-rail")[-1] > 0.97 * 16.8
    # Filament law I ~ V^0.55 from its rating (from memory of lamp tables): 1.5 A · (16.8/14)^0.55.
    assert shorted.pack_a[-1] == pytest.approx(1.5 * (16.8 / 14) ** 0.55, rel=0.05)
    assert shorted.pack_a.max() > 3 * shorted.pack_a[-1]


@pytest.mark.parametrize(("hertz", "filtered"), [(60e3, False), (60e3, True), (200e3, True)])
def test_a_current_that_swings_meets_the_impedance_of_the_small_signal_network(hertz: float, filtered: bool) -> None:
    """Two solvers of one plan: volts over amps at a device's pins, once stepped through, once at that frequency.

    The small-signal network has all of a cell's resistance at once; here a part builds up in seconds, so it is given the rest.
    """
    cap = {**BULK, "farad": 47e-6, "esr_ohm": 0.05}
    coil = {"kind": "lc", "id": "coil", "name": "Coil", "at": "cam", "henry": 4.7e-6, "farad": 10e-6, "esr_ohm": 0.08, "dcr_ohm": 0.03, "saturation_a": 50, "dielectric": "polymer", "lead_m": 0.002}  # fmt: skip
    cam = device("cam", "pack-rail", 1.0, nominal_v=12, min_v=5, max_v=20)
    made, quick = (plan(cell_ohm=ohm, devices=[cam], filters=[cap, coil] if filtered else [cap]) for ohm in (0.003, 0.003 * (1 - POLARISED_FRAC)))  # fmt: skip
    network = build_ac(operating_point(solve_conditions(quick), quick.conditions[0]))
    a, b = network.node[pin_node("cam")], network.node[ground_node("cam")]
    driven = np.zeros((1, len(network.node), 1), complex)
    driven[0, a, 0], driven[0, b, 0] = 1.0, -1.0
    volts = solve_ac(network.circuit(np.array([hertz])), driven)
    expected = abs(volts[0, a, 0] - volts[0, b, 0])

    period, points, periods = 1 / hertz, 16, 20
    acts = [
        {"act": "draw", "at_s": k * period / points, "device": "cam", "value": 1 + 0.8 * math.sin(2 * math.pi * (k + 1) / points), "over_s": period / points}
        for k in range(points * periods)
    ]  # fmt: skip
    run = run_scenario(made, scenario(*acts, lasts=periods * period, begins="bench"), rtol=3e-4)
    times = np.linspace((periods - 4) * period, periods * period, 4001)[:-1]
    turn = np.exp(-2j * math.pi * hertz * times)
    volt, amp = (
        abs((np.interp(times, run.times_s, one) * turn).mean()) for one in (run.pin_v("cam"), run.load_a("cam"))
    )
    assert volt / amp == pytest.approx(expected, rel=0.02)


# --- ports ------------------------------------------------------------------------------------------------------------


def on_usb(**port: object) -> Plan:
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five", "limit_a": 0.5, "series_ohm": 0.2, **port}
    bench = {"id": "on-usb", "name": "On USB", "energy": ["usb"]}
    load = device("d", "five", 0.1, boot_s=0.001, brownout_v=4.4)
    bulk = {**BULK, "at": "five", "farad": 100e-6, "esr_ohm": 0.03}
    return plan(rails=[rail("five", 5)], devices=[load], filters=[bulk], inlets=[usb], conditions=[bench])


def test_a_ports_capacitor_shares_its_charge_with_the_crafts() -> None:
    """Two capacitors through the cable: `V = V0 C1/(C1 + C2) (1 − e^(−t/RC))` (textbook), then the limit goes on."""
    run = run_scenario(on_usb(limit_a=0.001), scenario({"act": "connect", "inlet": "usb", "at_s": 1e-4}, lasts=1e-3))
    s = run.moving.circuit.series
    kept = next(k for key, k in run.moving.series.items() if key.role == "filter")
    theirs, own = 120e-6, 1 / float(s.elastance[0, kept])
    assert [one.farad for one in run.moving.ports] == [120e-6]
    ohm, both = 0.2 + 0.03 + 0.03, theirs * own / (theirs + own)
    for after in (10e-6, 25e-6, 100e-6):
        expected = 5 * theirs / (theirs + own) * (1 - math.exp(-after / (ohm * both)))
        inside = np.interp(1e-4 + after, run.times_s, run.charge_of(kept)) / own
        assert inside == pytest.approx(expected, rel=0.03), after
    slow = run_scenario(on_usb(), scenario({"act": "connect", "inlet": "usb", "at_s": 1e-4}, lasts=5e-3))
    rise = np.interp([3e-4, 5e-4], slow.times_s, slow.rail_v("five"))
    assert (rise[1] - rise[0]) / 2e-4 == pytest.approx(0.5 / (theirs + own), rel=0.02), "both are charged by the limit"
    assert slow.rail_v("five")[-1] == pytest.approx(5 - 0.2 * 0.1, abs=2e-3)
    assert {one.element for one in slow.events if one.code is Happening.LIMITS} == {"usb"}


def test_a_port_without_its_capacitor_gives_its_limit_and_no_more() -> None:
    act = {"act": "connect", "inlet": "usb", "at_s": 1e-4}
    bare, usual = (run_scenario(on_usb(**more), scenario(act, lasts=3e-3)) for more in ({"output_f": 0}, {}))
    assert bare.supply_a("usb").max() == pytest.approx(0.5, rel=1e-3)
    assert usual.supply_a("usb").max() == pytest.approx(5 / 0.26, rel=0.08)
    assert not bare.moving.ports
    assert [on_usb(kind=kind).inlets[0].gives_f for kind in ("usb", "bench")] == [120e-6, 470e-6]


def test_on_a_port_where_nothing_happens_nothing_moves_and_unplugged_it_charges_again() -> None:
    over = {"act": "draw", "device": "d", "value": 0.7, "at_s": 0.2}
    run = run_scenario(on_usb(drop_v=0.3), scenario({**over, "value": 0.1}, lasts=0.4, begins="on-usb"))
    assert np.ptp(run.rail_v("five")) < 1e-3
    at_port = run.trace.column("volts")[:, run.moving.ports[0].node]
    assert at_port == pytest.approx(5.0, abs=2e-3), "before its diode"
    acts = [over, {"act": "disconnect", "inlet": "usb", "at_s": 0.3}]
    run = run_scenario(on_usb(), scenario(*acts, lasts=0.5, begins="on-usb"))
    (port,) = run.moving.ports
    at_port = run.trace.column("volts")[:, port.node]
    assert at_port[run.at(0.29)] < 4.5, "over its limit its volts fall"
    assert at_port[-1] == pytest.approx(5.0, abs=5e-3)
    assert run.rail_v("five")[-1] < 4.0


def test_a_craft_plugged_into_usb_rises_as_in_ngspice(tmp_path: Path) -> None:
    run = run_scenario(on_usb(), scenario({"act": "connect", "inlet": "usb", "at_s": 1e-4}, lasts=3e-3))
    assert not far_off(run, tmp_path, 1e-6, 1.2e-4)


# --- a regulator that takes its own input down ------------------------------------------------------------------------


def chattering(stop_v: float, amps: float = 5.0) -> Plan:
    """An ohm in the pack's lead, a millifarad, and a linear regulator that starts at 14 V."""
    own = regulator("ldo", "linear", "pack-rail", "five", 5.0, rating_a=9, current_limit_a=9, start_v=14, stop_v=stop_v, soft_start_s=1e-6, output_f=1e-7, theta_still_k_w=0.1)  # fmt: skip
    load = device("d", "five", amps, law="resistance", min_v=0.5, brownout_v=0.4)
    made = plan(cell_ohm=1e-4, rails=[rail("five", 5)], supplies=[own], devices=[load], filters=[{**BULK, "farad": 1e-3, "esr_ohm": 1e-3}])  # fmt: skip
    document = made.model_dump(mode="json")
    document["pack"]["lead"].update(connector_ohm=1.0)
    return load_plan(document)


@pytest.mark.parametrize("stop_v", [13.0, 13.5])
def test_a_regulator_chatters_with_the_period_of_its_inputs_charge(stop_v: float) -> None:
    """On: `RC ln((14 − (E − IR))/(stop − (E − IR)))`; off: `RC ln((E − stop)/(E − 14))` (textbook), each threshold passed by what
    moves in the time its control's view of the input lags."""
    made = chattering(stop_v)
    run = run_scenario(made, scenario(PLUG, lasts=30.0))
    s = run.moving.circuit.series
    kept = next(k for key, k in run.moving.series.items() if key.role == "filter")
    on_the_way = [
        k for key, k in run.moving.series.items() if key.role in ("pack", "lead") or key.element == "main-gnd"
    ]
    ohm, farad = float(s.ohm[0, on_the_way].sum()), 1 / float(s.elastance[0, kept])
    on, steps = run.runs("ldo") > 0, np.diff(run.times_s, prepend=0.0)
    low = 16.8 - float((run.supply_a("ldo") * steps)[on].sum() / steps[on].sum()) * ohm
    late_frac = float(run.moving.circuit.converting.entry_s[0]) / (ohm * farad)
    stops, starts = stop_v - late_frac * (stop_v - low), 14 + late_frac * 2.8
    expected = ohm * farad * (math.log((starts - low) / (stops - low)) + math.log((16.8 - stops) / (16.8 - starts)))
    found = next(one for one in run.events if one.code is Happening.CHATTERS)
    assert found.period_s == pytest.approx(expected, rel=0.02)
    assert run.stuck_s is None
    assert run.trace.steps < 20_000, "whole rounds are skipped"
    assert report(run).supplies[0].chatter_s == found.period_s
    (told,) = chatters(RunCase(made, ((run.scenario, report(run)),)))
    assert (told.severity, told.elements, told.compared.limit) == ("fault", ("ldo",), stop_v)
    assert told.compared.observed == pytest.approx(stop_v, abs=0.1)


def test_a_regulator_whose_input_stays_above_its_stop_volts_does_not_chatter() -> None:
    made = chattering(11.0)
    run = run_scenario(made, scenario(PLUG, lasts=1.0))
    assert not [one for one in run.events if one.code in (Happening.STOPS, Happening.CHATTERS)]
    assert report(run).supplies[0].least_in_v == pytest.approx(16.8 - 5.0, abs=0.2)
    assert not list(chatters(RunCase(made, ((run.scenario, report(run)),))))


def test_chatter_has_the_period_a_switch_with_hysteresis_has_in_ngspice(tmp_path: Path) -> None:
    """A netlist of its own: an EMF, what is on the way, the capacitor, and a switch that takes the regulator's current."""
    run = run_scenario(chattering(13.0), scenario(PLUG, lasts=0.05))
    s = run.moving.circuit.series
    kept = next(k for key, k in run.moving.series.items() if key.role == "filter")
    on_the_way = [
        k for key, k in run.moving.series.items() if key.role in ("pack", "lead") or key.element == "main-gnd"
    ]
    amps = float(np.median(run.supply_a("ldo")[run.runs("ldo") > 0]))
    data, file = tmp_path / "chatter.dat", tmp_path / "chatter.cir"
    file.write_text(
        f"""* a regulator that starts at 14 V and stops at 13 V
V1 e 0 16.8
R1 e in {float(s.ohm[0, on_the_way].sum()):.9g}
C1 in 0 {1 / float(s.elastance[0, kept]):.9g} ic=0
Vh h 0 1
S1 h g in 0 reg
Rg g 0 1k
Cg g 0 1n
B1 in 0 I={amps:.9g}*V(g)
.model reg SW(vt=13.5 vh=0.5 ron=1 roff=1e9)
.tran 1e-6 0.02 0 1e-6 uic
.control
set wr_singlescale
run
wrdata {data} v(in)
.endc
.end
"""
    )
    said = subprocess.run([need("ngspice"), "-b", str(file)], capture_output=True, text=True, timeout=120, check=False)
    times, volts = np.loadtxt(data).T
    lows = times[1:-1][(volts[1:-1] < volts[:-2]) & (volts[1:-1] <= volts[2:]) & (volts[1:-1] < 13.1)]
    period = float(np.median(np.diff(lows)))
    assert period > 1e-4, said.stderr[-300:]
    found = next(one for one in run.events if one.code is Happening.CHATTERS)
    assert found.period_s == pytest.approx(period, rel=0.05), (
        "the capacitor's ESR and the lag of its control are not in there"
    )
