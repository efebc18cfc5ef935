"""A cell of its own for one device: what it gives at each state by hand, how it empties, what is judged, proposed and listed of it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from yardmeter import demo
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.fixes import from_shelf, vetted
from yardmeter.core.fixes.vetting import _runs_out
from yardmeter.core.layouts.candidates import field_of
from yardmeter.core.layouts.program import CHARGING, GRAM, PART, Program
from yardmeter.core.layouts.search import alternatives, propose
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.parts.own_cell import may_have_its_own, own_cell, place_cell
from yardmeter.core.physics.pack import CELL_STATE_V, STATES, as_far_down_v, charge_left_frac, straight_farad
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Add, Move, Remove, SetValue
from yardmeter.core.plan.scenarios import PlugPack, Scenario, UnplugPack
from yardmeter.core.runs import run_scenario
from yardmeter.core.verdict import Fix
from yardmeter.review.hookup import hookup

PARTS = demo.starter_parts()
SMALL = next(one for one in PARTS if one.key == "pack-1s-300")
MARSH = demo.plan("marshlight-as-soldered")
CAMERA = "camera"
CELL, RAIL = "pack-1s-300-own-cell", "pack-1s-300-own-rail"


def one_cell_camera(min_v: float = 3.2, max_v: float = 4.5) -> Plan:
    """Marshlight, with a camera taken out of its housing that wants what its one cell gave it."""
    values = {"min_v": min_v, "nominal_v": 3.7, "max_v": max_v, "brownout_v": min(3.0, min_v)}
    return apply_edits(MARSH, [SetValue(element=CAMERA, field=name, value=value) for name, value in values.items()])


def celled(**fields: object) -> SolvedPlan:
    plan = one_cell_camera()
    plan = apply_edits(plan, own_cell(plan, plan.device_of[CAMERA], SMALL))
    return solve_plan(apply_edits(plan, [SetValue(element=CELL, field=k, value=v) for k, v in fields.items()]))  # type: ignore[arg-type]


def codes(case: SolvedPlan) -> set[tuple[str, str]]:
    return {(one.code, one.elements[0]) for one in run_rules(case)}


def test_it_gives_what_is_left_in_it_and_nothing_without_the_pack() -> None:
    """By hand: 30 mΩ (0.3 Ah LiHV of the shelf), 0.26 A in flight, as far down as a LiPo pack at the same state."""
    case = celled()
    for condition in case.plan.conditions:
        amps = case.solved.given[condition.id].inlet_a(CELL)
        volts = case.rail(RAIL).states[condition.id].volts_v
        if condition.on_pack:
            assert amps == pytest.approx(case.device(CAMERA).states[condition.id].given_a)
            assert amps > 0.2
            assert volts == pytest.approx(CELL_STATE_V["lihv"][condition.pack_state] - 0.03 * amps, abs=1e-6)
            assert case.device(CAMERA).states[condition.id].sources == (CELL,)
        else:
            assert (amps, volts) == (0.0, pytest.approx(0.0, abs=1e-6))
    assert case.solved.given["hover"].pack_a < solve_plan(MARSH).solved.given["hover"].pack_a
    # Its ground lifted, it has no way back and gives nothing.
    wire = case.plan.board_of["pack-1s-300-own-board"].returns[0]
    lifted = solve_plan(apply_edits(case.plan, [Remove(element=wire.id)]))
    assert lifted.device(CAMERA).states["hover"].verdict == "dead"


def test_other_chemistries_are_as_far_down_as_the_pack() -> None:
    for state in STATES:
        assert as_far_down_v(CELL_STATE_V["lipo"][state], "lipo", "liion") == pytest.approx(
            CELL_STATE_V["liion"][state]
        )
    assert as_far_down_v(3.6, "lipo", "lihv") == pytest.approx(3.675)  # half way from low to nominal: 3.55 to 3.80
    assert as_far_down_v(4.25, "lipo", "lihv") == pytest.approx(4.40)
    assert as_far_down_v(2.9, "lipo", "liion") == pytest.approx(2.4)
    assert as_far_down_v(3.33, "lipo", "lipo") == 3.33


def test_in_time_it_empties_by_its_charge_and_goes_with_the_pack() -> None:
    """By hand: LiHV from 4.35 V full to 3.62 V at a tenth over 0.9 of 1,080 C is 1,332 F; 0.26 A for 100 s take 19.5 mV."""
    case = celled()
    farad = straight_farad("lihv", 1, 0.3, 4.35)
    assert farad == pytest.approx(0.9 * 1080 / (4.35 - 3.62))
    assert straight_farad("lihv", 2, 0.3, 2 * 3.55) == pytest.approx(0.1 * 1080 / (2 * 0.62))  # less than a tenth left
    long = Scenario(id="long", name="long", begins="pack-bench", duration_s=100.0, pack_state="full")
    run = run_scenario(case.plan, long)
    volts = run.rail_v(RAIL)
    assert float(volts[0] - volts[-1]) == pytest.approx(0.26 * 100 / farad, rel=0.02)
    acts = (PlugPack(at_s=0.001), UnplugPack(at_s=0.05))
    run = run_scenario(case.plan, Scenario(id="in-out", name="in and out", acts=acts, duration_s=0.2))
    amps = run.supply_a(CELL)
    assert float(abs(amps[run.times_s < 0.0009]).max()) < 1e-6 < 0.05 < float(amps[run.times_s < 0.045].max())
    assert float(abs(amps[-1])) < 1e-6


def test_empty_before_the_pack_is_told_at_its_edge() -> None:
    """By hand: both from the same state, so that the charges of both over their amps are compared."""
    case = celled()
    assert not any(code == "source.empty_first" for code, _ in codes(case))
    ends = {}
    for share in (0.97, 1.03):
        small = celled(**{"cells.capacity_ah": round(_needed_ah(case) * share, 5)})
        ends[share] = ("source.empty_first", CELL) in codes(small)
    assert ends == {0.97: True, 1.03: False}


def _needed_ah(case: SolvedPlan) -> float:
    """The capacity with which the cell lasts as long as the pack in every condition."""
    needed = []
    for head in case.budget.conditions:
        if head.minutes is not None and case.plan.condition(head.id).throttle_frac > 0:
            state = case.plan.condition(head.id).pack_state
            left = charge_left_frac("lihv", CELL_STATE_V["lihv"][state])
            needed.append(case.solved.given[head.id].inlet_a(CELL) * head.minutes / 60 / left)
    return max(needed)


def test_more_than_it_is_made_for_is_told() -> None:
    assert ("load.rail", RAIL) not in codes(celled())
    assert any(element == RAIL for _, element in codes(celled(limit_a=0.1)))


def offered(plan: Plan) -> list[Fix]:
    """Cells for the camera that were tried and hold."""
    case = solve_plan(plan)
    found = from_shelf(plan, tuple(run_rules(case)), PARTS)
    own = [
        replace(v, fixes=tuple(f for f in v.fixes if f.kind == "own cell" and v.elements[0] == CAMERA)) for v in found
    ]
    return [fix for fixes in vetted(case, own).values() for fix in fixes]


def test_it_is_offered_where_it_suits_and_what_is_offered_cures() -> None:
    """A LiPo cell has 3.50 V low, which has to be inside by a fiftieth; those of the shelf are LiHV of 4.35 V. What runs out before the
    pack is not offered."""
    plan = one_cell_camera()
    fixes = offered(plan)
    assert {str(one.edits[2].value["name"]) for one in fixes if isinstance(one.edits[2], Add)} == {
        "Cell of its own, 1S 0.3 Ah",
        "Cell of its own, 1S 0.45 Ah",
    }
    for one in fixes[:2]:
        cured = solve_plan(apply_edits(plan, one.edits))
        assert not any(element == CAMERA for code, element in codes(cured) if code.startswith("window."))
    for low, high, suits in ((3.4, 4.5, True), (3.45, 4.5, False), (3.2, 4.36, True), (3.2, 4.34, False)):
        assert bool(offered(one_cell_camera(low, high))) is suits, (low, high)
    hungry = apply_edits(plan, [SetValue(element=CAMERA, field="draws.typical.value", value=1.6)])
    assert not offered(hungry)
    assert not may_have_its_own(plan, plan.device_of["receiver"])
    assert not may_have_its_own(plan, plan.device_of["sender"])


def test_layouts_take_one_where_it_may_be_bought_and_one_for_one_device() -> None:
    plan = one_cell_camera()
    linear = next(one for one in plan.supplies if getattr(one, "set_v", 0) == 3.3)
    buy = frozenset(("bec", "cell", "capacitor", "filter"))
    no_bec = [one for one in PARTS if not (one.bec and one.bec.set_v < 4.6)]
    wishes = Wishes(buy=buy, turned_down=frozenset({(CAMERA, linear.output)}))
    usual = propose(plan, Wishes(turned_down=wishes.turned_down), no_bec, aims=("parts",))
    assert [one.devices for one in usual.impossible if one.nowhere] == [(CAMERA,)]
    found = propose(plan, wishes, no_bec, aims=("parts",))
    at = found.layouts[0].made.chosen.at[CAMERA]
    assert at.startswith("pack-1s")
    assert sum(rail == at for rail in found.layouts[0].made.chosen.at.values()) == 1
    assert any(
        found.layouts[0].made.plan.inlets[k].kind == "cell" for k in range(len(found.layouts[0].made.plan.inlets))
    )
    _, side = alternatives(plan, CAMERA, PARTS)
    own = next(one for one in side if one.place.startswith("pack-1s"))
    assert own.numbers.grams == pytest.approx(8.0)
    assert not own.left


def test_it_stands_in_the_hookup_list_once_with_its_ground() -> None:
    listed = hookup(celled())
    parts = [one for one in listed.parts if one.element == "pack-1s-300-own-board"]
    assert [(one.what, one.weight_g) for one in parts] == [("1S LiHV, 300 mAh", 8.0)]
    rows = [one.model_dump_json() for one in listed.rows]
    assert (
        sum("Cell of its own" in one and "Low-light camera" in one for one in rows) == 2
    )  # plus and ground of the camera
    assert any(
        "Flight controller" in one and "Cell of its own" in one for one in rows
    )  # its ground goes where the picture does


def test_what_is_no_cell_is_refused() -> None:
    with pytest.raises(EditError, match="no pack"):
        place_cell(MARSH, next(one for one in PARTS if one.bec))
    with pytest.raises(EditError, match="what it is made of"):
        apply_edits(MARSH, [Add(kind="inlet", value={"id": "c", "name": "c", "kind": "cell", "rail": MARSH.pack.rail})])
    assert Move(device=CAMERA, rail=RAIL) in own_cell(MARSH, MARSH.device_of[CAMERA], SMALL)


def test_nothing_else_is_proposed_for_it() -> None:
    case = celled()
    moved = [
        e
        for v in run_rules(case)
        for f in v.fixes
        for e in f.edits
        if RAIL in (getattr(e, "rail", None), getattr(e, "value", None))
    ]
    assert not moved
    found = propose(case.plan, Wishes(), PARTS, aims=("parts",))
    assert [d for d, rail in found.layouts[0].made.chosen.at.items() if rail == RAIL] == [CAMERA]


def test_in_the_program_it_costs_a_charging_serves_one_and_takes_nothing_from_the_pack() -> None:
    values = {"min_v": 3.2, "nominal_v": 3.7, "max_v": 4.5, "brownout_v": 3.0}
    made = demo.plan("marshlight-second-wiring")  # nothing of it is over, whoever else stays
    plan = apply_edits(
        made, [SetValue(element=d, field=k, value=v) for d in (CAMERA, "thermal") for k, v in values.items()]
    )
    wishes = Wishes(buy=frozenset(("bec", "cell")), held=frozenset(d.id for d in plan.devices) - {CAMERA, "thermal"})
    program = Program(field_of(solve_plan(plan), wishes, PARTS), wishes)
    cells = [one for one in program.field.bought if one.cells and one.part is SMALL]
    assert len(cells) == 2
    assert program.least()[program.y[cells[0].key]] == pytest.approx(PART + CHARGING + 8.0 * GRAM)
    stay = {p.device: p.rail for p in program.field.places if p.stays}
    assert not program.allows({**stay, CAMERA: cells[0].key, "thermal": cells[0].key})
    assert program.allows({**stay, CAMERA: cells[0].key, "thermal": cells[1].key})
    assert cells[0].pack_a(1.0, 20.0) == 0.0
    bec = next(one for one in program.field.bought if not one.cells)
    assert bec.pack_a(1.0, 20.0) == pytest.approx(bec.set_v / (0.85 * 20.0))


def test_a_cell_that_is_empty_first_is_no_fix_for_anything() -> None:
    (empty,) = (v for v in run_rules(celled(**{"cells.capacity_ah": 0.02})) if v.code == "source.empty_first")
    own, other = Fix("own cell", ()), Fix("move", ())
    assert _runs_out(own, {}, [empty])
    assert not _runs_out(other, {}, [empty])
    assert not _runs_out(own, {empty.key: empty}, [empty])
