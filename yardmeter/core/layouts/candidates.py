"""Where each device could be fed: rails that are there and regulators that could be bought, with what it draws there and on the way up."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from yardmeter.core.answers.limits import supply_limits
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.relief import INSIDE_FRAC, STAYS
from yardmeter.core.graph import graph_of
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.network.build import Situation, own_cells_v
from yardmeter.core.network.loads import active_draw
from yardmeter.core.parts import Part
from yardmeter.core.parts.own_cell import cells_of, may_be_its_own, may_have_its_own
from yardmeter.core.plan import VIDEO_KINDS, Condition, Device, Plan, Rail, Regulator
from yardmeter.core.plan.sources import Cells

EFFICIENCY_FRAC = 0.85
"""Of a switching regulator between two rails, where the solved plan does not tell: from above, since it is only what to try next."""
COPIES = 2
"""So many of one part at most."""
SET_FRAC = 0.1
"""How far a stand-alone regulator is set from the volts it comes with; our choice."""
MOST_PARTS = 20
"""Kinds of regulator that are weighed against each other; the lightest of each volts and amps."""


@dataclass(frozen=True)
class Bought:
    """A regulator of the shelf that could stand on the pack's rail, or a cell for one device: `copy` counts those of one part."""

    part: Part
    copy: int
    usable_a: dict[str, float]
    """By pack condition."""
    set_v: float
    """As it comes, or as it is set for a device that it would not suit else; of a cell its nominal volts."""
    cells: Cells | None = None

    @property
    def key(self) -> str:
        volts = "" if self.as_it_comes else f"@{self.set_v:g}"
        return f"{self.part.key}{volts}#{self.copy}"

    @property
    def as_it_comes(self) -> bool:
        return self.cells is not None or (self.part.bec is not None and self.set_v == self.part.bec.set_v)

    @property
    def switching(self) -> bool:
        return self.part.bec is not None and self.part.bec.switching

    def pack_a(self, amps_a: float, pack_v: float) -> float:
        """What it takes from the pack for so many amps [A], from above; a cell nothing."""
        return 0.0 if self.cells else amps_a * self.set_v / (EFFICIENCY_FRAC * max(pack_v, 1.0))


@dataclass(frozen=True)
class Place:
    """A device at a rail, or at something bought. `amps_a` by pack condition; `noise` from 0 behind a linear regulator to 3 on the pack."""

    device: str
    rail: str
    """A rail's id, or a bought one's key."""
    amps_a: dict[str, float]
    stays: bool
    bought: Bought | None
    noise: int


@dataclass(frozen=True)
class Supply:
    """A rail as something with so many amps: what others ask of it whatever moves, what is usable, and where it takes them from."""

    rail: str
    fixed_a: dict[str, float]
    usable_a: dict[str, float]
    above: tuple[tuple[str, float], ...]
    """Rails further up, each with its amps for one ampere here."""


@dataclass(frozen=True)
class Field:
    """Everything the search chooses from. `nowhere` are devices that no volts suit."""

    case: SolvedPlan
    movable: tuple[str, ...]
    places: tuple[Place, ...]
    supplies: dict[str, Supply]
    bought: tuple[Bought, ...]
    nowhere: tuple[str, ...]


def field_of(case: SolvedPlan, wishes: Wishes, parts: Sequence[Part]) -> Field:
    """The places of every device that may move, in a solved plan."""
    plan = case.plan
    movable = [d for d in plan.devices if d.kind not in STAYS and not (d.feed and d.feed.wire.joined)]
    bought = tuple(_bought(case, parts, movable)) if "bec" in wishes.buy else ()
    bought += tuple(_cells(case, parts, movable)) if "cell" in wishes.buy else ()
    places: list[Place] = []
    for device in movable:
        places += list(_places(case, device, wishes, bought))
    have = {one.device for one in places}
    loose = [d.id for d in movable if d.id in have]
    used = {one.bought.key for one in places if one.bought}
    return Field(
        case, tuple(loose), tuple(places), _supplies(case, {d.id for d in movable}), tuple(one for one in bought if one.key in used),
        tuple(d.id for d in movable if d.id not in have),
    )  # fmt: skip


