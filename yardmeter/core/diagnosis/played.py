"""A craft with a cause hidden in it: what its builder would see, and what every try would find. For training, tests and timings."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.diagnosis.advice import Diagnosis, Evidence, diagnose
from yardmeter.core.diagnosis.causes import Cause
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.symptoms import SYMPTOMS, Symptom, places
from yardmeter.core.diagnosis.tries import PROBE_MIN, REPRO_MIN, SWAP_MIN, Try, readings, says_yes
from yardmeter.core.diagnosis.weighing import Complaint, fit_of, fits
from yardmeter.core.errors import EditError
from yardmeter.core.plan import Device, Regulator, Supply

SHOWS = 0.3
"""A symptom less likely than this with a cause is not how it is found."""
READ_FRAC = 0.02
PARTS_OHM, PARTS_LN = 5.0, 0.15
"""Ohms through parts, not copper, are nobody's to the digit."""
MOST_TRIES = 8


@dataclass(frozen=True)
class Played:
    """How a hidden cause was found: `rank` is the place of its repair, 0 the first, before any try and at the end."""

    cause: Cause
    complaint: Complaint
    first_rank: int
    rank: int
    tried: tuple[Try, ...]
    minutes: float
    usual_minutes: float
    """Of trying things in the usual order: parts one after the other, the likeliest first, each seen again."""
    chance: float
    """Of what leads at the end."""
    settled: bool


def shown_by(known: Known, cause: Cause) -> list[tuple[float, Complaint]]:
    """Symptoms a cause shows as, the surest first, each at its surest place."""
    found = []
    for symptom in SYMPTOMS.values():
        best: tuple[float, Complaint] | None = None
        for where in _near(known, symptom, cause):
            chance = fit_of(known, cause, Complaint(symptom, where))
            if best is None or chance > best[0]:
                best = chance, Complaint(symptom, where)
        if best and best[0] >= SHOWS:
            found.append(best)
    return sorted(found, key=lambda pair: -pair[0])


def _near(known: Known, symptom: Symptom, cause: Cause) -> tuple[str, ...]:
    every = places(known.plan, symptom)
    own = [one for one in every if one in cause.elements]
    return tuple(dict.fromkeys((*own, *every[:3])))


def play(known: Known, cause: Cause, complaint: Complaint, seed: int) -> Played:
    """Follow the advice, the best try first, until a cause is named or nothing is left to try."""
    rng, craft = np.random.default_rng(seed), specimen(known, seed)
    evidence: list[Evidence] = []
    tried: list[Try] = []
    first: Diagnosis | None = None
    found = diagnose(known, [complaint])
    while found.standing != "named" and found.offered and len(tried) < MOST_TRIES:
        first = first or found
        one = found.offered[0].tried
        evidence.append(found_by(known, complaint, one, cause, rng, craft))
        tried.append(one)
        found = diagnose(known, [complaint], evidence)
    first = first or found
    named = found.suspects[0].chance if found.suspects else 0.0
    return Played(
        cause, complaint, rank_of(first, cause), rank_of(found, cause), tuple(tried), sum(one.minutes for one in tried),
        usual_minutes(known, complaint, cause), named, found.standing == "named",
    )  # fmt: skip


def specimen(known: Known, seed: int) -> Known:
    """One craft of the plan: draws, set points and the pack's resistance somewhere within their bands."""
    plan, rng = known.plan, np.random.default_rng([seed, 77])

    def drawn(device: Device) -> Device:
        factor = max(1 + plan.policy.band_frac(device.draws.typical.provenance) * float(rng.uniform(-1, 1)), 0.1)
        states = {
            name: one.model_copy(update={"value": one.value * factor}) for name, one in device.draws if one is not None
        }
        return device.model_copy(update={"draws": device.draws.model_copy(update=states)})

    def set_to(one: Supply) -> Supply:
        if not isinstance(one, Regulator):
            return one
        return one.model_copy(update={"set_v": one.set_v * (1 + one.set_tol_frac * float(rng.uniform(-1, 1)))})

    ohm = plan.pack.cell_ohm * (1 + plan.pack.resistance_tol_frac * float(rng.uniform(-1, 1)))
    made = Known(
        plan.model_copy(
            update={
                "devices": tuple(drawn(one) for one in plan.devices), "supplies": tuple(set_to(one) for one in plan.supplies),
                "pack": plan.pack.model_copy(update={"cell_ohm": ohm}),
            }
        )
    )  # fmt: skip
    made.by.__dict__["spread_v"] = known.by.spread_v
    made.__dict__["signatures"] = known.signatures
    return made


def found_by(known: Known, complaint: Complaint, one: Try, cause: Cause, rng: np.random.Generator, craft: Known | None = None) -> Evidence:  # fmt: skip
    """What a try finds with the cause in a craft of its own; chance decides what is not certain."""
    if one.scale is None:
        return Evidence(one.id, yes=bool(rng.random() < says_yes(known, complaint, one, [cause])[0]))
    value = float(readings(craft or known, one, [cause])[0])
    if one.scale == "ohms" and value > PARTS_OHM:
        value *= float(np.exp(PARTS_LN * rng.standard_normal()))
    if not np.isfinite(value):
        value = 0.0
    return Evidence(one.id, value=value * float(1 + READ_FRAC * rng.standard_normal()))


def rank_of(found: Diagnosis, cause: Cause) -> int:
    """The place of a cause's repair among those suspected; far behind where it is not there."""
    keys = list(dict.fromkeys(one.cause.mended_by for one in found.suspects))
    return keys.index(cause.mended_by) if cause.mended_by in keys else 99


def usual_minutes(known: Known, complaint: Complaint, cause: Cause) -> float:
    """Minutes of the usual way: what may be it is changed or looked at one by one, as often as it happens, and tried again each time."""
    every = fits(known, complaint)
    order = np.argsort([-one.prior * f for one, f in zip(known.causes, every, strict=True)], kind="stable")
    repro = REPRO_MIN[complaint.symptom.looks[0].when]
    spent, done = 0.0, set()
    for k in order:
        one = known.causes[int(k)]
        if one.mended_by in done:
            continue
        done.add(one.mended_by)
        spent += repro + (PROBE_MIN if one.fault else one.setting.minutes if one.setting else SWAP_MIN)
        if one.mended_by == cause.mended_by:
            break
    return spent


def hidden(known: Known, seed: int) -> tuple[Cause, Complaint]:
    """A cause to find, drawn as often as it happens, and how it shows. Raises EditError for a build with none that shows."""
    rng = np.random.default_rng(seed)
    likely = [one for one in known.causes if not one.foreseen]
    weights = np.array([one.prior for one in likely])
    for k in rng.choice(len(likely), size=min(20, len(likely)), replace=False, p=weights / weights.sum()):
        shown = shown_by(known, likely[int(k)])
        if shown:
            return likely[int(k)], shown[0][1]
    raise EditError("Nothing that can be hidden here shows.", where="training", remedy="Add devices first.")
