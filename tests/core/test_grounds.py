"""Returns and signals: hand-worked heights, whose current flows where, loops, and the mistakes 6 to 9 of the trade."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.plans import STILL, device, draws, fixes_of, plan
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.grounded import grounded
from yardmeter.core.answers.returns import Returns, returns
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.choices.cliff import cliff
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.graph import graph_of, pictures
from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.plan.operations import Add, Duplicate, Remove, SetValue
from yardmeter.review import analyse
from yardmeter.words.pictures import path_words

PUNCH = {"id": "punch", "name": "Punch", "pack_state": "full", "throttle_frac": 0.5, "default_state": "peak"}
WIRE = {"gauge_awg": 26, "length_m": 0.1}
CONTROLLER = {
    "id": "fc",
    "name": "Controller",
    "kind": "controller",
    "pinout": "print",
    "returns": [{"id": "fc-gnd", "to": "main", "wire": {"gauge_awg": 24, "length_m": 0.05}}],
}


def pin(name: str, role: str, **fields: Any) -> dict[str, Any]:
    return {"id": name, "label": name.upper(), "role": role, **fields}


def fed(name: str, amps: float, to: str = "main", *pins: dict[str, Any], **fields: Any) -> dict[str, Any]:
    usual = {"nominal_v": 14, "min_v": 6, "max_v": 20, "pins": list(pins)}
    back = [{"id": f"{name}-gnd", "to": to, "wire": WIRE}]
    return device(name, "pack-rail", amps, **{**usual, "returns": back, **fields})


def link(kind: str, source: str, sink: str, **fields: Any) -> dict[str, Any]:
    return {"id": "link", "name": "Link", "kind": kind, "source": source, "sink": sink, **fields}


def wired(
    *devices: dict[str, Any],
    pins: tuple[dict[str, Any], ...] = (),
    signals: tuple[dict[str, Any], ...] = (),
    **parts: Any,
) -> Plan:
    board = {**CONTROLLER, "pins": list(pins), **parts.pop("board", {})}
    return plan(boards=[board], devices=list(devices), signals=list(signals), conditions=[PUNCH], **parts)


def answer(made: Plan) -> Returns:
    return returns(grounded(solve_conditions(made)))


def heights(made: Plan) -> dict[str, float]:
    return {g.id: g.states["punch"].volts_v for g in answer(made).grounds}


def escs(beside: bool, amps: float = 40.0, throttle: float = 0.5) -> Plan:
    """Four ESCs on one board at the end of 100 mm, with a signal from a controller that stands on the pack's board."""
    back = [{"id": "esc-gnd", "to": "main", "wire": {"gauge_awg": 14, "length_m": 0.1}}]
    ground = [{"id": "esc-sig", "to": "fc", "wire": {"gauge_awg": 28, "length_m": 0.1}}] if beside else []
    esc = {"id": "esc", "name": "ESC", "kind": "esc", "returns": back + ground, "pins": [pin("e-in", "esc-in")]}
    motors = device("motors", "pack-rail", 0, kind="motor", nominal_v=14, min_v=6, max_v=18, motors={"count": 4}, returns=[{"id": "m-gnd", "to": "esc", "wire": {"gauge_awg": 8, "length_m": 0.001, "joined": True}}], throttle=[{"throttle_frac": throttle, "amps": amps}])  # fmt: skip
    signal = {
        "id": "link",
        "name": "Link",
        "kind": "esc",
        "source": "fc",
        "sink": "e-in",
        "ground": "esc-sig" if beside else None,
    }
    return plan(
        boards=[esc, CONTROLLER], devices=[motors], signals=[signal], conditions=[{**PUNCH, "throttle_frac": throttle}]
    )


