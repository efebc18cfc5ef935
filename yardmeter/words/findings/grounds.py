"""Words of `ground.` rules and of the compass."""

from __future__ import annotations

from yardmeter.core.checks.compass import BentCompass
from yardmeter.core.checks.grounds import Chained, Looped, MotorShare, NoReturn, Shifted
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.limits import margin_words
from yardmeter.words.told import Told, name_of, tells


@tells("ground.none", facts=NoReturn)
def no_return(plan: Plan, v: Verdict, f: NoReturn) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} has no ground return",
        cause="Without a wire back to the pack no current flows; it may find a way through a signal line instead.",
        remedy="Run a return to the ground of the board that feeds it.",
        labels=("ways back to the pack", "needed"),
    )


@tells("ground.chain", facts=Chained)
def chained(plan: Plan, v: Verdict, f: Chained) -> Told:
    device, through = v.elements
    whose = ", ".join(f"{plan.title(one.element)} {format_si(abs(one.amps_a), 'A')}" for one in f.others[:3])
    return Told(
        title=f"{plan.title(device)}'s ground is chained through {plan.title(through)}: {format_si(v.compared.observed, 'V')}",
        cause=f"Whatever flows there lifts its ground too: {whose}. It moves with their load and shows as flicker.",
        remedy=f"Run its return to {plan.title(f.home)}, which feeds it.",
        labels=("shared drop", "with a way of its own"),
    )


@tells("ground.motor", facts=MotorShare)
def motor_share(plan: Plan, v: Verdict, f: MotorShare) -> Told:
    amps = format_si(v.compared.observed, "A")
    return Told(
        title=f"{amps} of motor current in {plan.title(v.elements[1])}'s return to {plan.title(f.to)}",
        cause="The wire bridges two grounds between which the motor current makes a drop; a share of it takes this way.",
        remedy="Let one return of the video part go, so that no second path is closed.",
        labels=("motor current in it", "wanted below"),
    )


@tells("ground.loop", facts=Looped)
def looped(plan: Plan, v: Verdict, f: Looped) -> Told:
    names = ", ".join(name_of(plan, one) for one in f.owners)
    return Told(
        title=f"Ground loop of {f.area_m2 * 1e4:.0f} cm² over {names}",
        cause=(
            f"{format_si(f.ohm, 'Ω')} and {format_si(f.henry_h, 'H')}: motor leads {format_si(plan.policy.stray_m, 'm')} "
            f"away drive {format_si(f.around_a, 'A')} around it. An estimate: it grows with the area."
        ),
        remedy="Lay its wires against each other, or leave one of them out where the signal allows it.",
        labels=("across its wires", "shows in the picture from"),
    )


@tells("ground.shift", facts=Shifted)
def shifted(plan: Plan, v: Verdict, f: Shifted) -> Told:
    signal, source, sink = v.elements[0], *v.elements[1:3]
    if plan.signal_of[signal].kind == "video":
        moving, steady = format_si(f.changing_v, "V"), format_si(abs(f.shift_v), "V")
        title = f"{plan.title(signal)}: its grounds move by {moving} against each other"
        by = f" The steady {steady} between them do not show: the input clamps every line."
    else:
        title = f"{plan.title(signal)}: its grounds differ by {format_si(abs(f.shift_v), 'V')}"
        by = f" One edge of {plan.title(f.step_by)} adds {format_si(f.step_v, 'V')}." if f.step_by else ""
    return Told(
        title=title,
        cause=(
            f"{plan.title(source)} and {plan.title(sink)} measure the signal from different heights; "
            f"{margin_words(plan, plan.signal_of[signal])}.{by}"
        ),
        remedy="Bring both grounds to one point, shorten or thicken the wire that carries the current, or move the load.",
        labels=("shift", "margin"),
    )


@tells("noise.compass", facts=BentCompass)
def bent_compass(plan: Plan, v: Verdict, f: BentCompass) -> Told:
    device = plan.device_of[v.elements[0]]
    spec = device.compass
    pair = f" in a pair {format_si(spec.spacing_m, 'm')} apart" if spec else ""
    at = f" at {format_si(spec.distance_m, 'm')}" if spec else ""
    return Told(
        title=f"{device.name}: the compass is bent by {v.compared.observed:.0f}°",
        cause=(
            f"{format_si(f.amps_a, 'A')}{pair} makes {f.field_t * 1e6:.1f} µT{at}; "
            f"the earth gives {plan.policy.earth_field_t * 1e6:g} µT."
        ),
        remedy=f"Move it {format_si(f.safe_m, 'm')} away, or twist the pair tighter.",
        labels=("heading error", "limit"),
    )
