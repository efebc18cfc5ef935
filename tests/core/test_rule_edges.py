"""Where rules begin, and where their severity changes: just below and just above each edge, with conditions and numbers.

The edge is found first, from the numbers of a plan that is far from it, then a plan is made a part in a thousand to either
side. A limit, a factor or a sense that is off by more than that is noticed.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from tests.plans import LOW, STILL, device, fixes_of, plan, rail, regulator
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.plan import Plan
from yardmeter.review import Analysis, analyse
from yardmeter.words.told import Finding

NEAR = 1e-3
Build = Callable[..., Plan]


def found(made: Plan, code: str) -> Finding | None:
    hits = [one for one in analyse(made).findings if one.code == code]
    assert len(hits) <= 1, [one.elements for one in hits]
    return hits[0] if hits else None


def expect_edge(
    build: Build, code: str, edge: float, *, over: bool, severity: str, quiet: str | None = None,
    worst: str | None, numbers: tuple[float, float] | None = None, fixed: bool | None = None,
) -> Finding:  # fmt: skip
    """Silent (or of `quiet` severity) on one side of the edge, `severity` on the other, in that worst condition.

    `over` tells that the finding lies above the edge of the number that `build` takes.
    """
    sides = edge * (1 - NEAR), edge * (1 + NEAR)
    silent, loud = sides if over else sides[::-1]
    before, after = found(build(silent), code), found(build(loud), code)
    assert (before.severity if before else None) == quiet
    assert after is not None
    assert (after.severity, after.worst) == (severity, worst)
    assert worst is None or worst in after.by_condition
    if numbers:
        assert tuple(one.value for one in after.numbers[:2]) == pytest.approx(numbers, rel=1.5e-2)
    if fixed is not None:
        assert bool(fixes_of(build(loud), code)) is fixed
    return after


def state(analysis: Analysis, kind: str, name: str, condition: str) -> Any:
    return next(one for one in getattr(analysis.budget, kind) if one.id == name).states[condition]


def on_pack(**fields: Any) -> Plan:
    given = {"nominal_v": 14.8, "min_v": 6.0, "max_v": 30.0, "brownout_v": 5.0, **fields}
    return plan(devices=[device("cam", "pack-rail", 1.0, **given)])


def test_window_over_begins_at_the_devices_maximum() -> None:
    """Against the full pack, whether a condition has one, which is named then, or none has."""
    top = state(analyse(on_pack()), "devices", "cam", "bench").pin_v
    hit = expect_edge(
        lambda v: on_pack(max_v=v), "window.over", top, over=False, severity="danger", worst="bench", numbers=(top, top)
    )
    assert tuple(hit.by_condition) == ("bench",)

    def flown_low(volts: float) -> Plan:
        cam = device("cam", "pack-rail", 1.0, nominal_v=14.8, min_v=6.0, max_v=volts, brownout_v=5.0)
        return plan(devices=[cam], conditions=[LOW])

    made = solve_plan(flown_low(30.0))
    top = made.most_pin_v(made.plan.device_of["cam"])
    assert top == pytest.approx(16.8, abs=1e-5)
    hit = expect_edge(flown_low, "window.over", top, over=False, severity="danger", worst=None, numbers=(top, top))
    assert hit.by_condition == {}


def test_window_under_goes_from_the_window_to_the_reset_and_to_the_craft() -> None:
    least = state(analyse(on_pack()), "devices", "cam", "low").pin_v
    low = expect_edge(
        lambda v: on_pack(min_v=v, brownout_v=5.0), "window.under", least, over=True, severity="caution", worst="low",
        numbers=(least, least),
    )  # fmt: skip
    assert tuple(low.by_condition) == ("low",)
    reset = {"min_v": least * 1.05, "max_v": 30.0}
    expect_edge(
        lambda v: on_pack(**reset, brownout_v=v), "window.under", least, over=True, severity="fault", quiet="caution",
        worst="low", numbers=(least, least),
    )  # fmt: skip
    expect_edge(
        lambda v: on_pack(**reset, brownout_v=v, keeps_control=True), "window.under", least, over=True, severity="danger",
        quiet="caution", worst="low",
    )  # fmt: skip
    # On the bench a receiver that resets brings nobody down.
    bench = {**LOW, "throttle_frac": 0}
    calm = plan(
        devices=[device("cam", "pack-rail", 1.0, nominal_v=14.8, **reset, brownout_v=least * 1.04, keeps_control=True)],
        conditions=[STILL, bench],
    )
    hit = found(calm, "window.under")
    assert hit is not None
    assert hit.severity == "fault"


def regulated(amps: float = 1.0, kind: str = "buck", **fields: Any) -> Plan:
    return plan(
        rails=[rail("five", 5)],
        supplies=[regulator("reg", kind, "pack-rail", "five", 5.0, **fields)],
        devices=[device("cam", "five", amps)],
    )


def test_window_input_begins_at_the_regulators_maximum() -> None:
    top = state(analyse(regulated()), "supplies", "reg", "bench").in_v
    full = max(top, analyse(regulated()).windows.patterns[0].rails_v["pack-rail"][0])
    expect_edge(
        lambda v: regulated(input_max_v=v), "window.input", full, over=False, severity="danger",
        worst="bench", numbers=(full, full),
    )  # fmt: skip


@pytest.mark.parametrize("derate", [1.0, 0.7])
def test_load_over_begins_at_the_usable_rating_and_thin_a_share_before(derate: float) -> None:
    """3 A of print, less its derating; 15 % of that is the policy's reserve."""
    usable = 3.0 * derate

    def build(amps: float) -> Plan:
        return regulated(amps, derate_frac=derate, current_limit_a=9.0, theta_still_k_w=1, theta_moving_k_w=1)

    first = "caution" if derate < 1 else "fault"
    expect_edge(
        build, "load.over", usable, over=True, severity=first, worst="bench", numbers=(usable, usable), fixed=True
    )
    if derate < 1:
        expect_edge(
            build, "load.over", 3.0, over=True, severity="fault", quiet="caution", worst="bench", numbers=(3.0, usable)
        )
    spare = 0.15 * usable
    expect_edge(
        build, "load.thin", usable - spare, over=True, severity="caution", worst="bench", numbers=(spare, spare)
    )
    assert found(build(usable * (1 + NEAR)), "load.thin") is None  # told once, by what is worse