@pytest.mark.parametrize(("amps", "throttle"), [(40.0, 0.5), (10.0, 0.25)])
def test_a_bridges_edge_goes_by_the_inductance_of_its_way_back(amps: float, throttle: float) -> None:
    """A quarter of the amps over the duty is one motor's phase current, a fifth of it steps in 1 µs; U = R ΔI + L ΔI/Δt."""
    edge_a = 0.2 * amps / 4 / throttle
    found = answer(escs(beside=False, amps=amps, throttle=throttle))
    lead = next(s for s in found.segments if s.id == "esc-gnd")
    assert 30e-9 < lead.henry_h < 120e-9
    state = found.signals[0].states["punch"]
    assert state.step_by == "motors"
    assert state.step_v == pytest.approx(edge_a * (lead.ohm + lead.henry_h / 1e-6), rel=1e-3)
    assert state.on_signal_v == pytest.approx(abs(state.shift_v) + state.step_v)


def test_a_ground_beside_the_signal_shares_the_edge_by_inductance() -> None:
    """It and the controller's own return side by side with the lead: each takes its share by L at once, by R in the end."""
    found = answer(escs(beside=True))
    lead, beside, onward = (
        next(s for s in found.segments if s.id == name) for name in ("esc-gnd", "esc-sig", "fc-gnd")
    )
    henry = beside.henry_h * lead.henry_h / (lead.henry_h + beside.henry_h + onward.henry_h)
    ohm = beside.ohm * lead.ohm / (lead.ohm + beside.ohm + onward.ohm)
    assert found.signals[0].states["punch"].step_v == pytest.approx(4.0 * (ohm + henry / 1e-6), rel=1e-3)
    assert henry < 0.6 * lead.henry_h


def test_the_cliff_goes_by_length_and_amps() -> None:
    """By hand at every point: 10 mV of contact and the wire's R and L at its length, under half the 40 A in punch or more of them."""
    made = escs(beside=False)
    solved = solve_conditions(made)
    found = cliff(solved, "link")
    state = answer(made).signals[0].states["punch"]
    assert [(s.condition, round(s.amps_a, 1)) for s in found.standing] == [("punch", 40.0)]
    assert found.standing[0].share_frac == pytest.approx(state.share_frac, rel=1e-6)
    assert (found.wire, found.length_m) == ("esc-gnd", 0.1)
    margin = answer(made).signals[0].margin_v
    for length, row in zip(found.lengths_m, found.share_frac, strict=True):
        other = answer(apply_edits(made, [SetValue(element="esc-gnd", field="wire.length_m", value=length)]))
        lead = next(s for s in other.segments if s.id == "esc-gnd")
        for amps, share in zip(found.amps_a, row, strict=True):
            throttle = min(amps / 40.0, 1.0) * 0.5  # the curve goes straight to 40 A at half throttle, and no further
            edge_a = 0.2 * amps / 4 / max(throttle, 0.05)
            assert share * margin == pytest.approx(
                amps * lead.ohm + edge_a * (lead.ohm + lead.henry_h / 1e-6), rel=2e-2, abs=1e-4
            )
    with pytest.raises(EditError):
        cliff(solve_conditions(serial(TX, RX)), "link")


def test_a_picture_is_judged_by_what_changes() -> None:
    """40 A over the pack board's return are steady but for a twentieth up and down; 1.2 A of bursts change as a whole."""
    steady = wired(
        fed("camera", 0.3, "sender", pin("c-out", "video-out"), kind="camera"),
        fed("sender", 1.2, "main", pin("s-in", "video-in"), kind="sender"),
        signals=(link("video", "c-out", "s-in"),),
    )
    state = answer(steady).signals[0].states["punch"]
    assert (state.changing_v, state.on_signal_v) == (0, 0)
    assert abs(state.shift_v) > 3e-3
    bursting = answer(video("sender")).signals[0].states["punch"]
    assert bursting.changing_v == pytest.approx(1.2 * 0.01339, rel=1e-2)
    motors = escs(beside=False).model_dump(mode="json")
    motors["signals"][0] |= {"kind": "video"}
    moving = answer(load_plan(motors)).signals[0].states["punch"]
    assert moving.changing_v == pytest.approx(2 * 0.05 * abs(moving.shift_v), rel=1e-3)


