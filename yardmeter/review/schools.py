"""Schools of grounding, computed side by side on this build: the same craft with its grounds run another way."""

from __future__ import annotations

import math
from collections.abc import Sequence

from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.returns import Returns, returns
from yardmeter.core.checks.signal_grounds import ground_fix, without_ground
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import VIDEO_KINDS, Device, Plan, Signal
from yardmeter.core.plan.operations import Edit, Remove, SetValue
from yardmeter.core.units import format_db, format_si

FULL_PICTURE_V = 0.714
"""Black to white of 1 Vpp video [V]; SMPTE ST 170."""
EQUAL_V = 1e-4
"""Changing shifts nearer than this count as equal [V]; our choice."""
STEADY_EQUAL_V = 1e-3
"""Steady shifts nearer than this count as equal [V]: a clamped input takes them off, one that does not shows them; our choice."""
CHANGING, STEADY, WIRE = "worst change under full picture", "worst steady shift", "ground wire"
"""Rows that the choice is made by."""
LEAST_V = 1e-6
"""What is less than this is nothing [V]."""


class SchoolCell(Answer):
    """One number of a way, in SI units; `bad` where it is above what its signal stands."""

    label: str
    text: str
    value: float
    bad: bool = False


class School(Answer):
    """One way to build it: what to edit to get there, and what it gives. Refused where it cannot be built.

    `against` is what speaks against one that can.
    """

    key: str
    title: str
    edits: tuple[Edit, ...]
    cells: tuple[SchoolCell, ...]
    default: bool = False
    refused: str = ""
    against: str = ""


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
        why=(
            "Default: the way with the least change in the video references; of equal ones the least steady shift,"
            " which only an input without a clamp shows; then the least to do."
        ),
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
    bundles = [group for (_, kind), group in without_ground(plan).items() if kind == "esc"]
    adding: tuple[Edit, ...] = tuple(e for group in bundles for e in ground_fix(plan, group).edits)
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
    solved = solve_conditions(made)
    if refused := _why_not(plan, made, solved):
        return School(key=key, title=title, edits=(), cells=(), refused=refused)
    return School(key=key, title=title, edits=edits, cells=tuple(_cells(plan, made, returns(solved))))


def _why_not(plan: Plan, made: Plan, solved: Solved) -> str:
    """Why a way cannot be built: it takes something's ground away, or leaves a condition without an operating point."""
    cut = [one for one in graph_of(made).ungrounded() if one not in set(graph_of(plan).ungrounded())]
    if cut:
        names = ", ".join(made.title(one) for one in cut[:3]) + (f" and {len(cut) - 3} more" if len(cut) > 3 else "")
        return f"{names} would have no way back to the pack"
    lost = [c.name for c in made.conditions if not solved.given[c.id].converged]
    return f"no operating point in {lost[0]}" if lost and made is not plan else ""


def _cells(before: Plan, made: Plan, found: Returns) -> list[SchoolCell]:
    cells = []
    worst_video = steady_video = worst_esc = 0.0
    for signal in made.signals:
        if signal.kind not in ("video", "esc"):
            continue
        answer = next(one for one in found.signals if one.id == signal.id)
        size = answer.states[answer.worst].on_signal_v
        if signal.kind == "esc":
            worst_esc = max(worst_esc, size / max(answer.margin_v, 1e-6))
            continue
        steady = max((abs(state.shift_v) for state in answer.states.values()), default=0.0)
        worst_video, steady_video = max(worst_video, size), max(steady_video, steady)
        bad = size > answer.margin_v
        cells.append(SchoolCell(label=f"{signal.name}, changing", text=_volts_or_nothing(size), value=size, bad=bad))
        cells.append(SchoolCell(label=f"{signal.name}, steady", text=_volts_or_nothing(steady), value=steady))
    if any(s.kind == "video" for s in made.signals):
        level = f"{format_db(20 * math.log10(worst_video / FULL_PICTURE_V))}" if worst_video > LEAST_V else "nothing"
        bad = worst_video > made.policy.video_shift_v
        cells.append(SchoolCell(label=CHANGING, text=level, value=worst_video, bad=bad))
        cells.append(SchoolCell(label=STEADY, text=_volts_or_nothing(steady_video), value=steady_video))
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
    cells.append(SchoolCell(label=WIRE, text=text, value=added))
    return cells


def _volts_or_nothing(volts: float) -> str:
    return format_si(volts, "V") if volts > LEAST_V else "nothing"


def _wire_m(plan: Plan) -> float:
    return sum(wire.wire.run_m for _, wire in plan.returns())


def _mark_default(found: Sequence[School]) -> list[School]:
    """The way with the least change, then the least steady shift; of equal ones the least to do, the star, the least wire."""
    possible = [s for s in found if not s.refused]
    equal = _least(_least(possible, CHANGING, EQUAL_V), STEADY, STEADY_EQUAL_V)
    chosen = min(equal, key=lambda s: (len(s.edits), s.key != "star", _value(s, WIRE)), default=found[0]).key
    return [school.model_copy(update={"default": school.key == chosen}) for school in found]


def _least(found: Sequence[School], label: str, equal_v: float) -> list[School]:
    least = min((_value(s, label) for s in found), default=0.0)
    return [s for s in found if _value(s, label) <= least + equal_v]


def _value(school: School, label: str) -> float:
    return next((c.value for c in school.cells if c.label == label), 0.0)
