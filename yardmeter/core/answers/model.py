"""The shapes of the answers; the API hands them out as they are. Field names carry the unit.

What there are hundreds of in one analysis is a plain dataclass: the core made it, nothing needs to validate it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from yardmeter.core.elements.wire import exceeds
from yardmeter.core.plan import Provenance


class Answer(BaseModel):
    """Base of every answer."""

    model_config = ConfigDict(frozen=True)


KEPT = Field(exclude=True)
"""Stays in the core: the words of an analysis say it."""
LimitKind = Literal["print", "heat", "connector", "wire", "pack", "port", "pad", "share", "limiter", "cut"]


@dataclass(frozen=True, slots=True)
class Limit:
    """One bound on a current, with what it rests on. Fields that do not belong to its kind are empty.

    print: `rating_a` times `factor` of `element`; heat: `top_c` in `air` at `input_v`; wire: `rise_k` in `gauge_awg`;
    connector: `rating_a` times `factor`; pack: its own rating; port: what inlet `element` gives; pad: as stated, or by
    the copper of pad `element`; share: `element` carries `factor` of the rail and is the first at a limit of its own, the one of `parts`;
    limiter: what `element`, in line with the pack, lets through; cut: where `element` cuts off, below what its print would let be used. `held_s` is how long a punch is held.
    """

    kind: LimitKind
    amps_a: float
    element: Annotated[str | None, KEPT] = None
    """The supply, inlet or pad it is of; `pack` for the pack and its lead."""
    wire: Annotated[Literal["feed", "lead", "return"] | None, KEPT] = None
    rating_a: Annotated[float, KEPT] = 0.0
    factor: Annotated[float, KEPT] = 1.0
    top_c: Annotated[float, KEPT] = 0.0
    air: Annotated[str, KEPT] = ""
    input_v: Annotated[float, KEPT] = 0.0
    gauge_awg: Annotated[int, KEPT] = 0
    rise_k: Annotated[float, KEPT] = 0.0
    held_s: Annotated[float | None, KEPT] = None
    hard_a: Annotated[float | None, KEPT] = None
    parts: Annotated[tuple[Limit, ...], KEPT] = ()

    @property
    def fault_a(self) -> float:
        """Past this it is a fault: the print itself, the trip temperature; where nothing was taken off, the limit."""
        return self.hard_a if self.hard_a is not None else self.amps_a


Weight = Literal["caution", "fault", "danger"]


@dataclass(frozen=True, slots=True)
class Consumer:
    """One consumer on a rail. Asked: what it wants; given: what it gets when supplies cut off."""

    id: str
    kind: Literal["device", "supply"]
    name: str
    asked_a: float
    given_a: float
    provenance: Provenance | None
    tol_frac: float


Tone = Literal["ok", "caution", "fault"]
"""Within what counts as usable; between that and print or trip temperature; over those, a wire or a pad."""


@dataclass(frozen=True, slots=True)
class RailState:
    """A rail in one condition."""

    volts_v: float
    asked_a: float
    given_a: float
    usable_a: float
    printed_a: float
    spare_a: float
    """What can be added before this rail, or anything on the way to its source, is over; below 0 where it is over itself."""
    hard_a: float
    """Past this it is over a print, a trip temperature, a wire or pad, not only over what counts as usable."""
    tone: Tone
    bound_by: str | None
    """What binds where it is not the rail's own limit: a rail, supply or device on the way."""
    guess_frac: float
    limits: tuple[Limit, ...]
    consumers: tuple[Consumer, ...]
    sources: tuple[str, ...]

    @property
    def own_spare_a(self) -> float:
        """What its own supplies have left, whatever stands behind them."""
        return self.usable_a - self.asked_a

    @property
    def over(self) -> bool:
        """Whether its own supplies are asked for more than is usable; not where it has none."""
        return bool(self.limits) and exceeds(self.asked_a, self.usable_a)

    @property
    def short(self) -> bool:
        """Whether it, or something on the way to its source, is over."""
        return exceeds(0.0, self.spare_a)


class RailAnswer(Answer):
    """A rail over all conditions; `parent` is the rail it is drawn under, `depth` its distance from the pack."""

    id: str
    name: str
    board: str
    parent: str | None
    depth: int
    supplies: tuple[str, ...]
    worst: str
    """The condition with the least share of its usable amps to spare."""
    states: dict[str, RailState]


SupplyMode = Literal[
    "off", "regulating", "dropout", "limiting", "passing", "hiccup", "gives up", "backwards", "unknown"
]


@dataclass(frozen=True, slots=True)
class SupplyState:
    """A supply in one condition; temperature and trip time are for the condition's air and, as `still_*`, without air."""

    mode: SupplyMode
    weight: Weight | None
    """How heavy what it does and its heat are; None where it is as it should be."""
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
    worst: str
    """The condition in which it delivers most."""
    states: dict[str, SupplyState]


DeviceVerdict = Literal["ok", "off", "dead", "low", "reset", "high", "unknown"]
"""`unknown` where no operating point was found: the numbers beside it are then all zero."""


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
    weight: Weight | None
    """How heavily the verdict weighs in this condition; None where all is as it should be."""


class DeviceAnswer(Answer):
    id: str
    name: str
    rail: str | None
    min_v: float
    max_v: float
    reset_v: float
    seen_min_v: float | None
    seen_max_v: float | None
    worst: str | None
    """The condition whose volts trouble it most; None where none does."""
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
    """Whether it stands under its whole load."""
    known: bool
    """Whether there are numbers at all: false where no operating point was found."""
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
