"""What happens at the plug: the craft run through time as it is plugged, USB before the pack where it has a port."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.errors import YardError
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Plan
from yardmeter.core.runs import run_scenario, scenarios_of
from yardmeter.core.runs.report import report

SURE = 0.92
"""Chance that what a run shows is seen; its numbers are those of the plan, which have their bands; our choice."""
OVER_S = 1e-6
"""Microseconds over a maximum from which a part may not stand it; from memory."""


@dataclass(frozen=True)
class Plugged:
    """Devices that reset, start over and over or never start as the pack is plugged, and those that are over their maximum."""

    resets: frozenset[str] = frozenset()
    over: frozenset[str] = frozenset()

    def of(self, obs: str) -> frozenset[str]:
        return self.resets if obs == "lost" else self.over


def plugged(plan: Plan) -> Plugged:
    """By the shipped scenarios of plugging; nothing where they cannot be run."""
    found = {one.id: one for one in scenarios_of(plan)}
    resets: set[str] = set()
    over: set[str] = set()
    for name in ("plug-in", "usb-then-pack", "cold-start"):
        if name not in found or (name == "cold-start" and "usb-then-pack" in found):
            continue
        go_on()
        try:
            seen = report(run_scenario(plan, found[name]))
        except YardError:
            continue
        for life in seen.devices:
            if name != "plug-in" and (life.resets_s or life.loop_s or life.never or life.short):
                resets.add(life.id)
            if life.over_s > OVER_S:
                over.add(life.id)
    return Plugged(frozenset(resets), frozenset(over))
