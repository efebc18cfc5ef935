"""An instant of a run as if it were one more condition: what every view of the plan shows at that time."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.answers.grounded import SegmentState
from yardmeter.core.answers.model import (
    Answer,
    ConditionAnswer,
    Consumer,
    DeviceState,
    RailState,
    SupplyMode,
    SupplyState,
)
from yardmeter.core.answers.pins import verdict, weight
from yardmeter.core.answers.returns import GroundState
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.answers.supplies import supply_weight
from yardmeter.core.network.keys import return_key
from yardmeter.core.network.loads import load_knee_v, throttle_amps
from yardmeter.core.plan import Condition, Device, Link, Plan, Regulator, Strap, fresh_id
from yardmeter.core.plan.devices import DrawState
from yardmeter.core.runs import Run
from yardmeter.core.solver.circuit import Floats

INSTANT = "instant"
"""Id of the condition a screen shows an instant under."""


@dataclass(frozen=True)
class At:
    """A time of a run, and the last step not after it, whose switches hold."""

    run: Run
    time_s: float

    @property
    def step(self) -> int:
        return self.run.at(self.time_s)

    def of(self, values: Floats) -> float:
        """A quantity over the steps (t,) at that time."""
        return float(np.interp(self.time_s, self.run.times_s, values))


class Instant(Answer):
    """The states of every element at `at_s`, in the shapes they have in a condition."""

    at_s: float
    like: str
    """The condition whose other numbers it takes."""
    head: ConditionAnswer
    rails: dict[str, RailState]
    supplies: dict[str, SupplyState]
    devices: dict[str, DeviceState]
    grounds: dict[str, GroundState]
    segments: dict[str, SegmentState]
    condition: Condition
    """The instant as a condition to keep: charge, throttle and what each device does then."""


def instant(run: Run, solved: SolvedPlan, time_s: float, called: str = INSTANT) -> Instant:
    """Everything at a time, under a condition that is `called` so, straight lines between steps. What an instant has no number for is that of the scenario's beginning."""
    plan = run.plan
    k = At(run, min(max(time_s, 0.0), float(run.times_s[-1])))
    at = k.time_s
    like = _like(plan, run)
    kept = _kept(run, like, k, called)
    head = next(one for one in solved.budget.conditions if one.id == like.id)
    left_c = plan.pack.charge_ah * 3600
    pack_v, pack_a = k.of(run.rail_v(plan.pack.rail)), k.of(run.pack_a)
    return Instant(
        at_s=at,
        like=like.id,
        head=head.model_copy(
            update={
                "id": INSTANT, "name": f"at {called}", "solved": True, "known": True,
                "collapse_rail": None, "load_factor": None, "pack_v": pack_v, "pack_a": pack_a, "source_a": pack_a,
                "source_v": pack_v, "minutes": None, "back_flows": (),
                "charge_left_frac": None if head.charge_left_frac is None else max(head.charge_left_frac - k.of(run.charge_c) / left_c, 0.0),
            }
        ),
        rails={one.id: _rail(run, solved, like, one.id, k) for one in plan.rails},
        supplies={one.id: _supply(run, solved, like, one.id, k) for one in plan.supplies},
        devices={one.id: _device(run, solved.device(one.id).states[like.id], kept, one, k) for one in plan.devices},
        grounds={one.id: GroundState(k.of(run.ground_v(one.id)), 0.0, None) for one in plan.owners},
        segments={wire.id: _segment(run, wire.id, k) for _, wire in plan.returns()},
        condition=kept,
    )  # fmt: skip


def _kept(run: Run, like: Condition, k: At, called: str) -> Condition:
    """A condition that stands as the instant does, as far as one can stand still."""
    at, scenario = k.time_s, run.scenario
    begun = run.timetable.condition
    energy = set(begun.energy)
    states: dict[str, DrawState] = {one.id: begun.state_of(one.id) for one in run.plan.devices}
    for act in sorted(scenario.acts, key=lambda one: one.at_s):
        if act.at_s > at:
            break
        if act.act == "state":
            states[act.device] = act.state
        elif act.act in ("plug", "unplug"):
            energy = energy | {"pack"} if act.act == "plug" else energy - {"pack"}
        elif act.act == "connect":
            energy.add(act.inlet)
        elif act.act == "disconnect":
            energy.discard(act.inlet)
    modes: tuple[DrawState | None, ...] = ("off", "boot", None)
    for one in run.plan.devices:
        states[one.id] = modes[int(run.mode(one.id)[k.step])] or states[one.id]
    return Condition(
        id=fresh_id(run.plan, f"{scenario.id} {called}"),
        name=f"{scenario.name}, {called}"[:80],
        energy=tuple(sorted(energy)),
        pack_state=like.pack_state,
        pack_v=round(min(max(run.rest_v(k.step), 0.1), 80.0), 4),
        air=begun.air,
        throttle_frac=_throttle(run, k),
        powered_up=False,
        default_state=begun.default_state,
        states={name: state for name, state in states.items() if state != begun.default_state},
    )


