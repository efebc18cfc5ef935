"""What a wire of a plan has to carry, and the thinnest gauge that does: one answer for the hook-up list and for a new build."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.network.keys import Key
from yardmeter.core.plan import Plan, Wire
from yardmeter.core.sizing.wire import Duty, Smallest, Use, smallest_gauge


def duties(case: SolvedPlan, key: Key) -> tuple[Duty, ...]:
    """In every condition what heats a conductor, bursts averaged; nothing for what is no conductor of the network."""
    if key not in case.solved.table.conductor:
        return ()
    return in_conditions(case.plan, [abs(case.solved.mean[c.id].conductor_a(key)) for c in case.plan.conditions])


def in_conditions(plan: Plan, amps: Sequence[float]) -> tuple[Duty, ...]:
    """A current [A] for each condition; a punch is held for as long as the policy says."""
    held = [plan.policy.punch_s if c.is_punch else None for c in plan.conditions]
    return tuple(Duty(*one) for one in zip(amps, held, strict=True))


def enough(
    plan: Plan, wire: Wire, carried: Sequence[Duty], rail_v: float, element: str, *, at_pack: bool
) -> Smallest | None:
    """The thinnest gauge for a wire of `element` at a rail of `rail_v` [V]; the drop allowed to a pair is shared by its two
    wires. None when no gauge will do, or there is no wire."""
    if wire.joined:
        return None
    return smallest_gauge(
        wire.length_m,
        wire.connector_ohm,
        carried,
        drop_limit_v=plan.policy.wire_drop_frac * max(rail_v, 1.0) / 2,
        rise_limit_k=plan.policy.wire_rise_k,
        copper_c=plan.policy.copper_c,
        use=use_of(plan, element, at_pack=at_pack),
    )


def use_of(plan: Plan, element: str, *, at_pack: bool) -> Use:
    """What a wire is for, as far as its least gauge goes."""
    device = plan.device_of.get(element)
    if at_pack and not device:
        return "pack" if plan.pack.series > 1 else "cell"
    supply = plan.supply_of.get(element)
    to_esc = (
        supply is not None
        and plan.board_of[plan.rail_of[supply.output].board].kind == "esc"
        and plan.rail_of[supply.output].nominal_v is None
    )
    to_motor = to_esc or (device is not None and device.kind == "motor")
    return "motor" if to_motor and plan.pack.series > 1 else "power"
