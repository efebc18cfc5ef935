"""Every rail in a condition: who takes from it, what carries it, what bounds it, and what is left."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.declared import Declared, declared_a
from yardmeter.core.answers.limits import inlet_limit, pack_limits, supply_limits
from yardmeter.core.answers.model import Consumer, Limit, RailState, Tone
from yardmeter.core.answers.operating import View
from yardmeter.core.answers.sources import LIVE_V, Flow
from yardmeter.core.answers.spare import Carried, spares
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.network.loads import active_draw
from yardmeter.core.once import cached_property
from yardmeter.core.plan import Condition, Device, Link, Plan, Provenance, Rail, Regulator, Strap, Supply

CARRYING_A = 1e-4
"""Current from which a supply counts among those that carry a rail [A]."""


@dataclass(frozen=True)
class InCondition:
    """One condition with its views, its source trace, and what flows through supplies in either view."""

    plan: Plan
    condition: Condition
    asked: View
    given: View
    sources: dict[str, tuple[str, ...]]
    asked_flows: tuple[Flow, ...]
    given_flows: tuple[Flow, ...]

    @cached_property
    def declared(self) -> Declared:
        return Declared(self.plan, self.condition, self.asked)

    def device_asked_a(self, device: Device) -> float:
        """What a device asks for; on a rail that never comes up, what its sheet says."""
        if device.feed and device.feed.rail in self.declared.rails:
            return declared_a(device, self.condition)
        return max(self.asked.device_a(device.id), 0.0)

    @cached_property
    def trying(self) -> frozenset[str]:
        """Rails that are brought up and let fall over and over."""
        return self.given.trying()


def rail_states(plan: Plan, case: InCondition) -> dict[str, RailState]:
    """Every rail in one condition: first what each has of its own, then what all on the way leave it."""
    consumers = {rail.id: _consumers(plan, rail, case) for rail in plan.rails}
    asked = {rail: sum(one.asked_a for one in own) for rail, own in consumers.items()}
    carried = {rail.id: _carried(plan, rail, case) for rail in plan.rails}
    limits = {rail.id: _limits(plan, rail, case, carried) for rail in plan.rails}
    usable = {rail: min((one.amps_a for one in own), default=0.0) for rail, own in limits.items()}
    hard = {rail: min((one.fault_a for one in own), default=0.0) for rail, own in limits.items()}
    left = spares(plan, case.condition, case.asked, {rail: usable[rail] - asked[rail] for rail in asked}, carried)
    found = {}
    for rail in plan.rails:
        own = consumers[rail.id]
        guessed = sum(one.asked_a for one in own if one.provenance in ("guess", "reported"))
        found[rail.id] = RailState(
            volts_v=unfed_is_zero(case.given.rail_v(rail.id), case.sources[rail.id]),
            asked_a=asked[rail.id],
            given_a=sum(one.given_a for one in own),
            usable_a=usable[rail.id],
            printed_a=_printed(plan, rail, case, carried),
            spare_a=left[rail.id].amps_a,
            bound_by=left[rail.id].by,
            hard_a=hard[rail.id],
            tone=_tone(asked[rail.id], usable[rail.id], hard[rail.id]),
            guess_frac=guessed / asked[rail.id] if asked[rail.id] > 1e-6 else 0.0,
            limits=limits[rail.id],
            consumers=own,
            sources=case.sources[rail.id],
        )
    return found


def _tone(asked_a: float, usable_a: float, hard_a: float) -> Tone:
    if not exceeds(asked_a, usable_a):
        return "ok"
    return "fault" if exceeds(asked_a, hard_a) else "caution"


def _carried(plan: Plan, rail: Rail, case: InCondition) -> Carried:
    """What carries a rail, with nothing cutting off; where nothing flows yet, what would: its first live supply, or its ports."""
    view = case.asked
    amps = {s.id: view.supply_a(s) for s in plan.supplies_into(rail.id) if view.supply_in_v(s) > LIVE_V}
    ports = [i for i in plan.inlets if i.rail == rail.id and case.condition.uses(i) and not i.in_line]
    flowing = {name: a for name, a in amps.items() if a > CARRYING_A}
    back = [one for one in case.asked_flows if one.end == rail.id and one.backwards and one.arrives_a > CARRYING_A]
    flowing |= {one.supply.id: one.arrives_a for one in back}
    flowing |= {i.id: a for i in ports if (a := view.inlet_a(i.id)) > CARRYING_A}
    if flowing:
        return Carried(flowing)
    return Carried(dict.fromkeys((i.id for i in ports), 1.0) or dict.fromkeys(list(amps)[:1], 1.0))


def _limits(
    plan: Plan, rail: Rail, case: InCondition, carried: dict[str, Carried], above: tuple[str, ...] = ()
) -> tuple[Limit, ...]:
    """Bounds on what may be taken from a rail. Of several that carry it the first at a limit of its own binds.

    A wire or strap gives no more than the rail it comes from; `above` are the rails already climbed through.
    """
    if rail.id == plan.pack.rail and case.condition.on_pack:
        return pack_limits(plan, case.condition)
    own = {name: _own_limits(plan, name, rail, case, carried, above) for name in carried[rail.id].amps_a}
    bound = {name: limits for name, limits in own.items() if limits}
    if len(own) <= 1:
        return next(iter(bound.values()), ())
    return tuple(_by_share(carried[rail.id], bound))


def _own_limits(
    plan: Plan, name: str, rail: Rail, case: InCondition, carried: dict[str, Carried], above: tuple[str, ...]
) -> tuple[Limit, ...]:
    """Bounds of one supply or port."""
    inlet = plan.inlet_of.get(name)
    if inlet:
        return (inlet_limit(inlet),)
    supply = plan.supply_of[name]
    # A regulator that is passed backwards has no rating for that; what is behind it bounds it.
    found: tuple[Limit, ...] = ()
    if supply.output == rail.id or not isinstance(supply, Regulator):
        found = supply_limits(plan, supply, case.condition, case.given.supply_in_v(supply))
    for one in _behind(plan, supply, rail.id):
        if one in plan.rail_of and one not in above:
            found += _limits(plan, plan.rail_of[one], case, carried, (*above, rail.id))
    return found


def _behind(plan: Plan, supply: Supply, rail: str) -> tuple[str, ...]:
    """The rails whose bounds hold for what a supply gives a rail: a wire's input; its output where it is passed backwards."""
    if supply.output != rail:
        return (supply.output,)
    return plan.inputs_of(supply) if isinstance(supply, Link | Strap) else ()


