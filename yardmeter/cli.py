"""The core without a browser: `solve` and `netlist` of a plan file."""

from __future__ import annotations

import argparse
from pathlib import Path

from yardmeter.answered import answered
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.small_signal import operating_point
from yardmeter.core.errors import UnknownElementError
from yardmeter.core.formats.ac_netlist import write_ac_netlist
from yardmeter.core.formats.netlist import write_netlist
from yardmeter.core.formats.run_netlist import write_run_netlist
from yardmeter.core.network.keys import ground_node, pin_node
from yardmeter.core.plan import Plan
from yardmeter.core.runs import find_scenario, run_scenario
from yardmeter.core.solver.ac import log_sweep
from yardmeter.demo import starter_parts
from yardmeter.review import Analysis, review
from yardmeter.review.fixes import FixesOf, tried_fixes
from yardmeter.review.noise_review import all_findings, review_noise


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard")
    parser.add_argument("command", choices=["solve", "netlist"])
    parser.add_argument("plan", type=Path, help="a plan in the open JSON format")
    parser.add_argument("--condition", help="only this condition; the first one for a netlist when left out")
    parser.add_argument(
        "--scenario", metavar="ID", help="the netlist of a scenario in time, with switches where its run had them"
    )
    parser.add_argument(
        "--ac", metavar="DEVICE", help="the small-signal netlist, with one ampere drawn at this device's pins"
    )
    options = parser.parse_args(arguments)
    return answered(
        options.plan,
        lambda plan: (
            solve(plan, options.condition)
            if options.command == "solve"
            else scenario_netlist(plan, options.scenario)
            if options.scenario
            else netlist(plan, options.condition, options.ac)
        ),
    )


def solve(plan: Plan, condition: str | None) -> str:
    """The whole analysis as JSON, of one condition only when it is named."""
    if condition is not None:
        plan = plan.model_copy(update={"conditions": (plan.condition(condition),)})
    return solved_answer(plan).model_dump_json(indent=1) + "\n"


def solved_answer(plan: Plan) -> SolvedAnswer:
    """Everything that is said of a plan without running it in time."""
    found = review(plan)
    noise = review_noise(found.solved.solved)
    fixes = tried_fixes(found, noise, [one for one in starter_parts() if one.bec or one.filter or one.capacitor])
    return SolvedAnswer(**{**dict(found.analysis), "findings": all_findings(found, noise)}, fixes=fixes)


class SolvedAnswer(Analysis):
    """The analysis, its findings with those of the noise, and what would cure them, each tried."""

    fixes: tuple[FixesOf, ...]


def scenario_netlist(plan: Plan, scenario: str) -> str:
    """A scenario as a transient a simulator can run."""
    return write_run_netlist(run_scenario(plan, find_scenario(plan, scenario)))


def netlist(plan: Plan, condition: str | None, ac_device: str | None) -> str:
    """The operating point of a condition, or the small-signal network around it driven at a device."""
    chosen = plan.condition(condition) if condition else plan.conditions[0]
    if ac_device is None:
        return write_netlist(plan, chosen)
    if ac_device not in plan.device_of:
        raise UnknownElementError(
            f"“{ac_device}” is no device of this plan.", where="--ac", remedy="Name one by its id."
        )
    point = operating_point(solve_conditions(plan), chosen)
    return write_ac_netlist(point, pin_node(ac_device), ground_node(ac_device), log_sweep(10.0, 1e6, 6).tolist())


if __name__ == "__main__":
    raise SystemExit(main())
