"""Words of `window.` rules."""

from __future__ import annotations

from yardmeter.core.checks.window import InputOver, NearMaximum, NearMinimum, OverVoltage, ResetsOnTheWay, UnderVoltage
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.told import Told, tells


@tells("window.over", facts=OverVoltage)
def over_voltage(plan: Plan, v: Verdict, f: OverVoltage) -> Told:
    pack = plan.pack
    label_v, full_v = pack.rest_v("nominal"), pack.rest_v("full")
    full = f" {pack.series}S is {label_v:.1f} V on the label and {full_v:.1f} V full." if f.by_the_pack else ""
    return Told(
        title=f"{plan.title(v.elements[0])} gets {v.compared.observed:.1f} V, takes {v.compared.limit:g} V",
        cause=f"Above its maximum the device is destroyed.{full}",
        remedy="Do not connect it there. Feed it from a rail inside its window.",
        labels=("at its pins", "maximum"),
    )


@tells("window.margin", facts=NearMaximum)
def near_maximum(plan: Plan, v: Verdict, f: NearMaximum) -> Told:
    missing = v.compared.observed - v.compared.limit
    return Told(
        title=f"{plan.title(v.elements[0])} sees {v.compared.observed:.1f} V of {f.maximum_v:g} V",
        cause="Plugging the pack in rings above its volts, up to twice them on a bare capacitor; braking motors push them up too.",
        remedy=f"{format_si(missing, 'V')} more of room: a part for more volts, a clamp, an anti-spark plug, or another rail.",
        labels=("at most", "with room for that"),
    )


@tells("window.thin", facts=NearMinimum)
def near_minimum(plan: Plan, v: Verdict, f: NearMinimum) -> Told:
    missing = v.compared.limit - v.compared.observed
    return Told(
        title=f"{plan.title(v.elements[0])} sees {format_si(v.compared.observed, 'V')}, wants {f.minimum_v:g} V at least",
        cause="A set point a little low, a longer wire or a warm joint takes the rest, and it is under its window.",
        remedy=f"Raise its volts by {format_si(missing, 'V')}: a higher set point, a thicker or shorter pair, or another rail.",
        labels=("at its pins", "good from"),
    )


@tells("window.under", facts=UnderVoltage)
def under_voltage(plan: Plan, v: Verdict, f: UnderVoltage) -> Told:
    device = plan.device_of[v.elements[0]]
    at = format_si(v.compared.observed, "V")
    falls = " The craft falls with it." if device.keeps_control else ""
    return Told(
        title=f"{device.name} falls to {at}, {'resets below' if f.resets else 'wants'} {v.compared.limit:g} V",
        cause=f"It resets there; when the volts return it starts again.{falls}"
        if f.resets
        else "It is outside the maker's window and may misbehave.",
        remedy="Cut the load on its rail, raise the rail, or feed it from one that holds.",
        labels=("at its pins", "resets below" if f.resets else "minimum"),
    )


@tells("window.input", facts=InputOver)
def input_over(plan: Plan, v: Verdict, f: InputOver) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} gets {v.compared.observed:.1f} V in, takes {v.compared.limit:g} V",
        cause="Above its maximum input a regulator fails, often short, and passes its input on to everything behind it.",
        remedy="Do not connect the pack. Choose a regulator rated for the full pack.",
        labels=("input", "maximum"),
    )


@tells("window.floor", facts=ResetsOnTheWay)
def resets_on_the_way(plan: Plan, v: Verdict, f: ResetsOnTheWay) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} resets at {v.compared.observed:.2f} V a cell",
        cause=f"The pack passes through {v.compared.observed * plan.pack.series:.1f} V before it is empty.",
        remedy="Land earlier, or feed it from a rail that holds to the floor.",
        labels=("resets at a cell voltage of", "usual landing"),
    )
