"""Why a device reset: the chain from its pins up to the act, with what each link read at the time."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.elements.regulator import HELD_FRAC, limits
from yardmeter.core.plan import Device, Diode, Link, Regulator, Strap, Supply
from yardmeter.core.runs.report import melted
from yardmeter.core.runs.run import Run
from yardmeter.core.solver.transient.trace import Happening

LinkKind = Literal[
    "act", "motors", "pack", "rail", "dropout", "limit", "stopped", "hiccups", "latched", "tripped", "fuse", "wire", "no source", "pins"
]  # fmt: skip
FED_V = 1.0
"""A supply with less at its input has no part in it, where another has."""
GIVES_A = 1e-3
"""From here on a supply counts as giving: where one of several gives, the others are not why."""
LONG_AGO_S = 2.0
"""An act longer before than this is not told as the cause; our choice."""
STEADY_S = 0.5
"""A rail that stays down so long, or to the end, is no dip; our choice."""


class ChainLink(Answer):
    """One link: what happened at which element, when, and the numbers that go with it."""

    kind: LinkKind
    at_s: float
    element: str
    volts_v: float | None = None
    amps_a: float | None = None
    limit: float | None = None
    """What it should have kept, in the unit of what is told."""
    temp_c: float | None = None
    lasted_s: float | None = None
    act: int | None = None


class Why(Answer):
    """Why a device reset at `at_s`, from the first cause to its pins. A `steady` one is no dip: no capacitor helps it."""

    device: str
    at_s: float
    steady: bool
    below_s: float
    """How long its pins were under its brown-out volts around that time, as far as the run goes."""
    chain: tuple[ChainLink, ...]


def whys(run: Run) -> tuple[Why, ...]:
    """The chain of every device's first reset."""
    seen: set[str] = set()
    found = []
    for one in run.events:
        if one.code is Happening.RESET and one.element not in seen:
            seen.add(one.element)
            found.append(why(run, run.plan.device_of[one.element], one.at_s))
    return tuple(found)


def why(run: Run, device: Device, at_s: float) -> Why:
    """The chain of one reset."""
    times, pin = run.times_s, run.pin_v(device.id)
    end = run.at(at_s)
    under = pin < device.reset_v
    begin = end
    while begin > 0 and under[begin - 1]:
        begin -= 1
    stretch = slice(begin, end + 1)
    low = begin + int(pin[stretch].argmin())
    below_s = _gone_s(run, device, begin, end)
    links = [
        ChainLink(
            kind="pins",
            at_s=float(times[low]),
            element=device.id,
            volts_v=float(pin[low]),
            limit=device.reset_v,
            lasted_s=float(times[end] - times[begin]),
        )
    ]
    if device.feed:
        links += _of_rail(run, device.feed.rail, low, set(), of_pin=float(pin[low]))
    links += _fuses(run, {device.id, "pack", *(one.element for one in links)}, at_s)
    links += _act(run, float(times[begin]))
    steady = _steady(run, device, below_s, float(times[begin]))
    return Why(device=device.id, at_s=at_s, steady=steady, below_s=below_s, chain=tuple(reversed(links)))


def _gone_s(run: Run, device: Device, begin: int, end: int) -> float:
    """How long it is without its volts [s]: off it draws nothing, so they are back only where it could start again."""
    pin, times = run.pin_v(device.id), run.times_s
    back = next((k for k in range(end, times.size) if pin[k] >= device.restarts_v), None)
    return float((times[back] if back is not None else times[-1]) - times[begin])


def _steady(run: Run, device: Device, gone_s: float, since_s: float) -> bool:
    """Whether its volts are gone for good: for long, to the end, or again each time it comes back."""
    if any(one.code is Happening.LOOPS and one.element == device.id for one in run.events):
        return True
    to_the_end = since_s + gone_s >= float(run.times_s[-1]) - 1e-9
    return gone_s >= STEADY_S or (to_the_end and gone_s > 0.25 * run.scenario.duration_s)


