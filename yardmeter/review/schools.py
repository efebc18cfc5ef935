"""Schools of grounding, side by side: the ways the core tried on this build, in words and cells of a table."""

from __future__ import annotations

import math

from yardmeter.core.answers.model import Answer
from yardmeter.core.choices.grounding import MOTOR_MOST_A, GroundFigures, GroundWay, esc_ways, video_ways
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.core.units import format_db, format_si

FULL_PICTURE_V = 0.714
"""Black to white of 1 Vpp video [V]; SMPTE ST 170."""
LEAST_V = 1e-6
"""What is less than this is nothing [V]."""
LEAST_WIRE_M = 1e-4
"""What is less than this is no wire [m]."""


class SchoolCell(Answer):
    """One number of a way, in SI units; `bad` where it is above what its signal stands."""

    label: str
    text: str
    value: float
    bad: bool = False


class School(Answer):
    """One way to build it: what to edit to get there, and what it gives. Refused where it cannot be built.

    `against` is what speaks against one that can.
    """

    key: str
    title: str
    edits: tuple[Edit, ...]
    cells: tuple[SchoolCell, ...]
    default: bool = False
    refused: str = ""
    against: str = ""


class SchoolTable(Answer):
    question: str
    why: str
    schools: tuple[School, ...]


def schools(plan: Plan) -> tuple[SchoolTable, ...]:
    """The questions this build raises: where video grounds go, and whether ESC signals have grounds."""
    video = _table(
        plan,
        "Where do the grounds of the video parts go?",
        "Default: the way with the least change in the video references; of equal ones the least steady shift,"
        " which only an input without a clamp shows; then the least to do.",
        video_ways(plan),
    )
    esc = _table(
        plan,
        "Does a ground run beside the ESC signals?",
        "Default: run it, and know the size of the loop it closes.",
        esc_ways(plan),
    )
    return tuple(table for table in (video, esc) if table.schools)


def _table(plan: Plan, question: str, why: str, ways: tuple[GroundWay, ...]) -> SchoolTable:
    return SchoolTable(question=question, why=why, schools=tuple(_school(plan, way) for way in ways))


def _school(plan: Plan, way: GroundWay) -> School:
    return School(
        key=way.key,
        title=_title(plan, way),
        edits=way.edits,
        cells=_cells(plan, way.figures) if way.figures else (),
        default=way.default,
        refused=_refused(plan, way),
    )


def _title(plan: Plan, way: GroundWay) -> str:
    match way.key:
        case "built":
            return "as built"
        case "star":
            return f"star at {plan.title(way.to)}"
        case "pair":
            return f"paired at {plan.title(way.to)}"
        case "chain":
            return f"chained through {plan.title(way.to)}"
        case "with":
            return "ground beside each ESC signal"
        case "without":
            return "no ESC signal grounds"


def _refused(plan: Plan, way: GroundWay) -> str:
    if way.cut:
        more = f" and {len(way.cut) - 3} more" if len(way.cut) > 3 else ""
        return f"{', '.join(plan.title(one) for one in way.cut[:3])}{more} would have no way back to the pack"
    return f"no operating point in {way.lost}" if way.lost else way.error


def _cells(plan: Plan, found: GroundFigures) -> tuple[SchoolCell, ...]:
    cells = []
    for one in found.shifts:
        name = plan.title(one.signal)
        cells.append(_cell(f"{name}, changing", _volts(one.changing_v), one.changing_v, one.bad))
        cells.append(_cell(f"{name}, steady", _volts(one.steady_v), one.steady_v))
    if found.changing_v is not None and found.steady_v is not None:
        seen = found.changing_v > LEAST_V
        level = format_db(20 * math.log10(found.changing_v / FULL_PICTURE_V)) if seen else "nothing"
        cells.append(_cell("worst change under full picture", level, found.changing_v, found.changing_bad))
        cells.append(_cell("worst steady shift", _volts(found.steady_v), found.steady_v))
    if found.esc_frac is not None:
        part = found.esc_frac
        cells.append(_cell("ESC signals, of their margin", f"{part:.0%}", part, part > 1))
    cells.append(_cell("loops", str(found.loops), found.loops))
    cells.append(_cell("largest loop", f"{found.area_m2 * 1e4:.0f} cm²", found.area_m2))
    much = found.motor_a > MOTOR_MOST_A
    cells.append(_cell("motor current in video returns", format_si(found.motor_a, "A"), found.motor_a, much))
    more = found.wire_m
    length = f"{'+' if more > 0 else '−'}{abs(more) * 1e3:.0f} mm" if abs(more) >= LEAST_WIRE_M else "–"
    cells.append(_cell("ground wire", length, more))
    return tuple(cells)


def _cell(label: str, text: str, value: float, bad: bool = False) -> SchoolCell:
    return SchoolCell(label=label, text=text, value=value, bad=bad)


def _volts(volts: float) -> str:
    return format_si(volts, "V") if volts > LEAST_V else "nothing"
