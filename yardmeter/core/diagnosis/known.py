"""Every cause a build can have and what each makes of everything that can be seen: made once for a plan, asked at every answer."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, TypeVar

from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.diagnosis.causes import Cause, added
from yardmeter.core.diagnosis.foreseen import Foreseen
from yardmeter.core.diagnosis.observed import AMPS_FRAC, KIND_OF, LIT_FRAC, SAG_FRAC, Looks, Obs, Observed, Observer
from yardmeter.core.diagnosis.plugging import SURE, Plugged, plugged
from yardmeter.core.diagnosis.situations import ROW_OF, When
from yardmeter.core.diagnosis.symptoms import Symptom
from yardmeter.core.diagnosis.twins import twin
from yardmeter.core.errors import YardError
from yardmeter.core.faults import Consequence, consequence
from yardmeter.core.once import cached_property
from yardmeter.core.patience import go_on
from yardmeter.core.physics.normal import below
from yardmeter.core.plan import Condition, Plan
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.probing.passive import PassiveTable, passive_table
from yardmeter.core.procedures import unpowered
from yardmeter.core.search import Signatures

Value = TypeVar("Value")
NOISY: frozenset[Obs] = frozenset(("lines", "bars", "noisy"))
UNPOWERED: frozenset[Obs] = frozenset(("closed", "open"))
ELECTRIC: frozenset[Obs] = frozenset(("lost", "over", "low", "high", "hot", "black", "weak"))
OWN_WIRES = ("open joint", "poor joint", "connector half in", "no ground")
HIDDEN = 0.05
"""Where the build shows something by itself already, a fault can still be what does it; our choice."""
BEEP_OHM, OPEN_OHM = 30.0, 200.0
GATE_OF = {"closed": ("plug", "rails"), "open": ("branches", "grounds")}


class Known:
    """The causes of one plan, with their twins as they are asked for."""

    def __init__(self, plan: Plan, posed: Mapping[When, Condition] | None = None) -> None:
        """`posed` are conditions to take for situations instead of the usual ones of the plan."""
        self.plan = plan
        self.by = Observer(plan, posed)
        self._worlds: dict[tuple[str, Looks], Observed | None] = {}
        self._plugs: dict[str, Plugged] = {}
        self._unpowered: dict[str, dict[tuple[Obs, str], float]] = {}
        self._tried: dict[tuple[str, ...], Any] = {}

    @cached_property
    def solved(self) -> SolvedPlan:
        return solve_plan(self.plan)

    @cached_property
    def table(self) -> PassiveTable:
        return passive_table(self.plan)

    @cached_property
    def signatures(self) -> Signatures:
        return Signatures(unpowered(self.solved))

    @cached_property
    def foreseen(self) -> Foreseen:
        return Foreseen(self.by)

    @cached_property
    def causes(self) -> tuple[Cause, ...]:
        at_plug = (Cause(f"plug-{one.id}", "plug", (one.id,), 1.0) for one in self.plan.devices if not one.throttle)
        return (*self.foreseen.causes, *at_plug, *added(self.plan, self.table))

    @cached_property
    def cause(self) -> dict[str, Cause]:
        return {one.id: one for one in self.causes}

    def once(self, what: tuple[str, ...], tried: Callable[[], Value]) -> Value:
        """What came of trying something on this plan, which no answer about the craft changes."""
        if what not in self._tried:
            self._tried[what] = tried()
        found: Value = self._tried[what]
        return found

    def consequence(self, cause: Cause) -> Consequence | None:
        return consequence(self.table, self.solved, cause.fault) if cause.fault else None

    def world(self, cause: Cause, looks: Looks | None = None) -> Observed | None:
        """The craft with this cause in it, solved; as planned where that is how it is, None where power leaves nothing to read."""
        if cause.edits is None:
            return None if cause.fault is not None else self.by.planned
        full = (cause.id, Looks())
        key = full if looks is None or full in self._worlds else (cause.id, looks)
        if key not in self._worlds:
            go_on()
            try:
                self._worlds[key] = self.by.look(twin(self.plan, cause.edits), key[1])
            except YardError:
                self._worlds[key] = None
        return self._worlds[key]

    def without(self, cause: Cause, device: str, looks: Looks) -> Observed | None:
        """The craft with this cause in it and a device off."""
        key = f"{cause.id} without {device}", looks
        if key not in self._worlds:
            go_on()
            try:
                plan = twin(self.plan, cause.edits or ())
                idle = {name: {"value": 0.0} for name in ("idle", "typical", "peak")}
                off = twin(plan, [SetValue(element=device, field="draws", value=idle)])
                self._worlds[key] = self.by.look(off, looks)
            except YardError:
                self._worlds[key] = None
        return self._worlds[key]

    def looks_for(self, cause: Cause, symptom: Symptom) -> Looks:
        """The least that has to be worked out to know how a cause shows as a symptom."""
        rows: set[When] = {ROW_OF.get(one.when, one.when) for one in symptom.looks}
        obs = {one.obs for one in symptom.looks}
        if obs & {"greedy"}:
            rows |= {"bench"}
        if obs & NOISY:
            rows |= {one for one in ("bench", "hover") if one in self.by.conditions}
        return Looks(bool(obs & NOISY) and cause.grounds, "bad" in obs and cause.grounds, frozenset(rows))

    def chance(self, cause: Cause, obs: Obs, when: When, subject: str, looks: Looks | None = None) -> float:
        """That this cause, by itself, makes the thing seen there."""
        forced = cause.forced.get((obs, subject), 0.0)
        if obs in UNPOWERED:
            return max(forced, self._reads(cause).get((obs, subject), 0.0))
        if when == "plug" and obs in ("lost", "over"):
            return max(
                forced, self._plugged_chance(cause, obs, subject), self._settled(cause, obs, when, subject, looks)
            )
        return self._settled(cause, obs, when, subject, looks)

    def _plugged_chance(self, cause: Cause, obs: Obs, subject: str) -> float:
        """What the run through the plug shows with this cause and does not without."""
        as_planned = self.plugged_as(None)
        if cause.kind == "plug":
            return SURE if subject == cause.elements[0] and subject in as_planned.of(obs) else 0.0
        if not (
            cause.grounds
            and cause.edits
            and (cause.kind == "dried" or (cause.fault and cause.fault.kind == "capacitor forgotten"))
        ):
            return 0.0
        return SURE if subject in self.plugged_as(cause).of(obs) - as_planned.of(obs) else 0.0

    def plugged_as(self, cause: Cause | None) -> Plugged:
        """The craft run through its plug, as planned or with a cause in it."""
        name = cause.id if cause else ""
        if name not in self._plugs:
            try:
                self._plugs[name] = plugged(twin(self.plan, (cause.edits or ()) if cause else ()))
            except YardError:
                self._plugs[name] = Plugged()
        return self._plugs[name]

    def _settled(self, cause: Cause, obs: Obs, when: When, subject: str, looks: Looks | None) -> float:
        """The same where the craft has settled, from its operating points."""
        forced = cause.forced.get((obs, subject), 0.0)
        w, k = self.by.rows.index(when), self.by.subjects.index[KIND_OF[obs]][subject]
        if cause.foreseen:
            own = self.foreseen.chances(cause).get(obs) if cause.kind != "plug" else None
            return float(own[w, k]) if own is not None else 0.0
        if obs in ELECTRIC and self._elsewhere(cause, subject):
            return forced
        world = self.world(cause, looks)
        if cause.edits is None or world is None:
            return max(forced, self._picture_of(cause, obs, subject))
        base = self.by.planned
        if obs in ("sag", "thirst", "greedy", "lamp"):
            return max(forced, self._craft(world, base, obs, when))
        if obs in NOISY and not cause.grounds:
            return forced
        if obs == "bad" and not cause.grounds:
            return forced
        at, before = float(world.chance[obs][w, k]), float(base.chance[obs][w, k])
        more = (at - before) / max(1 - before, HIDDEN)
        if obs in ("black", "weak"):
            forced = max(forced, self._picture_of(cause, obs, subject))
        return max(forced, min(max(more, 0.0), 1.0))

    def _elsewhere(self, cause: Cause, subject: str) -> bool:
        """Whether a cause is in the wires of one device that nothing hangs on, and the subject is another: it loses less, no more."""
        own = cause.fault.kind in OWN_WIRES if cause.fault else cause.kind == "thin wire"
        name = cause.elements[0] if cause.elements else ""
        if not own or name not in self.plan.device_of or name in self._passes_on or subject == name:
            return False
        signal = self.plan.signal_of.get(subject)
        return signal is None or name not in {self.plan.owner_of[end].id for end in (signal.source, signal.sink)}

    @cached_property
    def _passes_on(self) -> frozenset[str]:
        """Devices that hand on volts, or another's ground."""
        fed = {name for one in self.plan.supplies for name in self.plan.inputs_of(one)}
        return frozenset(fed | {wire.to for _, wire in self.plan.returns()})

    def planned(self, cause: Cause, obs: Obs, when: When, subject: str) -> float:
        """What is to be seen there as planned, by others than this cause."""
        if obs in UNPOWERED:
            return 0.0
        w, k = self.by.rows.index(when), self.by.subjects.index[KIND_OF[obs]][subject]
        if cause.foreseen and cause.kind != "plug":
            own = self.foreseen.chances(cause).get(obs)
            if own is not None and own[w, k] > 0:
                return 0.0
        return float(self.by.planned.chance[obs][w, k])

    def _picture_of(self, cause: Cause, obs: Obs, subject: str) -> float:
        """A picture that goes with a device that is gone whatever its volts."""
        if obs != "black":
            return 0.0
        one = self.plan.signal_of[subject]
        ends = {self.plan.owner_of[end].id for end in (one.source, one.sink)}
        return max((p for (of, name), p in cause.forced.items() if of == "lost" and name in ends), default=0.0)

    def _craft(self, world: Observed, base: Observed, obs: Obs, when: When) -> float:
        w = self.by.rows.index(when)
        if obs == "lamp":
            lamp = next(one for one in self.plan.inlets if one.in_line)
            return float(below((abs(world.pack_a[w]) - LIT_FRAC * lamp.limit_a) / (0.1 * lamp.limit_a)))
        if obs == "sag":
            r = self.by.subjects.index["rail"][self.plan.pack.rail]
            less = 1 - world.rails_v[w, r] / max(float(base.rails_v[w, r]), 1e-6)
            return float(below((less - SAG_FRAC) / (SAG_FRAC / 2)))
        more = world.pack_a[w] / max(float(base.pack_a[w]), 1e-3) - 1
        return float(below((more - 2 * AMPS_FRAC) / AMPS_FRAC))

    def _reads(self, cause: Cause) -> dict[tuple[Obs, str], float]:
        """What a meter says of rails and wires without power, where a fault moves it."""
        if cause.fault is None or not cause.fault.traced:
            return {}
        if cause.id not in self._unpowered:
            self._unpowered[cause.id] = dict(self._beeps(self.signatures.faults.index(cause.fault) + 1))
        return self._unpowered[cause.id]

    def _beeps(self, row: int) -> Iterable[tuple[tuple[Obs, str], float]]:
        known, ohms = self.signatures, self.signatures.ohms
        subjects = {"closed": set(self.plan.rail_of), "open": set(self.plan.device_of)}
        for name, column in known.steps.items():
            step = known.made.step[name]
            sound, reads = float(ohms[0, column]), float(ohms[row, column])
            obs: Obs = "closed" if step.gate in GATE_OF["closed"] else "open"
            if step.gate not in GATE_OF[obs]:
                continue
            shows = sound > BEEP_OHM > reads if obs == "closed" else sound < BEEP_OHM and reads > OPEN_OHM
            if shows:
                yield from (((obs, one), 0.97) for one in step.elements if one in subjects[obs])
