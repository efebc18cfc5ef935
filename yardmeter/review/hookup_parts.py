"""What is fitted, beside the wires: boards, capacitors, coils, clamps, resistors, diodes, straps; where each goes, and which way round."""

from __future__ import annotations

import math
from collections.abc import Iterator

from yardmeter.core.answers.limits import wire_weight
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.physics.pack import Chemistry
from yardmeter.core.plan import (
    Board,
    CapacitorFilter,
    Clamp,
    Device,
    Diode,
    FerriteFilter,
    Filter,
    Inlet,
    LcFilter,
    Link,
    Plan,
    Regulator,
    Strap,
)
from yardmeter.core.plan.sources import Cells
from yardmeter.core.procedures.looks import POLARISED, has_resistor, is_loose, joins_boards
from yardmeter.core.units import format_si
from yardmeter.review.landings import landing, on_its_esc, own_output

RESISTOR_W = (0.125, 0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0)
"""What resistors are made for; common practice, no source."""
CHEMISTRY_WORDS: dict[Chemistry, str] = {"lipo": "LiPo", "lihv": "LiHV", "liion": "Li-ion"}
RESISTOR_TIMES = 2.0
"""A resistor is run at half its rating; common practice, no source."""


class HookupPart(Answer):
    """Something that is fitted. `after` is the row it is soldered with; None is before any wire."""

    id: str
    element: str
    name: str
    what: str
    """What it is, with its values."""
    where: str
    how: str
    """Which way round, in which lead, how close."""
    weight_g: float
    after: str | None
    warning: str = ""


def parts_of(case: SolvedPlan) -> tuple[HookupPart, ...]:
    """Every thing of a plan that is no wire, once."""
    plan = case.plan
    return (
        *(_board(plan, one) for one in plan.boards if own_regulator(plan, one.id) is None),
        *(part for one in plan.devices for part in _device(case, one)),
        *(part for one in plan.supplies if (part := _supply(plan, one))),
        *(_filter(plan, one) for one in plan.filters if one.fitted),
        *(_clamp(plan, one) for one in plan.clamps if one.fitted),
        *(_inlet(one) for one in plan.inlets if one.in_line),
    )


def own_regulator(plan: Plan, board: str) -> Regulator | None:
    """The regulator that a board is: the two are one thing, and stand in the list once."""
    here = [one for one in plan.supplies if one.board == board]
    alone = here[0] if len(here) == 1 else None
    return (
        alone
        if isinstance(alone, Regulator) and alone.place == "alone" and plan.board_of[board].kind == "regulator"
        else None
    )


def own_cells(plan: Plan, board: str) -> Cells | None:
    """What a board is made of that stands for a cell of its own."""
    return next((one.cells for one in plan.inlets if one.cells and plan.rail_of[one.rail].board == board), None)


def cells_words(cells: Cells) -> str:
    """“1S LiPo, 300 mAh”."""
    return f"{cells.series}S {CHEMISTRY_WORDS[cells.chemistry]}, {format_si(cells.capacity_ah, 'Ah')}"


def _of_board(plan: Plan, board: str) -> str:
    """The row of the thing a board is."""
    own = own_regulator(plan, board)
    return f"regulator:{own.id}" if own else f"board:{board}"


def _board(plan: Plan, one: Board) -> HookupPart:
    cells = own_cells(plan, one.id)
    how = one.fitting or (
        "where it can be changed; plugged with the pack, charged outside" if cells else "over nothing that conducts"
    )
    warning = "its pin-out is unverified: compare it with its print or a meter first" if one.pins and one.pinout == "unverified" else ""  # fmt: skip
    return HookupPart(
        id=f"board:{one.id}", element=one.id, name=one.name, what=cells_words(cells) if cells else one.revision,
        where="in the craft", how=how, weight_g=one.weight_g, after=None, warning=warning,
    )  # fmt: skip


