"""A plan from nothing has the tree that the pack really has, and nothing that nobody chose."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.homes import place_at_home
from yardmeter.core.edits.placing import place_part
from yardmeter.core.edits.starting import Topology, start_plan
from yardmeter.core.errors import EditError, PlanError
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import load_part
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Move
from yardmeter.review import analyse, review
from yardmeter.review.joining import motor_signals
from yardmeter.review.noise_review import review_noise
from yardmeter.review.sketch import glance, sketch

SHELF = {part.key: part for part in demo.starter_parts()}


def start(topology: Topology, pack: str, boards: list[str], *devices: str) -> Plan:
    made = start_plan("mine", SHELF[pack], [SHELF[k] for k in boards], [SHELF[k] for k in devices], topology)
    return apply_edits(made, motor_signals(made))


def homes(made: Plan) -> dict[str, str]:
    """Board whose rail feeds it, by name of the device."""
    return {d.name: made.board_of[made.rail_of[d.feed.rail].board].name for d in made.devices if d.feed}


def grounds(made: Plan) -> dict[str, set[str]]:
    return {b.name: {made.title(w.to) if w.to != "pack" else "pack" for w in b.returns} for b in made.boards}


def heavy(made: Plan) -> set[str]:
    return {f.code for f in analyse(made).findings if f.severity in ("danger", "fault")}


def test_a_stack_hangs_its_controller_on_the_escs_harness() -> None:
    """18 A of motors in the pack's lead, none of them in the harness; one plug carries plus, ground and four signals."""
    made = start("stack", "pack-6s-1300", ["fc-9v-3a", "esc-four"], "motors-medium", "digital-bus", "rx-mini")
    assert grounds(made) == {"Four-way ESC": {"pack"}, "Flight controller": {"Four-way ESC"}}
    assert made.rail_of[made.pack.rail].board == "four-way-esc"
    harness = next(s for s in made.supplies if s.name == "Harness")
    assert harness.feed is not None
    assert harness.feed.connector_limit_a == made.board_of["flight-controller"].returns[0].wire.connector_limit_a == 3.0
    ground = made.board_of["flight-controller"].returns[0].id
    assert [(s.kind, s.ground) for s in made.signals] == [("esc", ground)] * 4
    punch = next(s for s in analyse(made).budget.supplies if s.id == harness.id).states["punch-low"]
    assert 0.5 < punch.out_a < 2.0
    assert heavy(made) == set()


def test_single_escs_carry_their_own_motor_and_a_ground_and_no_red_wire_beside_a_regulator() -> None:
    """Red wires of switching BECs beside the controller's own 5 V would feed each other: nobody asked for that, so they are pulled."""
    made = start("power-board", "pack-4s-1500", ["fc-plain", *["esc-single-sw"] * 4], "motors-medium")
    names = ["ESC", "ESC 2", "ESC 3", "ESC 4"]
    motors = [d for d in made.devices if d.motors]
    assert sorted(homes(made)[d.name] for d in motors) == names
    assert [(d.motors.count, d.throttle[-1].amps) for d in motors if d.motors] == [(1, 15.0)] * 4
    part = SHELF["motors-medium"]
    assert sum(d.weight_g for d in motors) == pytest.approx(part.weight_g)
    assert part.device is not None
    assert [d.input_f for d in motors] == pytest.approx([part.device.input_f / 4] * 4)
    assert {n: grounds(made)[n] for n in names} == {n: {"Power board", "Flight controller"} for n in names}
    assert len(made.signals) == len({s.ground for s in made.signals}) == 4
    assert [s for s in made.supplies if s.name.endswith("red wire")] == []
    gauges = {made.title(s.board if s.output == "pack-rail" else made.rail_of[s.output].board): s.feed.gauge_awg for s in made.supplies if s.feed}  # fmt: skip
    assert gauges == {**dict.fromkeys(names, 20), "Flight controller": 24}, "half an ampere would go through 28"
    assert heavy(made) == set()


def test_one_red_wire_feeds_a_controller_that_nothing_else_does() -> None:
    made = start("power-board", "pack-4s-1500", ["fc-5v-only", *["esc-single-sw"] * 4], "motors-medium", "rx-mini")
    five = made.device_of["flight-controller-logic"].feed
    assert five is not None
    fed = made.supplies_into(graph_of(made).climb(five.rail)[1])
    assert [made.title(made.rail_of[s.input].board) for s in fed if s.kind == "link"] == ["ESC"]
    assert heavy(made) == set()


