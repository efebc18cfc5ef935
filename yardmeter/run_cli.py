"""Scenarios without a browser: `simulate` lists them, runs one, and writes JSON or CSV."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from yardmeter.answered import answered
from yardmeter.core.errors import YardError
from yardmeter.core.formats.run_csv import write_run_csv
from yardmeter.core.plan import Plan, Regulator, Scenario
from yardmeter.core.runs import Run, find_scenario, read_recording, run_scenario, scenarios_of
from yardmeter.core.runs.recorded import decoded
from yardmeter.core.runs.run import STATES
from yardmeter.words.run import act_words, event_words

JSON_DIGITS = 7


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard simulate", description="The plan in time.")
    parser.add_argument("plan", type=Path, help="a plan in the open JSON format")
    parser.add_argument("--scenario", help="the id of a scenario")
    parser.add_argument("--csv", action="store_true", help="a table over time instead of JSON")
    parser.add_argument("--list", action="store_true", help="name the scenarios")
    parser.add_argument("--recording", type=Path, help="a flight that was recorded: CSV with time and throttle or amps")
    options = parser.parse_args(arguments)
    return answered(
        options.plan, lambda plan: _said(plan, options.scenario, options.csv, options.list, options.recording)
    )


def _said(plan: Plan, scenario: str | None, as_csv: bool, only_list: bool, recording: Path | None = None) -> str:
    if only_list:
        return listed(plan)
    if recording is not None:
        run = run_scenario(plan, _recorded(plan, recording))
        return as_table(run) if as_csv else json.dumps(as_data(run), indent=1) + "\n"
    if scenario is None:
        raise YardError("Which scenario?", where="--scenario", remedy="Name one by its id; --list tells them.")
    run = run_scenario(plan, find_scenario(plan, scenario))
    return as_table(run) if as_csv else json.dumps(as_data(run), indent=1) + "\n"


def _recorded(plan: Plan, file: Path) -> Scenario:
    try:
        return read_recording(plan, decoded(file.read_bytes()), file.stem)
    except OSError as error:
        raise YardError(
            f"The recording cannot be read ({error.strerror}).",
            where=str(file),
            remedy="Look at its name and its place.",
        ) from None
    except YardError as error:
        raise YardError(error.what, where=f"{file.name}, {error.where}", remedy=error.remedy) from None


def listed(plan: Plan) -> str:
    """The scenarios of a plan, a line each."""
    return "".join(f"{one.id:20} {one.duration_s:>8g} s  {one.name}\n" for one in scenarios_of(plan))


def as_data(run: Run) -> dict[str, Any]:
    """A run as plain data: volts [V], amps [A], temperatures [°C] and states over time [s], and what happened."""
    plan = run.plan

    def plain(values: Any) -> list[float]:
        return [float(f"{one:.{JSON_DIGITS}g}") for one in values.tolist()]

    supplies: dict[str, Any] = {}
    for one in plan.supplies:
        supplies[one.id] = {"amps_a": plain(run.supply_a(one.id))}
        if isinstance(one, Regulator):
            supplies[one.id]["temp_c"] = plain(run.temp_c(one.id))
    for inlet in plan.inlets:
        supplies[inlet.id] = {"amps_a": plain(run.supply_a(inlet.id) if run.converter(inlet.id) is not None else run.load_a(inlet.id))}  # fmt: skip
    return {
        "plan": plan.name,
        "scenario": run.scenario.id,
        "stuck_s": run.stuck_s,
        "times_s": run.times_s.tolist(),
        "rails": {one.id: {"volts_v": plain(run.rail_v(one.id))} for one in plan.rails},
        "devices": {
            one.id: {
                "pin_v": plain(run.pin_v(one.id)),
                "amps_a": plain(run.load_a(one.id)),
                "states": [STATES[k] for k in run.mode(one.id).tolist()],
            }
            for one in plan.devices
        },
        "supplies": supplies,
        "clamps": {
            one.id: {"volts_v": plain(run.pin_v(one.id)), "amps_a": plain(run.load_a(one.id))}
            for one in plan.clamps
            if one.fitted
        },
        "pack": {"amps_a": plain(run.pack_a), "charge_c": plain(run.charge_c)},
        "events": [
            {
                "at_s": one.at_s,
                "code": str(one.code),
                "element": one.element,
                "condition": run.timetable.condition.id,
                "words": act_words(plan, run.scenario.acts[one.act])
                if one.act is not None
                else event_words(plan, one.code, one.element, one.period_s, one.rounds),
                **({"period_s": one.period_s, "rounds": one.rounds} if one.rounds else {}),
            }
            for one in run.events
        ],
    }


def as_table(run: Run) -> str:
    """A run as CSV: a row for each step, a column for each quantity."""
    return write_run_csv(run)


if __name__ == "__main__":
    raise SystemExit(main())
