"""Cures of what had none: a rail without a source, volts near a maximum, heat, a connector that is too small; each at its edge."""

from __future__ import annotations

import pytest

from tests.plans import STILL, device, fixes_of, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.checks.stouter import stouter
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan import Plan, Wire
from yardmeter.core.plan.inline import Fuse
from yardmeter.review import review
from yardmeter.review.fixes import tried_fixes
from yardmeter.review.noise_review import review_noise

BECS = [one for one in demo.starter_parts() if one.bec]
USB = {"id": "usb", "name": "USB", "kind": "usb", "rail": "port", "limit_a": 0.5}
EFF = {"efficiency": [{"amps": 1, "efficiency_frac": 0.9}]}


def titles(made: Plan, code: str) -> list[str]:
    return [fix.title for fix in fixes_of(made, code)]


def unfed(amps: float, **fields: object) -> Plan:
    """A controller's 5 V rail that only a USB port feeds, through a diode, on a craft that flies from its pack."""
    diode = {"id": "d1", "name": "USB diode", "kind": "diode", "input": "port", "output": "five", "board": "main", "drop_v": 0.3, "series_ohm": 0.05}  # fmt: skip
    return plan(
        rails=[rail("port", 5), rail("five", 5)],
        supplies=[diode],
        inlets=[USB],
        devices=[device("mcu", "five", amps, kind="logic", min_v=4.4, keeps_control=True, **fields)],
        conditions=[STILL],
    )


def test_a_rail_that_nothing_feeds_gets_a_regulator_of_the_shelf() -> None:
    """0.7 A and a fifth want a print of 0.93: one of 1 A does, on the rail that was dead, not on the port before it."""
    made = unfed(0.7)
    found = review(made)
    [offered] = [one.fixes for one in tried_fixes(found, review_noise(found.solved.solved), BECS) if one.key == "source.none:mcu"]  # fmt: skip
    assert offered[0].title == "Feed five by a new Mini BEC 5 V 1 A on pack-rail"
    after = apply_edits(made, offered[0].edits)
    assert not [one for one in review(after).verdicts if one.code == "source.none"]
    assert {rail.id for rail in after.rails} == {rail.id for rail in made.rails}
    assert [one.output for one in after.supplies if one.id not in made.supply_of] == ["five"]


@pytest.mark.parametrize(("amps", "print_a"), [(0.74, 1), (0.76, 2)])
def test_its_print_has_a_fifth_to_spare(amps: float, print_a: int) -> None:
    """Nine tenths of a print are usable where it stands alone, and a fifth is kept: 1 A carries 0.75."""
    assert titles(unfed(amps), "source.none") == [f"Feed five by a new 5 V {print_a} A BEC on pack-rail"]


def test_what_sits_close_under_its_maximum_moves_to_a_rail() -> None:
    """16.8 V of a full pack on a sender for 18 V: a twentieth is wanted under its maximum, and 12 V are there."""
    buck = regulator("twelve-v", "buck", "pack-rail", "twelve", 12.0, **EFF)
    sender = device("sender", "pack-rail", 0.5, nominal_v=12, min_v=7, max_v=17)
    made = plan(rails=[rail("twelve", 12)], supplies=[buck], devices=[sender], conditions=[STILL])
    assert titles(made, "window.margin")[0] == "Sender → twelve"
    roomy = device("sender", "pack-rail", 0.5, nominal_v=12, min_v=7, max_v=26)
    assert not titles(plan(rails=[rail("twelve", 12)], supplies=[buck], devices=[roomy], conditions=[STILL]), "window.margin")  # fmt: skip


def test_a_hot_linear_regulator_is_fed_from_fewer_volts() -> None:
    """0.3 A from 16.8 V down to 5 burn 3.5 W; from a rail of 6 V it is 0.3 W."""
    six = regulator("six-v", "buck", "pack-rail", "six", 6.0, **EFF)
    linear = regulator("lin", "linear", "pack-rail", "five", 5.0, dropout_v=0.3, theta_still_k_w=60, trip_c=125)
    load = device("mcu", "five", 0.3, kind="logic", keeps_control=True)
    made = plan(rails=[rail("six", 6), rail("five", 5)], supplies=[six, linear], devices=[load], conditions=[STILL])
    for code in ("heat.trip", "heat.linear"):
        assert titles(made, code) == ["Feed lin from six instead of pack-rail"], code


def test_a_hot_regulator_is_relieved_of_what_can_live_elsewhere() -> None:
    linear = regulator("lin", "linear", "pack-rail", "five", 5.0, dropout_v=0.3, theta_still_k_w=40, trip_c=125)
    loads = [device("mcu", "five", 0.05, kind="logic", keeps_control=True), device("camera", "five", 0.25)]
    made = plan(rails=[rail("five", 5)], supplies=[linear], devices=loads, conditions=[STILL])
    assert titles(made, "heat.trip") == ["Camera → a new 5 V 1 A BEC on pack-rail"]


@pytest.mark.parametrize(
    ("wire", "amps", "changed"),
    [
        (Wire(gauge_awg=8, connector_limit_a=60), 60.0, {}),
        (Wire(gauge_awg=8, connector_limit_a=60), 60.1, {"connector_limit_a": 90.0, "connector": "90 A connector"}),
        (Wire(gauge_awg=8, connector_limit_a=60), 200.0, {}),  # nothing sold carries that
        (Wire(gauge_awg=30), 3.0, {"gauge_awg": 28}),
        (Wire(gauge_awg=30, connector_limit_a=2), 3.5, {"gauge_awg": 26, "connector_limit_a": 5.0, "connector": "5 A connector"}),
        (Wire(gauge_awg=20, connector_limit_a=3, inline=Fuse(melts_a2s=4)), 3.5, {}),  # a fuse is no connector
    ],
)  # fmt: skip
def test_wires_and_connectors_grow_to_the_next_that_carries(
    wire: Wire, amps: float, changed: dict[str, object]
) -> None:
    made = plan(devices=[device("d", "pack-rail", 1.0, max_v=20)], conditions=[STILL])
    assert stouter(made, wire, made.conditions[0], amps) == changed


def test_a_packs_connector_that_is_too_small_is_exchanged() -> None:
    lead = {"gauge_awg": 8, "length_m": 0.1, "connector": "Pack connector, 15 A", "connector_limit_a": 15}
    heater = device("heater", "pack-rail", 20.0, nominal_v=14.8, min_v=10, max_v=20, feed={"rail": "pack-rail", "wire": {"gauge_awg": 8, "length_m": 0.1}})  # fmt: skip
    small = plan(devices=[heater], conditions=[STILL])
    made = small.model_copy(update={"pack": small.pack.model_copy(update={"lead": Wire.model_validate(lead)})})
    assert titles(made, "load.over")[0] == "Pack: a connector of 30 A"


def test_a_receiver_gets_a_regulator_of_its_own_where_nothing_else_would_do() -> None:
    """0.36 A on a 3.3 V rail for 0.3: only what keeps control is on it."""
    small = regulator("r3", "buck", "pack-rail", "three", 3.3, rating_a=0.3, **EFF)
    rx = device("rx", "three", 0.34, nominal_v=3.3, min_v=3.0, max_v=3.6, kind="receiver", keeps_control=True)
    made = plan(rails=[rail("three", 3.3)], supplies=[small], devices=[rx], conditions=[STILL])
    assert "Rx → a new 3.3 V 1 A BEC on pack-rail" in titles(made, "load.over")
