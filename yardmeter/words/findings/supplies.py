"""Words of `headroom.` and `heat.` rules."""

from __future__ import annotations

from yardmeter.core.checks.headroom import DoesNotRun, Dropout, NeedsBoost, ThinHeadroom
from yardmeter.core.checks.heat import Hot, HotWhenStill, LinearLoss
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.told import Told, number, tells, titles


def _leaves(cell_v: float | None) -> str:
    return f" It leaves regulation at {cell_v:.2f} V a cell." if cell_v is not None else ""


@tells("headroom.dropout", facts=Dropout)
def dropout(plan: Plan, v: Verdict, f: Dropout) -> Told:
    in_v, needed = v.compared.observed, v.compared.limit
    hurt = f" {titles(plan, f.hurt)} suffer." if f.hurt else ""
    return Told(
        title=f"{plan.title(v.elements[0])} loses {f.set_v:g} V: {in_v:.2f} V in, {f.out_v:.2f} V out",
        cause=f"It needs {needed:.2f} V at its input here.{_leaves(f.leaves_at_v)}{hurt}",
        remedy="Set a lower output, feed it from a higher rail, or use more cells.",
        labels=("input", "needed"),
        more=(number("headroom", in_v - needed, "V"),),
    )


@tells("headroom.thin", facts=ThinHeadroom)
def thin_headroom(plan: Plan, v: Verdict, f: ThinHeadroom) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])}: {format_si(v.compared.observed, 'V')} of headroom left",
        cause=f"A deeper sag or an older pack takes it out of regulation.{_leaves(f.leaves_at_v)}",
        remedy="Set its output about a volt under the sagged low pack.",
        labels=("headroom", "wanted"),
    )


@tells("headroom.boost", facts=NeedsBoost)
def needs_boost(plan: Plan, v: Verdict, f: NeedsBoost) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} cannot make {v.compared.limit:g} V from {v.compared.observed:.2f} V",
        cause="A step-down regulator gives at most its input less its drop; only a boost keeps this rail up.",
        remedy="Fit a boost or buck-boost regulator.",
        labels=("highest input", "set point"),
    )


@tells("headroom.start", facts=DoesNotRun)
def does_not_run(plan: Plan, v: Verdict, f: DoesNotRun) -> Told:
    if f.idle_v is not None:
        others = f" With every try {titles(plan, f.falling, ' and ')} may reset." if f.falling else ""
        return Told(
            title=f"{plan.title(v.elements[0])} starts and stops over and over: {f.idle_v:.2f} V in, not {v.compared.limit:g} V under its load",
            cause=f"What feeds it cannot carry what it takes: its input falls, it stops, its input comes back, it starts.{others}",
            remedy="Take load off it, or feed it from what carries its load.",
            labels=("input under load", "stops at"),
            more=(number("input while it is off", f.idle_v, "V"),),
        )
    at = "starts" if f.starting else "stops"
    return Told(
        title=f"{plan.title(v.elements[0])} does not run: {v.compared.observed:.2f} V in, {at} at {v.compared.limit:g} V",
        cause="Below its under-voltage lock-out it is off, and everything behind it is dark.",
        remedy="Raise its input, or choose a regulator that starts lower.",
        labels=("input", "threshold"),
    )


@tells("heat.trip", facts=Hot)
def hot(plan: Plan, v: Verdict, f: Hot) -> Told:
    temp, trip = v.compared.observed, v.compared.limit
    does = f"trips at {trip:.0f}" if temp >= trip else f"runs at {temp:.0f}"
    when = f" In still air it trips after {f.still_trip_s:.0f} s." if f.still_trip_s else ""
    return Told(
        title=f"{plan.title(v.elements[0])} {does} °C in {f.air} air",
        cause=f"It turns {f.loss_w:.2f} W into heat.{when} Over-taxed regulators may fail {f.fails}.",
        remedy="Move load off it, lower its input, or give it air.",
        labels=("steady temperature", "trips at"),
        more=(number("dissipation", f.loss_w, "W"),),
    )


@tells("heat.still", facts=HotWhenStill)
def hot_when_still(plan: Plan, v: Verdict, f: HotWhenStill) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} trips {f.trip_s:.0f} s after landing with this load",
        cause=f"The same {f.loss_w:.2f} W without moving air lead to {v.compared.observed:.0f} °C.",
        remedy="Switch loads off on the ground, or move load off it.",
        labels=("in still air", "trips at"),
    )


@tells("heat.linear", facts=LinearLoss)
def linear_loss(plan: Plan, v: Verdict, f: LinearLoss) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} burns {v.compared.observed:.2f} W",
        cause=f"A linear regulator drops {f.dropped_v:.1f} V at {f.amps_a:.2f} A as heat.",
        remedy="Feed it from a lower rail, or use a switching regulator.",
        labels=("dissipation", "worth a word from"),
    )
