"""`failure.` rules: what one broken part takes with it."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.answers.windows import consumers_below
from yardmeter.core.checks.finding import Finding, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.plan import Regulator


@rule("failure.short", sense="at most")
def fails_short(case: Case) -> Iterator[Finding]:
    """A regulator that fails short hands its input to every device behind it that the craft needs to stay up."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator) or supply.fails != "short":
            continue
        volts, worst = max((s.in_v, c.id) for c, s in case.supply_states(supply))
        behind = consumers_below(case.plan, supply.output)
        killed = [d for d in behind if volts > d.max_v]
        vital = [d for d in killed if d.keeps_control]
        if not killed:
            continue
        stressed = any(
            (s.temp_c is not None and s.temp_c > supply.trip_c - case.plan.policy.hot_margin_k) or s.mode == "limiting"
            for _, s in case.supply_states(supply)
        )
        yield Finding(
            severity="caution" if vital and stressed else "note",
            conditions=(worst,),
            worst=worst,
            elements=(supply.id,),
            title=f"If {supply.name} fails short, {len(killed)} {'devices get' if len(killed) > 1 else 'device gets'} {volts:.1f} V",
            cause=f"Lost: {', '.join(d.name for d in killed)}."
            + (" The craft falls with it." if vital else "")
            + (" It is over-taxed in this plan." if stressed else ""),
            remedy="Keep it cool and under its rating; feed what must not be lost from another regulator.",
            numbers=(number("handed on", volts, "V"), number("lowest maximum", min(d.max_v for d in killed), "V")),
        )


@rule("failure.single")
def single_point(case: Case) -> Iterator[Finding]:
    """Control hangs on one regulator that also feeds things the craft could do without."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        behind = consumers_below(case.plan, supply.output)
        vital = [d for d in behind if d.keeps_control]
        others = [d for d in behind if not d.keeps_control]
        if vital and len(others) >= 2:
            yield Finding(
                severity="note",
                conditions=(),
                worst=None,
                elements=(supply.id,),
                title=f"{', '.join(d.name for d in vital)} {'share' if len(vital) > 1 else 'shares'} {supply.name} with {len(others)} other devices",
                cause="A short in any of them, or one overload, takes control down.",
                remedy="Give accessories a regulator of their own.",
                numbers=(number("other devices", len(others), ""), number("devices that keep control", len(vital), "")),
            )
