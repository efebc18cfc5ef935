"""A pair of hands that goes through a whole bench list on a build with a fault in it: what stops them, and where.

They stand for a builder who does what the list says, and for one who does not: probes that stay where they were, a meter that is
late or whose range changes. What passes here passes at a bench.
"""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.faults import Fault, seen_frac
from yardmeter.core.procedures import Step, judge
from yardmeter.core.procedures.handsfree import Watch
from yardmeter.core.search.played import read_list
from yardmeter.core.search.signatures import Signatures
from yardmeter.core.search.twin import Twin

EVERY_S = 0.25
"""Between two readings of a meter."""
SAMPLES = 16


@dataclass(frozen=True)
class Stopped:
    """The first step that does not pass, with how it was found; `by` is empty where none did before power is on."""

    by: str
    step: Step | None


def stopped(known: Signatures, twin: Twin, fault: Fault, *, eyes: bool = True) -> Stopped:
    """What keeps power away from a fault: the meter, else a look that is about it, else the first power through its limiter."""
    failed = next((step for step, _, value in read_list(known, twin) if not judge(step, value).passed), None)
    if failed is not None:
        return Stopped("meter", failed)
    if eyes and (look := seen_at(known, fault)) is not None:
        return Stopped("eyes", look)
    limiter = known.made.step.get("limiter-first")
    if limiter is not None:
        amps = twin.first_amps(limiter)
        if not judge(limiter, amps).passed:
            return Stopped("limiter", limiter)
    return Stopped("", None)


def seen_at(known: Signatures, fault: Fault) -> Step | None:
    """A look of the list that is about the fault's own parts, of a kind that shows to eyes at all."""
    if not seen_frac(fault.kind):
        return None
    looks = (one for one in known.made.steps if one.gate == "eyes" and one.look)
    return next((one for one in looks if set(one.elements) & set(fault.elements)), None)


MISHAPS = ("none", "stays", "wrong pads", "late", "range", "mode")


def shown_to(rng: random.Random, mishap: str, before: float | None, here: float | None, elsewhere: float | None) -> Iterator[tuple[float | None, float]]:  # fmt: skip
    """What a meter shows, with seconds since its mode was changed, while hands go from one place to the next. `before` is what it
    shows at the place they come from, `here` at the step's own, `elsewhere` at pads beside it."""
    mode_s = 0.0 if mishap == "mode" else 60.0
    moves_at = rng.randint(2, 5)
    for k in range(SAMPLES):
        away = moves_at <= k < moves_at + 4
        match mishap:
            case "stays" | "mode":
                value = before
            case "range":
                value = None if k in (moves_at, moves_at + 1) else before
            case "late":
                value = before if k < moves_at + 4 else here  # it shows the hand's way only when the hand is there
            case "wrong pads":
                value = (
                    before if k < moves_at else 0.1 if away and (elsewhere or 99) > 50 else None if away else elsewhere
                )
            case _:
                silent = here is None or here > 50
                value = before if k < moves_at else (0.1 if silent else None) if away else here
        yield value, mode_s + EVERY_S * k


def entered(step: Step, shown: Iterator[tuple[float | None, float]]) -> float | str | None:
    """What enters itself of what a meter shows, “nothing” where nothing does."""
    watch = Watch(step, 0.1 if step.expected is None or step.expected.unit == "Ω" else 1e-3)
    for k, (value, mode_s) in enumerate(shown):
        if watch.feed(value, EVERY_S * k, mode_s) == "":
            return value
    return "nothing"
