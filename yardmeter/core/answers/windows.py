"""Allowed volts against seen volts, with the pack taken from full to floor in every load pattern of the conditions."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.operating import Operating, View, exceeds_limits, operate_free
from yardmeter.core.answers.pins import VerdictSpan, is_off, verdict_spans
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.answers.supplies import needed_input_v, wanted_headroom_v
from yardmeter.core.graph import graph_of
from yardmeter.core.network import Network, Situation, derive
from yardmeter.core.network.keys import ground_node, pin_node, rail_node, supply_key
from yardmeter.core.physics.pack import CELL_STATE_V
from yardmeter.core.plan import Condition, Device, Plan, Regulator
from yardmeter.core.solver.circuit import OFF, Bools, Floats, Ints, Solution
from yardmeter.core.solver.dc import solve_dc_near
from yardmeter.core.solver.rows import held_off, joined, put_rows, take_rows, take_solution

SWEEP_POINTS = 13
PLACES = 4
ROUNDED_V = 0.5e-4
"""What volts of the sweep may be off by as they are kept [V]."""
HALVINGS, MOST_JUMPS = 5, 12
"""A jump is closed in on to a 32nd of the distance between two points, a few millivolts of a cell."""
MARGIN_FRAC = 0.02
"""Room left above a device's lower limit when an output voltage is recommended; our choice."""

SET_V = 1e-6
"""What an output lies outside of its bounds by no more than is rounding [V]."""


class SweepPattern(Answer):
    """One load pattern over the pack's rest voltage: volts by element, aligned with `Windows.cell_v`; `lives` by device."""

    conditions: tuple[str, ...]
    name: str
    rails_v: dict[str, tuple[float, ...]]
    pins_v: dict[str, tuple[float, ...]]
    holds: dict[str, tuple[bool, ...]]
    lives: dict[str, tuple[VerdictSpan, ...]]


class SweepEvent(Answer):
    """A cell voltage at which something changes on the way from full to floor."""

    cell_v: float
    kind: Literal["leaves", "resets", "over"]
    element: str
    conditions: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class OutputBound:
    """What an output is bounded by: a consumer's window, or the input in a condition, less what stays as headroom."""

    kind: Literal["open below", "open above", "needs", "takes", "input"]
    element: str | None = None
    """The consumer, or the condition the input is of."""
    limit_v: float = 0.0
    headroom_v: float = 0.0


class OutputAdvice(Answer):
    """Output volts at which a regulator holds on the low pack and its consumers are content; `none` where nothing suits both."""

    supply: str
    set_v: float
    low_v: float
    high_v: float
    low: OutputBound
    high: OutputBound
    stands: Literal["inside", "outside", "none"]
    """Where the volts it is set to stand."""


class Windows(Answer):
    """The pack slider's data, the events on it, and advice for each regulator."""

    cell_v: tuple[float, ...]
    patterns: tuple[SweepPattern, ...]
    events: tuple[SweepEvent, ...]
    advice: tuple[OutputAdvice, ...]


@dataclass(frozen=True)
class _Pattern:
    conditions: tuple[Condition, ...]
    view: View

    @property
    def ids(self) -> tuple[str, ...]:
        return tuple(c.id for c in self.conditions)

    @property
    def name(self) -> str:
        return " / ".join(c.name for c in self.conditions)


Swept = tuple[str, bytes]
"""A sweep by the condition whose loads it has, and the cells' volts."""


@dataclass(frozen=True)
class Sweeps:
    """Sweeps that are worked out, and what they say of every element."""

    points: dict[Swept, Solution] = field(default_factory=dict)
    told: dict[Swept, tuple[SweepPattern, tuple[SweepEvent, ...]]] = field(default_factory=dict)

    def of(self, conditions: Collection[str]) -> Sweeps:
        """Those with the loads of some conditions alone."""
        return Sweeps(
            {key: one for key, one in self.points.items() if key[0] in conditions},
            {key: one for key, one in self.told.items() if key[0] in conditions},
        )


