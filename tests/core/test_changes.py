"""Better, worse or merely moved: by severity and the sense of a comparison, never by the distance of two numbers."""

from __future__ import annotations

import pytest

from yardmeter import demo
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.checks import RULES
from yardmeter.core.checks.finding import Finding, Sense, Severity, number
from yardmeter.core.checks.registry import rule, run_rules
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan.operations import Remove
from yardmeter.core.review import analyse, changes_between
from yardmeter.core.review.changes import direction_of, finding_changes
from yardmeter.core.review.noise_changes import noise_changes
from yardmeter.core.review.noise_review import review_noise


def found(
    observed: float = 1.0, limit: float = 2.0, sense: Sense | None = "at most", severity: Severity = "caution",
    title: str = "a title", conditions: tuple[str, ...] = ("hover",), by: dict[str, Severity] | None = None,
) -> Finding:  # fmt: skip
    return Finding(
        code="heat.trip", sense=sense, severity=severity, conditions=conditions, worst=conditions[0], elements=("reg",), title=title,
        cause="", remedy="", numbers=(number("observed", observed, "V"), number("limit", limit, "V")), by_condition=by or {},
    )  # fmt: skip


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
        # Numbers that are no comparison only move.
        (found(sense=None), found(5, 2, None, title="another"), "moved"),
        (found(sense=None), found(5, 2, None), None),
    ],
)  # fmt: skip
def test_direction(was: Finding, now: Finding, direction: str | None) -> None:
    assert direction_of(was, now) == direction
    told = [change.direction for change in finding_changes((was,), (now,))]
    assert told == ([direction] if direction else [])


def test_a_finding_that_holds_in_fewer_conditions_says_so() -> None:
    both, one = found(conditions=("a", "b")), found(conditions=("a",))
    assert [c.text for c in finding_changes((both,), (one,))] == ["a title, in 1 condition instead of 2"]
    assert [c.text for c in finding_changes((one,), (both,))] == ["a title, in 2 conditions instead of 1"]
    renamed = found(conditions=("a",), title="another")
    assert [c.text for c in finding_changes((both,), (renamed,))] == ["another"]


def test_what_went_with_its_device_is_no_cure() -> None:
    gone = found()
    assert [c.direction for c in finding_changes((gone,), ())] == ["better"]
    assert finding_changes((gone,), (), {"reg"}) == []


def test_removing_the_only_source_makes_nothing_better() -> None:
    """The receiver falls silent: no ripple, no dip, no overload, and no word of an improvement."""
    plan = demo.plan("marshlight-second-wiring")
    for supply in [s for s in plan.supplies if s.output in ("rail-5v", "bec-5v-rail")]:
        after_plan = apply_edits(plan, [Remove(element=supply.id)])
        before, after = analyse(plan), analyse(after_plan)
        dead = {(d.id, c) for d in after.budget.devices for c, s in d.states.items() if s.verdict == "dead"}
        fed = {d for d, _ in dead} - {
            d.id for d in before.budget.devices if any(s.verdict == "dead" for s in d.states.values())
        }
        noise = noise_changes(
            after_plan, review_noise(solve_conditions(plan)), review_noise(solve_conditions(after_plan)), dead
        )
        told = [c for c in (*changes_between(before, after), *noise) if c.direction == "better"]
        assert not [c.text for c in told if c.element in fed]


def test_every_rule_that_compares_says_which_way() -> None:
    """Only counts that no limit stands beside are without a sense."""
    without = {code for code, one in RULES.items() if one.sense is None}
    assert without == {
        "failure.single",
        "noise.absent",
        "signal.pinout",
        "source.cascade",
        "source.several",
        "source.strap",
    }


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
    for finding in analyse(demo.plan(name)).findings:
        short = finding.short_of
        assert short is None or short > -1e-6 or finding.code in early, (finding.code, finding.numbers)


def test_the_registry_stamps_codes_and_refuses_what_has_no_number(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("yardmeter.core.checks.registry.RULES", {})
    own = found().model_copy(update={"code": "", "sense": None})
    rule("x.one", sense="at least")(lambda _case: [own])
    rule("x.two", noise=True)(lambda _case: [own.model_copy(update={"sense": "equal"})])
    assert [(f.code, f.sense) for f in run_rules(None)] == [("x.one", "at least")]
    assert [(f.code, f.sense) for f in run_rules(None, noise=True)] == [("x.two", "equal")]
    for wrong in (own.model_copy(update={"numbers": ()}), own.model_copy(update={"code": "other"})):
        rule(f"x.{len(wrong.numbers)}")(lambda _case, wrong=wrong: [wrong])
        with pytest.raises(RuntimeError, match="without a number or under a code of its own"):
            run_rules(None)
        monkeypatch.setattr("yardmeter.core.checks.registry.RULES", {})
