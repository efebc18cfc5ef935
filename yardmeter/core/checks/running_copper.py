"""`run.` rules of what carries: wires and contacts that get too warm for a while, diodes that take a surge, ports that stand at their limit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.limits import UNSURE_FRAC
from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.running import InScenario, RunCase, facts_of, told
from yardmeter.core.network.keys import Key
from yardmeter.core.plan import Diode, Scenario
from yardmeter.core.runs.report import Warm, WireMost
from yardmeter.core.verdict import Comparison, Severity, Verdict

SURGE_FRAC, SURGE_S = 20.0, 8.3e-3
"""A diode stands one half sine of 8.3 ms of about twenty times its print (JESD282-B test; the factor common practice, no source)."""
MELTS_FRAC = 3.0
"""So many times the allowed rise, and insulation of silicone is past its 200 °C; common practice, no source."""
PORT_S = 10e-3
"""A port that stands at its limit for longer may be switched off by its host; common practice, no source."""


@dataclass(frozen=True)
class WarmInScenario(InScenario):
    """Which wire it is, and what of it; the most it carried."""

    role: str
    of: str
    amps: float


def heat_weight(share: float) -> Severity:
    """What a rise of so many times the allowed weighs."""
    if share > MELTS_FRAC:
        return "danger"
    return "fault" if share > (1 + UNSURE_FRAC) ** 2 else "caution"


@rule("run.wire", WarmInScenario, sense="at most", sees="runs")
def warm_wires(case: RunCase) -> Iterator[Verdict]:
    """A wire or connector that gets too warm in a scenario: what fails short, brakes or punches for long does that, and no condition tells."""
    warm: dict[str, list[tuple[float, Scenario, WireMost, Warm]]] = {}
    for scenario, one in case.runs:
        for wire in one.wires:
            if wire.warm and wire.warm.rise_k > wire.warm.allowed_k and not _stands(case, scenario, wire, wire.warm):
                element = case.plan.return_of[wire.element][0] if wire.role == "return" else wire.element
                warm.setdefault(element, []).append(
                    (-wire.warm.rise_k / wire.warm.allowed_k, scenario, wire, wire.warm)
                )
    for element, found in warm.items():
        least, _, wire, most = min(found, key=lambda one: one[0])
        facts = facts_of([(share, s, own.at_s, own.over_s, 1) for share, s, _, own in found])
        weights: dict[str, Severity] = {}
        for share, s, *_ in sorted(found, key=lambda one: -one[0]):  # the worst of a scenario comes last, and stays
            weights[s.id] = heat_weight(-share)
        compared = Comparison(-least * most.allowed_k, most.allowed_k, "K")
        yield told(
            case,
            weights,
            (element,),
            compared,
            WarmInScenario(**vars(facts), role=wire.role, of=most.of, amps=wire.amps),
        )


def _stands(case: RunCase, scenario: Scenario, wire: WireMost, warm: Warm) -> bool:
    """Whether it is over for most of a scenario in which nothing fails, and a condition tells that."""
    fails = any(act.act == "fail" for act in scenario.acts)
    lasts = not fails and warm.over_s > scenario.duration_s / 2
    key = Key(wire.role, "" if wire.role in ("lead", "limiter") else wire.element, wire.part)
    return lasts and case.steady is not None and case.steady.warm(key)


@rule("run.diode", InScenario, sense="at most", sees="runs")
def diode_surges(case: RunCase) -> Iterator[Verdict]:
    """A diode that a plug or a short drives more through than its chip can take up: `∫ (i² − I²) dt` against its surge."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Diode) or not supply.rating_a:
            continue
        stands = (SURGE_FRAC * supply.rating_a) ** 2 * SURGE_S / 2
        found = [
            (-life.surge_a2s, scenario, 0.0, 0.0, 1)
            for scenario, life in case.supplies()
            if life.id == supply.id and life.surge_a2s > stands
        ]
        if found:
            compared = Comparison(-min(one[0] for one in found), stands, "A²s")
            yield told(case, {s.id: "fault" for _, s, *_ in found}, (supply.id,), compared, facts_of(found))


@rule("run.port", InScenario, sense="at most", sees="runs")
def ports_at_their_limit(case: RunCase) -> Iterator[Verdict]:
    """A USB port that is asked for more than it gives for long enough that its host may switch it off."""
    for inlet in case.plan.inlets:
        if inlet.kind != "usb":
            continue
        told_of = case.steady is not None and case.steady.at_limit(inlet)
        found = [
            (-life.limits_s, scenario, 0.0, life.limits_s, 1)
            for scenario, life in case.supplies()
            if life.id == inlet.id
            and life.limits_s > PORT_S
            and not (told_of and life.limits_s >= scenario.duration_s / 2)
        ]
        if found:
            compared = Comparison(-min(one[0] for one in found), PORT_S, "s")
            yield told(case, {s.id: "caution" for _, s, *_ in found}, (inlet.id,), compared, facts_of(found))
