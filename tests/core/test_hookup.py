"""The hook-up list: every wire once, pin by pin, with what flows and what it may carry; schools that keep their word."""

from __future__ import annotations

import re
from html import escape

import pytest

from tests.core.test_grounds import fed, link, pin, wired
from tests.plans import LOW, STILL, device, plan, rail
from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.physics.conductors import wire_burst_limit_a, wire_ohm
from yardmeter.core.plan import Link, Plan, Strap, load_plan
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.procedures import checklist
from yardmeter.review import review, solve_plan
from yardmeter.review.bench import bench_steps
from yardmeter.review.compare import electronics_g
from yardmeter.review.hookup import Hookup, HookupRow, hookup
from yardmeter.review.hookup_parts import HookupPart
from yardmeter.review.landings import on_its_esc
from yardmeter.review.schools import School, schools
from yardmeter.review.whole_page import BenchLine, Heading, whole_page

PLANS = [name.removesuffix(".json") for one in demo.DEMOS for name in one.files]


def rows(made: Plan) -> dict[str, HookupRow]:
    return {row.id: row for row in listed(made).rows}


def listed(made: Plan) -> Hookup:
    return hookup(solve_plan(made))


@pytest.mark.parametrize("name", PLANS)
def test_every_wire_of_a_plan_stands_on_the_list_once(name: str) -> None:
    made = demo.plan(name)
    found = [row.id for row in listed(made).rows]
    assert len(found) == len(set(found))
    logic = {d.id for d in made.devices if d.kind == "logic" or (d.kind == "motor" and on_its_esc(made, d))}
    wanted = {"lead"} | {f"feed:{d.id}" for d in made.devices if d.feed and d.id not in logic}
    wanted |= {f"return:{w.id}" for owner, w in made.returns() if owner not in logic} | {
        f"signal:{s.id}" for s in made.signals
    }
    wanted |= {f"feed:{s.id}" for s in made.supplies if s.feed and not isinstance(s, Link | Strap)}
    wanted |= {f"link:{s.id}" for s in made.supplies if s.feed and isinstance(s, Link)}
    assert wanted <= set(found)
    assert not {name for name in found if name.split(":")[1:2] and name.split(":")[1] in logic}


def test_the_copper_of_a_boards_own_logic_is_no_wire_to_solder() -> None:
    made = plan(devices=[device("mcu", "pack-rail", 0.1, kind="logic"), device("cam", "pack-rail", 0.1, kind="camera")])
    assert set(rows(made)) == {"lead", "feed:cam", "return:cam-gnd", "return:main-gnd"}


def test_a_row_says_both_ends_colour_current_and_limits() -> None:
    made = demo.plan("marshlight-second-wiring")
    row = rows(made)["feed:camera"]
    assert (row.start.name, row.start.at, row.end.name, row.end.at) == (
        "Flight controller",
        "5V C",
        "Low-light camera",
        "5V",
    )
    assert (row.polarity, row.colour, row.gauge_awg) == ("+", "red", 28)
    assert row.amps_a == pytest.approx(0.32, abs=0.005)
    assert row.drop_v == pytest.approx(row.amps_a * wire_ohm(28, 0.12, 40))
    ground = rows(made)["return:camera-gnd"]
    assert (ground.polarity, ground.colour, ground.end.at) == ("−", "black", "GND")
    assert "beside Camera video" in ground.beside
    line = rows(made)["signal:video-cam"]
    assert (line.polarity, line.colour, line.end.at, line.amps_a) == ("signal", "yellow", "CAM 1", None)


def test_a_punch_counts_for_as_long_as_it_is_held() -> None:
    # 40 A through AWG 16: far over its steady limit in still air, within what it stands for the policy's ten seconds.
    heavy = device(
        "heavy",
        "pack-rail",
        40,
        nominal_v=14,
        min_v=6,
        max_v=20,
        feed={"rail": "pack-rail", "wire": {"gauge_awg": 16, "length_m": 0.05}},
    )
    row = rows(plan(devices=[heavy], conditions=[LOW]))["feed:heavy"]
    assert row.limit_a == pytest.approx(wire_burst_limit_a(16, 10, 60))
    assert row.warning == ""
    cruise = {**LOW, "id": "cruise", "throttle_frac": 0.4}
    hot = rows(plan(devices=[heavy], conditions=[cruise]))["feed:heavy"]
    assert "is the limit" in hot.warning
    assert hot.smallest_awg is not None
    assert hot.smallest_awg < 16


