"""Energy that is not the pack, and what is put between pack and craft at first power."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from yardmeter.core.physics.pack import CELL_STATE_V, Chemistry, PackState
from yardmeter.core.plan.parts import Id, Model, Name

AddedKind = Literal["usb", "bench", "lamp", "fuse"]
"""Sources that come with a condition that uses them."""
InletKind = Literal["usb", "bench", "lamp", "fuse", "cell"]

USUAL_F: dict[InletKind, float] = {"usb": 120e-6, "bench": 470e-6, "lamp": 0.0, "fuse": 0.0, "cell": 0.0}
"""USB 2.0 asks 120 µF of a port, from memory; of bench supplies, common practice, no source."""


class Cells(Model):
    """What a small pack beside the flight pack is made of."""

    chemistry: Chemistry = "lipo"
    series: int = Field(default=1, ge=1, le=16)
    capacity_ah: float = Field(default=0.3, gt=0, le=100)

    def rest_v(self, state: PackState) -> float:
        """Rest volts of it at this state [V]."""
        return self.series * CELL_STATE_V[self.chemistry][state]


class Inlet(Model):
    """A USB port or bench supply into `rail`, a cell of its own at it, or a limiter (lamp, fuse) in line with the pack.

    usb, bench: `volts` behind `series_ohm`, at most `limit_a`, through a diode of `drop_v`.
    cell: `cells` behind `series_ohm`, made for `limit_a`; plugged whenever the pack is, and as full as that.
    lamp: a filament of `volts` and `limit_a` rating in series with the pack; fuse: holds up to `limit_a`.
    """

    id: Id
    name: Name
    kind: InletKind
    rail: Id
    volts: float = Field(default=5.0, gt=0, le=100)
    limit_a: float = Field(default=0.5, gt=0, le=200)
    series_ohm: float = Field(default=0.15, ge=0.001, le=20)
    drop_v: float = Field(default=0.0, ge=0, le=1.5)
    output_f: float | None = Field(
        default=None, ge=0, le=0.1, description="Capacitor at a port's or supply's output; left out, the usual one."
    )
    cells: Cells | None = None

    @model_validator(mode="after")
    def _cells_where_it_is_some(self) -> Inlet:
        if (self.cells is not None) != (self.kind == "cell"):
            raise ValueError("a cell says what it is made of" if self.kind == "cell" else f"a {self.kind} has no cells")
        return self

    @property
    def gives_f(self) -> float:
        """Capacitance at its output [F]: what a USB port has to have at least, what bench supplies usually have."""
        return USUAL_F[self.kind] if self.output_f is None else self.output_f

    @property
    def in_line(self) -> bool:
        """Whether it stands between the pack and the craft."""
        return self.kind in ("lamp", "fuse")

    @property
    def is_port(self) -> bool:
        """Whether it is plugged at the bench alone and never flies."""
        return self.kind in ("usb", "bench")

    @property
    def most_v(self) -> float:
        """The most it gives [V]."""
        return self.cells.rest_v("full") if self.cells else self.volts
