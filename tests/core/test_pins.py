"""What volts mean for a device: in a condition, over the way of a pack, and how heavily that weighs."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest

from tests.plans import LOW, STILL, device, plan
from yardmeter.core.answers.pins import VerdictSpan, verdict, verdict_spans, weight
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.plan import Condition, Device

HOVER = {"id": "hover", "name": "Hover", "pack_state": "nominal", "throttle_frac": 0.3}
CAM = Device.model_validate(device("cam", "five", 0.3, nominal_v=5.0, min_v=4.5, max_v=5.5, brownout_v=4.0))
PILOT = CAM.model_copy(update={"keeps_control": True})
CONDITIONS = {str(c["id"]): Condition.model_validate(c) for c in (STILL, HOVER)}
ON_USB = Condition.model_validate({**STILL, "energy": ["usb"]})


def test_a_limit_met_exactly_at_the_top_hides_nothing_below_it() -> None:
    """It is kept but for rounding where the pack is full, and missed by a volt at the floor."""
    spans = verdict_spans(CAM, [4.2, 3.0], [4.0 - 1e-9, 3.0], [True, True], off=False)
    assert spans[-1].verdict == "reset"


@pytest.mark.parametrize("off", [False, True])
def test_spans_of_a_sweep_are_the_verdicts_between_its_points(off: bool) -> None:
    """Against every one of 4000 cell voltages asked alone, on ways that cross all limits up, down and several in one step."""
    random = np.random.default_rng(5)
    cells = np.linspace(4.2, 3.0, 9)
    for _ in range(60):
        pins = random.uniform(-0.5, 7.0, 9)
        spans = verdict_spans(CAM, cells.tolist(), pins.tolist(), [True] * 9, off=off)
        assert spans[0].cell_v == 4.2
        assert all(a.cell_v > b.cell_v and a.verdict != b.verdict for a, b in itertools.pairwise(spans))
        for cell in np.linspace(4.2, 3.0, 4001)[1:-1].tolist():
            pin = float(np.interp(cell, cells[::-1], pins[::-1]))
            if min(abs(pin - limit) for limit in (0.5, 4.0, 4.5, 5.5)) < 1e-3:
                continue  # at an edge itself either may be told
            told = [one.verdict for one in spans if one.cell_v >= cell][-1]
            assert told == verdict(CAM, pin, off=off, fed=True), (cell, pin)


def test_a_point_that_is_not_known_takes_its_neighbours_along() -> None:
    spans = verdict_spans(CAM, [4.0, 3.5, 3.0, 2.5], [5.0, 5.0, 0.0, 4.2], [True, True, False, True], off=False)
    assert spans == (VerdictSpan(cell_v=4.0, verdict="ok"), VerdictSpan(cell_v=3.5, verdict="unknown"))


def test_how_heavily_a_verdict_weighs() -> None:
    still, hover = CONDITIONS["bench"], CONDITIONS["hover"]
    assert hover.throttle_frac > 0 == still.throttle_frac
    wanted = {
        "ok": None,
        "off": None,
        "low": "caution",
        "reset": "fault",
        "dead": "fault",
        "high": "danger",
        "unknown": "danger",
    }
    for condition in (still, hover):
        assert {v: weight(CAM, condition, v) for v in wanted} == wanted
    grave = {**wanted, "dead": "danger"}
    assert {v: weight(PILOT, still, v) for v in wanted} == grave
    assert {v: weight(PILOT, hover, v) for v in wanted} == {**grave, "reset": "danger"}
    for one in (CAM, PILOT):  # on USB alone most of a craft is dead as it should be
        assert weight(one, ON_USB, "dead") is None
        assert weight(one, ON_USB, "reset") == "fault"


def test_the_worst_condition_weighs_most_then_lies_furthest_outside() -> None:
    """A 4S pack's 16.8 V at rest and what is left at the low one: too high goes before too low, of two too low ones the lower."""

    def worst(**window: float) -> str | None:
        given = {"nominal_v": 14.8, "brownout_v": 1.0, **window}
        made = plan(devices=[device("cam", "pack-rail", 2.0, **given)], conditions=[STILL, HOVER, LOW])
        return solve_plan(made).device("cam").worst

    assert worst(min_v=5.0, max_v=30.0) is None
    assert worst(min_v=16.0, max_v=16.5) == "bench"
    assert worst(min_v=5.0, max_v=9.0) == "bench"  # all three are too high, that with the full pack most
    made = plan(
        devices=[device("cam", "pack-rail", 2.0, nominal_v=15, min_v=14.9, max_v=30, brownout_v=1.0)],
        conditions=[STILL, HOVER, LOW],
    )
    states = solve_plan(made).device("cam").states
    low = {c: s.pin_v for c, s in states.items() if s.verdict == "low"}
    assert len(low) == 2
    assert solve_plan(made).device("cam").worst == min(low, key=lambda c: low[c])
    assert not math.isclose(*low.values())