def test_what_would_burn_is_said_at_its_wire() -> None:
    lamp = device("lamp", "pack-rail", 0.3, nominal_v=12, min_v=10, max_v=13)
    assert "it takes 13 V: do not connect" in rows(plan(devices=[lamp]))["feed:lamp"].warning
    data = fed("gps", 0.1, "main", pin("data", "rx"), feed={"rail": "pack-rail", "pin": "data"})
    assert "data is never powered".upper() in rows(wired(data))["feed:gps"].warning.upper()


def test_pins_that_are_never_powered_and_ports_that_are_free() -> None:
    port = [
        pin("tx1", "tx", port="UART 1"),
        pin("rx1", "rx", port="UART 1"),
        pin("tx2", "tx", port="UART 2"),
        pin("rx2", "rx", port="UART 2"),
    ]
    gps = fed("gps", 0.05, "main", pin("g-tx", "tx"), pin("g-vcc", "power-in"))
    made = wired(gps, pins=(*port, pin("vin", "power-in")), signals=(link("serial", "g-tx", "rx1", ground="gps-gnd"),))
    found = listed(made)
    assert {line.owner: line.pins for line in found.never_power} == {
        "fc": ("TX1", "RX1", "TX2", "RX2"),
        "gps": ("G-TX",),
    }
    # One port, one use: a port with one wire on it is not offered.
    assert [(line.owner, line.pins) for line in found.free_ports] == [("fc", ("UART 2",))]
    assert (
        "pin-out of Controller unverified"
        in rows(wired(gps, pins=tuple(port), board={"pinout": "unverified"}, signals=(link("serial", "g-tx", "rx1"),)))[
            "signal:link"
        ].warning
    )


def fitted(made: Plan) -> dict[str, HookupPart]:
    found = listed(made)
    assert sorted(found.order) == sorted([*(one.id for one in found.rows), *(one.id for one in found.parts)])
    return {one.id: one for one in found.parts}


CAPACITOR = {
    "kind": "capacitor",
    "id": "c",
    "name": "Bulk",
    "at": "pack-rail",
    "farad": 470e-6,
    "rated_v": 35,
    "lead_m": 0.006,
}
COIL = {"kind": "lc", "id": "l", "name": "Section", "at": "cam", "henry": 22e-6, "saturation_a": 2, "farad": 220e-6, "rated_v": 25, "dielectric": "tantalum"}  # fmt: skip
BEAD = {"kind": "ferrite", "id": "b", "name": "Bead", "at": "cam", "ohm_100mhz": 600}


def test_capacitors_coils_and_beads_stand_in_the_list_with_their_lead_and_way_round() -> None:
    made = plan(devices=[device("cam", "pack-rail", 0.2, nominal_v=14, min_v=6, max_v=20)], filters=[{**CAPACITOR, "count": 2, "weight_g": 3}, COIL, BEAD])  # fmt: skip
    found, order = fitted(made), list(listed(made).order)
    bulk = found["filter:c"]
    assert (bulk.what, bulk.where, bulk.weight_g) == (
        "2 × 470 µF 35 V electrolytic",
        "Main board pack-rail and GND beside it",
        6,
    )
    assert bulk.how == "from plus to ground, its stripe on ground; legs 6 mm, no longer"
    section = found["filter:l"]
    assert section.what == "coil of 22.0 µH that stands 2.00 A, and behind it 220 µF 25 V tantalum"
    assert (
        section.how
        == "coil in the plus lead of Cam; the capacitor on its far side, from plus to ground, its bar on plus"
    )
    assert found["filter:b"].how == "in the plus lead of Cam, close to what it keeps quiet"
    assert order.index("board:main") < order.index("filter:c") < order.index("lead") < order.index("feed:cam") < order.index("filter:l")  # fmt: skip
    ceramic = {**CAPACITOR, "dielectric": "x7r", "damping_ohm": 1.0, "damping_farad": 100e-6}
    assert fitted(plan(filters=[ceramic]))["filter:c"].how == "from plus to ground; legs 6 mm, no longer"
    assert "beside it 1.00 Ω in line with 100 µF" in fitted(plan(filters=[ceramic]))["filter:c"].what
    assert fitted(plan(filters=[{**CAPACITOR, "fitted": False}])).keys() == {"board:main"}


