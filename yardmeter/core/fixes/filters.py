"""What the shelf has against ripple and lines in the picture: sections in the feed, ceramics, bulk, and a better capacitor."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

from yardmeter.core.checks.noise import SeenInPicture
from yardmeter.core.errors import EditError
from yardmeter.core.parts import Part
from yardmeter.core.plan import CapacitorFilter, Plan
from yardmeter.core.plan.operations import Edit, SetValue
from yardmeter.core.sizing.filters import FilterTrial, Purpose, try_filters
from yardmeter.core.verdict import Fix, Verdict

PROPOSED = 2
"""How many of the lightest that are enough are tried at each place."""
BULKS = 4
"""How many of the lightest bulk capacitors are tried."""
MOST_G = 4.0
"""A filter for one device weighs no more than this on a craft of one or two cells [g]; our choice."""
OF_CAPACITOR = ("farad", "rated_v", "esr_ohm", "ripple_a", "dielectric")


def with_filters(plan: Plan, verdicts: Sequence[Verdict], parts: Sequence[Part]) -> tuple[Verdict, ...]:
    """The verdicts of noise with what the shelf proposes against each, lightest first; whether it cures is for who tries it."""
    return tuple(replace(one, fixes=(*one.fixes, *_against(plan, one, parts))) for one in verdicts)


def _against(plan: Plan, verdict: Verdict, parts: Sequence[Part]) -> Iterator[Fix]:
    seen, limit = verdict.compared.observed, verdict.compared.limit
    match verdict.code:
        case "noise.ripple":
            wanted_db = 20 * math.log10(seen / limit) if limit > 0 else math.inf
            yield from _at(plan, verdict.elements[:1], wanted_db, parts)
        case "noise.video" if isinstance(verdict.facts, SeenInPicture):
            devices = [one for one in verdict.elements[1:] if one in plan.device_of]
            yield from _at(plan, devices, 20 * math.log10(seen / limit), parts)
        case "noise.capacitor_volts" | "noise.capacitor_ripple":
            yield from _better(plan, verdict, parts)


def _at(plan: Plan, devices: Sequence[str], wanted_db: float, parts: Sequence[Part]) -> Iterator[Fix]:
    """At each device in its feed and at its pins, and bulk where the motors' current comes from; then both."""
    bulk = [one for rail in _motor_rails(plan) for one in _by_weight(_trials(plan, rail, "bulk", parts, 0.0))[:BULKS]]
    for name in devices:
        for purpose in ("feed", "local"):
            found = _enough(plan, name, purpose, parts, wanted_db)
            for trial in found[:PROPOSED]:
                yield Fix("filter", trial.edits)
            if not found and purpose == "feed":
                best = min(_trials(plan, name, purpose, parts, 0.0), key=lambda one: one.with_v, default=None)
                yield from (Fix("filter", (*best.edits, *one.edits)) for one in bulk if best)
    yield from (Fix("filter", one.edits) for one in bulk)


def _motor_rails(plan: Plan) -> list[str]:
    """Rails of the motors at which no capacitor stands yet."""
    rails = dict.fromkeys(d.feed.rail for d in plan.devices if d.throttle and d.feed)
    taken = {one.at for one in plan.filters if one.kind == "capacitor" and one.fitted}
    return [rail for rail in rails if rail not in taken]


def _trials(plan: Plan, at: str, purpose: Purpose, parts: Sequence[Part], wanted_db: float) -> list[FilterTrial]:
    """What is not refused, and light enough for the craft; a place that does not suit has none."""
    most_g = math.inf if plan.pack.series > 2 else MOST_G
    try:
        found = try_filters(plan, at, purpose, parts, wanted_db=wanted_db).trials
    except EditError:
        return []
    return [one for one in found if not one.refused and one.gain_db > 0 and one.weight_g <= most_g]


def _enough(plan: Plan, at: str, purpose: Purpose, parts: Sequence[Part], wanted_db: float) -> list[FilterTrial]:
    return _by_weight([one for one in _trials(plan, at, purpose, parts, wanted_db) if one.enough])


def _by_weight(found: Sequence[FilterTrial]) -> list[FilterTrial]:
    return sorted(found, key=lambda one: (one.weight_g, one.with_v))


def _better(plan: Plan, verdict: Verdict, parts: Sequence[Part]) -> Iterator[Fix]:
    """Another capacitor of the shelf in its place: of at least its farads, for the volts it sees; for ripple, one more beside it."""
    one = next((f for f in plan.filters if f.id == verdict.elements[0]), None)
    if not isinstance(one, CapacitorFilter):
        return
    if verdict.code == "noise.capacitor_ripple":
        more = math.ceil(one.count * verdict.compared.observed / verdict.compared.limit)
        yield Fix("exchange part", (SetValue(element=one.id, field="count", value=more),))
    suits = [
        part
        for part in parts
        if part.capacitor
        and part.capacitor.dielectric == one.dielectric
        and part.capacitor.farad >= one.farad
        and part.capacitor.rated_v >= one.rated_v
        and part.key != one.part
    ]
    for part in sorted(suits, key=lambda each: (each.weight_g, each.key))[:PROPOSED]:
        yield Fix("exchange part", tuple(_as_part(one, part)))


def _as_part(one: CapacitorFilter, part: Part) -> Iterator[Edit]:
    """Edits that put the part where a capacitor is; its legs stay as short as they are soldered."""
    values = {**(part.capacitor.model_dump(include=set(OF_CAPACITOR)) if part.capacitor else {}), "name": part.name}
    values |= {"part": part.key, "weight_g": part.weight_g}
    for field, value in values.items():
        if getattr(one, field) != value:
            yield SetValue(element=one.id, field=field, value=value)
