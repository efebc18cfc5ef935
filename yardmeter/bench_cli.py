"""The bench without a browser: points, faults and readings of a plan file as JSON."""

from __future__ import annotations

import argparse
import json
import math
from pathlib import Path
from typing import Any

from yardmeter.answered import answered
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.faults import consequence, every_fault, faulted, find_fault, powered_twin
from yardmeter.core.plan import Plan
from yardmeter.core.probing import MODES, Mode, Reading, find_point, points, read
from yardmeter.core.probing.passive import passive_table
from yardmeter.core.probing.powered import corners, read_range
from yardmeter.words.bench import consequence_words, fault_words, reading_words


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard")
    parser.add_argument("command", choices=["points", "faults", "probe"])
    parser.add_argument("plan", type=Path, help="a plan in the open JSON format")
    parser.add_argument("--red", help="point the red probe is on")
    parser.add_argument("--black", help="point the black probe is on")
    parser.add_argument("--mode", choices=MODES, default="ohms")
    parser.add_argument("--condition", help="for volts and amps; the first one on the pack when left out")
    parser.add_argument("--fault", help="a fault that is in the build")
    options = parser.parse_args(arguments)
    if options.command == "probe" and not (options.red and options.black):
        parser.error("probe needs --red and --black; `points` lists where they can be put")
    return answered(options.plan, lambda plan: json.dumps(asked(plan, options), indent=1, ensure_ascii=False) + "\n")


def asked(plan: Plan, options: argparse.Namespace) -> Any:
    """What the command line asks of a plan."""
    if options.command == "points":
        return listed_points(plan)
    if options.command == "faults":
        return listed_faults(plan)
    return probed(plan, options.red, options.black, options.mode, options.condition, options.fault)


def listed_points(plan: Plan) -> list[dict[str, str]]:
    """Where probes can be put."""
    return [{"id": one.id, "kind": one.kind, "name": one.name} for one in points(passive_table(plan))]


def listed_faults(plan: Plan) -> list[dict[str, Any]]:
    """Every fault with its weight and what it would do under power."""
    table, solved = passive_table(plan), solve_plan(plan)
    told = []
    for fault in every_fault(table):
        would = consequence(table, solved, fault)
        told.append(
            {
                "id": fault.id,
                "kind": fault.kind,
                "what": fault_words(plan, fault),
                "weight": fault.weight,
                "dangerous": would.dangerous,
                "under_power": consequence_words(plan, would),
            }
        )
    return told


def probed(plan: Plan, red: str, black: str, mode: Mode, condition: str | None, fault_id: str | None) -> dict[str, Any]:
    """One reading, of the sound build or of one with a fault."""
    sound = passive_table(plan)
    fault = find_fault(sound, fault_id) if fault_id else None
    if mode in ("volts", "amps"):
        twin = powered_twin(plan, fault) if fault else plan
        table = passive_table(twin)
        chosen = twin.condition(condition) if condition else next((c for c in twin.conditions if c.on_pack), twin.conditions[0])  # fmt: skip
        found = read_range(corners(twin, chosen), chosen, table, find_point(table, red), find_point(table, black), mode)
        return as_json(plan, found)
    table = faulted(sound, fault) if fault else sound
    return as_json(plan, read(table, find_point(table, red), find_point(table, black), mode))


def as_json(plan: Plan, reading: Reading) -> dict[str, Any]:
    """`high` is null where the meter shows that nothing conducts; `beep_s` is null where it does not end."""
    told: dict[str, Any] = {
        "mode": reading.mode,
        "low": reading.low,
        "usual": reading.usual,
        "high": reading.high,
        "unit": reading.unit,
    }
    if reading.mode == "beep":
        lasts = [reading.beep_low_s, reading.beep_high_s]
        told["beeps"] = reading.beeps
        told["beep_s"] = None if reading.beeps == "steady" else 0.0 if reading.beeps == "no" else reading.beep_high_s
        told["beep_range_s"] = [None if math.isinf(one) else one for one in lasts]
    return {**told, "why": reading_words(plan, reading)}


if __name__ == "__main__":
    raise SystemExit(main())
