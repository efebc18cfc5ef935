"""`source.` rules: nothing, too much or backwards."""

from __future__ import annotations

from collections.abc import Iterator

import networkx as nx

from yardmeter.core.checks.finding import Finding, Fix, Severity, number
from yardmeter.core.checks.moves import move_fixes
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.plan import Condition, Link, Plan, Regulator, Strap
from yardmeter.core.plan.operations import Remove, SetValue
from yardmeter.core.units import format_si

MANY = 20


@rule("source.none", sense="at least")
def no_source(case: Case) -> Iterator[Finding]:
    """A device that is switched on but gets nothing in a condition with the pack connected."""
    lost = {
        device.id: dead
        for device in case.plan.devices
        if (dead := [c for c, state in case.device_states(device) if state.verdict == "dead" and c.on_pack])
    }
    for device in case.plan.devices:
        dead = lost.get(device.id, [])
        if not dead:
            continue
        usb = [c for c, state in case.device_states(device) if not c.on_pack and state.sources]
        cause = (
            f"It works on {usb[0].name} and is dead on the pack: its rail has no source once USB is unplugged."
            if usb
            else "No conducting supply reaches its rail."
        )
        if device.feed is None:
            cause = "It has no feed wire."
        volts = max(case.device(device.id).states[c.id].pin_v for c in dead)
        yield Finding(
            severity="danger" if device.keeps_control else "fault",
            conditions=tuple(c.id for c in dead),
            worst=dead[0].id,
            elements=(device.id,),
            title=f"{device.name} has no source on the pack",
            cause=cause,
            remedy="Feed it from a rail that the pack supplies.",
            numbers=(number("at its pins", max(volts, 0.0), "V"), number("needs", device.min_v, "V")),
            # Where so many are dead it is their rail that wants a source, not each of them another one.
            fixes=move_fixes(case, device) if len(lost) <= MANY else (),
        )


def nets(plan: Plan) -> list[set[str]]:
    """Rails joined by plain wires and straps, as sets: electrically one net."""
    graph: nx.Graph[str] = nx.Graph()
    graph.add_nodes_from(rail.id for rail in plan.rails)
    for supply in plan.supplies:
        if isinstance(supply, Link | Strap):
            graph.add_edges_from((one, supply.output) for one in plan.inputs_of(supply) if one in plan.rail_of)
    return [set(found) for found in nx.connected_components(graph)]


@rule("source.several")
def several_sources(case: Case) -> Iterator[Finding]:
    """Two regulators tied to one net without diodes. The plan's paralleling policy decides how bad that is."""
    plan = case.plan
    for net in nets(plan):
        tied = [s for s in plan.supplies if isinstance(s, Regulator) and s.output in net]
        if len(tied) < 2:
            continue
        powered = [
            c
            for c in plan.conditions
            if sum(case.supply(s.id).states[c.id].in_v > max(s.stop_v, 0.5) for s in tied) > 1
        ]
        if not powered:
            continue
        switching = [s for s in tied if s.switching]
        policy = plan.policy.paralleling
        severity: Severity = (
            "note"
            if policy == "any" or (policy == "linear" and not switching)
            else "danger"
            if len(switching) > 1
            else "fault"
        )
        worst = max(powered, key=lambda c: sum(case.supply(s.id).states[c.id].out_a for s in tied))
        shares = {s.id: case.supply(s.id).states[worst.id].share_frac for s in tied}
        carried = [f"{s.name} {_share(case, tied, s, worst):.0%}" for s in tied]
        spread = max(s.set_v * (1 + s.set_tol_frac) for s in tied) - min(s.set_v * (1 - s.set_tol_frac) for s in tied)
        lead = max(tied, key=lambda s: shares[s.id])
        school = {
            "never": "never parallel regulators",
            "linear": "linear ones may share, switching ones never",
            "any": "tie them",
        }[policy]
        yield Finding(
            severity=severity,
            conditions=tuple(c.id for c in powered),
            worst=worst.id,
            elements=tuple(s.id for s in tied),
            title=f"{len(tied)} regulators feed one net: {', '.join(carried)}",
            cause=f"Set points differ by up to {format_si(spread, 'V')}, so {lead.name} carries the load and the rest idle or fight it. This plan's school: {school}.",
            remedy="Keep one and lift the red wire of the others; insulate what is lifted.",
            numbers=(number("regulators on the net", len(tied), ""), number("set-point spread", spread, "V")),
            fixes=tuple(_lift(plan, net, tied)),
        )


def _share(case: Case, tied: list[Regulator], supply: Regulator, condition: Condition) -> float:
    amps = {s.id: max(case.supply(s.id).states[condition.id].out_a, 0.0) for s in tied}
    total = sum(amps.values())
    return amps[supply.id] / total if total > 1e-6 else 0.0


