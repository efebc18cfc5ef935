"""One registry of rules. A duplicate code fails at import."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.model import Budget, DeviceAnswer, DeviceState, RailAnswer, SupplyAnswer, SupplyState
from yardmeter.core.answers.windows import Windows
from yardmeter.core.checks.finding import SEVERITY_ORDER, Finding
from yardmeter.core.plan import Condition, Device, Plan, Regulator


@dataclass(frozen=True)
class Case:
    """Everything a rule may look at."""

    plan: Plan
    solved: Solved
    budget: Budget
    windows: Windows

    @cached_property
    def _rails(self) -> dict[str, RailAnswer]:
        return {rail.id: rail for rail in self.budget.rails}

    @cached_property
    def _devices(self) -> dict[str, DeviceAnswer]:
        return {device.id: device for device in self.budget.devices}

    @cached_property
    def _supplies(self) -> dict[str, SupplyAnswer]:
        return {supply.id: supply for supply in self.budget.supplies}

    def rail(self, rail_id: str) -> RailAnswer:
        return self._rails[rail_id]

    def device(self, device_id: str) -> DeviceAnswer:
        return self._devices[device_id]

    def supply(self, supply_id: str) -> SupplyAnswer:
        return self._supplies[supply_id]

    def pack_conditions(self) -> tuple[Condition, ...]:
        return tuple(c for c in self.plan.conditions if c.on_pack)

    def device_states(self, device: Device) -> Iterator[tuple[Condition, DeviceState]]:
        for condition in self.plan.conditions:
            yield condition, self.device(device.id).states[condition.id]

    def supply_states(self, supply: Regulator) -> Iterator[tuple[Condition, SupplyState]]:
        for condition in self.plan.conditions:
            yield condition, self.supply(supply.id).states[condition.id]


Rule = Callable[[Case], Iterable[Finding]]
RULES: dict[str, Rule] = {}


def rule(code: str) -> Callable[[Rule], Rule]:
    """Register a rule; every finding it returns carries this code."""

    def register(function: Rule) -> Rule:
        if code in RULES:
            raise RuntimeError(f"rule code {code} is registered twice")
        RULES[code] = function
        return function

    return register


def run_rules(case: Case) -> tuple[Finding, ...]:
    """All findings, worst first; a finding under another rule's code or without a number is a defect and raises."""
    found: list[Finding] = []
    for code, function in RULES.items():
        for finding in function(case):
            if finding.code != code or not finding.numbers:
                raise RuntimeError(f"rule {code} returned a finding without a number or under the code {finding.code}")
            found.append(finding)
    return tuple(sorted(found, key=lambda f: (SEVERITY_ORDER[f.severity], f.code, f.elements)))
