"""A small pack of its own for a device: from a pack of the shelf to the edits that put it beside the flight pack."""

from __future__ import annotations

from yardmeter.core.errors import EditError
from yardmeter.core.parts.part import Part
from yardmeter.core.plan import Device, Plan
from yardmeter.core.plan.boards import Board, Rail
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.operations import Add, Edit, Move
from yardmeter.core.plan.parts import Return, Wire
from yardmeter.core.plan.sources import Cells, Inlet

LEAD = Wire(gauge_awg=26, length_m=0.06)
"""Its leads and its ground to the craft; common practice, no source."""
OWN_CELL_G = 40.0
"""The heaviest that is thought of as carried for one device; our choice."""
CARRIED: frozenset[str] = frozenset(("camera", "recorder"))
"""Kinds of device that fly on a cell of their own, as builders do; common practice, no source."""


def may_be_its_own(part: Part) -> bool:
    """Whether a pack of the shelf is small enough to be carried for one device."""
    return part.pack is not None and part.weight_g <= OWN_CELL_G


def may_have_its_own(plan: Plan, device: Device) -> bool:
    """Whether builders give such a device a cell of its own."""
    return device.kind in CARRIED and not device.keeps_control and not any(s.input == device.id for s in plan.supplies)


def cells_of(part: Part) -> tuple[Cells, float, float]:
    """What it is made of, its resistance [Ω] and the current it is made for [A]. Raises EditError for what is no pack."""
    pack = part.pack
    if pack is None:
        raise EditError(f"{part.name} is no pack.", where=part.name, remedy="Choose a pack of the shelf.")
    cells = Cells(chemistry=pack.chemistry, series=pack.series, capacity_ah=pack.charge_ah)
    return cells, pack.internal_ohm, pack.limit_a


def place_cell(plan: Plan, part: Part, beside: str | None = None) -> tuple[Add, Add, Add]:
    """Edits that put it in: what it is soldered to, its rail, itself. Its ground is the craft's, at the board `beside`."""
    cells, ohm, limit_a = cells_of(part)
    taken: set[str] = set()
    ids = {}
    for role in ("board", "rail", "cell", "gnd"):
        ids[role] = fresh_id(plan, f"{part.key}-own-{role}", taken)
        taken.add(ids[role])
    name = _name(plan, part)
    to = beside or plan.rail_of[plan.pack.rail].board
    ground = Return(id=ids["gnd"], to=to, wire=LEAD)
    board = Board(id=ids["board"], name=name, kind="other", returns=(ground,), weight_g=part.weight_g)
    rail = Rail(id=ids["rail"], name=name, board=board.id)
    inlet = Inlet(
        id=ids["cell"], name=name, kind="cell", rail=rail.id, volts=cells.rest_v("nominal"), limit_a=limit_a,
        series_ohm=max(ohm, 1e-3), cells=cells,
    )  # fmt: skip
    return (
        Add(kind="board", value=board.model_dump(mode="json")), Add(kind="rail", value=rail.model_dump(mode="json")),
        Add(kind="inlet", value=inlet.model_dump(mode="json")),
    )  # fmt: skip


def own_cell(plan: Plan, device: Device, part: Part) -> tuple[Edit, ...]:
    """Edits that feed a device from a cell of its own; the cell's ground goes where the device's picture or data does."""
    adds = place_cell(plan, part, beside=listener(plan, device))
    return (*adds, Move(device=device.id, rail=str(adds[1].value["id"])))


def listener(plan: Plan, device: Device) -> str | None:
    """The board a device's signals end at, or the one it is grounded to."""
    for signal in plan.signals:
        ends = [plan.owner_of[one].id for one in (signal.source, signal.sink)]
        if device.id in ends:
            other = next((one for one in ends if one != device.id), None)
            if other in plan.board_of:
                return other
    return next((wire.to for wire in device.returns if wire.to in plan.board_of), None)


def _name(plan: Plan, part: Part) -> str:
    """“A cell of its own, 1S 0.3 Ah”, numbered where there is one."""
    taken = {one.name for one in plan.boards}
    name = f"Cell of its own, {part.name}"[:70]
    return next(one for k in range(len(taken) + 2) if (one := name if not k else f"{name} {k + 1}") not in taken)
