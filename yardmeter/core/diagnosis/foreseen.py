"""What the plan's own numbers already say: for each thing it would show, who is behind it."""

from __future__ import annotations

import numpy as np

from yardmeter.core.answers.operating import View
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import run_rules
from yardmeter.core.diagnosis.causes import Cause, CauseKind
from yardmeter.core.diagnosis.observed import CRAFT, KIND_OF, Obs, Observer, lost_with
from yardmeter.core.diagnosis.situations import ROW_OF, When
from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Regulator
from yardmeter.core.solver.circuit import Floats

TOLD = 0.005
"""A chance that is worth a cause of its own."""
SURE = 0.95
NEVER_WORKS = frozenset(("signal.crossed", "signal.direction", "signal.level", "signal.inverted", "signal.port"))
Blame = tuple[CauseKind, tuple[str, ...]]


class Foreseen:
    """Causes that are in the plan as it stands, each with what it alone makes [situations, subjects]."""

    def __init__(self, by: Observer) -> None:
        self.by, self.planned, self.plan = by, by.planned, by.plan
        if by.planned.solved is None:
            raise RuntimeError("the build as planned is kept with its solution")
        self.solved = by.planned.solved
        self._made: dict[Blame, dict[Obs, Floats]] = {}
        self._electric()
        self._wired_wrong()
        self._seen()
        self.causes = tuple(self._cause(blame) for blame in self._made)

    def chances(self, cause: Cause) -> dict[Obs, Floats]:
        return self._made[cause.kind, cause.elements]

    def _cause(self, blame: Blame) -> Cause:
        kind, elements = blame
        return Cause(f"{kind.replace(' ', '-')}-{'-'.join(elements)}", kind, elements, 1.0)

    def _lay(self, blame: Blame, obs: Obs, w: int, subject: str, chance: float) -> None:
        if chance < TOLD:
            return
        arrays = self._made.setdefault(blame, {})
        if obs not in arrays:
            arrays[obs] = np.zeros_like(self.planned.chance[obs])
        k = self.by.subjects.index[KIND_OF[obs]][subject]
        arrays[obs][w, k] = max(arrays[obs][w, k], chance)

    def _electric(self) -> None:
        planned = self.planned
        for w, when in enumerate(planned.rows):
            for name, d in self.by.subjects.index["device"].items():
                self._lay(("over", (name,)), "over", w, name, planned.chance["over"][w, d])
                lost = float(planned.chance["lost"][w, d])
                if lost >= TOLD:
                    self._lay(self._behind(name, w, when), "lost", w, name, lost)
            for name, r in self.by.subjects.index["rail"].items():
                if planned.chance["low"][w, r] >= TOLD:
                    self._lay(self._on_the_way(name, when) or ("volts", (name,)), "low", w, name, planned.chance["low"][w, r])  # fmt: skip
                self._lay(("volts", (name,)), "high", w, name, planned.chance["high"][w, r])
            for name, p in self.by.subjects.index["picture"].items():
                for obs in ("black", "weak"):
                    chance = float(planned.chance[obs][w, p])
                    if chance >= TOLD:
                        self._lay(self._behind(self._weaker_end(name, w), w, when), obs, w, name, chance)

    def _weaker_end(self, signal: str, w: int) -> str:
        devices = self.by.subjects.index["device"]
        one = self.plan.signal_of[signal]
        ends = [self.plan.owner_of[end].id for end in (one.sink, one.source) if self.plan.owner_of[end].id in devices]
        return max(ends, key=lambda name: self.planned.chance["lost"][w, devices[name]])

    def _behind(self, device: str, w: int, when: When) -> Blame:
        """A supply that switches itself off, one at its limit or out of volts, or what is lost on the way."""
        d = self.by.subjects.index["device"][device]
        if when != "bench" and ROW_OF.get(when, when) in self.by.conditions:
            cold = float(self.planned.chance["lost"][self.planned.rows.index(ROW_OF.get(when, "bench")), d])
            if when in ("warm", "blown") and self.planned.chance["lost"][w, d] > cold + TOLD:
                hottest = self._hottest(device, w)
                if hottest:
                    return "trip", (hottest,)
        feed = self.plan.device_of[device].feed
        found = self._on_the_way(feed.rail, when) if feed else None
        return found or ("volts", (device,))

    def _hottest(self, device: str, w: int) -> str | None:
        condition = self.by.conditions[ROW_OF.get(self.planned.rows[w], self.planned.rows[w])]
        mine = [
            s for s in self.plan.supplies if isinstance(s, Regulator) and device in lost_with(self.plan, s, condition)
        ]
        hot = [s for s in mine if s.id in self.planned.temps_c]
        nearest = max(hot, key=lambda s: self.planned.temps_c[s.id][w] - s.trip_c, default=None)
        return nearest.id if nearest else None

    def _on_the_way(self, rail: str, when: When) -> Blame | None:
        view: View = self.solved.given[ROW_OF.get(when, when)]
        condition = self.by.conditions[ROW_OF.get(when, when)]
        way = [rail, *(one for one in graph_of(self.plan).climb(rail) if one != rail)]
        for inlet in self.plan.inlets:
            if condition.uses(inlet) and not inlet.in_line and view.supply_limits(inlet.id):
                return "limit", (inlet.id,)
        for above in way:
            for supply in self.plan.supplies_into(above):
                if not isinstance(supply, Regulator):
                    continue
                if view.hiccups(supply.id) or view.gives_up(supply.id) or view.supply_limits(supply.id):
                    return "overload", (supply.id,)
                if view.supply_on(supply.id) and not view.supply_holds(supply):
                    return "dropout", (supply.id,)
        if not condition.on_pack:
            return "limit", condition.energy[:1]
        return None

    def _wired_wrong(self) -> None:
        """Links the rules already call wrong: they never work."""
        index = self.by.subjects.index["signal"]
        for one in run_rules(SolvedPlan(self.solved.plan, self.solved)):
            if one.code in NEVER_WORKS and one.elements[0] in index:
                for w in range(len(self.planned.rows)):
                    self._lay(("level", one.elements[:1]), "bad", w, one.elements[0], SURE)

    def _seen(self) -> None:
        planned, rows = self.planned, range(len(self.planned.rows))
        for w in rows:
            for name, k in self.by.subjects.index["signal"].items():
                self._lay(("shift", (name,)), "bad", w, name, planned.chance["bad"][w, k])
            for name, k in self.by.subjects.index["picture"].items():
                moving, standing = planned.loudest.get(name, ("", ""))
                kind, whose = self._swings(name)
                if moving:
                    self._lay((kind or "moving noise", (whose or moving, name)), "lines", w, name, planned.chance["lines"][w, k])  # fmt: skip
                if standing:
                    self._lay(("standing noise", (standing, name)), "bars", w, name, planned.chance["bars"][w, k])
            for name, k in self.by.subjects.index["device"].items():
                self._lay(("moving noise", (name,)), "noisy", w, name, planned.chance["noisy"][w, k])
                self._lay(("field", (name,)), "heading", w, name, planned.chance["heading"][w, k])
            for name, k in self.by.subjects.index["part"].items():
                self._lay(("hot", (name,)), "hot", w, name, planned.chance["hot"][w, k])
            for obs in ("sag", "spark", "lamp"):
                self._lay(("as planned", (obs,)), obs, w, CRAFT, planned.chance[obs][w, 0])

    def _swings(self, picture: str) -> tuple[CauseKind | None, str]:
        """A filter that makes a picture worse than none would: it swings."""
        worse = self.planned.worse_with.get(picture)
        return ("resonance", worse) if worse else (None, "")
