"""Words of `load.`, `wire.` and `data.` rules."""

from __future__ import annotations

from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.checks.data import Hearsay
from yardmeter.core.checks.load import (
    Collapsed,
    ConnectionOver,
    EscOver,
    Inrush,
    Overload,
    PadOver,
    ThinMargin,
    Unsolved,
)
from yardmeter.core.checks.wire import WireDrop, WireOver
from yardmeter.core.plan import Plan, rail_title
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.limits import limit_words
from yardmeter.words.told import Told, number, tells, titles


@tells("load.over", "load.usb", facts=Overload)
def overload(plan: Plan, v: Verdict, f: Overload) -> Told:
    port = v.code == "load.usb"
    asked, usable = v.compared.observed, v.compared.limit
    cause = f"Usable is {limit_words(plan, f.limit)}."
    if f.cut:
        down = "gives up, starts again and gives up, over and over"
        falls = f"cuts off and the rail falls to {format_si(f.volts_v, 'V')}"
        cause += f" Past its limit the supply {down if f.volts_v < LIVE_V else falls}"
        cause += f": {titles(plan, f.resets)} reset." if f.resets else "."
    elif not port:
        cause += f" {past_it(f)}"
    remedy = "Cut the load or fit a larger supply."
    if port:
        remedy = "Work on the bench with fewer loads on, or use a port that gives more."
    elif f.movable:
        remedy = f"Move {plan.title(f.movable)} ({format_si(f.movable_a, 'A')}) elsewhere, or fit a larger supply."
    name = rail_title(plan.title(v.elements[0]))
    return Told(
        title=f"{name}: {format_si(asked, 'A')} asked, {format_si(usable, 'A')} usable",
        cause=cause,
        remedy=remedy,
        labels=("asked", "usable"),
        more=(number("short by", asked - usable, "A"),),
    )


def past_it(f: Overload) -> str:
    """What being over does, by the limit that binds and by how far over it is."""
    limit = f.limit.parts[0] if f.limit.kind == "share" else f.limit
    match limit.kind:
        case "print":
            below = f"Up to its print, {format_si(f.hard_a, 'A')}, it may run, hotter than is good for it"
            return (
                f"{below}: watch its temperature."
                if f.over_usable_only
                else "Past its print it overheats, and may fail short and hand its input on."
            )
        case "heat":
            return (
                "It gets as hot as its margin allows."
                if f.over_usable_only
                else "It reaches its trip temperature and switches off."
            )
        case "wire" | "connector":
            return "The insulation softens, the contact burns."
        case "pack":
            return "The pack sags, heats and ages."
        case _:
            return "It gives no more."


@tells("load.thin", facts=ThinMargin)
def thin_margin(plan: Plan, v: Verdict, f: ThinMargin) -> Told:
    name = rail_title(plan.title(v.elements[0]))
    return Told(
        title=f"{name}: only {format_si(v.compared.observed, 'A')} spare of {format_si(f.usable_a, 'A')}",
        cause=f"Usable is {limit_words(plan, f.limit)}. Draws are known to a few tens of percent at best.",
        remedy="Measure the biggest draws, or move one of them.",
        labels=("spare", "wanted"),
    )


@tells("load.pad", facts=PadOver)
def pad_over(plan: Plan, v: Verdict, f: PadOver) -> Told:
    rail, pad = plan.pad_of[v.elements[0]]
    return Told(
        title=f"Pad {pad.label} of {rail.name}: {format_si(v.compared.observed, 'A')} through {format_si(v.compared.limit, 'A')}",
        cause=f"{limit_words(plan, f.limit)}; {titles(plan, f.fed)} hang on it.",
        remedy="Spread them over the other pads of the rail.",
        labels=("through the pad", "limit"),
    )


