"""A run as a screen shows it: lines over time as envelopes, lines of life, what happened in words, why, and what it finds."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.runs import Run, scenarios_of
from yardmeter.core.runs.drawn import envelope, more_of
from yardmeter.core.runs.report import Report, report
from yardmeter.core.runs.why import whys
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.words.run import act_words, event_words, link_words, outcome_words, steady_words, why_words

BUCKETS = 320
LineKind = Literal["pack", "rail", "device", "clamp", "supply"]


class ScenarioSeen(Answer):
    """A scenario in the list: `own` is the builder's, or a shipped one he changed; `acts` in words."""

    scenario: Scenario
    own: bool
    shipped: bool
    acts: tuple[str, ...]


class Line(Answer):
    """Volts of a rail, pack or device over time: the least and most within each bucket, `None` where no step fell."""

    id: str
    name: str
    kind: LineKind
    rail: str | None
    low_v: tuple[float | None, ...]
    high_v: tuple[float | None, ...]
    min_v: float | None
    """Limits of a device: under `reset_v` it resets, over `max_v` it dies."""
    reset_v: float | None
    max_v: float | None


class MoreLine(Answer):
    """What else a screen draws below the volts: throttle, amps, charge, heat; `limit` is what it is made for."""

    id: str
    name: str
    unit: Literal["A", "%", "°C"]
    low: tuple[float | None, ...]
    high: tuple[float | None, ...]
    limit: float | None


class Station(Answer):
    """Something that happened, along the top or in the list."""

    at_s: float
    code: Happening
    element: str
    words: str
    act: int | None
    act_kind: str | None
    period_s: float
    rounds: int


class WhySeen(Answer):
    """A reset with its chain of causes, link by link and as one line."""

    device: str
    name: str
    at_s: float
    steady: bool
    below_s: float
    links: tuple[str, ...]
    line: str
    help: str


class RunSeen(Answer):
    """One scenario run through, for the stretch of time asked for."""

    scenario: Scenario
    own: bool
    acts: tuple[str, ...]
    outcome: tuple[str, ...]
    """What is wrong in it, in a few words each."""
    from_s: float
    to_s: float
    end_s: float
    """Where the run ended: before its duration where it found no way on."""
    stuck_s: float | None
    edges_s: tuple[float, ...]
    """Edges of the buckets."""
    lines: tuple[Line, ...]
    more: tuple[MoreLine, ...]
    stations: tuple[Station, ...]
    whys: tuple[WhySeen, ...]
    report: Report
    steps: int


def seen_scenarios(plan: Plan) -> tuple[ScenarioSeen, ...]:
    """Every scenario of a plan with its acts in words."""
    bare = {one.id for one in scenarios_of(plan.model_copy(update={"scenarios": ()}))}
    own = {one.id for one in plan.scenarios}
    return tuple(
        ScenarioSeen(
            scenario=one,
            own=one.id in own,
            shipped=one.id in bare,
            acts=tuple(act_words(plan, act) for act in one.acts),
        )
        for one in scenarios_of(plan)
    )


def run_seen(run: Run, from_s: float = 0.0, to_s: float | None = None) -> RunSeen:
    """What a screen shows of a run between two times [s]."""
    plan, scenario = run.plan, run.scenario
    found, end = report(run), float(run.times_s[-1]) if run.times_s.size else 0.0
    to = min(to_s if to_s is not None else scenario.duration_s, scenario.duration_s)
    begin = min(max(from_s, 0.0), max(to - 1e-9, 0.0))
    edges = np.linspace(begin, to, BUCKETS + 1)
    return RunSeen(
        scenario=scenario,
        own=any(one.id == scenario.id for one in plan.scenarios),
        acts=tuple(act_words(plan, act) for act in scenario.acts),
        outcome=outcome_words(plan, found),
        from_s=begin,
        to_s=to,
        end_s=end,
        stuck_s=run.stuck_s,
        edges_s=tuple(edges.tolist()),
        lines=tuple(_lines(run, edges)),
        more=tuple(_more(run, edges)),
        stations=tuple(_stations(run)),
        whys=tuple(_whys(run)),
        report=found,
        steps=run.trace.steps,
    )


def _lines(run: Run, edges_s: Floats) -> Iterator[Line]:
    plan = run.plan
    for rail in plan.rails:
        low, high = envelope(run.rail_v(rail.id), run.times_s, edges_s)
        yield Line(
            id=rail.id, name=plan.title(rail.id), kind="rail", rail=rail.id, low_v=_plain(low), high_v=_plain(high), min_v=None,
            reset_v=None, max_v=None,
        )  # fmt: skip
    for device in plan.devices:
        low, high = envelope(run.pin_v(device.id), run.times_s, edges_s)
        yield Line(
            id=device.id, name=device.name, kind="device", rail=device.feed.rail if device.feed else None, low_v=_plain(low),
            high_v=_plain(high), min_v=device.min_v, reset_v=device.reset_v, max_v=device.max_v,
        )  # fmt: skip


def _more(run: Run, edges_s: Floats) -> Iterator[MoreLine]:
    for one in more_of(run):
        low, high = envelope(one.values, run.times_s, edges_s)
        yield MoreLine(id=one.id, name=one.name, unit=one.unit, low=_plain(low), high=_plain(high), limit=one.limit)


def _plain(values: Floats) -> tuple[float | None, ...]:
    return tuple(None if np.isnan(one) else float(f"{one:.5g}") for one in values.tolist())


def _stations(run: Run) -> Iterator[Station]:
    acts = run.scenario.acts
    for one in run.events:
        act = acts[one.act] if one.act is not None else None
        words = (
            act_words(run.plan, act) if act else event_words(run.plan, one.code, one.element, one.period_s, one.rounds)
        )
        yield Station(
            at_s=one.at_s, code=one.code, element=one.element, words=words, act=one.act,
            act_kind=act.act if act else None, period_s=one.period_s, rounds=one.rounds,
        )  # fmt: skip


def _whys(run: Run) -> Iterator[WhySeen]:
    acts = run.scenario.acts
    for one in whys(run):
        yield WhySeen(
            device=one.device,
            name=run.plan.title(one.device),
            at_s=one.at_s,
            steady=one.steady,
            below_s=one.below_s,
            links=tuple(link_words(run.plan, link, acts) for link in one.chain),
            line=why_words(run.plan, one, acts),
            help=steady_words(one),
        )
