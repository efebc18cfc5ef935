"""Random orders of contacts, throttle, states, draws and failures on a plan, as a day at the bench and in the air has them."""

from __future__ import annotations

import random
from collections.abc import Sequence
from typing import Any

from yardmeter.core.plan import Diode, Plan, Regulator, Scenario, Strap

PAUSES_S = (0.0, 0.002, 0.02, 0.2)
RESTS_S = (0.05, 0.3)
"""Between acts, and after the last."""
KINDS = ("plug", "plug", "plug", "unplug", "connect", "disconnect", "throttle", "throttle", "brake", "fail", "state", "draw")  # fmt: skip


def random_order(
    plan: Plan,
    seed: int,
    *,
    straps: bool = False,
    pauses_s: Sequence[float] = PAUSES_S,
    rests_s: Sequence[float] = RESTS_S,
) -> Scenario:
    """One to five acts, from nothing plugged or from one of the plan's conditions; with `straps` a bridge is soldered otherwise, or a
    limiter put into the pack's lead, before that."""
    rng = random.Random(seed)
    ports = [one.id for one in plan.inlets if not one.in_line]
    supplies = [one.id for one in plan.supplies if isinstance(one, Regulator | Diode)]
    acts: list[dict[str, Any]] = []
    at = 0.0
    if straps:
        first = random.Random(seed + 1)
        bridges = [one for one in plan.supplies if isinstance(one, Strap)]
        limiters = [one.id for one in plan.inlets if one.in_line]
        if bridges:
            one = first.choice(bridges)
            acts.append(
                {
                    "act": "strap",
                    "at_s": 0.0,
                    "supply": one.id,
                    "selected": first.sample(one.choices, first.randint(0, 1)),
                }
            )
        if limiters:
            acts.append({"act": "connect", "at_s": 0.0, "inlet": first.choice(limiters)})
    for _ in range(rng.randint(1, 5)):
        at += rng.choice(pauses_s)
        acts += _act(rng, at, ports, [one.id for one in plan.devices], supplies)
    begins = rng.choice([None, None, *(one.id for one in plan.conditions)])
    lasts = at + rng.choice(rests_s)
    return Scenario.model_validate({"id": "s", "name": "S", "duration_s": lasts, "begins": begins, "acts": acts})


def _act(
    rng: random.Random, at_s: float, ports: list[str], devices: list[str], supplies: list[str]
) -> list[dict[str, Any]]:
    kind = rng.choice(KINDS)
    if (kind in ("connect", "disconnect") and not ports) or (kind in ("fail", "state", "draw") and not devices):
        kind = "plug"
    act = {"act": kind, "at_s": at_s}
    match kind:
        case "plug":
            return [{**act, "bounces": rng.choice([0, 0, 1, 3])}]
        case "connect" | "disconnect":
            return [{**act, "inlet": rng.choice(ports)}]
        case "throttle":
            return [{**act, "to_frac": rng.choice([0, 0.3, 1.0]), "over_s": rng.choice([0, 0.05])}]
        case "fail":
            return [{**act, "element": rng.choice(devices + supplies), "how": rng.choice(["open", "short"])}]
        case "state":
            return [{**act, "device": rng.choice(devices), "state": rng.choice(["off", "idle", "typical", "peak"])}]
        case "draw":
            return [{**act, "device": rng.choice(devices), "value": rng.choice([0.0, 1.0, 3.0])}]
    return [act]
