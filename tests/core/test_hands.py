"""Hands that go through whole lists, on builds with every dangerous fault and on sound ones at the edges of their bands.

The whole of it is in `./yard bench`; here a sample that is enough to see it break.
"""

from __future__ import annotations

import itertools
import random
from collections.abc import Iterable

import pytest

from tools.random_plans import random_plan
from yardmeter import demo
from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.faults import find_fault, powered_twin
from yardmeter.core.procedures import checklist
from yardmeter.core.search import Signatures
from yardmeter.core.search.hands import MISHAPS, entered, shown_to, stopped
from yardmeter.core.search.played import play
from yardmeter.core.search.twin import Twin


@pytest.fixture(scope="module", params=["culvert-lights-on", "wren-boosted-logic", 4, 7], ids=str)
def known(request: pytest.FixtureRequest) -> Signatures:
    """Of a demo by its name, or of a random plan by its number."""
    one: str | int = request.param
    plan = demo.plan(one) if isinstance(one, str) else random_plan(one, devices=5)
    return Signatures(checklist(solve_plan(plan)))


def test_no_gate_is_passed_with_a_danger_in_the_build(known: Signatures) -> None:
    """Meter and limiter stop all, blind hands included, but what no meter sees: for that there is a look of its own."""
    plan = known.made.solved.plan
    dangerous = [one for one, would in zip(known.faults, known.consequences, strict=True) if would.dangerous]
    assert len(dangerous) > 5
    for k, fault in list(enumerate(dangerous))[::3]:
        twin = Twin(plan, (fault,), seed=k)
        assert stopped(known, twin, fault).by, fault.id
        blind = stopped(known, twin, fault, eyes=False).by
        assert blind or fault.kind == "capacitor reversed", fault.id


def test_whatever_is_over_its_limit_under_power_is_called_dangerous(known: Signatures) -> None:
    """At any distance: the powered twin of each fault is solved on every pack condition, and the pins of all devices looked at."""
    plan = known.made.solved.plan
    on_pack = tuple(one for one in plan.conditions if one.on_pack)
    sound = solve_conditions(plan)

    def over(solved: Solved, names: Iterable[str]) -> set[str]:
        views = [solved.given[c.id] for c in on_pack if solved.given[c.id].converged]
        return {n for n in names for view in views if view.pin_v(n) > 1.001 * plan.device_of[n].max_v}

    before = over(sound, plan.device_of)
    for fault, would in zip(known.faults, known.consequences, strict=True):
        if fault.kind not in ("regulator shorted", "wrong pad", "wrong strap", "whisker") or would.dangerous:
            continue
        twin = powered_twin(plan, fault)
        found = over(
            solve_conditions(twin.model_copy(update={"conditions": on_pack})),
            twin.device_of.keys() & plan.device_of.keys(),
        )
        assert found <= before, (fault.id, found - before)


def test_hands_without_a_list_meet_what_it_would_have_stopped(known: Signatures) -> None:
    """What stops the hands is the list: with its unpowered steps taken away a short behind a regulator reaches the limiter."""
    shorted = find_fault(known.made.table, next(one.id for one in known.faults if one.kind == "short"))
    bare = Signatures(checklist(solve_plan(known.made.solved.plan)), known.faults)
    bare.made.steps = tuple(one for one in bare.made.steps if one.gate == "limiter")
    assert stopped(bare, Twin(known.made.solved.plan, (shorted,), seed=1), shorted).by == "limiter"
    assert stopped(known, Twin(known.made.solved.plan, (shorted,), seed=1), shorted).by == "meter"


def test_nothing_enters_itself_at_a_place_that_was_not_touched(known: Signatures) -> None:
    """Between any two steps that follow each other, with a meter that stays, changes its range or its mode, or is late."""
    rng = random.Random(1)
    twin = Twin(known.made.solved.plan)
    steps = [known.made.step[name] for name in known.steps]
    values = dict(zip(known.steps, twin.shows_all([(s.red, s.black) for s in steps if s.red and s.black]), strict=True))
    own = 0
    for before, step in itertools.pairwise(steps):
        for mishap in MISHAPS:
            shown = shown_to(rng, mishap, values[before.id], values[step.id], None)
            said = entered(step, shown)
            if mishap in ("stays", "range", "mode"):
                assert said == "nothing", (step.id, mishap, said)
            elif mishap in ("none", "late"):
                assert said == "nothing" or said == values[step.id], (step.id, mishap, said)
            own += mishap == "none" and said == values[step.id]
    assert own > 0.95 * (len(steps) - 1)  # and what was touched does enter itself


def test_sound_builds_at_the_edges_of_their_bands_are_told_no_fault(known: Signatures) -> None:
    plan = known.made.solved.plan
    told = [play(known, Twin(plan, (), seed=k, at_edges=True)).named for k in range(12)]
    assert told == [None] * 12
