"""`headroom.` rules: whether regulators hold their output on the sagged, low pack."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.model import SupplyState
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.answers.supplies import sinks_deep, wanted_headroom_v
from yardmeter.core.checks.registry import rule
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Condition, Device, Regulator
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.verdict import Comparison, Facts, Fix, Severity, Verdict, under

POWERED_V = 1.0
"""Input from which a regulator that does not run is found [V]; our choice."""


def _powered(case: SolvedPlan, supply: Regulator) -> list[tuple[Condition, SupplyState]]:
    """The conditions on the pack in which the regulator has an input at all, and somebody to serve."""
    return [(c, s) for c, s in case.serving(supply.id) if s.in_v > LIVE_V and s.headroom_v is not None]


def _set_lower(case: SolvedPlan, supply: Regulator) -> Iterator[Fix]:
    """The nearest half volt inside the advised output range, where its volts can be set."""
    if not supply.can_be_set:
        return
    advice = next(a for a in case.windows.advice if a.supply == supply.id)
    top = min(advice.high_v, supply.set_v - 0.5)
    volts = int(top * 2) / 2
    if volts >= advice.low_v:
        edits = [SetValue(element=supply.id, field="set_v", value=volts)]
        if case.plan.rail_of[supply.output].nominal_v:
            edits.append(SetValue(element=supply.output, field="nominal_v", value=volts))
        yield Fix("set volts", tuple(edits))


def _leaves_at_v(case: SolvedPlan, supply: Regulator) -> float | None:
    event = next((e for e in case.windows.events if e.kind == "leaves" and e.element == supply.id), None)
    return event.cell_v if event else None


@dataclass(frozen=True)
class Dropout(Facts):
    set_v: float
    out_v: float
    leaves_at_v: float | None
    """Rest voltage of a cell at which it leaves regulation."""
    hurt: tuple[str, ...]


@rule("headroom.dropout", Dropout, sense="at least")
def dropout(case: SolvedPlan) -> Iterator[Verdict]:
    """A buck or linear regulator out of regulation in a pack condition."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator) or _never_holds(case, supply):
            continue
        bad = {
            c.id: s for c, s in _powered(case, supply) if s.mode == "dropout" and s.headroom_v is not None and s.headroom_v < 0
        }  # fmt: skip
        if not bad:
            continue
        worst = min(bad, key=lambda c: bad[c].headroom_v or 0.0)
        state = bad[worst]
        yield under(
            {c: _sunk_weight(supply, s, _hurt(case, supply, c)) for c, s in bad.items()},
            worst,
            (supply.id,),
            Comparison(state.in_v, state.in_v - (state.headroom_v or 0.0), "V"),
            Dropout(supply.set_v, state.out_v, _leaves_at_v(case, supply), tuple(d.id for d in _hurt(case, supply, worst))),
            tuple(_set_lower(case, supply)),
        )  # fmt: skip


def _hurt(case: SolvedPlan, supply: Regulator, condition: str) -> list[Device]:
    below = graph_of(case.plan).consumers_below(supply.output)
    return [d for d in below if case.device(d.id).states[condition].verdict in ("low", "reset")]


def _sunk_weight(supply: Regulator, state: SupplyState, hurt: list[Device]) -> Severity:
    if any(d.keeps_control for d in hurt):
        return "danger"
    return "fault" if hurt or sinks_deep(supply, state.out_v) else "caution"


@dataclass(frozen=True)
class ThinHeadroom(Facts):
    leaves_at_v: float | None


