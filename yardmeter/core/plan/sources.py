"""Energy that is not the pack, and what is put between pack and craft at first power."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from yardmeter.core.plan.parts import Id, Model, Name

InletKind = Literal["usb", "bench", "lamp", "fuse"]


class Inlet(Model):
    """A USB port or bench supply into `rail`, or a limiter (lamp, fuse) in line with the pack.

    usb, bench: `volts` behind `series_ohm`, at most `limit_a`, through a diode of `drop_v`.
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

    @property
    def in_line(self) -> bool:
        """Whether it stands between the pack and the craft."""
        return self.kind in ("lamp", "fuse")
