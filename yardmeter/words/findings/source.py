"""Words of `source.` and `failure.` rules."""

from __future__ import annotations

from yardmeter.core.checks.failure import FailsShort, SinglePoint
from yardmeter.core.checks.source import (
    BackFeed,
    Bridged,
    Cascade,
    EmptyFirst,
    Latched,
    LimiterLit,
    NoSource,
    SeveralSources,
)
from yardmeter.core.plan import Plan, Strap
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.told import Told, number, plural, tells, titles

SHARE_TOLD_FRAC = 0.005
"""A share below this is next to nothing."""
SCHOOLS = {
    "never": "never parallel regulators",
    "linear": "linear ones may share, switching ones never",
    "any": "tie them",
}


@tells("source.none", facts=NoSource)
def no_source(plan: Plan, v: Verdict, f: NoSource) -> Told:
    cause = "No conducting supply reaches its rail." if f.fed else "It has no feed wire."
    if f.fed and f.works_in:
        works = plan.condition(f.works_in).name
        cause = f"It works on {works} and is dead on the pack: its rail has no source once USB is unplugged."
    return Told(
        title=f"{plan.title(v.elements[0])} has no source on the pack",
        cause=cause,
        remedy="Feed it from a rail that the pack supplies.",
        labels=("at its pins", "needs"),
    )


@tells("source.limiter", facts=LimiterLit)
def limiter_lit(plan: Plan, v: Verdict, f: LimiterLit) -> Told:
    name, asked = plan.title(v.elements[0]), format_si(v.compared.observed, "A")
    held, left = format_si(v.compared.limit, "A"), format_si(f.pack_v, "V")
    if f.lamp:
        title = f"{name} lights up with nothing wrong: {asked} flow, {held} leave it dark"
        cause = (
            f"The filament takes its share of the volts and leaves {left}; a lit lamp then says nothing about a short."
        )
    else:
        title = f"{name} trips with nothing wrong: {asked} asked, it lets {held} through"
        cause = f"It holds the craft at {left}; what is dead or resets behind it follows from that."
    return Told(
        title=title,
        cause=cause,
        remedy="Take a larger one, or switch off what is not needed for the first power: the sender, lights, the computer.",
        labels=("asked", "lets through"),
    )


@tells("source.empty_first", facts=EmptyFirst)
def empty_first(plan: Plan, v: Verdict, _: EmptyFirst) -> Told:
    name = plan.title(v.elements[0])
    lasts, wanted = (f"{one / 60:.0f} min" for one in (v.compared.observed, v.compared.limit))
    return Told(
        title=f"{name} is empty after {lasts}, the pack after {wanted}",
        cause="It goes by what both give then and by what is left in them: what hangs on it goes dark first.",
        remedy="Fit a larger one, or plan to change it with every pack and land before it is down.",
        labels=("lasts", "pack lasts"),
    )


@tells("source.several", facts=SeveralSources)
def several_sources(plan: Plan, v: Verdict, f: SeveralSources) -> Told:
    some = [one for one in f.shares if one[1] >= SHARE_TOLD_FRAC]
    rest = len(f.shares) - len(some)
    carried = ", ".join(f"{plan.title(name)} {share:.0%}" for name, share in some)
    carried += f", {rest} more next to nothing" if rest else ""
    leads = plan.title(max(f.shares, key=lambda one: one[1])[0])
    spread = format_si(f.spread_v, "V")
    school = SCHOOLS[plan.policy.paralleling]
    return Told(
        title=f"{len(f.shares)} regulators feed one net: {carried}",
        cause=f"Set points differ by up to {spread}, so {leads} carries the load and the rest idle or fight it. This plan's rule: {school}.",
        remedy="By this plan's rule nothing has to be done. To know which one carries it, keep one and lift the others' red wires."
        if v.severity == "note"
        else "Keep one and lift the red wire of the others; insulate what is lifted.",
        labels=("regulators on the net", "wanted"),
        more=(number("set-point spread", f.spread_v, "V"),),
    )