@rule("headroom.thin", ThinHeadroom, sense="at least")
def thin_headroom(case: SolvedPlan) -> Iterator[Verdict]:
    """Holding, but with little to spare in the worst pack condition."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        wanted = wanted_headroom_v(case.plan, supply)
        held = {c.id: s.headroom_v for c, s in _powered(case, supply) if s.headroom_v is not None}
        if not held or min(held.values()) < 0 or min(held.values()) >= wanted:
            continue
        worst = min(held, key=lambda c: held[c])
        yield under(
            {c: "caution" for c, volts in held.items() if volts < wanted},
            worst,
            (supply.id,),
            Comparison(held[worst], wanted, "V"),
            ThinHeadroom(_leaves_at_v(case, supply)),
            tuple(_set_lower(case, supply)),
        )


def _never_holds(case: SolvedPlan, supply: Regulator) -> bool:
    """Whether even the full pack at rest cannot hold a buck's or linear's set point."""
    best = max((s.in_v for _, s in _powered(case, supply)), default=0.0)
    full = case.plan.pack.rest_v("full")
    return supply.kind in ("buck", "linear") and LIVE_V < best <= full * 1.01 and supply.ceiling_v(full) < supply.set_v


@dataclass(frozen=True)
class NeedsBoost(Facts):
    pass


@rule("headroom.boost", NeedsBoost, sense="at least")
def boost_needed(case: SolvedPlan) -> Iterator[Verdict]:
    """A step-down regulator asked for more volts than its input ever has."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator) or not _never_holds(case, supply):
            continue
        inputs = {c.id: s.in_v for c, s in _powered(case, supply)}
        buckboost = Fix("buck-boost", (SetValue(element=supply.id, field="kind", value="buckboost"),))
        yield under(
            dict.fromkeys(inputs, "fault"),
            min(inputs, key=lambda c: inputs[c]),
            (supply.id,),
            Comparison(max(inputs.values()), supply.set_v, "V"),
            NeedsBoost(),
            (buckboost,),
        )


@dataclass(frozen=True)
class DoesNotRun(Facts):
    starting: bool
    """Whether it is its start that is missed, not its stop."""
    idle_v: float | None
    """Of one that comes up and takes its own input down, over and over: its input while it is off."""
    falling: tuple[str, ...] = ()
    """Devices that live while it is off and lose their volts when its input is down to where it stops."""


@rule("headroom.start", DoesNotRun, sense="at least")
def below_start(case: SolvedPlan) -> Iterator[Verdict]:
    """A regulator with an input that is too low for it to run."""
    graph = graph_of(case.plan)
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        off = {
            c.id: (s.in_v, s.mode == "hiccup")
            for c, s in case.serving(supply.id)
            if s.mode in ("off", "hiccup") and s.in_v > POWERED_V
            if s.mode == "hiccup" or s.in_v < graph.runs_from_v(supply, c) + 0.05
        }
        if off:
            worst = min(off, key=lambda c: off[c])
            condition, (input_v, hiccups) = case.plan.condition(worst), off[worst]
            starting = condition.starts or supply.id in graph.never_start
            threshold_v = supply.stop_v if hiccups else graph.runs_from_v(supply, condition)
            loaded_v = min(input_v, threshold_v) if hiccups else input_v
            yield under(
                dict.fromkeys(off, "fault"),
                worst,
                (supply.id,),
                Comparison(loaded_v, threshold_v, "V"),
                DoesNotRun(starting, input_v, _falling_with(case, supply, condition))
                if hiccups
                else DoesNotRun(starting, None),
            )


def _falling_with(case: SolvedPlan, supply: Regulator, condition: Condition) -> tuple[str, ...]:
    """What shares a restarting regulator's input, or hangs behind another that does, and loses its volts with every try."""
    below = set(_below(case, condition, graph_of(case.plan).feeding_rail(supply.input), supply.stop_v, set()))
    alive = (d.id for d in case.plan.devices if case.device(d.id).states[condition.id].verdict in ("ok", "low"))
    return tuple(one for one in alive if one in below)


def _below(case: SolvedPlan, condition: Condition, rail: str | None, volts: float, seen: set[str]) -> Iterator[str]:
    """Devices that reset while a rail, and what is wired to it, has so many volts; rails already `seen` are passed over."""
    graph = graph_of(case.plan)
    net: frozenset[str] = next((rails for rails in graph.nets if rail in rails), frozenset())
    if net & seen:
        return
    seen |= net
    yield from (device.id for one in net for device in graph.consumers_below(one) if device.reset_v > volts)
    running = [one for one in case.plan.supplies if isinstance(one, Regulator) and _runs(case, one, condition)]
    elsewhere = {one.output for one in running if graph.feeding_rail(one.input) not in net}
    for one in running:
        if graph.feeding_rail(one.input) in net and one.output not in elsewhere:
            yield from _below(case, condition, one.output, _held_v(one, volts), seen)


def _runs(case: SolvedPlan, regulator: Regulator, condition: Condition) -> bool:
    return case.supply(regulator.id).states[condition.id].mode not in ("off", "hiccup")


def _held_v(regulator: Regulator, input_v: float) -> float:
    """What a regulator that runs still gives, at most, when its input falls to so many volts."""
    if input_v <= regulator.stop_v:
        return 0.0
    return (
        min(regulator.set_v, regulator.ceiling_v(input_v)) if regulator.kind in ("buck", "linear") else regulator.set_v
    )
