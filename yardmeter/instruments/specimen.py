"""What the stand-ins measure: a plan, with the faults that were put in."""

from __future__ import annotations

import threading
from dataclasses import replace

from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.errors import EditError
from yardmeter.core.faults import find_fault
from yardmeter.core.plan import Plan
from yardmeter.core.probing import Mode
from yardmeter.core.probing.passive import passive_table
from yardmeter.core.procedures import checklist
from yardmeter.core.procedures.powering import charged_f
from yardmeter.core.search import Signatures, find_trial
from yardmeter.core.search.twin import Twin

SHORT_LEFT_V = 0.2
"""Volts a supply in its limit leaves over a short."""


class TwinBench:
    """A build on the bench; `put` lays another one there."""

    def __init__(self, plan: Plan, names: tuple[str, ...] = (), seed: int = 0) -> None:
        self._lock = threading.RLock()
        self._seed = seed
        self._known: tuple[Plan, Signatures] | None = None
        self._source_v: float | None = None
        self.put(plan, names, seed)

    def put(self, plan: Plan, names: tuple[str, ...] = (), seed: int = 0) -> None:
        """Raises UnknownElementError for a fault this build cannot have."""
        table = passive_table(plan)
        faults = tuple(find_fault(table, name) for name in names if name)
        with self._lock:
            self.twin = Twin(plan, faults, seed, source_v=self._source_v)
            self._amps: dict[tuple[float, float], float] = {}
            self._seed = seed

    def warm(self) -> None:
        """Make the list ahead of whoever switches a supply on: an instrument answers at once."""
        threading.Thread(target=lambda: self.known, name="bench-list", daemon=True).start()

    def faults(self, names: tuple[str, ...]) -> None:
        self.put(self.twin.plan, names, self._seed)

    @property
    def known(self) -> Signatures:
        """The list of the build as it is planned, for what is tried in a search; made when it is first asked for."""
        with self._lock:
            if self._known is None or self._known[0] is not self.twin.plan:
                self._known = self.twin.plan, Signatures(checklist(solve_plan(self.twin.plan)))
            return self._known[1]

    def shows(self, mode: Mode, red: str, black: str, condition: str | None) -> float | None:
        with self._lock:
            return self.twin.shows(mode, red, black, condition)

    def tries(self, trial: str, failed: str) -> float | None:
        """What a trial after a step that failed shows. Raises EditError for a trial that is none of this build."""
        with self._lock:
            step = self.known.made.step.get(failed)
            if step is None:
                raise EditError(
                    "This step is not on the list of this build.", where=failed, remedy="Lay it there anew."
                )
            return self.twin.tries(find_trial(self.known, trial, step))

    def supplied(self, volts: float | None) -> None:
        """A supply on the plug gives so many volts; None where the pack is there instead."""
        with self._lock:
            self._source_v = self.twin.source_v = volts

    def charge_s(self, volts: float, limit_a: float) -> float:
        """How long the build's capacitors hold a supply at its limit."""
        with self._lock:
            return charged_f(self.twin.plan) * volts / limit_a

    def pack_a(self, volts: float, limit_a: float) -> tuple[float, float]:
        """Volts and amps of a supply on the plug: what the build takes there, or its limit and what is left of the volts."""
        with self._lock:
            first = self.known.made.step.get("limiter-first")
            if first is None or first.condition is None or volts <= 0:
                return volts, 0.0
            key = volts, limit_a
            if key not in self._amps:
                self._amps[key] = self.twin.first_amps(replace(first, volts_v=volts, limit_a=limit_a))
            amps = self._amps[key]
            return (volts, amps) if amps < limit_a else (SHORT_LEFT_V, limit_a)
