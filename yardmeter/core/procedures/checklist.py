"""From a plan to its bench list, in the order in which a new build is powered without crossed fingers."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import combinations

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.probing.meter import METER
from yardmeter.core.probing.passive import PassiveTable, passive_table
from yardmeter.core.probing.points import Point, points, shells
from yardmeter.core.probing.reading import Reading, read_after, read_list
from yardmeter.core.procedures import looks
from yardmeter.core.procedures.looks import wired
from yardmeter.core.procedures.powering import Powering
from yardmeter.core.procedures.steps import Gate, Step
from yardmeter.core.procedures.touching import Touching, joined

LEADS_FAIL_OHM = 1.0
"""Probes on each other that read more have a bad lead, plug or battery."""
LISTED_FRAC = 0.1
"""How far a reading of the list may be from what was worked out for it with copper lumped, and the meter's noise with it."""


@dataclass
class Checklist:
    """The steps of a solved plan, and the unpowered table they are read from.

    `source_v` is what was read at the plug: what follows the source is expected beside it.
    """

    solved: SolvedPlan
    steps: tuple[Step, ...] = field(default=())
    source_v: float | None = None

    @cached_property
    def table(self) -> PassiveTable:
        return passive_table(self.solved.plan)

    @cached_property
    def point(self) -> dict[str, Point]:
        return {one.id: one for one in points(self.table)}

    @cached_property
    def step(self) -> dict[str, Step]:
        return {one.id: one for one in self.steps}

    def with_source(self, source_v: float | None) -> Checklist:
        """The same list with its powered steps as that source makes them."""
        if source_v == self.source_v:
            return self
        made = Checklist(self.solved, source_v=source_v)
        made.__dict__["table"], made.__dict__["point"] = self.table, self.point
        powering = Powering(self.solved, self.table, self.point, Touching(self.table), source_v)
        new = {one.id: one for one in powering.volts()}
        made.steps = tuple(new.get(one.id, one) for one in self.steps)
        return made


def checklist(solved: SolvedPlan) -> Checklist:
    """Every gate in order. A gate none of whose steps this build has is left out."""
    made = Checklist(solved)
    plan, touching = solved.plan, Touching(made.table)
    maker = _Maker(made, touching)
    powering = Powering(solved, made.table, made.point, touching, None)
    made.steps = (
        *looks.eyes(plan), *maker.meter(), *maker.plug(), *maker.rails(), *maker.branches(), *maker.grounds(), *maker.cross(),
        *maker.pins(), *looks.states(plan), *powering.limiter(), *powering.volts(), *powering.usb(), *looks.function(plan),
        *powering.pack(), *looks.bench_and_air(plan),
    )  # fmt: skip
    return made


def unpowered(solved: SolvedPlan) -> Checklist:
    """The steps that are read without power, but for those at the plug, which take the longest to work out."""
    made = Checklist(solved)
    maker = _Maker(made, Touching(made.table))
    made.steps = (*maker.rails(), *maker.branches(), *maker.grounds(), *maker.cross(), *maker.pins())
    return made


class _Maker:
    """Makes the steps read without power, gate by gate; readings of a gate are solved side by side."""

    def __init__(self, made: Checklist, touching: Touching) -> None:
        self.plan: Plan = made.solved.plan
        self.table = made.table
        self.point = made.point
        self.touching = touching
        self.minus, self.plus = self.point["plug:minus"], self.point["plug:plus"]

    def meter(self) -> Iterator[Step]:
        expected = Reading("beep", 0.0, METER.leads_low_ohm, METER.leads_high_ohm, "Ω", "steady")
        yield Step("meter-itself", "meter", "leads touch", (), mode="beep", expected=expected, most=LEADS_FAIL_OHM)

    def plug(self) -> Iterator[Step]:
        """Both ways round; the second on capacitors that the first has charged."""
        touches = self.touching.net(self.plus)
        for name, red, black in (("forward", self.plus, self.minus), ("back", self.minus, self.plus)):
            expected = read_after(self.table, red, black)
            yield Step(
                f"plug-{name}", "plug", None, ("pack",), red, black, "beep", expected, least=_not_short(expected),
                touches=touches,
            )  # fmt: skip

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
        pairs = [(a, b) for a, b in pairs if a in self.point and b in self.point]
        probes = [(self.point[a], self.point[b]) for a, b in pairs]
        for (a, b), expected in zip(pairs, read_list(self.table, probes), strict=True):
            elements = tuple(dict.fromkeys(self.point[one].owner if ":" in one else one for one in (a, b)))
            most = None if expected.high is None else expected.high * (1 + LISTED_FRAC)
            yield Step(
                f"{gate}-{a}-{b}".replace(":", "-"), gate, None, elements, self.point[a], self.point[b], "ohms", expected,
                least=_not_short(expected), most=most,
                touches=joined([self.touching.net(self.point[a]), self.touching.net(self.point[b])]),
            )  # fmt: skip

    def _joined(self, gate: Gate, pairs: list[tuple[str, str]]) -> Iterator[Step]:
        probes = [(self.point[a], self.point[b]) for a, b in pairs]
        # Copper is all that counts where copper is; what stands beside it is a thousand times more.
        for (a, b), expected in zip(pairs, read_list(self.table, probes), strict=True):
            yield Step(
                f"{gate}-{a}-{b}".replace(":", "-"), gate, None, (self.point[b].owner,), self.point[a], self.point[b], "beep",
                expected, most=max(expected.high or 0.0, METER.leads_high_ohm + 2 * METER.least_ohm),
                touches=self.touching.way(self.point[a], self.point[b]),
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
        for device in wired(self.plan):
            if device.feed:
                end = self.point[f"{device.id}:plus"]
                from_plug = self.table.copper_way(self.plus.node, end.node) is not None
                pairs.append(("plug:plus" if from_plug else device.feed.rail, end.id))
        yield from self._joined("branches", list(dict.fromkeys(pairs)))

    def grounds(self) -> Iterator[Step]:
        """The plug's minus to every board and device, and to the shells that are easiest to touch."""
        names = [f"{name}:ground" for name in (*self.plan.board_of, *(one.id for one in wired(self.plan)))]
        names += [f"{name}:shell" for name, _ in shells(self.plan)]
        reached = [n for n in names if self.table.copper_way(self.minus.node, self.point[n].node) is not None]
        yield from self._joined("grounds", [("plug:minus", name) for name in reached])

    def cross(self) -> Iterator[Step]:
        """Every device's plus to the plug's minus, and its rail to its ground, must not beep: swapped wires are found here."""
        pairs = []
        for device in wired(self.plan):
            if device.feed:
                pairs += [(f"{device.id}:plus", "plug:minus"), (device.feed.rail, f"{device.id}:ground")]
        yield from self._silent("cross", pairs)

    def pins(self) -> Iterator[Step]:
        """Signal pins on no supply."""
        pairs = []
        for device in wired(self.plan):
            if device.feed:
                pairs += [(pin.id, f"{device.id}:plus") for pin in device.pins if pin.id in self.point]
        yield from self._silent("pins", pairs)


def supply_for(step: Step) -> tuple[float, float]:
    """Volts and current limit of a bench supply for the first power; nothing of another step."""
    return step.volts_v or 0.0, step.limit_a or 0.0


def _not_short(expected: Reading) -> float:
    """Ohms that are no short here: half of the least this build may have, and never less than a beep needs to stop."""
    return (
        min(max(expected.low / 2, 2.0), METER.beep_low_ohm)
        if expected.low < 2 * METER.beep_low_ohm
        else METER.beep_low_ohm
    )
