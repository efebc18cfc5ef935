"""Rails a device could move to, by volts and spare amps: what fixes offer."""

from __future__ import annotations

from itertools import pairwise

from yardmeter.core.answers.budget import rail_parents
from yardmeter.core.answers.model import RailState
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.checks.registry import Case, rails_below
from yardmeter.core.plan import Condition, Device, Plan, Rail, Regulator

OFFERED = 2
"""How many moves a fix offers at most."""
CONVERTED = 0.85
"""Share of its input's power a switching regulator passes on at least; our choice."""
INSIDE_FRAC = 0.02
"""How far inside a window volts must be for a move to be offered; our choice."""


def better_rails(case: Case, device: Device, leaving: str | None = None) -> list[Rail]:
    """Rails whose volts stay inside the device's window in every pack condition and that have the amps, most spare first.

    `leaving` is a rail that is to be relieved: what hangs from it is no way out.
    """
    if device.kind == "motor":
        return []
    parents = rail_parents(case.plan)
    carried = _climb(parents, device.feed.rail) if device.feed else []
    relieved = rails_below(case.plan, {leaving}) if leaving else set()
    fitting: list[tuple[float, Rail]] = []
    for rail in case.plan.rails:
        if (device.feed and device.feed.rail == rail.id) or (device.keeps_control and passed_on(case.plan, rail)):
            continue
        above = _climb(parents, rail.id)
        if rail.id in relieved or not _stands_a_full_pack(case.plan, device, above):
            continue
        spare = _worst_spare(case, device, rail) if _lives_on_the_bench(case, device, rail) else None
        if spare is not None:
            spare = min(spare, _spare_above(case, device, above, carried))
            fitting += [(spare, rail)] if spare >= 0 else []
    return [rail for _, rail in sorted(fitting, key=lambda item: -item[0])[:OFFERED]]


def _worst_spare(case: Case, device: Device, rail: Rail) -> float | None:
    """Least spare amps over the pack conditions with the device on the rail; None where its volts do not fit."""
    spare = float("inf")
    for condition in case.pack_conditions():
        if condition.state_of(device.id) == "off":
            continue
        state: RailState = case.rail(rail.id).states[condition.id]
        if not device.min_v * (1 + INSIDE_FRAC) <= state.volts_v <= device.max_v * (1 - INSIDE_FRAC):
            return None
        spare = min(spare, state.spare_a - _asked_a(case, device, condition, state.volts_v))
    return spare if spare != float("inf") else None


def _asked_a(case: Case, device: Device, condition: Condition, volts: float) -> float:
    """What the device would ask for in a condition on a rail of these volts [A]."""
    if device.law == "power" and volts > LIVE_V:
        return device.draws.peak.watts_at(device.nominal_v) / volts
    return case.device(device.id).states[condition.id].asked_a or device.draws.peak.amps_at(device.nominal_v)


def _stands_a_full_pack(plan: Plan, device: Device, above: list[str]) -> bool:
    """Whether the device stands the full pack where nothing regulates on the way to it, whatever the conditions are."""
    if above[-1] != plan.pack.rail or any(isinstance(plan.supplies_into(one)[0], Regulator) for one in above[:-1]):
        return True
    return plan.pack.rest_v("full") <= device.max_v * (1 - INSIDE_FRAC)


def _lives_on_the_bench(case: Case, device: Device, rail: Rail) -> bool:
    """Whether what runs without the pack now, from USB say, would there too; what keeps no control may also be dead."""
    for condition in case.plan.conditions:
        if condition.on_pack or case.device(device.id).states[condition.id].verdict != "ok":
            continue
        volts = case.rail(rail.id).states[condition.id].volts_v
        dead = volts < LIVE_V and not device.keeps_control
        if not dead and not device.min_v <= volts <= device.max_v:
            return False
    return True


def _climb(parents: dict[str, str | None], rail: str) -> list[str]:
    """The rail and those it hangs from, up to the pack."""
    found: list[str] = []
    at: str | None = rail
    while at is not None and at not in found:
        found.append(at)
        at = parents.get(at)
    return found


def _spare_above(case: Case, device: Device, above: list[str], carried: list[str]) -> float:
    """Least spare amps of the rails a rail hangs from, the device's power added where they are not among the `carried`.

    `above` starts at the rail itself; without limit where it hangs from nothing.
    """
    plan = case.plan
    spare = float("inf")
    for condition in case.pack_conditions():
        if condition.state_of(device.id) == "off":
            continue
        amps = _asked_a(case, device, condition, case.rail(above[0]).states[condition.id].volts_v)
        for lower, upper in pairwise(above):
            supply = plan.supplies_into(lower)[0]
            here, there = (case.rail(one).states[condition.id] for one in (lower, upper))
            if isinstance(supply, Regulator) and supply.switching:
                amps *= here.volts_v / max(there.volts_v, here.volts_v * CONVERTED, 0.1) / CONVERTED
            if upper not in carried and there.limits:
                spare = min(spare, there.spare_a - amps)
    return spare


def passed_on(plan: Plan, rail: Rail) -> bool:
    """Whether the rail is an output that some device passes on: no place for what keeps the craft up."""
    return any(supply.input in plan.device_of for supply in plan.supplies_into(rail.id))
