"""Better, worse or merely moved: by severity and the sense of a comparison, never by the distance of two numbers."""

from __future__ import annotations

from dataclasses import dataclass, replace

import pytest

from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.checks.registry import rule, run_rules
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan.operations import Remove
from yardmeter.core.verdict import Comparison, Facts, Sense, Severity, Verdict, direction_of, worst_of
from yardmeter.review import changes_between, review
from yardmeter.review.changes import finding_changes
from yardmeter.review.noise_changes import noise_changes
from yardmeter.review.noise_review import review_noise
from yardmeter.words.told import Finding


@dataclass(frozen=True)
class Empty(Facts):
    pass


def found(
    observed: float = 1.0, limit: float = 2.0, sense: Sense = "at most", severity: Severity = "caution",
    conditions: tuple[str, ...] = ("hover",), by: dict[str, Severity] | None = None,
) -> Verdict:  # fmt: skip
    weights: dict[str, Severity] = dict.fromkeys(conditions, severity) | (by or {})
    worst = conditions[0] if conditions else None
    return Verdict(severity, ("reg",), Comparison(observed, limit, "V"), Empty(), weights, worst, code="x", sense=sense)


def told(verdict: Verdict, title: str = "a title") -> tuple[Verdict, Finding]:
    words = Finding(
        key=verdict.key, code=verdict.code, sense=verdict.sense or "equal", severity=verdict.severity, by_condition={},
        worst=verdict.worst, elements=verdict.elements, title=title, cause="", remedy="", numbers=(), proposed=0,
    )  # fmt: skip
    return verdict, words


@pytest.mark.parametrize(
    ("was", "now", "direction"),
    [
        # A regulator that goes from 135 to 146 °C of 150 comes nearer to its trip: its two numbers approach each other.
        (found(135, 150), found(146, 150), "worse"),
        (found(146, 150), found(135, 150), "better"),
        # A second ground takes a signal from 3.75 to 21 mV of a margin of 10.
        (found(0.00375, 0.01), found(0.021, 0.01), "worse"),
        (found(4.9, 5.0, "at least"), found(4.5, 5.0, "at least"), "worse"),
        (found(4.5, 5.0, "at least"), found(4.9, 5.0, "at least"), "better"),
        (found(2, 1, "equal"), found(0, 1, "equal"), None),
        (found(3, 1, "equal"), found(2, 1, "equal"), "better"),
        # The limit moves instead: the same observed is further over a lower one.
        (found(5, 4), found(5, 3), "worse"),
        (found(5, 0), found(6, 0), "worse"),
        # A thousandth of the limit is no news, a little more is.
        (found(1.0, 2.0), found(1.0019, 2.0), None),
        (found(1.0, 2.0), found(1.0021, 2.0), "worse"),
        # Severity goes before any number, told even where the title stays.
        (found(9, 2, severity="fault"), found(1, 2, severity="danger"), "worse"),
        (found(1, 2, severity="danger"), found(9, 2, severity="note"), "better"),
        # So does the severity in a condition that is not the worst, and a condition more or less.
        (found(conditions=("a", "b"), by={"b": "note"}), found(conditions=("a", "b")), "worse"),
        (found(conditions=("a", "b")), found(conditions=("a",)), "better"),
        (found(conditions=("a", "b")), found(conditions=("a", "c")), None),
        # What is true whatever the condition is true in each of them.
        (found(conditions=()), found(conditions=("a", "b")), None),
        (found(conditions=()), found(severity="note", conditions=()), "better"),
    ],
)  # fmt: skip
def test_direction(was: Verdict, now: Verdict, direction: str | None) -> None:
    assert direction_of(was, now) == direction
    changes = [change.direction for change in finding_changes((told(was),), (told(now),))]
    assert changes == ([direction] if direction else [])


def test_a_finding_that_holds_in_fewer_conditions_says_so() -> None:
    both, one = told(found(conditions=("a", "b"))), told(found(conditions=("a",)))
    assert [c.text for c in finding_changes((both,), (one,))] == ["a title, in 1 condition instead of 2"]
    assert [c.text for c in finding_changes((one,), (both,))] == ["a title, in 2 conditions instead of 1"]
    renamed = told(found(conditions=("a",)), "another")
    assert [(c.direction, c.text) for c in finding_changes((both,), (renamed,))] == [("better", "another")]
    same = told(found(), "another")
    assert [(c.direction, c.text) for c in finding_changes((told(found()),), (same,))] == [("moved", "another")]


