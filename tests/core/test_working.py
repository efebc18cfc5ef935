"""The working behind a number: its result is the number on screen, and its inputs give the result by its formula."""

import pytest

from yardmeter import demo
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import UnknownElementError
from yardmeter.core.network.keys import feed_key
from yardmeter.core.plan import Regulator
from yardmeter.core.plan.operations import SetDraw, SetValue
from yardmeter.core.units import format_si
from yardmeter.review import changes_between, review, solve_plan, working
from yardmeter.review.workings.model import Working

PLAN = demo.plan("marshlight-second-wiring")
CONDITIONS = ("usb-bench", "pack-bench", "punch-low")


@pytest.fixture(scope="module")
def case() -> SolvedPlan:
    return solve_plan(PLAN)


def texts(found: Working) -> dict[str, str]:
    return {i.symbol: i.text for i in found.inputs}


@pytest.mark.parametrize("condition", CONDITIONS)
def test_rails(case: SolvedPlan, condition: str) -> None:
    for rail in PLAN.rails:
        state = case.rail(rail.id).states[condition]
        asked = working(case, rail.id, "asked", condition)
        assert asked.result.value == state.asked_a
        assert len(asked.inputs) == len(state.consumers)
        assert {i.text for i in asked.inputs} == {format_si(w.asked_a, "A") for w in state.consumers}
        usable = working(case, rail.id, "usable", condition)
        assert usable.result.value == pytest.approx(min((limit.amps_a for limit in state.limits), default=0.0))
        spare = working(case, rail.id, "spare", condition)
        own = usable.result.value - asked.result.value
        assert (
            spare.result.value == pytest.approx(own, abs=1e-9) if state.bound_by is None else spare.result.value < own
        )
        assert texts(spare).get("I_above") == (format_si(state.spare_a, "A") if state.bound_by else None)
        assert working(case, rail.id, "volts", condition).result.value == pytest.approx(state.volts_v, abs=1e-6)


@pytest.mark.parametrize("condition", CONDITIONS)
def test_devices_by_their_formulas(case: SolvedPlan, condition: str) -> None:
    for device in PLAN.devices:
        state = case.device(device.id).states[condition]
        assert working(case, device.id, "asked", condition).result.value == state.asked_a
        pin = working(case, device.id, "pin", condition)
        assert pin.result.value == state.pin_v
        if not state.sources:
            assert (pin.formula, state.pin_v) == ("nothing feeds it", 0.0)
            continue
        assert pin.formula == "U = U_rail − I · R_feed − ΔU_gnd"
        assert device.feed
        view = case.solved.given[condition]
        rail_v = view.rail_v(device.feed.rail)
        ohm = 1 / view.op.network.circuit.conductors.siemens[0, view.op.network.table.conductor[feed_key(device.id)]]
        amps = view.conductor_a(feed_key(device.id))
        ground = state.ground_v - view.ground_v(PLAN.ground_of(device.feed.rail))
        assert rail_v - amps * ohm - ground == pytest.approx(state.pin_v, abs=1e-9)
        assert texts(pin)["R_feed"] == format_si(ohm, "Ω")


@pytest.mark.parametrize("condition", ["pack-bench", "punch-low"])
def test_regulators_by_their_formulas(case: SolvedPlan, condition: str) -> None:
    for supply in PLAN.supplies:
        if not isinstance(supply, Regulator):
            continue
        state = case.supply(supply.id).states[condition]
        temperature = working(case, supply.id, "temperature", condition)
        still = PLAN.condition(condition).air == "still"
        air, theta = (30, supply.theta_still_k_w) if still else (25, supply.theta_moving_k_w)
        assert temperature.result.value == pytest.approx(air + state.loss_w * theta)
        assert working(case, supply.id, "loss", condition).result.value == pytest.approx(state.loss_w)
        headroom = working(case, supply.id, "headroom", condition)
        gain = supply.duty_max_frac if supply.kind == "buck" else 1.0
        needed = (supply.set_v + supply.dropout_v + (supply.dropout_ohm - supply.output_ohm) * state.out_a) / gain
        assert headroom.result.value == pytest.approx(state.in_v - needed)
        share = working(case, supply.id, "share", condition)
        assert share.result.value == pytest.approx(100 * state.share_frac)


def test_the_pack(case: SolvedPlan) -> None:
    found = working(case, "pack", "pack", "punch-low")
    head = next(c for c in case.budget.conditions if c.id == "punch-low")
    assert found.result.value == pytest.approx(head.pack_v)
    assert texts(found)["E"] == "21.0 V"  # 3.5 V a cell at rest, low (common practice, no source)


def test_unknown_numbers_are_refused(case: SolvedPlan) -> None:
    for element, quantity in (
        ("rail-5v", "headroom"),
        ("camera", "usable"),
        ("nobody", "volts"),
        ("usb-diode", "temperature"),
    ):
        with pytest.raises(UnknownElementError):
            working(case, element, quantity, "hover")
    with pytest.raises(UnknownElementError, match="It has: usb-bench"):
        working(case, "rail-5v", "volts", "nowhere")


def test_changes_say_better_and_worse() -> None:
    before = review(PLAN)
    worse = review(apply_edits(PLAN, [SetDraw(device="computer", state="peak", text="20W@5V")]))
    found = changes_between(before, worse)
    assert any(c.direction == "worse" and c.text.startswith("5 V BEC rail: 5") for c in found)
    back = changes_between(worse, before)
    assert any(c.direction == "better" and c.text.startswith("Cured: 5 V BEC rail") for c in back)
    assert (
        changes_between(
            before, review(apply_edits(PLAN, [SetValue(element="plan", field="note", value="other words")]))
        )
        == ()
    )
