"""Schools of feeding a device: what they offer, and that their numbers are those of the plan they would make."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.test_noise import HOVER, MOTORS, PARTS
from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.choices.feeding import bulk
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.plan import Plan, load_plan
from yardmeter.review.feed_schools import feed_schools
from yardmeter.review.noise_review import review_noise
from yardmeter.review.schools import School

EFF = [{"amps": 1, "efficiency_frac": 0.9}]
ESC = {
    "id": "esc",
    "name": "ESC",
    "kind": "esc",
    "returns": [{"id": "esc-gnd", "to": "pack", "wire": {"gauge_awg": 12, "length_m": 0.1}}],
}
LEAD = {"id": "to-esc", "name": "Lead", "kind": "link", "input": "pack-rail", "output": "esc-rail", "board": "esc", "feed": {"gauge_awg": 12, "length_m": 0.1}}  # fmt: skip
USB = {"id": "usb", "name": "USB", "kind": "usb", "rail": "usb-5v", "volts": 5.0, "limit_a": 0.5}


def craft(low: float, high: float, *, series: int = 4, nine: bool = False, five: bool = True) -> Plan:
    """A sender that takes `low` to `high` volts, on the pack; beside it an ESC's rail, a USB rail without the pack, and what is asked for."""
    rails = [rail("usb-5v", 5), rail("esc-rail", board="esc")]
    supplies: list[dict[str, Any]] = [LEAD]
    for wanted, name, volts in ((nine, "nine", 9.0), (five, "five", 5.0)):
        if wanted:
            rails.append(rail(name, volts))
            supplies.append(regulator(f"buck-{name}", "buck", "pack-rail", name, volts, efficiency=EFF))
    sender = device("sender", "pack-rail", 0.5, kind="sender", min_v=low, max_v=high, nominal_v=(low + high) / 2)
    return plan(
        series=series, boards=[ESC], rails=rails, supplies=supplies, inlets=[USB], devices=[MOTORS, sender], conditions=[HOVER]
    )  # fmt: skip


def feeds(made: Plan) -> dict[str, School]:
    return {s.key: s for s in feed_schools(made, "sender", PARTS)[0].schools}


def test_bulk_is_offered_where_none_is_fitted_at_that_rail() -> None:
    fitted = {"id": "bulk", "name": "Bulk", "kind": "capacitor", "farad": 470e-6, "rated_v": 35}
    made = craft(4.5, 26.0, five=True)
    for fields, offered in (
        ({"at": "esc-rail"}, False),
        ({"at": "esc-rail", "fitted": False}, True),
        ({"at": "five"}, True),
    ):
        other = load_plan({**made.model_dump(mode="json"), "filters": [{**fitted, **fields}]})
        assert bool(bulk(other, "esc-rail", PARTS)) is offered, fields


@pytest.mark.parametrize(("volts", "offered"), [(8.4, False), (8.5, True), (10.5, True), (10.6, False)])
def test_a_regulated_rail_is_one_of_nine_volts_or_so(volts: float, offered: bool) -> None:
    document = craft(4.5, 26.0, nine=True).model_dump(mode="json")
    next(one for one in document["rails"] if one["id"] == "nine")["nominal_v"] = volts
    assert ("nine" in feeds(load_plan(document))) is offered


def test_a_wide_window_has_every_way_open() -> None:
    found = feeds(craft(4.5, 26.0, nine=True))
    assert set(found) == {"built", "nine", "five", "pack-lc", "esc"}
    assert not [s.refused for s in found.values() if s.refused]
    # Never the rail that only USB feeds.
    assert "usb-5v" not in found


@pytest.mark.parametrize(
    ("low", "high", "series", "key", "words"),
    [
        (4.5, 5.5, 4, "nine", "9.0 V in Hover, it takes 5.5 V: do not connect"),
        (4.5, 5.5, 4, "pack-lc", "16.8 V on a full pack, it takes 5.5 V: do not connect"),
        (7.0, 20.0, 4, "five", "4.99 V in Hover, it needs 7 V"),
        (7.0, 20.0, 6, "pack-lc", "25.2 V on a full pack, it takes 20 V: do not connect"),
    ],
)
def test_what_would_kill_it_cannot_be_applied(low: float, high: float, series: int, key: str, words: str) -> None:
    refused = feeds(craft(low, high, series=series, nine=True))[key]
    assert refused.refused == words
    assert refused.edits == ()
    assert refused.cells == ()
    assert ("esc" in feeds(craft(low, high, series=series, nine=True))) == (
        key == "five"
    )  # what a full pack kills is told once


def test_a_regulator_of_its_own_where_no_rail_is_near() -> None:
    found = feeds(craft(7.0, 20.0))
    made = apply_edits(craft(7.0, 20.0), found["regulated"].edits)
    state = next(d for d in budget(solve_conditions(made)).devices if d.id == "sender").states["hover"]
    assert 9.2 < state.pin_v < 9.6
    assert "regulated" not in feeds(craft(4.5, 5.5))
    assert "regulated" not in feeds(craft(7.0, 20.0, nine=True))


@pytest.mark.parametrize(
    ("name", "device_id"),
    [
        ("marshlight-as-soldered", "sender"),
        ("marshlight-second-wiring", "camera"),
        ("culvert-lights-on", "action"),
        ("wren-boosted-logic", "sender"),
    ],
)
def test_each_school_stands_for_the_plan_it_makes(name: str, device_id: str) -> None:
    """Every number in its column, worked out anew from its edits."""
    before = demo.plan(name)
    count = 0
    for table in feed_schools(before, device_id, PARTS):
        for school in table.schools:
            if school.refused:
                assert school.edits == ()
                continue
            count += 1
            made = apply_edits(before, school.edits) if school.edits else before
            solved = solve_conditions(made)
            cells = {c.label: c for c in school.cells}
            pin = next(p for p in review_noise(solved).review.pins if p.device == device_id)
            assert cells["ripple at its pins"].value == pytest.approx(max(pin.total_v.values()))
            assert cells["ripple at its pins"].bad == (max(pin.total_v.values()) > pin.tolerated_v)
            state = next(d for d in budget(solved).devices if d.id == device_id)
            live = [s.pin_v for s in state.states.values() if s.verdict not in ("off", "dead")]
            assert cells["most volts"].value == pytest.approx(max(live))
            assert cells["least volts"].value == pytest.approx(min(live))
            assert not cells["most volts"].bad
            extra = sum(b.weight_g for b in made.boards) + sum(f.weight_g * f.count for f in made.filters)
            extra -= sum(b.weight_g for b in before.boards) + sum(f.weight_g * f.count for f in before.filters)
            assert cells["weight added"].value == pytest.approx(extra)
    assert count >= 5


def test_only_what_is_fed_has_schools() -> None:
    with pytest.raises(EditError, match="Choose a device that is fed"):
        feed_schools(craft(7.0, 20.0), "esc", PARTS)
