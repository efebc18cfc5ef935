"""Parts tried: a part is refused exactly where the rules would speak up once it is fitted, and its numbers are those of the plan with it."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.test_noise import PARTS, flying
from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.edits import apply_edits
from yardmeter.core.parts import Part, load_part
from yardmeter.core.plan import Plan
from yardmeter.core.sizing.filters import FilterTrial, Purpose, try_filters
from yardmeter.review.noise_review import review_noise

BOUNDS = {"noise.capacitor_volts", "noise.saturation", "noise.coil_heat", "noise.unstable"}
"""Rules a part breaks by being too small or in the wrong place, not by taking off too little."""


def broken(made: Plan, trial: FilterTrial) -> set[str]:
    (edit,) = trial.edits
    one = edit.model_dump()["value"]["id"]
    found = review_noise(solve_conditions(apply_edits(made, trial.edits))).review
    answer = next(a for a in found.filters if a.filter == one)
    assert trial.with_v == pytest.approx(answer.with_v)
    assert trial.gain_db == pytest.approx(answer.loudest_db)
    assert trial.drop_v == pytest.approx(answer.drop_v)
    return {f.code for f in found.findings if one in f.elements} & BOUNDS


@pytest.mark.parametrize(
    ("name", "at", "purpose"),
    [
        ("marshlight-as-soldered", "esc-rail", "bulk"),
        ("marshlight-as-soldered", "sender", "feed"),
        ("marshlight-second-wiring", "camera", "local"),
        ("culvert-first-wiring", "digital", "feed"),
        ("culvert-first-wiring", "esc-1-rail", "bulk"),
        ("wren-straight-from-the-cell", "sender", "local"),
    ],
)
def test_refused_is_what_breaks_a_rule(name: str, at: str, purpose: Purpose) -> None:
    made = demo.plan(name)
    trials = try_filters(made, at, purpose, PARTS).trials
    assert trials
    for trial in trials:
        assert bool(trial.refused) == bool(broken(made, trial)), trial.title
    order = [bool(t.refused) for t in trials]
    assert order == sorted(order)
    assert sum(t.best for t in trials) <= 1
    assert not any(t.best and t.refused for t in trials)


def part(kind: str, **values: float) -> Part:
    return load_part({"key": "own", "name": "Own", "kind": kind, "values": values, "weight_g": 1.0}, 2)


@pytest.mark.parametrize(
    ("kind", "purpose", "values", "words", "rule"),
    [
        ("capacitor", "bulk", {"farads": 1e-3, "volts": 16.0}, "16.8 V on a part for 16 V: use the class of 21 V", "noise.capacitor_volts"),
        ("filter", "feed", {"henries": 10e-6, "farads": 1e-4, "volts": 35.0, "sat_a": 0.3}, "saturates it, it holds 0.3 A", "noise.saturation"),
        ("filter", "feed", {"henries": 10e-6, "farads": 1e-4, "volts": 35.0, "sat_a": 3.0, "amps": 0.4}, "warms by", "noise.coil_heat"),
        ("filter", "feed", {"ohms_100mhz": 120.0, "dcr_ohm": 0.1, "amps": 0.3}, "is more than its 0.3 A", "noise.coil_heat"),
        ("filter", "feed", {"henries": 1e-3, "farads": 1e-6, "volts": 35.0, "esr_ohm": 0.001, "sat_a": 9.0, "amps": 9.0}, "it can swing", "noise.unstable"),
    ],
)  # fmt: skip
def test_each_refusal_says_its_numbers(
    kind: str, purpose: Purpose, values: dict[str, Any], words: str, rule: str
) -> None:
    made = flying()
    trials = try_filters(made, "pack-rail" if purpose == "bulk" else "sender", purpose, [part(kind, **values)]).trials
    first = next(t for t in trials if "damped" not in t.title)
    assert words in first.refused
    assert rule in broken(made, first)
    fine = {
        **values,
        "volts": 35.0,
        "sat_a": 9.0,
        "amps": 9.0,
        "farads": max(values.get("farads", 0), 1e-3) if "farads" in values else 0.0,
    }
    if rule == "noise.unstable":
        fine["henries"] = 1e-6
    cured = try_filters(
        made,
        "pack-rail" if purpose == "bulk" else "sender",
        purpose,
        [part(kind, **{k: v for k, v in fine.items() if v})],
    ).trials
    assert not cured[0].refused
