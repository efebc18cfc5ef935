"""What can be tried to part the causes, what it costs in minutes, and what each cause makes of it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.diagnosis.causes import Cause
from yardmeter.core.diagnosis.known import UNPOWERED, Known
from yardmeter.core.diagnosis.observed import Looks
from yardmeter.core.diagnosis.situations import AIRBORNE, ROW_OF, When
from yardmeter.core.diagnosis.weighing import Complaint
from yardmeter.core.errors import UnknownElementError
from yardmeter.core.faults import UNWIRED
from yardmeter.core.faults.catalogue import seen_frac
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Device, FerriteFilter
from yardmeter.core.search.seen import Scale
from yardmeter.core.search.signatures import UNPOWERED as UNPOWERED_GATES
from yardmeter.core.solver.circuit import Floats

TryKind = Literal[
    "again", "volts", "ohms", "amps", "look", "swap", "unplug", "ground", "supply", "pack", "setting", "wire", "flight", "capacitor", "mended", "lift",
]  # fmt: skip
Power = Literal["off", "limited", "bench", "air"]
REPRO_MIN: dict[When, float] = {
    "usb": 1, "bench": 1, "warm": 5, "blown": 5, "plug": 1, "armed": 2, "sender": 2, "servo": 2, "hover": 6, "late": 10, "punch": 6,
}  # fmt: skip
"""Minutes to see whether it does it there, props off on the bench; these and the next are ours, by a watch at the bench."""
PROBE_MIN, VOLTS_MIN, AMPS_MIN, LOOK_MIN, SWAP_MIN, GROUND_MIN, SUPPLY_MIN, PACK_MIN, FLIGHT_MIN = (
    0.4,
    1.0,
    2.0,
    1.0,
    10.0,
    3.0,
    4.0,
    1.0,
    9.0,
)
UNPLUG_MIN, UNSOLDER_MIN, CAPACITOR_MIN, WIRE_MIN = 0.5, 3.0, 3.0, 1.0
STAYS, GOES = 0.95, 0.05
"""Chance that it is still there when what was tried does not touch the cause, and when it takes it away."""
FALSE_FIND = 0.03
"""Something looks wrong and is not it."""
SWAPPED_FIND: dict[str, float] = {"signal open": 0.3, "signal crossed": 0.7, "thin wire": 0.8, "dried": 0.3, "hot": 0.0}
COLD: tuple[When, ...] = ("usb", "bench", "sender", "armed")
TRIED_DEVICES = 6
MENDED = "mended-"
"""A cause was mended, and the symptom seen for again: yes is that it is still there."""


@dataclass(frozen=True)
class Try:
    """One thing to do. A reading has a `scale`; all else is answered by yes or no: yes is that it shows, stays, or is found."""

    id: str
    kind: TryKind
    minutes: float
    power: Power
    about: tuple[str, ...] = ()
    when: When | None = None
    scale: Scale | None = None
    step: str | None = None


def tries(known: Known, complaint: Complaint, leading: Sequence[Cause]) -> Iterator[Try]:
    """Everything worth doing about a complaint while these causes lead."""
    where = complaint.where
    seen = complaint.symptom.looks[0]
    if seen.obs not in UNPOWERED:
        yield from _again(known, complaint)
        yield from _taken_away(known, complaint, leading)
    yield from _volts(known, complaint)
    if "bench" in known.by.conditions:
        yield Try("amps-bench", "amps", AMPS_MIN, "limited", ("pack",), "bench", "amps")
    for step in known.signatures.made.steps:
        if step.gate in UNPOWERED_GATES and step.red and step.black:
            yield Try(f"ohms-{step.id}", "ohms", PROBE_MIN, "off", step.elements, None, "ohms", step.id)
    yield from _lifts(known, leading)
    for name in dict.fromkeys(
        one for cause in leading for one in cause.elements[:1] if cause.fault or cause.kind in SWAPPED_FIND
    ):
        yield Try(f"look-{name}", "look", LOOK_MIN, "off", (name,))
    for cause in leading:
        if cause.setting:
            yield Try(f"setting-{cause.id.removeprefix('setting-')}", "setting", cause.setting.minutes, "off", (where,))
        if cause.kind in ("signal open", "signal crossed"):
            yield Try(f"wire-{cause.elements[0]}", "wire", WIRE_MIN, "off", cause.elements)
    if any(one.kind in ("aged pack", "lost cell") for one in leading) and any(d.throttle for d in known.plan.devices):
        yield Try("flight", "flight", FLIGHT_MIN, "air", ("pack",), "hover")


INSIDE = ("device shorted", "capacitor shorted", "capacitor reversed")


def _lifts(known: Known, leading: Sequence[Cause]) -> Iterator[Try]:
    """Ohms again with a part off, where one that is suspected may be what reads so low."""
    plan, signatures = known.plan, known.signatures
    for cause in leading:
        if cause.fault is None or cause.fault.kind not in INSIDE or not cause.fault.traced:
            continue
        row = signatures.faults.index(cause.fault) + 1
        moved = {
            name: abs(np.log((signatures.ohms[row, k] + 0.2) / (signatures.ohms[0, k] + 0.2)))
            for name, k in signatures.steps.items()
            if signatures.made.step[name].gate in ("plug", "rails")
        }
        if not moved:
            continue
        step = max(moved, key=lambda name: moved[name])
        name = cause.elements[0]
        device = plan.device_of.get(name)
        plugs = device is not None and device.feed is not None and device.feed.wire.connector
        minutes = PROBE_MIN + (UNPLUG_MIN if plugs else UNSOLDER_MIN)
        yield Try(f"lift-{name}", "lift", minutes, "off", (name,), None, "ohms", step)


def find_try(known: Known, complaint: Complaint, name: str) -> Try:
    """The try of that id; raises UnknownElementError."""
    device = known.plan.device_of.get(name.removeprefix("unplug-"))
    if device and name.startswith("unplug-"):
        return _unplug(complaint, device)
    cause = known.cause.get(name.removeprefix(MENDED))
    if cause and name.startswith(MENDED):
        return Try(name, "mended", REPRO_MIN[complaint.symptom.looks[0].when], "off", (cause.id,))
    for one in tries(known, complaint, known.causes):
        if one.id == name:
            return one
    raise UnknownElementError(f"“{name}” is nothing to try here.", where=name, remedy="Ask again what to do next.")


def _again(known: Known, complaint: Complaint) -> Iterator[Try]:
    """Whether it does it in another situation too."""
    asked = {one.when for one in complaint.symptom.looks}
    for when in known.by.rows:
        if when not in asked and when != "plug":
            yield Try(f"again-{when}", "again", REPRO_MIN[when], "air" if when in AIRBORNE else "bench", (complaint.where,), when)  # fmt: skip


def _taken_away(known: Known, complaint: Complaint, leading: Sequence[Cause]) -> Iterator[Try]:
    """Whether it still does it with something taken off, changed or put beside."""
    plan, when = known.plan, complaint.symptom.looks[0].when
    base = REPRO_MIN[when]
    power: Power = "air" if when in AIRBORNE else "bench"
    owners = _owners(known, complaint.where)
    for device in _others(known, complaint.where, leading):
        yield _unplug(complaint, device)
    for name in owners:
        if name not in plan.device_of or plan.device_of[name].kind in UNWIRED:
            continue
        yield Try(f"swap-{name}", "swap", base + SWAP_MIN, power, (name,), when)
        if plan.device_of[name].returns:
            yield Try(f"ground-{name}", "ground", base + GROUND_MIN, power, (name,), when)
        if plan.device_of[name].feed and when not in AIRBORNE:
            yield Try(f"supply-{name}", "supply", base + SUPPLY_MIN, power, (name,), when)
    if when not in ("usb",):
        yield Try("pack", "pack", base + PACK_MIN, power, ("pack",), when)
    for one in plan.filters:
        if one.fitted and not isinstance(one, FerriteFilter) and any(one.id in cause.elements for cause in leading):
            yield Try(f"capacitor-{one.id}", "capacitor", base + CAPACITOR_MIN, power, (one.id,), when)


def _unplug(complaint: Complaint, device: Device) -> Try:
    when = complaint.symptom.looks[0].when
    off = UNPLUG_MIN if device.feed and device.feed.wire.connector else UNSOLDER_MIN
    power: Power = "air" if when in AIRBORNE else "bench"
    return Try(f"unplug-{device.id}", "unplug", REPRO_MIN[when] + off, power, (device.id,), when)


def _owners(known: Known, where: str) -> tuple[str, ...]:
    """Devices a place stands for: itself, or both ends of a link."""
    plan = known.plan
    if where in plan.signal_of:
        one = plan.signal_of[where]
        return tuple(dict.fromkeys(plan.owner_of[end].id for end in (one.source, one.sink)))
    return (where,) if where in plan.device_of else ()


def _others(known: Known, where: str, leading: Sequence[Cause]) -> list[Device]:
    """What can be unplugged without losing what it is about: of what shares its way, the hungriest."""
    plan = known.plan
    own = set(_owners(known, where))
    rails = {plan.device_of[one].feed.rail for one in own if one in plan.device_of and plan.device_of[one].feed}  # type: ignore[union-attr]
    above = {above for rail in rails for above in graph_of(plan).climb(rail)} | ({where} & set(plan.rail_of))
    below = graph_of(plan).rails_below(above - {plan.pack.rail}) if above else set(plan.rail_of)
    suspected = {name for cause in leading for name in cause.elements}
    near = [
        d for d in plan.devices
        if d.id not in own and d.kind not in UNWIRED and d.feed and (d.feed.rail in below or d.id in suspected)
    ]  # fmt: skip
    near.sort(key=lambda d: (d.id not in suspected, -d.draws.peak.amps_at(d.nominal_v)))
    return near[:TRIED_DEVICES]


def _volts(known: Known, complaint: Complaint) -> Iterator[Try]:
    plan, where = known.plan, complaint.where
    points = list(_owners(known, where))
    rails = [where] if where in plan.rail_of else []
    for name in points:
        feed = plan.device_of[name].feed if name in plan.device_of else None
        if feed:
            rails += [feed.rail, *graph_of(plan).climb(feed.rail)]
    if where in plan.supply_of:
        rails += [plan.supply_of[where].output]
    if not rails:
        rails = [one.id for one in plan.rails]
    points = [one for one in points if one in plan.device_of]
    for when in COLD:
        if when in known.by.conditions:
            for name in dict.fromkeys((*points, *rails)):
                yield Try(f"volts-{when}-{name}", "volts", VOLTS_MIN, "bench", (name,), when, "volts")


def readings(known: Known, one: Try, causes: Sequence[Cause]) -> Floats:
    """What causes make of a reading [len(causes)], in its unit; NaN where nobody can say."""
    if one.scale == "ohms" and one.step:
        rows = [0 if c.fault is None or _lifted(one, c) else known.signatures.faults.index(c.fault) + 1 for c in causes]
        return known.signatures.stepped(known.signatures.made.step[one.step], rows)
    when = one.when or "bench"
    w = known.by.rows.index(when)
    found = np.full(len(causes), np.nan)
    for k, cause in enumerate(causes):
        world = known.world(cause)
        if world is None:
            continue
        if one.scale == "amps":
            found[k] = abs(world.pack_a[w])
        elif one.about[0] in known.plan.device_of:
            found[k] = world.pins_v[w, known.by.subjects.index["device"][one.about[0]]]
        else:
            found[k] = world.rails_v[w, known.by.subjects.index["rail"][one.about[0]]]
    return found


def _lifted(one: Try, cause: Cause) -> bool:
    """Whether what shorted is off while it is read."""
    return one.kind == "lift" and _fault(cause) in INSIDE and one.about[0] == cause.elements[0]


def planned_reading(known: Known, one: Try) -> float:
    """The same of the build as planned."""
    if one.scale == "ohms" and one.step:
        return float(known.signatures.stepped(known.signatures.made.step[one.step], [0])[0])
    w, base = known.by.rows.index(one.when or "bench"), known.by.planned
    if one.scale == "amps":
        return float(abs(base.pack_a[w]))
    index = known.by.subjects.index
    if one.about[0] in known.plan.device_of:
        return float(base.pins_v[w, index["device"][one.about[0]]])
    return float(base.rails_v[w, index["rail"][one.about[0]]])


def says_yes(known: Known, complaint: Complaint, one: Try, causes: Sequence[Cause]) -> Floats:
    """Chance of yes with each cause [len(causes)]."""
    return np.clip([_yes(known, complaint, one, cause) for cause in causes], 0.02, 0.98)


def _yes(known: Known, complaint: Complaint, one: Try, cause: Cause) -> float:
    match one.kind:
        case "again":
            return _there_too(known, complaint, cause, one.when or "bench")
        case "look":
            if one.about[0] not in cause.elements:
                return FALSE_FIND
            return seen_frac(cause.fault.kind) if cause.fault else SWAPPED_FIND.get(cause.kind, FALSE_FIND)
        case "setting":
            return 0.97 if cause.setting and one.id == f"setting-{cause.id.removeprefix('setting-')}" else 0.02
        case "wire":
            return 0.97 if cause.kind in ("signal open", "signal crossed") and cause.elements == one.about else 0.02
        case "flight":
            return 0.93 if cause.kind in ("aged pack", "lost cell") else 0.06
        case "mended":
            return 0.0 if cause.mended_by == known.cause[one.about[0]].mended_by else STAYS
        case _:
            return _stays(known, complaint, one, cause)


def _there_too(known: Known, complaint: Complaint, cause: Cause, when: When) -> float:
    """That it shows there with this cause, or by what the plan foresees anyway."""
    look = complaint.symptom.looks[0]
    if cause.setting:
        return 0.5
    here = known.chance(cause, look.obs, look.when, complaint.where)
    there = known.chance(cause, look.obs, when, complaint.where)
    if cause.foreseen and here > 0:
        there = min(there / here, 1.0)  # it is there: what was seen shows that
    return 1 - (1 - there) * (1 - known.planned(cause, look.obs, when, complaint.where))


def _stays(known: Known, complaint: Complaint, one: Try, cause: Cause) -> float:
    """Whether the symptom is still there after a change: worked out where the network knows, by what is touched elsewhere."""
    name = one.about[0]
    own = name in cause.elements
    match one.kind:
        case "swap":
            return (
                GOES
                if own and (cause.kind in ("part", "draws more") or _fault(cause) in ("device shorted",))
                else STAYS
            )
        case "pack":
            return GOES if cause.kind in ("aged pack", "lost cell") else STAYS
        case "capacitor":
            return GOES if own and (cause.kind == "dried" or _fault(cause) == "capacitor forgotten") else STAYS
        case "ground":
            gone = _fault(cause) in ("no ground", "poor joint") and own and cause.elements[-1] in known.plan.return_of
            return GOES if gone or (cause.kind == "shift" and name in _owners(known, cause.elements[0])) else STAYS
        case "supply":
            inside = own and (cause.kind == "part" or _fault(cause) in ("device shorted", "no ground"))
            return (
                STAYS
                if inside or cause.kind in ("setting", "signal open", "signal crossed", "level", "shift")
                else GOES
            )
        case _:
            return _unplugged(known, complaint, name, cause)


def _fault(cause: Cause) -> str:
    return cause.fault.kind if cause.fault else ""


def _unplugged(known: Known, complaint: Complaint, device: str, cause: Cause) -> float:
    if device in cause.elements and (cause.fault or cause.kind in ("draws more", "part")):
        return GOES
    look = complaint.symptom.looks[0]
    if cause.setting or look.obs not in ("lost", "black", "low", "hot"):
        return STAYS
    kept = known.without(cause, device, Looks(False, False, frozenset((ROW_OF.get(look.when, look.when),))))
    if kept is None:
        return STAYS
    was = known.world(cause)
    if was is None:
        return STAYS
    before, after = was.p(look.obs, look.when, complaint.where), kept.p(look.obs, look.when, complaint.where)
    return GOES + (STAYS - GOES) * min(after / before, 1.0) if before > 0.02 else STAYS
