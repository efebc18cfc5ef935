"""Who feeds whom in a condition: energy traced from pack and inlets through conducting supplies, and where it flows back."""

from __future__ import annotations

from yardmeter.core.answers.conditions import View
from yardmeter.core.answers.model import BackFlow
from yardmeter.core.plan import Condition, Diode, Link, Plan, Regulator, Strap, Supply

TRACE_A = 1e-3
"""Current from which a supply counts as carrying [A]."""
LIVE_V = 0.5
"""Volts from which a rail counts as live [V]."""


def carries(view: View, supply: Supply) -> bool:
    """Whether the supply passes energy from its input to its rail."""
    if isinstance(supply, Regulator | Diode):
        return view.op.supply_on(view.row, supply.id) and (
            view.op.supply_a(view.row, supply) > TRACE_A or view.op.supply_out_v(view.row, supply) > LIVE_V
        )
    return view.op.supply_out_v(view.row, supply) > LIVE_V


def trace_sources(plan: Plan, condition: Condition, view: View) -> dict[str, tuple[str, ...]]:
    """Sources (`pack`, inlet ids) that reach every rail and every device, in this condition."""
    reach: dict[str, set[str]] = {one.id: set() for one in plan.rails}
    reach.update({one.id: set() for one in plan.devices})
    if condition.on_pack:
        reach[plan.pack.rail].add("pack")
    for inlet in plan.inlets:
        if inlet.id in condition.energy and inlet.kind in ("usb", "bench"):
            reach[inlet.rail].add(inlet.id)
    edges = [(one, s.output) for s in plan.supplies for one in plan.inputs_of(s) if carries(view, s)]
    edges += [(d.feed.rail, d.id) for d in plan.devices if d.feed]
    edges += [
        (s.output, one) for s in plan.supplies if view.op.supply_a(view.row, s) < -TRACE_A for one in plan.inputs_of(s)
    ]
    changed = True
    while changed:
        changed = False
        for start, end in edges:
            new = reach[start] - reach[end]
            if new:
                reach[end] |= new
                changed = True
    return {name: tuple(sorted(found)) for name, found in reach.items()}


def back_flows(plan: Plan, view: View) -> tuple[BackFlow, ...]:
    """Supplies through which current flows from output to input, a bridged strap included."""
    found = []
    for supply in plan.supplies:
        if isinstance(supply, Strap):
            for position, choice in enumerate(supply.selected):
                amps = view.op.conductor_a(view.row, f"link:{supply.id}:{position}")
                if amps < -TRACE_A:
                    found.append(BackFlow(supply=supply.id, amps_a=-amps, from_rail=supply.output, to=choice))
            continue
        amps = view.op.supply_a(view.row, supply)
        if amps < -TRACE_A and isinstance(supply, Link | Regulator):
            found.append(BackFlow(supply=supply.id, amps_a=-amps, from_rail=supply.output, to=supply.input))
    return tuple(found)