def _of_rail(run: Run, rail_id: str, k: int, seen: set[str], of_pin: float | None = None) -> Iterator[ChainLink]:
    """Why a rail was low at a step: what fed it, link by link up to the pack."""
    plan = run.plan
    if rail_id in seen:
        return
    seen.add(rail_id)
    volts, at = float(run.rail_v(rail_id)[k]), float(run.times_s[k])
    if rail_id == plan.pack.rail:
        yield ChainLink(kind="pack", at_s=at, element="pack", volts_v=volts, amps_a=float(run.pack_a[k]))
        motors = [one for one in plan.devices if one.throttle]
        if motors:
            amps = sum(float(run.load_a(one.id)[k]) for one in motors)
            if amps > 0.5 * float(run.pack_a[k]):
                yield ChainLink(kind="motors", at_s=at, element=motors[0].id, amps_a=amps)
        return
    ports = [one for one in plan.inlets if one.rail == rail_id and not one.in_line]
    for port in ports:
        amps = float(run.supply_a(port.id)[k])
        if limits(amps, port.limit_a):
            yield ChainLink(kind="limit", at_s=at, element=port.id, volts_v=volts, amps_a=amps, limit=port.limit_a)
            return
    supplies = plan.supplies_into(rail_id)
    giving = [one for one in supplies if abs(float(run.supply_a(one.id)[k])) > GIVES_A]
    fed = [one for one in supplies if run.converter(one.id) is None or run.supply_in_v(one.id)[k] > FED_V]
    supplies = tuple(giving or fed) or supplies
    told = [link for one in supplies for link in _of_supply(run, one, k, volts, seen)]
    if told:
        yield ChainLink(kind="rail", at_s=at, element=rail_id, volts_v=volts)
        yield from told
    elif of_pin is not None and volts - of_pin > 0.05 * max(volts, 0.1):
        yield ChainLink(kind="wire", at_s=at, element=rail_id, volts_v=volts, limit=of_pin)
    else:
        yield ChainLink(kind="no source", at_s=at, element=rail_id, volts_v=volts)


def _of_supply(run: Run, supply: Supply, k: int, volts: float, seen: set[str]) -> Iterator[ChainLink]:
    plan, at = run.plan, float(run.times_s[k])
    if isinstance(supply, Link | Strap):
        for name in plan.inputs_of(supply):
            if name in plan.rail_of:
                yield from _of_rail(run, name, k, seen)
        return
    vin, amps = float(run.supply_in_v(supply.id)[k]), float(run.supply_a(supply.id)[k])
    if isinstance(supply, Diode):
        if amps > 1e-3 and supply.input in plan.rail_of:
            yield from _of_rail(run, supply.input, k, seen)
        return
    if volts >= HELD_FRAC * supply.set_v:
        return
    match supply.standing(bool(run.runs(supply.id)[k]), amps, vin, volts):
        case "off":
            yield _stopped(run, supply, k, vin)
        case "limiting":
            yield ChainLink(kind="limit", at_s=at, element=supply.id, volts_v=volts, amps_a=amps, limit=supply.limit_a)
            return
        case "dropout":
            yield ChainLink(kind="dropout", at_s=at, element=supply.id, volts_v=vin, amps_a=amps, limit=supply.set_v)
        case "regulating":
            return
    if supply.input in plan.rail_of and vin < max(supply.stop_v, supply.set_v + supply.dropout_v):
        yield from _of_rail(run, supply.input, k, seen)


def _stopped(run: Run, supply: Regulator, k: int, vin: float) -> ChainLink:
    """Why a regulator does not run: the last of its switches says."""
    at = float(run.times_s[k])
    kinds: dict[Happening, LinkKind] = {
        Happening.HICCUPS: "hiccups", Happening.LATCHES: "latched", Happening.TRIPS: "tripped", Happening.STOPS: "stopped",
    }  # fmt: skip
    last = [one for one in run.events if one.element == supply.id and one.at_s <= at + 1e-9 and one.code in kinds]
    kind = kinds[last[-1].code] if last else "stopped"
    when = last[-1].at_s if last else at
    limit = {"hiccups": supply.limit_a, "latched": supply.limit_a, "tripped": supply.trip_c}.get(kind, supply.stop_v)
    temp = float(run.temp_c(supply.id)[k]) if kind == "tripped" else None
    return ChainLink(kind=kind, at_s=when, element=supply.id, volts_v=vin, temp_c=temp, limit=limit)


def _fuses(run: Run, elements: set[str], before_s: float) -> Iterator[ChainLink]:
    """Fuses that melted on the way to it."""
    for one in melted(run):
        if one.element in elements and one.at_s <= before_s:
            yield ChainLink(kind="fuse", at_s=one.at_s, element=one.element, amps_a=one.amps, limit=one.rated_a)


def _act(run: Run, before_s: float) -> Iterator[ChainLink]:
    acts = [one for one in run.events if one.code is Happening.ACT and one.at_s <= before_s + 1e-9]
    if acts and before_s - acts[-1].at_s <= max(LONG_AGO_S, 0.25 * run.scenario.duration_s):
        yield ChainLink(kind="act", at_s=acts[-1].at_s, element=acts[-1].element, act=acts[-1].act)
