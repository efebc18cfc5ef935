"""The number at which each rule begins, found by halving, against the number it should be, worked out by hand beside it.

A limit, a factor or a sense that is off moves the number that is found. Where a verdict grows heavier, that number is found too.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import pytest

from tests.core.test_grounds import pin
from tests.core.test_noise import behind_buck, bulk, flying, section
from tests.plans import LOW, STILL, device, draws, plan, rail, regulator
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import RULES, run_rules
from yardmeter.core.checks.noise import SeenInPicture
from yardmeter.core.checks.noise_case import noise_case
from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.verdict import SEVERITY_ORDER, Severity, Verdict

Build = Callable[[float], Plan]
STEPS = 14
"""Halvings: to a part in 16 000 of the span."""


def verdict(made: Plan, code: str) -> Verdict | None:
    solved = solve_plan(made)
    case = noise_case(solved.solved) if RULES[code].sees == "noise" else solved
    return next((one for one in run_rules(case, RULES[code].sees) if one.code == code), None)


def begins(build: Build, code: str, quiet: float, loud: float, severity: Severity) -> tuple[float, Verdict]:
    """Where the verdict becomes at least so heavy on the way from a quiet number to a loud one, and what it is just past that."""

    def heavy(value: float) -> Verdict | None:
        found = verdict(build(value), code)
        return found if found and SEVERITY_ORDER[found.severity] <= SEVERITY_ORDER[severity] else None

    assert heavy(quiet) is None
    past = heavy(loud)
    for _ in range(STEPS):
        middle = (quiet + loud) / 2
        if found := heavy(middle):
            loud, past = middle, found
        else:
            quiet = middle
    assert past is not None
    return loud, past


@dataclass(frozen=True)
class Edge:
    """Where a rule should begin: `at`, within `rel`, in these conditions, with this worst one."""

    code: str
    severity: Severity
    build: Build
    span: tuple[float, float]
    at: float
    conditions: tuple[str, ...]
    worst: str | None
    rel: float = 2e-3


FIVE = [rail("five", 5)]
EFF = {"efficiency": [{"amps": 1, "efficiency_frac": 0.9}]}
USB = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five", "limit_a": 0.5}
HOVER = {"id": "hover", "name": "Hover", "pack_state": "nominal", "throttle_frac": 0.3}
SHORT = {"gauge_awg": 14, "length_m": 0.01}


def five(*devices: dict[str, Any], **more: Any) -> Plan:
    buck = more.pop("buck", regulator("b", "buck", "pack-rail", "five", 5.0, **EFF))
    return plan(
        rails=[*FIVE, *more.pop("rails", [])], supplies=[buck, *more.pop("supplies", [])], devices=list(devices), **more
    )


def compass(metres: float) -> Plan:
    """10 A in a pair 6 mm apart: B = μ0 I s / 2π d² (two long wires, far field)."""
    near = device("gps", "pack-rail", 0.0, nominal_v=14, min_v=6, max_v=20, compass={"distance_m": metres})
    return plan(devices=[near, device("load", "pack-rail", 10.0, nominal_v=14, min_v=6, max_v=20)], conditions=[STILL])


def guessed(share: float) -> Plan:
    """1 A together, a share of it a guess, far from the rail's limit."""
    return five(device("g", "five", share, provenance="guess"), device("m", "five", 1 - share), conditions=[STILL])


def at_the_top(amps: float) -> Plan:
    """A guess is ±50 %: 3 A usable is reached at the top of the band from 2 A on."""
    cool = regulator("b", "buck", "pack-rail", "five", 5.0, theta_still_k_w=1, **EFF)
    return five(device("g", "five", amps, provenance="guess"), buck=cool, conditions=[STILL])


def shorted(volts: float) -> Plan:
    return five(device("d", "five", 0.2, max_v=volts), conditions=[STILL])


def linear_watts(amps: float) -> Plan:
    linear = regulator("l", "linear", "pack-rail", "five", 5.0, quiescent_a=0.0, theta_still_k_w=20)
    return five(device("d", "five", amps), buck=linear, conditions=[STILL])


