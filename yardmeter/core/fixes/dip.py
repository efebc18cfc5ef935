"""Whether a reset is a dip or an overload: the scenario again with nobody dropping out, so that no rail recovers by who has gone."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks.running import condition_like
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.errors import YardError
from yardmeter.core.plan import Device, Plan, Regulator
from yardmeter.core.runs.run import Run, run_scenario
from yardmeter.core.runs.why import Why

NEVER_OUT_V = 0.05
"""Brown-out volts of what is not to drop out."""


@dataclass(frozen=True)
class Missing:
    """A rail that is asked for more than it has for good [A], in the condition its scenario is like."""

    rail: str
    asked_a: float
    gives_a: float


def dip_s(run: Run, found: Why) -> float | None:
    """How long a device is without its volts with everybody on [s]; None where they never come back: an overload, which ends only
    because somebody drops out."""
    if found.steady:
        return None
    try:
        held = run_scenario(_all_on(run), run.scenario)
    except YardError:
        return found.below_s
    device = run.plan.device_of[found.device]
    pin, times = held.pin_v(device.id), held.times_s
    begin = found.at_s - _held_under_s(found)
    under = (times >= begin) & (pin < device.reset_v)
    if not under.any():
        return found.below_s
    first = int(under.argmax())
    back = (pin[first:] >= device.restarts_v).nonzero()[0]
    if held.stuck_s is not None or not back.size:
        return None
    return max(float(times[first + back[0]] - times[first]), found.below_s)


def _held_under_s(found: Why) -> float:
    """How long its volts were under when it reset [s]."""
    pins = next(link for link in found.chain if link.kind == "pins")
    return (pins.lasted_s or 0.0) + 1e-4


def _all_on(run: Run) -> Plan:
    def held(one: Device) -> Device:
        return one if one.throttle else one.model_copy(update={"brownout_v": NEVER_OUT_V, "restart_v": NEVER_OUT_V})

    return run.plan.model_copy(update={"devices": tuple(held(one) for one in run.plan.devices)})


def missing(run: Run, found: Why) -> Missing | None:
    """The rail on the device's way up that is asked for more than it has, as its conditions tell; None where none of them does."""
    like = condition_like(run.plan, run.scenario)
    if like is None:
        return None
    case = solve_plan(run.plan)
    rails = [link.element for link in found.chain if link.element in run.plan.rail_of]
    rails += [run.plan.supply_of[link.element].output for link in found.chain if link.element in run.plan.supply_of]
    feed = run.plan.device_of[found.device].feed
    rails += [feed.rail] if feed else []
    for rail in dict.fromkeys(rails):
        state = case.rail(rail).states[like.id]
        feeding = [one for one in run.plan.supplies_into(rail) if isinstance(one, Regulator)]
        # What it gives before it cuts off: how warm it may get is another matter than this moment's.
        gives_a = sum(one.limit_a for one in feeding) if feeding else state.usable_a
        if state.limits and exceeds(state.asked_a, gives_a):
            return Missing(rail, state.asked_a, gives_a)
    return None
