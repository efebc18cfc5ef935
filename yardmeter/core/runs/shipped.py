"""The eight scenarios every plan has, made for its own elements; the builder's own come beside them or in their place."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.errors import UnknownElementError
from yardmeter.core.network.loads import throttle_amps
from yardmeter.core.plan import Condition, Device, Plan, Scenario
from yardmeter.core.plan.conditions import HOVER_THROTTLE_FRAC, PUNCH_THROTTLE_FRAC
from yardmeter.core.plan.scenarios import (
    Brake,
    ConnectInlet,
    PlugPack,
    ScenarioAct,
    Throttle,
    TurnDevice,
)

PUNCH_AT_S, PUNCH_RISE_S = 0.2, 0.05
"""When a punch begins, and how fast a stick is thrown; our choice."""
USED_FRAC = 0.8
"""Share of a pack's charge a flight takes; common practice, no source."""
LONGEST_FLIGHT_S = 3600.0
BUSY_KINDS = ("recorder", "sender", "digital", "servo", "led", "camera")
"""What goes to its peak when everything happens at once."""


def scenarios_of(plan: Plan) -> tuple[Scenario, ...]:
    """Shipped scenarios, each replaced by the plan's own of the same id, then the plan's others."""
    own = {one.id: one for one in plan.scenarios}
    taken = set(plan.elements) - set(own)
    shipped = tuple(
        one.model_copy(update={"id": f"{one.id}-run"}) if one.id in taken else one for one in _shipped(plan)
    )
    known = {one.id for one in shipped}
    return (*(own.get(one.id, one) for one in shipped), *(one for one in plan.scenarios if one.id not in known))


def find_scenario(plan: Plan, scenario_id: str) -> Scenario:
    """The scenario of that id; raises UnknownElementError."""
    every = scenarios_of(plan)
    for one in every:
        if one.id == scenario_id:
            return one
    raise UnknownElementError(
        f"This plan has no scenario “{scenario_id}”.",
        where=scenario_id,
        remedy=f"It has: {', '.join(one.id for one in every)}.",
    )


def _shipped(plan: Plan) -> Iterator[Scenario]:
    motors = [one for one in plan.devices if one.throttle]
    boots = max((one.boots_s for one in plan.devices), default=0.0)
    limiter = next((one for one in plan.inlets if one.in_line), None)
    port = next((one for one in plan.inlets if one.is_port), None)
    yield Scenario(id="plug-in", name="Plug in", duration_s=0.005, acts=(PlugPack(at_s=0.0),))
    if limiter:
        yield Scenario(
            id="plug-in-limited",
            name=f"Plug in, {limiter.name}",
            duration_s=1.0,
            acts=(ConnectInlet(at_s=0.0, inlet=limiter.id), PlugPack(at_s=0.0)),
        )
    yield Scenario(id="cold-start", name="Cold start", duration_s=min(boots + 1.0, 120.0), acts=(PlugPack(at_s=0.0),))
    if port:
        pause = min(boots + 0.5, 60.0)
        yield Scenario(
            id="usb-then-pack",
            name=f"{port.name}, then pack",
            duration_s=2 * pause,
            acts=(ConnectInlet(at_s=0.0, inlet=port.id), PlugPack(at_s=pause)),
        )
    low, full, bench = (
        _begins(plan, state, air) for state, air in (("low", "moving"), ("full", "moving"), ("full", "still"))
    )
    punch = Throttle(at_s=PUNCH_AT_S, to_frac=1.0, over_s=PUNCH_RISE_S)
    if motors:
        yield _from(low, "low", id="punch-on-low-pack", name="Punch on a low pack", duration_s=2.0, acts=(punch,))
        acts = (punch, Throttle(at_s=1.2, to_frac=0.0, over_s=PUNCH_RISE_S), Brake(at_s=1.25))
        yield _from(full, "full", id="punch-and-brake", name="Punch and brake", duration_s=2.0, acts=acts)
    busy: list[ScenarioAct] = [
        TurnDevice(at_s=PUNCH_AT_S + 0.1 * k, device=one.id, state="peak")
        for k, one in enumerate([one for one in plan.devices if one.kind in BUSY_KINDS][:20])
    ]
    rise = Throttle(at_s=0.5, to_frac=1.0, over_s=PUNCH_RISE_S)
    yield _from(
        low, "low", id="everything-at-once", name="Everything at once", duration_s=3.0,
        acts=(*busy, rise) if motors else tuple(busy),
    )  # fmt: skip
    yield _from(
        bench,
        "full",
        id="bench-ten-minutes",
        name="Ten minutes on the bench",
        duration_s=600.0,
        air="still",
        acts=(Throttle(at_s=0.0, to_frac=0.0),) if bench and bench.throttle_frac else (),
    )
    if motors:
        yield _flight(plan, full, motors)


def _from(begins: Condition | None, state: str, **rest: object) -> Scenario:
    """A scenario from a condition; where the plan has none on its pack it begins with plugging the pack."""
    if begins is not None:
        return Scenario.model_validate({"begins": begins.id, "pack_state": state, **rest})
    acts = rest.get("acts")
    plugged = (PlugPack(at_s=0.0), *(acts if isinstance(acts, tuple) else ()))
    return Scenario.model_validate({"pack_state": state, **rest, "acts": plugged})


def _begins(plan: Plan, state: str, air: str) -> Condition | None:
    """The condition a scenario best begins in: on the pack, hovering or on the bench, at this charge."""
    found = [one for one in plan.conditions if one.on_pack and one.throttle_frac < PUNCH_THROTTLE_FRAC]
    found = [one for one in found if not any(inlet.in_line and inlet.id in one.energy for inlet in plan.inlets)]
    if not found:
        return None
    still = air == "still"

    def far(one: Condition) -> tuple[bool, bool, bool]:
        return ((one.throttle_frac == 0) != still, one.pack_state != state, one.air != air)

    return min(found, key=far)


def _flight(plan: Plan, begins: Condition | None, motors: list[Device]) -> Scenario:
    """Hovering with a punch of two seconds each minute, until most of the charge is gone."""
    hover = begins.throttle_frac if begins else HOVER_THROTTLE_FRAC
    amps = sum(throttle_amps(one, hover) for one in motors) + 1.0
    full = sum(throttle_amps(one, 1.0) for one in motors) + 1.0
    amps += 2 / 60 * (full - amps)
    lasts_s = min(max(USED_FRAC * plan.pack.charge_ah * 3600 / amps, 10.0), LONGEST_FLIGHT_S)
    acts: list[ScenarioAct] = []
    at = 30.0
    while at < lasts_s - 10 and len(acts) < 200:
        acts += [Throttle(at_s=at, to_frac=1.0, over_s=PUNCH_RISE_S), Throttle(at_s=at + 2, to_frac=hover, over_s=0.2)]
        at += 60.0
    return _from(begins, "full", id="whole-flight", name="A whole flight", duration_s=round(lasts_s), acts=tuple(acts))
