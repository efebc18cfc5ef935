"""`noise.` rules: ripple at pins, level of pictures, and filters that do not do what they are there for."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.checks.finding import Finding, Fix, Severity, number
from yardmeter.core.checks.noise_case import NoiseCase
from yardmeter.core.checks.registry import rule
from yardmeter.core.physics.capacitors import VOLTAGE_CLASS_FRAC
from yardmeter.core.physics.filters import SHEET_RISE_K, damping_ohm
from yardmeter.core.physics.video import S525
from yardmeter.core.plan import Filter
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.units import format_db, format_si

VISIBLE_DB = -40.0
"""Level of an interference under full picture from which it is seen; common practice, no source."""
DISTURBING_DB = -28.0
HOT_RISE_K = 2 * SHEET_RISE_K
"""From 30 °C air this is near the 125 °C that coils are usually made for, with little left for a hood; our choice."""
PEAK_DB = 6.0
"""Peak of a filter from which it counts as undamped; our choice."""
USELESS_DB = 1.0
DAMPING_RATIO = 8.0
"""Damping capacitor over the section's own that keeps the peak well under its bound; our choice."""


@rule("noise.ripple", sense="at most", noise=True)
def ripple(case: NoiseCase) -> Iterator[Finding]:
    """Ripple at a device's pins above what it stands."""
    for pin in case.noise.pins:
        device = case.plan.device_of[pin.device]
        worst = max(pin.total_v, key=lambda c: pin.total_v[c])
        if device.throttle or pin.total_v[worst] <= pin.tolerated_v:
            continue
        loudest = pin.lines[worst][0]
        yield Finding(
            severity="caution",
            conditions=tuple(c for c, v in pin.total_v.items() if v > pin.tolerated_v),
            worst=worst,
            elements=(device.id,),
            title=f"{device.name}: {format_si(pin.total_v[worst], 'V')} of ripple at its pins",
            cause=f"Loudest: {loudest.words}, {format_si(loudest.pp_v, 'V')} at {format_si(loudest.hz, 'Hz')}, peak to peak.",
            remedy="Filter its feed, or feed it from a regulator that rejects the ripple.",
            numbers=(
                number("ripple, peak to peak", pin.total_v[worst], "V"),
                number("it stands", pin.tolerated_v, "V"),
            ),
        )


@rule("noise.video", sense="at most", noise=True)
def visible(case: NoiseCase) -> Iterator[Finding]:
    """Interference on a picture above the level at which it is seen."""
    for video in case.noise.videos:
        signal = case.plan.signal_of[video.signal]
        worst = max(video.level_db, key=lambda c: video.level_db[c])
        level = video.level_db[worst]
        if level <= VISIBLE_DB:
            continue
        lines = video.lines[worst]
        first = lines[0]
        path = "grounds" if first.ground_v > first.supply_v else "supplies"
        yield Finding(
            severity="fault" if level > DISTURBING_DB else "caution",
            conditions=tuple(c for c, v in video.level_db.items() if v > VISIBLE_DB),
            worst=worst,
            elements=(signal.id, *dict.fromkeys(case.plan.owner_of[e].id for e in (signal.source, signal.sink))),
            title=f"{signal.name}: interference at {format_db(level)}, seen as lines",
            cause=f"Loudest: {first.words}, {format_si(first.pp_v, 'V')} at {format_si(first.hz, 'Hz')}, by the {path} of its ends.",
            remedy="Bring its grounds together, filter its supplies, or quieten the source with a bulk capacitor at the ESC.",
            numbers=(
                number("on the picture, peak to peak", video.total_v[worst], "V"),
                number("seen from", S525.picture_v * 10 ** (VISIBLE_DB / 20), "V"),
            ),
        )


