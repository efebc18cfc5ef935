"""What rules of noise may look at, and their registry: they run when the noise of a plan is asked for, not at every edit."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.filtering import FilterAnswer
from yardmeter.core.answers.moments import Moment, rss
from yardmeter.core.answers.noise import Noise
from yardmeter.core.checks.finding import SEVERITY_ORDER, Finding
from yardmeter.core.checks.registry import RULES
from yardmeter.core.network.ac_build import filter_nodes
from yardmeter.core.plan import Filter, Plan


@dataclass(frozen=True)
class NoiseCase:
    """A plan with its noise solved."""

    solved: Solved
    moments: list[Moment]
    noise: Noise
    filters: tuple[FilterAnswer, ...]

    @property
    def plan(self) -> Plan:
        return self.solved.plan

    @cached_property
    def filter_of(self) -> dict[str, Filter]:
        return {one.id: one for one in self.plan.filters}

    def at_filter_v(self, one: Filter) -> float:
        """Most ripple where a filter stands, or would, peak to peak [V]."""
        a, b = filter_nodes(self.plan, self.moments[0].network.node, one)
        return max(rss(at.between_pp_v(a, b)) for at in self.moments)


NoiseRule = Callable[[NoiseCase], Iterable[Finding]]
NOISE_RULES: dict[str, NoiseRule] = {}


def noise_rule(code: str) -> Callable[[NoiseRule], NoiseRule]:
    """Register a rule; every finding it returns carries this code, which no other rule has."""

    def register(function: NoiseRule) -> NoiseRule:
        if code in NOISE_RULES or code in RULES:
            raise RuntimeError(f"rule code {code} is registered twice")
        NOISE_RULES[code] = function
        return function

    return register


def run_noise_rules(case: NoiseCase) -> tuple[Finding, ...]:
    """All findings, worst first."""
    found: list[Finding] = []
    for code, function in NOISE_RULES.items():
        for finding in function(case):
            if finding.code != code or not finding.numbers:
                raise RuntimeError(f"rule {code} returned a finding without a number or under the code {finding.code}")
            found.append(finding)
    return tuple(sorted(found, key=lambda f: (SEVERITY_ORDER[f.severity], f.code, f.elements)))
