"""What cures a cause that is in the plan itself: every change tried on the plan, and kept where the symptom goes and nothing as bad comes."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial

from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.heat import HotWhenStill
from yardmeter.core.checks.noise_case import noise_case
from yardmeter.core.checks.relief import cooler_fixes, feed_fixes, move_fixes, relief_fixes
from yardmeter.core.diagnosis.causes import Cause
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.observed import Looks, Observed, Observer
from yardmeter.core.diagnosis.situations import ROW_OF
from yardmeter.core.diagnosis.weighing import Complaint
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.verdict import SEVERITY_ORDER, Comparison, Fix, Verdict, under

HALVED = 0.5
"""A cure leaves less than this of the symptom's chance; our choice."""
MOST = 4


@dataclass(frozen=True)
class Remedy:
    """A change that cures, with the symptom's chance before and after and the temperature of a regulator that tripped."""

    fix: Fix
    before: float
    after: float
    was_c: float | None = None
    now_c: float | None = None


WithParts = Callable[[Plan, Sequence[Verdict]], Sequence[Verdict]]


def remedies(
    known: Known, complaint: Complaint, cause: Cause, with_parts: WithParts | None = None
) -> tuple[Remedy, ...]:
    """Those that cure, least left first. `with_parts` puts parts of the shelf in the place of generic ones."""
    if not cause.foreseen and cause.kind not in ("draws more",):
        return ()
    proposed = [_verdict(known, cause), *_found(known, cause)]
    if with_parts:
        proposed = list(with_parts(known.plan, proposed))
    found: dict[tuple[str, ...], Remedy] = {}
    for verdict in proposed:
        for fix in verdict.fixes:
            key = tuple(one.model_dump_json() for one in fix.edits)
            if key not in found and len(found) < 3 * MOST:
                made = known.once((complaint.symptom.id, complaint.where, cause.id, *key), partial(_tried, known, complaint, cause, fix))  # fmt: skip
                if made:
                    found[key] = made
    return tuple(sorted(found.values(), key=lambda one: (one.after, len(one.fix.edits)))[:MOST])


def _verdict(known: Known, cause: Cause) -> Verdict:
    """What the cause would be as a finding, with what relieves it."""
    fixes = tuple(_proposed(known, cause))
    condition = known.plan.conditions[0].id
    return under({condition: "caution"}, condition, cause.elements[:1], Comparison(0, 0, ""), HotWhenStill(0, 0), fixes).stamped("heat.still", "at most")  # fmt: skip


def _proposed(known: Known, cause: Cause) -> Iterator[Fix]:
    case, plan = known.solved, known.plan
    name = cause.elements[0]
    worst = next((c.id for c in plan.conditions if c.on_pack), plan.conditions[0].id)
    supply = plan.supply_of.get(name)
    device = plan.device_of.get(name)
    if isinstance(supply, Regulator):
        yield from cooler_fixes(case, supply, worst)
        if cause.kind == "dropout":
            yield from feed_fixes(case, supply)
        if supply.output in plan.rail_of:
            yield from relief_fixes(case, plan.rail_of[supply.output], worst)
    if device is not None and device.feed:
        yield from move_fixes(case, device)


def _found(known: Known, cause: Cause) -> Iterator[Verdict]:
    """Findings about the same elements, with the fixes they propose."""
    about = set(cause.elements)
    for one in (*run_rules(known.solved), *run_rules(noise_case(known.solved.solved), sees="noise")):
        if one.fixes and about & set(one.elements):
            yield one


def _tried(known: Known, complaint: Complaint, cause: Cause, fix: Fix) -> Remedy | None:
    go_on()
    look = complaint.symptom.looks[0]
    try:
        made = apply_edits(known.plan, fix.edits)
        world = Observer(made).look(
            made, Looks(rows=frozenset((ROW_OF.get(look.when, look.when), "bench", "hover")) & set(known.by.conditions))
        )
        before = _share(known.by.planned, complaint)
        after = _share(world, complaint)
        worse = _heavier(known, made)
    except (YardError, KeyError, ValueError):
        return None
    if worse or after > HALVED * before:
        return None
    temps = [w.temps_c.get(cause.elements[0]) for w in (known.by.planned, world)]
    at = known.by.rows.index("warm") if "warm" in known.by.rows else 0
    was, now = (float(t[at]) if t is not None else None for t in temps)
    return Remedy(fix, before, after, was, now)


def _share(world: Observed, complaint: Complaint) -> float:
    look = complaint.symptom.looks[0]
    return world.p(look.obs, look.when, complaint.where)


def _heavier(known: Known, made: Plan) -> bool:
    """Whether a danger or fault came that was not there."""
    was = {one.key: SEVERITY_ORDER[one.severity] for one in run_rules(known.solved)}
    return any(
        one.severity in ("danger", "fault") and was.get(one.key, len(SEVERITY_ORDER)) > SEVERITY_ORDER[one.severity]
        for one in run_rules(solve_plan(made, known.solved))
    )