def _device(case: SolvedPlan, one: Device) -> Iterator[HookupPart]:
    plan = case.plan
    if one.kind == "motor" and on_its_esc(plan, one) and one.feed:
        wire = one.feed.wire
        size = "as they come" if wire.joined else f"{wire.gauge_awg} AWG, {wire.length_m * 1e3:.0f} mm"
        hot = [c.name for c in plan.conditions if not wire.joined and wire_weight(plan, wire, c, case.device(one.id).states[c.id].given_a)]  # fmt: skip
        yield HookupPart(
            id=f"phases:{one.id}", element=one.id, name=f"{one.name}, phases", what=f"the wires of each motor, {size}",
            where=f"{plan.title(plan.rail_of[one.feed.rail].board)} motor pads",
            how="any order; two changed over turn it the other way", weight_g=0.0, warning=f"too hot in {hot[0]}" if hot else "", after=_of_board(plan, plan.rail_of[one.feed.rail].board),
        )  # fmt: skip
    elif one.feed is None:
        yield HookupPart(
            id=f"unfed:{one.id}", element=one.id, name=one.name, what="", where="nowhere yet", how="it has no plus wire: feed it first",
            weight_g=0.0, after=None, warning="fed from nothing",
        )  # fmt: skip
    if has_resistor(one):
        yield _resistor(case, one)


def _resistor(case: SolvedPlan, one: Device) -> HookupPart:
    """Of a string of LEDs: its ohms, and watts twice what it ever burns."""
    led = one.led
    strings, ohm = (led.strings, led.resistor_ohm) if led else (1, 0.0)
    most_a = max((state.given_a for state in case.device(one.id).states.values()), default=0.0) / strings
    burns_w = most_a**2 * ohm
    watts = next(
        (one for one in RESISTOR_W if one >= RESISTOR_TIMES * burns_w), math.ceil(RESISTOR_TIMES * burns_w / 10) * 10
    )
    each = f"one for each of {strings} strings" if strings > 1 else "one"
    return HookupPart(
        id=f"resistor:{one.id}", element=one.id, name=f"{one.name}, resistor", what=f"{format_si(ohm, 'Ω')} for {watts:g} W or more, {each}",
        where=f"in the plus lead of {one.name}", how="either way round; away from foam and tape, it gets warm", weight_g=0.0,
        after=f"feed:{one.id}",
    )  # fmt: skip


def _supply(plan: Plan, one: object) -> HookupPart | None:
    """Regulators that are boards of their own stand under their board; wires and cables are wires."""
    match one:
        case Diode() if is_loose(plan, one):
            return HookupPart(
                id=f"diode:{one.id}", element=one.id, name=one.name, what=f"{one.rating_a:g} A, drops {format_si(one.drop_v, 'V')}",
                where=f"between {_title(plan, one.input)} and {_title(plan, one.output)}",
                how=f"its band towards {_title(plan, one.output)}", weight_g=one.weight_g, after=f"feed:{one.id}",
            )  # fmt: skip
        case Strap():
            chosen = " and ".join(_title(plan, name) for name in one.selected)
            return HookupPart(
                id=f"strap:{one.id}", element=one.id, name=one.name, what=f"bridges {chosen}" if chosen else "left open",
                where=plan.title(one.board), how="a drop of solder on the chosen one, the others clean" if chosen else "all clean",
                weight_g=one.weight_g, after=f"board:{one.board}",
            )  # fmt: skip
        case Link() if one.feed is None and joins_boards(plan, one):
            return HookupPart(
                id=f"plug:{one.id}", element=one.id, name=one.name, what="plugged together, no wire",
                where=f"{_title(plan, one.input)} and {_title(plan, one.output)}", how="until it clicks; look that no pin is bent",
                weight_g=one.weight_g, after=None,
            )  # fmt: skip
        case Regulator() if one.place == "alone":
            volts = f"set to {format_si(one.set_v, 'V')}" if one.can_be_set else f"{format_si(one.set_v, 'V')}, fixed"
            how = "set and measure its volts before anything hangs on it" if one.can_be_set else "measure its volts before anything hangs on it"  # fmt: skip
            own = own_regulator(plan, one.board) if one.board in plan.board_of else None
            after = f"feed:{one.id}" if one.feed else None if own else f"board:{one.board}"
            return HookupPart(
                id=f"regulator:{one.id}", element=one.id, name=one.name, what=f"{volts}, {one.rating_a:g} A on its print",
                where="in the craft" if own else plan.title(one.board), how=how, weight_g=one.weight_g + (plan.board_of[one.board].weight_g if own else 0.0), after=after,
            )  # fmt: skip
    return None


