"""`run.` rules: what runs of scenarios show that no condition does. They see the runs that are through."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.checks.registry import rule
from yardmeter.core.checks.steady import Steady
from yardmeter.core.elements.diode import over_pulse
from yardmeter.core.elements.load import over_volts
from yardmeter.core.plan import CapacitorFilter, Condition, Device, LcFilter, Plan, Regulator, Scenario
from yardmeter.core.runs.report import DeviceLife, Report, SupplyLife
from yardmeter.core.verdict import Comparison, Facts, Severity, Verdict, always, under

BRIEF_S = 10e-6
"""A spike over a maximum that is shorter weighs less; our choice."""
STOOD_FRAC, DEADLY_FRAC = 0.1, 0.5
"""Silicon stands a tenth more than the print for microseconds, and not half as much again for longer; common practice, no source."""
SURGE_FRAC = 1.15
"""Share of its print a wet aluminium electrolytic stands as a surge, up to 315 V: IEC 60384-4, from memory."""
STANDS_S = 0.5
"""Over its maximum for longer than this is no spike: where a condition tells it, that is enough; our choice."""
SOURCED_FRAC = 0.3
"""Share of its start-up volts from which a device has a source at all; without one a condition tells it; our choice."""
CLAMP_FRAC = 0.5
"""Share of a clamp's pulse from which it is told; our choice."""


@dataclass(frozen=True)
class RunCase:
    """A plan with the outcomes of its scenarios that were run, each with its scenario."""

    plan: Plan
    runs: tuple[tuple[Scenario, Report], ...]
    steady: Steady | None = None
    """What conditions tell already; nothing is left to them without it."""

    def devices(self) -> Iterator[tuple[Scenario, Report, Device, DeviceLife]]:
        for scenario, one in self.runs:
            for life in one.devices:
                yield scenario, one, self.plan.device_of[life.id], life

    def supplies(self) -> Iterator[tuple[Scenario, SupplyLife]]:
        for scenario, one in self.runs:
            for life in one.supplies:
                yield scenario, life


def _spikes(most_v: float, max_v: float, lasted_s: float, steady: bool) -> bool:
    """Whether a run is to tell of volts over a maximum: for a moment always, for longer where no condition does (`steady`)."""
    return 0 < lasted_s < STANDS_S or (lasted_s >= STANDS_S and over_volts(most_v, max_v) and not steady)


@dataclass(frozen=True)
class InScenario(Facts):
    """The scenario it is worst in, when, and for how long or how often."""

    scenario: str
    at_s: float
    lasted_s: float
    times: int
    others: tuple[str, ...]
    """Other scenarios it is true in."""


def condition_like(plan: Plan, scenario: Scenario) -> Condition | None:
    """The condition of a plan that a scenario is nearest to at its hardest; None where the plan has none such."""
    throttle = max((act.to_frac for act in scenario.acts if act.act == "throttle"), default=0.0)
    begins = next((one for one in plan.conditions if one.id == scenario.begins), None)
    first = next((act for act in scenario.acts if act.act in ("plug", "connect")), None)
    energy = first.inlet if first is not None and first.act == "connect" and begins is None else "pack"
    state = scenario.pack_state or (begins.pack_state if begins else "full")
    found = [one for one in plan.conditions if energy in one.energy]
    wanted = max(throttle, begins.throttle_frac if begins else 0.0)
    return min(found, key=lambda one: (abs(one.throttle_frac - wanted), one.pack_state != state), default=None)


def told(
    case: RunCase, weights: dict[str, Severity], elements: tuple[str, ...], compared: Comparison, facts: InScenario
) -> Verdict:
    """A verdict under the conditions its scenarios are like."""
    scenarios = {one.id: one for one, _ in case.runs}
    by_condition: dict[str, Severity] = {}
    order = ("note", "caution", "fault", "danger")
    for name, severity in weights.items():
        like = condition_like(case.plan, scenarios[name])
        if like and order.index(severity) >= order.index(by_condition.get(like.id, "note")):
            by_condition[like.id] = severity
    worst = condition_like(case.plan, scenarios[facts.scenario])
    if worst is None or worst.id not in by_condition:
        heaviest = max(weights.values(), key=order.index)
        return always(heaviest, elements, compared, facts)
    return under(by_condition, worst.id, elements, compared, facts)


