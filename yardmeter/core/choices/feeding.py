"""Ways of feeding and protecting one device, each tried on this build: near rails, a BEC of its own, the pack behind a filter."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.noise import noise_of
from yardmeter.core.answers.noise_solutions import noise_solutions
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.noise import VISIBLE_DB
from yardmeter.core.checks.relief import fit_regulator
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError, YardError
from yardmeter.core.fitness import fitness, judge
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.plan import Device, Plan, Rail
from yardmeter.core.plan.operations import Edit, Move
from yardmeter.core.sizing.filters import try_filters
from yardmeter.core.verdict import Verdict

REGULATED_V = (8.5, 10.5)
REGULATOR_V = 9.5
FIVE_V = (4.7, 5.3)
LARGEST_BEC_A = 30.0
"""Largest stand-alone regulator there is to buy for an aircraft; common practice, no source."""
HOT_C = 110.0
"""A regulator in still air above this is hot [°C]; our choice, under the shutdown of most."""


@dataclass(frozen=True)
class FeedFigures:
    """What a way gives the device and the craft, of the worst condition it lives in. No `picture_db` without a picture."""

    ripple_v: float
    tolerated_v: float
    picture_db: float | None
    most_v: float
    least_v: float
    too_high: bool
    too_low: bool
    still_temp_c: float
    spare_a: float
    """Least spare of any rail."""
    added_g: float

    @property
    def disturbed(self) -> bool:
        return self.ripple_v > self.tolerated_v

    @property
    def visible(self) -> bool:
        return self.picture_db is not None and self.picture_db > VISIBLE_DB

    @property
    def hot(self) -> bool:
        return self.still_temp_c > HOT_C


@dataclass(frozen=True)
class FeedWay:
    """One way: where the device goes by `edits`, and what is added by `more` where it can live there; no figures where it cannot be.

    Refused by an `error`, because it is `too_large` for a BEC, or by the volts it would come to (`refused`, in the plan `at`).
    `against` is what speaks against a place where it can live.
    """

    key: str
    rail: str = ""
    edits: tuple[Edit, ...] = ()
    more: Callable[[], tuple[Edit, ...]] = tuple
    figures: FeedFigures | None = None
    at: Plan | None = None
    error: str = ""
    too_large: bool = False
    refused: Verdict | None = None
    against: Verdict | None = None

    @property
    def possible(self) -> bool:
        return self.figures is not None


def feed_ways(plan: Plan, device_id: str, parts: Sequence[Part]) -> tuple[FeedWay, ...]:
    """Where a device could be fed, those that cannot be built last. Raises EditError for what is no device."""
    device = fed(plan, device_id)
    near = {window: _rail_near(plan, device, window) for window in (REGULATED_V, FIVE_V)}
    ways = [FeedWay("built")]
    ways += [FeedWay(r.id, r.id, (Move(device=device.id, rail=r.id),)) for r in near.values() if r]
    if not near[REGULATED_V] and device.lives_between(REGULATOR_V, REGULATOR_V):
        own = _own_regulator(plan, device, REGULATOR_V)
        ways.append(FeedWay("regulated", edits=own, too_large=not own))
    to_pack = Move(device=device.id, rail=plan.pack.rail)
    section = partial(_section, plan, device, to_pack, parts)
    ways.append(FeedWay("pack-lc", plan.pack.rail, (to_pack,), section))
    if esc := _esc_rail(plan):
        move = Move(device=device.id, rail=esc)
        ways.append(FeedWay("esc", esc, (move,), partial(bulk, plan, esc, parts)))
    return _tried(plan, device, ways)


def protections(plan: Plan, device_id: str, parts: Sequence[Part]) -> tuple[FeedWay, ...]:
    """What keeps the pack's noise from a device: a capacitor only, a BEC, both. Raises EditError as `feed_ways` does."""
    device = fed(plan, device_id)
    capacitor = bulk(plan, _esc_rail(plan) or plan.pack.rail, parts)
    volts = min(max(device.nominal_v, device.min_v * 1.05), device.max_v * 0.95)
    regulator = _own_regulator(plan, device, round(volts, 1))
    ways = [FeedWay("built"), FeedWay("capacitor", edits=capacitor)]
    if regulator:
        ways += [FeedWay("bec", edits=regulator), FeedWay("both", edits=(*capacitor, *regulator))]
    return _tried(plan, device, ways)


def fed(plan: Plan, device_id: str) -> Device:
    """The device, where it has a feed that can be chosen. Raises EditError where not."""
    device = plan.device_of.get(device_id)
    if device is None or device.feed is None:
        raise EditError("Choose a device that is fed.", where=device_id, remedy="Noise comes along a feed.")
    if device.kind == "motor":
        raise EditError(
            f"{device.name} are fed by their ESC alone.",
            where=device_id,
            remedy="Choose a camera, a sender, a receiver.",
        )
    return device


