"""What the stand-ins measure: a plan, with the faults that were put in."""

from __future__ import annotations

import threading

from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.errors import EditError, YardError
from yardmeter.core.faults import find_fault
from yardmeter.core.plan import Plan
from yardmeter.core.probing import Mode
from yardmeter.core.probing.passive import passive_table
from yardmeter.core.search.trials import Trial
from yardmeter.core.search.twin import Twin

SHORT_LEFT_V = 0.2
"""Volts a supply in its limit leaves over a short."""


class TwinBench:
    """A build on the bench; `put` lays another one there."""

    def __init__(self, plan: Plan, names: tuple[str, ...] = (), seed: int = 0) -> None:
        self._lock = threading.RLock()
        self._seed = seed
        self.put(plan, names, seed)

    def put(self, plan: Plan, names: tuple[str, ...] = (), seed: int = 0) -> None:
        """Raises UnknownElementError for a fault this build cannot have."""
        table = passive_table(plan)
        faults = tuple(find_fault(table, name) for name in names if name)
        with self._lock:
            self.twin = Twin(plan, faults, seed)
            self.trials: dict[str, Trial] = {}
            self._seed = seed

    def faults(self, names: tuple[str, ...]) -> None:
        self.put(self.twin.plan, names, self._seed)

    def shows(self, mode: Mode, red: str, black: str, condition: str | None) -> float | None:
        with self._lock:
            return self.twin.shows(mode, red, black, condition)

    def tries(self, trial: str) -> float | None:
        """Raises EditError for a trial nobody has prepared."""
        with self._lock:
            if trial not in self.trials:
                raise EditError("This is not prepared.", where=trial, remedy="Ask the search what to do next.")
            return self.twin.tries(self.trials[trial])

    def pack_a(self, volts: float, limit_a: float) -> tuple[float, float]:
        """Volts and amps of a supply on the plug: what the build takes there, or its limit and what is left of the volts."""
        with self._lock:
            plan = self.twin.plan
            first = next((c for c in plan.conditions if c.on_pack), None)
            if first is None or volts <= 0:
                return volts, 0.0
            shorted = self.twin.shows("ohms", "plug:plus", "plug:minus")
            if shorted is not None and shorted < volts / limit_a / 4:
                return SHORT_LEFT_V, limit_a
            try:
                twin = self.twin.powered_plan()
                one = twin.condition(first.id)
                view = solve_conditions(twin.model_copy(update={"conditions": (one,)})).given[one.id]
            except YardError:
                return SHORT_LEFT_V, limit_a
            amps = view.op.pack_a(view.row) if view.converged else limit_a
            return (volts, amps) if amps < limit_a else (SHORT_LEFT_V, limit_a)
