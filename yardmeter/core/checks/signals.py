"""`signal.` rules: pins that fit each other, one port one use, levels, grounds beside signals, pin-outs that are trusted."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from yardmeter.core.answers.returns import LOGIC_V
from yardmeter.core.answers.video_paths import path_words, video_paths
from yardmeter.core.checks.finding import Finding, Fix, Sense, Severity, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.physics.levels import logic_margin
from yardmeter.core.plan import Device, Pin, Plan, Signal
from yardmeter.core.plan.operations import Add, SetValue
from yardmeter.core.units import format_si

PAIRS = {"tx": "rx", "video-out": "video-in", "servo-out": "servo-in", "esc-out": "esc-in"}
"""Which role an output's other end has."""
SHARED_ROLES = ("sda", "scl", "one-wire", "ground")
"""Pins that several wires may land on."""
SMALL_SHARE = 0.2
"""Share of a margin below which an offset is only noted; our choice."""
GROUNDED = ("video", "esc", "serial", "servo", "receiver")


def _ends(plan: Plan, signal: Signal) -> tuple[Pin | None, Pin | None]:
    return plan.pin_of.get(signal.source), plan.pin_of.get(signal.sink)


def _always(plan: Plan) -> tuple[str, ...]:
    return tuple(c.id for c in plan.conditions)


def _words(plan: Plan, pin: Pin) -> str:
    return f"{plan.owner_of[pin.id].name} {pin.label}"


def _finding(
    case: Case, severity: Severity, signal: Signal, title: str, cause: str, remedy: str,
    numbers: tuple[tuple[str, float, str], tuple[str, float, str]], fixes: tuple[Fix, ...] = (),
    sense: Sense | None = None,
) -> Finding:  # fmt: skip
    """A finding about one signal that holds whatever the condition."""
    plan = case.plan
    owners = tuple(dict.fromkeys(plan.owner_of[end].id for end in (signal.source, signal.sink)))
    return Finding(
        severity=severity,
        conditions=_always(plan),
        worst=None,
        elements=(signal.id, *owners),
        title=title,
        cause=cause,
        remedy=remedy,
        numbers=tuple(number(*one) for one in numbers),
        fixes=fixes,
        sense=sense,
    )


@rule("signal.crossed", sense="equal")
def crossed(case: Case) -> Iterator[Finding]:
    """A serial link from TX to TX, or RX to RX: a pair is crossed."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if not source or not sink or source.role != sink.role or source.role not in ("tx", "rx"):
            continue
        role = source.role.upper()
        yield _finding(
            case, "fault", signal,
            f"{signal.name}: {role} is wired to {role}",
            f"{_words(case.plan, source)} and {_words(case.plan, sink)} both {'talk' if role == 'TX' else 'listen'}; nothing is heard.",
            "Cross the pair: TX of one to RX of the other.",
            (("ends that drive it", 2 if role == "TX" else 0, ""), ("needed", 1, "")),
            tuple(_cross_fixes(case.plan, signal, sink)),
        )  # fmt: skip


def _cross_fixes(plan: Plan, signal: Signal, sink: Pin) -> Iterator[Fix]:
    """The sink's sister pin of the same port; where it is taken, the wire on it changes places with this one."""
    source = plan.pin_of[signal.source]
    wanted = "rx" if sink.role == "tx" else "tx"
    owner = plan.owner_of[sink.id]
    for sister in owner.pins:
        if sister.port != sink.port or sister.role != wanted:
            continue
        other = next((one for one in plan.signals if sister.id in (one.source, one.sink)), None)
        if other is None:
            yield Fix(title=f"{signal.name} → {sister.label}", edits=_joined(signal, source, sister))
            continue
        far = plan.pin_of.get(other.sink if other.source == sister.id else other.source)
        if far and other.id != signal.id:
            edits = (*_joined(signal, source, sister), *_joined(other, far, sink))
            yield Fix(title=f"Change {signal.name} and {other.name} over at {sink.port or owner.name}", edits=edits)
        return


def _joined(signal: Signal, one: Pin, other: Pin) -> tuple[SetValue, SetValue]:
    """The link between two pins, from the one that drives."""
    source, sink = (other, one) if one.way == "in" else (one, other)
    return (
        SetValue(element=signal.id, field="source", value=source.id),
        SetValue(element=signal.id, field="sink", value=sink.id),
    )


