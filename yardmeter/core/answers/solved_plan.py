"""A plan with everything that was worked out of it: what rules, fitness and workings look at."""

from __future__ import annotations

from dataclasses import dataclass, field

from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import Solved, solve_conditions, solved_like
from yardmeter.core.answers.dips import Latch, latches
from yardmeter.core.answers.grounded import Grounded, grounded
from yardmeter.core.answers.model import (
    Budget,
    DeviceAnswer,
    DeviceState,
    RailAnswer,
    SupplyAnswer,
    SupplyState,
)
from yardmeter.core.answers.returns import GroundAnswer, Returns, SegmentAnswer, SignalAnswer, returns
from yardmeter.core.answers.sources import fed_by
from yardmeter.core.answers.standing import solve_changed, standing, take_over_graph
from yardmeter.core.answers.windows import ROUNDED_V, Sweeps, Windows, windows
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.graph import graph_of
from yardmeter.core.once import cached_property, once_each
from yardmeter.core.plan import Condition, Device, Plan, Regulator, Supply

READ_OFF = ("budget", "windows", "grounded", "returns", "latches")


@dataclass(frozen=True)
class Kept:
    """What was worked out before an edit, and the conditions it stands in."""

    stands: frozenset[str]
    budget: Budget | None
    sweeps: Sweeps
    grounded: Grounded | None