def resting(theta: float) -> Plan:
    linear = regulator("l", "linear", "pack-rail", "five", 5.0, theta_still_k_w=theta, theta_moving_k_w=2, quiescent_a=0.0, trip_c=150)  # fmt: skip
    return five(device("d", "five", 0.2), buck=linear, conditions=[HOVER])


def on_usb(amps: float) -> Plan:
    return five(device("d", "five", amps, min_v=3, max_v=6), inlets=[USB], conditions=[{**STILL, "energy": ["usb"]}])


def on_pad(amps: float) -> Plan:
    pads = [{"id": "p1", "label": "P1", "limit_a": 0.8}, {"id": "p2", "label": "P2"}]
    fed = {"rail": "five", "pad": "p1", "wire": SHORT}
    both = [device(n, "five", amps / 2, feed=fed) for n in "de"]
    return plan(rails=[{**FIVE[0], "pads": pads}], supplies=[regulator("b", "buck", "pack-rail", "five", 5.0)], devices=both, conditions=[STILL])  # fmt: skip


def charging(farad: float) -> Plan:
    return five(device("d", "five", 0.5, input_f=farad), buck=regulator("b", "buck", "pack-rail", "five", 5.0, current_limit_a=2.5), conditions=[STILL])  # fmt: skip


def collapsing(watts: float) -> Plan:
    fed = {"rail": "pack-rail", "wire": {"gauge_awg": 0, "length_m": 0.001, "joined": True, "connector_ohm": 2.0}}
    back = [{"id": "d-gnd", "to": "main", "wire": {**SHORT, "joined": True}}]
    far = device(
        "d", "pack-rail", watts, unit="W", law="power", nominal_v=12, min_v=2, max_v=20, feed=fed, returns=back
    )
    return plan(devices=[far], conditions=[STILL], cell_ohm=1e-4)


def two_links(rating: float) -> Plan:
    """3 A over two equal wires: 1.5 A each."""
    links = [
        {"kind": "link", "id": n, "name": n, "input": "pack-rail", "output": "far", "board": "main", "rating_a": rating, "series_ohm": 0.01}
        for n in "ab"
    ]  # fmt: skip
    return plan(rails=[rail("far")], supplies=links, devices=[device("d", "far", 3, nominal_v=14, min_v=6, max_v=20)], conditions=[STILL])  # fmt: skip


def on_esc(limit: float, condition: dict[str, Any] | None = None) -> Plan:
    """Two motors of 15 A on one board."""
    made = plan(conditions=[condition or HOVER], devices=[
        device(n, "pack-rail", 0.0, nominal_v=14, min_v=6, max_v=20, kind="motor", throttle=[{"throttle_frac": t, "amps": 15.0} for t in (0.3, 1.0)]) for n in "ab"
    ]).model_dump(mode="json")  # fmt: skip
    made["boards"][0]["esc_limit_a"] = limit
    return load_plan(made)


def starting(volts: float) -> Plan:
    return five(device("d", "five", 0.01), buck=regulator("b", "buck", "pack-rail", "five", 5.0, start_v=volts, stop_v=3.0), conditions=[STILL])  # fmt: skip


def stopping(volts: float) -> Plan:
    flown = {**LOW, "pack_v": 12.0}
    return five(device("d", "five", 0.01), buck=regulator("b", "buck", "pack-rail", "five", 5.0, start_v=16.0, stop_v=volts), conditions=[flown])  # fmt: skip


def never_holds(dropout: float) -> Plan:
    """A buck that passes on all of its input cannot make 5 V of a cell's 4.2, whatever it drops; one that may step up 3.9 can."""
    buck = regulator("b", "buck", "pack-rail", "low", 4.0, start_v=2, stop_v=2, dropout_v=dropout, dropout_ohm=0.0)
    small = device("d", "low", 0.001, nominal_v=3.7, min_v=2, max_v=5)
    return plan(series=1, rails=[rail("low", 4.0)], supplies=[buck], devices=[small], conditions=[STILL])


def near(maximum: float) -> Plan:
    on_pack = device("d", "pack-rail", 0.001, nominal_v=14, min_v=6, max_v=maximum)
    return plan(
        devices=[on_pack, device("e", "five", 0.1, max_v=5.1)],
        rails=FIVE,
        supplies=[regulator("b", "buck", "pack-rail", "five", 5.0)],
        conditions=[STILL],
    )


