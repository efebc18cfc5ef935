"""What can still be added: by hand, with whatever stands in the way, and three tones of being over."""

from __future__ import annotations

from typing import Any

import pytest

from tests.plans import STILL, device, plan, rail, regulator
from yardmeter.core.answers.model import RailState
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import SetDraw

COOL = {"theta_still_k_w": 1, "theta_moving_k_w": 1}
LOSSLESS = {**COOL, "quiescent_a": 0.0, "output_ohm": 0.001, "dropout_v": 0.0, "dropout_ohm": 0.0}
USB = {"id": "usb", "name": "USB", "kind": "usb", "rail": "port", "limit_a": 0.5, "series_ohm": 0.001}


def state(made: Plan, name: str) -> RailState:
    return solve_plan(made).rail(name).states["bench"]


def chain(amps: float, small: float, kind: str = "linear", **second: Any) -> Plan:
    """5 V from the pack, 3.3 V behind it."""
    return plan(
        rails=[rail("five", 5), rail("three", 3.3)],
        supplies=[
            regulator("first", "buck", "pack-rail", "five", 5.0, rating_a=1.0, current_limit_a=4.0, **LOSSLESS),
            regulator(
                "second", kind, "five", "three", 3.3, **{**LOSSLESS, "rating_a": 0.4, "current_limit_a": 4.0, **second}
            ),
        ],
        devices=[device("d", "five", amps), device("e", "three", small, nominal_v=3.3, min_v=3, max_v=3.6)],
        conditions=[STILL],
    )


def test_a_rail_has_no_more_to_spare_than_what_feeds_it() -> None:
    """1 A of 5 V, 825 mA of it drawn beside 120 mA of a linear rail for 400: 55 mA are left for either."""
    made = chain(0.825, 0.12)
    five, three = state(made, "five"), state(made, "three")
    assert (five.spare_a, five.bound_by) == (pytest.approx(0.055, abs=1e-4), None)
    assert (three.spare_a, three.bound_by) == (pytest.approx(0.055, abs=1e-4), "five")
    assert three.own_spare_a == pytest.approx(0.28)
    # Adding that much is what the rail above just carries.
    full = apply_edits(made, [SetDraw(device="e", state="typical", text=f"{0.12 + three.spare_a:.4f}A")])
    assert state(full, "five").spare_a == pytest.approx(0, abs=2e-4)


def test_a_switching_regulator_turns_what_is_left_into_more_amps_at_fewer_volts() -> None:
    """200 mA at 5 V make 303 mA at 3.3 without loss; with 90 % at 0.3 A, and the loss going with the amps, less a tenth."""
    three = state(chain(0.8, 0.0, "buck", rating_a=5.0), "three")
    assert three.spare_a == pytest.approx(0.2 * 5 / 3.3, rel=3e-3)
    lossy = state(chain(0.8, 0.0, "buck", rating_a=5.0, efficiency=[{"amps": 0.3, "efficiency_frac": 0.9}]), "three")
    assert lossy.spare_a == pytest.approx(0.2 * 5 / 3.3 * 0.9, rel=3e-3)


def test_behind_a_port_there_is_what_the_port_gives() -> None:
    diode = {
        "kind": "diode",
        "id": "o",
        "name": "Diode",
        "input": "port",
        "output": "five",
        "board": "main",
        "drop_v": 0.3,
        "rating_a": 2.0,
    }
    made = plan(
        rails=[rail("five", 5), rail("port", 5)], supplies=[diode], inlets=[USB], conditions=[{**STILL, "energy": ["usb"]}],
        devices=[device("d", "five", 0.15, min_v=3.5)],
    )  # fmt: skip
    five = state(made, "five")
    assert (five.usable_a, five.own_spare_a) == (2.0, pytest.approx(1.85))
    assert (five.spare_a, five.bound_by) == (pytest.approx(0.35, abs=1e-4), "port")


def test_what_is_over_above_leaves_nothing_below() -> None:
    three = state(chain(1.5, 0.1), "three")
    assert (three.spare_a, three.bound_by, three.tone) == (0.0, "five", "ok")


def test_several_supplies_give_until_the_first_is_at_its_limit() -> None:
    """Set 20 mV apart behind 10 mΩ each, 1 A is shared 1.5 to −0.5, so by the stronger alone; 3 A 2.5 to 0.5."""

    def tied(amps: float) -> RailState:
        pair = [
            regulator(
                n, "buck", "pack-rail", "five", v, rating_a=a, current_limit_a=9.0, **{**LOSSLESS, "output_ohm": 0.01}
            )
            for n, v, a in (("high", 5.02, 1.0), ("low", 5.0, 3.0))
        ]
        return state(
            plan(rails=[rail("five", 5)], supplies=pair, devices=[device("d", "five", amps)], conditions=[STILL]),
            "five",
        )

    alone = tied(1.0)
    assert (alone.usable_a, alone.printed_a, alone.spare_a) == pytest.approx((1.0, 1.0, 0.0), abs=1e-3)
    both = tied(3.0)
    # The stronger carries 2.5 of 3 A: at its ampere the rail has carried 1.2.
    assert both.usable_a == pytest.approx(3.0 / 2.5, rel=2e-3)
    assert [(one.kind, one.element, one.factor) for one in both.limits[:1]] == [
        ("share", "high", pytest.approx(2.5 / 3, rel=2e-3))
    ]
    assert (both.tone, both.spare_a < 0) == ("fault", True)


@pytest.mark.parametrize(
    ("amps", "tone", "severity"),
    [(1.39, "ok", None), (1.41, "caution", "caution"), (1.99, "caution", "caution"), (2.01, "fault", "fault")],
)
def test_between_usable_and_print_is_a_caution(amps: float, tone: str, severity: str | None) -> None:
    """A board regulator of 2 A counts with 1.4 (common practice); up to its print it may run, past it it is a fault."""
    own = regulator("reg", "buck", "pack-rail", "five", 5.0, rating_a=2.0, current_limit_a=9.0, derate_frac=0.7, **COOL)
    made = plan(rails=[rail("five", 5)], supplies=[own], devices=[device("d", "five", amps)], conditions=[STILL])
    assert state(made, "five").tone == tone
    found = [one.severity for one in run_rules(solve_plan(made)) if one.code == "load.over"]
    assert found == ([severity] if severity else [])


@pytest.mark.parametrize(("amps", "tone"), [(0.79, "ok"), (0.82, "caution"), (0.94, "caution"), (0.96, "fault")])
def test_heat_has_its_own_two_bounds(amps: float, tone: str) -> None:
    """θ so that 0.8 A over some 11.7 V warm it by 80 K, to the margin under its trip of 125 °C; that itself is 95 K, at 0.95 A."""
    linear = regulator(
        "reg", "linear", "pack-rail", "five", 5.0, rating_a=3.0, quiescent_a=0.0, theta_still_k_w=80 / (0.8 * 11.72)
    )
    made = plan(rails=[rail("five", 5)], supplies=[linear], devices=[device("d", "five", amps)], conditions=[STILL])
    found = state(made, "five")
    assert found.tone == tone
