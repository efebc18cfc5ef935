"""Compile the march through time, so that nobody waits for it at the first run: one plug of a demo build does it."""

from __future__ import annotations

from yardmeter import demo
from yardmeter.core.runs import find_scenario, run_scenario

if __name__ == "__main__":
    plan = demo.plan("marshlight-as-soldered")
    run_scenario(plan, find_scenario(plan, "plug-in"))
