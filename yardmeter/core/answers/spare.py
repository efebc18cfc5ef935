"""What can still be added on a rail before anything on the way to its source is over."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from yardmeter.core.answers.limits import wire_bound_a
from yardmeter.core.answers.operating import View
from yardmeter.core.graph import graph_of
from yardmeter.core.network.converters import loss_fit
from yardmeter.core.network.keys import feed_key
from yardmeter.core.plan import Condition, Plan, Regulator, Supply

SECANTS = 4
LEAST_V = 0.3


@dataclass(frozen=True, slots=True)
class Spare:
    """Amps that can be added, and what binds: the rail's own limit (None), or a rail, supply or device on the way."""

    amps_a: float
    by: str | None


@dataclass(frozen=True, slots=True)
class Carried:
    """How a rail's load is shared: by supply or inlet, amps delivered with nothing cutting off."""

    amps_a: Mapping[str, float]

    def share(self, name: str) -> float:
        total = sum(self.amps_a.values())
        return self.amps_a[name] / total if total > 0 else 0.0


def spares(
    plan: Plan, condition: Condition, asked: View, own: Mapping[str, float], carried: Mapping[str, Carried]
) -> dict[str, Spare]:
    """By rail. `own` is what each rail's own supplies have left [A], `carried` which of them carry it.

    Rails are taken from the sources down. Volts are those of the operating point; that they sag a little further under
    what is added is neglected.
    """
    found: dict[str, Spare] = {}
    order = graph_of(plan).track_order
    for rail in sorted(own, key=lambda one: order[one]):
        best = Spare(own[rail], None)
        if best.amps_a > 0:
            for name in carried[rail].amps_a:
                supply = plan.supply_of.get(name)
                share = carried[rail].share(name)
                if supply and share > 0:
                    above = _above(plan, condition, asked, supply, found)
                    amps = max(_output_a(supply, asked, above.amps_a), 0.0) / share
                    best = min(best, Spare(amps, above.by), key=lambda one: one.amps_a)
        found[rail] = best
    return found


def _above(plan: Plan, condition: Condition, asked: View, supply: Supply, known: Mapping[str, Spare]) -> Spare:
    """What can be added at a supply's input: by its feed wire, by a device that passes on to it, by the rail above."""
    bounds = [Spare(float("inf"), supply.id)]
    name = graph_of(plan).feeding_rail(supply.input)
    if name is not None and name in known:
        above = known[name]
        bounds.append(Spare(above.amps_a, above.by or name))
    if isinstance(supply, Regulator) and supply.feed:
        bounds.append(Spare(wire_bound_a(plan, supply.feed, condition) - abs(asked.supply_in_a(supply)), supply.id))
    device = plan.device_of.get(supply.input)
    if device and device.feed:
        carried = abs(asked.conductor_a(feed_key(device.id)))
        bounds.append(Spare(wire_bound_a(plan, device.feed.wire, condition) - carried, device.id))
    return min(bounds, key=lambda one: one.amps_a)


def _output_a(supply: Supply, view: View, input_a: float) -> float:
    """More output current [A] that takes so much more at the input; the same current but for a switching regulator."""
    if not isinstance(supply, Regulator) or not supply.switching or input_a == float("inf"):
        return input_a
    in_v, out_v = max(view.supply_in_v(supply), LEAST_V), max(view.supply_out_v(supply), LEAST_V)
    now_a, fit = max(view.supply_a(supply), 0.0), loss_fit(supply)

    def taken_a(amps: float) -> float:
        loss_w = max(fit.k1_v * amps + fit.k2_ohm * amps**2, supply.dropout_v * amps + supply.dropout_ohm * amps**2)
        return (out_v * amps + loss_w) / in_v

    more, base = input_a * in_v / out_v, taken_a(now_a)
    for _ in range(SECANTS):
        rise = taken_a(now_a + more) - base
        if rise <= 0:
            return more
        more *= input_a / rise
    return more
