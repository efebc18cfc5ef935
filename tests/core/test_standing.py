"""What is kept over an edit is what a fresh analysis says: random edits of draws and of all else, one after the other."""

from __future__ import annotations

import random

import pytest

from tests.builds import random_build
from tests.core.crowded import crowded
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.answers.standing import standing
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import SetValue
from yardmeter.review import review

CHAINS = [
    *(("marshlight-as-soldered", seed) for seed in range(2)),
    ("wren-straight-from-the-cell", 2),
    ("culvert-first-wiring", 3),
    ("crowded", 4),
    *((f"random {seed}", seed) for seed in (11, 23, 42)),
]
EDITS = 12


def built(name: str) -> Plan:
    if name == "crowded":
        return crowded()
    return random_build(int(name.split()[1])) if name.startswith("random") else demo.plan(name)


def edited(made: Plan, rng: random.Random) -> Plan:
    """One edit: mostly of a draw, by a little or by so much that something gives up; else of what is not a draw at all."""
    device = rng.choice(made.devices)
    state = rng.choice(["idle", "typical", "peak"])
    value = getattr(device.draws, state).value
    factor = rng.choice([0.0, 0.5, 0.97, 1.05, 1.6, 4.0, 20.0])
    edits = [SetValue(element=device.id, field=f"draws.{state}.value", value=value * factor or 0.1)]
    match rng.randrange(8):
        case 0 if device.feed:
            edits = [SetValue(element=device.id, field="feed.wire.length_m", value=rng.uniform(0.05, 0.4))]
        case 1:
            edits = [SetValue(element=device.id, field=f"draws.{state}.provenance", value=rng.choice(["guess", "sheet", "measured"]))]  # fmt: skip
        case 2:
            edits = [SetValue(element="pack", field="cell_ohm", value=made.pack.cell_ohm * rng.uniform(0.8, 1.3))]
    return apply_edits(made, edits)


@pytest.mark.parametrize(("name", "seed"), CHAINS)
def test_what_is_kept_is_what_a_fresh_analysis_says(name: str, seed: int) -> None:
    """Every number and every finding, after each of a row of edits (570 were tried once, `EDITS = 76`)."""
    rng = random.Random(seed)
    made, before, kept = built(name), None, 0
    for _ in range(EDITS if name != "crowded" else 8):
        try:
            after = edited(made, rng)
        except YardError:
            continue
        chained = review(after, before)
        if before is not None:
            stands = standing(after, before.plan)
            kept += 0 < len(stands) < len(after.conditions)
        fresh = review(Plan.model_validate(after.model_dump()))
        assert chained.analysis == fresh.analysis
        made, before = after, chained
    assert kept > 1, "nothing was ever kept beside something that was not"


@pytest.mark.parametrize(
    ("field", "value", "changes"),
    [
        ("draws.peak.value", 2.0, {"punch-fresh", "punch-low"}),
        ("draws.typical.value", 0.3, {"hover", "pack-bench", "landing"}),
        ("min_v", 4.4, None),
        ("feed.wire.gauge_awg", 22, None),
    ],
)
def test_a_condition_stands_where_it_reads_nothing_of_what_was_changed(
    field: str, value: float, changes: set[str] | None
) -> None:
    made = demo.plan("marshlight-as-soldered")
    states = {c.id: c.state_of("recorder") for c in made.conditions}
    changed = standing(apply_edits(made, [SetValue(element="recorder", field=field, value=value)]), made)
    if changes is None:
        assert not changed
    else:
        state = field.split(".")[1]
        assert changed == {c for c, own in states.items() if own != state}
        assert changed


def test_a_burst_reads_what_it_falls_back_to() -> None:
    made = demo.plan("marshlight-as-soldered")
    strobe = next(one for one in made.devices if one.burst)
    at_peak = {c.id for c in made.conditions if c.state_of(strobe.id) == "peak"}
    idle = {c.id for c in made.conditions if c.state_of(strobe.id) == "idle"}
    off = {c.id for c in made.conditions if c.state_of(strobe.id) == "off"}
    changed = apply_edits(made, [SetValue(element=strobe.id, field="draws.idle.value", value=0.02)])
    left = standing(changed, made)
    assert at_peak
    assert not left & (at_peak | idle)
    typical = apply_edits(made, [SetValue(element=strobe.id, field="draws.typical.provenance", value="guess")])
    assert not standing(typical, made) & off, "what is off shows whose word its typical draw is"


def test_what_was_solved_before_is_taken_and_not_solved_again(monkeypatch: pytest.MonkeyPatch) -> None:
    from yardmeter.core.answers import standing as kept
    from yardmeter.core.solver.dc import solve_dc

    made = demo.plan("marshlight-as-soldered")
    before = solve_plan(made)
    assert before.budget
    assert before.windows
    rows: list[int] = []

    def counted(circuit, *rest):  # type: ignore[no-untyped-def]
        rows.append(circuit.rows)
        return solve_dc(circuit, *rest)

    monkeypatch.setattr(kept, "solve_dc", counted)
    after = solve_plan(apply_edits(made, [SetValue(element="recorder", field="draws.peak.value", value=2.0)]), before)
    peaks = sum(c.state_of("recorder") == "peak" for c in made.conditions)
    assert peaks <= sum(rows) <= 2 * peaks, "each once, and once more where a burst is averaged"
    for c in made.conditions:
        if c.state_of("recorder") != "peak":
            assert after.rail("pack-rail").states[c.id] is before.rail("pack-rail").states[c.id]
