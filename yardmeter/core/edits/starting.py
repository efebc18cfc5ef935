"""A plan from nothing: pack, boards, devices, each from the shelf."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.edits.apply import apply_edits
from yardmeter.core.edits.placing import place_part
from yardmeter.core.errors import EditError
from yardmeter.core.parts import Part
from yardmeter.core.plan import STANDARD_CONDITIONS, Device, Diode, Plan, Rail, load_plan
from yardmeter.core.plan.operations import Add, Edit

FIVE_V = (4.75, 5.25)
"""Rails a USB port may hold up [V]; USB 2.0 host window, from memory."""


def start_plan(name: str, pack: Part, boards: Sequence[Part], devices: Sequence[Part]) -> Plan:
    """The plan with everything connected where its volts fit best; what fits nowhere goes on the pack and is found there.

    Raises EditError when the pack part is no pack.
    """
    if pack.pack is None:
        raise EditError(f"{pack.name} is not a pack.", where="pack", remedy="Choose a pack.")
    plan = load_plan(
        {
            "name": name,
            "pack": {**pack.pack.model_dump(mode="json"), "name": pack.name, "rail": "pack-rail"},
            "boards": [
                {
                    "id": "power-board",
                    "name": "Power board",
                    "kind": "power",
                    "weight_g": 8,
                    "returns": [{"id": "pack-negative", "to": "pack", "wire": {"gauge_awg": 12, "length_m": 0.1}}],
                }
            ],
            "rails": [{"id": "pack-rail", "name": "Pack rail", "board": "power-board"}],
        }
    )
    for part in boards:
        plan = apply_edits(plan, place_part(plan, part))
    plan = apply_edits(plan, _usb(plan))
    for part in devices:
        rail = best_rail(plan, part.device) if part.device else plan.pack.rail
        plan = apply_edits(plan, place_part(plan, part, rail))
    return plan


def best_rail(plan: Plan, device: Device) -> str:
    """The rail whose volts are inside the device's window and nearest its nominal ones; the pack's when none is."""
    full, floor = plan.pack.rest_v("full"), plan.pack.rest_v("floor")

    def fits(rail: Rail) -> bool:
        low, high = (rail.nominal_v, rail.nominal_v) if rail.nominal_v else (floor, full)
        return low >= device.min_v and high <= device.max_v

    if device.kind == "motor":
        esc = [r for r in plan.rails if r.nominal_v is None and plan.board_of[r.board].kind == "esc"]
        return esc[0].id if esc else plan.pack.rail
    regulated = [rail for rail in plan.rails if rail.nominal_v and fits(rail) and not _is_port(plan, rail)]
    if regulated:
        return min(regulated, key=lambda rail: abs((rail.nominal_v or 0) - device.nominal_v)).id
    return plan.pack.rail


def _is_port(plan: Plan, rail: Rail) -> bool:
    return any(inlet.rail == rail.id for inlet in plan.inlets)


def _usb(plan: Plan) -> list[Edit]:
    """A USB port behind a diode on the first controller's 5 V rail, with the condition that uses it."""
    for rail in plan.rails:
        if (
            plan.board_of[rail.board].kind == "controller"
            and rail.nominal_v
            and FIVE_V[0] <= rail.nominal_v <= FIVE_V[1]
        ):
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
