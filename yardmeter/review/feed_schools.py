"""Schools of feeding and protecting a video sender, computed side by side on this build."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.noise import noise_of
from yardmeter.core.answers.noise_solutions import noise_solutions
from yardmeter.core.checks.noise import VISIBLE_DB
from yardmeter.core.checks.relief import fit_regulator
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError, YardError
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.plan import Device, Plan, Rail, rail_title
from yardmeter.core.plan.operations import Edit, Move
from yardmeter.core.sizing.filters import try_filters
from yardmeter.core.units import format_db, format_si
from yardmeter.review.schools import School, SchoolCell, SchoolTable

REGULATED_V = (8.5, 10.5)
REGULATOR_V = 9.5
FIVE_V = (4.7, 5.3)
LARGEST_BEC_A = 30.0
"""Largest stand-alone regulator there is to buy for an aircraft; common practice, no source."""
TOO_LARGE = f"it draws more than a BEC of {LARGEST_BEC_A:g} A gives"
Option = tuple[str, str, tuple[Edit, ...]]
"""Key, title and edits of a school."""


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
    ways: list[Option] = [("built", "as built", ())]
    refused: list[School] = []
    regulated = _rail_near(plan, device, REGULATED_V)
    five = _rail_near(plan, device, FIVE_V)
    for rail in (regulated, five):
        if rail and rail.nominal_v:
            words = _unfit(device, rail.nominal_v)
            title = f"on the {rail_title(rail.name)}"
            if words:
                refused.append(School(key=rail.id, title=title, edits=(), cells=(), refused=words))
            else:
                ways.append((rail.id, title, (Move(device=device.id, rail=rail.id),)))
    if not regulated and not _unfit(device, REGULATOR_V):
        title = f"a BEC of {REGULATOR_V:g} V"
        if edits := _own_regulator(plan, device, REGULATOR_V):
            ways.append(("regulated", title, edits))
        else:
            refused.append(School(key="regulated", title=title, edits=(), cells=(), refused=TOO_LARGE))
    full = plan.pack.rest_v("full")
    esc = next((r for r in plan.rails if plan.board_of[r.board].kind == "esc" and r.nominal_v is None), None)
    if device.at_volts(full) != "high":
        to_pack = Move(device=device.id, rail=plan.pack.rail)
        ways.append(("pack-lc", "pack through an LC section", (to_pack, *_section(plan, device, to_pack, parts))))
        if esc:
            to_esc = Move(device=device.id, rail=esc.id)
            ways.append(("esc", "pack at the ESC capacitor", (to_esc, *_bulk(plan, esc.id, parts))))
    else:
        words = f"the full pack has {full:.1f} V, it takes {device.max_v:g} V: do not connect"
        refused.append(School(key="pack-lc", title="pack through an LC section", edits=(), cells=(), refused=words))
    feeds = SchoolTable(
        question=f"Where is {device.name} fed from?",
        why="Compare the picture, the headroom and the heat: more volts than it needs only make it hotter.",
        schools=(*(_school(plan, device, *way) for way in ways), *refused),
    )
    return feeds, _protection(plan, device, parts)


def _protection(plan: Plan, device: Device, parts: Sequence[Part]) -> SchoolTable:
    """Capacitor only, a BEC, both."""
    rail = next(
        (r.id for r in plan.rails if plan.board_of[r.board].kind == "esc" and r.nominal_v is None), plan.pack.rail
    )
    capacitor = tuple(_bulk(plan, rail, parts))
    volts = min(max(device.nominal_v, device.min_v * 1.05), device.max_v * 0.95)
    regulator = _own_regulator(plan, device, round(volts, 1))
    ways: list[Option] = [("built", "as built", ()), ("capacitor", "capacitor at the ESC only", capacitor)]
    if regulator:
        ways += [("bec", "a BEC of its own", regulator), ("both", "both", (*capacitor, *regulator))]
    return SchoolTable(
        question=f"What keeps the pack's noise from {device.name}?",
        why="By computed ripple and picture; a BEC also keeps braking spikes away.",
        schools=tuple(_school(plan, device, *way) for way in ways),
    )


def _rail_near(plan: Plan, device: Device, window: tuple[float, float]) -> Rail | None:
    """A regulated rail inside the window that lives on the pack and that the device is not on yet."""
    own = device.feed.rail if device.feed else None
    live = {rail for c in plan.conditions if c.on_pack for rail in graph_of(plan).reachable_rails(c)}
    near = [r for r in plan.rails if r.nominal_v and window[0] <= r.nominal_v <= window[1]]
    return next((r for r in near if r.id != own and r.id in live), None)


def _unfit(device: Device, volts: float) -> str:
    """Why a device cannot live on these volts; nothing when it can."""
    if device.at_volts(volts) == "high":
        return f"{volts:g} V, it takes {device.max_v:g} V: do not connect"
    return f"{volts:g} V, it needs {device.min_v:g} V" if device.at_volts(volts) != "ok" else ""


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


def _school(plan: Plan, device: Device, key: str, title: str, edits: tuple[Edit, ...]) -> School:
    try:
        made = apply_edits(plan, edits) if edits else plan
    except YardError as error:
        return School(key=key, title=title, edits=(), cells=(), refused=error.what)
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
    return School(key=key, title=title, edits=edits, cells=tuple(cells))
