"""What is solved before an edit serves after it exactly where no direct current can differ, and the answers are the same."""

from __future__ import annotations

from typing import Any

import pytest

from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan.operations import Add, Edit, Remove, SetDraw, SetValue
from yardmeter.review import Reviewed, solve_plan
from yardmeter.review.noise_review import review_noise

BEFORE = demo.plan("marshlight-second-wiring")
CASE = solve_plan(BEFORE)
READ = (CASE.budget, CASE.windows, CASE.returns)
MEASURED = {"id": "seen", "name": "Seen", "element": "motors", "kind": "pwm", "hz": 23e3, "amplitude_pp": 0.4}


def put(element: str, field: str, value: Any) -> Edit:
    return SetValue(element=element, field=field, value=value)


@pytest.mark.parametrize(
    ("edit", "again"),
    [
        (put("esc-capacitor", "esr_ohm", 0.05), True),
        (put("camera-bead", "ohm_100mhz", 600.0), True),
        (put("plan", "name", "third wiring"), True),
        (Add(kind="noise", value=MEASURED), True),
        (Remove(element="esc-capacitor"), True),
        # A bead has resistance; without it, or not fitted, the camera gets more.
        (put("camera-bead", "dcr_ohm", 0.3), False),
        (put("camera-bead", "fitted", value=False), False),
        (Remove(element="camera-bead"), False),
        (SetDraw(device="recorder", state="peak", text="390mA"), False),
        (put("pack", "cell_ohm", 0.006), False),
        (put("policy", "board_derate_frac", 0.6), False),
        (put("hover", "throttle_frac", 0.4), False),
    ],
    ids=lambda one: one.element if isinstance(one, SetValue | Remove) else "",
)
def test_an_edit_solves_again_only_what_it_can_change(edit: Edit, again: bool) -> None:
    after = apply_edits(BEFORE, [edit])
    quick, fresh = solve_plan(after, CASE), solve_plan(after)
    assert (quick.budget is CASE.budget) == again
    assert Reviewed(quick).analysis.model_dump_json() == Reviewed(fresh).analysis.model_dump_json()
    assert review_noise(quick.solved).review.model_dump_json() == review_noise(fresh.solved).review.model_dump_json()
