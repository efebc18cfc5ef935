"""What can still be added on a rail before anything on the way to its source is over."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from yardmeter.core.answers.limits import wire_bound_a
from yardmeter.core.answers.operating import View
from yardmeter.core.elements.regulator import loss_law
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

    Each rail asks those that its current comes from. Volts are those of the operating point; that they sag a little further under
    what is added is neglected.
    """
    found: dict[str, Spare] = {}

    def left(rail: str, below: tuple[str, ...]) -> Spare:
        if rail in found:
            return found[rail]
        best = Spare(own[rail], None)
        for name in carried[rail].amps_a if best.amps_a > 0 else ():
            supply = plan.supply_of.get(name)
            share = carried[rail].share(name)
            if supply and share > 0:
                back = supply.output != rail
                source = graph_of(plan).feeding_rail(supply.output if back else supply.input)
                known = left(source, (*below, rail)) if source and source not in (*below, rail) else None
                above = _above(plan, condition, asked, supply, source, known)
                gives_a = above.amps_a if back else _output_a(supply, asked, above.amps_a)
                amps = max(gives_a, 0.0) / share
                best = min(best, Spare(amps, above.by), key=lambda one: one.amps_a)
        found[rail] = best
        return best

    order = graph_of(plan).track_order
    return {rail: left(rail, ()) for rail in sorted(own, key=lambda one: order[one])}


def _above(
    plan: Plan, condition: Condition, asked: View, supply: Supply, source: str | None, left: Spare | None
) -> Spare:
    """What can be added where a supply takes from: by its feed wire, by a device that passes on to it, by the rail there."""
    bounds = [Spare(float("inf"), supply.id)]
    if source is not None and left is not None:
        bounds.append(Spare(left.amps_a, left.by or source))
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
        loss_w, _ = loss_law(fit.k1_v, fit.k2_ohm, supply.dropout_v, supply.dropout_ohm, amps)
        return (out_v * amps + loss_w) / in_v

    more, base = input_a * in_v / out_v, taken_a(now_a)
    for _ in range(SECANTS):
        rise = taken_a(now_a + more) - base
        if rise <= 0:
            return more
        more *= input_a / rise
    return more
