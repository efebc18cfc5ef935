"""Every fix that is offered on the demo builds: it cures what it is offered for, and breaks nothing else."""

from __future__ import annotations

import pytest

from tests.core.test_noise import HOVER
from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.checks.finding import Finding
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan import Plan
from yardmeter.core.review import analyse
from yardmeter.core.review.noise_review import review_noise

PLANS = {
    "culvert-first-wiring": 4,
    "culvert-lights-on": 1,
    "marshlight-as-soldered": 10,
    "marshlight-second-wiring": 0,
    "wren-boosted-logic": 0,
    "wren-straight-from-the-cell": 1,
}
"""Demo plans with how many fixes they are offered at least."""
EFF = [{"amps": 1, "efficiency_frac": 0.9}]


def findings(made: Plan) -> dict[str, Finding]:
    found = (*analyse(made).findings, *review_noise(solve_conditions(made)).findings)
    return {one.key: one for one in found}


@pytest.mark.parametrize("name", PLANS)
def test_no_fix_does_harm(name: str) -> None:
    made = demo.plan(name)
    before = findings(made)
    offered = [(one, fix) for one in before.values() for fix in one.fixes]
    assert len(offered) >= PLANS[name]
    for one, fix in offered:
        after = findings(apply_edits(made, fix.edits))
        worse = [f.title for key, f in after.items() if key not in before and f.severity in ("danger", "fault")]
        assert worse == [], f"{fix.title}, for {one.title}"
        left = after.get(one.key)
        # Cured, or at least in the condition it was offered for.
        assert left is None or one.worst not in left.conditions, f"{fix.title}, for {one.title}"


def crowded(**devices: float) -> Plan:
    """A 5 V rail for 1 A with these devices, and a linear 3.3 V rail that hangs from it."""
    first = regulator("first", "buck", "pack-rail", "five", 5.0, rating_a=1.0, efficiency=EFF)
    second = regulator("second", "linear", "five", "three", 3.3, rating_a=2.0)
    loads = [device(name, "five", amps, min_v=3.0, max_v=5.5) for name, amps in devices.items()]
    return plan(rails=[rail("five", 5), rail("three", 3.3)], supplies=[first, second], devices=loads)


def moves(made: Plan, code: str) -> list[str]:
    return [fix.title for one in analyse(made).findings if one.code == code for fix in one.fixes]


def test_what_hangs_from_the_crowded_rail_is_no_way_out() -> None:
    titles = moves(crowded(camera=0.9, beeper=0.3), "load.over")
    assert titles
    assert not [one for one in titles if "three" in one.lower()]


@pytest.mark.parametrize(("max_v", "offered"), [(16.0, False), (18.0, True)])
def test_the_pack_is_no_way_out_for_what_a_full_one_kills(max_v: float, offered: bool) -> None:
    """Hovering on 14.8 V is the only condition; charged, the pack has 16.8."""
    loads = [device(n, "five", amps, min_v=3.0, max_v=max_v) for n, amps in (("camera", 0.7), ("beeper", 0.5))]
    buck = regulator("buck", "buck", "pack-rail", "five", 5.0, rating_a=1.0, efficiency=EFF)
    made = plan(rails=[rail("five", 5)], supplies=[buck], devices=loads, conditions=[HOVER])
    assert ("Camera → pack-rail" in moves(made, "load.over")) == offered


def test_one_move_is_offered_only_where_one_is_enough() -> None:
    roomy = regulator("roomy", "buck", "pack-rail", "side", 5.0, rating_a=1.0, efficiency=EFF)

    def beside(**devices: float) -> list[str]:
        made = crowded(**devices)
        sides = {"rails": (*made.rails, *plan(rails=[rail("side", 5)]).rails[1:])}
        supplies = plan(rails=[rail("side", 5)], supplies=[roomy]).supplies
        return moves(made.model_copy(update={**sides, "supplies": (*made.supplies, *supplies)}), "load.over")

    assert "Camera → side" in beside(camera=0.7, beeper=0.5)
    # Two of three would have to go; no single one is enough.
    assert not [one for one in beside(camera=0.7, beeper=0.65, lamp=0.6) if one.endswith("→ side")]