def facts_of(found: list[tuple[float, Scenario, float, float, int]]) -> InScenario:
    """Of the worst, which is the least first number."""
    _, scenario, at, lasted, times = min(found, key=lambda one: one[0])
    others = tuple(one.id for _, one, *_ in found if one.id != scenario.id)
    return InScenario(scenario.id, at, lasted, times, others)


def _heavy(device: Device) -> Severity:
    return "danger" if device.keeps_control else "fault"


@rule("run.reset", InScenario, sense="at least", sees="runs")
def resets(case: RunCase) -> Iterator[Verdict]:
    """A device that resets in a scenario and comes back, or not."""
    for device in case.plan.devices:
        found = [
            (life.least_v or 0.0, scenario, life.resets_s[0], life.under_s, len(life.resets_s))
            for scenario, _, one, life in case.devices()
            if one is device and life.resets_s and life.loop_s is None
        ]
        if found:
            compared = Comparison(min(one[0] for one in found), device.reset_v, "V")
            yield told(case, {s.id: _heavy(device) for _, s, *_ in found}, (device.id,), compared, facts_of(found))


@rule("run.loop", InScenario, sense="at most", sees="runs")
def reboots(case: RunCase) -> Iterator[Verdict]:
    """A device that boots and resets over and over."""
    for device in case.plan.devices:
        found = [
            (life.loop_s, scenario, life.resets_s[0], life.loop_s, len(life.resets_s))
            for scenario, _, one, life in case.devices()
            if one is device and life.loop_s is not None
        ]
        if found:
            compared = Comparison(float(max(one[4] for one in found)), 0.0, "")
            yield told(case, {s.id: _heavy(device) for _, s, *_ in found}, (device.id,), compared, facts_of(found))


def spike_weight(most_v: float, max_v: float, lasted_s: float) -> Severity:
    """What a spike does to what takes `max_v` [V]: whether it dies goes by how far over it is, and for how long [s]."""
    over = most_v / max_v - 1 if max_v > 0 else float("inf")
    if lasted_s < BRIEF_S:
        return "note" if over <= STOOD_FRAC else "caution"
    return "danger" if over > DEADLY_FRAC else "fault"


@rule("run.spike", InScenario, sense="at most", sees="runs")
def spikes(case: RunCase) -> Iterator[Verdict]:
    """A device whose pins go over its maximum: the plug's ringing, braking, a load that is gone, a supply that fails."""
    for device in case.plan.devices:
        told_of = case.steady is not None and case.steady.over_pin(device)
        found = [
            (-life.most_v, scenario, life.most_at_s, life.over_s, 1)
            for scenario, _, one, life in case.devices()
            if one is device and _spikes(life.most_v, device.max_v, life.over_s, told_of)
        ]
        if found:
            weights = {s.id: spike_weight(-least, device.max_v, lasted) for least, s, _, lasted, _ in found}
            compared = Comparison(-min(one[0] for one in found), device.max_v, "V")
            yield told(case, weights, (device.id,), compared, facts_of(found))


