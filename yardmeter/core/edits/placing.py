"""From a shelf part to the edits that put it into a plan."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from yardmeter.core.errors import EditError
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.parts.part import FIVE_IN, PACK_IN, BoardPart
from yardmeter.core.plan import Device, Link, Plan, Regulator, Wire
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.operations import Add, Edit, SetValue

BOARD_WIRE = Wire(gauge_awg=22, length_m=0.06)
MOTOR_WIRE = Wire(gauge_awg=12, length_m=0.05)
"""Wires a part comes with until the builder says otherwise; common practice, no source."""
TRACE = Wire(gauge_awg=28, length_m=0.01)
"""Copper on a board between its rail and its own logic; our estimate."""
PACK_RAIL = "pack-rail"
FIVE_V = (4.7, 5.4)
"""What is sold as 5 V [V]; USB 2.0 host window and some more, from memory."""
LOGIC_V = (3.0, 5.5)
DIRECT_V = 4.0
"""Below this a board's logic hangs on the rail itself, above it has a small linear regulator of its own; common practice, no source."""
KEPT_IN_PLAN = ("id", "name", "feed", "returns", "pins", "compass", "keeps_control", "part", "note", "way", "fitting")
"""What a device keeps of its own when its part has changed."""


def place_part(
    plan: Plan, part: Part, rail_id: str | None = None, *, into: str | None = None, through: Part | None = None
) -> tuple[Edit, ...]:
    """Edits that add the part, fed from `rail_id` (the pack's rail when left out).

    A regulator or diode feeds a rail of its own, or the rail `into` beside what feeds that already, `through` a diode where
    one is given. Raises EditError for what has no place.
    """
    rail = rail_id or plan.pack.rail
    for one in (rail, into or rail):
        if one not in plan.rail_of:
            raise EditError(f"“{one}” is no rail of this plan.", where=one, remedy="Choose one of its rails.")
    if into and not (part.bec or part.diode):
        raise EditError(
            f"A {part.kind} gives no volts to a rail.", where=part.name, remedy="Choose a regulator or a diode."
        )
    if part.device:
        device = _device(plan, part.device, part, rail)
        return (device, *_outputs(plan, part, str(device.value["id"]), plan.rail_of[rail].board))
    if part.bec and into and through:
        return _through(plan, part, part.bec, through, rail, into)
    if part.bec:
        return _bec(plan, part.bec, part, rail, into)
    if part.diode:
        return _diode(plan, part, rail, into)
    if part.clamp:
        fields = part.clamp.model_dump() | {"at": rail, "part": part.key, "weight_g": part.weight_g}
        name = f"{part.name} at {plan.rail_of[rail].name}"[:80]
        return (Add(kind="clamp", value={"id": fresh_id(plan, part.key), "name": name, **fields}),)
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
        "name": _fresh_name(plan, device.name),
        "part": part.key,
        "weight_g": part.weight_g,
        "feed": {"rail": rail, "pad": None, "wire": wire},
    }
    taken = {name}
    value["returns"] = _ground(plan, name, ground, taken, MOTOR_WIRE if device.kind == "motor" else Wire())
    value["pins"] = _own_pins(plan, name, value["pins"], taken)
    return Add(kind="device", value=value)


def _outputs(plan: Plan, part: Part, device: str, board: str) -> list[Edit]:
    """The regulated outputs of a device, each a rail of its own at the board it is grounded to."""
    edits: list[Edit] = []
    taken: set[str] = {device}
    for output in part.outputs:
        rail, name = fresh_id(plan, f"{device}-out", taken), fresh_id(plan, f"{device}-reg", taken)
        taken |= {rail, name}
        title = f"{part.device.kind.capitalize() if part.device else part.name} {output.set_v:g} V out"
        edits.append(
            Add(kind="rail", value={"id": rail, "name": title[:80], "board": board, "nominal_v": output.set_v})
        )
        made = output.model_dump(mode="json") | {"id": name, "input": device, "output": rail, "board": device}
        edits.append(Add(kind="supply", value=made | {"name": title[:80]}))
    return edits


def _fresh_name(plan: Plan, name: str) -> str:
    """The name, numbered where another board or device has it."""
    taken = {board.name for board in plan.boards} | {device.name for device in plan.devices}
    number = next(
        k for k in range(1, len(taken) + 2) if (k == 1 and name not in taken) or (k > 1 and f"{name} {k}" not in taken)
    )
    return name if number == 1 else f"{name[:74]} {number}"


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