def test_a_chain_over_a_board_is_a_chain_and_a_star_is_none() -> None:
    """The camera stands on an overlay board that stands on the sender: the sender's 1.2 A lift all three."""

    def build(camera: str, overlay: str) -> Plan:
        board = {"id": "fc", "name": "Overlay", "returns": [{"id": "fc-gnd", "to": overlay, "wire": WIRE}]}
        parts = fed("camera", 0.3, camera, kind="camera"), fed("sender", 1.2, "main", kind="sender")
        return wired(*parts, board=board)

    found = {f.code: f for f in analyse(build("fc", "sender")).findings if f.code == "ground.chain"}
    assert found["ground.chain"].elements == ("camera", "sender")
    assert found["ground.chain"].numbers[0].value == pytest.approx(1.5 * 0.01339, rel=1e-2)
    assert [fix.title for fix in fixes_of(build("fc", "sender"), "ground.chain")] == [
        "Return to Main board instead of Overlay"
    ]
    for camera, overlay in (("fc", "main"), ("main", "sender"), ("main", "main")):
        assert not [f for f in analyse(build(camera, overlay)).findings if f.code == "ground.chain"]


def test_a_star_of_signals_far_below_their_margin_is_left_alone() -> None:
    """Both ends at the pack's board and a few millivolts of 400: nothing to tell. The same over 200 mV is."""
    quiet = serial(TX, RX, ground=None)
    assert not [f for f in analyse(quiet).findings if f.code == "signal.ground"]
    loud = escs(beside=False)
    assert fixes_of(loud, "signal.ground")


def test_a_return_is_landed_at_the_other_end_rather_than_doubled() -> None:
    """A talker grounded far away on a hub: its one return moved to the listener makes no ring, a second wire makes one."""
    hub = {"id": "hub", "name": "Hub", "returns": [{"id": "hub-gnd", "to": "pack", "wire": {**WIRE, "length_m": 0.4}}]}
    talker = fed("gps", 3.0, "hub", TX)
    board = {**CONTROLLER, "pins": [RX]}
    made = plan(boards=[board, hub], devices=[talker], signals=[link("serial", "g-tx", "c-rx")], conditions=[PUNCH])
    titles = [fix.title for fix in fixes_of(made, "signal.ground")]
    assert titles[0] == "Land Gps's return at Controller instead of Hub"


def test_common_impedance_by_hand() -> None:
    # Camera 0.3 A chained through a sender of 1.2 A, 100 mm of AWG 26 each (ASTM B258, IEC 60028: 0.1339 Ω/m at 20 °C).
    # The shared wire carries 1.5 A: 13.39 mΩ × 1.5 A = 20.1 mV; the camera's own adds 13.39 mΩ × 0.3 A = 4.0 mV.
    chain = wired(fed("camera", 0.3, "sender", kind="camera"), fed("sender", 1.2, kind="sender"))
    found = heights(chain)
    assert found["sender"] - found["main"] == pytest.approx(20.1e-3, abs=0.1e-3)
    assert found["camera"] - found["sender"] == pytest.approx(4.02e-3, abs=0.05e-3)
    star = heights(wired(fed("camera", 0.3, kind="camera"), fed("sender", 1.2, kind="sender")))
    assert star["camera"] - star["main"] == pytest.approx(4.02e-3, abs=0.05e-3)
    shared = next(s for s in answer(chain).segments if s.id == "sender-gnd")
    assert shared.shared
    assert {c.element: round(c.amps_a, 3) for c in shared.states["punch"].carries} == {"sender": 1.2, "camera": 0.3}


def test_an_edge_adds_inductance_by_hand() -> None:
    # 1 A from idle to peak in 1 µs through 100 mm of AWG 26 beside its feed: half of a pair touching at its insulation,
    # µ0 l/2π (ln(s/r) + 1/4) with r = 0.2025 mm, s = 1.466 mm (ours): 44.6 nH → 44.6 mV, and 13.4 mV of resistance.
    still = {"value": 0.0, "provenance": "measured"}
    lamp = fed("lamp", 1.0, draws={"idle": still, "typical": still, "peak": {"value": 1.0, "provenance": "measured"}})
    state = next(g for g in answer(wired(lamp)).grounds if g.id == "lamp").states["punch"]
    assert state.step_by == "lamp"
    assert state.step_v == pytest.approx(44.6e-3 + 13.4e-3, rel=0.01)
    apart = apply_edits(wired(lamp), [SetValue(element="lamp-gnd", field="wire.lay", value="apart")])
    lone = next(g for g in answer(apart).grounds if g.id == "lamp").states["punch"]
    assert lone.step_v > 1.5 * state.step_v


