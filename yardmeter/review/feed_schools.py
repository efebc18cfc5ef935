"""Schools of feeding and protecting a video sender, computed side by side on this build."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
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
from yardmeter.core.plan import Device, Plan, Rail, rail_title
from yardmeter.core.plan.operations import Edit, Move
from yardmeter.core.sizing.filters import try_filters
from yardmeter.core.units import format_db, format_si
from yardmeter.review.schools import School, SchoolCell, SchoolTable
from yardmeter.words.fitness import warning

REGULATED_V = (8.5, 10.5)
REGULATOR_V = 9.5
FIVE_V = (4.7, 5.3)
LARGEST_BEC_A = 30.0
"""Largest stand-alone regulator there is to buy for an aircraft; common practice, no source."""
TOO_LARGE = f"it draws more than a BEC of {LARGEST_BEC_A:g} A gives"


def _no_more() -> tuple[Edit, ...]:
    return ()


@dataclass(frozen=True)
class Way:
    """A school to be tried: where the device goes by `edits`, and what is added where it can live there."""

    key: str
    title: str
    edits: tuple[Edit, ...] = ()
    more: Callable[[], tuple[Edit, ...]] = _no_more
    refused: str = ""


def feed_schools(plan: Plan, device_id: str, parts: Sequence[Part]) -> tuple[SchoolTable, ...]:
    """Where a device could be fed, and how a pack-fed one could be protected. Raises EditError for what is no device."""
    device = plan.device_of.get(device_id)
    if device is None or device.feed is None:
        raise EditError("Choose a device that is fed.", where=device_id, remedy="Noise comes along a feed.")
    if device.kind == "motor":
        raise EditError(
            f"{device.name} are fed by their ESC alone.",
            where=device_id,
            remedy="Choose a camera, a sender, a receiver.",
        )
    was = fitness(plan, device.id).at
    ways: list[Way] = [Way("built", "as built")]
    near = {window: _rail_near(plan, device, window) for window in (REGULATED_V, FIVE_V)}
    ways += [
        Way(rail.id, f"on the {rail_title(rail.name)}", (Move(device=device.id, rail=rail.id),))
        for rail in near.values()
        if rail
    ]
    if not near[REGULATED_V] and device.lives_between(REGULATOR_V, REGULATOR_V):
        own = _own_regulator(plan, device, REGULATOR_V)
        ways.append(Way("regulated", f"a BEC of {REGULATOR_V:g} V", own, refused="" if own else TOO_LARGE))
    to_pack = Move(device=device.id, rail=plan.pack.rail)
    ways.append(
        Way("pack-lc", "pack through an LC section", (to_pack,), partial(_section, plan, device, to_pack, parts))
    )
    esc = next((r for r in plan.rails if plan.board_of[r.board].kind == "esc" and r.nominal_v is None), None)
    if esc:
        to_esc = Move(device=device.id, rail=esc.id)
        ways.append(Way("esc", "pack at the ESC capacitor", (to_esc,), partial(_bulk, plan, esc.id, parts)))
    feeds = SchoolTable(
        question=f"Where is {device.name} fed from?",
        why="Compare the picture, the headroom and the heat: more volts than it needs only make it hotter.",
        schools=_schools(plan, device, ways, was),
    )
    return feeds, _protection(plan, device, parts, was)


def _protection(plan: Plan, device: Device, parts: Sequence[Part], was: SolvedPlan) -> SchoolTable:
    """Capacitor only, a BEC, both."""
    rail = next(
        (r.id for r in plan.rails if plan.board_of[r.board].kind == "esc" and r.nominal_v is None), plan.pack.rail
    )
    capacitor = _bulk(plan, rail, parts)
    volts = min(max(device.nominal_v, device.min_v * 1.05), device.max_v * 0.95)
    regulator = _own_regulator(plan, device, round(volts, 1))
    ways = [Way("built", "as built"), Way("capacitor", "capacitor at the ESC only", capacitor)]
    if regulator:
        ways += [Way("bec", "a BEC of its own", regulator), Way("both", "both", (*capacitor, *regulator))]
    return SchoolTable(
        question=f"What keeps the pack's noise from {device.name}?",
        why="By computed ripple and picture; a BEC also keeps braking spikes away.",
        schools=_schools(plan, device, ways, was),
    )


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


def _bulk(plan: Plan, rail: str, parts: Sequence[Part]) -> tuple[Edit, ...]:
    if any(one.kind == "capacitor" and one.at == rail for one in plan.filters if one.fitted):
        return ()
    trials = [t for t in try_filters(plan, rail, "bulk", parts).trials if not t.refused]
    return trials[0].edits if trials else ()


def _schools(plan: Plan, device: Device, ways: Sequence[Way], was: SolvedPlan) -> tuple[School, ...]:
    """The ways in their order, those that cannot be built last."""
    found = [_school(plan, device, way, was) for way in ways]
    refused = {one.key for one in found if one.refused}
    # What the pack kills is told of once, not of every board at the pack's volts.
    twice = {"esc"} if {"esc", "pack-lc"} <= refused else set()
    return tuple(sorted((one for one in found if one.key not in twice), key=lambda one: bool(one.refused)))


def _school(plan: Plan, device: Device, way: Way, was: SolvedPlan) -> School:
    """Refused where the device would come to volts that are not for it; what else speaks against it stands beside its numbers."""
    if way.refused:
        return School(key=way.key, title=way.title, edits=(), cells=(), refused=way.refused)
    try:
        moves = any(isinstance(one, Move) for one in way.edits)
        found = fitness(apply_edits(plan, way.edits), device.id, was) if moves else judge(was, device.id, was)
        if found.window and moves:
            words = warning(found.at.plan, found.window)
            return School(key=way.key, title=way.title, edits=(), cells=(), refused=words)
        edits = (*way.edits, *way.more())
        made = apply_edits(plan, edits) if edits else plan
    except YardError as error:
        return School(key=way.key, title=way.title, edits=(), cells=(), refused=error.what)
    words = warning(found.at.plan, found.heavy[0]) if found.heavy else ""
    return School(key=way.key, title=way.title, edits=edits, cells=_cells(plan, made, device), against=words)


def _cells(plan: Plan, made: Plan, device: Device) -> tuple[SchoolCell, ...]:
    solved = solve_conditions(made)
    found = budget(solved)
    noise = noise_of(made, noise_solutions(solved))
    state = next(d for d in found.devices if d.id == device.id)
    pin = next(p for p in noise.pins if p.device == device.id)
    ripple = max(pin.total_v.values(), default=0.0)
    cells = [
        SchoolCell(label="ripple at its pins", text=format_si(ripple, "V"), value=ripple, bad=ripple > pin.tolerated_v),
    ]
    levels = [level for video in noise.videos for level in video.level_db.values()]
    if levels:
        worst = max(levels)
        cells.append(SchoolCell(label="picture, worst", text=format_db(worst), value=worst, bad=worst > VISIBLE_DB))
    live = [s for s in state.states.values() if s.verdict not in ("off", "dead", "unknown")]
    high, low = max((s.pin_v for s in live), default=0.0), min((s.pin_v for s in live), default=0.0)
    cells += [
        SchoolCell(label="most volts", text=format_si(high, "V"), value=high, bad=device.at_volts(high) == "high"),
        SchoolCell(
            label="least volts", text=format_si(low, "V"), value=low, bad=device.at_volts(low) in ("low", "reset")
        ),
    ]
    hot = max((s.still_temp_c or 0.0 for supply in found.supplies for s in supply.states.values()), default=0.0)
    cells.append(SchoolCell(label="hottest regulator, still air", text=f"{hot:.0f} °C", value=hot, bad=hot > 110))
    spare = min((s.spare_a for r in found.rails for s in r.states.values() if s.limits), default=0.0)
    cells.append(SchoolCell(label="least spare of any rail", text=format_si(spare, "A"), value=spare, bad=spare < 0))
    added = sum(b.weight_g for b in made.boards) - sum(b.weight_g for b in plan.boards)
    added += sum(f.weight_g * f.count for f in made.filters) - sum(f.weight_g * f.count for f in plan.filters)
    cells.append(SchoolCell(label="weight added", text=f"{added:.1f} g" if added else "–", value=added))
    return tuple(cells)
