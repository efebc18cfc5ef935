"""What a move would do, told while it hovers; and rails that nobody uses, of which nothing is said."""

from __future__ import annotations

from typing import Any

import pytest

from tests.plans import LOW, STILL, device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Move
from yardmeter.review import analyse, review
from yardmeter.review.tried_moves import MoveTried, try_move

USB = {"id": "usb", "name": "USB", "kind": "usb", "rail": "port", "limit_a": 0.5}
EFF = {"efficiency": [{"amps": 1, "efficiency_frac": 0.9}]}


def tried(made: Plan, rail_id: str, condition: str | None = None) -> MoveTried:
    move = Move(device="d", rail=rail_id)
    return try_move(review(made), review(apply_edits(made, [move])), move, condition)


def yard(least_v: float = 4.5) -> Plan:
    """5 V and 3.3 V bucks of 2 and 1 A on the pack, a port that only a computer feeds, a camera of 0.4 A and 1 A at its peak."""
    return plan(
        rails=[rail("five", 5), rail("three", 3.3), rail("port", 5)],
        supplies=[
            regulator("a", "buck", "pack-rail", "five", 5.0, rating_a=2, **EFF),
            regulator("b", "buck", "pack-rail", "three", 3.3, rating_a=1, **EFF),
        ],
        devices=[device("d", "five", 0.4, peak=0.6, min_v=least_v)],
        inlets=[USB],
    )


def test_a_move_below_the_window_says_so_and_one_above_it_is_refused() -> None:
    low, high = tried(yard(), "three"), tried(yard(), "pack-rail")
    assert low.refused is None
    assert low.against is not None
    assert low.against == "3.29 V in Low punch, it needs 4.5 V"
    assert high.refused == "Refused: D would get 16.8 V in Bench, it takes 5.5 V"


def test_spare_amps_are_told_of_the_worst_condition_on_the_pack_and_never_of_nothing() -> None:
    """At its peak it takes 0.6 A: of 2 A usable 2 − 0.6 is left before it goes, all of it after; of 1 A, 0.4."""
    found = tried(yard(least_v=3.0), "three")
    assert found.spare["three"].condition == "low"
    assert (found.spare["three"].now_a, found.spare["three"].then_a) == (pytest.approx(1.0), pytest.approx(0.4))
    assert (found.spare["five"].now_a, found.spare["five"].then_a) == (pytest.approx(1.4), pytest.approx(2.0))
    assert "in Low punch" in found.words
    port = tried(yard(), "port")
    assert set(port.spare) == {"five"}
    assert "0 A → 0 A" not in port.words
    assert tried(yard(), "three", "bench").spare["three"].condition == "bench"


def low_regulator(kind: str, **more: Any) -> dict[str, Any]:
    return regulator("b", kind, "pack-rail", "twelve", 12.0, **EFF, **more)


CASES: dict[str, tuple[dict[str, Any], int]] = {
    "headroom.dropout": (low_regulator("buck"), 3),
    "headroom.thin": (low_regulator("buck", dropout_v=1.5, dropout_ohm=0.0), 4),
    "headroom.boost": (low_regulator("buck"), 2),
    "headroom.start": (low_regulator("buck", start_v=20.0, stop_v=18.0), 4),
}


@pytest.mark.parametrize("code", CASES)
def test_a_rail_that_nobody_uses_gets_no_finding(code: str) -> None:
    """Told with the camera on, also behind a second regulator; not with it off, nor with nothing there."""
    supply, series = CASES[code]
    off = [{**one, "states": {"d": "off"}} for one in (STILL, LOW)]
    second = regulator("c", "linear", "twelve", "five", 5.0)

    def codes(devices: list[dict[str, Any]], conditions: list[dict[str, Any]]) -> set[str]:
        made = plan(series=series, rails=[rail("twelve", 12), rail("five", 5)], supplies=[supply, second], devices=devices, conditions=conditions)  # fmt: skip
        return {f.code for f in analyse(made).findings if "b" in f.elements}

    direct = device("d", "twelve", 0.2, nominal_v=12, min_v=5, max_v=20)
    behind = device("d", "five", 0.2, min_v=2)
    assert code in codes([direct], [STILL, LOW])
    assert code in codes([behind], [STILL, LOW])
    assert codes([direct], off) == set()
    assert codes([], [STILL, LOW]) == set()


def test_a_move_takes_the_ground_along_and_a_signal_loses_one_that_no_longer_runs_beside_it() -> None:
    """A receiver goes from the controller's 5 V to the sender's own output, whose minus is the sender's."""
    made = demo.plan("marshlight-as-soldered")
    output = next(r.id for r in made.rails if made.ground_of(r.id) == "sender")
    lines = {s.id: s.ground for s in made.signals}
    moved = apply_edits(made, [Move(device="receiver", rail=output)])
    (back,) = moved.device_of["receiver"].returns
    assert (back.id, back.to) == ("receiver-gnd", "sender")
    lost = {s.id for s in moved.signals if s.ground != lines[s.id]}
    assert lost == {s.id for s in made.signals if s.ground == "receiver-gnd"} != set()
    assert {s.ground for s in moved.signals if s.id in lost} == {None}
    # Where it still ends at the signal's other end, it stays its ground; moved back, it ends there again.
    again = apply_edits(moved, [Move(device="receiver", rail="rail-5v")])
    assert again.device_of["receiver"].returns == made.device_of["receiver"].returns
    elsewhere = apply_edits(made, [Move(device="receiver", rail="rail-12v")])
    assert {s.id: s.ground for s in elsewhere.signals} == lines