@pytest.mark.parametrize(
    "name", ["marshlight-as-soldered", "marshlight-second-wiring", "wren-boosted-logic", "culvert-lights-on"]
)
def test_whose_current_adds_up_to_what_flows(name: str) -> None:
    """Superposition against the solved network: every ampere in every return belongs to some device."""
    for segment in answer(demo.plan(name)).segments:
        for condition, state in segment.states.items():
            owned = sum(one.amps_a for one in state.carries)
            # Devices under 1 mA are not listed, and an idle regulator's own few milliamps belong to none.
            assert owned == pytest.approx(state.amps_a, abs=0.012), (segment.id, condition)


def ringed(ends: dict[str, tuple[str, str]]) -> Plan:
    """Boards with a return for every pair of ends; the first board has the pack's rail."""
    boards = [
        {"id": f"b{k}", "name": f"Board {k}", "returns": [{"id": e, "to": f"b{b}"} for e, (a, b) in ends.items() if a == str(k)]}
        for k in range(8)
    ]  # fmt: skip
    return load_plan(
        {"name": "rings", "pack": {"rail": "r"}, "boards": boards, "rails": [{"id": "r", "name": "R", "board": "b0"}]}
    )


@given(st.lists(st.tuples(st.integers(0, 7), st.integers(0, 7)).filter(lambda e: e[0] != e[1]), max_size=16))
def test_loops_are_a_cycle_basis(edges: list[tuple[int, int]]) -> None:
    """Against NetworkX: as many loops as its cycle basis, spanning the same space over GF(2)."""
    unique = sorted({tuple(sorted(e)) for e in edges})
    ends = {f"e{k}": (str(a), str(b)) for k, (a, b) in enumerate(unique)}
    ours = [set(ring.wires) for ring in graph_of(ringed(ends)).rings]
    graph = nx.Graph([(a, b, {"name": name}) for name, (a, b) in ends.items()])
    theirs = [
        {graph[a][b]["name"] for a, b in zip(cycle, [*cycle[1:], cycle[0]], strict=True)}
        for cycle in nx.cycle_basis(graph)
    ]
    assert len(ours) == len(theirs)
    assert rank([*ours, *theirs], list(ends)) == len(ours) == rank(ours, list(ends))
    for loop in ours:
        degrees = np.unique([end for name in loop for end in ends[name]], return_counts=True)[1]
        assert (degrees == 2).all()


def rank(sets: list[set[str]], names: list[str]) -> int:
    """Rank over GF(2) of edge sets."""
    rows = [sum(1 << names.index(name) for name in one) for one in sets]
    found = 0
    while rows:
        pivot = rows.pop()
        if pivot:
            found += 1
            low = pivot & -pivot
            rows = [row ^ pivot if row & low else row for row in rows]
    return found


def test_two_wires_between_the_same_grounds_are_a_loop() -> None:
    twice = [{"id": "a", "to": "main", "wire": WIRE}, {"id": "b", "to": "main", "wire": WIRE}]
    made = wired(fed("camera", 0.3, kind="camera", returns=twice))
    (loop,) = answer(made).loops
    assert set(loop.wires) == {"a", "b"}
    # The strip between two touching insulated wires: 100 mm × 1.466 mm; a square of 200 mm around: 50 mm × 50 mm.
    assert loop.area_m2 == pytest.approx(0.1 * 1.466e-3, rel=0.01)
    apart = apply_edits(made, [SetValue(element="b", field="wire.lay", value="apart")])
    assert answer(apart).loops[0].area_m2 == pytest.approx(0.05**2)


