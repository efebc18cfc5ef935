"""The hook-up list: every wire, pin by pin, with colour, gauge, length, what flows, and which pins are never powered."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.fitness import Fitness, fitness_of_all
from yardmeter.core.graph import pictures
from yardmeter.core.network.keys import LEAD_KEY, Key, feed_key, link_key, return_key
from yardmeter.core.network.wires import conductor_ohm
from yardmeter.core.physics.fusing import fusing_a
from yardmeter.core.plan import Board, Device, Link, Owner, Pin, Plan, Signal, SignalKind, Strap, Wire
from yardmeter.core.plan.inline import Fuse, Ntc
from yardmeter.core.plan.parts import Colour
from yardmeter.core.sizing.gauges import duties, enough, in_conditions
from yardmeter.core.sizing.wire import Basis, Duty
from yardmeter.core.units import format_si
from yardmeter.review.hookup_parts import HookupPart, parts_of
from yardmeter.review.hookup_pins import PinLine, free_ports, never_power
from yardmeter.review.landings import harness, landing, on_its_esc, own_output, phases, shared_pads
from yardmeter.words.fitness import warning as fitness_warning
from yardmeter.words.pictures import path_words

SIGNAL_COLOUR: dict[SignalKind, Colour] = {
    "video": "yellow", "serial": "white", "servo": "white", "esc": "white", "receiver": "white", "one-wire": "green",
    "i2c": "blue", "led": "green", "buzzer": "grey", "camera": "grey", "other": "grey",
}  # fmt: skip
"""Insulation where the plan names none; common practice, no source."""


class End(Answer):
    """Where a wire lands: what it is soldered to, and at which pad or pin."""

    owner: str
    name: str
    at: str


class HookupRow(Answer):
    """One wire. Amps are the most over all conditions; limits are steady, in still air, and estimates."""

    id: str
    element: str
    purpose: str
    polarity: Literal["+", "−", "signal"]
    start: End
    end: End
    colour: Colour
    joined: bool
    gauge_awg: int
    length_m: float
    lay: str
    connector: str
    beside: str
    """Signals a ground runs along with."""
    amps_a: float | None
    drop_v: float | None
    rise_k: float | None
    limit_a: float | None
    fuses_a: float | None
    smallest_awg: int | None
    smallest_by: Basis | None
    """What speaks against a thinner one."""
    inline: str
    """What reacts in it: a fuse, an NTC, an anti-spark contact."""
    harness: str
    """The cable it runs in, where it is no wire of its own."""
    warning: str


class Hookup(Answer):
    """Rows in the order of the work: supplies, grounds, signals."""

    rows: tuple[HookupRow, ...]
    parts: tuple[HookupPart, ...]
    """What is fitted beside the wires."""
    order: tuple[str, ...]
    """Ids of rows and parts, in the order of the work."""
    video_paths: tuple[str, ...]
    phases: tuple[PinLine, ...]
    shared_pads: tuple[PinLine, ...]
    fittings: tuple[PinLine, ...]
    """How boards and devices sit."""
    never_power: tuple[PinLine, ...]
    free_ports: tuple[PinLine, ...]


def hookup(case: SolvedPlan) -> Hookup:
    """The list of a solved plan."""
    rows, parts = _in_order(case), parts_of(case)
    return Hookup(
        rows=rows,
        parts=parts,
        order=tuple(_worked(rows, parts)),
        video_paths=tuple(path_words(case.plan, one) for one in pictures(case.plan)),
        phases=tuple(
            PinLine(owner=board, name=case.plan.title(board), pins=names) for board, names in phases(case.plan).items()
        ),
        shared_pads=tuple(
            PinLine(owner=place, name=place, pins=names) for place, names in shared_pads(case.plan).items()
        ),
        fittings=tuple(
            PinLine(owner=one.id, name=one.name, pins=(one.fitting,)) for one in case.plan.owners if one.fitting
        ),
        never_power=tuple(never_power(case.plan)),
        free_ports=tuple(free_ports(case.plan)),
    )


def _in_order(case: SolvedPlan) -> tuple[HookupRow, ...]:
    """Plus wires in the order of the work, each with the ground of what it feeds right after it; other grounds, signals."""
    left = {one.id: one for one in _returns(case)}
    order = {key: number for number, key in enumerate(left)}
    of: dict[str, list[HookupRow]] = {}
    for one in left.values():
        of.setdefault(one.element, []).append(one)
    rows: list[HookupRow] = []
    for plus in (*_supplies(case), *_feeds(case)):
        rows.append(plus)
        beside = [one for name in dict.fromkeys((plus.end.owner, plus.element)) for one in of.get(name, ())]
        # In the order of the plan, each once.
        rows += sorted((left.pop(one.id) for one in beside if one.id in left), key=lambda one: order[one.id])
    return (*rows, *left.values(), *_signals(case))


def _worked(rows: Sequence[HookupRow], parts: Sequence[HookupPart]) -> Iterator[str]:
    """Each board with what sits on it, then every wire with what is soldered along with it; nothing that is left is left out."""
    with_it: dict[str | None, list[str]] = {}
    known = {*(row.id for row in rows), *(part.id for part in parts)}
    for one in parts:
        with_it.setdefault(one.after if one.after in known else None, []).append(one.id)

    def after(name: str | None) -> Iterator[str]:
        for part in with_it.pop(name, []):
            yield part
            yield from after(part)

    yield from after(None)
    for row in rows:
        yield row.id
        yield from after(row.id)


@dataclass(frozen=True)
class _Carried:
    """What a wire carries: the most that Rails tells, and in every condition what heats it, bursts averaged."""

    most_a: float = 0.0
    duties: tuple[Duty, ...] = ()


def _carried(case: SolvedPlan, key: Key) -> _Carried:
    if key not in case.solved.table.conductor:
        return _Carried()
    given = [abs(case.solved.given[c.id].conductor_a(key)) for c in case.plan.conditions]
    return _Carried(max(given), duties(case, key))


def _row(
    case: SolvedPlan, key: str, element: str, purpose: str, polarity: Literal["+", "−"], start: End, end: End, wire: Wire,
    carried: _Carried, rail_v: float, warning: str = "", beside: str = "", at_pack: bool = False,
) -> HookupRow:  # fmt: skip
    policy = case.plan.policy
    worst = max(carried.duties, key=lambda d: d.rise_k(wire.gauge_awg, policy.wire_rise_k), default=Duty(0.0))
    limit_a = worst.limit_a(wire.gauge_awg, policy.wire_rise_k)
    held = f" for {worst.held_s:g} s" if worst.held_s else ""
    hot = (
        f"{format_si(worst.amps_a, 'A')} where {format_si(limit_a, 'A')}{held} is the limit"
        if worst.amps_a > limit_a and not wire.joined
        else ""
    )
    thinnest = enough(case.plan, wire, carried.duties, rail_v, element, at_pack=at_pack)
    return HookupRow(
        id=key,
        element=element,
        purpose=purpose,
        polarity=polarity,
        start=start,
        end=end,
        colour=wire.colour or ("red" if polarity == "+" else "black"),
        joined=wire.joined,
        gauge_awg=wire.gauge_awg,
        length_m=wire.run_m,
        lay=wire.lay,
        connector=wire.connector,
        beside=beside,
        amps_a=carried.most_a,
        drop_v=carried.most_a * conductor_ohm(wire, policy.copper_c),
        rise_k=None if wire.joined else worst.rise_k(wire.gauge_awg, policy.wire_rise_k),
        limit_a=None if wire.joined else limit_a,
        fuses_a=None if wire.joined else fusing_a(wire.gauge_awg),
        smallest_awg=thinnest.gauge_awg if thinnest else None,
        smallest_by=thinnest.by if thinnest else None,
        inline=_inline_words(wire),
        harness="",
        warning="; ".join(one for one in (warning, hot) if one),
    )


def _inline_words(wire: Wire) -> str:
    """What reacts in line with a wire."""
    match wire.inline:
        case None:
            return ""
        case Fuse():
            return f"fuse of {wire.connector_limit_a or 0:g} A in line"
        case Ntc():
            return f"NTC of {format_si(wire.inline.cold_ohm, 'Ω')} cold in line"
        case _:
            return f"anti-spark contact of {format_si(wire.inline.ohm, 'Ω')}"


def _rail_end(plan: Plan, rail_id: str, device: Device | None = None) -> End:
    """The pad on the board it is really on: a device's own output is a pad of that device."""
    if giver := own_output(plan, rail_id):
        return End(owner=giver, name=plan.device_of[giver].name, at=landing(plan, rail_id, device))
    board = plan.rail_of[rail_id].board
    return End(owner=board, name=plan.board_of[board].name, at=landing(plan, rail_id, device))