def test_a_rail_that_cuts_off_in_flight_and_carries_control_is_a_danger() -> None:
    """Over the print is a fault; past the limit the volts fall, and with a receiver on it the craft."""

    def build(amps: float, control: bool = True, style: str = "hiccup") -> Plan:
        return plan(
            rails=[rail("five", 5)],
            supplies=[regulator("reg", "buck", "pack-rail", "five", 5.0, current_limit_a=4.0, limit_style=style)],
            devices=[device("rx", "five", amps, keeps_control=control)],
            conditions=[LOW],
        )

    expect_edge(build, "load.over", 4.0, over=True, severity="danger", quiet="fault", worst="low")
    # Of one that holds its limit “given” may fall 2 % short of “asked” before it counts as cut off.
    expect_edge(lambda amps: build(amps, style="constant"), "load.over", 4.0 / 0.98, over=True, severity="danger", quiet="fault", worst="low")  # fmt: skip
    calm = found(build(6.0, control=False), "load.over")
    assert calm is not None
    assert calm.severity == "fault"


def test_heat_is_told_a_margin_before_the_trip_and_is_a_fault_at_it() -> None:
    """The temperature does not depend on where it trips, so the trip is moved instead."""
    hot = {"kind": "linear", "theta_still_k_w": 6.0, "theta_moving_k_w": 6.0}
    top = state(analyse(regulated(1.0, **hot)), "supplies", "reg", "bench").temp_c
    assert 60 < top < 110
    assert top == pytest.approx(30 + 6.0 * (16.8 - 5) * 1.0, rel=0.02)  # by hand: 11.8 W · 6 K/W over 30 °C
    margin = regulated().policy.hot_margin_k
    expect_edge(
        lambda c: regulated(1.0, trip_c=c, **hot), "heat.trip", top + margin, over=False, severity="caution", worst="bench",
        numbers=(top, top + margin),
    )  # fmt: skip
    expect_edge(
        lambda c: regulated(1.0, trip_c=c, **hot), "heat.trip", top, over=False, severity="fault", quiet="caution",
        worst="bench", numbers=(top, top),
    )  # fmt: skip


def test_thin_headroom_begins_at_the_policys_volt_and_dropout_at_none() -> None:
    """A linear regulator's headroom is what its input has over its set point and its own drop."""

    def build(volts: float) -> Plan:
        return plan(
            rails=[rail("r", 10)],
            supplies=[
                regulator("reg", "linear", "pack-rail", "r", volts, dropout_v=0.3, dropout_ohm=0.0, output_ohm=0.001)
            ],
            devices=[device("cam", "r", 0.1, nominal_v=10, min_v=5, max_v=15, brownout_v=4)],
        )

    low = state(analyse(build(9.0)), "supplies", "reg", "low")
    edge = 9.0 + low.headroom_v
    assert low.headroom_v == pytest.approx(low.in_v - 9.0 - 0.3, abs=0.02)
    expect_edge(build, "headroom.thin", edge - 1.0, over=True, severity="caution", worst="low", numbers=(1.0, 1.0))
    dropped = found(build(edge * 1.002), "headroom.dropout")
    assert dropped is not None
    assert dropped.worst == "low"
    assert found(build(edge * 0.998), "headroom.dropout") is None


def test_wire_drop_begins_at_its_share_of_the_rail() -> None:
    """3 % of 5 V over a pair of 20 AWG: what a hundred millimetres lose is in proportion to their length."""

    def build(length_m: float) -> Plan:
        wire = {"gauge_awg": 20, "length_m": length_m}
        cam = device(
            "cam",
            "five",
            1.0,
            feed={"rail": "five", "wire": wire},
            returns=[{"id": "cam-gnd", "to": "main", "wire": wire}],
        )
        return plan(
            rails=[rail("five", 5)], supplies=[regulator("reg", "buck", "pack-rail", "five", 5.0)], devices=[cam]
        )

    lost = state(analyse(build(1.0)), "devices", "cam", "bench").drop_v
    volts = state(analyse(build(1.0)), "rails", "five", "bench").volts_v
    edge = 0.03 * volts / lost
    assert lost == pytest.approx(2 * 0.0333, rel=0.02)  # 33.3 mΩ/m, ASTM B258 table 1, 20 AWG at 20 °C
    expect_edge(
        build,
        "wire.drop",
        edge,
        over=True,
        severity="caution",
        worst="low",
        numbers=(0.03 * volts, 0.03 * volts),
        fixed=True,
    )


def test_a_regulators_input_is_held_against_a_full_pack_that_no_condition_names() -> None:
    """16.8 V of four full cells, flown low alone: 16.7 V are too few to stand, 16.9 enough."""

    def told(input_max_v: float) -> list[float]:
        made = plan(rails=[rail("five", 5)], supplies=[regulator("a", "buck", "pack-rail", "five", 5.0, input_max_v=input_max_v)], conditions=[LOW])  # fmt: skip
        return [one.compared.observed for one in run_rules(solve_plan(made)) if one.code == "window.input"]

    assert told(16.7) == [pytest.approx(16.8, abs=0.05)]
    assert told(16.9) == []
