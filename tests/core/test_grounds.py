"""Returns and signals: hand-worked heights, whose current flows where, loops, and the mistakes 6 to 9 of the trade."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.plans import STILL, device, plan
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.loops import fundamental_loops
from yardmeter.core.answers.returns import Returns, returns
from yardmeter.core.answers.video_paths import path_words, video_paths
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.plan.operations import Add, Duplicate, Remove, SetValue
from yardmeter.core.review import analyse

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
    return returns(solve_conditions(made))


def heights(made: Plan) -> dict[str, float]:
    return {g.id: g.states["punch"].volts_v for g in answer(made).grounds}


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


@given(st.lists(st.tuples(st.integers(0, 7), st.integers(0, 7)).filter(lambda e: e[0] != e[1]), max_size=16))
def test_loops_are_a_cycle_basis(edges: list[tuple[int, int]]) -> None:
    """Against NetworkX: as many loops as its cycle basis, spanning the same space over GF(2)."""
    unique = sorted({tuple(sorted(e)) for e in edges})
    ends = {f"e{k}": (str(a), str(b)) for k, (a, b) in enumerate(unique)}
    ours = [set(found) for found, _ in fundamental_loops(ends)]
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
    sender = fed("sender", 1.2, "main", kind="sender")
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
    "signal.ground": (lambda: serial(TX, RX, ground=None), lambda: serial(TX, RX)),
    # 9: the supply on a data pin.
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
        for fix in finding.fixes:
            better = analyse(apply_edits(faulty(), fix.edits))
            assert finding.key not in {f.key for f in better.findings}, fix.title


def test_the_way_of_a_picture_with_and_without_the_chip() -> None:
    through, beside = picture(display=True), picture(display=True, straight=True)
    (path,) = video_paths(through)
    assert path_words(through, path) == "Camera → Controller (on-screen display) → Sender"
    assert (path.arrives, path.display) == (True, True)
    (direct,) = video_paths(beside)
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
