"""Which parts of the shelf suit a craft that is still being chosen, and what speaks against the others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.answers.supplies import needed_input_v
from yardmeter.core.edits.homes import home_rails
from yardmeter.core.edits.starting import Topology
from yardmeter.core.elements.load import over_volts
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.parts.part import PACK_IN
from yardmeter.core.plan import Device, Pack, Plan, Regulator

Against = Literal["over", "low", "no start", "passes", "whole craft", "one motor", "needs controller", "no rail"]
FOUR = 4
"""Signals of an ESC that drives a whole craft."""


@dataclass(frozen=True, slots=True)
class Suit:
    """How well a part suits, lightest `rank` first; `against` is what speaks against it: `seen` beside its own `limit` [V]."""

    key: str
    rank: int
    against: Against | None = None
    element: str = ""
    """Name of the regulator on a board it speaks of; nothing where that is the part itself."""
    seen_v: float = 0.0
    limit_v: float = 0.0


def suited(plan: Plan, topology: Topology, parts: Sequence[Part]) -> tuple[Suit, ...]:
    """Parts in the order in which they suit the plan so far: its pack, its shape, its rails. What does not suit stands last."""
    return tuple(sorted((_suit(plan, topology, one) for one in parts), key=lambda s: (s.against is not None, s.rank)))


def _suit(plan: Plan, topology: Topology, part: Part) -> Suit:
    if part.device:
        return _device_suit(plan, part.key, part.device)
    rank, against = _role(topology, part)
    if against:
        return Suit(part.key, rank, against)
    for supply in _on_the_pack(part):
        if (found := _supply_suit(plan.pack, part.key, rank, supply)).against:
            return found
    return Suit(part.key, rank)


def _on_the_pack(part: Part) -> list[Regulator]:
    if part.bec:
        return [part.bec]
    own = part.board.supplies if part.board else ()
    return [one for one in own if isinstance(one, Regulator) and one.input == PACK_IN]


def _supply_suit(pack: Pack, key: str, rank: int, supply: Regulator) -> Suit:
    """Whether a regulator lives on the full pack and holds its volts on a low one."""
    name = supply.name if supply.place != "alone" else ""
    full, low = pack.rest_v("full"), pack.rest_v("low")
    if over_volts(full, supply.input_max_v):
        return Suit(key, rank, "over", name, full, supply.input_max_v)
    if over_volts(supply.start_v, low):
        return Suit(key, rank, "no start", name, low, supply.start_v)
    if supply.kind == "boost" and over_volts(full, supply.set_v):
        return Suit(key, rank, "passes", name, full, supply.set_v)
    needed = float(needed_input_v(supply, 0.0))
    if supply.kind in ("buck", "linear") and over_volts(needed, low):
        return Suit(key, rank, "low", name, low, needed)
    return Suit(key, rank)


def _role(topology: Topology, part: Part) -> tuple[int, Against | None]:
    """Place of a board in the order of a shape, and what its kind has against that shape."""
    if part.board is None:
        return 3, None
    board = part.board.board
    all_in_one = board.kind == "controller" and board.esc_limit_a is not None
    four = board.kind == "esc" and sum(pin.role == "esc-in" for pin in board.pins) >= FOUR
    match topology:
        case "stack":
            if all_in_one:
                return 9, "whole craft"
            if board.kind == "esc":
                return (0, None) if four else (9, "one motor")
            return {"controller": 1}.get(board.kind, 2), None
        case "one-board":
            if four:
                return 9, "needs controller"
            return (0 if all_in_one else 2 if board.kind == "controller" else 4), None
        case _:
            if all_in_one:
                return 9, "whole craft"
            first = "power" if topology == "power-board" else "esc"
            return (0 if board.kind == first else 1 if board.kind in ("esc", "controller") and not four else 4), None


def _device_suit(plan: Plan, key: str, device: Device) -> Suit:
    """Whether any rail's own volts are inside its window; what is nearest to what it likes comes first."""
    full, floor = plan.pack.rest_v("full"), plan.pack.rest_v("floor")
    if device.kind == "motor":
        if over_volts(full, device.max_v):
            return Suit(key, 1, "over", "", full, device.max_v)
        return Suit(key, 1, "no start", "", floor, device.min_v) if over_volts(device.min_v, floor) else Suit(key, 0)
    if home_rails(plan, device):
        return Suit(key, 1)
    return Suit(key, 2, "no rail", "", _nearest_v(plan, device), device.nominal_v)


def _nearest_v(plan: Plan, device: Device) -> float:
    """Of the rails there are, the volts nearest to what a device wants [V]."""
    fed = graph_of(plan).rails_below([plan.pack.rail])
    volts = [r.nominal_v or plan.pack.rest_v("nominal") for r in plan.rails if r.id in fed]
    return min(volts, key=lambda v: abs(v - device.nominal_v))
