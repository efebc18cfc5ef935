"""`signal.` rules: pins that fit each other, one port one use, levels, pin-outs that are trusted."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.returns import reads_at_v
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.graph import Picture, pictures
from yardmeter.core.physics.levels import logic_margin
from yardmeter.core.plan import Device, Pin, Plan, Signal
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.plan.signals import belong_together
from yardmeter.core.verdict import Comparison, Facts, Fix, Sense, Severity, Verdict, always

SHARED_ROLES = ("sda", "scl", "one-wire", "ground")
"""Pins that several wires may land on."""
OFFERED = 2


def _ends(plan: Plan, signal: Signal) -> tuple[Pin | None, Pin | None]:
    return plan.pin_of.get(signal.source), plan.pin_of.get(signal.sink)


def _about(
    case: SolvedPlan, severity: Severity, signal: Signal, compared: Comparison, facts: Facts, fixes: tuple[Fix, ...] = (),
    sense: Sense | None = None,
) -> Verdict:  # fmt: skip
    """A verdict on one signal that is true whatever the condition."""
    owners = tuple(dict.fromkeys(case.plan.owner_of[end].id for end in (signal.source, signal.sink)))
    return always(severity, (signal.id, *owners), compared, facts, fixes, sense=sense)


def _rewired(signal: Signal, end: str, pin: Pin) -> Fix:
    return Fix("rewire", (SetValue(element=signal.id, field=end, value=pin.id),))


@dataclass(frozen=True)
class Crossed(Facts):
    source: str
    sink: str
    talks: bool
    """Whether both ends talk; else both listen."""


@rule("signal.crossed", Crossed, sense="equal")
def crossed(case: SolvedPlan) -> Iterator[Verdict]:
    """A serial link from TX to TX, or RX to RX: a pair is crossed."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if not source or not sink or source.role != sink.role or source.role not in ("tx", "rx"):
            continue
        talks = source.role == "tx"
        facts = Crossed(source.id, sink.id, talks)
        yield _about(case, "fault", signal, Comparison(2 if talks else 0, 1, ""), facts, tuple(_cross_fixes(case.plan, signal, sink)))  # fmt: skip


def _cross_fixes(plan: Plan, signal: Signal, sink: Pin) -> Iterator[Fix]:
    """The sink's sister pin of the same port; where it is taken, the wire on it changes places with this one."""
    source = plan.pin_of[signal.source]
    wanted = "rx" if sink.role == "tx" else "tx"
    for sister in plan.owner_of[sink.id].pins:
        if sister.port != sink.port or sister.role != wanted:
            continue
        other = next((one for one in plan.signals if sister.id in (one.source, one.sink)), None)
        if other is None:
            yield Fix("rewire", _joined(signal, source, sister))
            continue
        far = plan.pin_of.get(other.sink if other.source == sister.id else other.source)
        if far and other.id != signal.id:
            yield Fix("exchange", (*_joined(signal, source, sister), *_joined(other, far, sink)))
        return


def _joined(signal: Signal, one: Pin, other: Pin) -> tuple[SetValue, SetValue]:
    """The link between two pins, from the one that drives."""
    source, sink = (other, one) if one.direction == "in" else (one, other)
    return (
        SetValue(element=signal.id, field="source", value=source.id),
        SetValue(element=signal.id, field="sink", value=sink.id),
    )


@dataclass(frozen=True)
class WrongWay(Facts):
    source: str
    sink: str


@rule("signal.direction", WrongWay, sense="equal")
def direction(case: SolvedPlan) -> Iterator[Verdict]:
    """A link whose driving end is an input, whose reading end is an output, or whose two kinds do not belong together."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if not source or not sink or (source.role == sink.role and source.role in ("tx", "rx")):
            continue
        wrong = source.direction == "in" or sink.direction == "out"
        odd = (
            source.direction == "out"
            and sink.direction not in ("unknown", "both")
            and not belong_together(source.role, sink.role)
        )
        if not wrong and not odd:
            continue
        fixes: tuple[Fix, ...] = ()
        if source.direction == "in" and sink.direction == "out":
            turn = (
                SetValue(element=signal.id, field="source", value=sink.id),
                SetValue(element=signal.id, field="sink", value=source.id),
            )
            fixes = (Fix("swap ends", turn),)
        driving = sum(pin.direction == "out" for pin in (source, sink))
        yield _about(case, "fault", signal, Comparison(driving, 1, ""), WrongWay(source.id, sink.id), fixes)


@dataclass(frozen=True)
class UsedTwice(Facts):
    pin: str
    users: tuple[str, ...]
    free: tuple[str, ...]


@rule("signal.port", UsedTwice, sense="at most")
def used_twice(case: SolvedPlan) -> Iterator[Verdict]:
    """A pin with two wires on it, or a port with two partners: one port, one use."""
    plan = case.plan
    counts = Counter(end for signal in plan.signals for end in (signal.source, signal.sink) if end in plan.pin_of)
    for end, count in counts.items():
        pin = plan.pin_of[end]
        if count < 2 or pin.role in SHARED_ROLES or (pin.role == "video-out" and count == 2):
            continue
        users = [s for s in plan.signals if end in (s.source, s.sink)]
        free = [p for p in plan.owner_of[end].pins if p.role == pin.role and p.id not in counts]
        side = "source" if users[-1].source == end else "sink"
        facts = UsedTwice(end, tuple(s.id for s in users), tuple(p.id for p in free))
        fixes = tuple(_rewired(users[-1], side, p) for p in free[:OFFERED])
        yield _about(case, "fault", users[-1], Comparison(count, 1, ""), facts, fixes)


@dataclass(frozen=True)
class LevelMissed(Facts):
    sink: str
    burns: bool
    """Driven higher than the input stands; else not high enough for it to read."""
    supply_v: float


@rule("signal.level", LevelMissed, sense="at most")
def levels(case: SolvedPlan) -> Iterator[Verdict]:
    """Logic driven higher than the input stands, or not high enough for it to read."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if signal.kind == "video" or not source or not sink or source.level_v is None:
            continue
        reads_v = reads_at_v(case.plan, sink)
        if sink.tolerant_v is not None and source.level_v > sink.tolerant_v * 1.001:
            compared = Comparison(source.level_v, sink.tolerant_v, "V")
            yield _about(case, "danger", signal, compared, LevelMissed(sink.id, True, reads_v))
            continue
        margin = logic_margin(source.level_v, reads_v, sink.input_levels)
        if margin.least_v < 0:
            compared = Comparison(source.level_v, source.level_v - margin.high_v, "V")
            # A light in the wrong colour takes nothing down, and many read less than they are made for.
            weight: Severity = "caution" if signal.kind == "led" else "fault"
            yield _about(case, weight, signal, compared, LevelMissed(sink.id, False, reads_v), sense="at least")