@pytest.mark.parametrize(("amps", "ohm", "watts"), [(0.010, 100, "0.125 W"), (0.030, 100, "0.25 W"), (0.036, 100, "0.5 W"), (0.6, 10, "10 W"), (2.0, 5, "40 W")])  # fmt: skip
def test_an_leds_resistor_is_rated_for_twice_what_it_burns(amps: float, ohm: float, watts: str) -> None:
    """Two strings of four at 2 V on 12 V and more: what is over burns in each string's own resistor, R I²."""
    string = {
        "forward_v": (16.8 - amps * ohm) / 4,
        "series": 4,
        "strings": 2,
        "resistor_ohm": ohm,
    }
    leds = device("leds", "pack-rail", 2 * amps, nominal_v=16.8, min_v=4, max_v=20, law="led", led=string)
    thick = {"gauge_awg": 4, "length_m": 0.01}
    made = plan(cell_ohm=1e-5, devices=[{**leds, "feed": {"rail": "pack-rail", "wire": thick}, "returns": [{"id": "g", "to": "main", "wire": thick}]}], conditions=[STILL])  # fmt: skip
    found = fitted(made)["resistor:leds"]
    assert found.what.endswith(f"for {watts} or more, one for each of 2 strings")
    assert found.after == "feed:leds"


def test_diodes_straps_clamps_plugs_and_limiters_are_fitted_and_a_boards_own_copper_is_not() -> None:
    two = {
        "id": "aux",
        "name": "Aux board",
        "returns": [{"id": "aux-gnd", "to": "main", "wire": {"gauge_awg": 20, "length_m": 0.1}}],
    }
    strap = {"kind": "strap", "id": "s", "name": "Select", "input": "pack-rail", "choices": ["pack-rail", "five"], "selected": ["five"], "output": "cam-rail", "board": "main"}  # fmt: skip
    across = {"kind": "diode", "id": "d", "name": "Way in", "input": "pack-rail", "output": "there", "board": "aux"}
    inside = {"kind": "diode", "id": "own", "name": "Own", "input": "pack-rail", "output": "five", "board": "main"}
    stacked = {"kind": "link", "id": "k", "name": "Stack plug", "input": "five", "output": "below", "board": "aux"}
    rails = [rail("five", 5), rail("cam-rail"), rail("there", board="aux"), rail("below", board="aux")]
    clamp = {"id": "t", "name": "Suppressor", "at": "pack-rail", "standoff_v": 18, "breakdown_v": 20}
    lamp = {"id": "bulb", "name": "First lamp", "kind": "lamp", "rail": "pack-rail", "volts": 12, "limit_a": 2}
    found = fitted(
        plan(boards=[two], rails=rails, supplies=[strap, across, inside, stacked], clamps=[clamp], inlets=[lamp])
    )
    assert found.keys() == {"board:main", "board:aux", "strap:s", "diode:d", "plug:k", "clamp:t", "inlet:bulb"}
    assert found["diode:d"].how == "its band towards Aux board there"
    assert found["strap:s"].what == "bridges Main board five"
    assert found["plug:k"].where == "Main board five and Aux board below"
    assert found["inlet:bulb"].how.endswith("out again before it flies")
    assert "band on plus" in found["clamp:t"].how


def test_motors_on_their_esc_have_phases_and_those_with_an_esc_of_their_own_plus_and_ground() -> None:
    esc = {"id": "esc", "name": "ESC", "kind": "esc", "returns": [{"id": "esc-gnd", "to": "main", "wire": {"gauge_awg": 14, "length_m": 0.1}}]}  # fmt: skip
    motors = device("m", "esc-rail", 1, ground="esc", kind="motor", nominal_v=14, min_v=6, max_v=30, throttle=[{"throttle_frac": 1, "amps": 40}])  # fmt: skip
    lead = {"kind": "link", "id": "esc-lead", "name": "ESC lead", "input": "pack-rail", "output": "esc-rail", "board": "esc", "feed": {"gauge_awg": 14, "length_m": 0.1}}  # fmt: skip
    made = plan(boards=[esc], rails=[rail("esc-rail", board="esc")], supplies=[lead], devices=[motors])
    assert fitted(made)["phases:m"].where == "ESC motor pads"
    assert rows(made).keys() == {"lead", "return:main-gnd", "link:esc-lead", "return:esc-gnd"}
    wing = plan(devices=[{**motors, "feed": {"rail": "pack-rail", "wire": {"gauge_awg": 16, "length_m": 0.1}}, "returns": [{"id": "m-gnd", "to": "main", "wire": {}}]}])  # fmt: skip
    assert {"feed:m", "return:m-gnd"} <= rows(wing).keys()
    assert "phases:m" not in fitted(wing)


