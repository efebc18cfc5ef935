"""CSV in and out: parts of the shelf, and a plan's budget. Cells that a spreadsheet would run as formulas are neutralised."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from typing import Any

from yardmeter.core.answers.model import Budget
from yardmeter.core.errors import FormatError, PlanError, QuantityError
from yardmeter.core.parts import Part, load_part
from yardmeter.core.plan import Device, Plan
from yardmeter.core.units import parse_draw, plain_number

MAX_BYTES = 2_000_000
MAX_ROWS = 5_000
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff]")
"""What no spreadsheet reads; a note's line breaks stand inside their quoted cell."""
_THROTTLE = re.compile(r"throttle_[0-9]{1,3}(\.[0-9]{1,6})?")
FORMULA_START = ("=", "+", "-", "@", "\t", "\r")
COLUMNS = (
    "key", "name", "kind", "weight_g", "provenance", "nominal_v", "min_v", "max_v", "brownout_v", "law", "device_kind", "idle",
    "typical", "peak", "input_max_v", "set_v", "rating_a", "regulator", "values", "note",
)  # fmt: skip
WORDS = ("dielectric", "inline.kind")
"""Values that are no numbers."""
NAMED_SINCE = 2
"""Version of the document whose names of values, beside today's, a file may use."""
DRAWS = ("idle", "typical", "peak")


def neutral(cell: object) -> str:
    """The cell's text; one that starts like a formula gets an apostrophe before it, which spreadsheets hide."""
    text = "" if cell is None else _CONTROL.sub(" ", str(cell))
    try:
        float(text)
    except ValueError:
        return f"'{text}" if text.startswith(FORMULA_START) else text
    return text


def plain(cell: str) -> str:
    """A read cell without the apostrophe that neutralised it."""
    return cell[1:] if cell[:1] == "'" and cell[1:].startswith(FORMULA_START) else cell


def _write(head: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([neutral(cell) for cell in row] for row in rows)
    return out.getvalue()


def write_parts(parts: Iterable[Part]) -> str:
    """Devices, BECs and plain parts as CSV; what is not flat (boards, packs, devices with outputs or several ways in) stays in the shelf's JSON."""
    rows = []
    for part in parts:
        if part.kind in ("board", "pack") or part.outputs or (part.device and part.device.ways):
            continue
        row: dict[str, object] = {"key": part.key, "name": part.name, "kind": part.kind, "weight_g": part.weight_g}
        row |= {"provenance": part.provenance, "note": part.note}
        if part.device:
            d = part.device
            row |= {
                "nominal_v": d.nominal_v,
                "min_v": d.min_v,
                "max_v": d.max_v,
                "brownout_v": d.brownout_v,
                "law": d.law,
                "device_kind": d.kind,
            }
            for state in DRAWS:
                draw = getattr(d.draws, state)
                row[state] = f"{draw.value:g}{draw.unit}" + (f"@{draw.at_v:g}V" if draw.at_v else "")
            row["values"] = _pairs(_device_values(d))
        elif part.bec:
            row |= {
                "input_max_v": part.bec.input_max_v,
                "set_v": part.bec.set_v,
                "rating_a": part.bec.rating_a,
                "regulator": part.bec.kind,
            }
        else:
            row["values"] = _pairs(getattr(part, part.kind).model_dump(exclude_none=True, exclude={"kind"}))
        rows.append([row.get(column) for column in COLUMNS])
    return _write(COLUMNS, rows)


def _pairs(values: dict[str, Any]) -> str:
    """`name=number` pairs; what stands inside another has its name in front, `inline.melts_a2s`."""
    inner = {f"{k}.{name}": one for k, v in values.items() if isinstance(v, dict) for name, one in v.items()}
    values = {k: v for k, v in values.items() if not isinstance(v, dict)} | inner
    return "; ".join(f"{k}={v}" if isinstance(v, str) else f"{k}={v:g}" for k, v in values.items())


def _device_values(device: Device) -> dict[str, float | str]:
    """What only some devices have: the LED string, and a motor group's current over throttle."""
    values: dict[str, float | str] = {f"throttle_{p.throttle_frac * 100:g}": p.amps for p in device.throttle}
    if device.led:
        values |= {"forward_v": device.led.forward_v, "series": device.led.series}
        values |= {"strings": device.led.strings, "resistor_ohm": device.led.resistor_ohm, "max_a": device.led.max_a}
    return values


def read_parts(text: str) -> tuple[Part, ...]:
    """Parts from CSV, all or none. Raises FormatError whose problems name line, field and remedy."""
    if len(text.encode()) > MAX_BYTES:
        raise FormatError(f"The file is larger than {MAX_BYTES // 1_000_000} MB.", remedy="Split it.")
    try:
        lines = list(csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline=""), strict=True))
    except csv.Error as error:
        raise FormatError(
            f"Not a CSV file: {error}.", remedy="Save it as CSV with commas, quotes doubled inside quotes."
        ) from None
    names = [cell.strip() for cell in lines[0]] if lines else []
    missing = [column for column in ("key", "name", "kind") if column not in names]
    if missing:
        raise FormatError(
            f"The first line does not name {', '.join(missing)}.",
            where="line 1",
            remedy=f"The columns are {', '.join(COLUMNS)}.",
        )
    if len(lines) > MAX_ROWS:
        raise FormatError(f"More than {MAX_ROWS} parts.", where=f"line {MAX_ROWS}", remedy="Split the file.")
    parts: list[Part] = []
    problems: list[PlanError] = []
    seen: dict[str, int] = {}
    for line, cells in enumerate(lines[1:], start=2):
        if not any(cell.strip() for cell in cells):
            continue
        row = dict.fromkeys(names, "") | dict(zip(names, (plain(cell.strip()) for cell in cells), strict=False))
        try:
            part = _read_part(row)
        except (PlanError, QuantityError, FormatError) as error:
            for one in getattr(error, "problems", (error,)):
                problems.append(
                    PlanError(
                        one.what,
                        where=f"line {line}, {one.where}".rstrip(", "),
                        remedy=one.remedy or "Correct this cell.",
                    )
                )
            continue
        if part.key in seen:
            problems.append(
                PlanError(
                    f"The key {part.key} stands on line {seen[part.key]} already.",
                    where=f"line {line}, key",
                    remedy="Keys are unique.",
                )
            )
        seen[part.key] = line
        parts.append(part)
    if problems:
        raise PlanError(
            f"{len(problems)} cells cannot be read; nothing was stored.",
            where=problems[0].where,
            remedy=problems[0].what,
            problems=tuple(problems),
        )
    return tuple(parts)