@rule("signal.direction", sense="equal")
def direction(case: Case) -> Iterator[Finding]:
    """A link whose driving end is an input, whose reading end is an output, or whose two kinds do not belong together."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if not source or not sink or (source.role == sink.role and source.role in ("tx", "rx")):
            continue
        wrong = source.way == "in" or sink.way == "out"
        odd = source.role in PAIRS and sink.role != PAIRS[source.role] and sink.way not in ("unknown", "both")
        if not wrong and not odd:
            continue
        swapped = source.way == "in" and sink.way == "out"
        fixes: tuple[Fix, ...] = ()
        if swapped:
            turn = (
                SetValue(element=signal.id, field="source", value=sink.id),
                SetValue(element=signal.id, field="sink", value=source.id),
            )
            fixes = (Fix(title="It is the other way round: swap the ends", edits=turn),)
        yield _finding(
            case, "fault", signal,
            f"{signal.name}: {_words(case.plan, source)} does not drive {_words(case.plan, sink)}",
            f"A {source.role} pin meets a {sink.role} pin. Two outputs fight, two inputs float; neither carries the signal.",
            "Solder it to the matching pin: out to in.",
            (("ends that drive it", sum(p.way == "out" for p in (source, sink)), ""), ("needed", 1, "")),
            fixes,
        )  # fmt: skip


@rule("signal.port", sense="at most")
def used_twice(case: Case) -> Iterator[Finding]:
    """A pin with two wires on it, or a port with two partners: one port, one use."""
    plan = case.plan
    counts = Counter(end for signal in plan.signals for end in (signal.source, signal.sink) if end in plan.pin_of)
    for end, count in counts.items():
        pin = plan.pin_of[end]
        if count < 2 or pin.role in SHARED_ROLES or (pin.role == "video-out" and count == 2):
            continue
        users = [s for s in plan.signals if end in (s.source, s.sink)]
        free = [p for p in plan.owner_of[end].pins if p.role == pin.role and p.id not in counts]
        key = "source" if users[-1].source == end else "sink"
        yield _finding(
            case, "fault", users[-1],
            f"{_words(plan, pin)} is used {count} times",
            f"{' and '.join(s.name for s in users)} share it; one drowns the other.",
            f"Move one of them. Free: {', '.join(p.label for p in free) or 'none of its kind'}.",
            (("uses", count, ""), ("allowed", 1, "")),
            tuple(
                Fix(title=f"{users[-1].name} → {p.label}", edits=(SetValue(element=users[-1].id, field=key, value=p.id),))
                for p in free[:2]
            ),
        )  # fmt: skip


@rule("signal.level", sense="at most")
def levels(case: Case) -> Iterator[Finding]:
    """Logic driven higher than the input stands, or not high enough for it to read."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if signal.kind == "video" or not source or not sink or source.level_v is None:
            continue
        if sink.tolerant_v is not None and source.level_v > sink.tolerant_v * 1.001:
            yield _finding(
                case, "danger", signal,
                f"{signal.name}: {source.level_v:g} V into an input for {sink.tolerant_v:g} V",
                f"{_words(case.plan, sink)} is not made for it; the input burns, often with the chip behind it.",
                "Put a divider or a level shifter in between, or use an input that stands it.",
                (("driven", source.level_v, "V"), ("most allowed", sink.tolerant_v, "V")),
            )  # fmt: skip
            continue
        margin = logic_margin(source.level_v, sink.level_v or LOGIC_V, sink.input_levels)
        if margin.least_v < 0:
            needed = source.level_v - margin.high_v
            yield _finding(
                case, "fault", signal,
                f"{signal.name}: {source.level_v:g} V is not read as high for certain",
                f"{_words(case.plan, sink)} has {sink.input_levels.upper()} thresholds of {sink.level_v or LOGIC_V:g} V logic.",
                "Use a level shifter, or a part with TTL-compatible inputs.",
                (("driven", source.level_v, "V"), ("needed", needed, "V")),
                sense="at least",
            )  # fmt: skip


