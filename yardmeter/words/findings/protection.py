"""Words of `protect.` rules."""

from __future__ import annotations

from yardmeter.core.checks.protection import ClampsTooLate, StandsOnClamp
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.told import Told, tells


@tells("protect.standoff", facts=StandsOnClamp)
def stands_on_clamp(plan: Plan, v: Verdict, f: StandsOnClamp) -> Told:
    name, seen = plan.title(v.elements[0]), format_si(v.compared.observed, "V")
    return Told(
        title=f"{name}: {seen} stand on a clamp that {'breaks down at' if f.conducts else 'stands off'} {f.breakdown_v if f.conducts else v.compared.limit:g} V",
        cause="It conducts all the time, burns, and fails as a short across the rail."
        if f.conducts
        else "Above its stand-off it leaks and warms; near its breakdown it is worn out before a spike comes.",
        remedy="Do not connect the pack. Fit a clamp whose stand-off is above the full pack."
        if f.conducts
        else "Fit one whose stand-off is above the highest volts of its place.",
        labels=("across it", "stands off"),
    )


@tells("protect.late", facts=ClampsTooLate)
def clamps_too_late(plan: Plan, v: Verdict, f: ClampsTooLate) -> Told:
    device = plan.title(f.device)
    return Told(
        title=f"{plan.title(v.elements[0])} lets {v.compared.observed:g} V through, {device} takes {v.compared.limit:g} V",
        cause="A clamp begins to conduct at its breakdown volts, and lets more through with every ampere of the spike.",
        remedy=f"Fit one that breaks down below {v.compared.limit:g} V and stands off the full volts of its place; where none is between, the spike must be kept small: an anti-spark plug, a larger capacitor.",
        labels=("begins to conduct at", f"{device} takes"),
    )