def test_what_went_with_its_device_is_no_cure() -> None:
    gone = told(found())
    assert [c.direction for c in finding_changes((gone,), ())] == ["better"]
    assert finding_changes((gone,), (), {"reg"}) == []


def test_removing_the_only_source_makes_nothing_better() -> None:
    """The receiver falls silent: no ripple, no dip, no overload, and no word of an improvement."""
    plan = demo.plan("marshlight-second-wiring")
    for supply in [s for s in plan.supplies if s.output in ("rail-5v", "bec-5v-rail")]:
        after_plan = apply_edits(plan, [Remove(element=supply.id)])
        before, after = review(plan), review(after_plan)
        dead = {(d.id, c) for d in after.solved.budget.devices for c, s in d.states.items() if s.verdict == "dead"}
        fed = {d for d, _ in dead} - {
            d.id for d in before.solved.budget.devices if any(s.verdict == "dead" for s in d.states.values())
        }
        noise = noise_changes(after_plan, review_noise(before.solved.solved), review_noise(after.solved.solved), dead)
        better = [c for c in (*changes_between(before, after), *noise) if c.direction == "better"]
        assert not [c.text for c in better if c.element in fed]


@pytest.mark.parametrize("name", [n.removesuffix(".json") for d in demo.DEMOS for n in d.files])
def test_every_finding_of_the_demos_breaks_its_comparison(name: str) -> None:
    """A finding whose comparison is kept was registered with the wrong sense, or fires where it should not."""
    early = {
        "ground.shift",
        "signal.ground",
        "heat.still",
        "data.guess",
        "ground.loop",
    }  # told before the limit is reached
    for one in review(demo.plan(name)).verdicts:
        warned = one.code == "heat.trip" and one.severity == "caution"  # hot, and not yet off
        assert one.short_of > -1e-6 or one.code in early or warned, (one.code, one.compared)
        assert one.severity == (worst_of(one.by_condition) if one.by_condition else one.severity)
        assert one.worst is None or one.worst in one.by_condition or not one.by_condition


def test_the_registry_stamps_codes_and_refuses_what_is_not_the_rules_own(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("yardmeter.core.checks.registry.RULES", {})
    own = replace(found(), code="", sense=None)
    rule("x.one", Empty, sense="at least")(lambda _case: [own])
    rule("x.two", Empty, sense="at most", sees="noise")(lambda _case: [replace(own, sense="equal")])
    assert [(v.code, v.sense) for v in run_rules(None)] == [("x.one", "at least")]
    assert [(v.code, v.sense) for v in run_rules(None, sees="noise")] == [("x.two", "equal")]
    with pytest.raises(RuntimeError, match="registered twice"):
        rule("x.one", Empty, sense="at most")(lambda _case: [])
    for code, wrong in (("x.3", replace(own, facts=Facts())), ("x.4", replace(own, code="other"))):
        rule(code, Empty, sense="at most")(lambda _case, wrong=wrong: [wrong])
        with pytest.raises(RuntimeError, match="a verdict that is not its own"):
            run_rules(None)
        monkeypatch.setattr("yardmeter.core.checks.registry.RULES", {})


def test_a_rail_that_is_new_hides_no_change_of_the_next() -> None:
    """A linear behind the 5 V rail stands before the 9 V one in the order of the yard; what is added there is told."""
    rails = [rail("five", 5), rail("nine", 9)]
    bucks = [regulator("a", "buck", "pack-rail", "five", 5.0), regulator("b", "buck", "pack-rail", "nine", 9.0)]
    was = plan(rails=rails, supplies=bucks, devices=[device("d", "nine", 0.2, min_v=4, max_v=12)])
    linear = regulator("l", "linear", "five", "three", 3.3)
    now = plan(rails=[*rails, rail("three", 3.3)], supplies=[*bucks, linear], devices=[device("d", "nine", 0.7, min_v=4, max_v=12)])  # fmt: skip
    texts = [one.text for one in changes_between(review(was), review(now))]
    assert "nine rail: spare 2.80 A → 2.30 A" in texts
