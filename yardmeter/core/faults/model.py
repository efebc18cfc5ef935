"""A fault as an overlay on the unpowered build: bridges, cuts, joints and turned parts."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import get_args

from yardmeter.core.elements.bands import Band
from yardmeter.core.network.keys import Key
from yardmeter.core.plan.policies import FaultKind
from yardmeter.core.probing.passive import PassiveTable, Resistance

KINDS: tuple[FaultKind, ...] = get_args(FaultKind)

SHORT_OHM: Band = (0.01, 0.05, 0.5)
WHISKER_OHM: Band = (0.05, 0.5, 5.0)
POOR_OHM: Band = (0.5, 3.0, 20.0)
DEAD_OHM: Band = (0.1, 0.5, 3.0)
"""A shorted part; all from memory."""
OPEN_OHM: Band = (1e9, 1e9, 1e9)
LEAKS_OHM: Band = (20.0, 200.0, 2e3)
"""A capacitor the wrong way round, at a meter's volts; from memory."""


@dataclass(frozen=True)
class Bridge:
    """Copper, or a part that became it, between two nodes."""

    a: int
    b: int
    ohm: Band


@dataclass(frozen=True)
class Joint:
    """More ohms in a conductor; open where there are very many."""

    key: Key
    ohm: Band


@dataclass(frozen=True)
class Landing:
    """An end of a conductor on another node than planned."""

    key: Key
    planned: int
    node: int


@dataclass(frozen=True)
class Gone:
    """A part that is not there."""

    element: str


Overlay = Bridge | Joint | Landing | Gone


@dataclass(frozen=True)
class Fault:
    """One fault. `weight` says how often it happens beside the others; `place` are the nodes it is at."""

    id: str
    kind: FaultKind
    elements: tuple[str, ...]
    weight: float
    overlays: tuple[Overlay, ...]

    @property
    def traced(self) -> bool:
        """Whether the unpowered build differs at all."""
        return bool(self.overlays)


def faulted(table: PassiveTable, *faults: Fault) -> PassiveTable:
    """The unpowered build with these faults in it."""
    for fault in faults:
        for overlay in fault.overlays:
            table = _laid(table, overlay)
    return table


def _laid(table: PassiveTable, overlay: Overlay) -> PassiveTable:
    match overlay:
        case Bridge():
            more = Resistance("fault", overlay.a, overlay.b, overlay.ohm)
            return replace(table, resistances=(*table.resistances, more))
        case Joint():
            return replace(table, resistances=tuple(_jointed(one, overlay) for one in table.resistances))
        case Landing():
            return replace(table, resistances=tuple(_landed(one, overlay) for one in table.resistances))
        case Gone():
            return table.without(overlay.element)


def _jointed(one: Resistance, joint: Joint) -> Resistance:
    if one.key != joint.key:
        return one
    low, usual, high = (a + b for a, b in zip(one.ohm, joint.ohm, strict=True))
    return replace(one, ohm=(low, usual, high))


def _landed(one: Resistance, landing: Landing) -> Resistance:
    if one.key != landing.key:
        return one
    return replace(
        one,
        a=landing.node if one.a == landing.planned else one.a,
        b=landing.node if one.b == landing.planned else one.b,
    )
