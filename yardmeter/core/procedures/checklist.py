"""From a plan to its bench list, in the order in which a new build is powered without crossed fingers."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from itertools import combinations
from typing import Literal, get_args

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.errors import YardError
from yardmeter.core.plan import CapacitorFilter, Condition, Device, LcFilter, Plan, Regulator
from yardmeter.core.probing.meter import METER
from yardmeter.core.probing.passive import PassiveTable, passive_table
from yardmeter.core.probing.points import Point, points
from yardmeter.core.probing.powered import corners, read_range
from yardmeter.core.probing.reading import Mode, Reading, read, read_list

Gate = Literal["eyes", "meter", "plug", "rails", "branches", "grounds", "cross", "pins", "states", "limiter", "volts", "usb", "function", "load"]  # fmt: skip
GATES: tuple[Gate, ...] = get_args(Gate)


def powered_gate(gate: Gate) -> bool:
    """Whether power is on there: from the first power through a limiter on."""
    return GATES.index(gate) >= GATES.index("limiter")


Look = Literal[
    "props", "heat", "neighbours", "polarity", "capacitor", "leads touch", "antenna", "limiter", "unplugged", "signal", "overlay",
    "hover", "punch", "still",
]  # fmt: skip


HEAVY_AWG = 16
"""From this on a joint needs more heat than what stands beside it may get; common practice, no source."""
LEAST_LIMIT_A = 0.1
"""Below this a supply's limit is caught by the first capacitor."""
EXPENSIVE = ("camera", "digital", "sender", "computer")
"""Kinds that a rail is read without before they hang on it."""


@dataclass(frozen=True)
class Step:
    """One step: a look, or a reading between two points. `elements` are what it is about.

    `least` and `most` bound a reading that passes; `most` is None where more is as good. `condition` is where power is on.
    """

    id: str
    gate: Gate
    look: Look | None
    elements: tuple[str, ...]
    red: Point | None = None
    black: Point | None = None
    mode: Mode | None = None
    expected: Reading | None = None
    least: float = 0.0
    most: float | None = None
    condition: str | None = None

    @property
    def signature(self) -> str:
        """What the step asks and expects: when an edit changes it, what was done of it has to be done again."""
        ends = [one.id if one else "" for one in (self.red, self.black)]
        bounds = f"{self.least:.3g} {self.most if self.most is None else f'{self.most:.3g}'}"
        text = " ".join([self.id, self.gate, *ends, self.mode or "", bounds, *self.elements])
        return hashlib.sha256(text.encode()).hexdigest()[:16]


@dataclass
class Checklist:
    """The steps of a solved plan, and the unpowered table they are read from."""

    solved: SolvedPlan
    steps: tuple[Step, ...] = field(default=())

    @cached_property
    def table(self) -> PassiveTable:
        return passive_table(self.solved.plan)

    @cached_property
    def point(self) -> dict[str, Point]:
        return {one.id: one for one in points(self.table)}

    @cached_property
    def step(self) -> dict[str, Step]:
        return {one.id: one for one in self.steps}


def checklist(solved: SolvedPlan) -> Checklist:
    """Every gate in order. A gate none of whose steps this build has is left out."""
    made = Checklist(solved)
    maker = _Maker(made)
    made.steps = tuple(
        step
        for gate in (
            maker.eyes, maker.meter, maker.plug, maker.rails, maker.branches, maker.grounds, maker.cross, maker.pins,
            maker.states, maker.limiter, maker.volts, maker.usb, maker.function, maker.load,
        )
        for step in gate()
    )  # fmt: skip
    return made


