"""Ways of running the grounds, each tried on this build: where video returns go, and whether ESC signals have grounds."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.answers.grounded import grounded
from yardmeter.core.answers.returns import Returns, returns
from yardmeter.core.checks.signal_grounds import ground_fix, without_ground
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import VIDEO_KINDS, Device, Plan, Signal
from yardmeter.core.plan.operations import Edit, Remove, SetValue

EQUAL_V = 1e-4
"""Changing shifts nearer than this count as equal [V]; our choice."""
STEADY_EQUAL_V = 1e-3
"""Steady shifts nearer than this count as equal [V]: a clamped input takes them off, one that does not shows them; our choice."""
MOTOR_MOST_A = 0.02
"""More motor current than this in a video return is bad [A]; our choice."""

Key = Literal["built", "star", "pair", "chain", "with", "without"]


@dataclass(frozen=True)
class Shift:
    """How far the references of one video signal's ends are apart: what changes, and what stands."""

    signal: str
    changing_v: float
    steady_v: float
    bad: bool


@dataclass(frozen=True)
class GroundFigures:
    """What a way gives, of the worst condition. `changing_v`, `steady_v` and `esc_frac` are None without such signals."""

    shifts: tuple[Shift, ...]
    changing_v: float | None
    steady_v: float | None
    changing_bad: bool
    esc_frac: float | None
    """Worst shift of an ESC signal, of its margin."""
    loops: int
    area_m2: float
    motor_a: float
    """Most motor current in a video part's return."""
    wire_m: float
    """Ground wire more than today."""


@dataclass(frozen=True)
class GroundWay:
    """One way, with what is to be edited to get there; no figures where it cannot be built.

    `to` is the board or device the grounds go to. Refused by an `error`, by what it would leave without a way back (`cut`) or by
    a condition it leaves without an operating point (`lost`).
    """

    key: Key
    to: str = ""
    edits: tuple[Edit, ...] = ()
    figures: GroundFigures | None = None
    default: bool = False
    error: str = ""
    cut: tuple[str, ...] = ()
    lost: str = ""


def video_ways(plan: Plan) -> tuple[GroundWay, ...]:
    """As built, a star at the pack, paired at the board the picture passes, chained through the sender; none without video parts.

    The default is the way with the least change in the video references, of equal ones the least steady shift, then the least to do.
    """
    found = _video_targets(plan)
    if found is None:
        return ()
    built = _try(plan, "built", "", ())
    return _mark_default([built, *(_way(plan, built, key, to, tuple(_reground(plan, by))) for key, to, by in found)])


def _video_targets(plan: Plan) -> list[tuple[Key, str, dict[str, str]]] | None:
    """By way where its grounds go to, and by device where each goes; None without video parts."""
    video = [d for d in plan.devices if d.kind in VIDEO_KINDS and d.feed and d.returns]
    if not video:
        return None
    star, pair = plan.rail_of[plan.pack.rail].board, video_board(plan)
    senders = [d for d in video if d.kind in ("sender", "digital")]
    ways: list[tuple[Key, str, dict[str, str]]] = [("star", star, {d.id: star for d in video})]
    if pair != star:
        ways.append(("pair", pair, {d.id: pair for d in video}))
    if senders and len(video) > 1:
        chain = {d.id: senders[0].id for d in video if d is not senders[0]}
        ways.append(("chain", senders[0].id, {**chain, senders[0].id: star}))
    return ways


def video_grounds(plan: Plan, way: str, held: Collection[str] = ()) -> tuple[str, tuple[Edit, ...]]:
    """Where the grounds of video parts go in a way, and the edits that bring them there; what is `held` keeps its own. No edits where
    there is no video part or no such way: where the picture passes no other board the paired way is the star."""
    ways = {key: (to, by) for key, to, by in _video_targets(plan) or ()}
    to, by = ways.get("star" if way == "pair" and "pair" not in ways else way, ("", {}))  # type: ignore[call-overload]
    return to, tuple(_reground(plan, {name: end for name, end in by.items() if name not in held}))


def esc_grounds(plan: Plan, way: str) -> tuple[Edit, ...]:
    """Edits that lay a ground beside every ESC signal (`with`), or take those there are away (`without`)."""
    if way == "without":
        lines = dict.fromkeys(s.ground for s in plan.signals if s.kind == "esc" and s.ground)
        return tuple(Remove(element=one) for one in lines)
    bundles = [group for (_, kind), group in without_ground(plan).items() if kind == "esc"]
    return tuple(e for group in bundles for e in ground_fix(plan, group).edits)


