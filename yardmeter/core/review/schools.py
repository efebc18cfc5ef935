"""Schools of grounding, computed side by side on this build: the same craft with its grounds run another way."""

from __future__ import annotations

import math
from collections.abc import Sequence

from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.returns import Returns, returns
from yardmeter.core.checks.grounds import VIDEO_KINDS
from yardmeter.core.checks.signals import ground_fix
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.plan import Device, Plan, Signal
from yardmeter.core.plan.operations import Edit, Remove, SetValue
from yardmeter.core.units import format_db, format_si

FULL_PICTURE_V = 0.714
"""Black to white of 1 Vpp video [V]; SMPTE ST 170."""
EQUAL_V = 1e-4
"""Shifts nearer than this count as equal [V]; our choice."""


class SchoolCell(Answer):
    """One number of a way, in SI units; `bad` where it is above what its signal stands."""

    label: str
    text: str
    value: float
    bad: bool = False


class School(Answer):
    """One way to run the grounds: what to edit to get there, and what it gives. Refused where it cannot be built."""

    key: str
    title: str
    edits: tuple[Edit, ...]
    cells: tuple[SchoolCell, ...]
    default: bool = False
    refused: str = ""


class SchoolTable(Answer):
    question: str
    why: str
    schools: tuple[School, ...]


def schools(plan: Plan) -> tuple[SchoolTable, ...]:
    """The questions this build raises: where video grounds go, and whether ESC signals have grounds."""
    tables = []
    built = _try(plan, "built", "as built", ())
    video = _video_parts(plan)
    if video:
        tables.append(_video_table(plan, video, built))
    if any(s.kind == "esc" for s in plan.signals):
        tables.append(_esc_table(plan, built))
    return tuple(tables)


def _video_parts(plan: Plan) -> list[Device]:
    return [d for d in plan.devices if d.kind in VIDEO_KINDS and d.feed and d.returns]


def _video_table(plan: Plan, video: list[Device], built: School) -> SchoolTable:
    star = plan.rail_of[plan.pack.rail].board
    pair = _video_board(plan)
    senders = [d for d in video if d.kind in ("sender", "digital")]
    ways: list[tuple[str, str, dict[str, str]]] = [
        ("star", f"star at {plan.title(star)}", {d.id: star for d in video}),
    ]
    if pair != star:
        ways.append(("pair", f"paired at {plan.title(pair)}", {d.id: pair for d in video}))
    if senders and len(video) > 1:
        chain = {d.id: senders[0].id for d in video if d is not senders[0]}
        ways.append(("chain", f"chained through {senders[0].name}", {**chain, senders[0].id: star}))
    found = [built, *(_way(plan, built, key, title, tuple(_reground(plan, targets))) for key, title, targets in ways)]
    return SchoolTable(
        question="Where do the grounds of the video parts go?",
        why="Default: the way with the least shift of the video references; star when equal.",
        schools=tuple(_mark_default(found)),
    )


def _video_board(plan: Plan) -> str:
    """The board the video passes through; a controller, else the pack's board, where no video signal says."""
    for signal in plan.signals:
        for end in (signal.source, signal.sink):
            owner = plan.owner_of[end]
            if signal.kind == "video" and owner.id in plan.board_of:
                return owner.id
    return next((b.id for b in plan.boards if b.kind == "controller"), plan.rail_of[plan.pack.rail].board)


def _reground(plan: Plan, targets: dict[str, str]) -> list[Edit]:
    """Edits that leave each device one return, to its target; a signal keeps its ground only where that still joins its ends."""
    edits: list[Edit] = []
    kept: dict[str, str] = {}
    for name, to in targets.items():
        first, *others = plan.device_of[name].returns
        edits += [Remove(element=wire.id) for wire in others]
        if first.to != to:
            edits.append(SetValue(element=first.id, field="to", value=to))
        kept[first.id] = to
    for signal in plan.signals:
        if signal.ground in kept and _other_end(plan, signal) != kept[signal.ground or ""]:
            edits.append(SetValue(element=signal.id, field="ground", value=None))
    for signal in plan.signals:
        if signal.kind == "video" and signal.ground is None:
            edits += _take_ground(plan, signal, targets)
    return edits


def _other_end(plan: Plan, signal: Signal) -> str:
    """The end of a signal that its ground wire does not start at."""
    ends = [plan.owner_of[one].id for one in (signal.source, signal.sink)]
    owner = plan.return_of[signal.ground][0] if signal.ground in plan.return_of else ends[0]
    return ends[1] if owner == ends[0] else ends[0]


def _take_ground(plan: Plan, signal: Signal, targets: dict[str, str]) -> list[Edit]:
    """The device's return becomes the signal's ground where it now joins both ends."""
    ends = [plan.owner_of[one].id for one in (signal.source, signal.sink)]
    for one, other in ((ends[0], ends[1]), (ends[1], ends[0])):
        if targets.get(one) == other:
            return [SetValue(element=signal.id, field="ground", value=plan.device_of[one].returns[0].id)]
    return []


