"""Compile what is solved, run and probed, so that nobody waits for it at the first edit or run: a demo build does it.

`--check` only tells, by its status, whether all is compiled and whole.
"""

from __future__ import annotations

import sys

from yardmeter import demo
from yardmeter.compiled import FOLDER, is_ready, seal
from yardmeter.core.procedures.checklist import checklist
from yardmeter.core.runs import find_scenario, run_scenario
from yardmeter.core.solver.climb import carried
from yardmeter.review import review
from yardmeter.review.noise_review import review_noise

if __name__ == "__main__":
    if "--check" in sys.argv:
        raise SystemExit(0 if is_ready() else 1)
    plan = demo.plan("marshlight-as-soldered")
    made = review(plan)
    _ = made.analysis  # overloaded, so that every way to a point is gone
    free = made.solved.solved.free
    carried(free.network.assembly, free.network.circuit, free.solution)  # and what no load of it asks for
    review_noise(made.solved.solved)
    run_scenario(plan, find_scenario(plan, "plug-in"))
    checklist(made.solved)
    seal()
    if FOLDER is None:
        print("What was compiled can be kept nowhere: each start will compile it anew.", file=sys.stderr)