def video(to: str, *more: dict[str, Any]) -> Plan:
    camera = fed("camera", 0.3, to, pin("cam-out", "video-out"), kind="camera", provenance="measured")
    bursts = {"burst": {"duty_frac": 0.5}, "draws": {**draws(1.2), "idle": draws(0.0)["idle"]}}
    sender = fed("sender", 1.2, "main", kind="sender", **bursts)
    return wired(
        camera,
        sender,
        *more,
        pins=(pin("cam-in", "video-in", default=True),),
        signals=(link("video", "cam-out", "cam-in", ground="camera-gnd"),),
    )


def serial(
    source: dict[str, Any],
    sink: dict[str, Any],
    *more: dict[str, Any],
    kind: str = "serial",
    pinout: str = "print",
    ground: str | None = "gps-gnd",
) -> Plan:
    return wired(
        fed("gps", 0.05, "main", source),
        pins=(sink, *more),
        board={"pinout": pinout},
        signals=(link(kind, source["id"], sink["id"], ground=ground),),
    )


TX = pin("g-tx", "tx", level_v=3.3)
RX = pin("c-rx", "rx", level_v=3.3, tolerant_v=5.0)


def twice_used(second: str) -> Plan:
    lidar = fed("lidar", 0.05, "main", pin("l-tx", "tx", level_v=3.3))
    second_link = {**link("serial", "l-tx", second, ground="lidar-gnd"), "id": "link-2", "name": "Lidar"}
    return wired(
        fed("gps", 0.05, "main", TX),
        lidar,
        pins=(RX, pin("c-rx2", "rx", level_v=3.3)),
        signals=(link("serial", "g-tx", "c-rx", ground="gps-gnd"), second_link),
    )


def landed(at: str) -> Plan:
    pins = [pin("vcc", "power-in"), pin("gnd", "ground"), pin("data", "rx", level_v=3.3, tolerant_v=3.6)]
    feed = {"rail": "pack-rail", "pin": at, "wire": WIRE}
    return wired(fed("gps", 0.1, "main", *pins, feed=feed))


def bridged(closed: bool) -> Plan:
    """Motors on an ESC board whose ground wire drops; a camera grounded at both ends of it."""
    esc = {
        "id": "esc",
        "name": "ESC",
        "returns": [{"id": "esc-gnd", "to": "main", "wire": {"gauge_awg": 14, "length_m": 0.1}}],
    }
    motors = device(
        "motors",
        "pack-rail",
        0,
        kind="motor",
        nominal_v=14,
        min_v=6,
        max_v=18,
        throttle=[{"throttle_frac": 0.5, "amps": 30}],
        returns=[{"id": "m-gnd", "to": "esc", "wire": {"gauge_awg": 12, "length_m": 0.03}}],
    )
    grounds = [{"id": "cam-a", "to": "main", "wire": WIRE}] + (
        [{"id": "cam-b", "to": "esc", "wire": WIRE}] if closed else []
    )
    return plan(boards=[esc], devices=[motors, fed("camera", 0.3, kind="camera", returns=grounds)], conditions=[PUNCH])


def compass(distance: float) -> Plan:
    return wired(
        fed(
            "motors",
            40.0,
            "main",
            kind="other",
            returns=[{"id": "m", "to": "main", "wire": {"gauge_awg": 10, "length_m": 0.05}}],
        ),
        fed("gps", 0.05, compass={"distance_m": distance}),
    )


def picture(*, display: bool, straight: bool = False) -> Plan:
    """Camera to controller to sender; without the chip nothing comes out again."""
    camera = fed("camera", 0.1, "main", pin("cam-out", "video-out"), kind="camera")
    sender = fed("sender", 0.3, "main", pin("s-in", "video-in"), kind="sender")
    first = link("video", "cam-out", "s-in" if straight else "v-in", ground="camera-gnd")
    second = {**link("video", "v-out", "s-in", ground="sender-gnd"), "id": "on"}
    return wired(
        camera,
        sender,
        pins=(pin("v-in", "video-in", default=True), pin("v-out", "video-out")),
        signals=(first,) if straight else (first, second),
        board={"osd": display},
    )