def drawn_a(case: SolvedPlan, device: Device, volts: float, condition: Condition) -> float:
    """Amps of a device at other volts than it is fed with now."""
    draw = active_draw(device, condition)
    if draw is None:
        return 0.0
    if device.law == "led":
        state = case.device(device.id).states[condition.id]
        return state.asked_a if state.asked_a > 0 else draw.amps_at(device.nominal_v)
    if device.law == "power":
        return draw.watts_at(device.nominal_v) / max(volts, 0.1)
    amps = draw.amps_at(device.nominal_v)
    return amps * volts / (draw.at_v or device.nominal_v) if device.law == "resistance" else amps


def suits(case: SolvedPlan, device: Device, rail: Rail) -> bool:
    """Whether a rail's own volts are inside a device's window on the pack, from full to what its conditions see."""
    plan, graph = case.plan, graph_of(case.plan)
    if any(s.input == device.id and rail.id in graph.rails_below([s.output]) for s in plan.supplies):
        return False
    if device.keeps_control and graph.passed_on(rail.id):
        return False
    on = [c for c in case.pack_conditions() if c.state_of(device.id) != "off"] or list(case.pack_conditions())
    volts = [case.rail(rail.id).states[c.id].volts_v for c in on]
    held = [s.set_v for s in plan.supplies_into(rail.id) if isinstance(s, Regulator)]
    if (full := graph.full_v(rail.id)) is not None:
        volts.append(full)
    elif held:
        # One that is asked for too much now is what it is set to once it is relieved.
        volts = [max(held[0], min(volts))] if min(volts) < held[0] else volts
    return bool(volts) and min(volts) > 0.5 and device.lives_between(min(volts), max(volts), INSIDE_FRAC)


def _places(case: SolvedPlan, device: Device, wishes: Wishes, bought: Sequence[Bought]) -> Iterator[Place]:
    plan, graph = case.plan, graph_of(case.plan)
    here = device.feed.rail if device.feed else None
    held = device.id in wishes.held
    for rail in plan.rails:
        stays = rail.id == here
        if (held and not stays) or (device.id, rail.id) in wishes.turned_down:
            continue
        if not (held or suits(case, device, rail)) or (rail.id in plan.cell_rails and not stays):
            continue
        volts = {c.id: case.rail(rail.id).states[c.id].volts_v for c in case.pack_conditions()}
        amps = {
            c.id: drawn_a(case, device, rail.nominal_v or volts[c.id] or device.nominal_v, c)
            for c in case.pack_conditions()
        }
        above = graph.regulators_above(rail.id)
        noise = (
            3
            if not above
            else 0
            if not above[0].switching
            else 1
            if rail.board in plan.board_of and plan.board_of[rail.board].kind == "regulator"
            else 2
        )
        yield Place(device.id, rail.id, amps, stays, None, noise)
    if held:
        return
    for one in bought:
        if (device.id, one.part.key) in wishes.turned_down or not _suits_bought(case, device, one):
            continue
        least = {c.id: _bought_v(case, one, c)[0] for c in case.pack_conditions()}
        amps = {c.id: drawn_a(case, device, least[c.id], c) for c in case.pack_conditions()}
        if all(amps[c] <= one.usable_a[c] for c in amps):
            yield Place(device.id, one.key, amps, False, one, 1 if one.switching else 0)


def _bought_v(case: SolvedPlan, one: Bought, condition: Condition) -> tuple[float, float]:
    """The least and the most it gives in a condition, and full [V]."""
    if one.cells is None:
        return one.set_v, one.set_v
    return own_cells_v(case.plan, one.cells, Situation(condition)), one.cells.rest_v("full")


def _suits_bought(case: SolvedPlan, device: Device, one: Bought) -> bool:
    if one.cells and not may_have_its_own(case.plan, device):
        return False
    volts = [v for c in case.pack_conditions() for v in _bought_v(case, one, c)]
    return bool(volts) and device.lives_between(min(volts), max(volts), INSIDE_FRAC)


def _cells(case: SolvedPlan, parts: Sequence[Part], movable: Sequence[Device]) -> Iterator[Bought]:
    """Packs of the shelf small enough for one device that some device may have: the lightest of each number of cells and chemistry."""
    best: dict[tuple[str, int], float] = {}
    for part in sorted((p for p in parts if may_be_its_own(p)), key=lambda p: (p.weight_g, p.key)):
        cells, _, limit_a = cells_of(part)
        if limit_a <= best.get((cells.chemistry, cells.series), 0.0):
            continue
        one = Bought(part, 0, {c.id: limit_a for c in case.pack_conditions()}, cells.rest_v("nominal"), cells)
        if any(_suits_bought(case, d, one) for d in movable):
            best[cells.chemistry, cells.series] = limit_a
            yield from (replace(one, copy=copy) for copy in range(COPIES))