@dataclass(frozen=True)
class Inverted(Facts):
    source: str
    sink: str
    suitable: tuple[str, ...]


@rule("signal.inverted", Inverted, sense="at most")
def inverted(case: SolvedPlan) -> Iterator[Verdict]:
    """A receiver protocol that idles low into an input that cannot be told to invert, or the other way round."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if signal.kind not in ("serial", "receiver") or not source or not sink or sink.inverts:
            continue
        if source.inverted == sink.inverted:
            continue
        alike = [p for p in case.plan.owner_of[sink.id].pins if p.role == sink.role and p.id != sink.id]
        suitable = [p for p in alike if p.inverts or p.inverted == source.inverted]
        facts = Inverted(source.id, sink.id, tuple(p.id for p in suitable))
        fixes = tuple(_rewired(signal, "sink", p) for p in suitable[:OFFERED])
        yield _about(case, "fault", signal, Comparison(1, 0, ""), facts, fixes)


@dataclass(frozen=True)
class EmptyInput(Facts):
    board: str
    input: str
    elsewhere: tuple[str, ...]


@rule("signal.camera_input", EmptyInput, sense="at least")
def default_input(case: SolvedPlan) -> Iterator[Verdict]:
    """Cameras wired to a board whose power-up input is left empty: the screen stays dark until it is switched."""
    for board in case.plan.boards:
        inputs = [pin for pin in board.pins if pin.role == "video-in"]
        first = next((pin for pin in inputs if pin.default), None)
        here = [s for s in case.plan.signals if s.kind == "video" and s.sink in {pin.id for pin in inputs}]
        if first is None or not here or any(s.sink == first.id for s in here):
            continue
        facts = EmptyInput(board.id, first.id, tuple(s.id for s in here))
        yield _about(case, "caution", here[0], Comparison(0, 1, ""), facts, (_rewired(here[0], "sink", first),))


@dataclass(frozen=True)
class PictureLost(Facts):
    picture: Picture
    passes_by: str | None
    """The board whose display it passes by; nothing where it does not arrive at all."""


@rule("signal.video_path", PictureLost, sense="at least")
def picture_lost(case: SolvedPlan) -> Iterator[Verdict]:
    """A camera whose picture ends on the way, or that passes by the chip that writes on it."""
    plan = case.plan
    chips = [board for board in plan.boards if board.osd and any(p.role == "video-in" for p in board.pins)]
    for picture in pictures(plan):
        first = plan.signal_of[picture.signals[0]]
        if not picture.arrives:
            yield _about(case, "caution", first, Comparison(0, 1, ""), PictureLost(picture, None))
        elif chips and not picture.display:
            yield _about(case, "note", first, Comparison(0, len(chips), ""), PictureLost(picture, chips[0].id))


@dataclass(frozen=True)
class Unverified(Facts):
    revision: str


@rule("signal.pinout", Unverified, sense="at most")
def unverified(case: SolvedPlan) -> Iterator[Verdict]:
    """Signals on a board whose pin-out nobody has verified; board revisions differ."""
    plan = case.plan
    for board in plan.boards:
        used = [s for s in plan.signals for end in (s.source, s.sink) if end in {pin.id for pin in board.pins}]
        if used and board.pinout == "unverified":
            yield always("note", (board.id,), Comparison(len(used), 0, ""), Unverified(board.revision))


@dataclass(frozen=True)
class Misplaced(Facts):
    wire: str
    pin: str


@rule("signal.powered", Misplaced, sense="at most")
def powered(case: SolvedPlan) -> Iterator[Verdict]:
    """A supply wire on a pin that is no supply, or ground and supply changed over."""
    for device in case.plan.devices:
        if device.feed is None:
            continue
        volts = max((s.volts_v for s in case.rail(device.feed.rail).states.values()), default=0.0)
        for wire, pin in _misplaced(case.plan, device):
            stands = pin.tolerant_v or pin.level_v or 0.0
            right = next((one for one in device.pins if one.role == "power-in"), None)
            there = SetValue(element=device.id, field="feed.pin", value=right.id) if right and wire == "feed" else None
            fixes = (Fix("power pin", (there,)),) if there else ()
            yield always("danger", (device.id, pin.id), Comparison(volts, stands, "V"), Misplaced(wire, pin.id), fixes)


def _misplaced(plan: Plan, device: Device) -> Iterator[tuple[str, Pin]]:
    fed = plan.pin_of.get(device.feed.pin or "") if device.feed else None
    if fed and not fed.takes_power:
        yield "feed", fed
    for wire in device.returns:
        back = plan.pin_of.get(wire.pin or "")
        if back and back.direction == "power":
            yield "return", back
