"""A scenario run: volts, amps, states and temperatures over time, and everything that switched."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from yardmeter.core.elements.pack import rest_fall_v
from yardmeter.core.network.in_time import Moving
from yardmeter.core.network.keys import Key, ground_node, inlet_key, rail_node, supply_key
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.plan.scenarios import ScenarioAct
from yardmeter.core.runs.timetable import Timetable, timetable
from yardmeter.core.solver.circuit import Floats, Ints
from yardmeter.core.solver.transient import Trace, march
from yardmeter.core.solver.transient.trace import Happening

STATES = ("off", "boot", "run")
OF_DEVICES = {Happening.UNDER, Happening.BACK, Happening.RESET, Happening.BOOTS, Happening.RUNS, Happening.LOOPS}


@dataclass(frozen=True)
class RunEvent:
    """Something that happened: a switch of an element, or an act (`act` is its place in the scenario)."""

    at_s: float
    code: Happening
    element: str
    act: int | None = None
    period_s: float = 0.0
    rounds: int = 0


@dataclass(frozen=True, eq=False, repr=False)
class Run:
    """One scenario of one plan, run through."""

    plan: Plan
    timetable: Timetable
    trace: Trace

    @property
    def scenario(self) -> Scenario:
        return self.timetable.scenario

    @property
    def moving(self) -> Moving:
        return self.timetable.moving

    @cached_property
    def times_s(self) -> Floats:
        return np.array(self.trace.times_s)

    @property
    def stuck_s(self) -> float | None:
        """Where the run found no next step, None where it came to its end."""
        found = float(self.trace.stuck_s[0])
        return found if np.isfinite(found) else None

    @cached_property
    def _volts(self) -> Floats:
        """Node volts (t, nodes + 1), the reference last."""
        own = self.trace.column("volts")
        return np.concatenate([own, np.zeros((own.shape[0], 1))], axis=1)

    @cached_property
    def _columns(self) -> dict[str, Floats]:
        names = ("series_a", "load_a", "input_a", "output_a", "temp_c", "charge_c")
        return {name: self.trace.column(name) for name in names}

    @cached_property
    def _switches(self) -> dict[str, Ints]:
        return {"modes": np.array(self.trace.modes, np.int64), "on": np.array(self.trace.on, np.int64)}

    def rail_v(self, rail_id: str) -> Floats:
        """Volts of a rail above the ground it stands on (t,)."""
        node = self.moving.network.node
        return (
            self._volts[:, node[rail_node(rail_id)]] - self._volts[:, node[ground_node(self.plan.ground_of(rail_id))]]
        )

    def ground_v(self, owner_id: str) -> Floats:
        """Height of a ground above the pack's negative (t,)."""
        return self._volts[:, self.moving.network.node[ground_node(owner_id)]]

    def pin_v(self, consumer_id: str) -> Floats:
        """Volts at the pins of a device, or across a clamp (t,)."""
        law = self.moving.circuit.consumers.law
        k = self.moving.consumer[consumer_id]
        return self._volts[:, law.p[k]] - self._volts[:, law.n[k]]

    def load_a(self, consumer_id: str) -> Floats:
        return self._columns["load_a"][:, self.moving.consumer[consumer_id]]

    def mode(self, device_id: str) -> Ints:
        """What a device does (t,): 0 off, 1 boots, 2 runs."""
        found: Ints = self._switches["modes"][:, self.moving.consumer[device_id]]
        return found

    def converter(self, element_id: str) -> int | None:
        """Where a supply or inlet stands among the converters; None for links."""
        keys = self.moving.converter
        return keys.get(supply_key(element_id), keys.get(inlet_key(element_id)))

    def supply_a(self, element_id: str) -> Floats:
        """What a supply or inlet gives (t,)."""
        k = self.converter(element_id)
        if k is not None:
            return self._columns["output_a"][:, k]
        found: Floats = np.zeros(self.times_s.size)
        for key, index in self.moving.series.items():
            if key.role == "link" and key.element == element_id:
                found = found + self._columns["series_a"][:, index]
        return found

    def supply_in_v(self, element_id: str) -> Floats:
        k = self.converter(element_id)
        law = self.moving.circuit.converting.law
        return self._volts[:, law.inp[k]] - self._volts[:, law.gnd[k]] if k is not None else np.zeros(self.times_s.size)

    def supply_in_a(self, element_id: str) -> Floats:
        """What a regulator or diode takes (t,)."""
        k = self.converter(element_id)
        return self._columns["input_a"][:, k] if k is not None else np.zeros(self.times_s.size)

    def series_a(self, index: int) -> Floats:
        """Current of a series branch, from its first end to its second (t,)."""
        return self._columns["series_a"][:, index]

    def temp_c(self, supply_id: str) -> Floats:
        k = self.converter(supply_id)
        return self._columns["temp_c"][:, k] if k is not None else np.zeros(self.times_s.size)

    def runs(self, supply_id: str) -> Ints:
        k = self.converter(supply_id)
        found: Ints = self._switches["on"][:, k] if k is not None else np.ones(self.times_s.size, np.int64)
        return found

    @cached_property
    def pack_a(self) -> Floats:
        return self._columns["series_a"][:, self.moving.pack]

    @cached_property
    def charge_c(self) -> Floats:
        """Charge taken from the pack (t,)."""
        return self._columns["charge_c"][:, self.moving.pack]

    def charge_of(self, index: int) -> Floats:
        """Charge that has gone through a series branch: what a capacitor holds, beside what it held at first (t,) [C]."""
        return self._columns["charge_c"][:, index]

    def rest_v(self, k: int) -> float:
        """Rest volts the pack has at a step, by what has been taken from it [V]."""
        series = self.moving.circuit.series
        full = float(series.emf[0, self.moving.pack])
        if series.curve is None:
            return full
        return full - rest_fall_v(float(self.charge_c[k]), series.curve.taken_c, series.curve.rest_v)

    def wire_a(self) -> dict[Key, float]:
        """The most each wire, and each contact of a bridged strap, carried [A]."""
        most = np.abs(self._columns["series_a"]).max(axis=0)
        return {one.key: float(most[k]) for k, one in enumerate(self.moving.table.conductors)}

    def owner_of(self, index: int) -> str:
        """The element a wire belongs to, by its series branch: what it feeds, whose ground it is, or the pack."""
        key = self.moving.table.conductors[index].key
        return self.plan.return_of[key.element][0] if key.role == "return" else key.element or "pack"

    @cached_property
    def events(self) -> tuple[RunEvent, ...]:
        """What happened in the nominal run, in order."""
        consumers = {k: name for name, k in self.moving.consumer.items()}
        converters = {k: key.element for key, k in self.moving.converter.items()}
        converters |= {one.source: one.inlet for one in self.moving.ports}
        found, told = [], set()
        for one in self.trace.events:
            if one.row != 0:
                continue
            if one.what is Happening.ACT:
                index = self.timetable.of[one.index]
                if index >= 0 and index not in told:
                    told.add(index)
                    act = self.scenario.acts[index]
                    found.append(RunEvent(one.at_s, one.what, acted_on(act), index))
                continue
            if one.what is Happening.MELTS:
                name = self.owner_of(one.index)
            else:
                name = consumers[one.index] if one.what in OF_DEVICES else converters[one.index]
            found.append(RunEvent(one.at_s, one.what, name, None, one.period_s, one.rounds))
        return tuple(found)

    @cached_property
    def ends_on_pack(self) -> bool:
        """Whether the pack is in at the end."""
        moves = [
            one.act for one in sorted(self.scenario.acts, key=lambda one: one.at_s) if one.act in ("plug", "unplug")
        ]
        return moves[-1] == "plug" if moves else self.timetable.condition.on_pack

    @cached_property
    def ends_with_throttle(self) -> bool:
        moves = [one.to_frac for one in sorted(self.scenario.acts, key=lambda one: one.at_s) if one.act == "throttle"]
        return (moves[-1] if moves else self.timetable.condition.throttle_frac) > 0

    def at(self, time_s: float) -> int:
        """The step that shows an instant: the last not after it."""
        return max(int(np.searchsorted(self.times_s, time_s, side="right")) - 1, 0)


def acted_on(act: ScenarioAct) -> str:
    """The element an act is done to; the pack or all motors have none of their own."""
    for name in ("device", "inlet", "supply", "element"):
        found = getattr(act, name, None)
        if found:
            return str(found)
    return "pack" if act.act in ("plug", "unplug") else ""


def run_scenario(
    plan: Plan, scenario: Scenario, *, rtol: float = 1e-3, watch: Callable[[float], None] | None = None
) -> Run:
    """Run a scenario through. Never raises for a circuit that cannot go on: `stuck_s` tells where.

    Raises YardError where it begins in a condition without an operating point.
    """
    table = timetable(plan, scenario)
    return Run(
        plan, table, march(table.moving.circuit, table.acts, scenario.duration_s, table.start, rtol=rtol, watch=watch)
    )