def just_enough(least: float) -> Plan:
    fed = device("d", "five", 0.001, min_v=least)
    return plan(
        devices=[fed], rails=FIVE, supplies=[regulator("b", "buck", "pack-rail", "five", 5.0)], conditions=[STILL]
    )


def falling(reset: float) -> Plan:
    small = device("d", "pack-rail", 0.001, nominal_v=14, min_v=6.0, brownout_v=reset, max_v=18)
    return plan(devices=[small], conditions=[{**STILL, "air": "moving"}])


def thin_feed(amps: float) -> Plan:
    fed = {"rail": "pack-rail", "wire": {"gauge_awg": 20, "length_m": 0.01, "connector_limit_a": 2.0}}
    return plan(devices=[device("d", "pack-rail", amps, nominal_v=14, min_v=6, max_v=20, feed=fed)], conditions=[STILL])


def backwards(volts: float) -> Plan:
    """A port on the output of a link lifts the rail the link comes from once it stands higher."""
    port = {**USB, "volts": volts, "limit_a": 2.0, "series_ohm": 0.01}
    link = {"kind": "link", "id": "k", "name": "Wire", "input": "other", "output": "five", "board": "main"}
    lone = device("d", "other", 0.5, nominal_v=5, min_v=3, max_v=6)
    tied = regulator("b", "buck", "pack-rail", "other", 5.0, output_ohm=0.01)
    return plan(rails=[*FIVE, rail("other", 5)], supplies=[tied, link], devices=[lone], inlets=[port], conditions=[{**STILL, "energy": ["usb", "pack"]}])  # fmt: skip


def behind_a_limit(amps: float) -> Plan:
    """A load behind two bucks, the first cutting off at 1.3 A."""
    lets_go = {"start_v": 4, "stop_v": 3.5}
    first = regulator("b9", "buck", "pack-rail", "nine", 9.0, current_limit_a=1.3, **lets_go)
    second = regulator("b5", "buck", "nine", "five", 5.0, current_limit_a=2.5, quiescent_a=0.005, **lets_go)
    return plan(
        rails=[rail("nine", 9), *FIVE],
        supplies=[first, second],
        devices=[device("d", "five", amps)],
        conditions=[STILL],
    )


def first_power(limit: float, kind: str = "fuse") -> Plan:
    """1.5 A through a limiter in line with the pack."""
    limiter = {"id": "lim", "name": "Limiter", "kind": kind, "rail": "pack-rail", "limit_a": limit, "volts": 12}
    load = device("d", "pack-rail", 1.5, nominal_v=14, min_v=2, max_v=20)
    return plan(devices=[load], inlets=[limiter], conditions=[{**STILL, "energy": ["pack", "lim"]}])


def lit(ohm: float) -> Plan:
    """Two LEDs of 2 V in series with a resistor, on a rail of 5 V: 1 V stands across it."""
    led = {"forward_v": 2.0, "series": 2, "strings": 3, "resistor_ohm": ohm, "max_a": 0.02}
    supply = regulator("b", "buck", "pack-rail", "five", 5.0, output_ohm=0.001)
    return plan(
        rails=FIVE, supplies=[supply], devices=[device("d", "five", 0.02, law="led", led=led)], conditions=[STILL]
    )


def demanding(amps: float) -> Plan:
    """A regulator of 3 A gives 1.2 elsewhere: 1.8 A are left for a device that draws 0.3 of them."""
    parts = device("d", "five", 0.3, demand_a=amps), device("e", "five", 1.2)
    supply = regulator("b", "buck", "pack-rail", "five", 5.0, theta_still_k_w=5)
    return plan(rails=FIVE, supplies=[supply], devices=list(parts), conditions=[STILL])