def _through(plan: Plan, part: Part, bec: Regulator, diode: Part, source: str, into: str) -> tuple[Edit, ...]:
    """A regulator on a rail of its own, and a diode from there: what feeds `into` already cannot feed it back."""
    board, rail, supply = _bec(plan, bec, part, source)
    if diode.diode is None:
        raise EditError(f"{diode.name} is no diode.", where=diode.name, remedy="Choose a diode to feed it through.")
    value = rail.value
    fields = diode.diode.model_dump() | {"kind": "diode", "name": diode.name, "weight_g": diode.weight_g}
    ends = {"input": value["id"], "output": into, "board": value["board"], "lead": BOARD_WIRE.model_dump(mode="json")}
    taken = {str(one.value["id"]) for one in (board, rail, supply)}
    return board, rail, supply, Add(kind="supply", value={"id": fresh_id(plan, diode.key, taken), **fields, **ends})


def _diode(plan: Plan, part: Part, source: str, into: str | None) -> tuple[Edit, ...]:
    """In the plus lead behind a rail: to a rail of its own on the same board, or into one that is there."""
    feeding = plan.rail_of[source]
    edits: list[Edit] = []
    output = into
    if output is None:
        output = fresh_id(plan, f"{source}-behind-{part.key}")
        name = f"{feeding.name} behind the diode"[:80]
        value = {"id": output, "name": name, "board": feeding.board, "nominal_v": feeding.nominal_v}
        edits.append(Add(kind="rail", value=value))
    fields = part.diode.model_dump() if part.diode else {}
    ends = {"input": source, "output": output, "board": feeding.board, "weight_g": part.weight_g}
    named = {"id": fresh_id(plan, part.key, {output}), "name": part.name, "kind": "diode"}
    edits.append(Add(kind="supply", value={**named, **fields, **ends}))
    return tuple(edits)


def _bec(plan: Plan, regulator: Regulator, part: Part, source: str, into: str | None = None) -> tuple[Add, ...]:
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
            "output": into or ids["rail"],
            "board": ids["board"],
            "feed": BOARD_WIRE,
            "lead": BOARD_WIRE if into else None,
            "weight_g": 0.0,
        }
    )
    own = () if into else (Add(kind="rail", value=rail),)
    return (Add(kind="board", value=board), *own, Add(kind="supply", value=made.model_dump(mode="json")))


def _board(plan: Plan, template: BoardPart, part: Part, source: str) -> tuple[Edit, ...]:
    """The board with fresh ids, a wire to the rail that takes one, and a ground to the feeding rail's board."""
    inlet = next((rail.id for rail in template.rails if rail.id in (PACK_IN, FIVE_IN)), None)
    if inlet == FIVE_IN:
        source = five_volts(plan) or source
    taken: set[str] = set()
    fresh = _fresh(plan, template, taken)
    wire = MOTOR_WIRE if template.board.kind == "esc" else BOARD_WIRE
    made = _made(plan, part, template, fresh, taken)
    made.board["returns"] = _ground(plan, made.board["id"], plan.rail_of[source].board, taken, wire)
    edits: list[Edit] = [Add(kind="board", value=made.board)]
    edits += [Add(kind="rail", value=value) for value in made.rails]
    # A board that takes 5 V is wired to 5 V or not at all: the pack's volts would be no default but a mistake.
    if inlet == PACK_IN or (inlet and plan.rail_of[source].nominal_v):
        cable = Link(
            kind="link",
            id=fresh_id(plan, f"{made.board['id']}-cable", taken),
            name=f"{made.board['name']} cable",
            input=source,
            output=fresh[inlet],
            board=plan.rail_of[source].board,
            feed=wire,
        )
        edits.append(Add(kind="supply", value=cable.model_dump(mode="json")))
    edits += [Add(kind="supply", value=value) for value in made.supplies]
    edits += [Add(kind="device", value=value) for value in made.logic]
    return tuple(edits)


