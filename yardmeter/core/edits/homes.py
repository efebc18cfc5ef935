"""Where a new device is put: the rail its volts suit best, of those on which it can live."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.edits.apply import apply_edits
from yardmeter.core.edits.gauging import fitted_wires
from yardmeter.core.edits.placing import place_part
from yardmeter.core.fitness import Fitness, fitness, fitness_at, judge
from yardmeter.core.graph import graph_of
from yardmeter.core.parts import Part
from yardmeter.core.plan import Device, Plan, Rail, fed_from
from yardmeter.core.plan.operations import Edit

TRIED = 8
"""How many rails are tried for one device."""
ROUNDS = 3
"""How often all devices of a new build are looked at again once one has moved."""
STEP_V = 0.4
"""Volts by which two rails are of one kind, as 5.0 and 5.2 are; our choice."""
MOST_TRIED = 40
"""How many are tried for all devices of a new build together, a reading each: the sketch is drawn while parts are chosen."""


def homes(plan: Plan, device: Device) -> list[str]:
    """The rails whose own volts are inside the device's window, nearest to its nominal ones first; the pack's when none is."""
    if device.kind == "motor":
        esc = [r.id for r in plan.rails if r.nominal_v is None and plan.board_of[r.board].kind == "esc"]
        return esc[:1] or [plan.pack.rail]
    return home_rails(plan, device)[:TRIED] or [plan.pack.rail]


def home_rails(plan: Plan, device: Device) -> list[str]:
    """The rails whose own volts are inside the device's window, nearest to its nominal ones first.

    What is fed at the pack's volts comes last, but for a single cell, which is itself what small parts are made for.
    """
    full, floor = plan.pack.rest_v("full"), plan.pack.rest_v("floor")
    one_cell = plan.pack.series == 1
    handed = {s.output for s in plan.supplies if s.input in plan.device_of}  # a device's own output is for what it says
    ports = {inlet.rail for inlet in plan.inlets}

    def order(rail: Rail) -> tuple[bool, int, bool, bool, bool]:
        return rail.nominal_v is None and not one_cell, *_distance(plan, device, rail)

    fitting = [
        rail
        for rail in plan.rails
        if (rail.nominal_v or rail.id == plan.pack.rail)
        and device.lives_between(rail.nominal_v or floor, rail.nominal_v or full)
        and rail.id not in ports | handed
    ]
    return [rail.id for rail in sorted(fitting, key=order)]


def place_at_home(plan: Plan, part: Part) -> tuple[Edit, ...]:
    """Edits that put a part into a plan, its wires cut to the craft's size and gauged; a device on the first of its homes on
    which it can live, else on the first."""
    edits = _placed(plan, part)
    return (*edits, *fitted_wires(apply_edits(plan, edits), plan)) if part.device or part.board else edits


def _placed(plan: Plan, part: Part) -> tuple[Edit, ...]:
    if part.device is None:
        return place_part(plan, part)
    first, *others = homes(plan, part.device)
    edits = place_part(plan, part, first)
    if not others:
        return edits
    made = apply_edits(plan, edits)
    device = next(d.id for d in made.devices if d.id not in plan.device_of)
    better = _better(fitness(made, device), others)
    return place_part(plan, part, better[0]) if better else edits


def settled(plan: Plan, devices: Sequence[str]) -> Plan:
    """The plan with devices that cannot live where they are moved to another of their homes, where they can.

    The biggest go first, as the fewest moves are enough then; what keeps control stays while anything else can go. Where one has
    left, another may come: all are looked at again.
    """
    for _ in range(ROUNDS):
        after = _settled_once(plan, devices)
        if after is plan:
            break
        plan = after
    return plan


def _settled_once(plan: Plan, devices: Sequence[str]) -> Plan:
    own = [plan.device_of[name] for name in devices]
    at = fitness(plan, devices[0]).at if devices else None
    refused: set[tuple[str, str]] = set()
    for device in sorted(own, key=lambda one: (one.keeps_control, -one.draws.peak.watts_at(one.nominal_v))):
        here = judge(at, device.id) if at else None
        if here is None or here.fits or device.feed is None:
            continue
        like = device.part or device.id  # a rail that refused a part takes no other one like it
        others = [r for r in homes(plan, device) if r != device.feed.rail and (like, r) not in refused]
        others = others[: max(MOST_TRIED - len(refused), 0)]
        better = _better(here, others)
        refusing = others
        if better:
            refusing = others[: others.index(better[0])]
            plan, at = fed_from(plan, device.id, better[0]), better[1].at
        refused |= {(like, rail) for rail in refusing}
    return plan


def _better(here: Fitness, others: Sequence[str]) -> tuple[str, Fitness] | None:
    """The first other rail on which a device that cannot live here can; what hangs from a rail that is short here is tried last."""
    if here.fits:
        return None
    short = {one.elements[0] for one in here.verdicts if one.code == "fit.amps" and one.severity == "fault"}
    graph = graph_of(here.at.plan)
    for rail in sorted(others, key=lambda one: not short.isdisjoint(graph.climb(one))):
        there = fitness_at(here.at.plan, here.device, rail)
        if there.fits:
            return rail, there
    return None


def _distance(plan: Plan, device: Device, rail: Rail) -> tuple[int, bool, bool, bool]:
    """Volts from what it likes best, in steps that matter to nobody; of equal ones servos keep off rails that logic runs from, the
    rest off the ESCs; a regulator of its own was chosen for what is fed here, and comes before what boards have anyway; a servo's plug goes where
    its signal is."""
    volts = rail.nominal_v or plan.pack.rest_v("nominal")
    handed_on = any(s.input == rail.id for s in plan.supplies) or any(
        d.kind == "logic" for d in plan.devices_on(rail.id)
    )
    board = plan.board_of[rail.board]
    apart = handed_on if device.kind == "servo" else board.kind == "esc"
    plugged = device.kind != "servo" or any(pin.role == "servo-out" for pin in board.pins)
    return round(abs(volts - device.nominal_v) / STEP_V), apart, board.kind != "regulator", not plugged
