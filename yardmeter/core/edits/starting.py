"""A plan from nothing: how the pack reaches things, then boards, then devices, each from the shelf."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal, get_args

from yardmeter.core.edits.apply import apply_edits
from yardmeter.core.edits.gauging import fitted_wires
from yardmeter.core.edits.homes import homes, settled
from yardmeter.core.edits.placing import FIVE_V, PACK_RAIL, place_part, root_board
from yardmeter.core.errors import EditError
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.parts.part import PACK_IN
from yardmeter.core.plan import STANDARD_CONDITIONS, Board, Diode, Link, Plan, Rail, Wire, load_plan
from yardmeter.core.plan.conditions import UNFLOWN_CONDITIONS, WING_CONDITIONS
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.operations import Add, Edit, SetValue
from yardmeter.core.sizing.motors import motor_count, pack_side, split_motors

Topology = Literal["stack", "one-board", "power-board", "leads"]
TOPOLOGIES: tuple[Topology, ...] = get_args(Topology)
"""What the pack is soldered to: a four-way ESC that hands on by a harness, one board that is all, a power board, nothing
but the leads of what it feeds."""
HARNESS = Wire(gauge_awg=26, length_m=0.05, connector="harness", connector_ohm=0.01, connector_limit_a=3.0)
"""Between an ESC and the controller above it; common practice, no source."""
RED_WIRE = Wire(gauge_awg=26, length_m=0.12)
"""From an ESC's own BEC to the controller, in the lead of the signal; common practice, no source."""
SPLICE = {"id": "splice", "name": "Pack leads", "kind": "other"}
POWER_BOARD = {"id": "power-board", "name": "Power board", "kind": "power", "weight_g": 8}
PACK_WIRE = {"gauge_awg": 12, "length_m": 0.1}


def start_plan(
    name: str,
    pack: Part,
    boards: Sequence[Part],
    devices: Sequence[Part],
    topology: Topology = "power-board",
) -> Plan:
    """The plan with everything connected where its volts fit best, of where it can live; what fits nowhere goes on the pack.

    Raises EditError when the pack part is no pack, or no board is there that the topology hangs from.
    """
    if pack.pack is None:
        raise EditError(f"{pack.name} is not a pack.", where="pack", remedy="Choose a pack.")
    root = _root(topology, boards)
    plan = _rooted(name, pack, topology, root)
    others = list(boards)
    if root is not None:
        others.remove(root)
    for part in sorted(others, key=_order):
        plan = apply_edits(plan, _harnessed(plan, part) if topology == "stack" else place_part(plan, part))
    plan = apply_edits(plan, _red_wires(plan))
    plan = apply_edits(plan, _usb(plan))
    known = plan
    for part in devices:
        rail = homes(plan, part.device)[0] if part.device else None
        plan = apply_edits(plan, place_part(plan, part, rail))
    plan = _one_each(plan)
    plan = _conditioned(plan)
    plan = settled(plan, [d.id for d in plan.devices if d.id not in known.device_of])
    return apply_edits(plan, fitted_wires(plan))


def _root(topology: Topology, boards: Sequence[Part]) -> Part | None:
    """The board the pack is soldered to; None where the plan has a bare one for it."""
    wanted = {
        "stack": ("esc",),
        "one-board": ("controller", "other", "power", "esc"),
        "power-board": ("power",),
        "leads": (),
    }[topology]
    able = [p for p in boards if p.board and any(rail.id == PACK_IN for rail in p.board.rails)]
    found = min(
        (p for p in able if p.board and p.board.board.kind in wanted),
        key=lambda p: wanted.index(p.board.board.kind) if p.board else 0,
        default=None,
    )
    if found is None and topology in ("stack", "one-board"):
        what = "a four-way ESC" if topology == "stack" else "the board the pack is soldered to"
        raise EditError(f"This craft hangs from {what}, and none is chosen.", where="boards", remedy=f"Add {what}.")
    return found


def _rooted(name: str, pack: Part, topology: Topology, root: Part | None) -> Plan:
    pack_part = pack.pack.model_dump(mode="json") if pack.pack else {}
    bare: dict[str, Any] = {"name": name, "pack": {**pack_part, "name": pack.name, "rail": PACK_RAIL}}
    back = [{"id": "pack-negative", "to": "pack", "wire": PACK_WIRE}]
    alone = POWER_BOARD if topology == "power-board" and root is None else SPLICE
    empty = load_plan(
        {
            **bare,
            "boards": [{**alone, "returns": back}],
            "rails": [{"id": PACK_RAIL, "name": "Pack rail", "board": alone["id"]}],
        }
    )
    return load_plan({**bare, **root_board(empty, root)}) if root else empty


def _order(part: Part) -> int:
    """ESCs and regulators before what may be fed by them."""
    if part.board is None or part.board.board.kind in ("esc", "power"):
        return 0
    return 1 if any(rail.id == PACK_IN for rail in part.board.rails) else 2