def root_board(plan: Plan, part: Part) -> dict[str, list[dict[str, Any]]]:
    """Elements of a plan document for a board that the pack is soldered to: its `pack-in` is the pack's rail.

    `plan` is any plan: it lends the ids. Raises EditError for what takes no pack.
    """
    template = part.board
    if template is None or all(rail.id != PACK_IN for rail in template.rails):
        raise EditError(
            f"{part.name} has no pads for a pack.", where=part.name, remedy="Choose a board that takes the pack."
        )
    taken: set[str] = set()
    made = _made(plan, part, template, {**_fresh(plan, template, taken), PACK_IN: PACK_RAIL}, taken)
    lead = MOTOR_WIRE.model_copy(update={"length_m": 0.1}).model_dump(mode="json")
    made.board["returns"] = [{"id": "pack-negative", "to": "pack", "wire": lead}]
    return {"boards": [made.board], "rails": made.rails, "supplies": made.supplies, "devices": made.logic}


@dataclass(frozen=True)
class _Made:
    """A board part as plain data of plan elements, under ids of a plan."""

    board: dict[str, Any]
    rails: list[dict[str, Any]]
    supplies: list[dict[str, Any]]
    logic: list[dict[str, Any]]


def _fresh(plan: Plan, template: BoardPart, taken: set[str]) -> dict[str, str]:
    fresh: dict[str, str] = {}
    for one in (template.board, *template.rails, *template.supplies, *(p for r in template.rails for p in r.pads)):
        name = f"{template.board.id}-{one.id}" if one.id in (PACK_IN, FIVE_IN) else one.id
        name = template.board.name if one is template.board else name
        fresh[one.id] = fresh_id(plan, name, taken)
        taken.add(fresh[one.id])
    return fresh


def _made(plan: Plan, part: Part, template: BoardPart, fresh: dict[str, str], taken: set[str]) -> _Made:
    board = template.board.model_dump(mode="json")
    board |= {"id": fresh[template.board.id], "name": _fresh_name(plan, template.board.name), "weight_g": part.weight_g}
    board["pins"] = _own_pins(plan, board["id"], board["pins"], taken)
    rails, supplies = [], []
    for rail in template.rails:
        value = rail.model_dump(mode="json") | {"id": fresh[rail.id], "board": board["id"]}
        value["pads"] = [{**pad, "id": fresh[pad["id"]]} for pad in value["pads"]]
        rails.append(value)
    for supply in template.supplies:
        value = supply.model_dump(mode="json")
        supplies.append({k: _renamed(v, fresh) for k, v in value.items()})
    return _Made(board, rails, supplies, _logic(plan, template, fresh, taken))


def _logic(plan: Plan, template: BoardPart, fresh: dict[str, str], taken: set[str]) -> list[dict[str, Any]]:
    """What the board itself draws, on the lowest of its rails that logic can run from."""
    rails = [rail for rail in template.rails if rail.nominal_v and LOGIC_V[0] <= rail.nominal_v <= LOGIC_V[1]]
    if template.own_a <= 0 or not rails:
        return []
    rail = min(rails, key=lambda one: one.nominal_v or 0.0)
    name = fresh_id(plan, f"{template.board.name}-logic", taken)
    taken.add(name)
    board = fresh[template.board.id]
    direct = (rail.nominal_v or 0.0) < DIRECT_V
    window = (
        {"min_v": 3.0, "max_v": 3.6, "brownout_v": 2.75} if direct else {"min_v": 4.0, "max_v": 5.5, "brownout_v": 3.7}
    )
    draws = {
        state: {"value": round(template.own_a * part, 4), "provenance": "reported"}
        for state, part in (("idle", 0.8), ("typical", 1.0), ("peak", 1.3))
    }
    return [
        {
            "id": name,
            "name": f"{_fresh_name(plan, template.board.name)} logic",
            "kind": "logic",
            "nominal_v": rail.nominal_v,
            **window,
            "draws": draws,
            "keeps_control": template.board.kind == "controller",
            "feed": {"rail": fresh[rail.id], "wire": TRACE.model_dump(mode="json")},
            "returns": _ground(plan, name, board, taken, TRACE),
        }
    ]


def five_volts(plan: Plan) -> str | None:
    """A rail that gives 5 V from the pack, controllers' and stand-alone regulators' before ESCs'."""
    ports = {inlet.rail for inlet in plan.inlets}
    fed = graph_of(plan).rails_below([plan.pack.rail])
    rails = [r for r in plan.rails if r.nominal_v and FIVE_V[0] <= r.nominal_v <= FIVE_V[1] and r.id in fed - ports]
    return min(rails, key=lambda r: plan.board_of[r.board].kind == "esc").id if rails else None


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
