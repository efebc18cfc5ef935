"""What every fault of a build reads at every place of its bench list: made once for a revision, asked at every step."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.errors import YardError
from yardmeter.core.faults import Consequence, Fault, consequence, every_fault, faulted, powered_twin
from yardmeter.core.graph import graph_of
from yardmeter.core.once import cached_property
from yardmeter.core.patience import go_on
from yardmeter.core.plan import CapacitorFilter, Condition, LcFilter, Plan
from yardmeter.core.probing.lumped import lumped, usual_table
from yardmeter.core.probing.passive import passive_table
from yardmeter.core.probing.points import Point, points
from yardmeter.core.procedures import Checklist, Gate, Step, powered_gate
from yardmeter.core.procedures.powering import supply_volts
from yardmeter.core.search.seen import scaled
from yardmeter.core.solver.passive import Floats, Ints

UNPOWERED = ("plug", "rails", "branches", "grounds", "cross", "pins")
KEPT_CELLS = 1_500_000
"""Of copper solved for every fault: some 12 MB; what is larger is solved again when it is asked for."""
PACK_A = "amps of the pack"
"""Beside the volts of points, whose ids have no spaces."""
MOVED_LN = 0.2
"""A reading that a fault moves by a fifth and more is read again once it is mended; our choice."""
VOLTS_MOVED_FRAC = 0.01
ALWAYS_AGAIN: tuple[Gate, ...] = ("plug", "limiter", "pack", "still")
"""After any repair: what every joint is behind."""
BULK_F = 100e-6
BULK_TIMES = 3.0
"""A bulk capacitor is soldered last, hottest and by hand; common practice, no source."""


@dataclass
class Signatures:
    """Hypotheses of a build: the first is that nothing is wrong, then every fault in order."""

    made: Checklist
    faults: tuple[Fault, ...] = field(default=())
    _solved: dict[tuple[int, str, float | None], dict[str, float]] = field(default_factory=dict)
    _copper: dict[int, tuple[Ints, Floats]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.faults = self.faults or every_fault(self.made.table)

    def for_source(self, source_v: float | None) -> Signatures:
        """The same hypotheses beside a source that was measured; what needs no power is shared."""
        made = self.made.with_source(source_v)
        if made is self.made:
            return self
        found = Signatures(made, self.faults, self._solved, self._copper)
        shared = ("steps", "ohms", "weights", "consequences")
        found.__dict__.update({name: self.__dict__[name] for name in shared if name in self.__dict__})
        return found

    @cached_property
    def steps(self) -> dict[str, int]:
        """Steps read without power, with their columns."""
        read = [one for one in self.made.steps if one.gate in UNPOWERED and one.red and one.black]
        return {one.id: k for k, one in enumerate(read)}

    @cached_property
    def ohms(self) -> Floats:
        """Usual readings [H, S], the meter's leads left out."""
        steps = [self.made.step[name] for name in self.steps]
        traced = [k for k, one in enumerate(self.faults) if one.traced]
        tables = [self.made.table, *(faulted(self.made.table, self.faults[k]) for k in traced)]
        reds = np.array([one.red.node for one in steps if one.red], np.intp)
        blacks = np.array([one.black.node for one in steps if one.black], np.intp)
        found, builds = usual_table(tables, reds, blacks)
        if len(tables) * self.made.table.nodes**2 < KEPT_CELLS:
            copper = [one for build in builds for one in zip(build.net, build.between_ohm, strict=True)]
            self._copper = dict(zip([0, *(1 + k for k in traced)], copper, strict=True))
        table = np.tile(found[0], (1 + len(self.faults), 1))
        table[[1 + k for k in traced]] = found[1:]
        return table

    @cached_property
    def weights(self) -> Floats:
        """How often each hypothesis happens [H], beside the others; that nothing is wrong is a slip of the hand."""
        plan = self.made.solved.plan
        bulk = {
            one.id
            for one in plan.filters
            if isinstance(one, CapacitorFilter | LcFilter) and one.farad * one.count >= BULK_F
        }
        weights = [one.weight * (BULK_TIMES if set(one.elements) & bulk else 1.0) for one in self.faults]
        # Where the builder says that nothing ever happens, all is as likely as anything.
        return np.asarray(np.maximum([0.02 * sum(weights), *weights], 1e-9), np.float64)

    @cached_property
    def consequences(self) -> tuple[Consequence, ...]:
        """What each fault would do under power."""
        made = []
        for one in self.faults:
            go_on()
            made.append(consequence(self.made.table, self.made.solved, one))
        return tuple(made)

    def copper(self, hypothesis: int) -> tuple[Ints, Floats]:
        """Net of every node [n], and ohms of copper between any two of one net [n, n], with that fault."""
        if hypothesis not in self._copper:
            more = [self.faults[hypothesis - 1]] if hypothesis else []
            build = lumped([faulted(self.made.table, *more)])
            self._copper[hypothesis] = build.net[0], build.between_ohm[0]
        return self._copper[hypothesis]

    def _powered(self, hypothesis: int, condition: str, source_v: float | None = None) -> dict[str, float]:
        plan = self.made.solved.plan
        one = plan.condition(condition)
        if source_v is not None and one.on_pack:
            one = one.model_copy(update={"pack_v": source_v, "cell_v": None})
        key = hypothesis, condition, one.pack_v
        if key not in self._solved:
            fault = self.faults[hypothesis - 1] if hypothesis else None
            self._solved[key] = _under_power(plan, fault, one)
        return self._solved[key]

    def volts(self, hypothesis: int, condition: str, red: Point, black: Point) -> float:
        """Volts between two points under power; NaN where power destroys what is connected, or nothing can be worked out."""
        solved = self._powered(hypothesis, condition, self.source_v)
        return solved.get(red.id, np.nan) - solved.get(black.id, np.nan)

    @property
    def source_v(self) -> float:
        """What stands in for the pack at the bench: as it was read, else a supply at its usual volts."""
        return self.made.source_v or supply_volts(self.made.solved.plan)

    def pack_a(self, hypothesis: int, condition: str, source_v: float | None = None) -> float:
        """Amps the pack would give; of a short what copper lets through. NaN where neither can be worked out."""
        short = self.consequences[hypothesis - 1].amps_a if hypothesis else 0.0
        return short or self._powered(hypothesis, condition, source_v).get(PACK_A, np.nan)

    def stepped(self, step: Step, which: list[int]) -> Floats:
        """What some hypotheses read at a step [len(which)]; NaN where that is not known."""
        if step.id in self.steps:
            return self.ohms[which, self.steps[step.id]]
        if step.mode == "volts" and step.red and step.black and step.condition:
            return np.array([self.volts(one, step.condition, step.red, step.black) for one in which])
        if step.gate == "limiter" and step.condition and not step.unforeseen:
            return np.array([self.pack_a(one, step.condition, step.volts_v) for one in which])
        return np.full(len(which), np.nan)

    def to_repeat(self, fault: Fault) -> tuple[str, ...]:
        """Steps of the list that a repair of it makes to be done again: all whose reading it moves, looks at what it touches,
        and the first power, which goes through every joint."""
        row = 1 + self.faults.index(fault)
        moved = np.abs(scaled("ohms", self.ohms[row]) - scaled("ohms", self.ohms[0])) > MOVED_LN
        shown = {name for name, column in self.steps.items() if moved[column]}
        touched = self._touched(fault)
        return tuple(one.id for one in self.made.steps if one.id in shown or self._again(one, row, touched))

    def _touched(self, fault: Fault) -> set[str]:
        """Its elements, what they feed, and the signals that end there."""
        plan = self.made.solved.plan
        fed = {one for one in fault.elements if one in plan.rail_of or one in plan.device_of}
        fed |= {plan.supply_of[one].output for one in fault.elements if one in plan.supply_of}
        rails = graph_of(plan).rails_below(one for one in fed if one in plan.rail_of)
        hung = {device.id for rail in rails for device in plan.devices_on(rail)}
        found = {*fault.elements, *fed, *rails, *hung}
        ends = {one.id: {plan.owner_of[one.source].id, plan.owner_of[one.sink].id} for one in plan.signals}
        return found | {name for name, owners in ends.items() if owners & found}

    def _again(self, step: Step, row: int, touched: set[str]) -> bool:
        if step.gate in ALWAYS_AGAIN:
            return True
        if step.mode == "volts" and step.condition and step.red and step.black:
            sound, with_it = self.stepped(step, [0, row])
            # What power would have destroyed, or nobody can work out, is read again.
            return not abs(with_it - sound) <= VOLTS_MOVED_FRAC * abs(sound)
        return bool(touched & set(step.elements)) and (
            step.gate in ("eyes", "states", "function") or powered_gate(step.gate)
        )


def _under_power(plan: Plan, fault: Fault | None, condition: Condition) -> dict[str, float]:
    """Volts of rails, pins and grounds against the plug's minus, by the ids of their points, and the pack's amps."""
    go_on()
    try:
        twin = powered_twin(plan, fault) if fault else plan
        one = twin.condition(condition.id).model_copy(update={"pack_v": condition.pack_v, "cell_v": condition.cell_v})
        view = solve_conditions(twin.model_copy(update={"conditions": (one,)})).given[one.id]
    except YardError:
        return {}
    if not view.converged:
        return {}
    table = passive_table(twin)
    found = {at.id: view.node_v(at.node, table.minus) for at in points(table) if at.kind != "signal pin"}
    return found | {PACK_A: view.op.pack_a(view.row)}
