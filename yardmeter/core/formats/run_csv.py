"""A run as CSV: a row for each step, a column for each quantity."""

from __future__ import annotations

import csv
import io
from typing import Any

from yardmeter.core.plan import Regulator
from yardmeter.core.runs.run import STATES, Run

WORDS = {"volts_v": "V", "pin_v": "V at its pins", "amps_a": "A", "state": "state", "temp_c": "°C"}


def write_run_csv(run: Run, *, names: bool = False) -> str:
    """Every step of a run. Columns are called by ids and fields, or by `names` and units as a builder reads them."""
    plan = run.plan

    def column(element: str, field: str) -> str:
        return (
            f"{'Pack' if element == 'pack' else plan.title(element)} [{WORDS[field]}]"
            if names
            else f"{element}.{field}"
        )

    columns: list[tuple[str, list[Any]]] = [("time [s]" if names else "time_s", run.times_s.tolist())]
    for rail in plan.rails:
        columns.append((column(rail.id, "volts_v"), run.rail_v(rail.id).tolist()))
    for device in plan.devices:
        columns.append((column(device.id, "pin_v"), run.pin_v(device.id).tolist()))
        columns.append((column(device.id, "amps_a"), run.load_a(device.id).tolist()))
        columns.append((column(device.id, "state"), [STATES[k] for k in run.mode(device.id).tolist()]))
    for supply in plan.supplies:
        columns.append((column(supply.id, "amps_a"), run.supply_a(supply.id).tolist()))
        if isinstance(supply, Regulator):
            columns.append((column(supply.id, "temp_c"), run.temp_c(supply.id).tolist()))
    columns.append((column("pack", "amps_a"), run.pack_a.tolist()))
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow([name for name, _ in columns])
    for row in zip(*(values for _, values in columns), strict=True):
        table.writerow([f"{one:.8g}" if isinstance(one, float) else one for one in row])
    return out.getvalue()
