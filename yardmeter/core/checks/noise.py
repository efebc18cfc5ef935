"""`noise.` rules: ripple at pins, level of pictures, and filters that do not do what they are there for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.filtering import FilterAnswer
from yardmeter.core.answers.noise import Heard
from yardmeter.core.answers.pictures import Seen
from yardmeter.core.checks.noise_case import NoiseCase
from yardmeter.core.checks.registry import rule
from yardmeter.core.elements.capacitor import over_rating
from yardmeter.core.elements.coil import saturates
from yardmeter.core.physics.filters import SHEET_RISE_K, damping_ohm
from yardmeter.core.physics.video import S525
from yardmeter.core.plan import CapacitorFilter, FerriteFilter, Filter, LcFilter
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.verdict import Comparison, Facts, Fix, Severity, Verdict, always, under

VISIBLE_DB = -40.0
"""Level of an interference under full picture from which it is seen; common practice, no source."""
DISTURBING_DB = -28.0
HOT_RISE_K = 2 * SHEET_RISE_K
"""From 30 °C air this is near the 125 °C that coils are usually made for, with little left for a hood; our choice."""
PEAK_DB = 6.0
"""Peak of a filter from which it counts as undamped; our choice."""
USELESS_DB = 1.0
QUIET_V = 1e-3
"""Ripple below which a filter has nothing to do [V]; our choice."""
DAMPING_RATIO = 8.0
"""Damping capacitor over the section's own that keeps the peak well under its bound; our choice."""


@dataclass(frozen=True)
class RippleAtPins(Facts):
    loudest: Heard


@rule("noise.ripple", RippleAtPins, sense="at most", sees="noise")
def ripple(case: NoiseCase) -> Iterator[Verdict]:
    """Ripple at a device's pins above what it stands."""
    for pin in case.noise.pins:
        over: dict[str, Severity] = {c: "caution" for c, v in pin.total_v.items() if v > pin.tolerated_v}
        if not over or case.plan.device_of[pin.device].throttle:
            continue
        worst = max(over, key=lambda c: pin.total_v[c])
        compared = Comparison(pin.total_v[worst], pin.tolerated_v, "V")
        yield under(over, worst, (pin.device,), compared, RippleAtPins(pin.lines[worst][0]))


@dataclass(frozen=True)
class SeenInPicture(Facts):
    level_db: float
    loudest: Seen


@rule("noise.video", SeenInPicture, sense="at most", sees="noise")
def visible(case: NoiseCase) -> Iterator[Verdict]:
    """Interference on a picture above the level at which it is seen."""
    for video in case.noise.videos:
        signal = case.plan.signal_of[video.signal]
        weights: dict[str, Severity] = {
            c: "fault" if level > DISTURBING_DB else "caution"
            for c, level in video.level_db.items()
            if level > VISIBLE_DB
        }
        if not weights:
            continue
        worst = max(weights, key=lambda c: video.level_db[c])
        owners = dict.fromkeys(case.plan.owner_of[end].id for end in (signal.source, signal.sink))
        yield under(
            weights,
            worst,
            (signal.id, *owners),
            Comparison(video.total_v[worst], S525.picture_v * 10 ** (VISIBLE_DB / 20), "V"),
            SeenInPicture(video.level_db[worst], video.lines[worst][0]),
        )


def _filters(case: NoiseCase) -> Iterator[tuple[Filter, FilterAnswer]]:
    for answer in case.filters:
        yield case.filter_of[answer.filter], answer


def _in(answer: FilterAnswer, severity: Severity, one: Filter, compared: Comparison, facts: Facts, fixes: tuple[Fix, ...] = ()) -> Verdict:  # fmt: skip
    """In the condition the filter's place is noisiest in."""
    return under({answer.condition: severity}, answer.condition, (one.id, one.at), compared, facts, fixes)


@dataclass(frozen=True)
class Undamped(Facts):
    peak_hz: float


@rule("noise.undamped", Undamped, sense="at most", sees="noise")
def undamped(case: NoiseCase) -> Iterator[Verdict]:
    """A filter that lifts some frequency instead of lowering it."""
    for one, answer in _filters(case):
        if answer.peak_db > PEAK_DB:
            fixes = (_damped(one),) if isinstance(one, LcFilter) and one.damping_ohm is None else ()
            yield _in(
                answer, "caution", one, Comparison(answer.peak_db, PEAK_DB, "dB"), Undamped(answer.peak_hz), fixes
            )


