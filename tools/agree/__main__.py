"""./yard agree: plans by the hundred, every statement asked of each, every disagreement printed with the plan that shows it."""

from __future__ import annotations

import argparse
import os
import sys
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from tools.agree.asked import Broken, asked
from tools.agree.statements import STATEMENTS
from yardmeter.core.formats.plan_json import write_plan

PART = 10
"""Plans one process is given at a time."""


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard agree", description=__doc__)
    parser.add_argument("--plans", type=int, default=60, help="how many plans are made")
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--only", default="", help="statements that hold these words")
    parser.add_argument("--out", type=Path, default=None, help="a folder for the plans that show a disagreement")
    options = parser.parse_args(arguments)
    if options.plans < 1:
        parser.error("--plans: at least one, or nothing is asked")
    if not any(options.only in one.words for one in STATEMENTS):
        parser.error(f"--only: no statement holds “{options.only}”; docs/developing.md lists them")
    start = time.perf_counter()
    parts = [(k, min(PART, options.plans - k), options.seed, options.only) for k in range(0, options.plans, PART)]
    told: Counter[str] = Counter()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for found in pool.map(_part, parts):
            for one in found:
                told[one.statement] += 1
                print(f"{one.statement}\n  plan {one.number} of seed {options.seed}: {one.what}", flush=True)
                if options.out:
                    options.out.mkdir(parents=True, exist_ok=True)
                    (options.out / f"{options.seed}-{one.number}.json").write_text(
                        write_plan(one.plan), encoding="utf-8"
                    )
    print(
        f"{options.plans} plans of seed {options.seed}, {sum(told.values())} disagreements, {time.perf_counter() - start:.0f} s"
    )
    for words, count in told.most_common():
        print(f"{count:5}  {words}")
    return 1 if told else 0


def _part(part: tuple[int, int, int, str]) -> list[Broken]:
    first, count, seed, only = part
    return list(asked(range(first, first + count), seed, only))


if __name__ == "__main__":
    sys.exit(main())
