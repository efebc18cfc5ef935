"""Whole wirings proposed on the terminal, as JSON."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from yardmeter.answered import answered
from yardmeter.core.errors import EditError
from yardmeter.core.layouts.search import propose
from yardmeter.core.layouts.wishes import BUYS, SCHOOLS, USUAL, Wishes
from yardmeter.core.plan import Plan
from yardmeter.demo import starter_parts
from yardmeter.review.layouts import layouts_seen, with_shelf


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(
        prog="yard layouts", description="How to wire this, in several ways, each with its reasons."
    )
    parser.add_argument("plan", type=Path, help="a plan in the open JSON format")
    parser.add_argument(
        "--hold",
        action="append",
        default=[],
        metavar="ID",
        help="what stays: a device where it is fed; `all` for every one",
    )
    parser.add_argument(
        "--buy", default=",".join(USUAL), metavar="KINDS", help=f"what may be bought: {', '.join(BUYS)}, or `none`"
    )
    parser.add_argument("--max-grams", type=float, metavar="G", help="how much may be added")
    schools = "; ".join(f"{key}={'|'.join(values)}" for key, values in SCHOOLS.items())
    parser.add_argument("--school", action="append", default=[], metavar="KEY=VALUE", help=schools)
    parser.add_argument(
        "--not",
        dest="turned_down",
        action="append",
        default=[],
        metavar="DEVICE=PLACE",
        help="a rail or part it is not to be fed from",
    )
    options = parser.parse_args(arguments)
    return answered(options.plan, lambda plan: proposed(plan, options))


def proposed(plan: Plan, options: argparse.Namespace) -> str:
    wishes = Wishes(
        held=frozenset(d.id for d in plan.devices) if "all" in options.hold else frozenset(options.hold),
        buy=frozenset() if options.buy == "none" else frozenset(options.buy.split(",")),
        max_g=options.max_grams,
        school=dict(_pair(one, "school") for one in options.school),
        turned_down=frozenset(_pair(one, "not") for one in options.turned_down),
    )
    parts = starter_parts()
    found = propose(
        plan,
        wishes,
        parts,
        with_shelf(parts),
        _told if sys.stderr.isatty() else None,
    )
    seen = layouts_seen(plan, found, wishes, parts)
    answer: dict[str, Any] = {
        "today": _numbers(seen.today.model_dump()),
        "layouts": [
            {
                "best_at": list(one.best_at), "numbers": _numbers(one.numbers.model_dump()), "stays": one.stays,
                "lines": [{"do": line.do, "element": line.element, "title": line.title, "why": line.why, "next_best": line.next_best} for line in one.lines],
                "plan": layout.plan.model_dump(mode="json"),
            }
            for one, layout in zip(seen.layouts, found.layouts, strict=True)
        ],
        "impossible": [{"devices": list(one.devices), "why": one.why, "least_change": one.least_change} for one in seen.impossible],
        "tried": seen.tried,
    }  # fmt: skip
    return json.dumps(answer, indent=1, ensure_ascii=False) + "\n"


def _told(share: float) -> None:
    sys.stderr.write(f"\r{share:4.0%}" + ("\n" if share >= 1 else ""))


NUMBERS = (
    "parts_added",
    "grams",
    "wires",
    "least_spare_a",
    "hottest_c",
    "picture_db",
    "reset_chance",
    "failure",
    "dip",
    "dip_room_frac",
    "heavy",
)


def _numbers(found: dict[str, Any]) -> dict[str, Any]:
    return {name: found[name] for name in NUMBERS}


def _pair(text: str, what: str) -> tuple[Any, str]:
    key, sign, value = text.partition("=")
    if not sign:
        raise EditError(f"“{text}” is no key and value.", where=f"--{what}", remedy="Write KEY=VALUE.")
    return key, value


if __name__ == "__main__":
    raise SystemExit(main())