def windows(solved: Solved, known: Sweeps | None = None) -> Windows:
    """Sweep the rest voltage of a cell from full to floor under each distinct load pattern on the pack.

    Of the sweeps that are `known` none is worked out again; the new ones are put to them.
    """
    known = known or Sweeps()
    plan = solved.plan
    states = CELL_STATE_V[plan.pack.chemistry]
    cells = np.linspace(states["full"], states["floor"], SWEEP_POINTS)
    patterns = _patterns(solved)
    if not patterns:
        return Windows(cell_v=tuple(cells.tolist()), patterns=(), events=(), advice=())
    found = _sweep(solved, patterns, cells, known)
    beside = _jumps(solved, patterns, cells, joined(found))
    if beside.size:
        cells = np.sort(np.unique(np.concatenate([cells, beside])))[::-1]
        found = _sweep(solved, patterns, cells, known)
    told = _told(solved, patterns, cells, found, known)
    events = [event for _, own in told for event in own]
    return Windows(
        cell_v=tuple(cells.tolist()),
        patterns=tuple(pattern for pattern, _ in told),
        events=tuple(sorted(_merged(events), key=lambda e: -e.cell_v)),
        advice=tuple(_advice(solved, supply) for supply in plan.supplies if isinstance(supply, Regulator)),
    )


def _patterns(solved: Solved) -> list[_Pattern]:
    groups: dict[str, list[Condition]] = {}
    for condition in solved.plan.conditions:
        if condition.on_pack:
            key = repr(
                (condition.energy, condition.throttle_frac, condition.default_state, sorted(condition.states.items()))
            )
            groups.setdefault(key, []).append(condition)
    return [_Pattern(tuple(group), solved.given[group[0].id]) for group in groups.values()]


def _sweep(solved: Solved, patterns: list[_Pattern], cells: Floats, known: Sweeps) -> list[Solution]:
    """Each pattern at all volts."""
    keys = [(one.conditions[0].id, cells.tobytes()) for one in patterns]
    new = [k for k, key in enumerate(keys) if key not in known.points]
    if new:
        group = np.repeat(np.array(new), cells.size)
        _, found = _points(solved, patterns, group, np.tile(cells, len(new)), cells.size)
        for at, k in enumerate(new):
            known.points[keys[k]] = take_solution(found, np.arange(at * cells.size, (at + 1) * cells.size))
    return [known.points[key] for key in keys]


def _told(
    solved: Solved, patterns: list[_Pattern], cells: Floats, found: list[Solution], known: Sweeps
) -> list[tuple[SweepPattern, tuple[SweepEvent, ...]]]:
    """What each pattern's sweep says, and what happens on its way."""
    plan, grid = solved.plan, tuple(cells.tolist())
    keys = [(one.conditions[0].id, cells.tobytes()) for one in patterns]
    new = [k for k, key in enumerate(keys) if key not in known.told]
    if new:
        network = _at(solved, patterns, np.repeat(np.array(new), cells.size), np.tile(cells, len(new)))
        op = Operating(network, joined([found[k] for k in new]))
        for at, k in enumerate(new):
            volts = _grid(plan, op, slice(at * cells.size, (at + 1) * cells.size))
            pattern = _pattern_answer(plan, patterns[k], grid, volts)
            known.told[keys[k]] = pattern, tuple(_events(plan, patterns[k], volts, grid))
    return [known.told[key] for key in keys]


def _jumps(solved: Solved, patterns: list[_Pattern], cells: Floats, swept: Solution) -> Floats:
    """Cell volts close beside every jump of the sweep: what stops, or gives up, does so at volts of its own, on no line."""
    down: Bools = (swept.modes == OFF) | swept.gives_up
    down = down.reshape(len(patterns), cells.size, -1)
    group, left = np.nonzero((down[:, 1:] != down[:, :-1]).any(axis=2))
    group, left = group[:MOST_JUMPS], left[:MOST_JUMPS]
    high, low, above = cells[left].copy(), cells[left + 1].copy(), down[group, left]
    for _ in range(HALVINGS if group.size else 0):
        middle = (high + low) / 2
        found = _points(solved, patterns, group, middle, 1)[1]
        same: Bools = (((found.modes == OFF) | found.gives_up) == above).all(axis=1)
        high, low = np.where(same, middle, high), np.where(same, low, middle)
    return np.concatenate([high, low])


def _at(solved: Solved, patterns: list[_Pattern], group: Ints, cells: Floats) -> Network:
    """The network of patterns (rows,) at cell volts (rows,)."""
    situations = [
        Situation(patterns[k].conditions[0], cell_v=v) for k, v in zip(group.tolist(), cells.tolist(), strict=True)
    ]
    row_of = {condition.id: row for row, condition in enumerate(solved.plan.conditions)}
    return derive(solved.free.network, np.array([row_of[s.condition.id] for s in situations]), situations)


