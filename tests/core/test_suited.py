"""What suits a craft that is being chosen comes first; what does not says why, at the edges of a pack's volts."""

from __future__ import annotations

import pytest

from yardmeter import demo
from yardmeter.core.choices.suited import Suit, suited
from yardmeter.core.edits.starting import Topology, start_plan
from yardmeter.core.parts import Part
from yardmeter.words.suited import against_words

PARTS = demo.starter_parts()
SHELF = {part.key: part for part in PARTS}


def told(topology: Topology, pack: str, boards: list[str], kind: str) -> dict[str, Suit]:
    """In their order, of one kind."""
    plan = start_plan("mine", SHELF[pack], [SHELF[k] for k in boards], [], topology)
    return {one.key: one for one in suited(plan, topology, [p for p in PARTS if p.kind == kind])}


def test_a_stack_on_six_cells_begins_with_what_it_hangs_from() -> None:
    found = told("stack", "pack-6s-1300", ["esc-four"], "board")
    order = list(found)
    assert {"esc-four", "esc-four-bec"} == set(order[:2])
    assert {SHELF[k].board.board.kind for k in order[2:12] if SHELF[k].board} == {"controller"}  # type: ignore[union-attr]
    against = {key: one.against for key, one in found.items() if one.against}
    assert against["whoop-1s"] == against["aio-4s-6s"] == "whole craft"
    assert against["esc-single"] == "one motor"
    assert against["pdb-lin"] == "over"  # a linear regulator at 25.2 V
    assert order.index("fc-basic") < order.index("pdb-plain") < min(order.index(key) for key in against)


def test_the_same_boards_stand_in_another_order_for_another_shape() -> None:
    alone = list(told("one-board", "pack-1s-450", ["whoop-1s"], "board").values())
    assert [one.key for one in alone[:2]] == ["whoop-1s", "whoop-1s-direct"]
    assert {one.key: one.against for one in alone}["esc-four"] == "needs controller"
    assert {one.key: one.against for one in alone}["aio-2s-4s"] == "no start"
    spread = list(told("power-board", "pack-4s-1500", [], "board").values())
    assert SHELF[spread[0].key].board.board.kind == "power"  # type: ignore[union-attr]
    assert {one.key: one.against for one in spread}["whoop-1s-direct"] == "whole craft"


@pytest.mark.parametrize(
    ("field", "value", "against"),
    [
        ("input_max_v", 16.8, None),  # a full pack of 4S, to the millivolt
        ("input_max_v", 16.79, "over"),
        ("start_v", 14.0, None),  # a low one, 3.5 V a cell
        ("start_v", 14.01, "no start"),
        ("set_v", 13.7, None),  # 0.3 V are what this one loses
        ("set_v", 13.71, "low"),
    ],
)
def test_a_regulator_suits_from_the_full_pack_to_a_low_one(field: str, value: float, against: str | None) -> None:
    bec = SHELF["bec-12v-3a"].bec
    assert bec is not None
    easy = {
        "kind": "buck",
        "set_v": 5.0,
        "start_v": 4.0,
        "stop_v": 3.5,
        "input_max_v": 30,
        "dropout_v": 0.3,
        "duty_max_frac": 1.0,
    }
    own = Part.model_validate({**SHELF["bec-12v-3a"].model_dump(), "bec": {**bec.model_dump(), **easy, field: value}})
    plan = start_plan("mine", SHELF["pack-4s-1500"], [], [], "leads")
    assert plan.pack.rest_v("low") == pytest.approx(14.0)
    [one] = suited(plan, "leads", [own])
    assert one.against == against


def test_a_boost_that_a_full_pack_goes_through_says_so() -> None:
    found = told("leads", "pack-3s-1300", [], "bec")
    assert found["bec-boost-12v"].against == "passes"
    assert against_words(found["bec-boost-12v"]).endswith("a full pack of 12.6 V goes through it, 12 V or not")
    assert told("leads", "pack-2s-650", [], "bec")["bec-boost-12v"].against is None


def test_a_device_suits_where_a_rail_has_its_volts() -> None:
    none = told("stack", "pack-6s-1300", ["esc-four"], "device")
    assert (none["cam-micro"].against, none["motors-1s"].against) == ("no rail", "over")
    assert "Choose a regulator for it first" in against_words(none["cam-micro"])
    held = told("stack", "pack-6s-1300", ["esc-four", "fc-basic"], "device")
    assert held["cam-micro"].against is None
    assert list(held).index("cam-micro") < list(held).index("pump"), "12 V are on no rail"
