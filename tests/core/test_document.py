"""What a plan document refuses, each with the words that say what and where."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.test_grounds import CONTROLLER, fed, link, pin
from tests.plans import device, plan, rail, regulator
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError, PlanError
from yardmeter.core.plan import load_plan
from yardmeter.core.plan.operations import Add, Duplicate, Remove, SetQuantity, SetValue

LAMP = device("lamp", "pack-rail", 0.1, nominal_v=14, min_v=6, max_v=20)
SECTION = {"id": "lc", "name": "LC", "kind": "lc", "at": "lamp", "henry": 1e-5, "farad": 1e-4}
BASE = {"id": "f", "name": "F", "at": "lamp"}
CAPACITOR = {**BASE, "kind": "capacitor", "farad": 1e-4}
REFUSED: dict[str, tuple[dict[str, Any], str]] = {
    "an end that is nothing": (
        {"devices": [LAMP], "signals": [link("serial", "lamp", "nowhere")]},
        "no pin, no board and no device",
    ),
    "a number spelled as one language reads it": (
        {"devices": [{**LAMP, "weight_g": "1_000"}]},
        "valid number (got '“1_000”')",
    ),
    "digits of another script": ({"filters": [{**CAPACITOR, "farad": "٣"}]}, "Farad should be a valid number"),
    "yes for a number": ({"rails": [rail("five", True)]}, "Nominal in V"),
    "a ground that is no return": (
        {"devices": [LAMP], "signals": [link("serial", "lamp", "main", ground="rope")]},
        "which is no return",
    ),
    "a feed on a pin of another": ({"devices": [{**LAMP, "feed": {"rail": "pack-rail", "pin": "x"}}]}, "no pin of it"),
    "a return from a pin of another": (
        {"devices": [{**LAMP, "returns": [{"id": "g", "to": "main", "pin": "x"}]}]},
        "no pin of",
    ),
    "a pin and a return of one id": ({"devices": [{**LAMP, "pins": [pin("lamp-gnd", "rx")]}]}, "used 2 times"),
    "a filter at nothing": ({"devices": [LAMP], "filters": [{**SECTION, "at": "moon"}]}, "no device and no regulator"),
    "a section at a rail": (
        {"devices": [LAMP], "filters": [{**SECTION, "at": "pack-rail"}]},
        "no device and no regulator",
    ),
    "a section without its coil": (
        {"devices": [LAMP], "filters": [{**SECTION, "henry": 0}]},
        "greater than 0 (got 0)",
    ),
    "a capacitor without farads": (
        {"devices": [LAMP], "filters": [{**CAPACITOR, "farad": 0}]},
        "greater than 0 (got 0)",
    ),
    "a ferrite without ohms": ({"devices": [LAMP], "filters": [{**BASE, "kind": "ferrite"}]}, "Field required"),
    "noise of nothing": (
        {
            "devices": [LAMP],
            "noises": [{"id": "n", "name": "n", "element": "main", "kind": "pwm", "hz": 1, "amplitude_pp": 1}],
        },
        "no device and no regulator",
    ),
    "a capacitor at nothing": (
        {"devices": [LAMP], "filters": [{**CAPACITOR, "at": "moon"}]},
        "no rail, no device and no supply",
    ),
    "a reserved id": ({"devices": [{**LAMP, "id": "pack"}]}, "is reserved"),
    "a rail on no board": ({"rails": [rail("five", 5, board="moon")]}, "stands on board “moon”"),
    "a pack on no rail": ({"pack": {"series": 4, "capacity_ah": 1, "rail": "moon"}}, "names “moon”, which is no rail"),
    "a supply from nowhere": (
        {"rails": [rail("five", 5)], "supplies": [regulator("b", "buck", "moon", "five", 5.0)]},
        "neither a rail nor a device",
    ),
    "a supply to nowhere": ({"supplies": [regulator("b", "buck", "pack-rail", "moon", 5.0)]}, "which is no rail"),
    "a supply on nothing": (
        {
            "rails": [rail("five", 5)],
            "supplies": [{**regulator("b", "buck", "pack-rail", "five", 5.0), "board": "moon"}],
        },
        "neither a board nor a device",
    ),
    "a supply onto itself": (
        {"supplies": [regulator("b", "buck", "pack-rail", "pack-rail", 5.0)]},
        "the rail it takes from",
    ),
    "a feed from no rail": ({"devices": [{**LAMP, "feed": {"rail": "moon"}}]}, "fed from “moon”, which is no rail"),
    "a feed from a pad elsewhere": (
        {"devices": [{**LAMP, "feed": {"rail": "pack-rail", "pad": "moon"}}]},
        "no pad of that rail",
    ),
    "a return to itself": ({"devices": [{**LAMP, "returns": [{"id": "g", "to": "lamp"}]}]}, "to itself"),
    "a return to nothing": ({"devices": [{**LAMP, "returns": [{"id": "g", "to": "moon"}]}]}, "not the pack"),
    "an inlet to no rail": (
        {"inlets": [{"id": "usb", "name": "USB", "kind": "usb", "rail": "moon", "volts": 5, "limit_a": 1}]},
        "enters rail “moon”",
    ),
    "a condition on nothing": (
        {"conditions": [{"id": "c", "name": "C", "energy": ["moon"]}]},
        "neither the pack nor an inlet",
    ),
    "a condition of no device": (
        {"conditions": [{"id": "c", "name": "C", "states": {"moon": "off"}}]},
        "which is no device",
    ),
    "a section where no wire is": (
        {
            "rails": [rail("five", 5)],
            "supplies": [regulator("b", "buck", "pack-rail", "five", 5.0)],
            "filters": [{**SECTION, "at": "b"}],
        },
        "has no feed wire",
    ),
}


@pytest.mark.parametrize("case", REFUSED)
def test_refused_with_words(case: str) -> None:
    parts, words = REFUSED[case]
    with pytest.raises(PlanError) as caught:
        plan(**parts)
    assert words in caught.value.what
    assert caught.value.remedy


def test_a_motor_group_draws_amps_whatever_a_document_or_an_edit_says() -> None:
    """Its amps over throttle once counted as watts or ohms where “draws as” said so: a punch of 20 A became 20 W."""
    motors = {**LAMP, "kind": "motor", "throttle": [{"throttle_frac": 1, "amps": 20}]}
    made = plan(devices=[{**motors, "law": "power"}])
    assert made.devices[0].law == "current"
    for law in ("power", "resistance"):
        edited = apply_edits(made, [SetValue(element=made.devices[0].id, field="law", value=law)])
        assert edited.devices[0].law == "current"


def test_a_number_in_quotes_is_one() -> None:
    assert plan(devices=[{**LAMP, "weight_g": "1.5e1"}]).devices[0].weight_g == 15


def test_removing_takes_what_hangs_on_it() -> None:
    gps = fed("gps", 0.05, "main", pin("g-tx", "tx"))
    filters = [{**SECTION, "at": "gps"}]
    noises = [{"id": "seen", "name": "Seen", "element": "gps", "kind": "burst", "hz": 10, "amplitude_pp": 0.1}]
    made = plan(
        boards=[{**CONTROLLER, "pins": [pin("rx", "rx")]}],
        devices=[gps],
        filters=filters,
        noises=noises,
        signals=[link("serial", "g-tx", "rx", ground="gps-gnd")],
    )
    bare = apply_edits(made, [Remove(element="gps")])
    assert (bare.filters, bare.noises, bare.signals) == ((), (), ())
    kept = apply_edits(made, [Remove(element="lc")])
    assert kept.filters == ()
    assert kept.signals == made.signals
    board = apply_edits(made, [Remove(element="fc")])
    assert board.signals == ()


def test_filters_and_pins_are_edited_like_anything_else() -> None:
    made = apply_edits(plan(devices=[LAMP]), [Add(kind="filter", value=SECTION)])
    made = apply_edits(made, [SetQuantity(element="lc", field="saturation_a", text="1.8A")])
    assert made.filters[0].saturation_a == 1.8
    made = apply_edits(made, [Duplicate(element="lc")])
    assert [one.id for one in made.filters] == ["lc", "lc-copy"]
    made = apply_edits(made, [Add(kind="pin", owner="lamp", value={"label": "DIM", "role": "servo-in"})])
    assert made.pin_of["dim"].direction == "in"
    made = apply_edits(made, [SetValue(element="dim", field="level_v", value=5)])
    assert made.pin_of["dim"].level_v == 5
    with pytest.raises(EditError) as caught:
        apply_edits(made, [SetValue(element="dim", field="role", value="banana")])
    assert "dim" in caught.value.where or "pins" in caught.value.where
    with pytest.raises(EditError):
        apply_edits(made, [Add(kind="pin", owner="pack-rail", value={"label": "X", "role": "rx"})])


def test_series_resistance_of_a_filter_shows_in_the_drop() -> None:
    made = plan(devices=[{**LAMP, "law": "current"}], filters=[{**SECTION, "dcr_ohm": 0.5}])
    assert made.series_ohm("lamp") == 0.5
    claimed = apply_edits(made, [SetValue(element="lc", field="fitted", value=False)])
    assert claimed.series_ohm("lamp") == 0
    assert claimed.filters_at("lamp") == ()


def test_a_copy_looks_its_elements_up_anew() -> None:
    made = plan(devices=[LAMP], filters=[SECTION])
    assert made.filters_at("lamp")
    bare = made.model_copy(update={"filters": ()})
    assert bare.filters_at("lamp") == ()
    assert "lc" not in bare.elements
    assert "lc" in made.elements


@pytest.mark.parametrize("inlets", [True, 3, "usb", {"id": "usb"}, [3, {"id": []}]])
def test_rubbish_for_inlets_is_refused_before_conditions_are_filled_in(inlets: object) -> None:
    document = plan().model_dump(mode="json")
    del document["conditions"]
    with pytest.raises(PlanError, match=r"^inlets.*: .* should be"):
        load_plan({**document, "inlets": inlets})


def test_a_name_that_is_not_the_only_one_has_its_board_in_front() -> None:
    esc = {"id": "esc", "name": "ESC 2", "returns": [{"id": "esc-gnd", "to": "main", "wire": {}}]}
    made = plan(
        boards=[esc],
        rails=[rail("a", 5), {**rail("b", 5, "esc"), "name": "a"}, rail("c", 9)],
        supplies=[
            regulator("x", "buck", "pack-rail", "a", 5.0),
            {**regulator("y", "buck", "pack-rail", "b", 5.0, board="esc"), "name": "x"},
        ],
    )
    assert [made.title(one) for one in ("a", "b", "c")] == ["Main board, a", "ESC 2, a", "c"]
    assert [made.title(one) for one in ("x", "y")] == ["Main board, x", "ESC 2, x"]


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("limit_a", "bananas", "Limit in A should be a valid number (got 'bananas')."),
        ("limit_a", -3, "Limit in A should be greater than 0 (got -3)."),
        ("volts", "x", "Volts should be a valid number (got 'x')."),
    ],
)
def test_a_refusal_names_the_field_as_it_is_said(field: str, value: object, words: str) -> None:
    port = {"id": "usb", "name": "USB", "kind": "usb", "rail": "pack-rail", field: value}
    with pytest.raises(PlanError) as refused:
        plan(inlets=[port])
    assert (refused.value.what, refused.value.where) == (words, f"inlets.0.{field}")