def motor_bridge(ohm: float) -> Plan:
    """A camera with two returns bridges the motors' 20 A drop; the drop over what its wires have is what it carries."""
    boards = [{"id": "esc", "name": "ESC", "kind": "esc", "returns": [{"id": "esc-gnd", "to": "main", "wire": {**SHORT, "joined": True, "connector_ohm": 0.001}}]}]  # fmt: skip
    back = [
        {"id": "c1", "to": "esc", "wire": {**SHORT, "joined": True, "connector_ohm": ohm / 2}},
        {"id": "c2", "to": "main", "wire": {**SHORT, "joined": True, "connector_ohm": ohm / 2}},
    ]
    camera = device("cam", "pack-rail", 0.0, nominal_v=14, min_v=6, max_v=20, kind="camera", returns=back)
    motors = device("m", "pack-rail", 0.0, ground="esc", nominal_v=14, min_v=6, max_v=20, kind="motor", throttle=[{"throttle_frac": 1, "amps": 20}])  # fmt: skip
    return plan(boards=boards, devices=[camera, motors], conditions=[LOW], cell_ohm=1e-4)


def lifted(amps: float, kind: str = "serial") -> Plan:
    """A load of so many amps shares 10 mΩ of return with a talker: its steady shift, with edges of no height."""
    ends = [pin("t-tx", "tx", level_v=3.3)], [pin("b-rx", "rx", level_v=3.3), pin("b-cam", "video-in")]
    shared = [{"id": "t-gnd", "to": "main", "wire": {**SHORT, "joined": True, "connector_ohm": 0.01}}]
    pins = [*ends[0], pin("t-video", "video-out")]
    bursts = (
        {"burst": {"duty_frac": 0.5}, "draws": {**draws(amps), "idle": draws(0.0)["idle"]}} if kind == "video" else {}
    )
    talker = device("t", "pack-rail", amps, nominal_v=14, min_v=6, max_v=20, pins=pins, returns=shared, **bursts)
    wires = {"serial": ("t-tx", "b-rx"), "video": ("t-video", "b-cam")}[kind]
    signal = {"id": "s", "name": "S", "kind": kind, "source": wires[0], "sink": wires[1], "ground": "t-gnd"}
    document = plan(devices=[talker], conditions=[{**STILL, "default_state": "peak"}]).model_dump(mode="json")
    document["boards"][0]["pins"] = ends[1]
    return load_plan({**document, "signals": [signal]})