Pair = tuple[Callable[[], Plan], Callable[[], Plan]]
PAIRS: dict[str, Pair] = {
    # 6: the chained ground that flickers.
    "ground.chain": (lambda: video("sender"), lambda: video("fc")),
    "ground.shift": (lambda: video("sender"), lambda: video("fc")),
    "ground.motor": (lambda: bridged(True), lambda: bridged(False)),
    "ground.loop": (lambda: bridged(True), lambda: bridged(False)),
    # 7: TX to TX, in for out, the input nobody looks at.
    "signal.crossed": (lambda: serial(TX, pin("c-tx", "tx", level_v=3.3)), lambda: serial(TX, RX)),
    "signal.direction": (
        lambda: serial(pin("cam-out", "video-out"), pin("v-out", "video-out"), kind="video"),
        lambda: serial(pin("cam-out", "video-out"), pin("v-in", "video-in"), kind="video"),
    ),
    "signal.camera_input": (
        lambda: serial(
            pin("cam-out", "video-out"), pin("in-2", "video-in"), pin("in-1", "video-in", default=True), kind="video"
        ),
        lambda: serial(
            pin("cam-out", "video-out"), pin("in-1", "video-in", default=True), pin("in-2", "video-in"), kind="video"
        ),
    ),
    "signal.port": (lambda: twice_used("c-rx"), lambda: twice_used("c-rx2")),
    "signal.inverted": (
        lambda: serial(pin("r-out", "tx", level_v=3.3, inverted=True), RX, kind="receiver"),
        lambda: serial(pin("r-out", "tx", level_v=3.3, inverted=True), {**RX, "inverts": True}, kind="receiver"),
    ),
    "signal.level": (
        lambda: serial({**TX, "level_v": 5.0}, {**RX, "tolerant_v": 3.6}),
        lambda: serial({**TX, "level_v": 5.0}, RX),
    ),
    "signal.pinout": (lambda: serial(TX, RX, pinout="unverified"), lambda: serial(TX, RX, pinout="measured")),
    "signal.video_path": (lambda: picture(display=False), lambda: picture(display=True)),
    # 8: a signal without a ground.
    "signal.ground": (lambda: escs(beside=False), lambda: escs(beside=True)),
    "signal.powered": (lambda: landed("data"), lambda: landed("vcc")),
    "noise.compass": (lambda: compass(0.04), lambda: compass(0.2)),
}


@pytest.mark.parametrize("code", PAIRS)
def test_fires_and_is_silent(code: str) -> None:
    faulty, cured = PAIRS[code]
    found = [f for f in analyse(faulty()).findings if f.code == code]
    assert found
    assert code not in {f.code for f in analyse(cured()).findings}
    for finding in found:
        for fix in fixes_of(faulty(), code):
            better = analyse(apply_edits(faulty(), fix.edits))
            assert finding.key not in {f.key for f in better.findings}, fix.title


def test_an_inverted_line_is_sent_to_an_input_that_can_be_told_and_to_no_output() -> None:
    ends = [pin("r-out", "tx", level_v=3.3, inverted=True), pin("in", "rx"), pin("can", "rx", inverts=True), pin("idles-low", "rx", inverted=True), pin("out", "tx", inverts=True), pin("plain", "rx")]  # fmt: skip
    document = plan(devices=[device("r", "pack-rail", 0.1, max_v=20, pins=ends[:1])]).model_dump(mode="json")
    document["boards"][0]["pins"] = ends[1:]
    document["signals"] = [{"id": "s", "name": "S", "kind": "receiver", "source": "r-out", "sink": "in"}]
    (told,) = (one for one in run_rules(solve_plan(load_plan(document))) if one.code == "signal.inverted")
    assert told.facts.suitable == ("can", "idles-low")
    assert [edit.value for fix in told.fixes for edit in fix.edits] == ["can", "idles-low"]