def test_a_regulator_that_is_a_board_stands_once_and_signals_run_in_thin_cables_alone() -> None:
    made = demo.plan("marshlight-second-wiring")
    found = fitted(made)
    assert "regulator:bec-9v-reg" in found
    assert "board:sender-bec-board" not in found
    weights = made.board_of["sender-bec-board"].weight_g, made.supply_of["bec-9v-reg"].weight_g
    assert found["regulator:bec-9v-reg"].weight_g == sum(weights)
    pair = demo.plan("culvert-first-wiring")
    assert rows(pair)["signal:motor-1"].harness == "Red wire of pair 1"
    for gauge, runs_in in ((22, "Red wire of pair 1"), (21, "")):
        lead = apply_edits(pair, [SetValue(element="red-1", field="feed.gauge_awg", value=gauge)])
        assert rows(lead)["signal:motor-1"].harness == runs_in


@pytest.mark.parametrize(("gauge", "warned"), [(10, False), (24, True)])
def test_phases_that_get_too_hot_are_warned_of_where_they_are_soldered(gauge: int, warned: bool) -> None:
    made = demo.plan("culvert-first-wiring")
    thin = apply_edits(made, [SetValue(element="motors-1", field="feed.wire.gauge_awg", value=gauge)])
    assert fitted(thin)["phases:motors-1"].warning.startswith("too hot in ") is warned


def test_a_units_own_output_is_a_pad_of_the_unit_and_what_is_in_line_is_said() -> None:
    found = rows(demo.plan("marshlight-second-wiring"))["feed:thermal"]
    assert (found.start.owner, found.start.name) == ("sender", "Analogue sender")
    fuse = {"gauge_awg": 20, "length_m": 0.1, "connector_limit_a": 2, "inline": {"kind": "fuse", "melts_a2s": 4}}
    cam = device("cam", "pack-rail", 0.2, nominal_v=14, min_v=6, max_v=20, feed={"rail": "pack-rail", "wire": fuse})
    assert rows(plan(devices=[cam]))["feed:cam"].inline == "fuse of 2 A in line"


def cells(school: School) -> dict[str, float]:
    return {cell.label: cell.value for cell in school.cells}


@pytest.mark.parametrize("name", ["marshlight-as-soldered", "marshlight-second-wiring"])
def test_a_school_gives_what_it_promises(name: str) -> None:
    """Once its edits are made, the plan as built has the numbers the school showed."""
    made = demo.plan(name)
    for table in schools(made):
        for school in table.schools:
            if not school.edits:
                continue
            after = schools(apply_edits(made, school.edits))[0].schools[0]
            assert after.key == "built"
            promised, kept = cells(school), cells(after)
            for label in set(promised) & set(kept) - {"ground wire"}:
                assert kept[label] == pytest.approx(promised[label], rel=1e-6, abs=1e-9), (school.key, label)


def test_the_default_changes_least_then_is_steadiest_then_has_least_to_do() -> None:
    """Nothing on Marshlight's video returns pulses: of 41, 28 and 26 mV that stay, the pair's are least."""
    (video, esc) = schools(demo.plan("marshlight-as-soldered"))
    steady = {s.key: cells(s)["worst steady shift"] for s in video.schools if not s.refused}
    changing = {s.key: cells(s)["worst change under full picture"] for s in video.schools if not s.refused}
    assert max(changing.values()) < 1e-4
    assert steady["pair"] == min(steady.values()) < steady["star"] - 1e-3
    assert [s.key for s in video.schools if s.default] == ["pair"]
    assert [s.key for s in esc.schools if s.default] == ["with"]
    camera = fed("camera", 0.2, "main", pin("c-out", "video-out"), kind="camera")
    sender = fed("sender", 0.2, "main", pin("s-in", "video-in"), kind="sender")
    level = wired(camera, sender, signals=(link("video", "c-out", "s-in"),))
    default = next(s for s in schools(level)[0].schools if s.default)
    assert (default.key, default.edits) == ("star", ())  # nothing to gain: nothing to do


def test_a_way_that_takes_a_ground_away_is_refused_with_the_reason() -> None:
    """A controller that stands on the camera's ground: with the camera grounded at it, neither has a way back."""
    camera = fed("camera", 0.2, "main", pin("c-out", "video-out"), kind="camera")
    sender = fed("sender", 0.2, "main", pin("s-in", "video-in"), kind="sender")
    board = {"returns": [{"id": "fc-gnd", "to": "camera", "wire": {"gauge_awg": 24, "length_m": 0.05}}]}
    made = wired(
        camera, sender, pins=(pin("v-in", "video-in"),), board=board, signals=(link("video", "c-out", "v-in"),)
    )
    pair = next(s for s in schools(made)[0].schools if s.key == "pair")
    assert (
        pair.refused == "Controller, Camera and 1 more would have no way back to the pack"
        or "no way back" in pair.refused
    )
    assert (pair.edits, pair.default) == ((), False)


