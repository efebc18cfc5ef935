"""A craft with one of everything a plan can hold, much of it wrong: what demo builds leave out stands here."""

from __future__ import annotations

from typing import Any

from tests.core.test_noise import MOTORS
from tests.plans import device, draws, plan, rail, regulator
from yardmeter.core.plan import Plan

THIN = {"gauge_awg": 30, "length_m": 0.3}
PACK = {"nominal_v": 14.8, "min_v": 7, "max_v": 18}
EFF = {"efficiency": [{"amps": 0.5, "efficiency_frac": 0.85}, {"amps": 2, "efficiency_frac": 0.92, "at_v": 12}]}


def pin(name: str, role: str, **fields: Any) -> dict[str, Any]:
    return {"id": name, "label": name.upper(), "role": role, **fields}


def crowded() -> Plan:
    return plan(
        name="crowded",
        series=4,
        boards=[
            {"id": "esc", "name": "ESC", "kind": "esc", "returns": [{"id": "esc-gnd", "to": "pack", "wire": {"gauge_awg": 12, "length_m": 0.1}}],
             "pins": [pin("m1", "esc-in", level_v=3.3), pin("tlm", "tx", level_v=3.3)]},
            {"id": "fc", "name": "Controller", "kind": "controller", "osd": True, "returns": [{"id": "fc-gnd", "to": "esc", "wire": {"gauge_awg": 26, "length_m": 0.05}}],
             "pins": [pin("fc-m1", "esc-out", level_v=3.3), pin("fc-cam", "video-in"), pin("fc-vtx", "video-out"), pin("rx1", "rx", port="1", tolerant_v=3.6),
                      pin("tx1", "tx", port="1", level_v=3.3), pin("rx2", "rx", port="2", tolerant_v=5.5, input_levels="cmos"), pin("usb-id", "ident"), pin("free", "servo-out")]},
            {"id": "bec-board", "name": "BEC", "kind": "regulator", "returns": [{"id": "bec-gnd", "to": "esc", "wire": THIN}]},
        ],
        rails=[
            {**rail("esc-rail", None, "esc"), "pads": [{"id": "p1", "label": "BAT 1", "limit_a": 2}, {"id": "p2", "label": "BAT 2", "trace": {"width_m": 0.002}}]},
            {**rail("five", 5, "fc"), "pads": [{"id": "f1", "label": "5V A", "limit_a": 1}, {"id": "f2", "label": "5V B", "limit_a": 1.5}]},
            rail("three", 3.3, "fc"), rail("nine", 9, "bec-board"), rail("twelve", 12, "bec-board"), rail("seven", 7.4, "main"), rail("usb-rail", 5, "fc"), rail("spare", 5, "fc"),
        ],
        supplies=[
            {"id": "lead2", "name": "ESC link", "kind": "link", "input": "pack-rail", "output": "esc-rail", "board": "esc", "feed": {"gauge_awg": 14, "length_m": 0.06}},
            regulator("buck5", "buck", "esc-rail", "five", 5.0, board="fc", rating_a=2, derate_frac=None, backfeeds=True, **EFF),
            regulator("twin5", "linear", "esc-rail", "five", 5.05, board="fc", rating_a=0.5, current_limit_a=0.6, limit_style="fold back"),
            regulator("ldo3", "linear", "five", "three", 3.3, board="fc", rating_a=0.5, start_v=2.6, stop_v=2.4, dropout_v=0.9),
            regulator("buck9", "buckboost", "pack-rail", "nine", 9.0, board="bec-board", place="alone", rating_a=1.5, limit_style="hiccup", feed=THIN, ripple_v=0.08, derate_frac=None, **EFF),
            regulator("boost12", "boost", "nine", "twelve", 12.0, board="bec-board", rating_a=0.8, gain_max=3, start_v=4, stop_v=3.5, **EFF),
            regulator("servo7", "buck", "pack-rail", "seven", 7.4, rating_a=2, two_way=True, limit_style="latch", fails="open", **EFF),
            regulator("spare5", "buck", "twelve", "spare", 5.0, board="fc", rating_a=1, start_v=6, stop_v=5.5, **EFF),
            {"id": "or", "name": "USB diode", "kind": "diode", "input": "usb-rail", "output": "five", "board": "fc", "drop_v": 0.35},
        ],
        inlets=[{"id": "usb", "name": "USB", "kind": "usb", "rail": "usb-rail", "limit_a": 0.9}, {"id": "smoke", "name": "Lamp", "kind": "lamp", "rail": "pack-rail", "volts": 12, "limit_a": 1.75}],
        devices=[
            MOTORS,
            device("camera", "five", 0.25, kind="camera", peak=0.35, ground="fc", returns=[{"id": "camera-gnd", "to": "fc", "wire": THIN}, {"id": "camera-2", "to": "sender", "wire": THIN}], pins=[pin("c-out", "video-out")], input_f=22e-6, unit="A"),
            device("sender", "nine", 7, unit="W", law="power", peak=9, kind="sender", ground="bec-board", nominal_v=9, min_v=6, max_v=13, brownout_v=5.5, input_f=47e-6, pins=[pin("v-in", "video-in"), pin("v-5", "power-out")], burst={"duty_frac": 0.3, "period_s": 0.005}),
            device("digital", "pack-rail", 8, unit="W", law="power", kind="digital", provenance="guess", demand_a=2.5, ways=[{"name": "plug", **PACK}, {"name": "five", "nominal_v": 5, "min_v": 4.6, "max_v": 5.4}], way="plug", **PACK,
                   feed={"rail": "pack-rail", "wire": {**THIN, "connector_ohm": 0.02, "connector_limit_a": 2, "inline": {"kind": "fuse", "melts_a2s": 4}}}),
            device("receiver", "five", 0.1, kind="receiver", keeps_control=True, ground="fc", min_v=4.7, brownout_v=4.2, pins=[pin("r-tx", "tx", level_v=3.3), pin("r-rx", "rx", tolerant_v=3.3)], hold_s=1e-3),
            device("servo", "seven", 0.2, kind="servo", peak=3.5, nominal_v=7.4, min_v=4.8, max_v=8.4, feed={"rail": "seven", "wire": THIN}, pins=[pin("s-in", "servo-in")]),
            device("gnss", "five", 0.06, kind="gnss", ground="fc", compass={"distance_m": 0.05}, ripple_max_v=0.03, provenance="reported"),
            device("mcu", "three", 0.15, kind="logic", ground="fc", nominal_v=3.3, min_v=3.0, max_v=3.6, brownout_v=2.7),
            device("heater", "pack-rail", 1, law="resistance", **PACK),
            device("tail", "pack-rail", 0.02, law="led", kind="led", led={"forward_v": 2.1, "series": 3, "strings": 4, "resistor_ohm": 390}, **PACK),
            device("strip", "twelve", 1.1, kind="led", law="resistance", nominal_v=12, min_v=9, max_v=14, provenance="guess"),
            device("recorder", "five", 0.3, kind="recorder", peak=0.7, ground="fc", feed={"rail": "five", "pad": "f1", "wire": THIN}),
            device("computer", "five", 4, unit="W", law="power", kind="computer", peak=8, ground="fc", feed={"rail": "five", "pad": "f1", "wire": {"gauge_awg": 24, "length_m": 0.2}}, draws={**draws(4, "W"), "boot": {"value": 6, "unit": "W"}}, min_v=4.75, input_f=470e-6),
            device("shelf", "pack-rail", 0.1, **PACK, feed=None, returns=[]),
        ],
        signals=[
            {"id": "video-in", "name": "Camera video", "kind": "video", "source": "c-out", "sink": "fc-cam", "ground": "camera-2", "wire": {"gauge_awg": 28, "length_m": 0.15}},
            {"id": "video-out", "name": "Sender video", "kind": "video", "source": "fc-vtx", "sink": "v-in"},
            {"id": "esc-1", "name": "Motor 1", "kind": "esc", "source": "fc-m1", "sink": "m1", "wire": {"gauge_awg": 28, "length_m": 0.2}},
            {"id": "control", "name": "Receiver", "kind": "receiver", "source": "r-tx", "sink": "rx1"},
            {"id": "back", "name": "Telemetry", "kind": "serial", "source": "tlm", "sink": "rx2"},
            {"id": "arm", "name": "Servo", "kind": "servo", "source": "free", "sink": "s-in"},
        ],
        filters=[
            {"id": "bulk", "name": "Bulk", "kind": "capacitor", "at": "esc-rail", "farad": 470e-6, "esr_ohm": 0.04, "rated_v": 25, "count": 2, "ripple_a": 1.5},
            {"id": "lc", "name": "LC", "kind": "lc", "at": "sender", "henry": 47e-6, "farad": 100e-6, "esr_ohm": 0.03, "saturation_a": 0.7, "dcr_ohm": 0.05, "rated_v": 16, "heating_a": 1},
            {"id": "bead", "name": "Bead", "kind": "ferrite", "at": "camera", "ohm_100mhz": 600, "saturation_a": 0.3, "dcr_ohm": 0.2},
            {"id": "damped", "name": "Damped", "kind": "lc", "at": "digital", "henry": 22e-6, "farad": 22e-6, "dielectric": "x7r", "esr_ohm": 0.003, "saturation_a": 3, "rated_v": 25, "damping_ohm": 1, "damping_farad": 100e-6},
            {"id": "absent", "name": "Absent", "kind": "capacitor", "at": "five", "farad": 1e-4, "fitted": False},
        ],
        clamps=[{"id": "tvs", "name": "Clamp", "at": "pack-rail", "standoff_v": 17, "breakdown_v": 19}],
        noises=[{"id": "whine", "name": "Whine", "element": "buck5", "kind": "switching", "hz": 350e3, "amplitude_pp": 0.06}],
        conditions=[
            {"id": "bench-usb", "name": "USB bench", "energy": ["usb"], "air": "still"},
            {"id": "bench", "name": "Pack bench", "pack_state": "full", "air": "still", "states": {"tail": "off"}},
            {"id": "first", "name": "First power", "energy": ["pack", "smoke"], "pack_state": "full", "air": "still", "default_state": "boot",
             "states": dict.fromkeys(("sender", "digital", "heater", "strip", "computer"), "off")},
            {"id": "hover", "name": "Hover", "throttle_frac": 0.35, "states": {"digital": "peak", "servo": "idle"}},
            {"id": "punch", "name": "Low punch", "pack_state": "low", "throttle_frac": 1, "default_state": "peak"},
        ],
        policy={"cascade": "never", "copper_c": 45, "paralleling": "never"},
    )  # fmt: skip
