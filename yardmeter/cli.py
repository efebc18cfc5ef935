"""The core without a browser: `solve` and `netlist` of a plan file."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from yardmeter.core.errors import YardError
from yardmeter.core.formats.netlist import write_netlist
from yardmeter.core.formats.plan_json import read_plan
from yardmeter.core.plan import Plan
from yardmeter.core.review import analyse


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard")
    parser.add_argument("command", choices=["solve", "netlist"])
    parser.add_argument("plan", type=Path, help="a plan in the open JSON format")
    parser.add_argument("--condition", help="only this condition; the first one for a netlist when left out")
    options = parser.parse_args(arguments)
    try:
        plan = read_plan(options.plan.read_bytes())
        print(
            solve(plan, options.condition) if options.command == "solve" else netlist(plan, options.condition), end=""
        )
    except BrokenPipeError:
        sys.stderr.close()  # whoever read the answer has enough of it
        return 1
    except OSError as error:
        print(f"{options.plan}: {error.strerror}", file=sys.stderr)
        return 1
    except YardError as error:
        print(f"{options.plan}: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    return 0


def solve(plan: Plan, condition: str | None) -> str:
    """The whole analysis as JSON, of one condition only when it is named."""
    if condition is not None:
        plan = plan.model_copy(update={"conditions": (plan.condition(condition),)})
    return analyse(plan).model_dump_json(indent=1) + "\n"


def netlist(plan: Plan, condition: str | None) -> str:
    return write_netlist(plan, plan.condition(condition) if condition else plan.conditions[0])


if __name__ == "__main__":
    raise SystemExit(main())
