"""Who feeds whom in a condition: energy traced from pack and inlets through conducting supplies, and where it flows back."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.answers.model import BackFlow
from yardmeter.core.answers.operating import View
from yardmeter.core.graph import graph_of, reached
from yardmeter.core.network.keys import link_key
from yardmeter.core.plan import Condition, Diode, Plan, Regulator, Strap, Supply

TRACE_A = 1e-3
"""Current from which a supply counts as carrying [A]."""
LIVE_V = 0.5
"""Volts from which a rail counts as live [V]."""


def carries(view: View, supply: Supply) -> bool:
    """Whether the supply passes energy from its input to its rail."""
    if isinstance(supply, Regulator | Diode):
        return view.supply_on(supply.id) and (view.supply_a(supply) > TRACE_A or view.supply_out_v(supply) > LIVE_V)
    return view.supply_out_v(supply) > LIVE_V


def trace_sources(plan: Plan, condition: Condition, view: View) -> dict[str, tuple[str, ...]]:
    """Sources (`pack`, inlet ids) that reach every rail and every device, in this condition; no pack behind a limiter that opened or a ground that is cut."""
    opened = any(i.kind == "fuse" and i.id in condition.energy and view.gives_up(i.id) for i in plan.inlets)
    # What has no way back carries nothing, whatever volts float there.
    cut = graph_of(plan).islands(condition.energy)
    held = condition.on_pack and not opened and plan.ground_of(plan.pack.rail) not in graph_of(plan).ungrounded
    starts = {"pack": plan.pack.rail} if held else {}
    feeding = [one for one in plan.inlets if condition.uses(one) and not one.in_line]
    starts |= {one.id: one.rail for one in feeding if plan.ground_of(one.rail) not in cut}
    edges = [(one, s.output) for s in plan.supplies for one in plan.inputs_of(s) if carries(view, s)]
    edges += [(d.feed.rail, d.id) for d in plan.devices if d.feed and d.id not in cut]
    edges += [(s.output, one) for s in plan.supplies if view.supply_a(s) < -TRACE_A for one in plan.inputs_of(s)]
    found = reached(starts, edges)
    return {
        one.id: tuple(sorted(found.get(one.id, ())))
        for one in plan.elements.values()
        if one.id in plan.rail_of or one.id in plan.device_of
    }


@dataclass(frozen=True, slots=True)
class Flow:
    """Current through an input of a supply, from where it really comes to where it goes; a regulator hands on other amps than it takes."""

    supply: Supply
    start: str
    end: str
    leaves_a: float
    arrives_a: float

    @property
    def backwards(self) -> bool:
        return self.start == self.supply.output


def flows(plan: Plan, view: View) -> tuple[Flow, ...]:
    """Every current of more than a trace through the supplies, at an operating point."""
    found = []
    for supply in plan.supplies:
        for position, one in enumerate(plan.inputs_of(supply)):
            # A strap's pads share what it gives, or feed one another.
            given = view.conductor_a(link_key(supply, position)) if isinstance(supply, Strap) else view.supply_a(supply)
            taken = view.supply_in_a(supply) if isinstance(supply, Regulator) else given
            if given > TRACE_A:
                found.append(Flow(supply, one, supply.output, taken, given))
            elif given < -TRACE_A:  # what is sunk to ground arrives nowhere
                found.append(Flow(supply, supply.output, one, -given, max(-taken, 0.0)))
    return tuple(found)


def fed_by(plan: Plan, view: View, rail: str) -> frozenset[str]:
    """The rails whose current reaches a rail at an operating point, itself among them, whichever way what joins them is passed."""
    edges = [(one.end, one.start) for one in flows(plan, view) if one.arrives_a > TRACE_A]
    edges += [(d.id, d.feed.rail) for d in plan.devices if d.feed and plan.supplies_from(d.id)]
    return frozenset(reached({rail: rail}, edges)) & plan.rail_of.keys()


def back_flows(plan: Plan, view: View) -> tuple[BackFlow, ...]:
    """Supplies through which current flows from output to input, a bridged strap included."""
    return tuple(
        BackFlow(supply=one.supply.id, amps_a=one.leaves_a, from_rail=one.start, to=one.end)
        for one in flows(plan, view)
        if one.backwards and not (isinstance(one.supply, Regulator) and one.supply.two_way)
    )
