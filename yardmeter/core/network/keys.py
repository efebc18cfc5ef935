"""Names of nodes and branches of a plan's network: typed keys, never strings to take apart."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal, NamedTuple

from yardmeter.core.plan import Link, Strap

NodeKind = Literal["pack+", "lead", "rail", "ground", "pin", "input"]
Role = Literal[
    "lead", "limiter", "feed", "return", "link", "supply", "body diode", "inlet", "device", "lamp", "pack",
    "input", "output", "entry", "filter", "bypass", "slope", "forward", "back", "taken", "given",
]  # fmt: skip
"""The last rows are of the small-signal network alone: capacitors by where they stand, slopes of loads and of regulators'
inputs, and the four parts of a regulator."""


class Node(NamedTuple):
    """A node: a rail, the ground of a board or device, a device's supply pin, a supply's input behind its own wire.

    `pack+` is the pack's positive terminal, `lead` what stands behind a limiter in line with it.
    """

    kind: NodeKind
    element: str = ""


class Key(NamedTuple):
    """A branch: what it is to which element; `part` tells the contacts of a strap apart."""

    role: Role
    element: str = ""
    part: int = 0


NAMES = 4096
"""Keys that are held ready: an answer asks for a few hundred of them some thousand times."""
PACK_NODE = Node("pack+")
LEAD_NODE = Node("lead")
LEAD_KEY = Key("lead")
LIMITER_KEY = Key("limiter")
PACK_KEY = Key("pack")


@lru_cache(maxsize=NAMES)
def rail_node(rail_id: str) -> Node:
    return Node("rail", rail_id)


@lru_cache(maxsize=NAMES)
def ground_node(owner_id: str) -> Node:
    return Node("ground", owner_id)


@lru_cache(maxsize=NAMES)
def pin_node(device_id: str) -> Node:
    return Node("pin", device_id)


@lru_cache(maxsize=NAMES)
def input_node(supply_id: str) -> Node:
    return Node("input", supply_id)


@lru_cache(maxsize=NAMES)
def feed_key(element_id: str) -> Key:
    """The positive wire into a device or supply."""
    return Key("feed", element_id)


@lru_cache(maxsize=NAMES)
def return_key(return_id: str) -> Key:
    return Key("return", return_id)


def link_key(supply: Link | Strap, part: int = 0) -> Key:
    """A link, or one bridged contact of a strap."""
    return Key("link", supply.id, part)


@lru_cache(maxsize=NAMES)
def supply_key(supply_id: str) -> Key:
    """A regulator or diode as a converter."""
    return Key("supply", supply_id)


@lru_cache(maxsize=NAMES)
def body_diode_key(supply_id: str) -> Key:
    return Key("body diode", supply_id)


@lru_cache(maxsize=NAMES)
def inlet_key(inlet_id: str) -> Key:
    return Key("inlet", inlet_id)


@lru_cache(maxsize=NAMES)
def device_key(device_id: str) -> Key:
    """A device as a load."""
    return Key("device", device_id)
