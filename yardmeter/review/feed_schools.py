"""Schools of feeding and protecting a device, side by side: the ways the core tried on this build, in words and cells."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.choices.feeding import LARGEST_BEC_A, REGULATOR_V, FeedFigures, FeedWay, fed, feed_ways, protections
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan, rail_title
from yardmeter.core.units import format_db, format_si
from yardmeter.review.schools import School, SchoolCell, SchoolTable
from yardmeter.words.fitness import warning

TOO_LARGE = f"it draws more than a BEC of {LARGEST_BEC_A:g} A gives"
TITLES = {
    "built": "as built",
    "regulated": f"a BEC of {REGULATOR_V:g} V",
    "pack-lc": "pack through an LC section",
    "esc": "pack at the ESC capacitor",
    "capacitor": "capacitor at the ESC only",
    "bec": "a BEC of its own",
    "both": "both",
}


def feed_schools(plan: Plan, device_id: str, parts: Sequence[Part]) -> tuple[SchoolTable, ...]:
    """Where a device could be fed, and how a pack-fed one could be protected. Raises EditError for what is no device."""
    name = fed(plan, device_id).name
    return (
        SchoolTable(
            question=f"Where is {name} fed from?",
            why="Compare the picture, the headroom and the heat: more volts than it needs only make it hotter.",
            schools=tuple(_school(plan, way) for way in feed_ways(plan, device_id, parts)),
        ),
        SchoolTable(
            question=f"What keeps the pack's noise from {name}?",
            why="By computed ripple and picture; a BEC also keeps braking spikes away.",
            schools=tuple(_school(plan, way) for way in protections(plan, device_id, parts)),
        ),
    )


def _school(plan: Plan, way: FeedWay) -> School:
    at = way.at or plan
    refused = warning(at, way.refused) if way.refused else TOO_LARGE if way.too_large else way.error
    return School(
        key=way.key,
        title=TITLES.get(way.key) or f"on the {rail_title(plan.rail_of[way.rail].name)}",
        edits=way.edits,
        cells=_cells(way.figures) if way.figures else (),
        refused=refused,
        against=warning(at, way.against) if way.against else "",
    )


def _cells(found: FeedFigures) -> tuple[SchoolCell, ...]:
    cells = [_cell("ripple at its pins", format_si(found.ripple_v, "V"), found.ripple_v, found.disturbed)]
    if found.picture_db is not None:
        cells.append(_cell("picture, worst", format_db(found.picture_db), found.picture_db, found.visible))
    return (
        *cells,
        _cell("most volts", format_si(found.most_v, "V"), found.most_v, found.too_high),
        _cell("least volts", format_si(found.least_v, "V"), found.least_v, found.too_low),
        _cell("hottest regulator, still air", f"{found.still_temp_c:.0f} °C", found.still_temp_c, found.hot),
        _cell("least spare of any rail", format_si(found.spare_a, "A"), found.spare_a, found.spare_a < 0),
        _cell("weight added", f"{found.added_g:.1f} g" if found.added_g else "–", found.added_g),
    )


def _cell(label: str, text: str, value: float, bad: bool = False) -> SchoolCell:
    return SchoolCell(label=label, text=text, value=value, bad=bad)
