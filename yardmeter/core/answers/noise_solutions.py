"""Each condition's small-signal network at its operating point, with its lines solved; one of them at every throttle."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.noise_sources import FOLLOWING, Line, motor_lines, noise_lines
from yardmeter.core.answers.operating import View
from yardmeter.core.answers.small_signal import BARE, PLANNED, Changes, operating_point, solve_lines, variants
from yardmeter.core.network.ac import AcNetwork
from yardmeter.core.network.ac_build import build_ac
from yardmeter.core.network.keys import Node
from yardmeter.core.plan import Condition
from yardmeter.core.solver.circuit import Complex, Floats

SHOWN = 8
"""Lines listed of a place."""
THROTTLES = tuple(round(0.1 + 0.05 * k, 2) for k in range(18))


@dataclass(frozen=True)
class NoiseSetup:
    """One condition's small-signal network and the lines that sound in it."""

    condition: Condition
    view: View
    network: AcNetwork
    lines: list[Line]
    changes: Changes
    """What is changed in the network under each key."""


@dataclass(frozen=True)
class NoiseSolution(NoiseSetup):
    """A scene with what its lines make of every node [V peak] (lines, nodes + 1)."""

    volts: Complex
    others: dict[str, Complex] = field(default_factory=dict)
    """The same volts without any filter, without each one alone, and with new ones; not there where that changes nothing."""

    def without(self, key: str = BARE) -> NoiseSolution:
        """With this filter taken out, or all of them, at the same operating point; or as under another key. `network` stays the planned one."""
        return replace(self, volts=self.under(key), others={}) if self.others else self

    def across_pp_v(self, p: Node, n: Node) -> Floats:
        """Peak-to-peak volts of every line between two nodes (lines,)."""
        return self.between_pp_v(self.network.node[p], self.network.node[n])

    def between_pp_v(self, a: int, b: int, key: str = PLANNED) -> Floats:
        """The same between nodes by their numbers, as planned or under another key."""
        volts = self.under(key)
        sizes: Floats = 2 * np.abs(volts[:, a] - volts[:, b])
        return sizes

    def under(self, key: str) -> Complex:
        return self.others.get(key, self.volts)


@dataclass(frozen=True)
class Throttles:
    """One flying condition at many throttles: every line of each, and which are heard together."""

    at: NoiseSolution
    together: tuple[tuple[float, list[int]], ...]


def rss(sizes: Floats) -> float:
    """Lines that are not in step add by root of squares."""
    return math.sqrt(float(sizes @ sizes))


def loudest(sizes: Floats, above: float) -> list[int]:
    """Places of the largest, largest first."""
    return [k for k in np.argsort(-sizes, kind="stable")[:SHOWN].tolist() if sizes[k] > above]


def noise_solution(solved: Solved, condition: Condition) -> NoiseSolution:
    """A condition's lines solved."""
    return _solved(_setups(solved, [condition]))[0]


def noise_solutions(solved: Solved) -> list[NoiseSolution]:
    """One for each condition of the plan."""
    return _solved(_setups(solved, solved.plan.conditions))


def noise_at_throttles(solved: Solved) -> tuple[list[NoiseSolution], Throttles | None]:
    """One for each condition, and the flying condition with the most ordinary throttle at other throttles.

    There the small-signal network is kept; only the motors' lines follow the throttle.
    """
    setups = _setups(solved, solved.plan.conditions)
    flying = [k for k, at in enumerate(setups) if at.condition.on_pack and 0 < at.condition.throttle_frac < 1]
    plan = solved.plan
    if not flying or not any(d.throttle for d in plan.devices) or not any(s.kind == "video" for s in plan.signals):
        return _solved(setups), None
    still = setups[flying[0]]
    following: list[Line] = []
    spans = []
    for throttle in THROTTLES:
        start = len(following)
        following += motor_lines(plan, still.condition, still.view, throttle)
        spans.append((throttle, start, len(following)))
    *solutions, moving = _solved([*setups, replace(still, lines=following)])
    base = solutions[flying[0]]
    steady = [k for k, line in enumerate(base.lines) if line.kind not in FOLLOWING]
    count = len(steady)
    volts = {key: np.concatenate([base.under(key)[steady], moving.under(key)]) for key in (PLANNED, *base.others)}
    together = tuple((throttle, [*range(count), *range(count + a, count + b)]) for throttle, a, b in spans)
    lines = [*(base.lines[k] for k in steady), *following]
    return solutions, Throttles(replace(base, lines=lines, volts=volts.pop(PLANNED), others=volts), together)


def _setups(solved: Solved, conditions: Sequence[Condition]) -> list[NoiseSetup]:
    networks = [build_ac(operating_point(solved, one)) for one in conditions]
    found = []
    for one, network in zip(conditions, networks, strict=True):
        view = solved.given[one.id]
        found.append(
            NoiseSetup(one, view, network, noise_lines(solved.plan, one, view), variants(solved.plan, network))
        )
    return found


def _solved(setups: Sequence[NoiseSetup]) -> list[NoiseSolution]:
    """All of them, in one solution."""
    found = solve_lines([(one.network, one.lines, one.changes) for one in setups])
    return [
        NoiseSolution(one.condition, one.view, one.network, one.lines, one.changes, volts.pop(PLANNED), volts)
        for one, volts in zip(setups, found, strict=True)
    ]