PACK_V = 4 * 4.2
EDGES = [
    # Two long wires 6 mm apart with 10 A: μ0 I s/(2π d²) = 20 µT · tan 5° at d = 82.8 mm.
    Edge("noise.compass", "caution", compass, (0.2, 0.02), math.sqrt(2e-7 * 10 * 0.006 / (20e-6 * math.tan(math.radians(5)))), ("bench",), "bench", 2e-2),
    Edge("data.guess", "note", guessed, (0.1, 0.9), 0.4, ("bench",), "bench"),
    Edge("data.guess", "caution", at_the_top, (1.5, 2.5), 2.0, ("bench",), "bench"),
    Edge("failure.short", "note", shorted, (30.0, 6.0), PACK_V, ("bench",), "bench", 5e-3),
    # 11.8 V dropped: a watt at 84.7 mA.
    # A tenth of the maximum is left for plug and braking; what stands behind a regulator is not asked.
    Edge("window.margin", "caution", near, (20.0, 17.5), PACK_V / 0.9, ("bench",), "bench", 1e-3),
    # A fiftieth above its least volts is wanted, as where a set point is advised.
    Edge("window.thin", "caution", just_enough, (4.0, 4.95), 5.0 / 1.02, ("bench",), "bench", 1e-3),
    Edge("heat.linear", "caution", linear_watts, (0.02, 0.2), 1 / (PACK_V - 5), ("bench",), "bench", 5e-3),
    # 0.2 A over 14.8 − 5 V are 1.96 W in flight; standing in 30 °C it trips where θ takes that over 120 K.
    Edge("heat.still", "caution", resting, (30.0, 90.0), 120 / (0.2 * (4 * 3.7 - 5)), ("hover",), "hover", 1e-2),
    Edge("load.usb", "fault", on_usb, (0.2, 0.8), 0.5, ("bench",), "bench"),
    Edge("load.pad", "fault", on_pad, (0.2, 2.0), 0.8, ("bench",), "bench"),
    # 50 ms at 2.5 − 0.5 A to 5 V: C = I t / U = 20 mF.
    Edge("load.inrush", "caution", charging, (1e-3, 50e-3), 2.0 * 0.05 / 5, (), None),
    # V²/4R of a full pack through 2 Ω, its own milliohms and the lead's beside.
    Edge("load.collapse", "danger", collapsing, (20.0, 60.0), PACK_V**2 / (4 * 2.002), ("bench",), "bench", 5e-3),
    Edge("load.rating", "fault", two_links, (3.0, 0.5), 1.5, ("bench",), "bench"),
    Edge("load.esc", "fault", on_esc, (60.0, 20.0), 30.0, ("hover",), "hover"),
    # A fifth more for the seconds of a punch.
    Edge("load.esc", "fault", lambda a: on_esc(a, LOW), (60.0, 20.0), 30.0 / 1.2, ("low",), "low"),
    Edge("headroom.start", "fault", starting, (10.0, 20.0), PACK_V, ("bench",), "bench", 5e-3),
    Edge("headroom.start", "fault", stopping, (6.0, 14.0), 12.0, ("low",), "low", 5e-3),
    Edge("headroom.boost", "fault", never_holds, (0.0, 1.0), 0.2, ("bench",), "bench", 5e-3),
    # Landing line of a LiPo: 3.0 + 0.6 · (3.5 − 3.0) V a cell, four of them.
    Edge("window.floor", "caution", falling, (10.0, 15.0), 4 * 3.3, ("bench",), "bench", 5e-3),
    Edge("wire.limit", "fault", thin_feed, (0.5, 4.0), 2.0, ("bench",), "bench"),
    Edge("source.backfeed", "caution", backwards, (4.8, 5.4), 5.0 - 0.01 * 0.5, ("bench",), "bench", 1e-4),
    Edge("load.led", "fault", lit, (200.0, 10.0), 1.0 / 0.02, ("bench",), "bench", 5e-3),
    Edge("load.demand", "caution", demanding, (0.5, 3.0), 3.0 - 1.2, ("bench",), "bench"),
    Edge("source.limiter", "caution", first_power, (3.0, 0.5), 1.5, ("bench",), "bench"),
    # A filament at a tenth of 16.8 V passes (1.68/12)^0.55 of its amps.
    Edge("source.limiter", "caution", lambda a: first_power(a, "lamp"), (9.0, 2.0), 1.5 * (PACK_V / 120) ** -0.55, ("bench",), "bench", 5e-3),
    # Down there the second is a wire: the load's amps and its own 5 mA are what the first is asked for.
    Edge("source.latch", "caution", behind_a_limit, (1.0, 1.6), 1.3 - 0.005, ("bench",), "bench", 1e-4),
    # 20 A over 1 mΩ, beside the camera's wires: 20 mA where they have 1 Ω, 1 A at 20 mΩ.
    Edge("ground.motor", "caution", motor_bridge, (5.0, 0.1), 20 * 0.001 / 0.02 - 0.001, ("low",), "low", 2e-2),
    Edge("ground.motor", "fault", motor_bridge, (0.1, 0.005), 20 * 0.001 / 1.0 - 0.001, ("low",), "low", 2e-2),
    # TTL at 3.3 V: 0.4 V at low. Told from half of it, a fault from all.
    Edge("ground.shift", "caution", lifted, (1.0, 90.0), 0.2 / 0.01, ("bench",), "bench", 1e-2),
    Edge("ground.shift", "fault", lifted, (1.0, 90.0), 0.4 / 0.01, ("bench",), "bench", 1e-2),
    # A picture shows 1 % of 1 V, and is a fault at four times that.
    Edge("ground.shift", "caution", lambda a: lifted(a, "video"), (0.1, 20.0), 0.01 / 0.01, ("bench",), "bench", 1e-2),
    Edge("ground.shift", "fault", lambda a: lifted(a, "video"), (0.1, 20.0), 0.04 / 0.01, ("bench",), "bench", 1e-2),
]  # fmt: skip


@pytest.mark.parametrize("edge", EDGES, ids=lambda one: f"{one.code}-{one.severity}-{one.at:.3g}")
def test_begins_where_it_should(edge: Edge) -> None:
    found, past = begins(edge.build, edge.code, *edge.span, edge.severity)
    assert found == pytest.approx(edge.at, rel=edge.rel)
    assert (past.conditions, past.worst) == (edge.conditions, edge.worst)
    assert past.severity == edge.severity
    # Just past its edge the two sides of the comparison meet, unless it is told before or compares something else.
    if edge.code not in (
        "ground.shift",
        "ground.motor",
        "data.guess",
        "headroom.boost",
        "source.backfeed",
        "source.latch",
    ):
        assert past.compared.observed == pytest.approx(past.compared.limit, rel=2e-2)


