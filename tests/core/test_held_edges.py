"""Edges found by changing one sign, limit or word of the core at a time: each change here once went unnoticed."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.plans import WIRE, device, plan, rail, regulator
from yardmeter import demo
from yardmeter.cli import solved_answer
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.answers.spread import spread
from yardmeter.core.checks import run_rules
from yardmeter.core.fitness.fitness import fitness
from yardmeter.core.physics.capacitors import leads_h
from yardmeter.core.physics.regulators import LossFit, current_for_loss_a, fit_loss
from yardmeter.core.plan import Plan
from yardmeter.core.verdict import Comparison, Facts, Verdict, always, direction_of
from yardmeter.review import review
from yardmeter.review.noise_path import noise_path
from yardmeter.review.noise_review import all_findings, review_noise
from yardmeter.review.sketch import sketch_of


def told(made: Plan, code: str) -> list[tuple[str, ...]]:
    return [one.elements for one in run_rules(solve_plan(made)) if one.code == code]


def test_what_is_well_first_does_not_hide_what_is_wrong_behind_it() -> None:
    pins = [{"id": "cam-v", "label": "V", "role": "video-out"}, {"id": "cam-p", "label": "+", "role": "power-in"}]
    made = plan(
        rails=[rail("five", 5), rail("high", 24)],
        supplies=[
            regulator("well", "buck", "pack-rail", "five", 5.0),
            regulator("behind", "buck", "pack-rail", "high", 24.0),
        ],
        devices=[
            device("loose", "five", 0.1, feed=None),
            device("strip", "high", 0.1, kind="led", nominal_v=24, min_v=10, max_v=26),
            device(
                "camera", "five", 0.1, kind="camera", pins=pins, feed={"rail": "five", "wire": WIRE, "pin": "cam-v"}
            ),
        ],
    )
    assert told(made, "headroom.boost") == [("behind",)]
    assert told(made, "signal.powered") == [("camera", "cam-v")]


def test_legs_of_a_capacitor_have_the_inductance_of_two_parallel_wires() -> None:
    # Rosa: 5 mm of two legs 5 mm apart, 0.3 mm thick in radius: 4e-7 · 5e-3 · (ln(5/0.3) + 1/4).
    assert leads_h(5e-3) == pytest.approx(4e-7 * 5e-3 * (math.log(5 / 0.3) + 0.25))
    assert leads_h(5e-3) == pytest.approx(6.13e-9, rel=1e-3)


def test_a_loss_that_only_grows_with_amps_binds_by_its_volts() -> None:
    # 1.2 V across a linear regulator, 0.6 W: 0.5 A; a square term alone: √(0.6/0.6) = 1 A.
    assert current_for_loss_a(LossFit(0.0, 0.0), 0.6, 1.2, 0.0) == pytest.approx(0.5)
    assert current_for_loss_a(LossFit(0.0, 0.6), 0.6, 0.0, 0.0) == pytest.approx(1.0)
    assert current_for_loss_a(LossFit(0.0, 0.0), 0.0, 1.2, 0.0) == 0.0


def test_one_point_of_a_curve_is_all_linear() -> None:
    """5 V at 2 A with 90 %: 10 W (1/0.9 − 1) = 1.111 W, of which 0.1 W is quiescent; half of the rest at half the amps."""
    fit = fit_loss([(2.0, 0.9)], 5.0, 0.1)
    assert (fit.k1_v, fit.k2_ohm) == (pytest.approx((10 / 9 - 0.1) / 2), 0.0)
    assert fit_loss([(2.0, 0.9)], 5.0, 9.0) == LossFit(0.0, 0.0)


def test_two_points_of_a_curve_leave_no_term_below_nothing() -> None:
    """Source: non-negative least squares of SciPy (`optimize.nnls`), over curves that bend either way."""
    from scipy.optimize import nnls  # loaded by the worker that needs it, not by each that collects

    met = set()
    for second in (0.995, 0.97, 0.9, 0.8, 0.6, 0.3):
        fit = fit_loss([(0.5, 0.9), (2.0, second)], 5.0, 0.02)
        losses = [5.0 * amps * (1 / eff - 1) - 0.02 for amps, eff in ((0.5, 0.9), (2.0, second))]
        best, _ = nnls(np.array([[0.5, 0.25], [2.0, 4.0]]), np.array(losses))
        assert (fit.k1_v, fit.k2_ohm) == pytest.approx(tuple(best), rel=1e-9)
        met.add((fit.k1_v > 0, fit.k2_ohm > 0))
    assert met == {(True, False), (True, True), (False, True)}
    same = fit_loss([(2.0, 0.9), (2.0, 0.8)], 5.0, 0.1)  # two readings at one current: their mean, all linear
    assert (same.k1_v, same.k2_ohm) == (pytest.approx(((10 / 9 + 2.5) / 2 - 0.1) / 2), 0.0)


@pytest.mark.parametrize(
    ("was", "now", "said"),
    [
        # Over by 9 is 900 % of the limit; a thousandth of that is 0.009 of the limit, of which half is not told.
        (10.0, 10.0045, None),
        (10.0, 10.0095, "worse"),
        (10.0, 9.9905, "better"),
        # The thousandth is of what it was: 0.009 of the limit before, a little more after.
        (10.0, 10.009004, "worse"),
        # Near the limit a thousandth of the whole limit counts.
        (1.1, 1.1009, None),
        (1.1, 1.1011, "worse"),
    ],
)
def test_better_and_worse_are_told_from_a_thousandth_on(was: float, now: float, said: str | None) -> None:
    def verdict(observed: float) -> Verdict:
        return always("fault", ("x",), Comparison(observed, 1.0, "A"), Facts()).stamped("test", "at most")

    assert direction_of(verdict(was), verdict(now)) == said


def test_a_plan_in_short_leads_with_what_is_heavy_and_causes_the_rest() -> None:
    found = review(demo.plan("wren-straight-from-the-cell"))
    noise = review_noise(found.solved.solved)
    heavy = [one for one in all_findings(found, noise) if one.severity != "note" and one.under is None]
    assert len(heavy) < len([one for one in found.analysis.findings if one.severity != "note"])
    assert any(one.severity == "note" for one in found.analysis.findings)
    short = sketch_of(found, noise)
    assert [one.title for one in short.findings] == [one.title for one in heavy[: len(short.findings)]]
    assert short.more == len(heavy) - len(short.findings)


def test_a_plan_in_short_tells_of_its_noise_too() -> None:
    found = review(demo.plan("marshlight-as-soldered"))
    noise = review_noise(found.solved.solved)
    heard = next(one for one in noise.review.findings if one.severity == "danger")
    assert heard.title in {one.title for one in sketch_of(found, noise).findings}
    assert heard.key in {one.key for one in solved_answer(found.plan).findings}


def test_a_line_on_its_way_ends_as_large_as_at_the_pins() -> None:
    """Peak to peak, twice the amplitude, at the last place as in the table of what each pin sees."""
    solved = solve_conditions(demo.plan("marshlight-as-soldered"))
    pins = {one.device: one for one in review_noise(solved).review.pins}
    path = noise_path(solved, "sender", solved.plan.condition("hover"))
    line = next(one for one in pins["sender"].lines["hover"] if one.words == path.words)
    assert path.stages[-1].with_v == pytest.approx(line.pp_v, rel=1e-6)


def cascade(middle_a: float, amps: float) -> Plan:
    """5 V from a regulator of 3 A behind one of 9 V that has `middle_a`, and one camera on 5 V."""
    return plan(
        rails=[rail("nine", 9), rail("five", 5)],
        supplies=[
            regulator("mid", "buck", "pack-rail", "nine", 9.0, rating_a=middle_a),
            regulator("behind", "buck", "nine", "five", 5.0, rating_a=3),
        ],
        devices=[device("camera", "five", amps, kind="camera")],
    )


def test_a_rail_that_only_feeds_others_is_no_worst_margin_of_a_device() -> None:
    # 9 V has little to spare, and no device of its own; what is measured next is of the 5 V rail.
    assert spread(cascade(0.35, 0.45), samples=50).worst_rail == "five"


def test_a_device_that_fits_its_rail_may_not_fit_the_one_above() -> None:
    # 1 A at 5 V is some 0.6 A at 9 V: twice what the 9 V regulator has, a third of the 5 V one's.
    over = [one for one in fitness(cascade(0.3, 1.0), "camera").verdicts if one.code == "fit.amps"]
    assert [one.elements for one in over] == [("nine",)]
    assert over[0].compared.limit == pytest.approx(0.3)
    assert 0.55 < over[0].compared.observed < 0.75


def test_a_supply_that_gives_nothing_carries_nothing() -> None:
    """Two supplies of one rail, the second set too low to give: all of its usable amps are the first one's."""
    made = plan(
        rails=[rail("five", 5)],
        supplies=[
            regulator("strong", "buck", "pack-rail", "five", 5.2, rating_a=2, set_tol_frac=0.0),
            regulator("weak", "linear", "pack-rail", "five", 4.6, rating_a=1, set_tol_frac=0.0),
        ],
        devices=[device("camera", "five", 0.5, kind="camera")],
    )
    state = solve_plan(made).rail("five").states["bench"]
    assert {one.element for one in state.limits} == {"strong"}
    assert state.usable_a == pytest.approx(2.0)