def _filter_finding(
    one: Filter, severity: Severity, condition: str | None, title: str, cause: str, remedy: str,
    numbers: tuple[tuple[str, float, str], tuple[str, float, str]], fixes: tuple[Fix, ...] = (),
) -> Finding:  # fmt: skip
    return Finding(
        severity=severity,
        conditions=(condition,) if condition else (),
        worst=condition,
        elements=(one.id, one.at),
        title=title,
        cause=cause,
        remedy=remedy,
        numbers=tuple(number(*n) for n in numbers),
        fixes=fixes,
    )


@rule("noise.undamped", sense="at most", noise=True)
def undamped(case: NoiseCase) -> Iterator[Finding]:
    """A filter that lifts some frequency instead of lowering it."""
    for answer in case.filters:
        one = case.filter_of[answer.filter]
        if answer.peak_db <= PEAK_DB:
            continue
        fixes: tuple[Fix, ...] = ()
        if one.kind == "lc" and one.damping_ohm is None:
            ratio = DAMPING_RATIO
            ohm = damping_ohm(one.henry, one.farad * one.count, ratio)
            edits = (
                SetValue(element=one.id, field="damping_ohm", value=round(ohm, 3)),
                SetValue(element=one.id, field="damping_farad", value=ratio * one.farad * one.count),
            )
            fixes = (
                Fix(
                    title=f"Damp it: {format_si(ohm, 'Ω')} with {format_si(ratio * one.farad * one.count, 'F')}",
                    edits=edits,
                ),
            )
        yield _filter_finding(
            one, "caution", answer.condition,
            f"{one.name} lifts {format_si(answer.peak_hz, 'Hz')} by {format_db(answer.peak_db)}",
            "A coil and a capacitor with little resistance ring: what falls on their corner comes out larger.",
            "Damp it with a resistor and a larger capacitor beside it, or use a capacitor with more ESR.",
            (("it adds, dB", answer.peak_db, ""), ("wanted below, dB", PEAK_DB, "")), fixes,
        )  # fmt: skip


@rule("noise.saturation", sense="at most", noise=True)
def saturated(case: NoiseCase) -> Iterator[Finding]:
    """A coil whose core is full of direct current."""
    for answer in case.filters:
        one = case.filter_of[answer.filter]
        if one.henry and answer.feed_a > one.saturation_a:
            left = f", {format_si(answer.left_h, 'H')} of {format_si(one.henry, 'H')} is left" if answer.left_h else ""
            yield _filter_finding(
                one, "caution", answer.condition,
                f"{one.name} saturates at {format_si(answer.feed_a, 'A')}",
                f"Its core holds {format_si(one.saturation_a, 'A')}{left}: it filters least when it is needed most.",
                "Take a coil with a higher saturation current.",
                (("through it", answer.feed_a, "A"), ("it holds", one.saturation_a, "A")),
            )  # fmt: skip


@rule("noise.coil_heat", sense="at most", noise=True)
def warm_coil(case: NoiseCase) -> Iterator[Finding]:
    """A coil or bead run over its heating current."""
    for answer in case.filters:
        one = case.filter_of[answer.filter]
        if answer.rise_k is not None and answer.rise_k > SHEET_RISE_K:
            yield _filter_finding(
                one, "fault" if answer.rise_k > HOT_RISE_K else "caution", None,
                f"{one.name} warms by {format_si(answer.rise_k, 'K')}",
                "Its sheet stands for 40 K in open air; under shrink tube or a hood it is more, and the part ages or its joints let go.",
                "Take one for more amps, or one of less resistance.",
                (("it warms by", answer.rise_k, "K"), ("its sheet stands for", SHEET_RISE_K, "K")),
            )  # fmt: skip