def esc_ways(plan: Plan) -> tuple[GroundWay, ...]:
    """As built, with a ground beside each ESC signal, without; none where no ESC has a signal. The default is with."""
    lines = [s for s in plan.signals if s.kind == "esc"]
    if not lines:
        return ()
    built = _try(plan, "built", "", ())
    keys: tuple[Key, ...] = ("with", "without")
    found = [built, *(_way(plan, built, key, "", esc_grounds(plan, key)) for key in keys)]
    default = "with" if any(s.ground is None for s in lines) else "built"
    return tuple(replace(way, default=way.key == default) for way in found)


def video_board(plan: Plan) -> str:
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


def _way(plan: Plan, built: GroundWay, key: Key, to: str, edits: tuple[Edit, ...]) -> GroundWay:
    """A way that needs no edit is what is built."""
    return _try(plan, key, to, edits) if edits else replace(built, key=key, to=to)


def _try(plan: Plan, key: Key, to: str, edits: tuple[Edit, ...]) -> GroundWay:
    way = GroundWay(key, to)
    try:
        made = apply_edits(plan, edits) if edits else plan
    except YardError as error:
        return replace(way, error=error.what)
    solved = solve_conditions(made)
    if cut := newly_cut(plan, made):
        return replace(way, cut=cut)
    lost = [c.name for c in made.conditions if not solved.given[c.id].converged]
    if lost and made is not plan:
        return replace(way, lost=lost[0])
    return replace(way, edits=edits, figures=_figures(plan, made, solved))


def newly_cut(plan: Plan, made: Plan) -> tuple[str, ...]:
    """What had a way back to the pack in `plan` and has none as `made`."""
    before = set(graph_of(plan).ungrounded)
    return tuple(one for one in graph_of(made).ungrounded if one not in before)


def _figures(before: Plan, made: Plan, solved: Solved) -> GroundFigures:
    found: Returns = returns(grounded(solved))
    answers = {one.id: one for one in found.signals}
    shifts, of_margin = [], []
    for signal in made.signals:
        if signal.kind not in ("video", "esc"):
            continue
        answer = answers[signal.id]
        size = answer.states[answer.worst].on_signal_v
        if signal.kind == "esc":
            of_margin.append(size / max(answer.margin_v, 1e-6))
        else:
            steady = max((abs(state.shift_v) for state in answer.states.values()), default=0.0)
            shifts.append(Shift(signal.id, size, steady, size > answer.margin_v))
    changing_v = max((one.changing_v for one in shifts), default=None)
    return GroundFigures(
        shifts=tuple(shifts),
        changing_v=changing_v,
        steady_v=max((one.steady_v for one in shifts), default=None),
        changing_bad=changing_v is not None and changing_v > made.policy.video_shift_v,
        esc_frac=max(of_margin, default=None),
        loops=len(found.loops),
        area_m2=max((loop.area_m2 for loop in found.loops), default=0.0),
        motor_a=_motor_a(made, found),
        wire_m=_wire_m(made) - _wire_m(before),
    )


def _motor_a(plan: Plan, found: Returns) -> float:
    """Most motor current in the return of a video part."""
    motors = {d.id for d in plan.devices if d.throttle}
    video: dict[str, Device] = {d.id: d for d in plan.devices if d.kind in VIDEO_KINDS}
    carried = (
        abs(one.amps_a)
        for segment in found.segments
        if segment.owner in video
        for state in segment.states.values()
        for one in state.carries
        if one.element in motors
    )
    return max(carried, default=0.0)


def _wire_m(plan: Plan) -> float:
    return sum(wire.wire.run_m for _, wire in plan.returns())


def _mark_default(found: Sequence[GroundWay]) -> tuple[GroundWay, ...]:
    """The way with the least change, then the least steady shift; of equal ones the least to do, the star, the least wire."""
    possible = [(way, way.figures) for way in found if way.figures]
    least_v = min((f.changing_v or 0.0 for _, f in possible), default=0.0) + EQUAL_V
    calm = [(way, f) for way, f in possible if (f.changing_v or 0.0) <= least_v]
    steady_v = min((f.steady_v or 0.0 for _, f in calm), default=0.0) + STEADY_EQUAL_V
    equal = [(way, f) for way, f in calm if (f.steady_v or 0.0) <= steady_v]
    order = sorted(equal, key=lambda one: (len(one[0].edits), one[0].key != "star", one[1].wire_m))
    chosen = order[0][0].key if order else found[0].key
    return tuple(replace(way, default=way.key == chosen) for way in found)
