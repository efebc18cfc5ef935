"""Bounds in words: what a limit rests on, what a signal stands, what an output voltage is bounded by."""

from __future__ import annotations

from yardmeter.core.answers.model import Limit
from yardmeter.core.answers.returns import logic_levels
from yardmeter.core.plan import Plan, Regulator, Signal

PLACES = {"board": "on a board", "esc": "in an ESC", "alone": "stand-alone", "device": "inside a device"}


def limit_words(plan: Plan, limit: Limit) -> str:
    """What a limit rests on: “print 2 A × 0.7 (on a board)”."""
    match limit.kind:
        case "print":
            return _print(plan, limit)
        case "heat":
            return f"{limit.top_c:g} °C in {limit.air} air at {limit.input_v:.1f} V in"
        case "wire":
            held = "in still air" if limit.held_s is None else f"in {limit.held_s:g} s"
            return f"{_wire(limit)} {limit.gauge_awg} AWG, {limit.rise_k:g} K rise {held}"
        case "connector":
            held = "" if limit.held_s is None else f" × {limit.factor:g} for {limit.held_s:g} s"
            return f"{_wire(limit)} connector {limit.rating_a:g} A{held}"
        case "pack":
            return f"{plan.pack.discharge_c:g} C × {plan.pack.charge_ah:g} Ah"
        case "port":
            return f"{plan.title(limit.element or '')} gives {limit.amps_a:g} A"
        case "limiter":
            return f"{plan.title(limit.element or '')} lets {limit.amps_a:.3g} A through"
        case "cut":
            return f"it cuts off at {limit.amps_a:g} A"
        case "pad":
            return _pad(plan, limit)
        case "share":
            return f"{plan.title(limit.element or '')} carries {limit.factor:.0%} of it: {limit_words(plan, limit.parts[0])}"


def _wire(limit: Limit) -> str:
    return f"pack {limit.wire}" if limit.element == "pack" else f"{limit.wire}"


def _print(plan: Plan, limit: Limit) -> str:
    supply = plan.supply_of[limit.element or ""]
    if isinstance(supply, Regulator):
        return f"print {limit.rating_a:g} A × {limit.factor:g} ({PLACES[supply.place]})"
    return f"{'diode ' if supply.kind == 'diode' else ''}rated {limit.rating_a:g} A"


def _pad(plan: Plan, limit: Limit) -> str:
    _, pad = plan.pad_of[limit.element or ""]
    if pad.trace is None or pad.limit_a is not None:
        return f"pad {pad.label} stated {limit.amps_a:g} A"
    return f"pad {pad.label}: {pad.trace.width_m * 1e3:g} mm trace, {pad.trace.rise_k:g} K rise (IPC-2221)"


def margin_words(plan: Plan, signal: Signal) -> str:
    """Where the margin of a signal comes from."""
    if signal.kind == "video":
        return f"{plan.policy.video_shift_v:.1%} of 1 Vpp shows in the picture"
    levels = logic_levels(plan, signal)
    margin = levels.margin
    return f"{levels.driven_v:g} V drives, {levels.thresholds.upper()} input: {margin.low_v:.2f} V at low, {margin.high_v:.2f} V at high"