def _top_v(case: SolvedPlan, rail_id: str) -> float:
    return max(state.volts_v for state in case.rail(rail_id).states.values())


def _supplies(case: SolvedPlan) -> Iterator[HookupRow]:
    plan = case.plan
    pack_end = End(owner="pack", name=plan.pack.name, at="+")
    yield _row(case, "lead", "pack", "pack", "+", pack_end, _rail_end(plan, plan.pack.rail), plan.pack.lead, _carried(case, LEAD_KEY), plan.pack.rest_v("nominal"), at_pack=True)  # fmt: skip
    for supply in plan.supplies:
        for position, name in enumerate(plan.inputs_of(supply)):
            start = (
                _rail_end(plan, name)
                if name in plan.rail_of
                else End(owner=name, name=plan.title(name), at=landing(plan, supply.output))
            )
            over = isinstance(supply, Link | Strap)
            conductor = link_key(supply, position) if isinstance(supply, Link | Strap) else feed_key(supply.id)
            name_in_list = f"{conductor.role}:{supply.id}" + (f":{position}" if isinstance(supply, Strap) else "")
            volts = _top_v(case, name) if name in plan.rail_of else _top_v(case, supply.output)
            if supply.feed:
                end = (
                    _rail_end(plan, supply.output)
                    if over
                    else End(owner=supply.board, name=plan.title(supply.board), at="in")
                )
                yield _row(case, name_in_list, supply.id, supply.name, "+", start, end, supply.feed, _carried(case, conductor), volts)  # fmt: skip
        if supply.lead:
            states = case.supply(supply.id).states
            amps = [abs(states[c.id].out_a) for c in plan.conditions]
            carried = _Carried(max(amps), in_conditions(plan, amps))
            out = End(owner=supply.board, name=plan.title(supply.board), at="out")
            yield _row(case, f"out:{supply.id}", supply.id, f"{supply.name}, output", "+", out, _rail_end(plan, supply.output), supply.lead, carried, _top_v(case, supply.output))  # fmt: skip


