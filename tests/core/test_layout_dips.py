"""Dips in the numbers of a layout, and wires that cure what a regulator of one's own brings: shifts of grounds, volts that fall on the way."""

from __future__ import annotations

import numpy as np
import pytest

from tests.builds import random_build
from tests.core.test_expensive_mistakes import BUCK5
from tests.plans import device, fixes_of, plan, rail
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks.stouter import stiffer_fixes
from yardmeter.core.edits import apply_edits
from yardmeter.core.layouts.dips import Dip, deepest_dip, least_since_up_v
from yardmeter.core.layouts.made import heavy
from yardmeter.core.layouts.search import propose
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.plan import Return, Wire
from yardmeter.core.plan.operations import SetState, SetValue
from yardmeter.review.layouts import with_shelf
from yardmeter.words.layouts import dip_words

PARTS = demo.starter_parts()


@pytest.mark.parametrize(
    ("volts", "least"),
    [
        ([0, 2, 4.7, 5.0, 5.0], 5.0),  # the rise is no dip
        ([0, 4.8, 5.0, 4.4, 5.0], 4.4),
        ([0, 3, 2, 5.0, 4.96, 5.0], 5.0),  # down before it was up, and a ripple of less than a hundredth
        ([0, 5.0, 4.94, 5.0], 4.94),
        ([5.0, 5.0, 0.0], 0.0),
    ],
)
def test_a_dip_is_a_fall_of_what_was_up(volts: list[float], least: float) -> None:
    assert least_since_up_v(np.array(volts, float), 4.5) == least


def test_the_deepest_dip_is_of_the_device_with_the_least_room() -> None:
    """Wren straight from its cell: under a punch on a low pack the receiver, which resets at 3.0 V, has 2.99 V."""
    wren = demo.plan("wren-straight-from-the-cell")
    found = deepest_dip(wren)
    assert found is not None
    assert (found.device, found.scenario, found.reset_v) == ("receiver", "Punch on a low pack", 3.0)
    assert found.least_v == pytest.approx(2.990, abs=2e-3)
    assert found.room_frac == pytest.approx(-0.0034, abs=7e-4)
    assert dip_words(wren, found) == f"{wren.title('receiver')} 2.99 V, resets at 3.00 V, in Punch on a low pack"
    hardly = deepest_dip(
        apply_edits(
            wren, [SetValue(element="receiver", field=f, value=v) for f, v in (("min_v", 2.5), ("brownout_v", 2.5))]
        )
    )
    assert hardly is not None
    assert hardly.room_frac > found.room_frac
    off = [
        SetState(condition=c.id, device=d.id, state="off")
        for c in wren.conditions
        for d in wren.devices
        if not d.throttle
    ]
    at_punch = deepest_dip(apply_edits(wren, off))
    assert (
        at_punch is None or at_punch.scenario == "Plug in"
    )  # what is off in the condition a run begins in is no part of it
    assert dip_words(wren, None) == "–"
    assert Dip("a", "b", 5.0, 4.0).room_frac == 0.25


def test_layouts_tell_their_deepest_dip() -> None:
    found = propose(demo.plan("wren-straight-from-the-cell"), Wishes(), PARTS, with_shelf(PARTS))
    for one in found.layouts:
        assert one.numbers.dip == deepest_dip(one.plan)
        assert one.numbers.dip is not None
        assert one.numbers.scale[8] == -round(one.numbers.dip.room_frac, 2)


def test_a_ground_that_a_new_regulator_lifts_gets_a_wire() -> None:
    """A large computer on a regulator of its own lifts its thin ground by 0.47 V, where its data stands 0.4 V: a wire cures it."""
    pile = random_build(85)
    found = propose(pile, Wishes(), PARTS, with_shelf(PARTS))
    assert found.layouts
    assert not found.impossible
    cured = [step for one in found.layouts for step in one.made.mended if step.verdict.code == "ground.shift"]
    assert cured
    assert {step.fix.kind for step in cured} <= {"gauge", "signal ground", "return"}
    for one in found.layouts:
        assert not [v for v in heavy(solve_plan(one.plan)) if v.code == "ground.shift"]


def test_thicker_wires_are_offered_for_what_falls_along_them_alone() -> None:
    """By hand: 26 AWG is 0.134 Ω/m (ASTM B258), at 1.5 A over two wires of 0.6 m 0.24 V; the rail has 5.0 V."""
    wire = {"gauge_awg": 26, "length_m": 0.6}

    def fed(min_v: float) -> list[str]:
        made = device(
            "d",
            "five",
            1.5,
            min_v=min_v,
            nominal_v=5.0,
            max_v=5.5,
            feed={"rail": "five", "wire": wire},
            returns=[{"id": "g", "to": "main", "wire": wire}],
        )
        return [
            one.title
            for one in fixes_of(plan(rails=[rail("five", 5)], supplies=[BUCK5], devices=[made]), "window.under")
        ]

    assert any("22 AWG" in title for title in fed(4.85))
    assert not any("AWG" in title for title in fed(5.2))  # more is missing than falls along them
    loose = random_build(85).devices[1]
    steps = {
        awg: [[e.value for e in fix.edits if isinstance(e, SetValue)] for fix in stiffer_fixes(loose, [Return(id="r", to="x", wire=Wire(gauge_awg=awg, length_m=0.1))], feed=False)]
        for awg in (26, 18, 16)
    }  # fmt: skip
    assert steps == {26: [[22], [18]], 18: [[16]], 16: []}