def _title(plan: Plan, name: str) -> str:
    if name not in plan.rail_of:
        return plan.title(name)
    device = own_output(plan, name)
    board = plan.device_of[device].name if device else plan.title(plan.rail_of[name].board)
    return f"{board} {landing(plan, name)}"


def _filter(plan: Plan, one: Filter) -> HookupPart:
    where, lead, after = _at(plan, one.at)
    match one:
        case FerriteFilter():
            what, how = (
                f"bead of {format_si(one.ohm_100mhz, 'Ω')} at 100 MHz",
                f"in {lead}, close to what it keeps quiet",
            )
        case LcFilter():
            coil = f"coil of {format_si(one.henry, 'H')} that stands {format_si(one.saturation_a, 'A')}"
            what = f"{coil}, and behind it {_values(one)}"
            how = f"coil in {lead}; the capacitor on its far side, from plus to ground{_stripe(one)}"
        case CapacitorFilter():
            what = _values(one)
            how = f"from plus to ground{_stripe(one)}; legs {one.lead_m * 1e3:.0f} mm, no longer"
    return HookupPart(
        id=f"filter:{one.id}", element=one.id, name=one.name, what=what, where=where, how=how, weight_g=one.weight_g * one.count, after=after
    )  # fmt: skip


def _values(one: CapacitorFilter | LcFilter) -> str:
    count = f"{one.count} × " if one.count > 1 else ""
    damping = ""
    if one.damping_ohm is not None and one.damping_farad > 0:
        damping = f", beside it {format_si(one.damping_ohm, 'Ω')} in line with {format_si(one.damping_farad, 'F')}"
    return f"{count}{format_si(one.farad, 'F')} {one.rated_v:g} V {one.dielectric}{damping}"


def _stripe(one: CapacitorFilter | LcFilter) -> str:
    if one.dielectric == "tantalum":
        return ", its bar on plus"
    return ", its stripe on ground" if one.dielectric in POLARISED else ""


def _at(plan: Plan, at: str) -> tuple[str, str, str | None]:
    """Where something at a rail, a device or a regulator's input is, its lead, and the row it is soldered with."""
    if at in plan.rail_of:
        return (
            f"{_title(plan, at)} and GND beside it",
            f"the wire to {_title(plan, at)}",
            _of_board(plan, plan.rail_of[at].board),
        )
    if at in plan.device_of:
        device = plan.device_of[at]
        after = (
            f"phases:{at}"
            if device.kind == "motor" and on_its_esc(plan, device)
            else f"feed:{at}"
            if device.feed
            else f"unfed:{at}"
        )
        return (
            f"{device.name}, at its plus and ground",
            f"the plus lead of {device.name}",
            after if device.kind != "logic" else None,
        )
    supply = plan.supply_of[at]
    return (
        f"{supply.name}, at its input",
        f"the plus lead into {supply.name}",
        f"feed:{at}" if supply.feed else f"board:{supply.board}",
    )


def _clamp(plan: Plan, one: Clamp) -> HookupPart:
    where, _, after = _at(plan, one.at)
    return HookupPart(
        id=f"clamp:{one.id}", element=one.id, name=one.name,
        what=f"suppressor, stands off {one.standoff_v:g} V, breaks down at {one.breakdown_v:g} V", where=where,
        how="its band on plus; legs as short as they go", weight_g=one.weight_g, after=after,
    )  # fmt: skip


def _inlet(one: Inlet) -> HookupPart:
    what = f"lamp of {one.volts:g} V, {one.limit_a:g} A" if one.kind == "lamp" else f"limiter of {one.limit_a:g} A"
    return HookupPart(
        id=f"inlet:{one.id}", element=one.id, name=one.name, what=what, where="between pack and lead, for the first power alone",
        how="in the plus of the plug; out again before it flies", weight_g=0.0, after="lead",
    )  # fmt: skip
