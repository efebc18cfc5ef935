"""A craft while it is being chosen: its rails with what is asked of them, and the worst that can be said of it."""

from __future__ import annotations

from yardmeter.core.answers.model import Answer, RailAnswer, Tone
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.marks import mark_anywhere, mark_in
from yardmeter.core.plan import Plan
from yardmeter.core.verdict import Severity
from yardmeter.review.analysis import Reviewed, review
from yardmeter.review.noise_review import NoiseReviewed, all_findings, review_noise
from yardmeter.words.told import Finding

TOLD = 5
"""Findings shown; the rest is counted."""


class SketchRail(Answer):
    """A rail in the condition in which least of it is left; `depth` is its distance from the pack."""

    id: str
    name: str
    board: str
    depth: int
    condition: str
    volts_v: float
    asked_a: float
    usable_a: float
    tone: Tone
    feeds: tuple[str, ...]


class SketchFinding(Answer):
    severity: Severity
    title: str
    remedy: str


class Sketch(Answer):
    """`waiting` says what is still missing before anything can be worked out."""

    waiting: str = ""
    full_v: float = 0.0
    floor_v: float = 0.0
    rails: tuple[SketchRail, ...] = ()
    findings: tuple[SketchFinding, ...] = ()
    more: int = 0
    boards: tuple[str, ...] = ()


def sketch(plan: Plan) -> Sketch:
    """The plan solved and judged, told in short."""
    found = review(plan)
    return sketch_of(found, review_noise(found.solved.solved))


def sketch_rails(solved: SolvedPlan) -> tuple[SketchRail, ...]:
    """The rails of a solved plan, those of ports left out."""
    ports = {inlet.rail for inlet in solved.plan.inlets if inlet.is_port}
    return tuple(_rail(solved.plan, rail, ports) for rail in solved.budget.rails if rail.id not in ports)


def sketch_of(found: Reviewed, noise: NoiseReviewed) -> Sketch:
    plan = found.plan
    heavy = [one for one in all_findings(found, noise) if one.severity != "note" and one.under is None]
    return Sketch(
        full_v=plan.pack.rest_v("full"),
        floor_v=plan.pack.rest_v("floor"),
        rails=sketch_rails(found.solved),
        findings=tuple(_short(one) for one in heavy[:TOLD]),
        more=max(len(heavy) - TOLD, 0),
        boards=tuple(board.name for board in plan.boards),
    )


class Mark(Answer):
    """The heaviest finding of a condition; none where it is clear."""

    condition: str
    name: str
    severity: Severity | None


class Glance(Answer):
    """A plan at a glance: its marks, its yard in small, and the one next thing."""

    cells: int
    most_a: float
    marks: tuple[Mark, ...]
    always: Severity | None
    """The heaviest of what is true whatever the condition."""
    rails: tuple[SketchRail, ...]
    next: SketchFinding | None
    next_element: str | None
    next_condition: str | None


def glance(found: Reviewed, noise: NoiseReviewed) -> Glance:
    """What the page of builds shows of a plan that is solved, its noise too."""
    plan, analysis = found.plan, found.analysis
    told = all_findings(found, noise)
    first = next((one for one in told if one.severity != "note"), None)
    pack = next(rail for rail in analysis.budget.rails if rail.id == plan.pack.rail)
    so = sketch_of(found, noise)
    return Glance(
        cells=plan.pack.series,
        most_a=max((state.asked_a for state in pack.states.values()), default=0.0),
        marks=tuple(Mark(condition=c.id, name=c.name, severity=mark_in(told, c.id)) for c in plan.conditions),
        always=mark_anywhere(told),
        rails=so.rails,
        next=_short(first) if first else None,
        next_element=first.elements[0] if first and first.elements else None,
        next_condition=first.worst if first else None,
    )


def _rail(plan: Plan, rail: RailAnswer, ports: set[str]) -> SketchRail:
    on_pack = {c.id: rail.states[c.id] for c in plan.conditions if c.on_pack}
    worst = max(on_pack, key=lambda c: on_pack[c].asked_a)
    state = on_pack[worst]
    return SketchRail(
        id=rail.id,
        name=rail.name,
        board=plan.title(rail.board),
        depth=rail.depth,
        condition=plan.condition(worst).name,
        volts_v=state.volts_v,
        asked_a=state.asked_a,
        usable_a=state.usable_a,
        tone=state.tone,
        feeds=(
            *(device.name for device in plan.devices_on(rail.id)),
            *(supply.name for supply in plan.supplies if supply.input == rail.id and supply.output not in ports),
        ),
    )


def _short(finding: Finding) -> SketchFinding:
    return SketchFinding(severity=finding.severity, title=finding.title, remedy=finding.remedy)
