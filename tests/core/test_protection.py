"""Clamps, ways to power a device, draws while starting or off, renaming after volts, and supplies side by side."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.test_rule_limits import verdict
from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.placing import place_part
from yardmeter.core.errors import EditError, PlanError
from yardmeter.core.plan import Plan, load_plan
from yardmeter.core.plan.operations import Add, ChooseWay, Remove, SetDraw, SetQuantity, SetState, SetValue
from yardmeter.review.hookup import hookup
from yardmeter.review.lead import lead
from yardmeter.review.placement import places

SHELF = {part.key: part for part in demo.starter_parts()}
FIVE = [rail("five", 5)]
BUCK = [regulator("reg", "buck", "pack-rail", "five", 5.0)]


def six_cells(*devices: dict[str, object], **more: object) -> Plan:
    return plan(series=6, rails=FIVE, supplies=BUCK, devices=list(devices), **more)


def clamped(at: str, standoff: float, breakdown: float, **more: object) -> Plan:
    load = device("load", "pack-rail", 0.1, nominal_v=22.2, min_v=9, max_v=30)
    clamp = {"id": "tvs", "name": "Clamp", "at": at, "standoff_v": standoff, "breakdown_v": breakdown}
    return six_cells(load, clamps=[clamp | more])


@pytest.mark.parametrize(
    ("standoff", "breakdown", "severity"),
    [(25.3, 28, None), (25.1, 28, "caution"), (24, 25.25, "caution"), (24, 25.1, "danger")],
)
@pytest.mark.parametrize("at", ["pack-rail", "load"])
def test_a_clamp_must_stand_off_the_full_pack(at: str, standoff: float, breakdown: float, severity: str | None) -> None:
    # 6 × 4.2 V = 25.2 V full, of which the wires take millivolts.
    found = verdict(clamped(at, standoff, breakdown), "protect.standoff")
    assert (found and found.severity) == severity
    if found:
        assert found.compared.observed == pytest.approx(25.2, abs=0.04)
        assert found.compared.limit == standoff
    assert verdict(clamped(at, standoff, breakdown, fitted=False), "protect.standoff") is None


@pytest.mark.parametrize(("breakdown", "told"), [(29.9, False), (30.1, True)])
def test_a_clamp_must_begin_before_what_stands_behind_it_is_lost(breakdown: float, told: bool) -> None:
    found = verdict(clamped("pack-rail", 26, breakdown), "protect.late")
    assert (found is not None) is told
    if found:
        assert (found.compared.observed, found.compared.limit) == (breakdown, 30)
        assert found.elements == ("tvs", "load")


def test_the_weakest_behind_a_clamp_counts_and_motors_do_not() -> None:
    def clamped_with(*devices: dict[str, Any]) -> Plan:
        clamp = {"id": "tvs", "name": "Clamp", "at": "pack-rail", "standoff_v": 26, "breakdown_v": 29}
        return six_cells(*devices, clamps=[clamp])

    tough, weak = (device(name, "pack-rail", 0.1, nominal_v=22.2, min_v=9, max_v=most) for name, most in (("tough", 40), ("weak", 28)))  # fmt: skip
    found = verdict(clamped_with(tough, weak), "protect.late")
    assert found is not None
    assert found.elements == ("tvs", "weak")
    motor = {**weak, "kind": "motor", "throttle": [{"throttle_frac": 1, "amps": 10}]}
    assert verdict(clamped_with(tough, motor), "protect.late") is None


def test_a_clamp_goes_with_what_it_stands_at_and_is_never_the_wrong_way_round() -> None:
    made = clamped("load", 26, 28.9)
    assert apply_edits(made, [Remove(element="load")]).clamps == ()
    with pytest.raises(PlanError, match="below standoff_v"):
        clamped("load", 26, 25.9)
    with pytest.raises(PlanError, match="no rail and no device"):
        clamped("reg", 26, 28)
    placed = apply_edits(made, place_part(made, SHELF["tvs-600-26"], "pack-rail")).clamps[-1]
    assert (placed.at, placed.breakdown_v, placed.part) == ("pack-rail", 28.9, "tvs-600-26")


def test_a_plus_wire_on_a_pin_that_takes_none_is_moved_to_the_one_that_does() -> None:
    pins = [{"id": "vin", "label": "5 V", "role": "power-in"}, {"id": "odd", "label": "X", "role": "ident"}]

    def landed(role: str) -> Plan:
        own = [pins[0], {**pins[1], "role": role}]
        feed = {"rail": "five", "pin": "odd"}
        return six_cells(device("cam", "five", 0.2, pins=own, feed=feed))

    for role in ("ident", "keep-off", "power-out", "tx", "ground"):
        found = verdict(landed(role), "signal.powered")
        assert found is not None, role
        cured = apply_edits(landed(role), found.fixes[0].edits)
        assert verdict(cured, "signal.powered") is None
    for role in ("power-in", "other"):
        assert verdict(landed(role), "signal.powered") is None


WAYS = [
    {"name": "pins", "nominal_v": 12, "min_v": 7, "max_v": 26, "brownout_v": 6.8},
    {"name": "port", "nominal_v": 5, "min_v": 4.6, "max_v": 5.5, "brownout_v": 4.4},
]


def action(**more: object) -> dict[str, object]:
    watts = {s: {"value": 6.0, "unit": "W"} for s in ("idle", "typical", "peak")}
    own = {"law": "power", "nominal_v": 12, "min_v": 7, "max_v": 26, "ways": WAYS, "way": "pins"}
    return device("cam", "pack-rail", 0, **(own | {"draws": watts} | more))


def test_a_way_in_brings_its_own_window() -> None:
    made = six_cells(action())
    port = apply_edits(made, [ChooseWay(device="cam", way="port")]).device_of["cam"]
    assert (port.way, port.nominal_v, port.min_v, port.max_v, port.reset_v) == ("port", 5, 4.6, 5.5, 4.4)
    with pytest.raises(EditError, match="no way to power"):
        apply_edits(made, [ChooseWay(device="cam", way="wire")])
    with pytest.raises(PlanError, match="none of its ways"):
        six_cells(action(way="wire"))
    with pytest.raises(PlanError, match="one name"):
        six_cells(action(ways=[WAYS[0], WAYS[0]]))
    with pytest.raises(PlanError, match="not between"):
        six_cells(action(ways=[{**WAYS[0], "nominal_v": 27}]))


def test_places_try_every_way_in_and_choose_it() -> None:
    made = six_cells(action())
    found = {one.title: one for one in places(made, "cam")}
    assert found["pins: pack-rail"].current
    assert found["port: pack-rail"].refused is not None
    assert found["pins: five"].refused is not None
    # 6 W at 5 V is 1.2 A, of the 2 A that a print of 3 A leaves usable.
    port = found["port: five"]
    assert port.refused is None
    moved = apply_edits(made, port.edits)
    assert (moved.device_of["cam"].way, moved.device_of["cam"].feed and moved.device_of["cam"].feed.rail) == ("port", "five")  # fmt: skip
    state = solve_plan(moved).device("cam").states["bench"]
    assert state.asked_a == pytest.approx(1.2, rel=0.02)
    assert state.verdict == "ok"


def test_the_lead_tells_good_volts_places_and_what_nobody_measured() -> None:
    guessed = {s: {"value": 0.4, "provenance": "guess"} for s in ("idle", "typical")} | {"peak": {"value": 0.5, "provenance": "measured"}}  # fmt: skip
    so = lead(six_cells(device("cam", "five", 0, draws=guessed)), "cam")
    # Two in a hundred inside 4.5 to 5.5 V; a tenth of room for a pack's ringing ends at 4.95 V.
    assert (so.good_low_v, so.good_high_v, so.good_pack_v) == pytest.approx((4.59, 5.39, 4.95))
    narrow = lead(six_cells(device("cam", "five", 0.1, min_v=4.75, max_v=5.25)), "cam")
    assert narrow.good_pack_v is None
    assert [one.title for one in so.places] == ["five"]
    # A guess is half more or less by default.
    assert [(one.state, one.low_a, one.high_a) for one in so.unsure] == [("idle", 0.2, pytest.approx(0.6)), ("typical", 0.2, pytest.approx(0.6))]  # fmt: skip
    with pytest.raises(EditError):
        lead(six_cells(), "five")


def test_what_is_switched_off_may_still_draw_and_what_starts_may_draw_more() -> None:
    made = six_cells(device("cam", "five", 0.3))

    def asked(after: Plan, state: str) -> float:
        edits = [SetState.model_validate({"op": "set_state", "condition": "bench", "device": "cam", "state": state})]
        return solve_plan(apply_edits(after, edits)).device("cam").states["bench"].asked_a

    assert asked(made, "off") == 0
    assert asked(made, "boot") == pytest.approx(0.3)
    uneven = apply_edits(made, [SetDraw(device="cam", state="peak", text="700mA")])
    assert asked(uneven, "boot") == pytest.approx(0.3)
    more = apply_edits(made, [SetDraw(device="cam", state="off", text="40mA"), SetDraw(device="cam", state="boot", text="900mA")])  # fmt: skip
    assert asked(more, "off") == pytest.approx(0.04)
    assert asked(more, "boot") == pytest.approx(0.9)
    assert asked(more, "typical") == pytest.approx(0.3)


def test_what_was_named_after_its_volts_follows_them() -> None:
    made = load_plan(six_cells().model_dump(mode="json"))
    named = apply_edits(
        made,
        [
            SetValue(element="reg", field="name", value="5V buck, 2.5 V trim"),
            SetValue(element="five", field="name", value="5.0 V"),
            Add(kind="pad", owner="five", value={"label": "5V A"}),
            Add(kind="pad", owner="five", value={"label": "15V"}),
        ],
    )
    after = apply_edits(named, [SetQuantity(element="reg", field="set_v", text="9V")])
    assert after.supply_of["reg"].name == "9V buck, 2.5 V trim"
    assert (after.rail_of["five"].name, after.rail_of["five"].nominal_v) == ("9 V", 9)
    assert [pad.label for pad in after.rail_of["five"].pads] == ["9V A", "15V"]
    # A rail that another supply feeds too keeps its name: it is not this one's alone.
    shared = apply_edits(named, place_part(named, SHELF["bec-5v-3a"], into="five"))
    kept = apply_edits(shared, [SetQuantity(element="reg", field="set_v", text="5.2V")])
    assert (kept.supply_of["reg"].name, kept.rail_of["five"].name) == ("5.2V buck, 2.5 V trim", "5.0 V")


def test_a_second_regulator_beside_the_first_straight_or_through_a_diode() -> None:
    alike = regulator("reg", "buck", "pack-rail", "five", 5.1)
    made = plan(series=6, rails=FIVE, supplies=[alike], devices=[device("load", "five", 2.5, min_v=4.0)])
    straight = apply_edits(made, place_part(made, SHELF["bec-5v-3a"], into="five"))
    assert len(straight.supplies_into("five")) == 2
    assert len(straight.rails) == len(made.rails)
    assert all(one.lead for one in straight.supplies_into("five") if one.id != "reg")
    assert verdict(straight, "source.several")
    through = apply_edits(made, place_part(made, SHELF["bec-5v-3a"], into="five", through=SHELF["diode-ideal-4"]))
    kinds = {one.kind for one in through.supplies_into("five")}
    assert kinds == {"buck", "diode"}
    # Behind 20 mV of an ideal diode the new one, set alike, carries the smaller share and none flows back into it.
    states = solve_plan(through)
    diode = next(one for one in through.supplies if one.kind == "diode")
    shares = [states.supply(name).states["bench"].out_a for name in ("reg", diode.id)]
    assert 0 <= shares[1] < shares[0]
    assert sum(shares) == pytest.approx(2.5, rel=0.01)
    # Set a tenth of a volt above, the first alone holds the rail over the diode: 5.2 V − 2.5 A × 20 mΩ.
    higher = solve_plan(apply_edits(through, [SetValue(element="reg", field="set_v", value=5.2)]))
    assert higher.supply("reg").states["bench"].out_a == pytest.approx(2.5, rel=1e-3)
    assert higher.rail("five").states["bench"].volts_v == pytest.approx(5.15, abs=2e-3)
    with pytest.raises(EditError, match="gives no volts"):
        place_part(made, SHELF["cam-micro"], into="five")
    alone = apply_edits(made, place_part(made, SHELF["diode-schottky-3"], "five"))
    assert alone.rails[-1].nominal_v == 5


def test_the_hook_up_list_names_the_very_pad() -> None:
    pads = [{"id": "pin", "label": "5V IN", "direction": "in"}, *({"id": f"p{k}", "label": "5V"} for k in (1, 2, 3))]
    made = plan(
        rails=[{**rail("five", 5), "pads": pads}],
        supplies=BUCK,
        devices=[
            device("one", "five", 0.1, feed={"rail": "five", "pad": "p2"}),
            device("two", "five", 0.1),
            device("three", "five", 0.1, feed={"rail": "five", "pad": "p2"}),
            device("four", "five", 0.1),
            device("five-th", "five", 0.1),
        ],
    )
    list_ = hookup(solve_plan(made))
    lands = {row.element: row.start.at for row in list_.rows if row.id.startswith("feed:")}
    assert lands == {
        "one": "5V, 2nd of 3",
        "two": "5V, 1st of 3 (free)",
        "three": "5V, 2nd of 3",
        "four": "5V, 3rd of 3 (free)",
        "five-th": "five, spliced: no pad is free",
    }
    assert [line.pins for line in list_.shared_pads] == [("One", "Three")]
    order = [row.id for row in list_.rows]
    assert order.index("return:one-gnd") == order.index("feed:one") + 1