SENDER_A = 12 * 0.6 / 14.46
"""7.2 W from a hovering pack: 14.8 V less 18.6 A through 13.8 mΩ, and half an ampere through coil and wires."""


@dataclass(frozen=True)
class NoiseEdge:
    """Where a rule of noise should begin: its number is found where what is observed meets this limit, worked out by hand."""

    code: str
    severity: Severity
    build: Build
    span: tuple[float, float]
    limit: float
    at: float | None = None


def rings(ohm: float) -> Plan:
    return flying(
        section(henry=100e-6, farad=10e-6, esr_ohm=ohm, dcr_ohm=0.01, dielectric="c0g"), sender={"input_f": 0}
    )


def pictured(amps: float) -> Plan:
    """Motors of so many amps at full throttle."""
    document = flying().model_dump(mode="json")
    document["devices"][0]["throttle"] = [{"throttle_frac": 1, "amps": amps}]
    return load_plan(document)


def swings(farad: float) -> Plan:
    return behind_buck(henry=100e-6, farad=farad, esr_ohm=0.5, dcr_ohm=0.01, dielectric="c0g")


NOISE_EDGES = [
    NoiseEdge("noise.saturation", "caution", lambda a: flying(section(saturation_a=a)), (3.0, 0.1), SENDER_A, SENDER_A),
    # A sheet's heating current stands for 40 K; the rise goes by its square, and 80 K is the bound.
    NoiseEdge("noise.coil_heat", "caution", lambda a: flying(section(heating_a=a)), (3.0, 0.1), 40.0, SENDER_A),
    NoiseEdge("noise.coil_heat", "fault", lambda a: flying(section(heating_a=a)), (3.0, 0.1), 40.0, SENDER_A / math.sqrt(2)),
    # Four fifths of the class for long, all of it at once, on a full pack.
    NoiseEdge("noise.capacitor_volts", "caution", lambda v: flying(bulk(rated_v=v)), (35.0, 10.0), PACK_V, PACK_V / 0.8),
    NoiseEdge("noise.capacitor_volts", "danger", lambda v: flying(bulk(rated_v=v)), (35.0, 10.0), 0.8 * PACK_V, PACK_V),
    # A hundredth of full picture, 714 mV, is seen.
    NoiseEdge("noise.video", "caution", pictured, (0.05, 60.0), 0.00714),
    NoiseEdge("noise.undamped", "caution", rings, (3.0, 0.001), 6.0),
    NoiseEdge("noise.wrong_side", "note", lambda f: flying(bulk(farad=f, esr_ohm=0.05)), (2e-3, 1e-7), 1.0),
]  # fmt: skip


@pytest.mark.parametrize("edge", NOISE_EDGES, ids=lambda one: f"{one.code}-{one.severity}")
def test_noise_begins_where_it_should(edge: NoiseEdge) -> None:
    found, past = begins(edge.build, edge.code, *edge.span, edge.severity)
    assert past.severity == edge.severity
    assert past.compared.limit == pytest.approx(edge.limit, rel=1e-2)
    if edge.at is not None:
        assert found == pytest.approx(edge.at, rel=1e-2)
    else:
        assert past.compared.observed == pytest.approx(past.compared.limit, rel=1e-2)


def test_a_picture_disturbs_from_28_db_under_full_on() -> None:
    _, past = begins(pictured, "noise.video", 0.05, 60.0, "fault")
    assert isinstance(past.facts, SeenInPicture)
    assert past.facts.level_db == pytest.approx(-28, abs=0.05)


def test_a_filter_can_swing_from_where_it_is_as_soft_as_its_load() -> None:
    """Middlebrook: the output impedance at its peak, L/(C·R), against the regulator's V²/P."""
    _, past = begins(swings, "noise.unstable", 1e-3, 1e-6, "fault")
    assert past.compared.observed == pytest.approx(past.compared.limit, rel=1e-2)
    assert past.compared.limit == pytest.approx(14.7**2 / (5 * 2.4 / 0.9), rel=2e-2)