@pytest.mark.parametrize(
    ("topology", "pack", "boards", "devices", "lead", "motor", "small"),
    [
        ("one-board", "pack-1s-300", ["whoop-1s-direct"], ["motors-1s", "cam-1s"], (22, 0.04), (24, 0.02), (28, 0.04)),
        ("one-board", "pack-2s-650", ["aio-2s-4s"], ["motors-2s", "rx-mini"], (16, 0.07), (20, 0.035), (26, 0.07)),
        ("stack", "pack-6s-1300", ["esc-four", "fc-plain"], ["motors-medium", "rx-mini"], (14, 0.1), (14, 0.05), (26, 0.1)),
        ("stack", "pack-6s-8000", ["esc-four", "fc-plain"], ["motors-large", "rx-mini"], (12, 0.25), (12, 0.125), (26, 0.25)),
    ],
)  # fmt: skip
def test_wires_are_as_long_as_the_craft_and_as_thick_as_what_they_carry(
    topology: Topology, pack: str, boards: list[str], devices: list[str],
    lead: tuple[int, float], motor: tuple[int, float], small: tuple[int, float],
) -> None:  # fmt: skip
    made = start(topology, pack, boards, *devices)
    feeds = {
        ("motor" if d.kind == "motor" else "small"): d.feed.wire for d in made.devices if d.feed and d.kind != "logic"
    }
    wires = [made.pack.lead, feeds["motor"], feeds["small"]]
    assert [(wire.gauge_awg, wire.length_m) for wire in wires] == [lead, motor, small]
    assert [f for f in analyse(made).findings if f.code.startswith("wire.")] == []
    back = next(wire for wire in made.board_of[made.rail_of[made.pack.rail].board].returns if wire.to == "pack")
    assert (back.wire.gauge_awg, back.wire.length_m) == lead
    added = apply_edits(made, place_at_home(made, SHELF["vtx-25"]))
    sender = next(d for d in added.devices if d.kind == "sender")
    assert sender.feed is not None
    assert (sender.feed.wire.gauge_awg, sender.feed.wire.length_m) == small
    assert [d for d in added.devices if d.id in made.device_of] == list(made.devices)


@pytest.mark.parametrize(
    ("boards", "devices", "names", "throttle"),
    [
        (["esc-four", "fc-plain"], ["motors-medium"], {"Hover", "Landing"}, {0.0, 0.35, 1.0}),
        (
            ["esc-wing"],
            ["motor-wing", "servo-sub"],
            {"Cruise", "Climb", "Glide, servos working"},
            {0.0, 0.45, 0.7, 1.0},
        ),
        (["pdb-plain"], ["led-white-3s4"], {"On, low pack", "Plugged in, all off"}, {0.0}),
    ],
)
def test_a_new_plan_meets_the_conditions_of_its_kind_of_craft(
    boards: list[str], devices: list[str], names: set[str], throttle: set[float]
) -> None:
    made = start("leads", "pack-3s-2200", boards, *devices)
    found = {c.name: c for c in made.conditions}
    assert names < set(found)
    assert ("USB bench" in found) == bool(made.inlets)
    assert {c.throttle_frac for c in made.conditions} == throttle
    assert not any(c.starts for c in made.conditions if c.name.startswith("Glide"))
    # A climb lasts: wires are sized for it as for ever, not for the seconds of a punch.
    assert not any(c.is_punch for c in made.conditions if c.name == "Climb")
    assert heavy(made) == set()


@pytest.mark.parametrize(
    ("topology", "pack", "boards", "devices", "root", "boards_made"),
    [
        ("one-board", "pack-4s-1500", ["aio-2s-4s"], ["motors-small", "rx-mini"], "All-in-one board", 1),
        ("one-board", "pack-1s-300", ["whoop-1s-direct"], ["motors-1s", "cam-1s", "rx-3v3"], "All-in-one board", 1),
        ("power-board", "pack-4s-1500", ["pdb-5v-12v", "esc-four"], ["motors-small"], "Power board", 2),
        ("leads", "pack-3s-1300", [], ["led-white-3s4"], "Pack leads", 1),
        ("leads", "pack-3s-2200", ["esc-wing"], ["motor-wing", "servo-sub", "rx-mini"], "Pack leads", 2),
    ],
)
def test_the_pack_ends_where_it_does_and_nothing_is_invented(
    topology: Topology, pack: str, boards: list[str], devices: list[str], root: str, boards_made: int
) -> None:
    made = start(topology, pack, boards, *devices)
    assert made.title(made.rail_of[made.pack.rail].board) == root
    assert len(made.boards) == boards_made
    assert not graph_of(made).ungrounded
    drawing = [part.board for b in boards if (part := SHELF[b]).board and part.board.own_a > 0]
    assert len(made.devices) - len(devices) == len(drawing)
    # A cell that sags under its motors takes a 3.3 V regulator on it out of regulation: true, and told.
    assert heavy(made) == ({"headroom.dropout"} if pack == "pack-1s-300" else set())