@rule("signal.inverted", sense="at most")
def inverted(case: Case) -> Iterator[Finding]:
    """A receiver protocol that idles low into an input that cannot be told to invert, or the other way round."""
    for signal in case.plan.signals:
        source, sink = _ends(case.plan, signal)
        if signal.kind not in ("serial", "receiver") or not source or not sink or sink.inverts:
            continue
        if source.inverted != sink.inverted:
            pins = [
                p
                for p in case.plan.owner_of[sink.id].pins
                if p.role == sink.role and (p.inverts or p.inverted == source.inverted) and p.id != sink.id
            ]
            yield _finding(
                case, "fault", signal,
                f"{signal.name}: {'inverted' if source.inverted else 'plain'} signal into a{'n inverted' if sink.inverted else ' plain'} input",
                f"{_words(case.plan, source)} idles {'low' if source.inverted else 'high'}; {_words(case.plan, sink)} takes that for noise.",
                f"Use an input that inverts{': ' + ', '.join(p.label for p in pins) if pins else ', or set the sender to plain'}.",
                (("inversions in the way", 1, ""), ("needed", 0, "")),
                tuple(
                    Fix(title=f"{signal.name} → {p.label}", edits=(SetValue(element=signal.id, field="sink", value=p.id),))
                    for p in pins[:2]
                ),
            )  # fmt: skip


@rule("signal.camera_input", sense="at least")
def default_input(case: Case) -> Iterator[Finding]:
    """Cameras wired to a board whose power-up input is left empty: the screen stays dark until it is switched."""
    plan = case.plan
    for board in plan.boards:
        inputs = [pin for pin in board.pins if pin.role == "video-in"]
        first = next((pin for pin in inputs if pin.default), None)
        here = [s for s in plan.signals if s.kind == "video" and s.sink in {pin.id for pin in inputs}]
        if first is None or not here or any(s.sink == first.id for s in here):
            continue
        yield _finding(
            case, "caution", here[0],
            f"{board.name} starts on {first.label}, where no camera is",
            f"{', '.join(s.name for s in here)} {'is' if len(here) == 1 else 'are'} on another input; the picture is empty at power-up.",
            f"Solder it to {first.label}, or set the firmware's start-up input.",
            (("cameras on the start-up input", 0, ""), ("needed", 1, "")),
            (Fix(title=f"{here[0].name} → {first.label}", edits=(SetValue(element=here[0].id, field="sink", value=first.id),)),),
        )  # fmt: skip


@rule("signal.video_path", sense="at least")
def picture_lost(case: Case) -> Iterator[Finding]:
    """A camera whose picture ends on the way, or that passes by the chip that writes on it."""
    plan = case.plan
    chips = [board for board in plan.boards if board.osd and any(p.role == "video-in" for p in board.pins)]
    for path in video_paths(plan):
        camera, last = plan.title(path.owners[0]), plan.owner_of[path.owners[-1]]
        first = plan.signal_of[path.signals[0]]
        if not path.arrives:
            chip = (
                ""
                if last.id not in plan.board_of or plan.board_of[last.id].osd
                else ", which has no on-screen-display chip to pass it on"
            )
            yield _finding(
                case, "caution", first,
                f"{camera}: its picture ends at {last.name}{chip}",
                f"Path: {path_words(plan, path)}. Nothing sends or keeps it from there.",
                "Run the board's video output on to the sender, or the camera straight to it.",
                (("senders it reaches", 0, ""), ("needed", 1, "")),
            )  # fmt: skip
        elif chips and not path.display:
            yield _finding(
                case, "note", first,
                f"{camera} passes by the on-screen display of {chips[0].name}",
                f"Path: {path_words(plan, path)}. Pack volts and warnings are not written on this picture.",
                f"Run it through {chips[0].name}, or fly by another picture's display.",
                (("displays on its way", 0, ""), ("on this build", len(chips), "")),
            )  # fmt: skip


@rule("signal.pinout")
def unverified(case: Case) -> Iterator[Finding]:
    """Signals on a board whose pin-out nobody has verified; board revisions differ."""
    plan = case.plan
    for board in plan.boards:
        used = [s for s in plan.signals for end in (s.source, s.sink) if end in {pin.id for pin in board.pins}]
        if not used or board.pinout != "unverified":
            continue
        revision = f" {board.revision}" if board.revision else ""
        yield Finding(
            severity="note",
            conditions=_always(plan),
            worst=None,
            elements=(board.id,),
            title=f"The pin-out of {board.name}{revision} is unverified: {len(used)} wires rely on it",
            cause="Revisions of one board carry different pins in the same place; a swapped pair is found too late.",
            remedy="Compare with the print or a meter, then say in the board's ticket what it is trusted by.",
            numbers=(number("wires that rely on it", len(used), ""), number("verified", 0, "")),
        )