@pytest.mark.parametrize(
    ("kinds", "school", "severity"),
    [
        (("linear", "linear"), "linear", "note"), (("linear", "linear"), "never", "fault"), (("buck", "linear"), "linear", "fault"),
        (("buck", "buck"), "linear", "danger"), (("buck", "buck"), "any", "note"), (("buck", "buck"), "never", "danger"),
    ],
)  # fmt: skip
def test_regulators_on_one_net_weigh_by_kind_and_school(kinds: tuple[str, str], school: str, severity: str) -> None:
    pair = [regulator(name, kind, "pack-rail", "five", 5.0, **EFF) for name, kind in zip("ab", kinds, strict=True)]
    made = plan(
        rails=FIVE,
        supplies=pair,
        devices=[device("d", "five", 0.5)],
        policy={"paralleling": school},
        conditions=[STILL],
    )
    found = verdict(made, "source.several")
    assert found is not None
    assert (found.severity, found.worst, found.conditions) == (severity, "bench", ("bench",))
    assert (found.compared.observed, found.compared.limit) == (2, 1)


@pytest.mark.parametrize(("amps", "severity"), [(7.8, "note"), (8.2, "caution"), (39.0, "caution"), (41.0, "fault")])
def test_signals_without_a_ground_weigh_by_their_share(amps: float, severity: str) -> None:
    """A fifth of the margin is only worth knowing, all of it is not read; 10 mΩ shared, 400 mV of margin."""
    made = lifted(amps)
    bare = made.model_copy(update={"signals": (made.signals[0].model_copy(update={"ground": None}),)})
    away = bare.devices[0].model_copy(
        update={"returns": (bare.devices[0].returns[0].model_copy(update={"to": "hub"}),)}
    )
    hub = {"id": "hub", "name": "Hub", "returns": [{"id": "hub-gnd", "to": "main", "wire": {**SHORT, "joined": True}}]}
    document = bare.model_copy(update={"devices": (away,)}).model_dump(mode="json")
    found = verdict(load_plan({**document, "boards": [*document["boards"], hub]}), "signal.ground")
    assert found is not None
    assert found.severity == severity
    assert found.compared.observed == pytest.approx(amps * 0.01, rel=1e-2)


def test_after_a_dip_it_stays_where_its_load_is_a_resistance() -> None:
    """1.5 A at 4.5 V are 3 Ω: 1.295 A hold 3.885 V there, and the second's 0.3 V and 80 mΩ with the wires come on top."""
    found = verdict(behind_a_limit(1.5), "source.latch")
    assert found is not None
    assert found.compared.observed == pytest.approx(3 * 1.295 + 0.3 + 1.3 * (0.08 + 2 * 0.00333), abs=2e-3)
    assert found.compared.limit == pytest.approx(8.98, abs=0.01)


def test_a_device_resets_the_craft_only_where_it_flies_and_keeps_control() -> None:
    def build(control: bool, condition: dict[str, Any]) -> Plan:
        low = device("rx", "pack-rail", 1.0, nominal_v=14, min_v=15.5, brownout_v=15.4, max_v=20, keeps_control=control)
        return plan(devices=[low], conditions=[condition])

    flown = {**LOW, "throttle_frac": 0.2}
    for control, condition, severity in (
        (True, flown, "danger"),
        (False, flown, "fault"),
        (True, {**LOW, "throttle_frac": 0}, "fault"),
    ):
        found = verdict(build(control, condition), "window.under")
        assert found is not None
        assert (found.severity, found.by_condition) == (severity, {"low": severity})


def test_what_falls_short_has_no_source_and_what_has_none_weighs_by_control() -> None:
    for control, severity in ((True, "danger"), (False, "fault")):
        made = plan(
            devices=[{**device("rx", "pack-rail", 0.1, keeps_control=control), "feed": None}], conditions=[STILL]
        )
        found = verdict(made, "source.none")
        assert found is not None
        assert (found.severity, found.compared.observed, found.compared.limit) == (severity, 0.0, 4.5)


