"""The flight battery of a plan."""

from __future__ import annotations

from pydantic import Field

from yardmeter.core.physics.pack import CELL_STATE_V, Chemistry, PackState, pack_ohm
from yardmeter.core.plan.parts import Id, Model, Name, Wire


class Pack(Model):
    """Chemistry, cells, resistance and the positive lead; the negative lead is the return of the board it meets."""

    name: Name = "Pack"
    chemistry: Chemistry = "lipo"
    series: int = Field(default=4, ge=1, le=16)
    parallel: int = Field(default=1, ge=1, le=16)
    capacity_ah: float = Field(default=1.5, gt=0, le=100, description="Of one string of cells.")
    cell_ohm: float = Field(default=0.004, gt=0, le=1)
    inductance_h: float = Field(default=80e-9, ge=0, le=1e-5, description="Of the cells and their links; our estimate.")
    resistance_tol_frac: float = Field(default=0.25, ge=0, le=1)
    discharge_c: float = Field(default=30, gt=0, le=300, description="Continuous rating, multiples of the capacity.")
    lead: Wire = Wire(gauge_awg=12, length_m=0.1, connector_ohm=0.0003, connector_limit_a=60)
    rail: Id = Field(description="The rail the positive lead is soldered to.")

    @property
    def internal_ohm(self) -> float:
        """Resistance of all cells [Ω]."""
        return pack_ohm(self.cell_ohm, self.series, self.parallel)

    @property
    def limit_a(self) -> float:
        """Continuous current the maker allows [A]."""
        return self.discharge_c * self.charge_ah

    @property
    def charge_ah(self) -> float:
        """Charge of the whole pack [Ah]: of one string, as many times as there are side by side."""
        return self.capacity_ah * self.parallel

    def rest_v(self, state: PackState) -> float:
        """Rest voltage of the whole pack [V]."""
        return self.series * CELL_STATE_V[self.chemistry][state]