@rule("signal.powered", sense="at most")
def powered(case: Case) -> Iterator[Finding]:
    """A supply wire on a pin that is no supply, or ground and supply changed over."""
    for device in case.plan.devices:
        for severity, pin, volts, what in _misplaced(case, device):
            yield Finding(
                severity=severity,
                conditions=_always(case.plan),
                worst=None,
                elements=(device.id, pin.id),
                title=f"{device.name}: {what} on {pin.label}",
                cause=f"{pin.label} is a {pin.role} pin; {format_si(volts, 'V')} there destroys what is behind it.",
                remedy="Do not connect. Move the wire to the pin made for it.",
                numbers=(
                    number("on the pin", volts, "V"),
                    number("it stands", pin.tolerant_v or pin.level_v or 0.0, "V"),
                ),
            )


def _misplaced(case: Case, device: Device) -> Iterator[tuple[Severity, Pin, float, str]]:
    plan = case.plan
    if device.feed is None:
        return
    volts = max((s.volts_v for s in case.rail(device.feed.rail).states.values()), default=0.0)
    fed = plan.pin_of.get(device.feed.pin or "")
    if fed and fed.way not in ("power", "unknown"):
        yield "danger", fed, volts, "the feed"
    for wire in device.returns:
        back = plan.pin_of.get(wire.pin or "")
        if back and back.way == "power":
            yield "danger", back, volts, "the return"


@rule("signal.ground", sense="at most")
def no_signal_ground(case: Case) -> Iterator[Finding]:
    """Signals between two grounds without a ground wire beside them: their return current goes the long way round."""
    plan = case.plan
    bundles: dict[tuple[frozenset[str], str], list[Signal]] = {}
    for signal in plan.signals:
        ends = frozenset(plan.owner_of[end].id for end in (signal.source, signal.sink))
        if signal.kind in GROUNDED and signal.ground is None and len(ends) == 2:
            bundles.setdefault((ends, signal.kind), []).append(signal)
    for (ends, kind), signals in bundles.items():
        if any({owner, wire.to} == ends for owner, wire in plan.returns()):
            continue
        answer = case.signal[signals[0].id]
        sizes = {c: abs(s.shift_v) + (0.0 if kind == "video" else s.step_v) for c, s in answer.states.items()}
        worst = max(sizes, key=lambda c: sizes[c])
        names = " and ".join(plan.title(end) for end in sorted(ends))
        many = len(signals) > 1
        yield Finding(
            severity=_weight(sizes[worst] / answer.margin_v if answer.margin_v else 1.0, kind),
            conditions=_always(plan),
            worst=worst,
            elements=(*(s.id for s in signals), *sorted(ends)),
            title=f"{', '.join(s.name for s in signals)}: no ground beside {'them' if many else 'it'}, {format_si(sizes[worst], 'V')} of offset",
            cause=f"Between {names} the return goes round by the supply grounds, which is also the loop an edge radiates from.",
            remedy="Run one thin ground beside the signal, twisted with it.",
            numbers=(number("offset", sizes[worst], "V"), number("margin", answer.margin_v, "V")),
            fixes=(ground_fix(plan, signals),),
        )


def _weight(share: float, kind: str) -> Severity:
    """How an offset weighs by its share of the margin: what is far below it is only worth knowing."""
    if share < SMALL_SHARE:
        return "note"
    return "fault" if share > 1 and kind != "video" else "caution"


def ground_fix(plan: Plan, signals: list[Signal]) -> Fix:
    """One ground beside the signals, from the device (or what reads them) to the other end."""
    first = signals[0]
    source, sink = plan.owner_of[first.source].id, plan.owner_of[first.sink].id
    start, end = (source, sink) if source in plan.device_of else (sink, source)
    taken = set(plan.elements) | set(plan.inner_ids())
    name = next(n for n in (f"{first.id[:50]}-gnd{k or ''}" for k in range(len(taken) + 1)) if n not in taken)
    wire = {"gauge_awg": 28, "length_m": first.wire.length_m, "lay": "twisted"}
    return Fix(
        title=f"A ground beside {first.name}" + (f" and {len(signals) - 1} more" if len(signals) > 1 else ""),
        edits=(
            Add(kind="return", owner=start, value={"id": name, "to": end, "wire": wire}),
            *(SetValue(element=s.id, field="ground", value=name) for s in signals),
        ),
    )