def _throttle(run: Run, k: At) -> float:
    """The throttle at which the motors ask for as many amps as they do at an instant, whatever made them: a stick on its way, a
    recorded flight. What lacks volts is reckoned as if it had them."""
    motors = [one for one in run.plan.devices if one.throttle]
    asked = 0.0
    for one in motors:
        bend = min(max(k.of(run.pin_v(one.id)), 0.0) / load_knee_v(one), 1.0)
        asked += max(k.of(run.load_a(one.id)), 0.0) / bend if bend > 0 else 0.0
    grid = np.linspace(0.0, 1.0, 1001)
    total = np.maximum.accumulate(
        sum((np.array([throttle_amps(one, at) for at in grid]) for one in motors), np.zeros(grid.size))
    )
    return round(float(np.interp(asked, total, grid)), 3) if total[-1] > 0 else 0.0


def _like(plan: Plan, run: Run) -> Condition:
    """The condition whose other numbers an instant takes: the one the scenario begins in, else the first on the pack."""
    own = run.timetable.condition.id
    known = [one for one in plan.conditions if one.id == own]
    return (known or [one for one in plan.conditions if one.on_pack] or list(plan.conditions))[0]


def _device(run: Run, base: DeviceState, kept: Condition, device: Device, k: At) -> DeviceState:
    pin, amps = k.of(run.pin_v(device.id)), k.of(run.load_a(device.id))
    rail_v = k.of(run.rail_v(device.feed.rail)) if device.feed else 0.0
    modes: tuple[DrawState | None, ...] = ("off", "boot", None)
    mode = int(run.mode(device.id)[k.step])
    found = verdict(device, pin, off=False, fed=pin >= LIVE_V)
    if not mode and found == "ok":
        found = "off"
    return replace(
        base, state=modes[mode] or base.state, asked_a=amps, given_a=amps, pin_v=pin, drop_v=max(rail_v - pin, 0.0),
        ground_v=k.of(run.ground_v(device.id)), verdict=found, weight=weight(device, kept, found),
    )  # fmt: skip


def _rail(run: Run, solved: SolvedPlan, like: Condition, rail_id: str, k: At) -> RailState:
    base = solved.rail(rail_id).states[like.id]
    consumers = tuple(_consumer(run, one, k) for one in base.consumers)
    amps = sum(one.given_a for one in consumers)
    spare = base.usable_a - amps
    return replace(
        base, volts_v=k.of(run.rail_v(rail_id)), asked_a=amps, given_a=amps, spare_a=spare, consumers=consumers,
        tone="ok" if spare >= -1e-6 else "caution" if amps <= base.hard_a else "fault",
    )  # fmt: skip


def _consumer(run: Run, one: Consumer, k: At) -> Consumer:
    if one.kind == "device":
        amps = k.of(run.load_a(one.id))
    elif run.converter(one.id) is not None:
        amps = k.of(run.supply_in_a(one.id))
    else:
        amps = k.of(run.supply_a(one.id))
    return replace(one, asked_a=amps, given_a=amps)


def _supply(run: Run, solved: SolvedPlan, like: Condition, supply_id: str, k: At) -> SupplyState:
    base = solved.supply(supply_id).states[like.id]
    supply = run.plan.supply_of[supply_id]
    out_a = k.of(run.supply_a(supply_id))
    out_v = k.of(run.rail_v(supply.output))
    if isinstance(supply, Link | Strap):
        return replace(base, in_v=out_v, out_v=out_v, in_a=out_a, out_a=out_a, asked_a=out_a)
    in_v, in_a = k.of(run.supply_in_v(supply_id)), k.of(run.supply_in_a(supply_id))
    runs = bool(run.runs(supply_id)[k.step])
    mode: SupplyMode = base.mode if runs and out_a > 1e-3 else "off"
    if isinstance(supply, Regulator):
        mode = supply.standing(runs, out_a, in_v, out_v)
    temp = k.of(run.temp_c(supply_id)) if isinstance(supply, Regulator) else None
    return replace(
        base, mode=mode, weight=supply_weight(run.plan, supply, mode, out_v, temp), in_v=in_v, out_v=out_v, in_a=in_a, out_a=out_a, asked_a=out_a,
        loss_w=max(in_v * in_a - out_v * out_a, 0.0), temp_c=temp,
    )  # fmt: skip


def _segment(run: Run, return_id: str, k: At) -> SegmentState:
    index = run.moving.series[return_key(return_id)]
    amps = k.of(run.series_a(index))
    return SegmentState(amps, abs(amps) * float(run.moving.circuit.series.ohm[0, index]), ())
