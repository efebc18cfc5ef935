"""Where could this device live? Every place it could be fed from, tried on the plan and ranked by the same numbers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from pydantic import Field

from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import knows_full_pack, solve_conditions
from yardmeter.core.answers.model import Answer, DeviceState, RailAnswer
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.placing import place_part
from yardmeter.core.errors import EditError, YardError
from yardmeter.core.parts import Part
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Device, Plan, Regulator
from yardmeter.core.plan.operations import Add, Edit, Move

NOISE_WORDS = (
    "quiet: behind a linear regulator",
    "ripple of a switching regulator",
    "ripple of two",
    "everything on the pack: motors, ESCs",
)
RESERVE_FRAC = 0.2
HEADROOM_ENOUGH_V = 3.0
DROP_MUCH_V = 0.15
WEIGHT_MUCH_G = 20.0
WIRES_MANY = 4
INSIDE_FRAC = 0.02
TRIED = 4
"""How many of the lightest regulators that suffice are tried."""


class Weights(Answer):
    """How much each number counts in the ranking; our defaults, adjustable."""

    margin: float = Field(default=1.0, ge=0, le=10)
    headroom: float = Field(default=0.6, ge=0, le=10)
    heat: float = Field(default=0.7, ge=0, le=10)
    drop: float = Field(default=0.3, ge=0, le=10)
    noise: float = Field(default=0.5, ge=0, le=10)
    weight: float = Field(default=0.3, ge=0, le=10)
    wires: float = Field(default=0.2, ge=0, le=10)
    failure: float = Field(default=0.5, ge=0, le=10)


class Place(Answer):
    """One place with its numbers, all of the worst pack condition; `refused` says why it cannot be."""

    title: str
    kind: Literal["rail", "pack", "bec"]
    rail: str | None
    current: bool
    edits: tuple[Edit, ...]
    refused: str | None
    score: float
    spare_a: float | None = None
    spare_frac: float | None = None
    headroom_v: float | None = None
    still_temp_c: float | None = None
    drop_v: float | None = None
    noise: int = 3
    noise_words: str = ""
    added_g: float = 0.0
    added_wires: int = 0
    on_short_v: float | None = None
    short_words: str = ""


Candidate = tuple[str, Literal["rail", "pack", "bec"], tuple[Edit, ...]]


def places(plan: Plan, device_id: str, weights: Weights | None = None, becs: Sequence[Part] = ()) -> tuple[Place, ...]:
    """All places, feasible ones first, best first; `becs` are the shelf's stand-alone regulators.

    Raises UnknownElementError for a device that is not there, EditError for an element that is none.
    """
    device = plan.element(device_id)
    if not isinstance(device, Device):
        raise EditError(
            f"{device.name} is not a device.", where=device_id, remedy="Choose a device: only those move between rails."
        )
    wanted = weights or Weights()
    candidates = [*_rails(plan, device), *_regulators(plan, device, becs)]
    found = [_try(plan, device, title, kind, edits, wanted) for title, kind, edits in candidates]
    return tuple(sorted(found, key=lambda place: (place.refused is not None, -place.score)))


def _rails(plan: Plan, device: Device) -> Iterator[Candidate]:
    for rail in plan.rails:
        kind: Literal["rail", "pack"] = "pack" if not _regulators_above(plan, rail.id) else "rail"
        stays = device.feed is not None and device.feed.rail == rail.id
        yield rail.name, kind, () if stays else (Move(device=device.id, rail=rail.id),)


def _regulators(plan: Plan, device: Device, becs: Sequence[Part]) -> Iterator[Candidate]:
    """A regulator of its own, on the pack and on every rail that stands well above it."""
    if device.kind == "motor":
        return
    peak = device.draws.peak

    def enough(part: Part) -> bool:
        if part.bec is None or not device.min_v * (1 + INSIDE_FRAC) <= part.bec.set_v <= device.max_v * (
            1 - INSIDE_FRAC
        ):
            return False
        amps = (
            peak.watts_at(device.nominal_v) / part.bec.set_v
            if device.law == "power"
            else peak.amps_at(device.nominal_v)
        )
        return part.bec.rating_a * plan.policy.alone_derate_frac >= amps * (1 + RESERVE_FRAC)

    for part in sorted(filter(enough, becs), key=lambda one: one.weight_g)[:TRIED]:
        if part.bec is None:
            continue
        for source in (plan.pack.rail, *(r.id for r in plan.rails if (r.nominal_v or 0) > part.bec.set_v + 2)):
            most_v = plan.rail_of[source].nominal_v or plan.pack.rest_v("full")
            if most_v > part.bec.input_max_v:
                continue
            adds = place_part(plan, part, source)
            rail = next(str(e.value["id"]) for e in adds if isinstance(e, Add) and e.kind == "rail")
            yield f"{part.name} on {plan.rail_of[source].name}", "bec", (*adds, Move(device=device.id, rail=rail))


def _regulators_above(plan: Plan, rail_id: str) -> list[Regulator]:
    """Regulators between the sources and this rail, nearest first."""
    found: list[Regulator] = []
    at, seen = rail_id, {rail_id}
    while True:
        feeding = [s for s in plan.supplies_into(at) if at != plan.pack.rail]
        if not feeding:
            return found
        supply = next((s for s in feeding if isinstance(s, Regulator)), feeding[0])
        if isinstance(supply, Regulator):
            found.append(supply)
        feed = plan.device_of[supply.input].feed if supply.input in plan.device_of else None
        at = feed.rail if feed else supply.input
        if at in seen or at not in plan.rail_of:
            return found
        seen.add(at)


def _try(
    plan: Plan,
    device: Device,
    title: str,
    kind: Literal["rail", "pack", "bec"],
    edits: tuple[Edit, ...],
    weights: Weights,
) -> Place:
    go_on()
    try:
        after = apply_edits(plan, edits)
    except YardError as error:
        target = next((e.rail for e in edits if isinstance(e, Move)), None)
        return Place(title=title, kind=kind, rail=target, current=False, edits=edits, refused=error.what, score=0.0)
    after = _on_full_pack(after)
    answer = budget(solve_conditions(after))
    moved = after.device_of[device.id]
    rail_id = moved.feed.rail if moved.feed else ""
    states = {
        c.id: next(d for d in answer.devices if d.id == device.id).states[c.id] for c in after.conditions if c.on_pack
    }
    rail = next(r for r in answer.rails if r.id == rail_id)
    above = _regulators_above(after, rail_id)
    nearest = above[0] if above else None
    spare = min(((rail.states[c].spare_a, rail.states[c].usable_a) for c in states), default=(0.0, 0.0))
    supply = next((s for s in answer.supplies if nearest and s.id == nearest.id), None)
    headrooms = (
        [s.headroom_v for c, s in supply.states.items() if c in states and s.headroom_v is not None] if supply else []
    )
    temps = (
        [s.still_temp_c for c, s in supply.states.items() if c in states and s.still_temp_c is not None]
        if supply
        else []
    )
    noise = _noise_class(above)
    short_v = max((s.in_v for s in supply.states.values()), default=0.0) if supply else None
    numbers = {
        "spare_a": spare[0],
        "spare_frac": spare[0] / spare[1] if spare[1] > 0 else 0.0,
        "headroom_v": min(headrooms, default=None),
        "still_temp_c": max(temps, default=None),
        "drop_v": max((s.drop_v for s in states.values()), default=0.0),
        "added_g": sum(b.weight_g for b in after.boards) - sum(b.weight_g for b in plan.boards),
        "added_wires": 4 if kind == "bec" else 0,
        "on_short_v": short_v,
    }
    return Place(
        title=title,
        kind=kind,
        rail=rail_id,
        current=not edits,
        edits=edits,
        refused=_refusal(device, states, rail, after),
        score=_score(device, numbers, noise, nearest, weights),
        noise=noise,
        noise_words=NOISE_WORDS[noise],
        short_words=_short_words(device, short_v),
        **numbers,
    )


def _on_full_pack(plan: Plan) -> Plan:
    """The plan with a full pack among its conditions: a place that only lives on a used one is none."""
    flown = [c for c in plan.conditions if c.on_pack]
    if not flown or knows_full_pack(plan):
        return plan
    rest: dict[str, object] = {
        "pack_state": "full",
        "pack_v": None,
        "cell_v": None,
        "throttle_frac": 0.0,
        "states": {},
        "default_state": "idle",
    }
    full = flown[0].model_copy(update={"id": "full-pack-at-rest", "name": "a full pack", **rest})
    return plan.model_copy(update={"conditions": (*plan.conditions, full)})


def _refusal(device: Device, states: dict[str, DeviceState], rail: RailAnswer, plan: Plan) -> str | None:
    """Why the place cannot be, in words with a number; None when it can."""
    for condition, state in states.items():
        name = plan.condition(condition).name
        if state.verdict == "high":
            return f"{state.pin_v:.1f} V in {name}, it takes {device.max_v:g} V"
        if state.verdict in ("low", "reset", "dead"):
            return f"{state.pin_v:.2f} V in {name}, it needs {device.min_v:g} V"
        if rail.states[condition].spare_a < 0:
            return f"{rail.name} would be {-rail.states[condition].spare_a:.2f} A short in {name}"
    return None


def _noise_class(above: Sequence[Regulator]) -> int:
    if not above:
        return 3
    if not above[0].switching:
        return 0
    return 1 if sum(r.switching for r in above) == 1 else 2


def _short_words(device: Device, short_v: float | None) -> str:
    if short_v is None:
        return "no regulator to fail"
    return f"survives {short_v:.1f} V" if short_v <= device.max_v else f"lost: {short_v:.1f} V on {device.max_v:g} V"


def _score(device: Device, n: dict[str, float | None], noise: int, nearest: Regulator | None, w: Weights) -> float:
    """Weighted mean of the numbers, each brought to 0…1; 1 is best."""

    def unit(value: float) -> float:
        return min(max(value, 0.0), 1.0)

    heat = 1.0
    if nearest and n["still_temp_c"] is not None:
        heat = unit((nearest.trip_c - n["still_temp_c"]) / (nearest.trip_c - 40))
    headroom = unit((n["headroom_v"] if n["headroom_v"] is not None else HEADROOM_ENOUGH_V) / HEADROOM_ENOUGH_V)
    safe = n["on_short_v"] is None or n["on_short_v"] <= device.max_v
    terms = [
        (w.margin, unit(n["spare_frac"] or 0.0)),
        (w.headroom, headroom),
        (w.heat, heat),
        (w.drop, 1 - unit((n["drop_v"] or 0.0) / DROP_MUCH_V)),
        (w.noise, 1 - noise / 3),
        (w.weight, 1 - unit((n["added_g"] or 0.0) / WEIGHT_MUCH_G)),
        (w.wires, 1 - unit((n["added_wires"] or 0.0) / WIRES_MANY)),
        (w.failure, 1.0 if safe else 0.0),
    ]
    total = sum(weight for weight, _ in terms)
    return sum(weight * value for weight, value in terms) / total if total else 0.0
