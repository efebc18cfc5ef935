"""From a shelf part to the edits that put it into a plan."""

from __future__ import annotations

from typing import Any

from yardmeter.core.edits.ids import fresh_id
from yardmeter.core.errors import EditError
from yardmeter.core.parts import Part
from yardmeter.core.parts.part import PACK_IN, BoardPart
from yardmeter.core.plan import Device, Link, Plan, Regulator, Wire
from yardmeter.core.plan.operations import Add, Edit, SetValue

BOARD_WIRE = Wire(gauge_awg=22, length_m=0.06)
MOTOR_WIRE = Wire(gauge_awg=12, length_m=0.05)
"""Wires a part comes with until the builder says otherwise; common practice, no source."""
KEPT_IN_PLAN = ("id", "name", "feed", "returns", "pins", "compass", "keeps_control", "part", "note")
"""What a device keeps of its own when its part has changed."""


def place_part(plan: Plan, part: Part, rail_id: str | None = None) -> tuple[Edit, ...]:
    """Edits that add the part, fed from `rail_id` (the pack's rail when left out). Raises EditError for what has no place."""
    rail = rail_id or plan.pack.rail
    if rail not in plan.rail_of:
        raise EditError(f"“{rail}” is no rail of this plan.", where=rail, remedy="Choose one of its rails.")
    if part.device:
        return (_device(plan, part.device, part, rail),)
    if part.bec:
        return _bec(plan, part.bec, part, rail)
    if part.board:
        return _board(plan, part.board, part, rail)
    if part.pack:
        fields = part.pack.model_dump(mode="json", exclude={"rail", "lead"})
        return tuple(SetValue(element="pack", field=name, value=value) for name, value in fields.items())
    raise EditError(
        f"A {part.kind} is not placed on its own.",
        where=part.name,
        remedy="Wires and connectors are chosen in a device's wiring.",
    )


def _device(plan: Plan, device: Device, part: Part, rail: str) -> Add:
    value = device.model_dump(mode="json")
    name = fresh_id(plan, device.name)
    ground = plan.rail_of[rail].board
    wire = (MOTOR_WIRE if device.kind == "motor" else Wire()).model_dump(mode="json")
    value |= {
        "id": name,
        "part": part.key,
        "weight_g": part.weight_g,
        "feed": {"rail": rail, "pad": None, "wire": wire},
    }
    taken = {name}
    value["returns"] = _ground(plan, name, ground, taken, MOTOR_WIRE if device.kind == "motor" else Wire())
    value["pins"] = _own_pins(plan, name, value["pins"], taken)
    return Add(kind="device", value=value)


def _ground(plan: Plan, name: str, to: str, taken: set[str], wire: Wire) -> list[dict[str, Any]]:
    identity = fresh_id(plan, f"{name}-gnd", taken)
    taken.add(identity)
    return [{"id": identity, "to": to, "wire": wire.model_dump(mode="json")}]


def _own_pins(plan: Plan, owner: str, pins: list[dict[str, Any]], taken: set[str]) -> list[dict[str, Any]]:
    """A part's pins under ids of this plan."""
    own = []
    for pin in pins:
        identity = fresh_id(plan, f"{owner}-{pin['label']}", taken)
        taken.add(identity)
        own.append({**pin, "id": identity})
    return own


def _bec(plan: Plan, regulator: Regulator, part: Part, source: str) -> tuple[Edit, ...]:
    taken: set[str] = set()
    ids = {}
    for role in ("board", "rail", "reg"):
        ids[role] = fresh_id(plan, f"{part.key}-{role}", taken)
        taken.add(ids[role])
    ground = _ground(plan, ids["board"], plan.rail_of[source].board, taken, BOARD_WIRE)
    board = {"id": ids["board"], "name": part.name, "kind": "regulator", "returns": ground, "weight_g": part.weight_g}
    rail = {"id": ids["rail"], "name": part.name, "board": ids["board"], "nominal_v": regulator.set_v}
    made = regulator.model_copy(
        update={
            "id": ids["reg"],
            "name": part.name,
            "input": source,
            "output": ids["rail"],
            "board": ids["board"],
            "feed": BOARD_WIRE,
            "weight_g": 0.0,
        }
    )
    return (
        Add(kind="board", value=board),
        Add(kind="rail", value=rail),
        Add(kind="supply", value=made.model_dump(mode="json")),
    )


def _board(plan: Plan, template: BoardPart, part: Part, source: str) -> tuple[Edit, ...]:
    """The board with fresh ids throughout, a pack wire to its `pack-in` rail, and a ground to the feeding rail's board."""
    taken: set[str] = set()
    fresh: dict[str, str] = {}
    for one in (template.board, *template.rails, *template.supplies, *(p for r in template.rails for p in r.pads)):
        fresh[one.id] = fresh_id(plan, one.id if one.id != PACK_IN else f"{template.board.id}-pack", taken)
        taken.add(fresh[one.id])
    board = template.board.model_dump(mode="json")
    wire = MOTOR_WIRE if template.board.kind == "esc" else BOARD_WIRE
    ground = _ground(plan, fresh[template.board.id], plan.rail_of[source].board, taken, wire)
    board |= {"id": fresh[template.board.id], "returns": ground, "weight_g": part.weight_g}
    board["pins"] = _own_pins(plan, board["id"], board["pins"], taken)
    edits: list[Edit] = [Add(kind="board", value=board)]
    for rail in template.rails:
        value = rail.model_dump(mode="json")
        value |= {"id": fresh[rail.id], "board": fresh[rail.board]}
        value["pads"] = [{**pad, "id": fresh[pad["id"]]} for pad in value["pads"]]
        edits.append(Add(kind="rail", value=value))
    if PACK_IN in fresh:
        cable = Link(
            kind="link",
            id=fresh_id(plan, f"{fresh[template.board.id]}-cable", taken),
            name=f"{template.board.name} cable",
            input=source,
            output=fresh[PACK_IN],
            board=plan.rail_of[source].board,
            feed=wire,
        )
        edits.append(Add(kind="supply", value=cable.model_dump(mode="json")))
    for supply in template.supplies:
        value = supply.model_dump(mode="json")
        edits.append(Add(kind="supply", value={k: _renamed(v, fresh) for k, v in value.items()}))
    return tuple(edits)


def _renamed(value: Any, fresh: dict[str, str]) -> Any:
    if isinstance(value, str):
        return fresh.get(value, value)
    if isinstance(value, list):
        return [_renamed(one, fresh) for one in value]
    return value


def update_from_part(plan: Plan, part: Part) -> tuple[Edit, ...]:
    """Edits that bring the plan's devices of this part up to date; wiring, names and notes stay the plan's own."""
    if part.device is None:
        return ()
    wanted = part.device.model_dump(mode="json") | {"weight_g": part.weight_g}
    edits: list[Edit] = []
    for device in plan.devices:
        if device.part != part.key:
            continue
        have = device.model_dump(mode="json")
        for field, value in wanted.items():
            if field not in KEPT_IN_PLAN and have[field] != value:
                edits.append(SetValue(element=device.id, field=field, value=value))
    return tuple(edits)
