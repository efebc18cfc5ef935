"""`window.` rules: volts at pins and regulator inputs against what they are allowed."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.checks.finding import Finding, Severity, number
from yardmeter.core.checks.moves import move_fixes
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.physics.pack import CELL_STATE_V
from yardmeter.core.plan import Regulator
from yardmeter.core.units import format_si


@rule("window.over", sense="at most")
def over_voltage(case: Case) -> Iterator[Finding]:
    """Against the full pack, whether or not a condition uses it: the label's volts are the nominal ones."""
    for device in case.plan.devices:
        seen = [state.pin_v for _, state in case.device_states(device)]
        seen += [pattern.pins_v[device.id][0] for pattern in case.windows.patterns]
        highest = max(seen)
        if highest <= device.max_v * (1 + 1e-6):
            continue
        over = {c.id: s.pin_v for c, s in case.device_states(device) if s.pin_v > device.max_v * (1 + 1e-6)}
        bad = tuple(over)
        pack = case.plan.pack
        label_v, full_v = pack.rest_v("nominal"), pack.rest_v("full")
        full = (
            f" {pack.series}S is {label_v:.1f} V on the label and {full_v:.1f} V full."
            if highest > 0.9 * full_v
            else ""
        )
        yield Finding(
            severity="danger",
            conditions=bad,
            worst=max(over, key=lambda name: over[name], default=None),
            elements=(device.id,),
            title=f"{device.name} gets {highest:.1f} V, takes {device.max_v:g} V",
            cause=f"Above its maximum the device is destroyed.{full}",
            remedy="Do not connect it there. Feed it from a rail inside its window.",
            numbers=(number("at its pins", highest, "V"), number("maximum", device.max_v, "V")),
            fixes=move_fixes(case, device),
        )


@rule("window.under", sense="at least")
def under_voltage(case: Case) -> Iterator[Finding]:
    """A fed device whose pins fall below its window or its brown-out voltage."""
    for device in case.plan.devices:
        seen = [(s.pin_v, c) for c, s in case.device_states(device) if s.verdict in ("low", "reset")]
        # What an overloaded supply does to its devices is told by the overload's own finding.
        bad = [(volts, c) for volts, c in seen if not (device.feed and case.starved(device.feed.rail, c))]
        if not bad:
            continue
        lowest, worst = min(bad, key=lambda item: item[0])
        resets = any(case.device(device.id).states[c.id].verdict == "reset" for _, c in bad)
        in_flight = any(c.throttle_frac > 0 for _, c in bad)
        severity: Severity = (
            "danger" if resets and device.keeps_control and in_flight else "fault" if resets else "caution"
        )
        bound = device.reset_v if resets else device.min_v
        yield Finding(
            severity=severity,
            conditions=tuple(c.id for _, c in bad),
            worst=worst.id,
            elements=(device.id,),
            title=f"{device.name} falls to {format_si(lowest, 'V')}, {'resets below' if resets else 'wants'} {bound:g} V",
            cause="It resets there; when the volts return it starts again."
            + (" The craft falls with it." if device.keeps_control else "")
            if resets
            else "It is outside the maker's window and may misbehave.",
            remedy="Cut the load on its rail, raise the rail, or feed it from one that holds.",
            numbers=(number("at its pins", lowest, "V"), number("resets below" if resets else "minimum", bound, "V")),
            fixes=move_fixes(case, device),
        )


@rule("window.input", sense="at most")
def regulator_input(case: Case) -> Iterator[Finding]:
    """A regulator's input against its maximum, at the full pack."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        seen = [state.in_v for _, state in case.supply_states(supply)]
        if supply.input in case.plan.rail_of:
            seen += [pattern.rails_v[supply.input][0] for pattern in case.windows.patterns]
        highest = max(seen)
        over = {c.id: s.in_v for c, s in case.supply_states(supply) if s.in_v > supply.input_max_v}
        if highest > supply.input_max_v:
            yield Finding(
                severity="danger",
                conditions=tuple(over),
                worst=max(over, key=lambda name: over[name], default=None),
                elements=(supply.id,),
                title=f"{supply.name} gets {highest:.1f} V in, takes {supply.input_max_v:g} V",
                cause="Above its maximum input a regulator fails, often short, and passes its input on to everything behind it.",
                remedy="Do not connect the pack. Choose a regulator rated for the full pack.",
                numbers=(number("input", highest, "V"), number("maximum", supply.input_max_v, "V")),
            )


@rule("window.floor", sense="at most")
def brown_out_on_the_way_down(case: Case) -> Iterator[Finding]:
    """A device that resets at a cell voltage above the landing line, though every condition is met."""
    landing_v = CELL_STATE_V[case.plan.pack.chemistry]["low"]
    floor_v = CELL_STATE_V[case.plan.pack.chemistry]["floor"]
    line_v = floor_v + (landing_v - floor_v) * 0.6
    for event in case.windows.events:
        if event.kind != "resets" or event.cell_v < line_v:
            continue
        device = case.plan.device_of[event.element]
        if any(state.verdict in ("low", "reset", "high") for _, state in case.device_states(device)):
            continue
        yield Finding(
            severity="caution",
            conditions=event.conditions,
            worst=event.conditions[0],
            elements=(device.id,),
            title=f"{device.name} resets at {event.cell_v:.2f} V a cell",
            cause=f"The pack passes through {event.cell_v * case.plan.pack.series:.1f} V before it is empty.",
            remedy="Land earlier, or feed it from a rail that holds to the floor.",
            numbers=(number("resets at a cell voltage of", event.cell_v, "V"), number("usual landing", line_v, "V")),
            fixes=move_fixes(case, device),
        )
