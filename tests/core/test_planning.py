"""Planning by hand: placing parts, ranking places, starting from nothing, comparing plans."""

import pytest

from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.choices.places import Weights
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.placing import place_part, update_from_part
from yardmeter.core.edits.starting import start_plan
from yardmeter.core.errors import EditError
from yardmeter.core.parts import KINDS
from yardmeter.core.plan.operations import SetDraw
from yardmeter.review import analyse
from yardmeter.review.compare import Side, compare
from yardmeter.review.noise_review import review_noise
from yardmeter.review.placement import places

SHELF = {part.key: part for part in demo.starter_parts()}


def test_the_shelf_is_full_and_of_every_kind() -> None:
    assert len(SHELF) >= 60
    assert {part.kind for part in SHELF.values()} == set(KINDS)


def test_every_part_that_has_a_place_can_be_placed() -> None:
    made = demo.plan("culvert-lights-on")
    for part in SHELF.values():
        if part.kind in ("device", "bec", "board", "pack", "clamp", "diode"):
            after = apply_edits(made, place_part(made, part))
            again = apply_edits(after, place_part(after, part))  # twice: ids stay unique
            own = part.board is not None and part.board.own_a > 0 and len(after.devices) > len(made.devices)
            assert len(again.devices) - len(made.devices) == (2 if part.kind == "device" or own else 0)
            assert len(again.supplies) - len(after.supplies) == len(after.supplies) - len(made.supplies)
            assert len({d.name for d in again.devices}) == len(again.devices)
        else:
            with pytest.raises(EditError, match="not placed on its own"):
                place_part(made, part)


def test_from_nothing_to_a_clean_budget() -> None:
    keys = ["motors-small", "cam-micro", "vtx-400", "rx-mini", "gnss-small"]
    made = start_plan("mine", SHELF["pack-4s-1500"], [SHELF["esc-four"], SHELF["fc-video"]], [SHELF[k] for k in keys])
    homes = {d.id: made.rail_of[d.feed.rail].name for d in made.devices if d.feed}
    assert homes == {
        "flight-controller-logic": "5 V",
        "motors": "ESC pack",
        "micro-camera-5-v": "5 V",
        "analogue-sender-400-mw": "9 V",
        "mini-receiver": "5 V",
        "gnss-small": "5 V",
    }
    assert [f.title for f in analyse(made).findings if f.severity in ("danger", "fault")] == []
    assert {c.id for c in made.conditions} >= {"usb-bench", "hover", "punch-low"}


def test_places_are_ranked_and_refusals_carry_numbers() -> None:
    made = demo.plan("marshlight-as-soldered")
    found = places(made, "recorder", becs=list(SHELF.values()))
    assert [p.refused is None for p in found] == sorted((p.refused is None for p in found), reverse=True)
    feasible = [p for p in found if p.refused is None]
    assert [p.score for p in feasible] == sorted((p.score for p in feasible), reverse=True)
    pack = next(p for p in found if p.title == "Pack rail")
    assert pack.refused == "25.1 V in Pack bench, it takes 5.5 V"
    best = feasible[0]
    assert best.title == "BEC 5 V 3 A on Pack rail"
    after = analyse(apply_edits(made, best.edits))
    states = next(d for d in after.budget.devices if d.id == "recorder").states
    assert all(states[c.id].verdict == "ok" for c in made.conditions if c.on_pack)
    assert best.spare_a is not None
    assert best.spare_a > 0


def test_weights_turn_the_ranking() -> None:
    # A wide-window camera has several homes: the quiet one wins when noise is all that counts, the roomy one by margin.
    made = demo.plan("marshlight-second-wiring")
    zero = dict.fromkeys(Weights.model_fields, 0.0)
    becs = [SHELF[key] for key in ("bec-12v-3a", "bec-lin-5v", "bec-lin-9v")]
    feasible = [p for p in places(made, "camera", Weights(**{**zero, "noise": 1.0}), becs) if p.refused is None]
    roomy = [p for p in places(made, "camera", Weights(**{**zero, "margin": 1.0}), becs) if p.refused is None]
    assert feasible[0].noise == min(p.noise for p in feasible) < max(p.noise for p in feasible)
    assert roomy[0].spare_frac == max(p.spare_frac or 0 for p in roomy)
    assert [p.title for p in feasible] != [p.title for p in roomy]


def test_a_changed_part_offers_edits_and_leaves_wiring_alone() -> None:
    made = demo.plan("culvert-lights-on")
    part = SHELF["gnss-compass"]
    placed = apply_edits(made, place_part(made, part, "rail-5v"))
    assert update_from_part(placed, part) == ()
    assert part.device
    thirstier = part.model_copy(update={"device": part.device.model_copy(update={"max_v": 6.0})})
    edits = update_from_part(placed, thirstier)
    after = apply_edits(placed, edits)
    assert after.device_of["gnss-with-compass"].max_v == 6.0
    assert after.device_of["gnss-with-compass"].feed == placed.device_of["gnss-with-compass"].feed


def test_compare_says_what_is_better_and_what_is_wired_differently() -> None:
    faulty, cured = demo.plan("marshlight-as-soldered"), demo.plan("marshlight-second-wiring")
    other = apply_edits(cured, [SetDraw(device="camera", state="peak", text="400mA")])
    table = compare([Side(p, analyse(p), review_noise(solve_conditions(p)).review) for p in (faulty, cured, other)])
    assert table.names == ("as soldered", "second wiring", "second wiring")
    faults = next(r for r in table.rows if r.label == "dangers and faults")
    assert [c.value for c in faults.cells][1:] == [0.0, 0.0]
    assert [c.best for c in faults.cells] == [False, True, True]
    five = next(r for r in table.rows if r.label == "5 V" and r.group.startswith("spare"))
    assert five.cells[0].bad
    assert "GNSS with compass: fed from 5 V instead of USB 5 V" in table.differences[0]
    assert any(
        f.title.startswith("Near-infrared strobe bar gets") and f.severities == ("danger", None, None)
        for f in table.findings
    )
    assert "Low-light camera: other draws" in table.differences[1]
    picture = next(r for r in table.rows if r.group.startswith("interference") and r.label == "Camera video")
    assert picture.cells[0].bad
    assert not picture.cells[1].bad
    assert "filter “Filtered” 12 V pad left out" in table.differences[0]
    shift = next(r for r in table.rows if r.group.startswith("ground shift") and r.label == "Camera video")
    assert shift.cells[0].bad
    assert shift.cells[1].best
