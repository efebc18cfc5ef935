"""Where a device could live: every number of a place is that of the plan it would make, and what is offered does no harm."""

from __future__ import annotations

import pytest

from tests.core.test_noise import HOVER
from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.choices.places import Weights
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Plan
from yardmeter.review import analyse
from yardmeter.review.placement import places

SHELF = list(demo.starter_parts())
EFF = [{"amps": 1, "efficiency_frac": 0.9}]


def one_condition(max_v: float) -> Plan:
    """A camera on 5 V, and a single condition: hovering on a half-empty pack, 14.8 V of 16.8."""
    camera = device("camera", "five", 0.2, min_v=4.5, max_v=max_v)
    buck = regulator("buck", "buck", "pack-rail", "five", 5.0, efficiency=EFF)
    return plan(rails=[rail("five", 5)], supplies=[buck], devices=[camera], conditions=[HOVER])


@pytest.mark.parametrize(("max_v", "refused"), [(16.0, True), (17.0, False)])
def test_the_pack_is_full_though_no_condition_says_so(max_v: float, refused: bool) -> None:
    found = next(p for p in places(one_condition(max_v), "camera") if p.rail == "pack-rail")
    assert (found.refused == "16.8 V on a full pack, it takes 16 V") == refused
    assert (found.refused is None) != refused


@pytest.mark.parametrize(
    ("name", "device_id"),
    [
        ("marshlight-as-soldered", "receiver"),
        ("marshlight-as-soldered", "strobe"),
        ("marshlight-second-wiring", "sender"),
        ("culvert-first-wiring", "action"),
        ("culvert-lights-on", "digital"),
        ("wren-straight-from-the-cell", "camera"),
    ],
)
def test_an_offered_place_is_what_it_says(name: str, device_id: str) -> None:
    before = demo.plan(name)
    known = {f.key for f in analyse(before).findings if f.severity == "danger"}
    offered = [p for p in places(before, device_id, becs=SHELF) if p.refused is None]
    assert offered
    for place in offered:
        made = apply_edits(before, place.edits) if place.edits else before
        answer = analyse(made)
        assert {f.key for f in answer.findings if f.severity == "danger" and device_id in f.elements} <= known, (
            place.title
        )
        own = next(d for d in answer.budget.devices if d.id == device_id)
        here = next(r for r in answer.budget.rails if r.id == place.rail)
        flown = [c.id for c in made.conditions if c.on_pack]
        assert own.rail == place.rail
        assert all(own.states[c].verdict in ("ok", "off") for c in flown)
        assert place.spare_a == pytest.approx(min(here.states[c].spare_a for c in flown))
        assert place.drop_v == pytest.approx(max(own.states[c].drop_v for c in flown))
        assert 0 <= place.score <= 1


def test_what_is_refused_says_its_numbers() -> None:
    made = demo.plan("marshlight-as-soldered")
    refused = [p for p in places(made, "computer", becs=SHELF) if p.refused]
    assert len(refused) >= 4
    for place in refused:
        assert any(character.isdigit() for character in place.refused or ""), place.title
        after = apply_edits(made, place.edits) if place.edits else made
        answer = budget(solve_conditions(after))
        own = next(d for d in answer.devices if d.id == "computer")
        here = next(r for r in answer.rails if r.id == place.rail)
        flown = [c.id for c in after.conditions if c.on_pack]
        above = [r for r in answer.rails if r.id in graph_of(after).climb(here.id)]
        short = {c for r in above for c in flown if r.states[c].spare_a < 0}
        unfit = [c for c in flown if own.states[c].verdict not in ("ok", "off") or c in short]
        assert unfit, place.title


def test_weights_of_nothing_rank_nothing_and_only_devices_move() -> None:
    made = demo.plan("wren-boosted-logic")
    nothing = Weights(**dict.fromkeys(Weights.model_fields, 0.0))
    assert {p.score for p in places(made, "camera", nothing)} == {0.0}
    with pytest.raises(EditError, match="is not a device"):
        places(made, "rail-5v")


def test_only_regulators_that_can_make_their_volts_there_are_tried() -> None:
    """One that steps up to 12 V on 5 V and not on six cells; one of 10.5 V on the pack, not on 12 V with 1.5 V between."""
    made = demo.plan("marshlight-as-soldered")
    shelf = {part.key: part for part in demo.starter_parts() if part.bec}
    ten = shelf["bec-12v-3a"]
    assert ten.bec
    ten = ten.model_copy(update={"name": "Ten and a half", "bec": ten.bec.model_copy(update={"set_v": 10.5})})
    tried = {
        p.title
        for p in places(made, "lidar", becs=[shelf["bec-boost-12v"], shelf["bec-lin-9v"], ten])
        if " on " in p.title
    }
    assert tried == {
        "Step-up to 12 V 1.5 A, from 2S or 3S on 5 V",
        "Step-up to 12 V 1.5 A, from 2S or 3S on USB 5 V",
        "Step-up to 12 V 1.5 A, from 2S or 3S on 3.3 V",
        "Step-up to 12 V 1.5 A, from 2S or 3S on Sender 5 V out",
        "Linear 9 V 1 A on 12 V",
        "Ten and a half on Pack rail",
    }
