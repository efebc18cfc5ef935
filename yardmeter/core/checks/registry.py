"""One registry of rules. A duplicate code fails at import."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.model import Budget, DeviceAnswer, DeviceState, RailAnswer, SupplyAnswer, SupplyState
from yardmeter.core.answers.returns import GroundAnswer, Returns, SegmentAnswer, SignalAnswer
from yardmeter.core.answers.windows import Windows
from yardmeter.core.checks.finding import SEVERITY_ORDER, Finding, Sense
from yardmeter.core.plan import Condition, Device, Plan, Regulator


@dataclass(frozen=True)
class Case:
    """Everything a rule may look at."""

    plan: Plan
    solved: Solved
    budget: Budget
    windows: Windows
    returns: Returns

    @cached_property
    def _rails(self) -> dict[str, RailAnswer]:
        return {rail.id: rail for rail in self.budget.rails}

    @cached_property
    def _devices(self) -> dict[str, DeviceAnswer]:
        return {device.id: device for device in self.budget.devices}

    @cached_property
    def _supplies(self) -> dict[str, SupplyAnswer]:
        return {supply.id: supply for supply in self.budget.supplies}

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
        found = {}
        for condition in self.plan.conditions:
            view = self.solved.given[condition.id]
            names = [s.id for s in self.plan.supplies if isinstance(s, Regulator)] + [
                i.id for i in self.plan.inlets if i.kind in ("usb", "bench")
            ]
            limiting = [
                name for name in names if view.op.supply_limits(view.row, name) or view.op.hiccups(view.row, name)
            ]
            rails = {
                self.plan.supply_of[n].output if n in self.plan.supply_of else self.plan.inlet_of[n].rail
                for n in limiting
            }
            found[condition.id] = frozenset(rails_below(self.plan, rails))
        return found

    def starved(self, rail_id: str, condition: Condition) -> bool:
        """Whether the rail's low volts in this condition are the consequence of an overload that is a finding itself."""
        return rail_id in self._starved[condition.id]

    def pack_conditions(self) -> tuple[Condition, ...]:
        return tuple(c for c in self.plan.conditions if c.on_pack)

    def device_states(self, device: Device) -> Iterator[tuple[Condition, DeviceState]]:
        for condition in self.plan.conditions:
            yield condition, self.device(device.id).states[condition.id]

    def supply_states(self, supply: Regulator) -> Iterator[tuple[Condition, SupplyState]]:
        for condition in self.plan.conditions:
            yield condition, self.supply(supply.id).states[condition.id]


def rails_below(plan: Plan, rails: set[str]) -> set[str]:
    """These rails and every rail fed from them, through whatever supply or passing device."""
    seen, queue = set(rails), list(rails)
    while queue:
        at = queue.pop()
        on_it = {d.id for d in plan.devices if d.feed and d.feed.rail == at} | {at}
        for supply in plan.supplies:
            if on_it & set(plan.inputs_of(supply)) and supply.output not in seen:
                seen.add(supply.output)
                queue.append(supply.output)
    return seen


RuleOf = Callable[[Any], Iterable[Finding]]


@dataclass(frozen=True)
class Rule:
    """A registered function. Rules that look at noise run when it is asked for, not at every edit; they see a NoiseCase."""

    code: str
    sense: Sense | None
    noise: bool
    function: RuleOf


RULES: dict[str, Rule] = {}

Function = TypeVar("Function", bound=RuleOf)


def rule(code: str, *, sense: Sense | None = None, noise: bool = False) -> Callable[[Function], Function]:
    """Register a rule; every finding it returns is stamped with this code, and with `sense` where it has none of its own."""

    def register(function: Function) -> Function:
        if code in RULES:
            raise RuntimeError(f"rule code {code} is registered twice")
        RULES[code] = Rule(code, sense, noise, function)
        return function

    return register


def run_rules(case: object, *, noise: bool = False) -> tuple[Finding, ...]:
    """All findings, worst first; a finding without a number, or one that names its code itself, is a defect and raises."""
    found: list[Finding] = []
    for one in RULES.values():
        if one.noise is not noise:
            continue
        for finding in one.function(case):
            if finding.code or not finding.numbers:
                raise RuntimeError(f"rule {one.code} returned a finding without a number or under a code of its own")
            found.append(finding.model_copy(update={"code": one.code, "sense": finding.sense or one.sense}))
    return tuple(sorted(found, key=lambda f: (SEVERITY_ORDER[f.severity], f.code, f.elements)))
