"""Pins that are usually joined: crossed, one port one use, nothing taken twice, and nothing wrong in what is offered."""

from __future__ import annotations

import pytest

from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.placing import place_part
from yardmeter.core.edits.starting import start_plan
from yardmeter.core.parts.part import DiodePart
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Add, Move, SetValue
from yardmeter.core.plan.pins import PinRole
from yardmeter.core.plan.signals import SIGNAL_ENDS, belong_together
from yardmeter.review import analyse
from yardmeter.review.joining import usual_signals

SHELF = {part.key: part for part in demo.starter_parts()}


def started(*devices: str, boards: tuple[str, ...] = ("fc-video", "esc-four")) -> Plan:
    return start_plan("Bench", SHELF["pack-4s-1500"], [SHELF[key] for key in boards], [SHELF[key] for key in devices])


def links(made: Plan) -> dict[str, tuple[str, str]]:
    def words(end: str) -> str:
        return f"{made.owner_of[end].name} {made.pin_of[end].label}"

    return {one.name: (words(one.source), words(one.sink)) for one in made.signals}


def joined(made: Plan) -> Plan:
    return apply_edits(made, [edit for offer in usual_signals(made) for edit in offer.edits])


def test_a_usual_craft_is_joined_without_a_finding() -> None:
    made = started("motors-small", "cam-micro", "vtx-400", "rx-mini", "gnss-small")
    after = joined(made)
    found = links(after)
    assert found["Micro camera, 5 V video"] == ("Micro camera, 5 V VIDEO", "Flight controller CAM 1")
    assert found["Picture to Analogue sender, 400 mW"][0] == "Flight controller VOUT"
    assert found["Mini receiver out"][1] == "Flight controller RX1"
    assert found["Mini receiver in"][0] == "Flight controller TX1"
    assert found["Motor signal 4"] == ("Flight controller M4", "Four-way ESC S4")
    ends = [end for one in after.signals for end in (one.source, one.sink) if one.kind != "one-wire"]
    assert len(ends) == len(set(ends))
    assert not {f.code for f in analyse(after).findings if f.code.startswith("signal.") and f.severity != "note"}
    assert usual_signals(after) == ()


def test_what_is_already_joined_is_left_alone() -> None:
    made = started("motors-small", "cam-micro", "vtx-400", "rx-mini")
    port = next(offer for offer in usual_signals(made) if offer.title.startswith("Mini receiver"))
    once = apply_edits(made, port.edits)
    second = apply_edits(once, [edit for offer in usual_signals(once) for edit in offer.edits])
    assert len([one for one in second.signals if "Mini receiver" in one.name]) == 2


def test_ports_run_out_and_cameras_go_straight_to_a_sender() -> None:
    crowd = started("rx-mini", "gnss-small", "computer-small", "digital-light", "cell-modem")
    assert sum("a serial port" in offer.title for offer in usual_signals(crowd)) == 4  # four ports, five that talk
    cameras = started("cam-micro", "cam-micro", "cam-micro", "vtx-400")
    assert sum("its picture" in offer.title for offer in usual_signals(cameras)) == 3
    straight = [one for one in joined(cameras).signals if one.kind == "video" and "sender" in one.sink]
    assert len(straight) == 1


def test_the_demo_craft_offers_no_pin_twice() -> None:
    made = demo.plan("marshlight-second-wiring")
    taken = {end for one in made.signals for end in (one.source, one.sink)}
    shared = {p.id for p in made.pin_of.values() if p.role in ("one-wire", "sda", "scl")}
    offered = [
        end
        for offer in usual_signals(made)
        for edit in offer.edits
        for end in (edit.value["source"], edit.value["sink"])
        if end not in shared
    ]
    assert not taken & set(offered)
    assert len(offered) == len(set(offered))