def _bought(case: SolvedPlan, parts: Sequence[Part], movable: Sequence[Device]) -> Iterator[Bought]:
    """Of the shelf's regulators those that stand the pack and suit some device: of equal volts a heavier one has to give more."""
    plan, conditions = case.plan, case.pack_conditions()
    full = plan.pack.rest_v("full")
    least = min((case.rail(plan.pack.rail).states[c.id].volts_v for c in conditions), default=0.0)
    best: dict[float, float] = {}
    kept = 0
    for part in sorted((p for p in parts if p.bec), key=lambda p: (p.weight_g, p.key)):
        if part.bec is None or part.bec.input_max_v < full or least <= part.bec.start_v:
            continue
        for set_v in _set_to(part.bec, movable):
            bec = part.bec.model_copy(update={"set_v": set_v, "place": "alone"})
            volts = round(set_v, 1)
            if bec.rating_a <= best.get(volts, 0.0) or not _makes(bec, full, least) or kept >= MOST_PARTS:
                continue
            best[volts] = bec.rating_a
            kept += 1
            usable = {
                c.id: min(
                    one.amps_a for one in supply_limits(plan, bec, c, case.rail(plan.pack.rail).states[c.id].volts_v)
                )
                for c in conditions
            }
            yield from (Bought(part, copy, usable, set_v) for copy in range(COPIES))


def _set_to(bec: Regulator, movable: Sequence[Device]) -> Iterator[float]:
    """The volts it comes with where some device takes them, and those it can be set to for one that does not."""
    lives = [d for d in movable if d.lives_between(bec.set_v, bec.set_v, INSIDE_FRAC)]
    if lives:
        yield bec.set_v
    if bec.model_copy(update={"place": "alone"}).can_be_set:
        near = {d.nominal_v for d in movable if d not in lives and abs(d.nominal_v / bec.set_v - 1) <= SET_FRAC}
        yield from sorted(near)


def _makes(bec: Regulator, full_v: float, least_v: float) -> bool:
    """Whether it makes its volts of the pack, from a full one to the least its conditions see."""
    if bec.kind == "boost":
        return full_v < bec.set_v
    return bec.kind == "buckboost" or bec.ceiling_v(least_v, bec.rating_a / 2) > bec.set_v


def _supplies(case: SolvedPlan, movable: set[str]) -> dict[str, Supply]:
    """Every rail with what is asked of it by what does not move."""
    plan, conditions = case.plan, case.pack_conditions()
    above = {rail.id: tuple(_above(case, rail.id)) for rail in plan.rails}
    asked = {rail.id: {c.id: case.rail(rail.id).states[c.id].asked_a for c in conditions} for rail in plan.rails}
    for device in plan.devices:
        if device.id not in movable or device.feed is None:
            continue
        for c in conditions:
            # What it asks now, as the plan is solved: taken off here and all the way up.
            amps = case.device(device.id).states[c.id].asked_a
            asked[device.feed.rail][c.id] -= amps
            for name, factor in above[device.feed.rail]:
                asked[name][c.id] -= amps * factor
    found = {}
    for rail in plan.rails:
        states = case.rail(rail.id).states
        usable = {c.id: states[c.id].usable_a if states[c.id].limits else float("inf") for c in conditions}
        found[rail.id] = Supply(rail.id, {c: max(a, 0.0) for c, a in asked[rail.id].items()}, usable, above[rail.id])
    return found


def _above(case: SolvedPlan, rail: str) -> Iterator[tuple[str, float]]:
    """Rails on the way up with their amps for one ampere at the first."""
    plan, graph = case.plan, graph_of(case.plan)
    factor, below = 1.0, rail
    for name in graph.climb(rail)[1:]:
        feeding = [s for s in plan.supplies_into(below) if graph.feeding_rail(s.input) == name] or list(
            plan.supplies_into(below)
        )
        if feeding and isinstance(feeding[0], Regulator) and feeding[0].switching:
            volts = [case.rail(name).states[c.id].volts_v for c in case.pack_conditions()]
            least = min((v for v in volts if v > 1.0), default=feeding[0].set_v)
            factor *= feeding[0].set_v / (EFFICIENCY_FRAC * least)
        yield name, factor
        below = name


def is_picture(plan: Plan, device: str) -> bool:
    return plan.device_of[device].kind in VIDEO_KINDS