def _lift(plan: Plan, net: set[str], tied: list[Regulator]) -> Iterator[Fix]:
    links = [s for s in plan.supplies if isinstance(s, Link) and s.input in net and s.output in net]
    extra = [link for link in links if any(s.output == link.input for s in tied) and link.input != plan.pack.rail]
    if extra:
        keep = 0 if any(s.output not in {link.input for link in extra} for s in tied) else 1
        lifted = extra[keep:]
        if lifted:
            names = ", ".join(link.name for link in lifted)
            yield Fix(title=f"Lift {names}", edits=tuple(Remove(element=link.id) for link in lifted))
    direct: dict[str, list[Regulator]] = {}
    for supply in tied:
        direct.setdefault(supply.output, []).append(supply)
    for group in direct.values():
        if len(group) > 1:
            best = max(group, key=lambda s: s.rating_a)
            rest = [s for s in group if s is not best]
            yield Fix(
                title=f"Keep {best.name}, remove {', '.join(s.name for s in rest)}",
                edits=tuple(Remove(element=s.id) for s in rest),
            )


@rule("source.backfeed", sense="at most")
def back_feed(case: Case) -> Iterator[Finding]:
    """Current that enters a supply at its output."""
    flows: dict[str, list[tuple[float, Condition]]] = {}
    for condition in case.plan.conditions:
        head = next(c for c in case.budget.conditions if c.id == condition.id)
        for flow in head.back_flows:
            flows.setdefault(flow.supply, []).append((flow.amps_a, condition))
    for supply_id, seen in flows.items():
        supply = case.plan.supply_of[supply_id]
        if isinstance(supply, Strap) and len(supply.selected) > 1:
            continue  # a bridged strap is its own finding
        amps, worst = max(seen, key=lambda item: item[0])
        yield Finding(
            severity="fault" if isinstance(supply, Regulator) else "caution",
            conditions=tuple(c.id for _, c in seen),
            worst=worst.id,
            elements=(supply_id,),
            title=f"{format_si(amps, 'A')} flows backwards through {supply.name}",
            cause=f"{case.plan.rail_of[supply.output].name} is held up by another source and feeds {case.plan.title(supply.input)} through it.",
            remedy="Put a diode in the way, or lift the wire to the output that is fed from elsewhere.",
            numbers=(number("backwards", amps, "A"), number("allowed", 0.0, "A")),
            fixes=(Fix(title=f"Lift {supply.name}", edits=(Remove(element=supply_id),)),)
            if isinstance(supply, Link)
            else (),
        )


@rule("source.strap")
def strap_bridged(case: Case) -> Iterator[Finding]:
    """A strap that bridges all its pads: a dead short between its choices."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Strap) or len(supply.selected) < 2:
            continue
        worst, amps = None, 0.0
        for condition in case.plan.conditions:
            view = case.solved.asked[condition.id]
            through = max(
                abs(view.op.conductor_a(view.row, f"link:{supply.id}:{k}")) for k in range(len(supply.selected))
            )
            if through >= amps:
                worst, amps = condition, through
        names = " and ".join(case.plan.title(one) for one in supply.selected)
        volts = max(case.rail(supply.output).states[c.id].volts_v for c in case.plan.conditions)
        yield Finding(
            severity="danger",
            conditions=tuple(c.id for c in case.plan.conditions),
            worst=worst.id if worst else None,
            elements=(supply.id,),
            title=f"{supply.name} bridges {names}",
            cause=f"All pads bridged is a dead short between them: {case.plan.title(supply.output)} stands at {volts:.1f} V and {format_si(amps, 'A')} flows through the strap.",
            remedy="Bridge one choice only. Check with the meter before any power.",
            numbers=(number("choices bridged", len(supply.selected), ""), number("through the strap", amps, "A")),
            fixes=tuple(
                Fix(
                    title=f"Bridge only {case.plan.title(one)}",
                    edits=(SetValue(element=supply.id, field="selected", value=[one]),),
                )
                for one in supply.choices
            ),
        )


@rule("source.cascade")
def cascade(case: Case) -> Iterator[Finding]:
    """A regulator fed by a regulator, where the plan's school calls that a no-no."""
    if case.plan.policy.cascade != "never":
        return
    for supply in case.plan.supplies:
        feeding = {s.name for s in case.plan.supplies_into(supply.input) if isinstance(s, Regulator)}
        if not isinstance(supply, Regulator) or not feeding:
            continue
        states = case.supply(supply.id).states
        least = min((s.headroom_v for s in states.values() if s.headroom_v is not None), default=0.0)
        yield Finding(
            severity="caution",
            conditions=tuple(c.id for c in case.plan.conditions if states[c.id].mode != "off"),
            worst=None,
            elements=(supply.id,),
            title=f"{supply.name} hangs behind {', '.join(sorted(feeding))}",
            cause="Two regulators in a row lose twice and fail together. This plan's school: a no-no; the other allows it while headroom and start-up hold.",
            remedy="Feed it from the pack, or change the plan's policy.",
            numbers=(number("regulators in a row", 2, ""), number("headroom of the second", least, "V")),
        )