@rule("run.input", InScenario, sense="at most", sees="runs")
def input_spikes(case: RunCase) -> Iterator[Verdict]:
    """A regulator with more at its input than it takes, where no condition sees it."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        told_of = case.steady is not None and case.steady.over_input(supply)
        found = [
            (-(life.most_in_v or 0.0), scenario, life.most_in_at_s or 0.0, life.over_in_s, 1)
            for scenario, life in case.supplies()
            if life.id == supply.id and _spikes(life.most_in_v or 0.0, supply.input_max_v, life.over_in_s, told_of)
        ]
        if found:
            weights = {s.id: spike_weight(-least, supply.input_max_v, lasted) for least, s, _, lasted, _ in found}
            compared = Comparison(-min(one[0] for one in found), supply.input_max_v, "V")
            yield told(case, weights, (supply.id,), compared, facts_of(found))


def surge_weight(kind: str, most_v: float, rated_v: float, lasted_s: float) -> Severity:
    """What volts over its print do to a capacitor: a wet electrolytic stands a surge, a tantalum none at all."""
    if kind == "electrolytic" and not over_volts(most_v, SURGE_FRAC * rated_v):
        return "note"
    return "danger" if kind == "tantalum" else spike_weight(most_v, rated_v, lasted_s)


@rule("run.capacitor", InScenario, sense="at most", sees="runs")
def capacitor_spikes(case: RunCase) -> Iterator[Verdict]:
    """A capacitor with more than its print: what it smooths rings over it first."""
    for part in case.plan.filters:
        if not isinstance(part, CapacitorFilter | LcFilter):
            continue
        told_of = case.steady is not None and part.fitted and case.steady.over_print(part)
        found = [
            (-life.most_v, scenario, life.most_at_s, life.over_s, 1)
            for scenario, one in case.runs
            for life in one.capacitors
            if life.id == part.id and _spikes(life.most_v, part.rated_v, life.over_s, told_of)
        ]
        if found:
            weights = {
                s.id: surge_weight(part.dielectric, -least, part.rated_v, lasted) for least, s, _, lasted, _ in found
            }
            compared = Comparison(-min(one[0] for one in found), part.rated_v, "V")
            yield told(case, weights, (part.id, part.at), compared, facts_of(found))


@rule("run.never", InScenario, sense="at least", sees="runs")
def never_starts(case: RunCase) -> Iterator[Verdict]:
    """A device that is to run and never even boots, though it does in another scenario: where none wakes it, a condition tells."""
    ran = {life.id for _, _, _, life in case.devices() if life.ran}
    for device in case.plan.devices:
        found = [
            (life.most_v, scenario, 0.0, scenario.duration_s, 1)
            for scenario, _, one, life in case.devices()
            if one is device and life.never and device.id in ran and life.most_v > SOURCED_FRAC * device.restarts_v
        ]
        if found:
            compared = Comparison(min(one[0] for one in found), device.restarts_v, "V")
            yield told(case, {s.id: _heavy(device) for _, s, *_ in found}, (device.id,), compared, facts_of(found))


@rule("run.trip", InScenario, sense="at most", sees="runs")
def trips(case: RunCase) -> Iterator[Verdict]:
    """A regulator that gets too hot in a scenario."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        found = [
            (life.trips_s[0], scenario, life.trips_s[0], 0.0, len(life.trips_s))
            for scenario, life in case.supplies()
            if life.id == supply.id and life.trips_s
        ]
        if found:
            hottest = max(life.hottest_c or 0.0 for _, life in case.supplies() if life.id == supply.id)
            compared = Comparison(hottest, supply.trip_c, "°C")
            yield told(case, {s.id: "fault" for _, s, *_ in found}, (supply.id,), compared, facts_of(found))


@rule("run.gives_up", InScenario, sense="at most", sees="runs")
def gives_up(case: RunCase) -> Iterator[Verdict]:
    """A regulator or limiter that stops at its limit: it hiccups, latches, or the limiter opens."""
    for supply in (*case.plan.supplies, *case.plan.inlets):
        found = [
            (-life.most_a, scenario, life.gives_up_s[0], life.limits_s, len(life.gives_up_s))
            for scenario, life in case.supplies()
            if life.id == supply.id and life.gives_up_s
        ]
        if found:
            limit = supply.rating_a if not hasattr(supply, "limit_a") else supply.limit_a
            compared = Comparison(-min(one[0] for one in found), limit or 0.0, "A")
            yield told(case, {s.id: "fault" for _, s, *_ in found}, (supply.id,), compared, facts_of(found))