@pytest.mark.parametrize(("esc", "more", "harness"), [("esc-four-bec", [], 1), ("esc-four", ["bec-5v-3a"], 0)])
def test_a_harness_carries_the_escs_own_5_v_and_nothing_from_elsewhere(esc: str, more: list[str], harness: int) -> None:
    made = start("stack", "pack-4s-1500", [esc, "fc-5v-only", *more], "rx-mini")
    named = [s for s in made.supplies if s.name == "Harness"]
    assert len(named) == harness
    assert [made.rail_of[s.input].name for s in named] == ["ESC 5 V"] * harness
    back = {made.title(w.to): w.wire.connector for w in made.board_of["flight-controller"].returns}
    assert back == {"Four-way ESC": "harness", **({} if harness else {"BEC 5 V 3 A": ""})}
    assert [made.title(made.return_of[s.ground or ""][1].to) for s in made.signals] == ["Four-way ESC"] * 4
    assert heavy(made) == set()


def test_small_parts_hang_on_the_cell_and_servos_off_the_logic() -> None:
    whoop = start("one-board", "pack-1s-300", ["whoop-1s-direct"], "cam-1s", "vtx-1s", "rx-3v3")
    rails = {d.id: made_on for d in whoop.devices if d.feed and (made_on := d.feed.rail)}
    assert {rails["tiny-camera-from-one-cell"], rails["analogue-sender-25-to-200-mw-from-one-cell"]} == {"pack-rail"}
    assert rails["receiver-on-3-3-v"] == rails["all-in-one-board-logic"] == "three"
    wing = start("leads", "pack-3s-2200", ["fc-wing"], "servo-sub", "servo-sub", "rx-mini")
    on = {d.name: wing.rail_of[d.feed.rail].name for d in wing.devices if d.feed}
    assert (on["Sub-micro servo, 4 g"], on["Sub-micro servo, 4 g 2"]) == ("Servo rail 5 V", "Servo rail 5 V")
    red = start(
        "leads", "pack-3s-2200", ["esc-wing", "fc-wing"], "motor-wing", "servo-sub"
    )  # nor on the ESC's red wire, beside their signal
    assert {d.name: red.rail_of[d.feed.rail].name for d in red.devices if d.feed}[
        "Sub-micro servo, 4 g"
    ] == "Servo rail 5 V"
    assert on["Mini receiver"] == "5 V"


@pytest.mark.parametrize(("source", "dead"), [([], True), (["bec-5v-3a"], False), (["esc-single-lin"], False)])
def test_a_controller_fed_by_5_v_only_is_never_given_the_pack(source: list[str], dead: bool) -> None:
    """Without a source of 5 V it is dead, and that is the first thing said; a BEC or a red wire feeds it."""
    made = start("power-board", "pack-4s-1500", ["fc-5v-only", *source], "rx-mini")
    first = analyse(made).findings[0]
    assert (
        (first.severity, first.code, first.elements[0]) == ("danger", "source.none", "flight-controller-logic")
    ) == dead
    device = made.device_of["flight-controller-logic"]
    draws = (device.draws.idle, device.draws.typical, device.draws.peak)
    assert [d.value for d in draws] == pytest.approx([0.8 * 0.14, 0.14, 1.3 * 0.14])
    assert {d.provenance for d in draws} == {"reported"}
    if not dead:
        logic = next(d for d in analyse(made).budget.devices if d.id == "flight-controller-logic")
        assert logic.states["hover"].pin_v == pytest.approx(3.3, abs=0.05)
        assert logic.states["hover"].asked_a == pytest.approx(0.14, abs=1e-3)


def test_a_regulated_rail_goes_before_more_than_one_cell_and_a_senders_output_is_left_alone() -> None:
    """A sender for 12 V is nearer to the 11.1 V of three cells than to 9 V; a servo would find an output without logic."""
    made = start("stack", "pack-3s-1300", ["esc-four", "fc-9v-3a"], "vtx-400")
    assert {d.name: made.rail_of[d.feed.rail].name for d in made.devices if d.feed}["Analogue sender, 400 mW"] == "9 V"
    made = start("stack", "pack-4s-1500", ["esc-four", "fc-plain"], "vtx-400-out", "servo-micro")
    assert {d.name: made.rail_of[d.feed.rail].name for d in made.devices if d.feed}["Micro servo"] == "5 V"