def _number(row: dict[str, str], column: str) -> float | None:
    cell = row.get(column, "")
    if not cell:
        return None
    try:
        return plain_number(cell)
    except ValueError:
        raise FormatError(
            f"“{cell}” is not a number.", where=column, remedy="Write a plain number in the unit of the column's name."
        ) from None


def _read_part(row: dict[str, str]) -> Part:
    kind = row["kind"]
    provenance = row.get("provenance") or "sheet"
    data: dict[str, object] = {
        "key": row["key"],
        "name": row["name"],
        "kind": kind,
        "note": row.get("note", ""),
        "provenance": provenance,
    }
    data["weight_g"] = _number(row, "weight_g") or 0.0
    if kind == "device":
        draws = {}
        for state in DRAWS:
            try:
                typed = parse_draw(row.get(state, ""))
            except QuantityError as error:
                raise FormatError(error.what, where=state, remedy=error.remedy) from None
            draws[state] = {"value": typed.value, "unit": typed.unit, "at_v": typed.at_v, "provenance": provenance}
        volts = {name: _number(row, name) for name in ("nominal_v", "min_v", "max_v", "brownout_v")}
        values = _values(row.get("values", ""))
        throttle = [
            {"throttle_frac": float(name.removeprefix("throttle_")) / 100, "amps": amps}
            for name, amps in values.items()
            if _THROTTLE.fullmatch(name)
        ]
        led = {name: value for name, value in values.items() if not name.startswith("throttle_")}
        device: dict[str, object] = {"id": row["key"], "name": row["name"], "kind": row.get("device_kind") or "other"}
        device |= {"law": row.get("law") or "current", "draws": draws, "throttle": throttle, "led": led or None}
        data["device"] = {**device, **volts}
    elif kind == "bec":
        numbers = {
            name: value for name in ("input_max_v", "set_v", "rating_a") if (value := _number(row, name)) is not None
        }
        refs = {"input": "in", "output": "out", "board": "ground", "place": "alone"}
        data["bec"] = {"id": row["key"], "name": row["name"], "kind": row.get("regulator") or "buck", **refs, **numbers}
    elif kind in ("board", "pack"):
        raise FormatError(
            f"A {kind} cannot be read from CSV.", where="kind", remedy="Devices, BECs and plain parts can."
        )
    elif kind in ("clamp", "diode"):
        data[kind] = _values(row.get("values", ""))
    else:
        data["values"] = _nested(_values(row.get("values", "")))
    return load_part(data, NAMED_SINCE)


def _nested(values: dict[str, float | str]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name, value in values.items():
        outer, dot, inner = name.partition(".")
        if dot:
            found.setdefault(outer, {})[inner] = value
        else:
            found[name] = value
    return found


def _values(cell: str) -> dict[str, float | str]:
    found: dict[str, float | str] = {}
    for piece in filter(None, (one.strip() for one in cell.split(";"))):
        name, equals, value = piece.partition("=")
        try:
            found[name.strip()] = value.strip() if name.strip() in WORDS else plain_number(value)
        except ValueError:
            raise FormatError(
                f"“{piece}” is not name=number.", where="values", remedy="Write for example farads=470e-6; volts=35."
            ) from None
        if not equals:
            raise FormatError(f"“{piece}” has no value.", where="values", remedy="Write for example farads=470e-6.")
    return found


def write_budget(plan: Plan, answer: Budget) -> str:
    """One line per rail and condition, then one per device and condition: plain numbers in SI units."""
    head = ("what", "name", "condition", "volts_v", "asked_a", "given_a", "usable_a", "spare_a", "verdict", "source")
    rows: list[Sequence[object]] = []
    for rail in answer.rails:
        for condition in answer.conditions:
            s = rail.states[condition.id]
            numbers = [round(v, 4) for v in (s.volts_v, s.asked_a, s.given_a, s.usable_a, s.spare_a)]
            rows.append(
                (
                    "rail",
                    rail.name,
                    condition.name,
                    *numbers,
                    "short" if s.short else "ok",
                    " + ".join(plan.title(x) for x in s.sources),
                )
            )
    for device in answer.devices:
        for condition in answer.conditions:
            d = device.states[condition.id]
            numbers = [round(v, 4) for v in (d.pin_v, d.asked_a, d.given_a)]
            rows.append(
                (
                    "device",
                    device.name,
                    condition.name,
                    *numbers,
                    "",
                    "",
                    d.verdict,
                    " + ".join(plan.title(x) for x in d.sources),
                )
            )
    return _write(head, rows)
