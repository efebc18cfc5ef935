"""`signal.ground`: grounds beside signals."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.plan import Plan, Signal, SignalKind, fresh_id
from yardmeter.core.plan.operations import Add, SetValue
from yardmeter.core.verdict import Comparison, Facts, Fix, Severity, Verdict, under

SMALL_SHARE = 0.2
"""Share of a margin below which an offset is only noted; our choice."""
GROUNDED: tuple[SignalKind, ...] = ("video", "esc", "serial", "servo", "receiver", "led")


@dataclass(frozen=True)
class NoGroundBeside(Facts):
    signals: tuple[str, ...]
    ends: tuple[str, ...]


@rule("signal.ground", NoGroundBeside, sense="at most")
def no_signal_ground(case: SolvedPlan) -> Iterator[Verdict]:
    """Signals between two grounds without a ground wire beside them: their return current goes the long way round."""
    plan = case.plan
    for (ends, kind), signals in without_ground(plan).items():
        if any({owner, wire.to} == ends for owner, wire in plan.returns()):
            continue
        answer = case.signal[signals[0].id]
        sizes = {c: state.on_signal_v for c, state in answer.states.items()}
        worst = max(sizes, key=lambda c: sizes[c])
        if _is_star(plan, ends) and sizes[worst] < SMALL_SHARE * answer.margin_v:
            continue
        names, between = tuple(s.id for s in signals), tuple(sorted(ends))
        yield under(
            {c: _weight(v / answer.margin_v if answer.margin_v else 1.0, kind) for c, v in sizes.items()},
            worst,
            (*names, *between),
            Comparison(sizes[worst], answer.margin_v, "V"),
            NoGroundBeside(names, between),
            (*_landed_there(plan, signals), ground_fix(plan, signals)),
        )


def without_ground(plan: Plan) -> dict[tuple[frozenset[str], SignalKind], list[Signal]]:
    """Signals that should have a ground beside them and have none, by their two ends and kind."""
    bundles: dict[tuple[frozenset[str], SignalKind], list[Signal]] = {}
    for signal in plan.signals:
        ends = frozenset(plan.owner_of[end].id for end in (signal.source, signal.sink))
        if signal.kind in GROUNDED and signal.ground is None and len(ends) == 2:
            bundles.setdefault((ends, signal.kind), []).append(signal)
    return bundles


def _is_star(plan: Plan, ends: frozenset[str]) -> bool:
    """Whether both ends have a return to one and the same point, one of the ends included."""
    reached = [{name, *(wire.to for wire in plan.owner_of[name].returns)} for name in ends]
    return bool(set.intersection(*reached))


def _landed_there(plan: Plan, signals: list[Signal]) -> Iterator[Fix]:
    """The only return of the device at one end, landed at the other: its way back then runs beside the signal, without a ring."""
    first = signals[0]
    source, sink = plan.owner_of[first.source].id, plan.owner_of[first.sink].id
    for one, other in ((source, sink), (sink, source)):
        device = plan.device_of.get(one)
        if device and len(device.returns) == 1 and other in plan.board_of:
            wire = device.returns[0].id
            moved = SetValue(element=wire, field="to", value=other)
            yield Fix("land there", (moved, *(SetValue(element=s.id, field="ground", value=wire) for s in signals)))


def _weight(share: float, kind: SignalKind) -> Severity:
    """How an offset weighs by its share of the margin: what is far below it is only worth knowing."""
    if share < SMALL_SHARE:
        return "note"
    return "fault" if share > 1 and kind != "video" else "caution"


def ground_fix(plan: Plan, signals: list[Signal]) -> Fix:
    """One ground beside the signals, from the device (or what drives them) to the other end."""
    first = signals[0]
    source, sink = plan.owner_of[first.source].id, plan.owner_of[first.sink].id
    start, end = (source, sink) if source in plan.device_of else (sink, source)
    name = fresh_id(plan, f"{first.id[:50]}-gnd")
    wire = {"gauge_awg": 28, "length_m": first.wire.length_m, "lay": "twisted"}
    add = Add(kind="return", owner=start, value={"id": name, "to": end, "wire": wire})
    return Fix("signal ground", (add, *(SetValue(element=s.id, field="ground", value=name) for s in signals)))
