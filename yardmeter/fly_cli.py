"""A simulated recorder on the terminal: flies a plan in time with hidden values of its own and writes the table."""

from __future__ import annotations

import argparse
from pathlib import Path

from yardmeter.answered import answered
from yardmeter.core.errors import YardError
from yardmeter.core.flights.fly import recorded
from yardmeter.core.plan import Plan


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard fly", description="A recorder that flies the plan.")
    parser.add_argument("plan", type=Path, help="a plan in the open JSON format")
    parser.add_argument("--out", type=Path, required=True, help="the table it writes, CSV")
    parser.add_argument("--seed", type=int, default=1, help="another craft of the same plan, and another flight")
    parser.add_argument("--minutes", type=float, default=5.0, help="how long, from 1 to 30")
    options = parser.parse_args(arguments)
    return answered(options.plan, lambda plan: _flown(plan, options.out, options.seed, options.minutes))


def _flown(plan: Plan, out: Path, seed: int, minutes: float) -> str:
    if not 1 <= minutes <= 30 or seed < 0:
        raise YardError("A flight lasts 1 to 30 minutes, and a seed is not negative.", where="--minutes, --seed")
    text, _ = recorded(plan, seed, minutes)
    try:
        out.write_text(text)
    except OSError as error:
        raise YardError(f"It cannot be written ({error.strerror}).", where=str(out), remedy="Another place.") from None
    return f"{out}: {text.count(chr(10)) - 1} rows\n"


if __name__ == "__main__":
    raise SystemExit(main())