def _damped(one: LcFilter) -> Fix:
    farad = one.farad * one.count
    ohm = damping_ohm(one.henry, farad, DAMPING_RATIO)
    edits = (
        SetValue(element=one.id, field="damping_ohm", value=round(ohm, 3)),
        SetValue(element=one.id, field="damping_farad", value=DAMPING_RATIO * farad),
    )
    return Fix("damp", edits)


@dataclass(frozen=True)
class Saturated(Facts):
    henry: float
    left_h: float | None


@rule("noise.saturation", Saturated, sense="at most", sees="noise")
def saturated(case: NoiseCase) -> Iterator[Verdict]:
    """A coil whose core is full of direct current."""
    for one, answer in _filters(case):
        if isinstance(one, LcFilter) and saturates(answer.feed_a, one.saturation_a):
            compared = Comparison(answer.feed_a, one.saturation_a, "A")
            yield _in(answer, "caution", one, compared, Saturated(one.henry, answer.left_h))


@dataclass(frozen=True)
class WarmCoil(Facts):
    pass


@rule("noise.coil_heat", WarmCoil, sense="at most", sees="noise")
def warm_coil(case: NoiseCase) -> Iterator[Verdict]:
    """A coil or bead run over its heating current."""
    for one, answer in _filters(case):
        if answer.rise_k is not None and answer.rise_k > SHEET_RISE_K:
            severity: Severity = "fault" if answer.rise_k > HOT_RISE_K else "caution"
            yield always(severity, (one.id, one.at), Comparison(answer.rise_k, SHEET_RISE_K, "K"), WarmCoil())


@dataclass(frozen=True)
class CapacitorVolts(Facts):
    rated_v: float


@rule("noise.capacitor_volts", CapacitorVolts, sense="at most", sees="noise")
def voltage_class(case: NoiseCase) -> Iterator[Verdict]:
    """A capacitor whose rated volts are too few for what it sees in any condition, or on the full pack."""
    for one, answer in _filters(case):
        if not isinstance(one, FerriteFilter) and answer.allowed_v is not None and answer.bias_v > answer.allowed_v:
            severity: Severity = "danger" if over_rating(answer.bias_v, one.rated_v) else "caution"
            compared = Comparison(answer.bias_v, answer.allowed_v, "V")
            yield always(severity, (one.id, one.at), compared, CapacitorVolts(one.rated_v))


@dataclass(frozen=True)
class CapacitorRipple(Facts):
    pass


@rule("noise.capacitor_ripple", CapacitorRipple, sense="at most", sees="noise")
def ripple_current(case: NoiseCase) -> Iterator[Verdict]:
    """Ripple current that cooks a capacitor."""
    for one, answer in _filters(case):
        if isinstance(one, CapacitorFilter | LcFilter) and one.ripple_a and answer.ripple_a > one.ripple_a:
            yield _in(answer, "caution", one, Comparison(answer.ripple_a, one.ripple_a, "A"), CapacitorRipple())


@dataclass(frozen=True)
class Absent(Facts):
    ripple_v: float


@rule("noise.absent", Absent, sense="at least", sees="noise")
def absent(case: NoiseCase) -> Iterator[Verdict]:
    """A filter that is claimed by a print and is not there."""
    for one in case.plan.filters:
        if not one.fitted:
            fix = Fix("fit", (SetValue(element=one.id, field="fitted", value=True),))
            yield always("note", (one.id, one.at), Comparison(0, 1, ""), Absent(case.at_filter_v(one)), (fix,))


@dataclass(frozen=True)
class CanSwing(Facts):
    pass


@rule("noise.unstable", CanSwing, sense="at most", sees="noise")
def unstable(case: NoiseCase) -> Iterator[Verdict]:
    """A filter whose output impedance meets the negative resistance of the regulator behind it (Middlebrook)."""
    for one, answer in _filters(case):
        if answer.out_ohm is not None and answer.load_ohm is not None and answer.out_ohm >= answer.load_ohm:
            yield _in(answer, "fault", one, Comparison(answer.out_ohm, answer.load_ohm, "Ω"), CanSwing())


@dataclass(frozen=True)
class WrongSide(Facts):
    loudest: str
    loudest_hz: float


@rule("noise.wrong_side", WrongSide, sense="at least", sees="noise")
def wrong_side(case: NoiseCase) -> Iterator[Verdict]:
    """A filter that takes nothing off the loudest line at its own place."""
    for one, answer in _filters(case):
        if -PEAK_DB <= answer.loudest_db < USELESS_DB and answer.without_v >= QUIET_V:
            compared = Comparison(answer.loudest_db, USELESS_DB, "dB")
            yield _in(answer, "note", one, compared, WrongSide(answer.loudest, answer.loudest_hz))