@rule("run.chatter", InScenario, sense="at least", sees="runs")
def chatters(case: RunCase) -> Iterator[Verdict]:
    """A regulator that starts, takes its own input under its stop volts, and starts again once that has come back."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        found = [
            (life.least_in_v or 0.0, scenario, life.stops_s[0], life.chatter_s, len(life.stops_s))
            for scenario, life in case.supplies()
            if life.id == supply.id and life.chatter_s is not None and life.stops_s
        ]
        if found:
            compared = Comparison(min(*(one[0] for one in found), supply.stop_v), supply.stop_v, "V")
            yield told(case, {s.id: "fault" for _, s, *_ in found}, (supply.id,), compared, facts_of(found))


@rule("run.clamp", InScenario, sense="at most", sees="runs")
def clamp_energy(case: RunCase) -> Iterator[Verdict]:
    """A clamp that swallows more than a pulse it survives, or near it."""
    for clamp in (one for one in case.plan.clamps if one.fitted):
        found = [
            (-life.energy_j, scenario, 0.0, 0.0, 1)
            for scenario, one in case.runs
            for life in one.clamps
            if life.id == clamp.id and life.energy_j > CLAMP_FRAC * clamp.pulse_j
        ]
        if found:
            weights: dict[str, Severity] = {s.id: "fault" if over_pulse(-least, clamp.pulse_j) else "caution" for least, s, *_ in found}  # fmt: skip
            compared = Comparison(-min(one[0] for one in found), clamp.pulse_j, "J")
            yield told(case, weights, (clamp.id, clamp.at), compared, facts_of(found))


@rule("run.fuse", InScenario, sense="at most", sees="runs")
def fuses(case: RunCase) -> Iterator[Verdict]:
    """A fuse that melts in a scenario nothing has failed in: it is too small for the craft, or too quick for its inrush."""
    sound = [(scenario, one) for scenario, one in case.runs if not any(act.act == "fail" for act in scenario.acts)]
    for element in dict.fromkeys(life.element for _, one in sound for life in one.melted):
        found = [
            (-life.amps, scenario, life.at_s, 0.0, 1)
            for scenario, one in sound
            for life in one.melted
            if life.element == element
        ]
        rated = max(life.rated_a for _, one in sound for life in one.melted if life.element == element)
        compared = Comparison(-min(one[0] for one in found), rated, "A")
        weight: Severity = "danger" if element == "pack" else "fault"
        yield told(case, {s.id: weight for _, s, *_ in found}, (element,), compared, facts_of(found))


@rule("run.order", InScenario, sense="equal", sees="runs")
def order_of_power(case: RunCase) -> Iterator[Verdict]:
    """A craft that starts with its pack alone, but not with USB first: one order of power fails."""
    starts: dict[str, tuple[Scenario, Report]] = {}
    for scenario, one in case.runs:
        kinds = [act.act for act in sorted(scenario.acts, key=lambda act: act.at_s) if act.act in ("plug", "connect")]
        ported = any(act.act == "connect" and case.plan.inlet_of[act.inlet].is_port for act in scenario.acts)
        if scenario.begins is None and kinds == ["connect", "plug"] and ported:
            starts["usb"] = scenario, one
        elif scenario.begins is None and kinds == ["plug"] and scenario.duration_s > 0.1:
            starts["pack"] = scenario, one
    if len(starts) < 2:
        return
    bad = {name: {life.id for life in one.devices if life.never or life.loop_s is not None} for name, (_, one) in starts.items()}  # fmt: skip
    for name, other in (("usb", "pack"), ("pack", "usb")):
        only = sorted(bad[name] - bad[other])
        if only:
            scenario = starts[name][0]
            facts = InScenario(scenario.id, 0.0, 0.0, len(only), (starts[other][0].id,))
            yield told(case, {scenario.id: "caution"}, tuple(only), Comparison(float(len(only)), 0.0, ""), facts)
