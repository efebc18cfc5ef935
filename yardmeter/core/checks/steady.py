"""What the plan's own rules already tell of something that lasts: runs leave that to them, and nothing else."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.answers.limits import wire_weights
from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.elements.capacitor import over_rating
from yardmeter.core.elements.load import over_volts
from yardmeter.core.network.branches import filter_nodes
from yardmeter.core.network.keys import Key
from yardmeter.core.plan import CapacitorFilter, Device, Inlet, LcFilter, Regulator


@dataclass(frozen=True)
class Steady:
    """The conditions of a plan, asked what they tell of an element by themselves."""

    case: SolvedPlan

    def over_pin(self, device: Device) -> bool:
        """Too many volts for a device, in a condition or on a full pack: `window.over`."""
        return over_volts(self.case.most_pin_v(device), device.max_v)

    def over_input(self, supply: Regulator) -> bool:
        """Too many volts for a regulator: `window.input`."""
        return over_volts(self.case.most_in_v(supply), supply.input_max_v)

    def over_print(self, part: CapacitorFilter | LcFilter) -> bool:
        """Too many volts for a capacitor: `noise.capacitor_volts`."""
        solved = self.case.solved
        views = [*solved.given.values(), *([solved.unloaded] if solved.unloaded else [])]
        a, b = filter_nodes(solved.plan, solved.table.node, part)
        return any(over_rating(view.between_v(a, b), part.rated_v) for view in views)

    def warm(self, key: Key) -> bool:
        """More amps than a wire or its connector stands: `wire.limit`, `load.over`."""
        plan, solved = self.case.plan, self.case.solved
        at = solved.table.conductor.get(key)  # a bridge that only a scenario closes is in no condition
        wire = solved.table.conductors[at].wire if at is not None else None
        return wire is not None and bool(wire_weights(plan, wire, solved.carried_a(key)))

    def at_limit(self, inlet: Inlet) -> bool:
        """More amps than a port gives: `load.usb`."""
        states = self.case.rail(inlet.rail).states
        return any(states[one.id].over for one in self.case.plan.conditions if inlet.id in one.energy)
