"""The hook-up list: every wire once, pin by pin, with what flows and what it may carry; schools that keep their word."""

from __future__ import annotations

import pytest

from tests.core.test_grounds import fed, link, pin, wired
from tests.plans import LOW, device, plan
from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.physics.conductors import wire_burst_limit_a, wire_ohm
from yardmeter.core.plan import Link, Plan, Strap
from yardmeter.core.plan.operations import SetValue
from yardmeter.review import solve_plan
from yardmeter.review.hookup import Hookup, HookupRow, hookup
from yardmeter.review.schools import School, schools

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
    logic = {d.id for d in made.devices if d.kind == "logic"}
    wanted = {"lead"} | {f"feed:{d.id}" for d in made.devices if d.feed and d.kind != "logic"}
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
