"""The bench list against every fault of the demo builds: what it finds before full power, and whom it suspects."""

from __future__ import annotations

import math

import pytest

from tests.core.test_faults import craft
from tests.plans import device, plan
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.errors import QuantityError
from yardmeter.core.faults import Fault, consequence, every_fault, faulted
from yardmeter.core.probing.reading import read_many
from yardmeter.core.procedures import Checklist, Step, checklist, judge, sound_of, typed_reading

UNPOWERED = ("plug", "rails", "branches", "grounds", "cross", "pins")


def caught_by(made: Checklist, fault: Fault) -> list[Step]:
    """Unpowered steps that do not pass with the fault in the build, at its usual values."""
    table = faulted(made.table, fault)
    probed = [(s, s.red, s.black) for s in made.steps if s.gate in UNPOWERED and s.red and s.black]
    steps = [step for step, _, _ in probed]
    readings = read_many(table, [(red, black) for _, red, black in probed], "ohms")
    return [s for s, r in zip(steps, readings, strict=True) if not judge(s, r.usual if r.usual < 4e7 else None).passed]


@pytest.mark.parametrize("name", ["wren-boosted-logic", "heathwatch-own-supply"])
def test_a_sound_build_passes_every_step_at_every_corner(name: str) -> None:
    made = checklist(solve_plan(demo.plan(name)))
    for step in made.steps:
        found = step.expected
        if found is None or found.mode == "amps":
            continue
        for value in (found.low, found.usual, found.high if found.high is not None else math.inf):
            assert judge(step, value).passed, (step.id, value, step.least, step.most)


@pytest.mark.parametrize("name", ["wren-boosted-logic", "culvert-lights-on"])
def test_dangerous_faults_that_show_without_power_are_found_without_power(name: str) -> None:
    """A regulator that is dead only once it runs, a wire swapped at the pack's plug: those are for the eyes and the limiter."""
    solved = solve_plan(demo.plan(name))
    made = checklist(solved)
    faults = [f for f in every_fault(made.table) if f.traced and consequence(made.table, solved, f).dangerous]
    missed = [fault.id for fault in faults if not caught_by(made, fault)]
    assert len(missed) <= 0.05 * len(faults), (len(missed), len(faults), missed)


def test_what_passes_is_bounded_on_both_sides() -> None:
    made = checklist(solve_plan(craft()))
    limiter = made.step["limiter-first"]
    amps = min(head.pack_a for head in made.solved.budget.conditions)
    assert judge(limiter, 1.29 * amps).passed
    assert not judge(limiter, 1.4 * amps + 0.05).passed
    five = made.step["volts-five"]
    # 5 V within 3 % and the meter: 4.82 to 5.18 V.
    assert [judge(five, v).reason for v in (4.78, 4.85, 5.15, 5.22)] == ["low", "", "", "high"]
    # What a computer leaves, 30 to 200 Ω, is no short: half of its least passes, a tenth does not.
    busy = checklist(
        solve_plan(plan(devices=[device("c", "pack-rail", 0.2, kind="computer", nominal_v=14, min_v=6, max_v=20)]))
    )
    plug = busy.step["plug-forward"]
    assert judge(plug, 20).passed
    assert not judge(plug, 3).passed


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("0.3", 0.3),
        ("1,2k", 1200.0),
        ("4R7", 4.7),
        ("OL", None),
        ("silent", None),
        ("beep", 0.1),
        ("chirp", None),
        ("2 MΩ", 2e6),
    ],
)
def test_readings_are_typed_as_a_meter_shows_them(text: str, value: float | None) -> None:
    assert typed_reading("Ω", text) == value


def test_what_is_no_reading_is_refused() -> None:
    assert typed_reading("V", "-4.9") == -4.9
    with pytest.raises(QuantityError):
        typed_reading("Ω", "35m")
    for text in ("beep", "5 A", "", "five"):
        with pytest.raises(QuantityError):
            typed_reading("V", text)
    for unit, text in (
        ("Ω", "1e999"),
        ("Ω", "nan"),
        ("Ω", "999999999999 MΩ"),
        ("V", "1e9"),
        ("V", "-2000"),
        ("A", "inf"),
    ):
        with pytest.raises(QuantityError):
            typed_reading(unit, text)
    # Over range on ohms is open; on continuity, or where it was only heard, it is no more than silence.
    heard = [
        sound_of(mode, text)
        for mode, text in (("ohms", "OL"), ("beep", "OL"), ("ohms", "silent"), ("beep", "yes"), ("beep", "0.4"))
    ]
    assert heard == ["", "silent", "silent", "beep", ""]