def _by_share(carried: Carried, own: dict[str, tuple[Limit, ...]]) -> Iterator[Limit]:
    """How much the rail may carry until each of its supplies, at the share it has now, is at its least limit."""
    for name, limits in own.items():
        least, share = min(limits, key=lambda one: one.amps_a), carried.share(name)
        if share > 0:
            hard = min(one.fault_a for one in limits)
            yield Limit("share", least.amps_a / share, name, factor=share, hard_a=hard / share, parts=(least,))


def _printed(
    plan: Plan, rail: Rail, case: InCondition, carried: dict[str, Carried], above: tuple[str, ...] = ()
) -> float:
    """What the rail may carry by print alone: of several supplies until the first, at its share, is at its rating.

    A wire has no print; it stands for the rail it comes from.
    """
    if rail.id == plan.pack.rail and case.condition.on_pack:
        return plan.pack.limit_a

    def rating_a(name: str) -> float:
        if name in plan.inlet_of:
            return plan.inlet_of[name].limit_a
        supply = plan.supply_of[name]
        came = next(iter(_behind(plan, supply, rail.id)), "")
        if (supply.rating_a and supply.output == rail.id) or came not in plan.rail_of or came in above:
            return supply.rating_a or 0.0
        return _printed(plan, plan.rail_of[came], case, carried, (*above, rail.id))

    own = carried[rail.id]
    ratings = {name: rating_a(name) for name in own.amps_a}
    return min((a / own.share(name) for name, a in ratings.items() if a and own.share(name) > 0), default=0.0)


def _consumers(plan: Plan, rail: Rail, case: InCondition) -> tuple[Consumer, ...]:
    asked, given = case.asked, case.given
    consumers = []
    for device in plan.devices_on(rail.id):
        passed = plan.supplies_from(device.id)
        extra = [sum(v.supply_in_a(s) for s in passed) for v in (asked, given)]
        consumers.append(
            Consumer(
                id=device.id,
                kind="device",
                name=device.name,
                asked_a=max(case.device_asked_a(device) + extra[0], 0.0),
                given_a=max(given.device_a(device.id) + extra[1], 0.0),
                provenance=_provenance(device, case.condition),
                tol_frac=draw_band_frac(plan, device, case.condition),
            )
        )
    for supply in plan.supplies_from(rail.id):
        amps = [v.supply_in_a(supply) for v in (asked, given)]
        if isinstance(supply, Strap):
            amps = _through(case, supply, rail.id)
        amps[0] += case.declared.taken_a(supply)
        if max(amps) > 1e-6 or view_live(given, rail.id):
            consumers.append(_passing(supply, amps))
    for supply in plan.supplies_into(rail.id):
        amps = _through(case, supply, rail.id)
        if max(amps) > 0:
            consumers.append(_passing(supply, amps))
    return tuple(sorted(consumers, key=lambda w: -w.asked_a))


def _through(case: InCondition, supply: Supply, rail: str) -> list[float]:
    """What a supply takes from a rail, asked and given, by the way the current goes [A]."""
    return [
        sum(one.leaves_a for one in found if one.supply.id == supply.id and one.start == rail)
        for found in (case.asked_flows, case.given_flows)
    ]


def _passing(supply: Supply, amps: list[float]) -> Consumer:
    asked_a, given_a = (max(one, 0.0) for one in amps)
    return Consumer(
        id=supply.id, kind="supply", name=supply.name, asked_a=asked_a, given_a=given_a, provenance=None, tol_frac=0.0
    )


def unfed_is_zero(volts_v: float, sources: tuple[str, ...]) -> float:
    """The volts of a place, or none where nothing feeds it: an open node floats, and a lifted ground would make it negative."""
    return volts_v if sources or volts_v > LIVE_V else 0.0


def view_live(view: View, rail_id: str) -> bool:
    return view.rail_v(rail_id) > LIVE_V


def _provenance(device: Device, condition: Condition) -> Provenance:
    draw = active_draw(device, condition)
    return draw.provenance if draw else device.draws.typical.provenance


def draw_band_frac(plan: Plan, device: Device, condition: Condition) -> float:
    """Half-width of the band of the draw in use [fraction]."""
    draw = active_draw(device, condition) or device.draws.typical
    return draw.tol_frac if draw.tol_frac is not None else plan.policy.band_frac(draw.provenance)