def _points(
    solved: Solved, patterns: list[_Pattern], group: Ints, cells: Floats, count: int
) -> tuple[Network, Solution]:
    """Points of patterns (rows,) at cell volts (rows,), `count` of one pattern in a row."""
    network = _at(solved, patterns, group, cells)
    base = joined([take_solution(p.view.op.solution, np.array([p.view.row])) for p in patterns])
    near = _solved_near(network, base, group, count)
    return network, _as_conditions_are(network, near, base.gives_up[group])


def _as_conditions_are(network: Network, swept: Solution, held: Bools) -> Solution:
    """What gives up in the sweep though it has not at the known point is solved as a condition is: where nothing is over its limit
    without limits, that point stands, whatever a chord from afar came to."""
    rows = np.flatnonzero((swept.gives_up & ~held).any(axis=1))
    if not rows.size:
        return swept
    free = operate_free(network, rows)
    fine = ~exceeds_limits(free)
    return put_rows(swept, rows[fine], take_solution(free.solution, np.flatnonzero(fine))) if fine.any() else swept


def _solved_near(network: Network, base: Solution, group: Ints, count: int) -> Solution:
    """The sweep from its known points. What has given up in one, at a full pack and at the floor has done so all the way between."""
    held = base.gives_up[group]
    if held.any() and count > 1:
        ends = np.sort(np.concatenate([np.arange(0, group.size, count), np.arange(count - 1, group.size, count)]))
        found = solve_dc_near(take_rows(network.circuit, ends), base, group[ends], network.assembly)
        if found.converged.all() and (found.gives_up == held[ends]).all():
            circuit = held_off(network.circuit, held)
            swept = solve_dc_near(circuit, base, group, network.assembly)
            return replace(swept, gives_up=swept.gives_up | held)
    return solve_dc_near(network.circuit, base, group, network.assembly)


@dataclass(frozen=True)
class _Grid:
    """Volts over the sweep of one pattern, lists by element id."""

    rails: dict[str, list[float]]
    pins: dict[str, list[float]]
    headrooms: dict[str, list[float]]
    holds: dict[str, list[bool]]
    trying: dict[str, list[bool]]
    """Devices on rails that are brought up and let fall over and over, and at which points."""
    known: list[bool]
    """At which points the network has an operating point."""


def _grid(plan: Plan, op: Operating, rows: slice) -> _Grid:
    volts, node = op.volts[rows], op.network.node
    rails = {
        r.id: volts[:, node[rail_node(r.id)]] - volts[:, node[ground_node(plan.ground_of(r.id))]] for r in plan.rails
    }
    pins = {d.id: volts[:, node[pin_node(d.id)]] - volts[:, node[ground_node(d.id)]] for d in plan.devices}
    headrooms, holds = {}, {}
    for supply in plan.supplies:
        if isinstance(supply, Regulator):
            k = op.network.table.converter[supply_key(supply.id)]
            holds[supply.id] = op.regulating[rows, k].tolist()
            if supply.kind in ("linear", "buck"):
                amps = np.maximum(op.solution.converter_a[rows, k], 0.0)
                headrooms[supply.id] = (op.at.input_v[rows, k] - needed_input_v(supply, amps)).tolist()
    return _Grid(
        {name: v.tolist() for name, v in rails.items()},
        {name: v.tolist() for name, v in pins.items()},
        headrooms,
        holds,
        _trying(plan, op, rows),
        op.solution.converged[rows].tolist(),
    )


def _fed(plan: Plan, device: Device) -> bool:
    """Whether current can come back from it to the pack."""
    cut = graph_of(plan).ungrounded
    return device.id not in cut and plan.ground_of(plan.pack.rail) not in cut


def _trying(plan: Plan, op: Operating, rows: slice) -> dict[str, list[bool]]:
    if not op.solution.gives_up[rows].any():
        return {}
    found = [
        {d.id for rail in View(op, row).trying() for d in plan.devices_on(rail)}
        for row in range(*rows.indices(op.volts.shape[0]))
    ]
    return {name: [name in one for one in found] for name in set().union(*found)}


