"""From what was seen to chances: every cause weighs as often as it is there, times how well it explains everything that was seen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.diagnosis.causes import Cause
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.symptoms import Symptom
from yardmeter.core.solver.circuit import Floats

NOT_BY_IT = 0.001
"""Chance that a symptom is there with a cause that does not make it; our choice, as are the next."""
NOT_FORESEEN = 1e-5
"""The same of what the plan itself foresees: that is there all along, and makes what it makes."""
NOT_SET = 2e-4
"""The same of a setting that is not known to show like this."""
NOT_NOTICED = 0.05
"""Chance that something shows and the builder says it does not."""
UNKNOWN_SHARE, UNKNOWN_FITS = 0.05, 0.04
"""How often it is nothing on the list, and how well anything fits that."""


@dataclass(frozen=True)
class Complaint:
    """A symptom at its place. `since` are elements that were changed last before it."""

    symptom: Symptom
    where: str
    since: frozenset[str] = frozenset()


TWO_SHARE = 0.1
"""How often there are two causes at once; our choice."""
RECENT_TIMES = 4.0
"""What was worked on last is suspected first; common practice, no source."""
OTHER_KIND = 0.15
"""A setting of one kind of device, and a symptom of another."""


def fits(known: Known, complaint: Complaint) -> Floats:
    """How well each cause explains the complaint [C]."""
    return np.array([fit_of(known, one, complaint) for one in known.causes])


def fit_of(known: Known, cause: Cause, complaint: Complaint) -> float:
    """The same of one cause."""
    symptom, where = complaint.symptom, complaint.where
    if cause.setting:
        makes = cause.setting.makes.get(symptom.id, 0.0)
        device = known.plan.device_of.get(where)
        if device and cause.setting.devices and device.kind not in cause.setting.devices:
            makes *= OTHER_KIND
        return max(makes, NOT_SET)
    looks = known.looks_for(cause, symptom)
    found, least = 1.0, NOT_FORESEEN if cause.foreseen else NOT_BY_IT
    for look in symptom.looks:
        chance = known.chance(cause, look.obs, look.when, where, looks)
        if look.shows:
            found *= max(chance, least)
        else:  # whoever says that it is fine there saw the whole craft, not this cause alone
            found *= max((1 - chance) * (1 - known.planned(cause, look.obs, look.when, where)), NOT_NOTICED)
        if found <= least * NOT_NOTICED:
            break
    return max(found, least * NOT_NOTICED)


def priors(known: Known, since: frozenset[str]) -> Floats:
    """How often each is there [C], what was changed last before the others."""
    return np.array([one.prior * (RECENT_TIMES if since & set(one.elements) else 1.0) for one in known.causes])


def normed(weights: Floats, unknown: float) -> tuple[Floats, float]:
    total = float(weights.sum()) + unknown
    return weights / total, unknown / total


def chances(known: Known, complaints: Sequence[Complaint]) -> tuple[Floats, float, int | None]:
    """Chances of all causes [C] by what was complained of, and of none of them; and what is behind the rest, where one cause
    alone explains it worse than two do: then they are the chances of the first complaint's."""
    since = frozenset().union(*(one.since for one in complaints))
    often = priors(known, since)
    each = [often * fits(known, one) for one in complaints]
    together = often * np.prod([fits(known, one) for one in complaints], axis=0)
    unknown = UNKNOWN_SHARE * UNKNOWN_FITS
    if len(complaints) > 1:
        apart = TWO_SHARE * float(np.prod([one.sum() for one in each]))
        if apart > float(together.sum()):
            return (*normed(each[0], unknown), int(np.argmax(each[1])))
        unknown *= UNKNOWN_FITS ** (len(complaints) - 1)
    return (*normed(together, unknown), None)
