"""What an edit leaves alone is the very element it was; what it names is read anew."""

from __future__ import annotations

import random

import pytest

from tools.random_plans import edited, random_plan
from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.plan import load_plan
from yardmeter.core.plan.operations import Add, SetValue


def test_an_edit_keeps_what_it_does_not_touch() -> None:
    made = demo.plan("wren-boosted-logic")
    first, *others = made.devices
    after = apply_edits(made, [SetValue(element=first.id, field="note", value="seen")])
    assert after.devices[0].note == "seen"
    assert all(now is was for now, was in zip(after.devices[1:], others, strict=True))
    assert (after.pack is made.pack, after.conditions[0] is made.conditions[0]) == (True, True)
    inner = next(one for one in made.devices if one.returns)
    after = apply_edits(made, [SetValue(element=inner.returns[0].id, field="wire.length_m", value=0.5)])
    assert after.device_of[inner.id].returns[0].wire.length_m == 0.5
    assert after.device_of[inner.id] is not inner


@pytest.mark.parametrize("field", ["series", "parallel"])
def test_what_an_edit_names_is_validated_though_it_compares_as_equal(field: str) -> None:
    """To Python `true` is 1, and a pack of one cell would have taken it."""
    made = demo.plan("wren-boosted-logic")
    assert getattr(made.pack, field) == 1
    with pytest.raises(EditError, match="valid integer"):
        apply_edits(made, [SetValue(element="pack", field=field, value=True)])


def test_a_device_is_read_anew_where_it_is_named() -> None:
    made = demo.plan("wren-boosted-logic")
    device = made.devices[0].id
    light = apply_edits(made, [SetValue(element=device, field="min_v", value=1)])
    with pytest.raises(EditError, match="valid number"):
        apply_edits(light, [SetValue(element=device, field="min_v", value=True)])


def test_what_changes_along_with_what_is_named_is_changed() -> None:
    """A rail has the volts of its regulator in its name."""
    made = demo.plan("marshlight-as-soldered")
    regulator = next(one for one in made.supplies if one.kind == "buck" and made.rail_of[one.output].nominal_v == one.set_v)  # fmt: skip
    after = apply_edits(made, [SetValue(element=regulator.id, field="set_v", value=7.5)])
    assert after.rail_of[regulator.output].nominal_v == 7.5


def test_a_second_element_of_one_id_is_still_refused() -> None:
    made = demo.plan("wren-boosted-logic")
    twin = made.devices[0].model_dump(mode="json")
    with pytest.raises(EditError, match="used 2 times"):
        apply_edits(made, [Add(kind="device", value=twin)])


def test_after_many_edits_a_plan_is_what_its_file_is_read_as() -> None:
    rng = random.Random(4)
    made = random_plan(11, devices=8)
    for _ in range(40):
        before, form = made, made.model_dump(mode="json")
        made = edited(made, rng)
        assert before.plain == form, "what a plan shares with those that come of it is never changed"
        assert made.plain == made.model_dump(mode="json")
        again = load_plan(made.model_dump(mode="json"))
        assert again == made
        assert again.model_dump_json() == made.model_dump_json()