@tells("source.latch", facts=Latched)
def latched(plan: Plan, v: Verdict, f: Latched) -> Told:
    supply = plan.supply_of[v.elements[0]]
    holds, stays = format_si(v.compared.limit, "V"), format_si(v.compared.observed, "V")
    name, rail = plan.title(supply.id), plan.title(supply.output)
    return Told(
        title=f"{name} holds at {holds}; after a dip it would stay at {stays}",
        cause=f"What hangs on {rail} draws more at low volts: coming back from a dip, the regulator sits at its {format_si(f.limit_a, 'A')} and never leaves. Only switching off and on with less load does.",
        remedy="Take load off this rail, or let the supply before it give more, so that it starts under its whole load.",
        labels=("after a dip", "holds"),
    )


@tells("source.backfeed", facts=BackFeed)
def back_feed(plan: Plan, v: Verdict, f: BackFeed) -> Told:
    supply = plan.supply_of[v.elements[0]]
    return Told(
        title=f"{format_si(v.compared.observed, 'A')} flows backwards through {supply.name}",
        cause=f"{plan.title(supply.output)} is held up by another source and feeds {plan.title(supply.input)} through it.",
        remedy="Put a diode in the way, or lift the wire to the output that is fed from elsewhere.",
        labels=("backwards", "allowed"),
    )


@tells("source.strap", facts=Bridged)
def bridged(plan: Plan, v: Verdict, f: Bridged) -> Told:
    supply = plan.supply_of[v.elements[0]]
    names = titles(plan, supply.selected, " and ") if isinstance(supply, Strap) else ""
    return Told(
        title=f"{supply.name} bridges {names}",
        cause=f"All pads bridged is a dead short between them: {plan.title(supply.output)} stands at {f.volts_v:.1f} V and {format_si(f.amps_a, 'A')} flows through the strap.",
        remedy="Bridge one choice only. Check with the meter before any power.",
        labels=("choices bridged", "allowed"),
        more=(number("through the strap", f.amps_a, "A"),),
    )


@tells("source.cascade", facts=Cascade)
def cascade(plan: Plan, v: Verdict, f: Cascade) -> Told:
    feeding = ", ".join(sorted({plan.title(one) for one in f.feeding}))
    return Told(
        title=f"{plan.title(v.elements[0])} hangs behind {feeding}",
        cause="Two regulators in a row lose twice and fail together. This plan's rule: a no-no; the other rule allows it while headroom and start-up hold.",
        remedy="Feed it from the pack, or change the plan's policy.",
        labels=("regulators in a row", "allowed"),
        more=(number("headroom of the second", f.least_headroom_v, "V"),),
    )


@tells("failure.short", facts=FailsShort)
def fails_short(plan: Plan, v: Verdict, f: FailsShort) -> Told:
    count = f"{len(f.killed)} {plural(len(f.killed), 'device gets', 'devices get')}"
    falls = " The craft falls with it." if f.vital else ""
    taxed = " It is over-taxed in this plan." if f.stressed else ""
    return Told(
        title=f"If {plan.title(v.elements[0])} fails short, {count} {v.compared.observed:.1f} V",
        cause=f"Lost: {titles(plan, f.killed)}.{falls}{taxed}",
        remedy="Keep it cool and under its rating; feed what must not be lost from another regulator.",
        labels=("handed on", "lowest maximum"),
    )


@tells("failure.single", facts=SinglePoint)
def single_point(plan: Plan, v: Verdict, f: SinglePoint) -> Told:
    verb = plural(len(f.vital), "shares", "share")
    return Told(
        title=f"{titles(plan, f.vital)} {verb} {plan.title(v.elements[0])} with {v.compared.observed:.0f} other devices",
        cause="A short in any of them, or one overload, takes control down.",
        remedy="Give accessories a regulator of their own.",
        labels=("other devices", "without a note up to"),
        more=(number("devices that keep control", len(f.vital), ""),),
    )