def bulk(plan: Plan, rail: str, parts: Sequence[Part]) -> tuple[Edit, ...]:
    """The best bulk capacitor of the shelf at a rail; nothing where one is fitted."""
    if any(one.kind == "capacitor" and one.at == rail for one in plan.filters if one.fitted):
        return ()
    trials = [t for t in try_filters(plan, rail, "bulk", parts).trials if not t.refused]
    return trials[0].edits if trials else ()


def _esc_rail(plan: Plan) -> str | None:
    """The pack's volts where an ESC is."""
    return next((r.id for r in plan.rails if plan.board_of[r.board].kind == "esc" and r.nominal_v is None), None)


def _rail_near(plan: Plan, device: Device, window: tuple[float, float]) -> Rail | None:
    """A regulated rail inside the window that lives on the pack and that the device is not on yet."""
    own = device.feed.rail if device.feed else None
    live = {rail for c in plan.conditions if c.on_pack for rail in graph_of(plan).reachable_rails(c)}
    near = [r for r in plan.rails if r.nominal_v and window[0] <= r.nominal_v <= window[1]]
    return next((r for r in near if r.id != own and r.id in live), None)


def _own_regulator(plan: Plan, device: Device, volts: float) -> tuple[Edit, ...]:
    """A stand-alone regulator on the pack for this device, with two fifths to spare; nothing where none is made so large."""
    rating = max(1.0, round(max(device.draws.peak.watts_at(device.nominal_v) / volts, 0.1) * 1.4, 1))
    if rating > LARGEST_BEC_A:
        return ()
    fit = fit_regulator(plan, volts, rating, lowest_v=plan.pack.rest_v("low") * 0.9)
    return (*fit, Move(device=device.id, rail=str(fit[1].value["id"])))


def _section(plan: Plan, device: Device, move: Move, parts: Sequence[Part]) -> tuple[Edit, ...]:
    """The best section of the shelf once the device hangs on the pack."""
    moved = apply_edits(plan, (move,))
    trials = [t for t in try_filters(moved, device.id, "feed", parts).trials if not t.refused]
    return trials[0].edits if trials else ()


def _tried(plan: Plan, device: Device, ways: Sequence[FeedWay]) -> tuple[FeedWay, ...]:
    """The ways in their order, those that cannot be built last."""
    was = fitness(plan, device.id).at
    found = [_try(plan, device, way, was) for way in ways]
    refused = {one.key for one in found if not one.possible}
    # What the pack kills is told of once, not of every board at the pack's volts.
    twice = {"esc"} if {"esc", "pack-lc"} <= refused else set()
    return tuple(sorted((one for one in found if one.key not in twice), key=lambda one: not one.possible))


def _try(plan: Plan, device: Device, way: FeedWay, was: SolvedPlan) -> FeedWay:
    """Refused where the device would come to volts that are not for it; what else speaks against it stands beside its numbers."""
    if way.too_large:
        return way
    moves = any(isinstance(one, Move) for one in way.edits)
    try:
        found = fitness(apply_edits(plan, way.edits), device.id, was) if moves else judge(was, device.id, was)
        if found.window and moves:
            return replace(way, edits=(), at=found.at.plan, refused=found.window)
        edits = (*way.edits, *way.more())
        made = apply_edits(plan, edits) if edits else plan
    except YardError as error:
        return replace(way, edits=(), error=error.what)
    against = found.heavy[0] if found.heavy else None
    return replace(way, edits=edits, figures=_figures(plan, made, device), at=found.at.plan, against=against)


def _figures(plan: Plan, made: Plan, device: Device) -> FeedFigures:
    solved = solve_conditions(made)
    found = budget(solved)
    noise = noise_of(made, noise_solutions(solved))
    state = next(d for d in found.devices if d.id == device.id)
    pin = next(p for p in noise.pins if p.device == device.id)
    live = [s for s in state.states.values() if s.verdict not in ("off", "dead", "unknown")]
    most_v, least_v = max((s.pin_v for s in live), default=0.0), min((s.pin_v for s in live), default=0.0)
    temps = (s.still_temp_c or 0.0 for supply in found.supplies for s in supply.states.values())
    added_g = sum(b.weight_g for b in made.boards) - sum(b.weight_g for b in plan.boards)
    added_g += sum(f.weight_g * f.count for f in made.filters) - sum(f.weight_g * f.count for f in plan.filters)
    return FeedFigures(
        ripple_v=max(pin.total_v.values(), default=0.0),
        tolerated_v=pin.tolerated_v,
        picture_db=max((level for video in noise.videos for level in video.level_db.values()), default=None),
        most_v=most_v,
        least_v=least_v,
        too_high=device.at_volts(most_v) == "high",
        too_low=device.at_volts(least_v) in ("low", "reset"),
        still_temp_c=max(temps, default=0.0),
        spare_a=min((s.spare_a for r in found.rails for s in r.states.values() if s.limits), default=0.0),
        added_g=added_g,
    )
