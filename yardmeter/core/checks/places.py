"""Rails a device could move to, by volts and spare amps: what fixes offer."""

from __future__ import annotations

from yardmeter.core.answers.model import RailState
from yardmeter.core.checks.registry import Case
from yardmeter.core.plan import Device, Plan, Rail

OFFERED = 2
"""How many moves a fix offers at most."""
INSIDE_FRAC = 0.02
"""How far inside a window volts must be for a move to be offered; our choice."""


def better_rails(case: Case, device: Device) -> list[Rail]:
    """Rails whose volts stay inside the device's window in every pack condition and that have the amps, most spare first."""
    if device.kind == "motor":
        return []
    fitting: list[tuple[float, Rail]] = []
    for rail in case.plan.rails:
        if (device.feed and device.feed.rail == rail.id) or (device.keeps_control and passed_on(case.plan, rail)):
            continue
        spare = _worst_spare(case, device, rail)
        if spare is not None and spare >= 0:
            fitting.append((spare, rail))
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
        amps = case.device(device.id).states[condition.id].asked_a or device.draws.peak.amps_at(device.nominal_v)
        if device.law == "power":
            amps = device.draws.peak.watts_at(device.nominal_v) / state.volts_v
        spare = min(spare, state.spare_a - amps)
    return spare if spare != float("inf") else None


def passed_on(plan: Plan, rail: Rail) -> bool:
    """Whether the rail is an output that some device passes on: no place for what keeps the craft up."""
    return any(supply.input in plan.device_of for supply in plan.supplies_into(rail.id))
