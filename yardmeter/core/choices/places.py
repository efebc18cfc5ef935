"""Where could this device live? Every place it could be fed from, tried on the plan and ranked by the same numbers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from pydantic import Field

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.placing import place_part
from yardmeter.core.errors import EditError, YardError
from yardmeter.core.fitness import FLOOR_PACK, Fitness, fitness, judge
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Device, Plan, Regulator
from yardmeter.core.plan.operations import Add, ChooseWay, Edit, Move

RESERVE_FRAC = 0.2
HEADROOM_ENOUGH_V = 3.0
DROP_MUCH_V = 0.15
WEIGHT_MUCH_G = 20.0
WIRES_MANY = 4
INSIDE_FRAC = 0.02
STEP_DOWN_V = 2.0
"""What a rail should have above a regulator fed from it [V]; our choice."""
TRIED = 4
"""How many of the lightest regulators that suffice are tried."""


class Weights(Answer):
    """How much each number counts in the ranking; our defaults, adjustable."""

    margin: float = Field(default=1.0, ge=0, le=10, title="amps to spare")
    headroom: float = Field(default=0.6, ge=0, le=10, title="headroom of volts")
    heat: float = Field(default=0.7, ge=0, le=10, title="heat in still air")
    drop: float = Field(default=0.3, ge=0, le=10, title="drop of the wires")
    noise: float = Field(default=0.5, ge=0, le=10, title="noise")
    weight: float = Field(default=0.3, ge=0, le=10, title="added weight")
    wires: float = Field(default=0.2, ge=0, le=10, title="added wires")
    failure: float = Field(default=0.5, ge=0, le=10, title="a failure short")
    volts: float = Field(default=0.6, ge=0, le=10, title="room under the maximum volts")


Kind = Literal["rail", "pack", "bec"]


@dataclass(frozen=True)
class Tried:
    """One place with its numbers, all of the worst pack condition.

    `error` says why it cannot even be made; `at` is how the device lives there, against what was so before, and `so` with nothing
    excused. `noise` goes from 0, behind a linear regulator, to 3, straight on the pack.
    """

    title: str
    kind: Kind
    rail: str | None
    edits: tuple[Edit, ...]
    error: str = ""
    at: Fitness | None = None
    so: Fitness | None = None
    score: float = 0.0
    noise: int = 3
    spare_a: float | None = None
    spare_frac: float | None = None
    headroom_v: float | None = None
    still_temp_c: float | None = None
    drop_v: float | None = None
    added_g: float = 0.0
    added_wires: int = 0
    on_short_v: float | None = None
    room_frac: float = 1.0
    """How much of the room wanted under its maximum it has, where the volts follow the pack."""

    @property
    def fits(self) -> bool:
        """Where it is now nothing is excused for having been so before."""
        judged = self.at if self.edits else self.so
        return judged is not None and judged.fits

    @property
    def over_already(self) -> bool:
        """Whether something is wrong there whether the device comes or not."""
        return self.fits and self.so is not None and not self.so.fits


Candidate = tuple[str, Kind, tuple[Edit, ...]]


def places(
    plan: Plan, device_id: str, weights: Weights | None = None, becs: Sequence[Part] = (), *, every_way: bool = True
) -> tuple[Tried, ...]:
    """All places, feasible ones first, of those the ones where nothing is over yet, best first, by each way the device may be powered; `becs` are the shelf's stand-alone regulators.

    Raises UnknownElementError for a device that is not there, EditError for an element that is none.
    """
    device = plan.element(device_id)
    if not isinstance(device, Device):
        raise EditError(
            f"{device.name} is not a device.", where=device_id, remedy="Choose a device: only those move between rails."
        )
    wanted = weights or Weights()
    was = solve_plan(plan)
    found = [
        _try(plan, powered, title, kind, edits, wanted, was)
        for powered, chosen in (_ways(device) if every_way else [(device, ())])
        for title, kind, edits in _candidates(plan, powered, becs, chosen)
    ]
    return tuple(sorted(found, key=lambda place: (not place.fits, place.over_already, -place.score)))


def _ways(device: Device) -> Iterator[tuple[Device, tuple[Edit, ...]]]:
    """The device as each of its ways in makes it, with the edit that chooses that way where it is not the one in use."""
    for way in device.ways:
        chosen = () if way.name == device.way else (ChooseWay(device=device.id, way=way.name),)
        yield device.by(way), chosen
    if device.way is None:
        yield device, ()


def _candidates(plan: Plan, device: Device, becs: Sequence[Part], chosen: tuple[Edit, ...]) -> Iterator[Candidate]:
    for title, kind, edits in (*_rails(plan, device), *_regulators(plan, device, becs)):
        yield f"{device.way}: {title}" if device.way else title, kind, (*chosen, *edits)


def _rails(plan: Plan, device: Device) -> Iterator[Candidate]:
    for rail in plan.rails:
        kind: Kind = "pack" if not graph_of(plan).regulators_above(rail.id) else "rail"
        stays = device.feed is not None and device.feed.rail == rail.id
        yield rail.name, kind, () if stays else (Move(device=device.id, rail=rail.id),)


def _regulators(plan: Plan, device: Device, becs: Sequence[Part]) -> Iterator[Candidate]:
    """A regulator of its own, on the pack and on every rail that stands well above it."""
    if device.kind == "motor":
        return
    peak = device.draws.peak

    def enough(part: Part) -> bool:
        if part.bec is None or not device.lives_between(part.bec.set_v, part.bec.set_v, INSIDE_FRAC):
            return False
        amps = (
            peak.watts_at(device.nominal_v) / part.bec.set_v
            if device.law == "power"
            else peak.amps_at(device.nominal_v)
        )
        return part.bec.rating_a * plan.policy.alone_derate_frac >= amps * (1 + RESERVE_FRAC)

    sources = {plan.pack.rail: plan.pack.rest_v("full")} | {r.id: r.nominal_v for r in plan.rails if r.nominal_v}
    lightest = sorted(filter(enough, becs), key=lambda one: one.weight_g)
    for source, most_v in sources.items():
        # Of ways in that are not in use one regulator shows what they would need.
        tried = TRIED if device.way is None or not device.ways or device.way == plan.device_of[device.id].way else 1
        able = [
            p
            for p in lightest
            if p.bec and most_v <= p.bec.input_max_v and _gives(p.bec, most_v, source == plan.pack.rail)
        ]
        for part in able[:tried]:
            adds = place_part(plan, part, source)
            rail = next(str(e.value["id"]) for e in adds if isinstance(e, Add) and e.kind == "rail")
            yield f"{part.name} on {plan.rail_of[source].name}", "bec", (*adds, Move(device=device.id, rail=rail))


def _gives(bec: Regulator, source_v: float, pack: bool) -> bool:
    """Whether a regulator of this kind can make its volts of these; the pack falls, so what steps up and down may be right."""
    if bec.kind == "boost":
        return source_v < bec.set_v
    return source_v > bec.set_v + (0 if pack or bec.kind == "buckboost" else STEP_DOWN_V)


def _try(
    plan: Plan,
    device: Device,
    title: str,
    kind: Kind,
    edits: tuple[Edit, ...],
    weights: Weights,
    was: SolvedPlan,
) -> Tried:
    go_on()
    try:
        after = apply_edits(plan, edits)
    except YardError as error:
        target = next((e.rail for e in edits if isinstance(e, Move)), None)
        return Tried(title, kind, target, edits, error=error.what)
    found = fitness(after, device.id, was)
    after, answer = found.at.plan, found.at
    so = judge(answer, device.id)
    moved = after.device_of[device.id]
    rail_id = moved.feed.rail if moved.feed else ""
    states = {c.id: answer.device(device.id).states[c.id] for c in answer.pack_conditions() if c.id != FLOOR_PACK}
    rail = answer.rail(rail_id)
    above = graph_of(after).regulators_above(rail_id)
    nearest = above[0] if above else None
    spare = min(((rail.states[c].spare_a, rail.states[c].usable_a) for c in states), default=(0.0, 0.0))
    supply = answer.supply(nearest.id) if nearest else None
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
    found_there = Tried(
        title, kind, rail_id, edits, at=found, so=so, noise=noise,
        spare_a=spare[0],
        spare_frac=spare[0] / spare[1] if spare[1] > 0 else 0.0,
        headroom_v=min(headrooms, default=None),
        still_temp_c=max(temps, default=None),
        drop_v=max((s.drop_v for s in states.values()), default=0.0),
        added_g=sum(b.weight_g for b in after.boards) - sum(b.weight_g for b in plan.boards),
        added_wires=4 if kind == "bec" else 0,
        on_short_v=short_v,
        room_frac=_room_frac(after, device, rail_id, [s.pin_v for s in states.values()]),
    )  # fmt: skip
    return replace(found_there, score=_score(device, found_there, nearest, weights))


def _room_frac(plan: Plan, device: Device, rail: str, volts: list[float]) -> float:
    wanted = plan.policy.over_voltage_frac * device.max_v
    if not volts or wanted <= 0 or not graph_of(plan).follows_the_pack(rail):
        return 1.0
    return min(max((device.max_v - max(volts)) / wanted, 0.0), 1.0)


def _noise_class(above: Sequence[Regulator]) -> int:
    if not above:
        return 3
    if not above[0].switching:
        return 0
    return 1 if sum(r.switching for r in above) == 1 else 2


def _score(device: Device, one: Tried, nearest: Regulator | None, w: Weights) -> float:
    """Weighted mean of the numbers, each brought to 0…1; 1 is best."""

    def unit(value: float) -> float:
        return min(max(value, 0.0), 1.0)

    heat = 1.0
    if nearest and one.still_temp_c is not None:
        heat = unit((nearest.trip_c - one.still_temp_c) / (nearest.trip_c - 40))
    headroom = unit((one.headroom_v if one.headroom_v is not None else HEADROOM_ENOUGH_V) / HEADROOM_ENOUGH_V)
    safe = one.on_short_v is None or device.at_volts(one.on_short_v) != "high"
    terms = [
        (w.margin, unit(one.spare_frac or 0.0)),
        (w.headroom, headroom),
        (w.heat, heat),
        (w.drop, 1 - unit((one.drop_v or 0.0) / DROP_MUCH_V)),
        (w.noise, 1 - one.noise / 3),
        (w.weight, 1 - unit((one.added_g or 0.0) / WEIGHT_MUCH_G)),
        (w.wires, 1 - unit((one.added_wires or 0.0) / WIRES_MANY)),
        (w.failure, 1.0 if safe else 0.0),
        (w.volts, unit(one.room_frac or 0.0)),
    ]
    total = sum(weight for weight, _ in terms)
    return sum(weight * value for weight, value in terms) / total if total else 0.0