def test_a_bec_is_taken_before_an_escs_own_5_v() -> None:
    made = start("power-board", "pack-4s-1500", ["esc-single-lin", "bec-5v-3a", "fc-5v-only"], "rx-mini")
    cable = made.supply_of["flight-controller-cable"]
    assert made.board_of[made.rail_of[cable.input].board].name == "BEC 5 V 3 A"
    assert [s for s in made.supplies if s.name.endswith("red wire")] == []


def test_a_sender_hands_its_5_v_on_and_a_stack_needs_its_esc() -> None:
    made = start("stack", "pack-4s-1500", ["fc-plain", "esc-four"], "vtx-400-out")
    out = next(r for r in made.rails if r.name.endswith("5 V out"))
    (source,) = made.supplies_into(out.id)
    assert source.input == "analogue-sender-400-mw-with-5-v-out"
    with pytest.raises(PlanError, match="only a device hands volts on"):
        load_part({**SHELF["bec-5v-3a"].model_dump(mode="json"), "outputs": [source.model_dump(mode="json")]})
    with pytest.raises(EditError, match="four-way ESC"):
        start("stack", "pack-4s-1500", ["fc-plain"])


def test_the_sketch_tells_the_worst_before_anything_is_stored() -> None:
    """25.2 V of six cells on a sender that takes 20: said while choosing."""
    made = start("stack", "pack-6s-1300", ["fc-plain", "esc-four"], "cam-lowlight", "vtx-400")
    so = sketch(made)
    assert (so.full_v, so.floor_v) == (pytest.approx(25.2), pytest.approx(18.0, abs=1.5))
    assert so.findings[0].severity == "danger"
    assert "takes 24 V" in so.findings[0].title
    five = next(r for r in so.rails if r.name == "5 V")
    states = next(r for r in analyse(made).budget.rails if r.id == five.id).states
    assert five.usable_a == pytest.approx(2.0 * 0.7)
    assert five.asked_a == max(s.asked_a for s in states.values()) > min(s.asked_a for s in states.values())
    assert five.condition.startswith("Punch")


def test_a_glance_has_the_heaviest_mark_of_each_condition_and_the_first_thing_to_do() -> None:
    found = review(demo.plan("marshlight-as-soldered"))
    seen = glance(found, review_noise(found.solved.solved))
    assert {m.condition: m.severity for m in seen.marks} == {
        "usb-bench": "fault", "pack-bench": "danger", "hover": "fault",
        "punch-fresh": "danger", "punch-low": "danger", "landing": "fault",
    }  # fmt: skip
    first = found.analysis.findings[0]
    assert seen.next is not None
    assert (seen.next.title, seen.next_element, seen.next_condition) == (first.title, first.elements[0], first.worst)
    assert (seen.cells, round(seen.most_a, 1)) == (6, 87.4)
    assert "rail-usb" not in {r.id for r in seen.rails}
    lamp = review(start("leads", "pack-3s-1300", [], "led-white-3s4"))
    quiet = glance(lamp, review_noise(lamp.solved.solved))
    assert {m.severity for m in quiet.marks} == {None}
    assert quiet.next is None


def test_the_craft_of_the_guide_says_what_the_guide_says() -> None:
    guide = " ".join((Path(__file__).parents[2] / "docs" / "guide.md").read_text().split())
    parts = ["motors-medium", "cam-micro", "vtx-1w", "rx-longrange", "gnss-compass", "computer-small"]
    boards = ["esc-four", "fc-9v-3a"]
    made = start("stack", "pack-6s-1300", boards, *parts)
    for key in (*boards, *parts):
        assert f"*{SHELF[key].name}*" in guide
    told = [one.title for one in analyse(made).findings if one.severity != "note"]
    for title in ("USB 5 V rail: 1.01 A asked, 500 mA usable", "5 V rail: only 23.9 mA spare of 1.75 A"):
        assert title in told
        assert f"**{title}.**" in guide
    with_bec = apply_edits(made, place_part(made, SHELF["bec-5v-2a"]))
    computer = next(d.id for d in made.devices if d.name.startswith("Companion"))
    bec = next(r.id for r in with_bec.rails if r.id not in made.rail_of)
    left = {one.title for one in analyse(apply_edits(with_bec, [Move(device=computer, rail=bec)])).findings if one.severity != "note"}  # fmt: skip
    assert left == {"USB 5 V rail: only 15.0 mA spare of 500 mA", "BEC 5 V 2 A sees 25.2 V of 26 V"}
    assert "has 15 mA to spare, and the BEC sees 25.2 V of 26 V" in guide
