"""The shapes of the answers; the API hands them out as they are. Field names carry the unit.

What there are hundreds of in one analysis is a plain dataclass: the core made it, nothing needs to validate it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, ConfigDict

from yardmeter.core.plan import Provenance


class Answer(BaseModel):
    """Base of every answer."""

    model_config = ConfigDict(frozen=True)


@dataclass(frozen=True, slots=True)
class Limit:
    """One bound on a rail's current, with the reason in words."""

    kind: Literal["print", "heat", "connector", "wire", "pack", "port"]
    amps_a: float
    reason: str


@dataclass(frozen=True, slots=True)
class Wagon:
    """One consumer on a rail. Asked: what it wants; given: what it gets when supplies cut off."""

    id: str
    kind: Literal["device", "supply"]
    name: str
    asked_a: float
    given_a: float
    provenance: Provenance | None
    tol_frac: float


@dataclass(frozen=True, slots=True)
class RailState:
    """A rail in one condition."""

    volts_v: float
    asked_a: float
    given_a: float
    usable_a: float
    printed_a: float
    spare_a: float
    guess_frac: float
    limits: tuple[Limit, ...]
    wagons: tuple[Wagon, ...]
    sources: tuple[str, ...]


class RailAnswer(Answer):
    """A rail over all conditions; `parent` is the rail it is drawn under, `depth` its distance from the pack."""

    id: str
    name: str
    board: str
    parent: str | None
    depth: int
    supplies: tuple[str, ...]
    states: dict[str, RailState]


SupplyMode = Literal["off", "regulating", "dropout", "limiting", "passing", "hiccup", "backwards"]


@dataclass(frozen=True, slots=True)
class SupplyState:
    """A supply in one condition; temperature and trip time are for the condition's air and, as `still_*`, without air."""

    mode: SupplyMode
    in_v: float
    out_v: float
    in_a: float
    out_a: float
    asked_a: float
    share_frac: float
    headroom_v: float | None
    loss_w: float
    temp_c: float | None
    still_temp_c: float | None
    still_trip_s: float | None


class SupplyAnswer(Answer):
    id: str
    name: str
    kind: str
    input: str
    output: str
    states: dict[str, SupplyState]


DeviceVerdict = Literal["ok", "off", "dead", "low", "reset", "high"]


@dataclass(frozen=True, slots=True)
class DeviceState:
    """A device in one condition: what it asks, gets, sees at its pins, and whether that is allowed."""

    state: str
    asked_a: float
    given_a: float
    pin_v: float
    ground_v: float
    drop_v: float
    verdict: DeviceVerdict
    sources: tuple[str, ...]


class DeviceAnswer(Answer):
    id: str
    name: str
    rail: str | None
    min_v: float
    max_v: float
    reset_v: float
    seen_min_v: float | None
    seen_max_v: float | None
    states: dict[str, DeviceState]


class BackFlow(Answer):
    """A place where current flows, or would flow, against its intended direction."""

    supply: str
    amps_a: float
    from_rail: str
    to: str


class ConditionAnswer(Answer):
    """The head of a condition: pack, totals, whether it could be solved."""

    id: str
    name: str
    solved: bool
    collapse_rail: str | None
    load_factor: float | None
    pack_v: float
    pack_rest_v: float
    pack_a: float
    source_a: float
    source_v: float
    charge_left_frac: float | None
    minutes: float | None
    back_flows: tuple[BackFlow, ...]


class Budget(Answer):
    """All conditions, rails, supplies and devices of a plan."""

    conditions: tuple[ConditionAnswer, ...]
    rails: tuple[RailAnswer, ...]
    supplies: tuple[SupplyAnswer, ...]
    devices: tuple[DeviceAnswer, ...]