class _Maker:
    """Makes the steps gate by gate; readings of a gate are solved side by side."""

    def __init__(self, made: Checklist) -> None:
        self.case = made.solved
        self.plan: Plan = made.solved.plan
        self.table = made.table
        self.point = made.point
        self.solved_at: dict[str, tuple[Solved, ...]] = {}
        self.minus, self.plus = self.point["plug:minus"], self.point["plug:plus"]

    def _owners(self) -> list[Device]:
        return [one for one in self.plan.devices if one.kind != "logic"]

    def eyes(self) -> Iterator[Step]:
        yield Step("eyes-props", "eyes", "props", ())
        for board in self.plan.boards:
            rails = tuple(rail.id for rail in self.plan.rails if rail.board == board.id)
            if len(rails) > 1:
                yield Step(f"eyes-neighbours-{board.id}", "eyes", "neighbours", (board.id, *rails))
        heavy = [one for one in self.plan.boards if any(wire.wire.gauge_awg <= HEAVY_AWG for wire in one.returns)]
        if heavy:
            yield Step("eyes-heat", "eyes", "heat", tuple(one.id for one in heavy))
        for device in self._owners():
            if device.feed and device.kind != "motor":
                yield Step(f"eyes-polarity-{device.id}", "eyes", "polarity", (device.id,))
        for one in self.plan.filters:
            if one.fitted and isinstance(one, CapacitorFilter | LcFilter) and one.dielectric in ("electrolytic", "polymer", "tantalum"):  # fmt: skip
                yield Step(f"eyes-capacitor-{one.id}", "eyes", "capacitor", (one.id, one.at))

    def meter(self) -> Iterator[Step]:
        expected = Reading("beep", 0.0, METER.leads_low_ohm, METER.leads_high_ohm, "Ω", "steady")
        yield Step("meter-itself", "meter", "leads touch", (), mode="beep", expected=expected, most=METER.beep_low_ohm)

    def plug(self) -> Iterator[Step]:
        for name, red, black in (("forward", self.plus, self.minus), ("back", self.minus, self.plus)):
            expected = read(self.table, red, black, "beep")
            yield Step(
                f"plug-{name}", "plug", None, ("pack",), red, black, "beep", expected, least=_not_short(expected)
            )

    def rails(self) -> Iterator[Step]:
        """Each rail that copper does not join to the plug, to ground; and to its neighbours."""
        behind = [
            rail for rail in self.plan.rails if self.table.copper_way(self.plus.node, self.point[rail.id].node) is None
        ]
        pairs = [(rail.id, "plug:minus") for rail in behind]
        for one, other in combinations(self.plan.rails, 2):
            apart = self.table.copper_way(self.point[one.id].node, self.point[other.id].node) is None
            if one.board == other.board and apart:
                pairs.append((one.id, other.id))
        # Across each regulator: one that is shorted hands its input on.
        for supply in self.plan.supplies:
            if isinstance(supply, Regulator):
                source = supply.input if supply.input in self.plan.rail_of else f"{supply.input}:plus"
                pairs.append((source, supply.output))
        yield from self._silent("rails", list(dict.fromkeys(pairs)))

    def _silent(self, gate: Gate, pairs: list[tuple[str, str]]) -> Iterator[Step]:
        probes = [(self.point[a], self.point[b]) for a, b in pairs]
        for (a, b), expected in zip(pairs, read_list(self.table, probes), strict=True):
            elements = tuple(dict.fromkeys(self.point[one].owner if ":" in one else one for one in (a, b)))
            yield Step(
                f"{gate}-{a}-{b}".replace(":", "-"), gate, None, elements, self.point[a], self.point[b], "ohms", expected,
                least=_not_short(expected), most=expected.high,
            )  # fmt: skip

    def _joined(self, gate: Gate, pairs: list[tuple[str, str]]) -> Iterator[Step]:
        probes = [(self.point[a], self.point[b]) for a, b in pairs]
        # Copper is all that counts where copper is; what stands beside it is a thousand times more.
        for (a, b), expected in zip(pairs, read_list(self.table, probes), strict=True):
            yield Step(
                f"{gate}-{a}-{b}".replace(":", "-"), gate, None, (self.point[b].owner,), self.point[a], self.point[b], "beep",
                expected, most=max(expected.high or 0.0, METER.leads_high_ohm + 2 * METER.least_ohm),
            )  # fmt: skip

    def branches(self) -> Iterator[Step]:
        """Plus to the last point of every branch, in tree order: from the plug, or from the rail behind a regulator."""
        # The plug itself first: which of its pins is plus, at every board that hangs on it.
        here = [(rail.id, self.point[rail.id].node) for rail in self.plan.rails]
        pairs = [("plug:plus", name) for name, node in here if self.table.copper_way(self.plus.node, node) is not None]
        for supply in self.plan.supplies:
            last = f"{supply.id}:in" if f"{supply.id}:in" in self.point else supply.output
            start = supply.input if supply.input in self.plan.rail_of else f"{supply.input}:plus"
            if (isinstance(supply, Regulator) and not supply.feed) or start not in self.point:
                continue
            if self.table.copper_way(self.point[start].node, self.point[last].node) is not None:
                from_plug = self.table.copper_way(self.plus.node, self.point[last].node) is not None
                pairs.append(("plug:plus" if from_plug else start, last))
        for device in self._owners():
            if device.feed:
                end = self.point[f"{device.id}:plus"]
                from_plug = self.table.copper_way(self.plus.node, end.node) is not None
                pairs.append(("plug:plus" if from_plug else device.feed.rail, end.id))
        yield from self._joined("branches", list(dict.fromkeys(pairs)))

    def grounds(self) -> Iterator[Step]:
        names = [f"{name}:ground" for name in (*self.plan.board_of, *(one.id for one in self._owners()))]
        joined = [n for n in names if self.table.copper_way(self.minus.node, self.point[n].node) is not None]
        yield from self._joined("grounds", [("plug:minus", name) for name in joined])

    def cross(self) -> Iterator[Step]:
        """Every device's plus to the plug's minus, and its rail to its ground, must not beep: swapped wires are found here."""
        pairs = []
        for device in self._owners():
            if device.feed:
                pairs += [(f"{device.id}:plus", "plug:minus"), (device.feed.rail, f"{device.id}:ground")]
        yield from self._silent("cross", pairs)

    def pins(self) -> Iterator[Step]:
        """Signal pins on no supply."""
        pairs = []
        for device in self._owners():
            if device.feed:
                pairs += [(pin.id, f"{device.id}:plus") for pin in device.pins if pin.id in self.point]
        yield from self._silent("pins", pairs)

    def states(self) -> Iterator[Step]:
        senders = tuple(d.id for d in self.plan.devices if d.kind in ("sender", "digital", "receiver"))
        if senders:
            yield Step("states-antennas", "states", "antenna", senders)

    def _first_power(self) -> Condition | None:
        """The pack condition in which least is asked for."""
        on_pack = [c for c in self.plan.conditions if c.on_pack]
        heads = {head.id: head for head in self.case.budget.conditions}
        return min(on_pack, key=lambda c: heads[c.id].pack_a, default=None)

    def limiter(self) -> Iterator[Step]:
        first = self._first_power()
        if first is None:
            return
        amps = next(head.pack_a for head in self.case.budget.conditions if head.id == first.id)
        expected = Reading("amps", 0.7 * amps, amps, 1.3 * amps, "A")
        yield Step("limiter-first", "limiter", "limiter", ("pack",), self.plus, self.minus, "amps", expected, most=1.3 * amps + 0.05, condition=first.id)  # fmt: skip

    def _corners(self, condition: Condition) -> tuple[Solved, ...]:
        if condition.id not in self.solved_at:
            self.solved_at[condition.id] = corners(self.plan, condition)
        return self.solved_at[condition.id]

    def _volts(self, gate: Gate, condition: Condition, which: list[str]) -> Iterator[Step]:
        solved = self._corners(condition)
        for rail in which:
            ground = self.point[f"{self.plan.ground_of(rail)}:ground"]
            try:
                found = read_range(solved, condition, self.table, self.point[rail], ground, "volts")
            except YardError:
                continue
            if found.usual >= LIVE_V:
                yield Step(f"{gate}-{rail}", gate, None, (rail,), self.point[rail], ground, "volts", found, found.low, found.high, condition.id)  # fmt: skip

    def volts(self) -> Iterator[Step]:
        """Each rail without its expensive units, then with them, at their own pins."""
        first = self._first_power()
        if first is None:
            return
        fed: dict[str, list[Device]] = {}
        for device in self._owners():
            if device.feed and device.kind in EXPENSIVE:
                fed.setdefault(device.feed.rail, []).append(device)
        for rail in self.plan.rails:
            units = fed.get(rail.id, [])
            found = list(self._volts("volts", first, [rail.id]))
            if found and units:
                yield Step(f"volts-without-{rail.id}", "volts", "unplugged", (rail.id, *(one.id for one in units)))
            yield from found
            if found:
                yield from self._with(first, units)

    def _with(self, condition: Condition, units: list[Device]) -> Iterator[Step]:
        solved = self._corners(condition)
        for device in units:
            ends = self.point[f"{device.id}:plus"], self.point[f"{device.id}:ground"]
            try:
                found = read_range(solved, condition, self.table, *ends, "volts")
            except YardError:
                continue
            yield Step(f"volts-with-{device.id}", "volts", None, (device.id,), *ends, "volts", found, found.low, found.high, condition.id)  # fmt: skip

    def usb(self) -> Iterator[Step]:
        for condition in self.plan.conditions:
            if not condition.on_pack and condition.energy:
                yield from self._volts("usb", condition, [rail.id for rail in self.plan.rails if rail.nominal_v])
                return

    def function(self) -> Iterator[Step]:
        for board in self.plan.boards:
            if board.osd:
                yield Step(f"function-overlay-{board.id}", "function", "overlay", (board.id,))
        for signal in self.plan.signals:
            yield Step(f"function-{signal.id}", "function", "signal", (signal.id,))

    def load(self) -> Iterator[Step]:
        if any(device.throttle for device in self.plan.devices):
            yield Step("load-hover", "load", "hover", ())
            yield Step("load-punch", "load", "punch", ())
        yield Step("load-still", "load", "still", ())


def supply_for(plan: Plan, step: Step) -> tuple[float, float]:
    """Volts and current limit of a bench supply for the first power: the pack at its nominal, and what passes."""
    return round(plan.pack.rest_v("nominal"), 1), round(max(step.most or 0.0, LEAST_LIMIT_A), 2)


def _not_short(expected: Reading) -> float:
    """Ohms that are no short here: half of the least this build may have, and never less than a beep needs to stop."""
    return (
        min(max(expected.low / 2, 2.0), METER.beep_low_ohm)
        if expected.low < 2 * METER.beep_low_ohm
        else METER.beep_low_ohm
    )