def _pattern_answer(plan: Plan, pattern: _Pattern, cells: tuple[float, ...], grid: _Grid) -> SweepPattern:
    def rounded(values: dict[str, list[float]]) -> dict[str, tuple[float, ...]]:
        table = np.round(np.array(list(values.values())), PLACES).tolist()
        return {name: tuple(volts) for name, volts in zip(values, table, strict=True)}

    holds = {name: tuple(held) for name, held in grid.holds.items()}
    condition = pattern.conditions[0]
    lives = {
        d.id: verdict_spans(
            d,
            cells,
            grid.pins[d.id],
            grid.known,
            off=is_off(d, condition),
            fed=_fed(plan, d),
            trying=grid.trying.get(d.id),
        )
        for d in plan.devices
    }
    return SweepPattern(
        conditions=pattern.ids,
        name=pattern.name,
        rails_v=rounded(grid.rails),
        pins_v=rounded(grid.pins),
        holds=holds,
        lives=lives,
    )


def crossing_v(cells: tuple[float, ...], margins: list[float]) -> float | None:
    """Cell voltage [V] where a margin that starts non-negative first falls below zero, interpolated; None if it never does."""
    for index in range(1, len(cells)):
        before, after = margins[index - 1], margins[index]
        if before >= 0 > after:
            return cells[index - 1] + (cells[index] - cells[index - 1]) * before / (before - after)
    return None


def _events(plan: Plan, pattern: _Pattern, grid: _Grid, cells: tuple[float, ...]) -> list[SweepEvent]:
    found: list[SweepEvent] = []

    def add(cell: float | None, kind: Literal["leaves", "resets", "over"], element: str) -> None:
        if cell is not None:
            found.append(SweepEvent(cell_v=cell, kind=kind, element=element, conditions=pattern.ids))

    for name, margins in grid.headrooms.items():
        add(crossing_v(cells, margins), "leaves", name)
    for device in plan.devices:
        pins = grid.pins[device.id]
        if not is_off(device, pattern.conditions[0]):
            add(crossing_v(cells, [pin - device.reset_v for pin in pins]), "resets", device.id)
        if device.at_volts(pins[0]) == "high":
            back = crossing_v(cells, [pin - device.max_v for pin in pins])
            add(back if back is not None else cells[-1], "over", device.id)
    return found


def _merged(events: list[SweepEvent]) -> list[SweepEvent]:
    """Of the same event in several patterns keep the highest cell voltage, with the patterns' conditions joined."""
    best: dict[tuple[str, str], SweepEvent] = {}
    for event in sorted(events, key=lambda e: -e.cell_v):
        key = (event.kind, event.element)
        best.setdefault(key, event)
    return list(best.values())


def _advice(solved: Solved, supply: Regulator) -> OutputAdvice:
    """From the consumers' windows below and above, and from the lowest input of any condition above."""
    plan = solved.plan
    consumers = graph_of(plan).consumers_below(supply.output)
    low_v, low = 0.5, OutputBound("open below")
    high_v, high = 60.0, OutputBound("open above")
    for one in consumers:
        if one.min_v * (1 + MARGIN_FRAC) > low_v:
            low_v, low = one.min_v * (1 + MARGIN_FRAC), OutputBound("needs", one.id, one.min_v)
        if one.max_v * (1 - MARGIN_FRAC) < high_v:
            high_v, high = one.max_v * (1 - MARGIN_FRAC), OutputBound("takes", one.id, one.max_v)
    for fed in graph_of(plan).regulators_fed(supply.output):
        if fed.input_max_v * (1 - MARGIN_FRAC) < high_v:
            high_v, high = fed.input_max_v * (1 - MARGIN_FRAC), OutputBound("takes", fed.id, fed.input_max_v)
    for condition in plan.conditions if supply.kind in ("linear", "buck") else ():
        view = solved.given[condition.id]
        in_v = view.supply_in_v(supply)
        if in_v < LIVE_V or not condition.on_pack:
            continue
        amps, wanted = max(view.supply_a(supply), 0.0), wanted_headroom_v(plan, supply)
        top_v = supply.ceiling_v(in_v, amps) + supply.output_ohm * amps - wanted
        if top_v < high_v:
            high_v, high = top_v, OutputBound("input", condition.id, in_v, wanted)
    stands: Literal["inside", "outside", "none"] = "none"
    if low_v <= high_v:
        stands = "inside" if low_v - SET_V <= supply.set_v <= high_v + SET_V else "outside"
    return OutputAdvice(
        supply=supply.id, set_v=supply.set_v, low_v=low_v, high_v=high_v, low=low, high=high, stands=stands
    )
