"""Words of `noise.` rules."""

from __future__ import annotations

from yardmeter.core.checks.noise import (
    Absent,
    CanSwing,
    CapacitorRipple,
    CapacitorVolts,
    RippleAtPins,
    Saturated,
    SeenInPicture,
    Undamped,
    WarmCoil,
    WrongSide,
)
from yardmeter.core.physics.capacitors import VOLTAGE_CLASS_FRAC
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_db, format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.told import Told, number, tells


@tells("noise.ripple", facts=RippleAtPins)
def ripple(plan: Plan, v: Verdict, f: RippleAtPins) -> Told:
    loudest = f.loudest
    return Told(
        title=f"{plan.title(v.elements[0])}: {format_si(v.compared.observed, 'V')} of ripple at its pins",
        cause=f"Loudest: {loudest.words}, {format_si(loudest.pp_v, 'V')} at {format_si(loudest.hz, 'Hz')}, peak to peak.",
        remedy="Filter its feed, or feed it from a regulator that rejects the ripple.",
        labels=("ripple, peak to peak", "it stands"),
    )


@tells("noise.video", facts=SeenInPicture)
def seen(plan: Plan, v: Verdict, f: SeenInPicture) -> Told:
    first = f.loudest
    path = "grounds" if first.ground_v > first.supply_v else "supplies"
    return Told(
        title=f"{plan.title(v.elements[0])}: interference at {format_db(f.level_db)}, seen as lines",
        cause=f"Loudest: {first.words}, {format_si(first.pp_v, 'V')} at {format_si(first.hz, 'Hz')}, by the {path} of its ends.",
        remedy="Bring its grounds together, filter its supplies, or quieten the source with a bulk capacitor at the ESC.",
        labels=("on the picture, peak to peak", "seen from"),
    )


@tells("noise.undamped", facts=Undamped)
def undamped(plan: Plan, v: Verdict, f: Undamped) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} lifts {format_si(f.peak_hz, 'Hz')} by {format_db(v.compared.observed)}",
        cause="A coil and a capacitor with little resistance ring: what falls on their corner comes out larger.",
        remedy="Damp it with a resistor and a larger capacitor beside it, or use a capacitor with more ESR.",
        labels=("it adds", "wanted below"),
    )


@tells("noise.saturation", facts=Saturated)
def saturated(plan: Plan, v: Verdict, f: Saturated) -> Told:
    left = f", {format_si(f.left_h, 'H')} of {format_si(f.henry, 'H')} is left" if f.left_h else ""
    return Told(
        title=f"{plan.title(v.elements[0])} saturates at {format_si(v.compared.observed, 'A')}",
        cause=f"Its core holds {format_si(v.compared.limit, 'A')}{left}: it filters least when it is needed most.",
        remedy="Take a coil with a higher saturation current.",
        labels=("through it", "it holds"),
    )


@tells("noise.coil_heat", facts=WarmCoil)
def warm_coil(plan: Plan, v: Verdict, f: WarmCoil) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} warms by {format_si(v.compared.observed, 'K')}",
        cause="Its sheet stands for 40 K in open air; under shrink tube or a hood it is more, and the part ages or its joints let go.",
        remedy="Take one for more amps, or one of less resistance.",
        labels=("it warms by", "its sheet stands for"),
    )


@tells("noise.capacitor_volts", facts=CapacitorVolts)
def capacitor_volts(plan: Plan, v: Verdict, f: CapacitorVolts) -> Told:
    over = v.severity == "danger"
    return Told(
        title=f"{plan.title(v.elements[0])}: {format_si(v.compared.observed, 'V')} on a part for {f.rated_v:g} V",
        cause="It vents or shorts. Do not connect."
        if over
        else "Braking and hot plugging go above the pack's own volts; an electrolytic above its class vents.",
        remedy=f"Use the class of {v.compared.observed / VOLTAGE_CLASS_FRAC:.0f} V or more.",
        labels=("on it", "allowed"),
    )


@tells("noise.capacitor_ripple", facts=CapacitorRipple)
def capacitor_ripple(plan: Plan, v: Verdict, f: CapacitorRipple) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} carries {format_si(v.compared.observed, 'A')} of ripple in each part",
        cause="The loss in its ESR heats it and dries it out.",
        remedy="Put more of them in parallel, or take a type for more ripple.",
        labels=("ripple, rms", "rated"),
    )


@tells("noise.absent", facts=Absent)
def absent(plan: Plan, v: Verdict, f: Absent) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} is claimed but not fitted",
        cause="A pad labelled “filtered” has nothing behind it; a regulator is not a filter. It is not counted here.",
        remedy="Fit it, or take it out of the plan.",
        labels=("filters there", "claimed"),
        more=(number("ripple there, peak to peak", f.ripple_v, "V"),),
    )


@tells("noise.unstable", facts=CanSwing)
def can_swing(plan: Plan, v: Verdict, f: CanSwing) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} and the regulator behind it can swing",
        cause="At its peak the filter is softer than the load is stiff; a constant power answers falling volts with more amps.",
        remedy="Damp the filter, or take a smaller coil and a larger capacitor.",
        labels=("filter's output impedance", "load's input resistance"),
    )


@tells("noise.wrong_side", facts=WrongSide)
def wrong_side(plan: Plan, v: Verdict, f: WrongSide) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} takes {format_db(v.compared.observed, 1)} off {f.loudest}",
        cause=f"What is loudest there, {format_si(f.loudest_hz, 'Hz')}, comes from the side it does not stand on, or lies below its corner.",
        remedy="Move it between the source and what it is to protect, nearer to the source.",
        labels=("it takes off", "worth its weight from"),
    )