@tells("load.inrush", facts=Inrush)
def inrush(plan: Plan, v: Verdict, f: Inrush) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} has {format_si(f.left_a, 'A')} left to charge {format_si(f.farad, 'F')}",
        cause="While it charges the capacitors it sits at its limit; many regulators then give up and try again for ever.",
        remedy="Switch loads on later, or fit a larger regulator.",
        labels=("time to charge", "wanted"),
    )


@tells("load.collapse", facts=Collapsed)
def collapsed(plan: Plan, v: Verdict, f: Collapsed) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} collapses at {v.compared.observed:.0f}% of the load",
        cause="Constant-power loads draw more amps as the volts fall; beyond this share there is no voltage at which wires and loads agree (no solution above V²/4R), or a regulator on the way is left with too few volts and stops.",
        remedy="Shorten or thicken the feed, or cut the load behind it.",
        labels=("load that still works", "load asked"),
    )


@tells("load.unsolved", facts=Unsolved)
def unsolved(plan: Plan, v: Verdict, f: Unsolved) -> Told:
    name = plan.condition(v.worst).name if v.worst else ""
    return Told(
        title=f"No operating point was found on {name}",
        cause="From light load to full load and back from nothing, no volts were found at which all currents agree and stay: supplies this far over their limits start and stop in turn. No number of this condition is shown.",
        remedy="Take load off until it stands, then add one thing after the other.",
        labels=("points found", "wanted"),
    )


@tells("load.rating", facts=ConnectionOver)
def connection_over(plan: Plan, v: Verdict, f: ConnectionOver) -> Told:
    name = plan.title(v.elements[0])
    return Told(
        title=f"{name} carries {format_si(v.compared.observed, 'A')}, rated {format_si(v.compared.limit, 'A')}",
        cause="Contacts and copper of this connection are made for less.",
        remedy="Use a second wire or connector, or move a load.",
        labels=("carried", "rated"),
    )


@tells("load.esc", facts=EscOver)
def esc_over(plan: Plan, v: Verdict, f: EscOver) -> Told:
    name, asked = plan.title(v.elements[0]), format_si(v.compared.observed, "A")
    return Told(
        title=f"{name} drives {asked}, carries {format_si(v.compared.limit, 'A')}",
        cause="Its bridges overheat: one that burns through takes its motor, and in flight the craft."
        + (" For the seconds of a punch a fifth more is counted." if f.burst else ""),
        remedy="An ESC for more amps, smaller propellers, or less throttle.",
        labels=("asked by the motors", "carried in a punch" if f.burst else "carried for long"),
    )


@tells("wire.drop", facts=WireDrop)
def wire_drop(plan: Plan, v: Verdict, f: WireDrop) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} loses {format_si(v.compared.observed, 'V')} in its wires",
        cause=f"{f.share_frac:.1%} of the rail at {format_si(f.amps_a, 'A')} through {f.gauge_awg} AWG and back.",
        remedy="Use a thicker or shorter pair.",
        labels=("drop", "wanted"),
    )


@tells("wire.limit", facts=WireOver)
def wire_over(plan: Plan, v: Verdict, f: WireOver) -> Told:
    amps, limit = format_si(v.compared.observed, "A"), format_si(v.compared.limit, "A")
    return Told(
        title=f"{plan.title(v.elements[0])}: {amps} in a wire for {limit}",
        cause=f"{limit_words(plan, f.limit)}. Hot insulation softens and shorts against its neighbour.",
        remedy="Use a thicker wire or a larger connector.",
        labels=("through the wire", "limit"),
    )


@tells("data.guess", facts=Hearsay)
def hearsay(plan: Plan, v: Verdict, f: Hearsay) -> Told:
    past = ", past what it can give" if f.flips else ""
    return Told(
        title=f"{f.share_frac:.0%} of the {plan.title(v.elements[0])} load is unmeasured",
        cause=f"At the top of the bands the rail is asked for {format_si(v.compared.observed, 'A')}{past}.",
        remedy=f"Measure next: {plan.title(f.measure)}.",
        labels=("top of the bands", "usable"),
        more=(number("guessed share", f.share_frac * 100, "%"),),
    )
