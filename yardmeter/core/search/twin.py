"""A build with faults in it that can be measured: what its meter shows, at values drawn once from the bands of its parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np

from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.elements.bands import Band
from yardmeter.core.errors import EditError, YardError
from yardmeter.core.faults import Fault, faulted, powered_twin
from yardmeter.core.faults.model import OPEN_OHM, Gone, Joint
from yardmeter.core.faults.model import Overlay as OneOverlay
from yardmeter.core.network.keys import Key
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Condition, Plan
from yardmeter.core.probing.meter import METER, Meter
from yardmeter.core.probing.passive import PassiveTable, passive_table
from yardmeter.core.probing.points import Point, find_point
from yardmeter.core.probing.reading import Mode, Reading, read, read_many, read_powered
from yardmeter.core.procedures import Step
from yardmeter.core.search.trials import LIMITED_A, Trial

FITS_FRAC = 0.4
"""How far from usual a part's value is drawn, of the way to its bound, on a scale of ratios; our choice."""


@dataclass
class Twin:
    """One specimen of a build: `seed` draws the values of its parts and what the meter's last digit does.

    `faults` may be none or several. Readings do not change from one to the next but for the meter's noise.
    """

    plan: Plan
    faults: tuple[Fault, ...] = ()
    seed: int = 0
    source_v: float | None = None
    """What stands in for the pack where it is not the pack itself."""
    at_edges: bool = False
    """Whether each of its values is at one end of its band, the furthest a sound build may be from usual."""
    _solved: dict[tuple[str, float | None], tuple[Plan, Solved]] = field(default_factory=dict)

    @cached_property
    def noise(self) -> np.random.Generator:
        return np.random.default_rng(self.seed + 1)

    @cached_property
    def table(self) -> PassiveTable:
        """Unpowered, all three corners the same drawn values.

        The sound build is drawn first: mending a fault, or lifting a wire, leaves the same specimen.
        """
        sound = _drawn(passive_table(self.plan), np.random.default_rng(self.seed), at_edges=self.at_edges)
        return _drawn(faulted(sound, *self.faults), np.random.default_rng(self.seed + 2))

    def reads(self, mode: Mode, red: str, black: str, condition: str | None = None, meter: Meter = METER) -> Reading:
        """What a perfect meter would read between two points, by their ids. Raises as `read` and `read_powered` do."""
        if mode not in ("volts", "amps"):
            return read(self.table, find_point(self.table, red), find_point(self.table, black), mode, meter)
        one = self.plan.condition(condition) if condition else self._usual()
        plan, solved = self._powered(one)
        table = passive_table(plan)
        at = [find_point(table, name) for name in (red, black)]
        return read_powered(solved, plan.condition(one.id), table, at[0], at[1], mode, meter)

    def shows(
        self, mode: Mode, red: str, black: str, condition: str | None = None, meter: Meter = METER
    ) -> float | None:
        """What the display shows: noise and the last digit in it; None where it says that nothing conducts. Raises as `reads`."""
        if mode == "volts" and self.destroyed:
            for name in (red, black):
                find_point(self.table, name)
            return 0.0
        found = self.reads(mode, red, black, condition, meter)
        if mode in ("ohms", "beep"):
            return self._digit(None if found.high is None else found.usual, meter.error_frac / 3, meter.least_ohm)
        if mode == "diode":
            return self._digit(None if found.high is None else found.usual, meter.volts_frac / 3, meter.least_v)
        frac, least = (meter.volts_frac, meter.least_v) if mode == "volts" else (meter.amps_frac, 1e-4)
        return self._digit(found.usual, frac / 3, least)

    def shows_all(self, pairs: Sequence[tuple[Point, Point]], meter: Meter = METER) -> list[float | None]:
        """Ohms at many places, solved side by side."""
        found = read_many(self.table, pairs, "ohms", meter, lasting=False)
        return [self._digit(None if r.high is None else r.usual, meter.error_frac / 3, meter.least_ohm) for r in found]

    def tries(self, trial: Trial, meter: Meter = METER) -> float | None:
        """What a trial of the search shows: a wire or part off, or a drop along copper."""
        if trial.doing == "millivolts" and trial.shorted:
            return self._digit(self._drop_v(trial.shorted, trial.red, trial.black), 0.01, 1e-4)
        if trial.cut or trial.gone:
            # A capacitor that comes off takes what is wrong with it along.
            left = tuple(one for one in self.faults if not (trial.gone and trial.gone == one.elements[0]))
            lifted = replace(self, faults=(*left, _off(trial.cut, trial.gone)), _solved={})
            return lifted.shows("ohms", trial.red.id, trial.black.id, meter=meter)
        mode: Mode = "volts" if trial.scale == "volts" else "ohms"
        return self.shows(mode, trial.red.id, trial.black.id, trial.condition, meter)

    def _drop_v(self, ends: tuple[Point, Point], red: Point, black: Point) -> float:
        """With a supply of 3 V that limits at `LIMITED_A`: along copper alone, whatever else hangs on it."""
        a, b = ends
        ohms = {
            pair: self.reads("ohms", pair[0].id, pair[1].id).usual - (METER.leads_low_ohm + METER.leads_high_ohm) / 2
            for pair in ((a, black), (a, red), (b, red), (b, black))
            if pair[0].node != pair[1].node
        }

        def ohm(one: Point, other: Point) -> float:
            return ohms.get((one, other), 0.0)

        return LIMITED_A * (ohm(a, black) - ohm(a, red) + ohm(b, red) - ohm(b, black)) / 2

    def _usual(self) -> Condition:
        return next((c for c in self.plan.conditions if c.on_pack), self.plan.conditions[0])

    def powered_plan(self) -> Plan:
        """The build with its faults, under power. Raises EditError for what power destroys."""
        plan = self.plan
        for fault in self.faults:
            plan = powered_twin(plan, fault)
        return plan

    @cached_property
    def destroyed(self) -> bool:
        """Whether power destroys what is connected, so that no volts are left anywhere."""
        try:
            self.powered_plan()
        except EditError:
            return True
        return False

    def _powered(self, condition: Condition) -> tuple[Plan, Solved]:
        key = condition.id, self.source_v
        if key not in self._solved:
            plan = self.powered_plan()
            one = plan.condition(condition.id)
            if self.source_v is not None and one.on_pack:
                one = one.model_copy(update={"pack_v": self.source_v, "cell_v": None})
            plan = plan.model_copy(update={"conditions": (one,)})
            self._solved[key] = plan, solve_conditions(plan)
        return self._solved[key]

    def first_amps(self, step: Step) -> float:
        """Amps of a supply that is set as the step says: at its limit where the build takes more, or nobody can say what."""
        limit = step.limit_a or 0.0
        shorted = self.shows("ohms", "plug:plus", "plug:minus")
        if step.condition is None or (shorted is not None and shorted < (step.volts_v or 0.0) / max(limit, 1e-6) / 4):
            return limit
        try:
            twin = self.powered_plan()
            one = twin.condition(step.condition).model_copy(update={"pack_v": step.volts_v, "cell_v": None})
            view = solve_conditions(twin.model_copy(update={"conditions": (one,)})).given[one.id]
        except YardError:
            return limit
        return min(view.op.pack_a(view.row), limit) if view.converged else limit

    def _digit(self, value: float | None, frac: float, least: float) -> float | None:
        if value is None:
            return None
        return round(value * (1 + frac * float(self.noise.standard_normal())) / least) * least


def _off(cut: Key | None, gone: str | None) -> Fault:
    overlay: OneOverlay = Joint(cut, OPEN_OHM) if cut else Gone(gone or "")
    return Fault("off", "open joint", (gone or (cut.element if cut else ""),), 1.0, (overlay,))


One = TypeVar("One")


def _drawn(table: PassiveTable, rng: np.random.Generator, *, at_edges: bool = False) -> PassiveTable:
    def draw(band: Band) -> Band:
        if band[0] == band[2]:  # drawn before
            return band
        low, usual, high = (np.log(max(one, 1e-9)) for one in band)
        way = float(rng.choice((-1.0, 1.0))) if at_edges else FITS_FRAC * float(rng.uniform(-1, 1))
        value = float(np.exp(usual + way * ((high - usual) if way > 0 else (usual - low))))
        return value, value, value

    return replace(
        table,
        resistances=tuple(replace(one, ohm=draw(one.ohm)) for one in table.resistances),
        junctions=tuple(replace(one, volts=draw(one.volts)) for one in table.junctions),
        storages=tuple(replace(one, farad=draw(one.farad)) for one in table.storages),
    )
