"""What rules of noise may look at: they run when the noise of a plan is asked for, not at every edit."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.filtering import FilterAnswer, filter_answers
from yardmeter.core.answers.noise import Noise, noise_of
from yardmeter.core.answers.noise_solutions import NoiseSolution, noise_at_throttles, rss
from yardmeter.core.network.branches import filter_nodes
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Filter, Plan


def noise_case(solved: Solved) -> NoiseCase:
    """The solved plan with its noise, as rules of noise see it."""
    solutions, swept = noise_at_throttles(solved)
    return NoiseCase(solved, solutions, noise_of(solved.plan, solutions, swept), filter_answers(solved, solutions))


@dataclass(frozen=True)
class NoiseCase:
    """A plan with its noise solved."""

    solved: Solved
    solutions: list[NoiseSolution]
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
        a, b = filter_nodes(self.plan, self.solutions[0].network.node, one)
        return max(rss(at.between_pp_v(a, b)) for at in self.solutions)