def test_the_way_of_a_picture_with_and_without_the_chip() -> None:
    through, beside = picture(display=True), picture(display=True, straight=True)
    (path,) = pictures(through)
    assert path_words(through, path) == "Camera → Controller (on-screen display) → Sender"
    assert (path.arrives, path.display) == (True, True)
    assert path.signals == tuple(one.id for one in through.signals if one.kind == "video")
    (direct,) = pictures(beside)
    assert (direct.owners, direct.display) == (("camera", "sender"), False)
    (note,) = [f for f in analyse(beside).findings if f.code == "signal.video_path"]
    assert note.severity == "note"
    assert "passes by the on-screen display" in note.title


def test_levels_that_are_not_read() -> None:
    # 5 V CMOS wants 3.5 V for a high (0.7 of its supply); 3.3 V logic gives 2.9 V under load. Textbook values.
    cmos = {**RX, "level_v": 5.0, "input_levels": "cmos"}
    (finding,) = [f for f in analyse(serial(TX, cmos)).findings if f.code == "signal.level"]
    assert finding.severity == "fault"
    assert [round(n.value, 2) for n in finding.numbers] == [3.3, 3.9]


def test_a_compass_by_hand() -> None:
    # 40 A in a pair 6 mm apart, 40 mm away: µ0 I s/(2π d²) = 30 µT; atan(30/20) = 56°. Textbook.
    (finding,) = [f for f in analyse(compass(0.04)).findings if f.code == "noise.compass"]
    assert finding.numbers[0].value == pytest.approx(56.3, abs=0.3)
    # Under 5° at 40 mm × √(tan 56.3° / tan 5°) = 166 mm.
    assert "166 mm away" in finding.remedy


def test_pins_and_signals_are_edited_and_taken_back() -> None:
    made = serial(TX, RX)
    made = apply_edits(made, [Add(kind="pin", owner="fc", value={"id": "c-tx", "label": "TX", "role": "tx"})])
    back = {"id": "link-3", "name": "Back", "kind": "serial", "source": "c-tx", "sink": "gps"}
    made = apply_edits(made, [Add(kind="signal", value=back)])
    assert made.signals[1].sink == "gps"
    without = apply_edits(made, [Remove(element="c-tx")])
    assert without.signals[1].source == "fc"
    assert apply_edits(made, [Remove(element="gps-gnd")]).signals[0].ground is None
    assert apply_edits(made, [Remove(element="gps")]).signals == ()
    twin = apply_edits(made, [Duplicate(element="gps")])
    assert len({p.id for d in twin.devices for p in d.pins}) == 2
    with pytest.raises(EditError) as caught:
        apply_edits(made, [SetValue(element="link", field="sink", value="nowhere")])
    assert "nowhere" in caught.value.what
    assert load_plan(made.model_dump(mode="json")) == made


def test_still_air_on_the_bench_keeps_its_grounds() -> None:
    made = plan(devices=[fed("camera", 0.3)], conditions=[STILL])
    assert answer(made).grounds[1].states["bench"].volts_v > 0


@pytest.mark.parametrize(
    ("kind", "hub", "ends", "told"),
    [
        ("i2c", "sda", ("sda", "sda", "sda"), []),
        ("video", "video-out", ("video-in", "video-in"), []),
        ("video", "video-out", ("video-in", "video-in", "video-in"), [3]),
        ("serial", "tx", ("rx", "rx"), [2]),
    ],
)
def test_a_bus_is_shared_a_picture_by_two_and_a_port_by_nobody(
    kind: str, hub: str, ends: tuple[str, ...], told: list[int]
) -> None:
    parts = [fed(f"d{k}", 0.1, "main", pin(f"e{k}", role)) for k, role in enumerate(ends)]
    signals = tuple({**link(kind, "hub", f"e{k}"), "id": f"s{k}"} for k in range(len(ends)))
    made = wired(*parts, pins=(pin("hub", hub),), signals=signals)
    assert [one.compared.observed for one in run_rules(solve_plan(made)) if one.code == "signal.port"] == told