def test_plans_without_video_or_escs_raise_no_question() -> None:
    assert schools(plan(devices=[device("lamp", "pack-rail", 0.1, nominal_v=14, min_v=6, max_v=20)])) == ()


def test_thicker_wire_lowers_its_drop_on_the_list() -> None:
    made = demo.plan("marshlight-as-soldered")
    thick = apply_edits(made, [SetValue(element="sender-gnd", field="wire.gauge_awg", value=20)])
    assert (rows(thick)["return:sender-gnd"].drop_v or 0) < (rows(made)["return:sender-gnd"].drop_v or 0) / 2


def test_one_page_holds_everything_and_nothing_in_it_can_run_or_be_fetched() -> None:
    made = demo.plan("marshlight-as-soldered")
    evil = "<script src=//x>&\"'"
    document = made.model_dump(mode="json")
    document["devices"][0]["name"] = document["pack"]["name"] = document["note"] = evil
    found = review(load_plan(document))
    line = BenchLine("2026-01-01", f"Plus to minus {evil}", "1.2 Ω", "passed", evil)
    text = whole_page(Heading(evil, 3, "one run is missing"), found.solved, found.analysis.findings, [line])
    assert not re.search(r"<script|<link|<img|\b(?:src|href|on\w+)=(?!//x)|url\(|@import", text)
    assert text.count("<script src") == 0 < text.count(escape(evil))
    for finding in found.analysis.findings:
        assert escape(finding.title) in text
    listed = hookup(found.solved)
    assert text.count("<td>☐</td>") == len(listed.order)
    for row in listed.rows:
        assert escape(row.purpose) in text
    for one in found.plan.rails:
        assert f"<td>{escape(found.plan.title(one.id))}</td>" in text
    assert "1.2 Ω" in text
    assert "one run is missing" in text


def test_what_is_fitted_weighs_what_the_comparison_says_and_is_looked_at() -> None:
    """Grams of the list and of its devices are the craft's; what can be fitted wrongly has a step of its own, once."""
    diode = {"id": "dio", "name": "Diode", "kind": "diode", "input": "pack-rail", "output": "five", "board": "main", "drop_v": 0.3, "series_ohm": 0.05, "lead": {}, "weight_g": 0.5}  # fmt: skip
    strap = {"id": "sel", "name": "Camera bridge", "kind": "strap", "board": "main", "output": "cam", "input": "five", "choices": ["five", "pack-rail"], "selected": ["five"], "weight_g": 0.1}  # fmt: skip
    clamp = {"id": "tvs", "name": "Clamp", "at": "pack-rail", "standoff_v": 18, "breakdown_v": 20, "dynamic_ohm": 0.05, "pulse_j": 1, "weight_g": 0.3}  # fmt: skip
    tantalum = {"id": "tan", "name": "Tantalum", "kind": "capacitor", "at": "five", "farad": 47e-6, "rated_v": 16, "dielectric": "tantalum", "weight_g": 0.2, "count": 2}  # fmt: skip
    bead = {"id": "bead", "name": "Bead", "kind": "ferrite", "at": "lamp", "ohm_100mhz": 600, "saturation_a": 2, "dcr_ohm": 0.05, "weight_g": 0.1}  # fmt: skip
    lamp = device("lamp", "pack-rail", 0.02, law="led", min_v=10, max_v=18, nominal_v=14.8, led={"forward_v": 3, "series": 3, "resistor_ohm": 270, "max_a": 0.03}, weight_g=2)  # fmt: skip
    made = plan(
        rails=[rail("five"), rail("cam")], supplies=[diode, strap], clamps=[clamp], filters=[tantalum, bead],
        devices=[lamp], boards=[{"id": "other", "name": "Other", "kind": "power", "weight_g": 7}],
    )  # fmt: skip
    grams = {one.element: one.weight_g for one in listed(made).parts}
    assert sum(grams.values()) + 2 == pytest.approx(electronics_g(made)) == pytest.approx(10.4)
    assert grams["tan"] == pytest.approx(0.4)
    steps = {one.id: one.title for one in bench_steps(checklist(solve_plan(made)))}
    assert steps["eyes-capacitor-tan"] == "Tantalum: its bar is on plus"  # an electrolytic marks its minus
    assert steps["eyes-diode-dio"] == "Diode: its band points to five"
    for part in ("clamp-tvs", "coil-bead", "bridges-sel", "resistor-lamp"):
        assert f"eyes-{part}" in steps
