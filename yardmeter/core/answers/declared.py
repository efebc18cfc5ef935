"""What is asked of rails on which no current stands: what feeds them is brought up and let fall over and over.

There is no point to read it off, so it is what the sheets say at nominal volts, through whatever is fed from there.
"""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.answers.operating import View
from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.graph import graph_of
from yardmeter.core.network.loads import active_draw, throttle_amps
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Condition, Device, Plan, Regulator, Supply

SWITCHING_FRAC = 0.9
"""Efficiency of a switching regulator that never gets to work; common practice, no source."""


def declared_a(device: Device, condition: Condition) -> float:
    """What a device's sheet says it draws in a condition, at its nominal volts [A]."""
    if device.throttle:
        return throttle_amps(device, condition.throttle_frac) if condition.state_of(device.id) != "off" else 0.0
    draw = active_draw(device, condition)
    return draw.amps_at(device.nominal_v) if draw else 0.0


@dataclass(frozen=True)
class Declared:
    """Of one condition, as `view` has it without limits."""

    plan: Plan
    condition: Condition
    view: View

    @cached_property
    def restless(self) -> frozenset[str]:
        """Regulators that start and stop, or give up, with nothing said of what they would give."""
        own = (one for one in self.plan.supplies if isinstance(one, Regulator))
        return frozenset(s.id for s in own if self.view.hiccups(s.id) or self.view.gives_up(s.id))

    @cached_property
    def rails(self) -> frozenset[str]:
        """Rails that hang on those alone."""
        supply_of = self.plan.supply_of
        below = graph_of(self.plan).rails_below(supply_of[name].output for name in self.restless)
        return frozenset(rail for rail in below if self.view.rail_v(rail) < LIVE_V)

    def taken_a(self, supply: Supply) -> float:
        """What a supply would take on top of what flows in it, for all that hangs on such rails behind it [A].

        Of several that live and feed one rail each takes an equal share.
        """
        return self._taken_a(supply, frozenset()) if self.restless else 0.0

    def _taken_a(self, supply: Supply, above: frozenset[str]) -> float:
        rail = supply.output
        beside = [one for one in self.plan.supplies_into(rail) if self.view.supply_in_v(one) > LIVE_V]
        if rail in above or (beside and supply not in beside):
            return 0.0
        own = (declared_a(device, self.condition) for device in self.plan.devices_on(rail) if rail in self.rails)
        behind = (self._taken_a(one, above | {rail}) for one in self.plan.supplies_from(rail))
        share = (sum(own) + sum(behind)) / max(len(beside), 1)
        if not isinstance(supply, Regulator) or supply.kind == "linear":
            return share
        volts = self.view.supply_in_v(supply)
        return share * supply.set_v / (SWITCHING_FRAC * (volts if volts > LIVE_V else supply.set_v))
