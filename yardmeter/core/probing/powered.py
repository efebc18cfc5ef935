"""Volts and amps of a build with power on, as ranges: set points and draws anywhere in their bands, and the meter's own error."""

from __future__ import annotations

from dataclasses import replace

from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.plan import Condition, Device, Draw, Plan, Regulator
from yardmeter.core.probing.meter import METER, Meter
from yardmeter.core.probing.passive import PassiveTable
from yardmeter.core.probing.points import Point
from yardmeter.core.probing.reading import Mode, Reading, read_powered

PACK_FRAC = 0.02
"""How far a pack's volts are from those of its state of charge; our choice."""
ENDS = ((-1.0, -1.0), (-1.0, 1.0), (1.0, -1.0), (1.0, 1.0))
"""Set points and draws, each at its least or its most."""
PORT_V = (4.75, 5.25)
"""What a USB host's port may give [V]. Source: USB 2.0, section 7.2.2, from memory."""


def corners(plan: Plan, condition: Condition) -> tuple[Solved, ...]:
    """One condition as planned, then with all set points and all draws at the ends of their bands; a USB port at both of its."""
    plain = plan.model_copy(update={"conditions": (condition,)})
    ports = [one for one in plan.inlets if one.kind == "usb" and one.id in condition.energy]
    ended = [_at_end(plain, *end) for end in ENDS]
    if ports:
        ended = [_from_port(one, volts) for one in ended for volts in PORT_V]
    return tuple(solve_conditions(one) for one in (plain, *ended))


def _from_port(plan: Plan, volts: float) -> Plan:
    inlets = (one.model_copy(update={"volts": volts}) if one.kind == "usb" else one for one in plan.inlets)
    return plan.model_copy(update={"inlets": tuple(inlets)})


def pack_range(solved: tuple[Solved, ...], condition: Condition) -> tuple[float, float, float] | None:
    """Amps of the pack, or of what stands in for it: least, as planned, most; None where nobody can say."""
    if not _stands(solved[0], condition):
        return None
    views = [one.given[condition.id] for one in solved if _stands(one, condition)]
    amps = [view.pack_a for view in views]
    return min(amps), amps[0], max(amps)


def _at_end(plan: Plan, volts: float, amps: float) -> Plan:
    supplies = tuple(
        s.model_copy(update={"set_v": s.set_v * (1 + volts * s.set_tol_frac)}) if isinstance(s, Regulator) else s
        for s in plan.supplies
    )
    devices = tuple(_drawing(plan, device, amps) for device in plan.devices)
    return plan.model_copy(update={"supplies": supplies, "devices": devices})


def _drawing(plan: Plan, device: Device, end: float) -> Device:
    def scaled(draw: Draw) -> Draw:
        band = draw.tol_frac if draw.tol_frac is not None else plan.policy.band_frac(draw.provenance)
        return draw.model_copy(update={"value": max(draw.value * (1 + end * band), 0.0)})

    draws = {state: scaled(draw) for state, draw in device.draws if draw is not None}
    return device.model_copy(update={"draws": device.draws.model_copy(update=draws)})


def read_range(
    solved: tuple[Solved, ...], condition: Condition, table: PassiveTable, red: Point, black: Point, mode: Mode,
    meter: Meter = METER, *, pack_frac: float = PACK_FRAC,
) -> Reading:  # fmt: skip
    """The reading as planned, its ends the furthest of all corners that can be solved; `pack_frac` is how far the pack's volts
    may be from those named. Raises as `read_powered` does."""
    usual = read_powered(solved[0], condition, table, red, black, mode, meter)
    ends = [read_powered(one, condition, table, red, black, mode, meter) for one in solved if _stands(one, condition)]
    low, high = min(one.low for one in ends), max(one.high or one.low for one in ends)
    if mode == "volts" and _on_the_pack(table, red) != _on_the_pack(table, black):
        spread = pack_frac * abs(usual.usual)
        low, high = low - spread, high + spread
    return replace(usual, low=low, high=high)


def _stands(solved: Solved, condition: Condition) -> bool:
    return solved.given[condition.id].converged


def _on_the_pack(table: PassiveTable, point: Point) -> bool:
    """Whether copper joins it to the pack's plus."""
    return table.copper_way(table.plug, point.node) is not None
