"""`wire.` rules: drop and heating of feeds and returns."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.answers.limits import wire_bound_a, wire_limits
from yardmeter.core.checks.finding import Finding, Fix, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.physics.conductors import wire_ohm
from yardmeter.core.plan import Device, Wire
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.sizing.wire import GAUGES
from yardmeter.core.units import format_si


def _own_wires(device: Device) -> list[tuple[str, str, Wire]]:
    """The device's feed and its returns as (name in the network, dotted field, wire)."""
    found = [(f"feed:{device.id}", "feed.wire", device.feed.wire)] if device.feed else []
    return found + [(f"return:{r.id}", f"returns.{i}.wire", r.wire) for i, r in enumerate(device.returns)]


@rule("wire.drop", sense="at most")
def drop(case: Case) -> Iterator[Finding]:
    """Volts lost in a device's feed and return together, against a share of its rail."""
    frac = case.plan.policy.wire_drop_frac
    for device in case.plan.devices:
        if not device.feed:
            continue
        seen = [
            (s.drop_v / case.rail(device.feed.rail).states[c.id].volts_v, c, s)
            for c, s in case.device_states(device)
            if s.given_a > 1e-3 and s.drop_v > 0.02
        ]
        bad = [item for item in seen if item[0] > frac]
        if not bad:
            continue
        share, worst, state = max(bad, key=lambda item: item[0])
        yield Finding(
            severity="caution",
            conditions=tuple(c.id for _, c, _ in bad),
            worst=worst.id,
            elements=(device.id,),
            title=f"{device.name} loses {format_si(state.drop_v, 'V')} in its wires",
            cause=f"{share:.1%} of the rail at {format_si(state.given_a, 'A')} through {device.feed.wire.gauge_awg} AWG and back.",
            remedy="Use a thicker or shorter pair.",
            numbers=(
                number("drop", state.drop_v, "V"),
                number("wanted", frac * case.rail(device.feed.rail).states[worst.id].volts_v, "V"),
            ),
            fixes=tuple(_thicker(device, state.given_a, frac * case.rail(device.feed.rail).states[worst.id].volts_v)),
        )


def _thicker(device: Device, amps: float, allowed_v: float) -> Iterator[Fix]:
    """The smallest gauge for feed and return together that keeps the drop."""
    wires = [(name, field, wire) for name, field, wire in _own_wires(device) if not wire.joined]
    for gauge in GAUGES if wires else ():
        ohm = sum(wire_ohm(gauge, wire.run_m) + wire.connector_ohm for _, _, wire in wires)
        if ohm * amps <= allowed_v and gauge < min(wire.gauge_awg for _, _, wire in wires):
            edits = tuple(SetValue(element=device.id, field=f"{field}.gauge_awg", value=gauge) for _, field, _ in wires)
            yield Fix(title=f"{device.name}: {gauge} AWG for feed and return", edits=edits)
            return


@rule("wire.limit", sense="at most")
def overheated(case: Case) -> Iterator[Finding]:
    """Current that heats a feed or return, or its connector, beyond the policy."""
    for device in case.plan.devices:
        for name, field, wire in _own_wires(device):
            flows = [
                (abs(v.op.conductor_a(v.row, name)), c) for c in case.plan.conditions for v in (case.solved.mean[c.id],)
            ]
            over = [(amps / bound, c, amps) for amps, c in flows if amps > (bound := wire_bound_a(case.plan, wire, c))]
            if not over:
                continue
            _, worst, amps = max(over, key=lambda item: item[0])
            kind = "feed" if name.startswith("feed") else "return"
            limit = min(wire_limits(case.plan, wire, kind, worst), key=lambda one: one.amps_a)
            better = next(
                (g for g in reversed(range(wire.gauge_awg)) if g in GAUGES and _holds(case, wire, g, worst.id, amps)),
                None,
            )
            yield Finding(
                severity="fault",
                conditions=(worst.id,),
                worst=worst.id,
                elements=(device.id,),
                title=f"{device.name}: {format_si(amps, 'A')} in a wire for {format_si(limit.amps_a, 'A')}",
                cause=f"{limit.reason}. Hot insulation softens and shorts against its neighbour.",
                remedy="Use a thicker wire or a larger connector.",
                numbers=(number("through the wire", amps, "A"), number("limit", limit.amps_a, "A")),
                fixes=(
                    Fix(
                        title=f"{better} AWG",
                        edits=(SetValue(element=device.id, field=f"{field}.gauge_awg", value=better),),
                    ),
                )
                if better is not None
                else (),
            )


def _holds(case: Case, wire: Wire, gauge: int, condition_id: str, amps: float) -> bool:
    thicker = wire.model_copy(update={"gauge_awg": gauge})
    return wire_bound_a(case.plan, thicker, case.plan.condition(condition_id)) >= amps
