"""A wire that is none: pad on pad. It adds no length, no loop and no heating, and never makes a false collapse."""

from __future__ import annotations

import pytest

from yardmeter import demo
from yardmeter.core.answers.limits import wire_bound_a, wire_limits
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.network.wires import CLOSED_OHM, conductor_ohm, wire_h
from yardmeter.core.plan import Plan, Wire
from yardmeter.core.plan.operations import SetQuantity, SetValue
from yardmeter.review import analyse
from yardmeter.review.analysis import solve_plan
from yardmeter.review.hookup import hookup

JOINT = Wire(gauge_awg=30, length_m=2, joined=True, connector_ohm=0.003, connector_limit_a=4)


def joined_everywhere(plan: Plan) -> Plan:
    edits = [SetValue(element="pack", field="lead.joined", value=True)]
    for device in plan.devices:
        edits += [SetValue(element=device.id, field="feed.wire.joined", value=True)] if device.feed else []
        edits += [
            SetValue(element=device.id, field=f"returns.{k}.wire.joined", value=True)
            for k in range(len(device.returns))
        ]
    return apply_edits(plan, edits)


def test_a_joint_is_its_connector_and_no_more() -> None:
    plan = demo.plan("marshlight-as-soldered")
    punch, hover = plan.condition("punch-low"), plan.condition("hover")
    assert conductor_ohm(JOINT, 20) == pytest.approx(0.003 + CLOSED_OHM)
    assert JOINT.run_m == 0
    assert wire_h(JOINT) < 2e-9 < wire_h(JOINT.model_copy(update={"joined": False}))
    assert [one.kind for one in wire_limits(plan, JOINT, "feed", hover)] == ["connector"]
    assert wire_bound_a(plan, JOINT, hover) == 4
    assert wire_bound_a(plan, JOINT, punch) == 4 * plan.policy.connector_burst_frac
    bare = JOINT.model_copy(update={"connector_limit_a": None})
    assert wire_bound_a(plan, bare, hover) == float("inf")


def test_a_craft_of_joints_alone_is_solved_and_judged() -> None:
    plan = joined_everywhere(demo.plan("marshlight-as-soldered"))
    found = analyse(plan)
    assert all(c.solved or c.load_factor for c in found.budget.conditions)
    assert not [f for f in found.findings if f.code.startswith("wire.")]
    # What is soldered together is one: 900 mA make less than 2 µV.
    computer = next(d for d in found.budget.devices if d.id == "computer")
    assert computer.states["hover"].drop_v < 2e-6
    rows = [row for row in hookup(solve_plan(plan)).rows if row.joined]
    assert {(row.length_m, row.rise_k, row.limit_a, row.fuses_a, row.smallest_awg) for row in rows} == {
        (0, None, None, None, None)
    }
    assert not [row for row in rows if row.warning.startswith("limit")]


def test_a_wire_has_a_least_length() -> None:
    plan = demo.plan("marshlight-as-soldered")
    made = apply_edits(plan, [SetQuantity(element="camera", field="feed.wire.length_m", text="1mm")])
    assert made.device_of["camera"].feed.wire.length_m == pytest.approx(0.001)
    for text in ("0.9mm", "0m", "10um"):
        with pytest.raises(EditError, match=r"greater than or equal to 0\.001"):
            apply_edits(plan, [SetQuantity(element="camera", field="feed.wire.length_m", text=text)])