@dataclass(frozen=True)
class SolvedPlan:
    """Operating points of a plan, and what is read off them when it is asked for: budget, pack sweep, returns."""

    plan: Plan
    solved: Solved
    kept: Kept | None = field(default=None, repr=False, compare=False)

    @cached_property
    def budget(self) -> Budget:
        return budget(self.solved, self.kept.budget, self.kept.stands) if self.kept else budget(self.solved)

    @cached_property
    def windows(self) -> Windows:
        return windows(self.solved, self._sweeps)

    @cached_property
    def _sweeps(self) -> Sweeps:
        """The sweeps that were worked out, those of before for what stands."""
        return self.kept.sweeps if self.kept else Sweeps()

    @cached_property
    def grounded(self) -> Grounded:
        """The return network with what flows in it."""
        return grounded(self.solved, self.kept.grounded, self.kept.stands) if self.kept else grounded(self.solved)

    @cached_property
    def returns(self) -> Returns:
        return returns(self.grounded)

    @cached_property
    def latches(self) -> tuple[Latch, ...]:
        return latches(self.solved)

    @cached_property
    def _rails(self) -> dict[str, RailAnswer]:
        return {rail.id: rail for rail in self.budget.rails}

    @cached_property
    def _devices(self) -> dict[str, DeviceAnswer]:
        return {device.id: device for device in self.budget.devices}

    @cached_property
    def _supplies(self) -> dict[str, SupplyAnswer]:
        return {supply.id: supply for supply in self.budget.supplies}

    def most_pin_v(self, device: Device) -> float:
        """The most a device ever sees between its pins: in its conditions, under their loads on a full pack, and on one that
        carries nothing where no condition rests on it."""
        seen = [state.pin_v for state in self.device(device.id).states.values()]
        swept = [pattern.pins_v[device.id][0] - ROUNDED_V for pattern in self.windows.patterns]
        return max(*seen, *swept, self.solved.unloaded.pin_v(device.id) if self.solved.unloaded else 0.0, 0.0)

    def most_in_v(self, supply: Supply) -> float:
        """The most a supply ever has at its input, likewise."""
        seen = [state.in_v for state in self.supply(supply.id).states.values()]
        swept = (
            [one.rails_v[supply.input][0] for one in self.windows.patterns] if supply.input in self.plan.rail_of else []
        )
        return max(*seen, *swept, self.solved.unloaded.supply_in_v(supply) if self.solved.unloaded else 0.0, 0.0)

    @cached_property
    def ground(self) -> dict[str, GroundAnswer]:
        return {one.id: one for one in self.returns.grounds}

    @cached_property
    def signal(self) -> dict[str, SignalAnswer]:
        return {one.id: one for one in self.returns.signals}

    @cached_property
    def segment(self) -> dict[str, SegmentAnswer]:
        return {one.id: one for one in self.returns.segments}

    def rail(self, rail_id: str) -> RailAnswer:
        return self._rails[rail_id]

    def device(self, device_id: str) -> DeviceAnswer:
        return self._devices[device_id]

    def supply(self, supply_id: str) -> SupplyAnswer:
        return self._supplies[supply_id]

    @cached_property
    def _starved(self) -> dict[str, frozenset[str]]:
        """Per condition, the rails behind a regulator or port that sits at its limit."""
        plan = self.plan
        fed = {s.id: s.output for s in plan.supplies if isinstance(s, Regulator)}
        fed |= {i.id: i.rail for i in plan.inlets if not i.in_line}
        fed |= {i.id: plan.pack.rail for i in plan.inlets if i.kind == "fuse"}
        found = {}
        for condition in plan.conditions:
            op, row = self.solved.given[condition.id].op, self.solved.given[condition.id].row
            limiting = [
                rail
                for name, rail in fed.items()
                if op.supply_limits(row, name) or op.hiccups(row, name) or op.gives_up(row, name)
            ]
            if any(i.kind == "lamp" and i.id in condition.energy for i in plan.inlets) and self.limiter_lit(condition):
                limiting.append(plan.pack.rail)
            found[condition.id] = frozenset(graph_of(plan).rails_below(limiting))
        return found

    def limiter_lit(self, condition: Condition) -> bool:
        """Whether more is asked than what stands in line with the pack lets through."""
        state = self.rail(self.plan.pack.rail).states[condition.id]
        return any(one.kind == "limiter" and exceeds(state.asked_a, one.amps_a) for one in state.limits)

    def starved(self, rail_id: str, condition: Condition) -> bool:
        """Whether the rail's low volts in this condition are the consequence of an overload that is a finding itself."""
        return rail_id in self._starved[condition.id]

    def in_use(self, rail_id: str, condition: Condition) -> bool:
        """Whether anything fed through the rail is on; an idle one hurts nobody, whatever its volts."""
        return not self._serving[condition.id].isdisjoint(graph_of(self.plan).below(rail_id))

    @cached_property
    def _serving(self) -> dict[str, frozenset[str]]:
        """Per condition, the rails on which a device is on."""
        fed = [(device.id, device.feed.rail) for device in self.plan.devices if device.feed]
        return {c.id: frozenset(rail for one, rail in fed if c.state_of(one) != "off") for c in self.plan.conditions}

    @cached_property
    def _fed_by(self) -> dict[tuple[str, str], frozenset[str]]:
        return {}

    def fed_by(self, rail_id: str, condition: Condition) -> frozenset[str]:
        """The rails whose current reaches a rail in a condition, itself among them."""
        key = rail_id, condition.id
        if key not in self._fed_by:
            self._fed_by[key] = fed_by(self.plan, self.solved.asked[condition.id], rail_id)
        return self._fed_by[key]

    def pack_conditions(self) -> tuple[Condition, ...]:
        return self._on_pack

    @cached_property
    def _on_pack(self) -> tuple[Condition, ...]:
        return tuple(c for c in self.plan.conditions if c.on_pack)

    @once_each
    def serving(self, supply_id: str) -> tuple[tuple[Condition, SupplyState], ...]:
        """The conditions on the pack in which something that is on hangs on a supply, and its input is not held down by an
        overload that is a finding itself."""
        supply, states = self.plan.supply_of[supply_id], self.supply(supply_id).states
        above = graph_of(self.plan).feeding_rail(supply.input) or supply.input
        return tuple(
            (c, states[c.id]) for c in self._on_pack if self.in_use(supply.output, c) and not self.starved(above, c)
        )

    def device_states(self, device: Device) -> tuple[tuple[Condition, DeviceState], ...]:
        return self._device_states(device.id)

    @once_each
    def _device_states(self, device_id: str) -> tuple[tuple[Condition, DeviceState], ...]:
        states = self.device(device_id).states
        return tuple((c, states[c.id]) for c in self.plan.conditions)

    def supply_states(self, supply: Regulator) -> tuple[tuple[Condition, SupplyState], ...]:
        states = self.supply(supply.id).states
        return tuple((c, states[c.id]) for c in self.plan.conditions)


def solve_plan(plan: Plan, before: SolvedPlan | None = None) -> SolvedPlan:
    """Solve every condition and the pack sweep. What was solved `before` an edit serves again where no direct current can differ."""
    same = before and solved_like(plan, before.solved)
    if before and same:
        made = SolvedPlan(plan, same)
        made.__dict__.update({name: before.__dict__[name] for name in READ_OFF if name in before.__dict__})
        return made
    stands = standing(plan, before.plan) if before else frozenset()
    if before and stands:
        take_over_graph(plan, before.plan)
        worked = before.__dict__
        kept = Kept(stands, worked.get("budget"), before._sweeps.of(stands), worked.get("grounded"))
        return SolvedPlan(plan, solve_changed(plan, before.solved, stands), kept)
    return SolvedPlan(plan, solve_conditions(plan))