def test_an_overlay_board_stands_between_camera_and_sender() -> None:
    made = started("motors-small", "cam-micro", "vtx-400", boards=("fc-plain", "esc-four", "osd-board"))
    found = links(joined(made))
    assert found["Micro camera, 5 V video"] == ("Micro camera, 5 V VIDEO", "Overlay board VIN")
    assert found["Picture to Analogue sender, 400 mW"] == ("Overlay board VOUT", "Analogue sender, 400 mW VIDEO")
    assert found["Overlay board out"] == ("Overlay board TX", "Flight controller RX1")
    assert found["Overlay board in"] == ("Flight controller TX1", "Overlay board RX")
    # A controller that draws itself needs none: the board beside it is left out of the picture.
    beside = links(joined(started("cam-micro", "vtx-400", boards=("fc-video", "esc-four", "osd-board"))))
    assert beside["Micro camera, 5 V video"][1] == "Flight controller CAM 1"
    assert "Overlay board out" not in beside


def test_lights_get_their_data_and_a_compass_its_bus() -> None:
    found = links(joined(started("led-strip-8", "gnss-compass")))
    assert found["LED strip, 8 pixels data"] == ("Flight controller LED", "LED strip, 8 pixels DIN")
    assert {name.split()[-1] for name in found if "compass" in name} == {"out", "in", "SDA", "SCL"}


def test_whatever_is_joined_joins_what_can_drive_to_what_can_read() -> None:
    made = joined(
        started("motors-small", "cam-micro", "vtx-400", "rx-mini", "servo-micro", "led-strip-8", "gnss-compass")
    )
    for one in made.signals:
        source, sink = SIGNAL_ENDS[one.kind]
        assert made.pin_of[one.source].role in source, one.name
        assert made.pin_of[one.sink].role in sink, one.name


def test_a_buzzer_gets_its_switch_and_a_camera_its_menu_line() -> None:
    found = links(joined(started("buzzer", "cam-micro")))
    assert found["Buzzer switch"] == ("Flight controller BZ−", "Buzzer BZ−")
    assert found["Micro camera, 5 V menu"] == ("Flight controller CC", "Micro camera, 5 V CTL")
    crossed = joined(started("buzzer", "cam-micro"))
    buzzer = next(one for one in crossed.signals if one.kind == "buzzer")
    menu = next(one for one in crossed.signals if one.kind == "camera")
    wrong = analyse(apply_edits(crossed, [SetValue(element=menu.id, field="source", value=buzzer.source)])).findings
    assert any(f.code == "signal.direction" and menu.id in f.elements for f in wrong)


def test_lights_of_5_v_may_not_read_3_3_v_and_a_diode_in_their_plus_cures_it() -> None:
    """By hand: CMOS reads 0.7 of its supply as high. 3.3 V less 0.4 V under load falls short of 3.5 V on 5 V; the reader's supply has to come
    under 2.9 / 0.7 = 4.14 V, which a drop of 0.7 V does not reach and one of 0.9 V does."""
    made = joined(started("led-strip-8"))
    strip = next(one for one in made.devices if one.kind == "led")
    assert strip.feed is not None

    def told(plan: Plan) -> list[tuple[str, float]]:
        return [
            (f.severity, next(n.value for n in f.numbers if n.label == "needed"))
            for f in analyse(plan).findings
            if f.code == "signal.level"
        ]

    (found,) = told(made)
    assert found[0] == "caution"
    assert found[1] == pytest.approx(3.9)
    for drop_v, misses in ((0.7, True), (0.9, False)):
        part = SHELF["diode-schottky-3"].model_copy(
            update={"diode": DiodePart(drop_v=drop_v, series_ohm=0.01, rating_a=3)}
        )
        adds = place_part(made, part, strip.feed.rail)
        rail = next(str(e.value["id"]) for e in adds if isinstance(e, Add) and e.kind == "rail")
        behind = apply_edits(made, [*adds, Move(device=strip.id, rail=rail)])
        assert bool(told(behind)) is misses, drop_v


@pytest.mark.parametrize(
    ("drives", "reads", "right"),
    [("esc-out", "led-in", True), ("esc-out", "servo-in", True), ("servo-out", "esc-in", True), ("led-out", "esc-in", False), ("tx", "rx", True),
     ("tx", "video-in", False), ("buzzer-out", "led-in", False), ("camera-out", "camera-in", True), ("one-wire", "rx", True)],
)  # fmt: skip
def test_what_belongs_together_is_what_is_offered(drives: PinRole, reads: PinRole, right: bool) -> None:
    assert belong_together(drives, reads) is right