@rule("noise.capacitor_volts", sense="at most", noise=True)
def voltage_class(case: NoiseCase) -> Iterator[Finding]:
    """A capacitor whose rated volts are too few for what it sees in any condition, or on the full pack."""
    for answer in case.filters:
        one = case.filter_of[answer.filter]
        if one.farad and answer.bias_v > answer.allowed_v:
            over = answer.bias_v > one.rated_v
            yield _filter_finding(
                one, "danger" if over else "caution", None,
                f"{one.name}: {format_si(answer.bias_v, 'V')} on a part for {one.rated_v:g} V",
                "Braking and hot plugging go above the pack's own volts; an electrolytic above its class vents." if not over else "It vents or shorts. Do not connect.",
                f"Use the class of {answer.bias_v / VOLTAGE_CLASS_FRAC:.0f} V or more.",
                (("on it", answer.bias_v, "V"), ("allowed", answer.allowed_v, "V")),
            )  # fmt: skip


@rule("noise.capacitor_ripple", sense="at most", noise=True)
def ripple_current(case: NoiseCase) -> Iterator[Finding]:
    """Ripple current that cooks a capacitor."""
    for answer in case.filters:
        one = case.filter_of[answer.filter]
        if one.ripple_a and answer.ripple_a > one.ripple_a:
            yield _filter_finding(
                one, "caution", answer.condition,
                f"{one.name} carries {format_si(answer.ripple_a, 'A')} of ripple in each part",
                "The loss in its ESR heats it and dries it out.",
                "Put more of them in parallel, or take a type for more ripple.",
                (("ripple, rms", answer.ripple_a, "A"), ("rated", one.ripple_a, "A")),
            )  # fmt: skip


@rule("noise.absent", noise=True)
def absent(case: NoiseCase) -> Iterator[Finding]:
    """A filter that is claimed by a print and is not there."""
    for one in case.plan.filters:
        if one.fitted:
            continue
        total = case.at_filter_v(one)
        yield _filter_finding(
            one, "note", None,
            f"{one.name} is claimed but not fitted",
            "A pad labelled “filtered” has nothing behind it; a regulator is not a filter. It is not counted here.",
            "Fit it, or take it out of the plan.",
            (("ripple there, peak to peak", total, "V"), ("filters there", 0, "")),
            (Fix(title=f"Fit {one.name}", edits=(SetValue(element=one.id, field="fitted", value=True),)),),
        )  # fmt: skip


@rule("noise.unstable", sense="at most", noise=True)
def unstable(case: NoiseCase) -> Iterator[Finding]:
    """A filter whose output impedance meets the negative resistance of the regulator behind it (Middlebrook)."""
    for answer in case.filters:
        one = case.filter_of[answer.filter]
        if answer.out_ohm is None or answer.load_ohm is None or answer.out_ohm < answer.load_ohm:
            continue
        yield _filter_finding(
            one, "fault", answer.condition,
            f"{one.name} and the regulator behind it can swing",
            "At its peak the filter is softer than the load is stiff; a constant power answers falling volts with more amps.",
            "Damp the filter, or take a smaller coil and a larger capacitor.",
            (("filter's output impedance", answer.out_ohm, "Ω"), ("load's input resistance", answer.load_ohm, "Ω")),
        )  # fmt: skip


@rule("noise.wrong_side", sense="at least", noise=True)
def wrong_side(case: NoiseCase) -> Iterator[Finding]:
    """A filter that takes nothing off the loudest line at its own place."""
    for answer in case.filters:
        one = case.filter_of[answer.filter]
        if answer.loudest_db >= USELESS_DB or answer.without_v < 1e-3 or answer.loudest_db < -PEAK_DB:
            continue
        yield _filter_finding(
            one, "note", answer.condition,
            f"{one.name} takes {format_db(answer.loudest_db, 1)} off {answer.loudest}",
            f"What is loudest there, {format_si(answer.loudest_hz, 'Hz')}, comes from the side it does not stand on, or lies below its corner.",
            "Move it between the source and what it is to protect, nearer to the source.",
            (("it takes off, dB", answer.loudest_db, ""), ("worth its weight from, dB", USELESS_DB, "")),
        )  # fmt: skip
