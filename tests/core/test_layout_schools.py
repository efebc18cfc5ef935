"""Schools that a layout keeps to: where grounds of video parts go, grounds beside ESC signals, what senders are fed from."""

from __future__ import annotations

import pytest

from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks.signal_grounds import without_ground
from yardmeter.core.choices.grounding import esc_grounds, video_grounds
from yardmeter.core.edits import apply_edits
from yardmeter.core.graph import graph_of
from yardmeter.core.layouts.made import heavy
from yardmeter.core.layouts.search import Layouts, propose
from yardmeter.core.layouts.wishes import School, Wishes
from yardmeter.core.plan import VIDEO_KINDS, Plan
from yardmeter.core.plan.operations import SetValue
from yardmeter.review.layouts import layouts_seen, with_shelf

PARTS = demo.starter_parts()
MARSH = demo.plan("marshlight-as-soldered")


def kept_to(key: School, value: str, plan: Plan = MARSH, **wishes: frozenset[str]) -> Layouts:
    return propose(plan, Wishes(school={key: value}, **wishes), PARTS, with_shelf(PARTS), aims=("parts",))  # type: ignore[arg-type]


def grounds_of(plan: Plan) -> dict[str, list[str]]:
    return {d.id: [wire.to for wire in d.returns] for d in plan.devices if d.kind in VIDEO_KINDS}


@pytest.mark.parametrize(
    ("way", "sender", "cameras"),
    [("star", "power-board", "power-board"), ("pair", "controller", "controller"), ("chain", "power-board", "sender")],
)
def test_grounds_of_video_parts_go_where_the_school_says(way: str, sender: str, cameras: str) -> None:
    found = kept_to("grounds", way)
    assert found.layouts
    for one in found.layouts:
        assert grounds_of(one.plan) == {"sender": [sender], "camera": [cameras], "thermal": [cameras]}
        assert not heavy(solve_plan(apply_edits(MARSH, list(one.edits))))
        assert apply_edits(MARSH, list(one.edits)) == one.plan
    lines = layouts_seen(MARSH, found, Wishes(school={"grounds": way}), PARTS).layouts[0].lines
    assert sum(line.title.startswith("Grounds of cameras and senders") for line in lines) == 1
    if way != "pair":
        return
    held = kept_to("grounds", way, held=frozenset({"camera"}))
    assert all(one.plan.device_of["camera"].returns == MARSH.device_of["camera"].returns for one in held.layouts)


def test_a_picture_that_passes_no_other_board_is_paired_at_the_star() -> None:
    assert video_grounds(demo.plan("wren-boosted-logic"), "pair") == video_grounds(
        demo.plan("wren-boosted-logic"), "star"
    )
    bare = MARSH.model_copy(
        update={"devices": tuple(d for d in MARSH.devices if d.kind not in VIDEO_KINDS), "signals": (), "supplies": ()}
    )
    assert video_grounds(bare, "star") == ("", ())


def test_grounds_beside_esc_signals_are_laid_or_left_out() -> None:
    plan = demo.plan("marshlight-second-wiring")
    assert esc_grounds(plan, "with") == ()
    for one in kept_to("esc_grounds", "without", plan).layouts:
        assert all(s.ground is None for s in one.plan.signals if s.kind == "esc")
    assert esc_grounds(MARSH, "without") == ()
    found = kept_to("esc_grounds", "with")
    assert found.layouts
    for one in found.layouts:
        assert not any(kind == "esc" for _, kind in without_ground(one.plan))


def test_senders_are_fed_from_the_pack_or_from_what_regulates() -> None:
    """The sender takes 24 V at most: on six cells nothing keeps to the pack until it is one for more."""
    nothing = kept_to("sender_feed", "pack")
    assert not nothing.layouts
    assert [one.school for one in nothing.impossible] == [True]
    stands = apply_edits(MARSH, [SetValue(element="sender", field="max_v", value=40.0)])
    for value, follows in (("pack", True), ("regulator", False)):
        found = kept_to("sender_feed", value, stands)
        assert found.layouts
        for one in found.layouts:
            feed = one.plan.device_of["sender"].feed
            assert feed is not None
            assert graph_of(one.plan).follows_the_pack(feed.rail) is follows
