"""Edit operations as data: what a screen sends, a fix proposes and the history records. `edits` applies them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, JsonValue

from yardmeter.core.plan.devices import DrawState
from yardmeter.core.plan.parts import Id, Model, Name, Provenance
from yardmeter.core.plan.sources import AddedKind

Kind = Literal[
    "board",
    "rail",
    "supply",
    "device",
    "inlet",
    "condition",
    "scenario",
    "signal",
    "filter",
    "clamp",
    "noise",
    "return",
    "pad",
    "pin",
]


class SetDraw(Model):
    """A device's draw in one state, as typed (`850mA`, `9W@12V`)."""

    op: Literal["set_draw"] = "set_draw"
    device: Id
    state: Literal["idle", "typical", "peak", "boot", "off"]
    text: str = Field(max_length=60)
    provenance: Provenance | None = None


class SetValue(Model):
    """One field of an element (`pack`, `policy` and `plan` included), by dotted path, to a JSON value."""

    op: Literal["set"] = "set"
    element: Id
    field: str = Field(min_length=1, max_length=120, pattern=r"^[a-z0-9_]+(\.[a-z0-9_-]+)*$")
    value: JsonValue


class SetQuantity(Model):
    """One numeric field of an element as typed with its unit (`5.1V`, `120mm`)."""

    op: Literal["set_quantity"] = "set_quantity"
    element: Id
    field: str = Field(min_length=1, max_length=120, pattern=r"^[a-z0-9_]+(\.[a-z0-9_-]+)*$")
    text: str = Field(max_length=60)


class Add(Model):
    """A new element; `owner` is the board or device of a return, the rail of a pad, the board or device of a pin. A missing id is made from the name."""

    op: Literal["add"] = "add"
    kind: Kind
    value: dict[str, JsonValue]
    owner: Id | None = None


class Remove(Model):
    """An element with everything that cannot stand without it; feeds from it are cut, not their devices."""

    op: Literal["remove"] = "remove"
    element: Id


class Duplicate(Model):
    op: Literal["duplicate"] = "duplicate"
    element: Id
    name: Name | None = None


class Move(Model):
    """Feed a device from another rail (and pad); its main return follows to that rail's board."""

    op: Literal["move"] = "move"
    device: Id
    rail: Id
    pad: Id | None = None
    with_return: bool = True


class SetState(Model):
    """The state a condition puts a device in; None takes the condition's default again."""

    op: Literal["set_state"] = "set_state"
    condition: Id
    device: Id
    state: DrawState | None


class ChooseWay(Model):
    """The way a device is powered, of those it allows; its window becomes that of the way."""

    op: Literal["choose_way"] = "choose_way"
    device: Id
    way: Name


class AddSource(Model):
    """A USB port or bench supply on a rail, or a limiter in line with the pack, with a condition that uses it."""

    op: Literal["add_source"] = "add_source"
    kind: AddedKind
    rail: Id | None = Field(default=None, description="Of a port; a limiter stands on the pack's own.")


Edit = Annotated[
    SetDraw | SetValue | SetQuantity | Add | AddSource | Remove | Duplicate | Move | ChooseWay | SetState,
    Field(discriminator="op"),
]
