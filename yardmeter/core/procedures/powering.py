"""Steps with power on: the first through a limiter, each rail from it, from USB alone, and the pack itself."""

from __future__ import annotations

import math
from collections.abc import Iterator

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.errors import YardError
from yardmeter.core.graph import graph_of
from yardmeter.core.network.keys import rail_node
from yardmeter.core.plan import Condition, Device, FerriteFilter, Plan, Regulator
from yardmeter.core.probing.meter import METER
from yardmeter.core.probing.passive import PassiveTable
from yardmeter.core.probing.points import Point
from yardmeter.core.probing.powered import PACK_FRAC, corners, pack_range, read_range
from yardmeter.core.probing.reading import Reading
from yardmeter.core.procedures.looks import wired
from yardmeter.core.procedures.steps import Gate, Step, Unforeseen
from yardmeter.core.procedures.touching import Touching

LEAST_LIMIT_A = 0.1
"""Below this a supply's limit is caught by the first capacitor."""
LIMIT_TIMES, LIMIT_MORE_A = 1.5, 0.1
"""Its limit over the most that is expected: what reaches it is more than any sound build takes; our choice."""
AMPS_FRAC, AMPS_A = 0.05, 0.01
"""A supply's own ammeter; from memory."""
CHARGE_TIMES, CHARGE_MORE_S = 3.0, 0.5
"""Capacitors are charged while regulators start and devices boot; our choice."""
MEASURED_FRAC = 0.005
"""How far a source is from what was just read of it."""
EXPENSIVE = ("camera", "digital", "sender", "computer")
"""Kinds that a rail is read without before they hang on it."""
NOTHING = Reading("volts", 0.0, 0.0, 0.0, "V")


def first_power(case: SolvedPlan) -> Condition | None:
    """The pack condition in which least is asked for."""
    on_pack = [c for c in case.plan.conditions if c.on_pack]
    heads = {head.id: head for head in case.budget.conditions}
    return min(on_pack, key=lambda c: heads[c.id].pack_a, default=None)


def supply_volts(plan: Plan) -> float:
    """What a bench supply that stands in for the pack is set to: the pack's nominal."""
    return round(plan.pack.rest_v("nominal"), 1)