def _harnessed(plan: Plan, part: Part) -> tuple[Edit, ...]:
    """In a stack the controller hangs on the ESC's harness: plus, ground and signals through one plug."""
    edits = place_part(plan, part)
    if part.board is None or part.board.board.kind != "controller":
        return edits
    harness = HARNESS.model_dump(mode="json")
    adds = [edit for edit in edits if isinstance(edit, Add)]
    board = next(Board.model_validate(edit.value) for edit in adds if edit.kind == "board")
    esc = plan.rail_of[PACK_RAIL].board
    wired: list[Edit] = [SetValue(element=w.id, field="wire", value=harness) for w in board.returns if w.to == esc]
    if not wired:  # fed from elsewhere, its signals still need their ground beside them
        ground = {"id": fresh_id(plan, f"{board.id}-harness-gnd"), "to": esc, "wire": harness}
        wired.append(Add(kind="return", owner=board.id, value=ground))
    for cable in (edit.value for edit in adds if edit.kind == "supply" and edit.value.get("feed")):
        if cable["board"] == esc:  # plus comes through the same plug, at the pack's volts or the ESC's own
            wired.append(SetValue(element=str(cable["id"]), field="feed", value=harness))
            wired.append(SetValue(element=str(cable["id"]), field="name", value="Harness"))
    return (*edits, *wired)


def _conditioned(plan: Plan) -> Plan:
    """The plan with the conditions its kind of craft meets: one or two motors are a wing's; what has neither motors nor what
    steers them does not fly."""
    motors = sum(motor_count(d) for d in plan.devices if d.kind == "motor")
    flies = motors > 0 or any(b.kind in ("controller", "esc") for b in plan.boards)
    kind = WING_CONDITIONS if motors in (1, 2) else STANDARD_CONDITIONS if flies else UNFLOWN_CONDITIONS
    ports = {inlet.id for inlet in plan.inlets}
    # On the pack first: a new plan opens there, where everything is on.
    order = sorted(kind, key=lambda one: "usb" in one.energy)
    met = [one.model_dump(mode="json") for one in order if "usb" not in one.energy or "usb" in ports]
    return load_plan({**plan.model_dump(mode="json"), "conditions": met})


def _red_wires(plan: Plan) -> list[Edit]:
    """The first single ESC with a BEC hands its 5 V on to a controller that nothing else feeds from the pack, in its signal lead;
    the red wires of the others are pulled, as BECs side by side share nothing and feed each other. Every ESC has a ground there."""
    controller = next((b for b in plan.boards if b.kind == "controller"), None)
    fives = [r for r in plan.rails if controller and r.board == controller.id and _is_five(r)]
    if controller is None or not fives:
        return []
    edits: list[Edit] = []
    taken: set[str] = set()
    wanted = fives[0].id not in graph_of(plan).rails_below([plan.pack.rail])
    for esc in (b for b in plan.boards if b.kind == "esc" and b.id != plan.rail_of[plan.pack.rail].board):
        rail = next((r for r in plan.rails if r.board == esc.id and _is_five(r)), None)
        if rail is not None and wanted:
            wanted = False
            name = fresh_id(plan, f"{esc.id}-red", taken)
            taken.add(name)
            red = Link(kind="link", id=name, name=f"{plan.title(esc.id)} red wire"[:80], input=rail.id, output=fives[0].id, board=esc.id, feed=RED_WIRE)  # fmt: skip
            edits.append(Add(kind="supply", value=red.model_dump(mode="json")))
        edits += _signal_ground(plan, esc, controller, taken)
    return edits


def _signal_ground(plan: Plan, esc: Board, controller: Board, taken: set[str]) -> list[Edit]:
    if any(controller.id == wire.to for wire in esc.returns):
        return []
    name = fresh_id(plan, f"{esc.id}-signal-gnd", taken)
    taken.add(name)
    wire = RED_WIRE.model_dump(mode="json") | {"lay": "twisted"}
    return [Add(kind="return", owner=esc.id, value={"id": name, "to": controller.id, "wire": wire})]


def _is_five(rail: Rail) -> bool:
    return rail.nominal_v is not None and FIVE_V[0] <= rail.nominal_v <= FIVE_V[1]


def _one_each(plan: Plan) -> Plan:
    """Motors of a group stand one at each single ESC."""
    escs = [b.id for b in plan.boards if b.kind == "esc" and pack_side(plan, b.id)]
    for device in [d for d in plan.devices if d.kind == "motor" and d.feed]:
        here = plan.rail_of[device.feed.rail].board if device.feed else ""
        others = [one for one in escs if one != here]
        if here in escs and others and motor_count(device) > 1:
            plan = apply_edits(plan, list(split_motors(plan, device, others[: motor_count(device) - 1])))
    return plan


def _usb(plan: Plan) -> list[Edit]:
    """A USB port behind a diode on the first controller's 5 V rail, with the condition that uses it."""
    for rail in plan.rails:
        if plan.board_of[rail.board].kind == "controller" and _is_five(rail):
            port = {"id": "rail-usb", "name": "USB 5 V", "board": rail.board, "nominal_v": 5}
            diode = Diode(
                kind="diode",
                id="usb-diode",
                name="USB diode",
                input="rail-usb",
                output=rail.id,
                board=rail.board,
                drop_v=0.3,
            )
            inlet = {"id": "usb", "name": "USB port", "kind": "usb", "rail": "rail-usb"}
            bench = next(c for c in STANDARD_CONDITIONS if "usb" in c.energy)
            return [
                Add(kind="rail", value=port),
                Add(kind="supply", value=diode.model_dump(mode="json")),
                Add(kind="inlet", value=inlet),
                Add(kind="condition", value=bench.model_dump(mode="json")),
            ]
    return []