def _esc_table(plan: Plan, built: School) -> SchoolTable:
    lines = [s for s in plan.signals if s.kind == "esc"]
    fitted = tuple(dict.fromkeys(s.ground for s in lines if s.ground))
    bare = [s for s in lines if s.ground is None]
    bundles: dict[frozenset[str], list[Signal]] = {}
    for signal in bare:
        bundles.setdefault(frozenset(plan.owner_of[e].id for e in (signal.source, signal.sink)), []).append(signal)
    adding: tuple[Edit, ...] = tuple(e for group in bundles.values() for e in ground_fix(plan, group).edits)
    removing = tuple(Remove(element=one) for one in fitted)
    found = [
        built,
        _way(plan, built, "with", "ground beside each ESC signal", adding),
        _way(plan, built, "without", "no ESC signal grounds", removing),
    ]
    marked = [school.model_copy(update={"default": school.key == ("with" if bare else "built")}) for school in found]
    return SchoolTable(
        question="Does a ground run beside the ESC signals?",
        why="Default: run it, and know the size of the loop it closes.",
        schools=tuple(marked),
    )


def _way(plan: Plan, built: School, key: str, title: str, edits: tuple[Edit, ...]) -> School:
    """A way that needs no edit is what is built."""
    return _try(plan, key, title, edits) if edits else built.model_copy(update={"key": key, "title": title})


def _try(plan: Plan, key: str, title: str, edits: tuple[Edit, ...]) -> School:
    try:
        made = apply_edits(plan, edits) if edits else plan
    except YardError as error:
        return School(key=key, title=title, edits=(), cells=(), refused=error.what)
    return School(key=key, title=title, edits=edits, cells=tuple(_cells(plan, made, returns(solve_conditions(made)))))


def _cells(before: Plan, made: Plan, found: Returns) -> list[SchoolCell]:
    cells = []
    worst_video = worst_esc = 0.0
    for signal in made.signals:
        if signal.kind not in ("video", "esc"):
            continue
        answer = next(one for one in found.signals if one.id == signal.id)
        size = max(abs(s.shift_v) + (0.0 if signal.kind == "video" else s.step_v) for s in answer.states.values())
        if signal.kind == "esc":
            worst_esc = max(worst_esc, size / max(answer.margin_v, 1e-6))
            continue
        worst_video = max(worst_video, size)
        cells.append(SchoolCell(label=signal.name, text=format_si(size, "V"), value=size, bad=size > answer.margin_v))
    if any(s.kind == "video" for s in made.signals):
        level = 20 * math.log10(max(worst_video, 1e-6) / FULL_PICTURE_V)
        bad = worst_video > made.policy.video_shift_v
        cells.append(
            SchoolCell(label="worst shift under full picture", text=format_db(level), value=worst_video, bad=bad)
        )
    if any(s.kind == "esc" for s in made.signals):
        cells.append(
            SchoolCell(
                label="ESC signals, of their margin", text=f"{worst_esc:.0%}", value=worst_esc, bad=worst_esc > 1
            )
        )
    cells.append(SchoolCell(label="loops", text=str(len(found.loops)), value=len(found.loops)))
    area = max((loop.area_m2 for loop in found.loops), default=0.0)
    cells.append(SchoolCell(label="largest loop", text=f"{area * 1e4:.0f} cm²", value=area))
    motors = {d.id for d in made.devices if d.throttle}
    most = max(
        (
            abs(one.amps_a)
            for segment in found.segments
            if segment.owner in made.device_of and made.device_of[segment.owner].kind in VIDEO_KINDS
            for state in segment.states.values()
            for one in state.carries
            if one.element in motors
        ),
        default=0.0,
    )
    cells.append(
        SchoolCell(label="motor current in video returns", text=format_si(most, "A"), value=most, bad=most > 0.02)
    )
    added = _wire_m(made) - _wire_m(before)
    text = "–" if abs(added) < 1e-4 else f"{'+' if added > 0 else '−'}{abs(added) * 1e3:.0f} mm"
    cells.append(SchoolCell(label="ground wire", text=text, value=added))
    return cells


def _wire_m(plan: Plan) -> float:
    return sum(wire.wire.run_m for _, wire in plan.returns())


def _mark_default(found: Sequence[School]) -> list[School]:
    """The way with the least shift; star when it is as good, and what is built when nothing is better."""
    shifts = {s.key: _shift(s) for s in found if not s.refused}
    least = min(shifts.values(), default=0.0)
    equal = [key for key, value in shifts.items() if value <= least + EQUAL_V]
    chosen = "star" if "star" in equal else equal[0] if equal else "built"
    return [school.model_copy(update={"default": school.key == chosen}) for school in found]


def _shift(school: School) -> float:
    return next((c.value for c in school.cells if c.label == "worst shift under full picture"), 0.0)