class Powering:
    """Makes the powered steps of one plan. `source_v` is what the builder read at the plug, if they did."""

    def __init__(self, case: SolvedPlan, table: PassiveTable, point: dict[str, Point], touching: Touching, source_v: float | None) -> None:  # fmt: skip
        self.case, self.plan = case, case.plan
        self.table, self.point, self.touching = table, point, touching
        self.source_v = source_v
        self.first = first_power(case)
        self._solved: dict[str, tuple[Solved, ...]] = {}

    def _from(self, condition: Condition, volts: float | None) -> Condition:
        """The condition with so many volts in the pack's place."""
        return condition if volts is None else condition.model_copy(update={"pack_v": volts, "cell_v": None})

    def _corners(self, condition: Condition) -> tuple[Solved, ...]:
        key = condition.model_dump_json()
        if key not in self._solved:
            self._solved[key] = corners(self.plan, condition)
        return self._solved[key]

    def limiter(self) -> Iterator[Step]:
        if self.first is None:
            return
        volts = supply_volts(self.plan)
        asked = self._from(self.first, volts)
        found = pack_range(self._corners(asked), asked)
        ends = self.point["plug:plus"], self.point["plug:minus"]
        touches = self.touching.everything()
        if found is None:
            yield Step("limiter-first", "limiter", "limiter", ("pack",), *ends, "amps", NOTHING, condition=self.first.id, limit_a=LEAST_LIMIT_A, volts_v=volts, unforeseen="no point", touches=touches)  # fmt: skip
            return
        least, usual, most = found[0] * (1 - AMPS_FRAC) - AMPS_A, found[1], found[2] * (1 + AMPS_FRAC) + AMPS_A
        limit = math.ceil(100 * max(LIMIT_TIMES * most, most + LIMIT_MORE_A, LEAST_LIMIT_A)) / 100
        # Of what draws anything at all, something has to flow.
        least = max(least, min(0.5 * found[0], AMPS_A))
        yield Step(
            "limiter-first", "limiter", "limiter", ("pack",), *ends, "amps", Reading("amps", max(least, 0.0), usual, most, "A"),
            max(least, 0.0), most, self.first.id, limit, volts, self._charge_s(volts, limit), touches=touches,
        )  # fmt: skip

    def _charge_s(self, volts: float, limit_a: float) -> float:
        """How long capacitors, and what boots, may hold a supply at its limit."""
        farad = charged_f(self.plan)
        boots = [one.boots_s for one in self.plan.devices if one.draws.boot and one.feed]
        return CHARGE_TIMES * farad * volts / limit_a + CHARGE_MORE_S + max(boots, default=0.0)

    def _read(self, condition: Condition, source_v: float | None, ends: tuple[Point, Point]) -> Reading | Unforeseen:
        """What is read between two points with that source; the band of its volts is a pack's, unless they were measured."""
        asked = self._from(condition, source_v) if condition.on_pack else condition
        frac = MEASURED_FRAC if source_v is not None and source_v == self.source_v else PACK_FRAC
        try:
            return read_range(self._corners(asked), asked, self.table, *ends, "volts", pack_frac=frac)
        except YardError:
            return "no point"

    def _step(self, gate: Gate, name: str, elements: tuple[str, ...], condition: Condition, ends: tuple[Point, Point], touches: tuple[str, ...]) -> Step:  # fmt: skip
        """One reading of volts, told apart by what a supply at its usual volts makes of it. What cannot be foreseen says why."""
        usual = self._read(condition, supply_volts(self.plan) if condition.on_pack else None, ends)
        found = self._read(condition, self.source_v, ends) if self.source_v and condition.on_pack else usual
        if isinstance(found, str) or isinstance(usual, str):
            return Step(name, gate, None, elements, *ends, "volts", NOTHING, condition=condition.id, unforeseen="no point", touches=touches)  # fmt: skip
        if abs(found.usual) < LIVE_V:
            return Step(name, gate, None, elements, *ends, "volts", found, condition=condition.id, unforeseen="dead", touches=touches)  # fmt: skip
        signed = f"{usual.low:.3g} {usual.high or 0:.3g}"
        return Step(name, gate, None, elements, *ends, "volts", found, found.low, found.high, condition.id, touches=touches, signed=signed)  # fmt: skip

    def _rail(self, gate: Gate, condition: Condition, rail_id: str) -> Step | None:
        """A rail that some source of the condition reaches; of one that none does there is nothing to read."""
        if rail_id not in graph_of(self.plan).reachable_rails(condition):
            return None
        ends = self.point[rail_id], self.point[self._ground_at(rail_id)]
        touches = self.touching.rail(rail_id, rail_node(rail_id))
        return self._step(gate, f"{gate}-{rail_id}", (rail_id,), condition, ends, touches)

    def _ground_at(self, rail_id: str) -> str:
        name = f"{self.plan.ground_of(rail_id)}:ground"
        return name if name in self.point else "plug:minus"

    def volts(self) -> Iterator[Step]:
        """What really stands in for the pack; then each rail without its expensive units, then with them, at their own pins."""
        if self.first is None:
            return
        yield self._source("volts-source", "volts")
        fed: dict[str, list[Device]] = {}
        for device in wired(self.plan):
            if device.feed and device.kind in EXPENSIVE:
                fed.setdefault(device.feed.rail, []).append(device)
        for rail in self.plan.rails:
            units = fed.get(rail.id, [])
            found = self._rail("volts", self.first, rail.id)
            if found is None:
                continue
            if units:
                yield Step(f"volts-without-{rail.id}", "volts", "unplugged", (rail.id, *(one.id for one in units)))
            yield found
            for device in units:
                ends = self.point[f"{device.id}:plus"], self.point[f"{device.id}:ground"]
                touches = self.touching.net(ends[0])
                yield self._step("volts", f"volts-with-{device.id}", (device.id,), self.first, ends, touches)

    def _source(self, name: str, gate: Gate) -> Step:
        """The volts at the plug: anything from an empty pack to a full one."""
        low, high = self.plan.pack.rest_v("floor"), self.plan.pack.rest_v("full")
        spread = METER.volts_frac * high + METER.least_v
        usual = supply_volts(self.plan) if gate == "volts" else self.plan.pack.rest_v("full")
        found = Reading("volts", low - spread, usual, high + spread, "V")
        condition = self.first.id if self.first else None
        ends = self.point["plug:plus"], self.point["plug:minus"]
        return Step(name, gate, None, ("pack",), *ends, "volts", found, found.low, found.high, condition)

    def usb(self) -> Iterator[Step]:
        for condition in self.plan.conditions:
            if not condition.on_pack and condition.energy:
                made = [self._rail("usb", condition, rail.id) for rail in self.plan.rails if rail.nominal_v]
                yield from (one for one in made if one is not None)
                return

    def pack(self) -> Iterator[Step]:
        """The limiter out and the pack itself in; what it has."""
        if self.first is None:
            return
        yield Step("pack-in", "pack", "pack in", ("pack",), touches=self.touching.everything())
        yield self._source("pack-volts", "pack")


def charged_f(plan: Plan) -> float:
    """Capacitance that a source at the plug charges through copper [F], regulators' output capacitors with it."""
    graph = graph_of(plan)
    total = sum(one.output_f for one in plan.supplies if isinstance(one, Regulator))
    total += sum(one.input_f for one in plan.devices if one.feed)
    for one in plan.filters:
        if one.fitted and not isinstance(one, FerriteFilter):
            at = plan.supply_of[one.at].output if one.at in plan.supply_of else graph.feeding_rail(one.at)
            total += one.farad * one.count if at else 0.0
    return total