def _pin_end(owner: Owner, pin: Pin | None, fallback: str) -> End:
    return End(owner=owner.id, name=owner.name, at=pin.label if pin else fallback)


def _feeds(case: SolvedPlan) -> Iterator[HookupRow]:
    plan = case.plan
    fit = fitness_of_all(plan, plan.device_of, case)
    for device in plan.devices:
        if not device.feed or _no_wires(plan, device):
            continue
        pin = plan.pin_of.get(device.feed.pin or "")
        warning = "" if pin is None or pin.takes_power else f"{pin.label} is never powered"
        top = _top_v(case, device.feed.rail)
        warning = _unfit(fit[device.id], device.feed.rail) or warning
        end = _pin_end(device, pin, "+")
        yield _row(case, f"feed:{device.id}", device.id, f"{device.name}, supply", "+", _rail_end(plan, device.feed.rail, device), end, device.feed.wire, _carried(case, feed_key(device.id)), top, warning)  # fmt: skip


def _unfit(found: Fitness, rail: str) -> str:
    """What its volts do to a device, but for those of an overloaded rail: moving one wire does not help against that."""
    missed = found.window
    if missed is None or (missed.worst and found.at.starved(rail, found.at.plan.condition(missed.worst))):
        return ""
    return fitness_warning(found.at.plan, missed)


def _returns(case: SolvedPlan) -> Iterator[HookupRow]:
    plan = case.plan
    beside: dict[str, list[str]] = {}
    for signal in plan.signals:
        if signal.ground:
            beside.setdefault(signal.ground, []).append(signal.name)
    for owner in plan.owners:
        for wire in owner.returns if not isinstance(owner, Device) or not _no_wires(plan, owner) else ():
            to = (
                End(owner="pack", name=plan.pack.name, at="−")
                if wire.to == "pack"
                else End(owner=wire.to, name=plan.title(wire.to), at="GND")
            )
            purpose = f"{owner.name}, ground"
            signals = f"beside {_listed(beside[wire.id])}" if wire.id in beside else ""
            feed = owner.feed if isinstance(owner, Device) else None
            volts = _top_v(case, feed.rail) if feed else plan.pack.rest_v("nominal")
            start = _pin_end(owner, plan.pin_of.get(wire.pin or ""), "GND")
            yield _row(case, f"return:{wire.id}", owner.id, purpose, "−", start, to, wire.wire, _carried(case, return_key(wire.id)), volts, beside=signals, at_pack=wire.to == "pack")  # fmt: skip


def _no_wires(plan: Plan, device: Device) -> bool:
    """A board's own is copper on it, and motors on their ESC have phases: neither has a plus and a ground to solder."""
    return device.kind == "logic" or (device.kind == "motor" and on_its_esc(plan, device))


def _listed(names: list[str]) -> str:
    return names[0] + (f" and {len(names) - 1} more" if len(names) > 1 else "")


def _signals(case: SolvedPlan) -> Iterator[HookupRow]:
    plan = case.plan
    for signal in plan.signals:
        ends = [plan.owner_of[one] for one in (signal.source, signal.sink)]
        pins = [plan.pin_of.get(one) for one in (signal.source, signal.sink)]
        yield HookupRow(
            id=f"signal:{signal.id}",
            element=signal.id,
            purpose=signal.name,
            polarity="signal",
            start=_pin_end(ends[0], pins[0], "pin not said"),
            end=_pin_end(ends[1], pins[1], "pin not said"),
            colour=signal.wire.colour or SIGNAL_COLOUR[signal.kind],
            joined=signal.wire.joined,
            gauge_awg=signal.wire.gauge_awg,
            length_m=signal.wire.run_m,
            lay=signal.wire.lay,
            connector=signal.wire.connector,
            beside="",
            amps_a=None,
            drop_v=None,
            rise_k=None,
            limit_a=None,
            fuses_a=None,
            smallest_awg=None,
            smallest_by=None,
            inline=_inline_words(signal.wire),
            harness=(harness(plan, ends[0].id, ends[1].id) or "")
            if not signal.wire.joined and all(isinstance(one, Board) for one in ends)
            else "",
            warning=_signal_warning(signal, ends),
        )


def _signal_warning(signal: Signal, ends: list[Owner]) -> str:
    unsure = [end.name for end in ends if isinstance(end, Board) and end.pins and end.pinout == "unverified"]
    lone = "no ground beside it" if signal.ground is None and signal.kind in ("video", "esc", "serial") else ""
    return "; ".join(one for one in (f"pin-out of {unsure[0]} unverified" if unsure else "", lone) if one)
