"""Workings of ripple at pins and of interference on pictures."""

from __future__ import annotations

from yardmeter.core.errors import UnknownElementError
from yardmeter.core.plan import Condition, Plan
from yardmeter.core.units import format_si
from yardmeter.review.noise_review import NoiseReview
from yardmeter.review.workings.model import Working, given
from yardmeter.words.told import number

ORIGIN = {
    "pwm": "estimate: line n of the chopped motor current, 2I/(nπ) · |sin(nπD)| / √motors, D the throttle",
    "commutation": "estimate: a share of the motor current at 6 · pole pairs · rev/s",
    "switching": "the regulator's ripple as stated, and the pulses its input takes",
    "burst": "estimate: line n of the bursts from idle to peak",
}


def noise_working(plan: Plan, review: NoiseReview, element: str, condition: Condition) -> Working:
    """Ripple at a device's pins, or interference on a video signal; raises UnknownElementError for anything else."""
    if element in plan.device_of:
        return _pin(plan, review, element, condition)
    if element in plan.signal_of:
        return _picture(plan, review, element, condition)
    raise UnknownElementError("There is no noise of that.", where=element, remedy="Ask for a device or a video signal.")


def _origin(plan: Plan, element: str, kind: str) -> str:
    measured = any(one.element == element and one.kind == kind for one in plan.noises)
    return "measured" if measured else ORIGIN[kind]


def _pin(plan: Plan, review: NoiseReview, device: str, condition: Condition) -> Working:
    pin = next((p for p in review.pins if p.device == device), None)
    if pin is None:
        raise UnknownElementError(f"{plan.title(device)} is not fed.", where=device, remedy="Feed it from a rail.")
    lines = pin.lines[condition.id]
    return Working(
        title=f"{plan.title(device)}: ripple at its pins in {condition.name}",
        formula="U = √(U₁² + U₂² + …), each line through the network at its own frequency",
        result=number("peak to peak", pin.total_v[condition.id], "V"),
        inputs=tuple(
            given(
                f"U{n}",
                f"{line.words}, {format_si(line.hz, 'Hz')}",
                line.pp_v,
                "V",
                _origin(plan, line.element, line.kind),
            )
            for n, line in enumerate(lines, 1)
        ),
        note=f"The loudest {len(lines)} lines. It stands {format_si(pin.tolerated_v, 'V')}.",
    )


def _picture(plan: Plan, review: NoiseReview, signal: str, condition: Condition) -> Working:
    video = next((v for v in review.videos if v.signal == signal), None)
    if video is None:
        raise UnknownElementError(
            f"{plan.title(signal)} carries no picture.", where=signal, remedy="Ask for a video signal."
        )
    lines = video.lines[condition.id]
    return Working(
        title=f"{plan.title(signal)}: interference in {condition.name}",
        formula="U = √Σ(U_ground + U_supply)², level = 20 log(U / 714 mV)",
        result=number("peak to peak", video.total_v[condition.id], "V"),
        inputs=tuple(
            given(
                f"U{n}", f"{line.words}, {format_si(line.hz, 'Hz')}", line.supply_v + line.ground_v, "V",
                f"{format_si(line.ground_v, 'V')} between the grounds of its ends, {format_si(line.supply_v, 'V')} through "
                "the supplies' ripple and the devices' rejection",
            )
            for n, line in enumerate(lines, 1)
        ),
        note=f"{video.level_db[condition.id]:.0f} dB under full picture (SMPTE ST 170); seen from {review.visible_db:.0f} dB.",
    )  # fmt: skip