def test_thin_headroom_behind_a_regulator_asks_for_little() -> None:
    """A volt where the input follows the pack, 0.2 V where another regulator makes it."""

    def build(volts: float) -> Plan:
        second = regulator("second", "linear", "five", "low", volts, dropout_v=0.3, dropout_ohm=0.0, output_ohm=0.001)
        fed = device("d", "low", 0.001, nominal_v=4, min_v=2, max_v=5)
        return five(fed, rails=[rail("low")], supplies=[second], conditions=[STILL])

    found, past = begins(build, "headroom.thin", 4.0, 4.65, "caution")
    assert found == pytest.approx(5 - 0.3 - 0.2, rel=2e-3)
    assert past.compared.limit == 0.2


def test_what_a_limiter_starves_is_told_once() -> None:
    """The trip itself, and nothing of what falls, resets or is dead behind it."""
    five = regulator("b", "buck", "pack-rail", "five", 5.0, start_v=6, stop_v=5)
    tripped = first_power(1.0).model_dump(mode="json")
    more = plan(rails=FIVE, supplies=[five], devices=[device("e", "five", 0.5)]).model_dump(mode="json")
    for kind in ("rails", "supplies", "devices"):
        tripped[kind] += [one for one in more[kind] if one["id"] != "pack-rail"]
    found = {one.code for one in run_rules(solve_plan(load_plan(tripped)))}
    assert "source.limiter" in found
    assert not {code for code in found if code.startswith(("load.", "window.", "headroom.", "source.none"))}


def test_a_regulator_that_trips_in_flight_hides_no_other_that_trips_at_rest() -> None:
    hot = regulator("hot", "linear", "pack-rail", "three", 3.3, theta_still_k_w=200, theta_moving_k_w=100)
    linear = regulator("l", "linear", "pack-rail", "five", 5.0, theta_still_k_w=90, theta_moving_k_w=2, quiescent_a=0.0, trip_c=150)  # fmt: skip
    loads = [device("h", "three", 0.2, nominal_v=3.3, min_v=3, max_v=3.6), device("d", "five", 0.2)]
    made = plan(rails=[rail("three", 3.3), *FIVE], supplies=[hot, linear], devices=loads, conditions=[HOVER])
    found = {(one.code, *one.elements) for one in run_rules(solve_plan(made)) if one.code.startswith("heat.")}
    assert {("heat.trip", "hot"), ("heat.still", "l")} <= found
    assert ("heat.still", "hot") not in found


@pytest.mark.parametrize(
    ("limit", "kind", "starved"), [(9.0, "lamp", False), (0.5, "lamp", True), (3.0, "fuse", False), (0.5, "fuse", True)]
)
def test_what_hangs_behind_a_lit_limiter_is_starved(limit: float, kind: str, starved: bool) -> None:
    """1.5 A through it; a lamp of 9 A stays dark with them, one of half an ampere lights up."""
    made = first_power(limit, kind)
    solved = solve_plan(made)
    assert solved.starved("pack-rail", made.conditions[0]) is starved
    bare = made.model_copy(update={"conditions": (made.conditions[0].model_copy(update={"energy": ("pack",)}),)})
    assert not solve_plan(bare).starved("pack-rail", bare.conditions[0])


def test_two_capacitors_are_damped_as_one_of_twice_the_farads() -> None:
    def damped(count: int, farad: float) -> list[float]:
        made = flying(
            section(henry=100e-6, farad=farad, count=count, esr_ohm=0.001, dcr_ohm=0.01, dielectric="c0g"),
            sender={"input_f": 0},
        )
        rung = next(
            v for v in run_rules(noise_case(solve_plan(made).solved), sees="noise") if v.code == "noise.undamped"
        )
        return [float(edit.value) for edit in rung.fixes[0].edits if isinstance(edit, SetValue)]

    assert damped(2, 10e-6) == pytest.approx(damped(1, 20e-6))
    assert damped(1, 10e-6)[1] == pytest.approx(damped(1, 20e-6)[1] / 2)


def test_what_is_printed_and_not_there_is_mended_by_fitting_it() -> None:
    made = flying(section(fitted=False))
    gone = next(v for v in run_rules(noise_case(solve_plan(made).solved), sees="noise") if v.code == "noise.absent")
    assert [(edit.field, edit.value) for edit in gone.fixes[0].edits if isinstance(edit, SetValue)] == [
        ("fitted", True)
    ]
