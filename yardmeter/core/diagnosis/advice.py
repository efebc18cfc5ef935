"""A diagnosis: causes by chance with what speaks for and against them, and the next thing to try by what it tells for each minute."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.diagnosis.causes import Cause
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.tries import Try, TryKind, find_try, planned_reading, readings, says_yes, tries
from yardmeter.core.diagnosis.weighing import Complaint, chances, fits
from yardmeter.core.errors import EditError
from yardmeter.core.search.next_best import entropy, outcomes_of, told_bits
from yardmeter.core.search.seen import Seen, likelihood, seen_of, unlike_any
from yardmeter.core.solver.circuit import Floats, Ints

CLOSE = 2e-4
"""Chance below which a cause is not worked out further."""
MOST, LEADING, SHOWN_TRIES = 18, 10, 5
NAMED = 0.9
LIKELY = 0.5
SLIP = 0.01
"""An answer that has nothing to do with the build; our choice."""
SAFE = 0.05
LEAST_BITS, LEAST_SHARE = 0.1, 0.25
"""What tells less is not worth doing: in bits, and beside what tells most."""
AROUND_MIN = 4.0
"""What anything takes beside itself: laying out, thinking, writing down; our choice."""
FINDS: frozenset[TryKind] = frozenset(("look", "setting", "wire", "flight"))
UNKNOWN_FINDS, UNKNOWN_YES = 0.1, 0.5
"""Chance of yes with something unknown: that a look finds something, and of any other question."""
APART_FRAC = 0.1


@dataclass(frozen=True)
class Evidence:
    """What was found: yes or no, or a reading [V, A, Ω]; None is a reading that shows open."""

    tried: str
    yes: bool | None = None
    value: float | None = None

    @property
    def said(self) -> str:
        return ("yes" if self.yes else "no") if self.yes is not None else "open" if self.value is None else f"{self.value:g}"  # fmt: skip


@dataclass(frozen=True)
class Expected:
    """What a cause makes of a try: chance of yes, or a reading."""

    cause: Cause
    yes_frac: float | None
    reading: float | None


@dataclass(frozen=True)
class Offered:
    """A try, what it tells on average, and what each leading cause makes of it. `then` is the chance of the leader after yes and no."""

    tried: Try
    bits: float
    expect: tuple[Expected, ...]
    then: tuple[float, float] | None = None
    planned: float | None = None
    parts: tuple[int, ...] = ()
    """How it parts the causes."""


@dataclass(frozen=True)
class Suspected:
    cause: Cause
    chance: float
    fit: tuple[tuple[str, float], ...]
    """By try, how well what was found fits it."""


Standing = Literal["open", "named", "unknown"]


@dataclass(frozen=True)
class Diagnosis:
    """`named` is what has been found; `second` another cause, where one alone does not explain all that was seen."""

    complaints: tuple[Complaint, ...]
    suspects: tuple[Suspected, ...]
    unknown: float
    offered: tuple[Offered, ...]
    standing: Standing
    named: Cause | None
    named_chance: float
    second: Cause | None
    limited: bool
    """Power only behind a limiter: a short is suspected."""
    grounded: bool
    """Not to be flown: what is suspected may take it down."""


def diagnose(known: Known, complaints: Sequence[Complaint], evidence: Sequence[Evidence] = ()) -> Diagnosis:
    """What it may be and what to do next. Raises EditError for evidence that contradicts itself."""
    _agreeing(evidence)
    first = complaints[0]
    chance, unknown, other = chances(known, complaints)
    fit: dict[int, list[tuple[str, float]]] = {}
    for one in evidence:
        tried = find_try(known, first, one.tried)
        close = _close(chance)
        own = _likely(known, first, tried, one, [known.causes[k] for k in close])
        factor = np.full(len(chance), SLIP)
        factor[close] = own
        for k, much in zip(close, own, strict=True):
            fit.setdefault(k, []).append((one.tried, float(much)))
        weights = chance * factor
        none = unknown * _unknown(known, tried, one)
        total = float(weights.sum()) + none
        chance, unknown = weights / total, none / total
    done = {one.tried for one in evidence}
    second = known.causes[other] if other is not None else None
    return _advised(known, complaints, chance, unknown, done, fit, second)


def _agreeing(evidence: Sequence[Evidence]) -> None:
    """Raises EditError where the same thing was found twice, differently."""
    found: dict[str, Evidence] = {}
    for one in evidence:
        before = found.setdefault(one.tried, one)
        if before.yes != one.yes or not _near(before.value, one.value):
            raise EditError(
                f"Two answers contradict each other: {before.said} and {one.said}.", where=one.tried,
                remedy="Try it once more, and keep the answer that holds.",
            )  # fmt: skip


def _near(a: float | None, b: float | None) -> bool:
    if a is None or b is None:
        return a is b
    return abs(a - b) <= APART_FRAC * max(abs(a), abs(b), 0.5)


def _unknown(known: Known, tried: Try, one: Evidence) -> float:
    """How well an answer fits something nobody thought of: most of what it leaves reads and looks as sound."""
    if tried.scale:
        return unlike_any(seen_of(tried.scale, one.value), planned_reading(known, tried))
    yes = UNKNOWN_FINDS if tried.kind in FINDS else UNKNOWN_YES
    return yes if one.yes else 1 - yes


def _close(chance: Floats) -> list[int]:
    order = np.argsort(-chance, kind="stable")[:MOST]
    return [int(k) for k in order if chance[k] > CLOSE]


def _likely(known: Known, complaint: Complaint, tried: Try, one: Evidence, causes: list[Cause]) -> Floats:
    if tried.scale is None:
        if one.yes is None:
            raise EditError("It is answered by yes or no.", where=one.tried, remedy="Say whether it did.")
        yes = says_yes(known, complaint, tried, causes)
        return yes if one.yes else 1 - yes
    if one.yes is not None:
        raise EditError("It is answered by a reading.", where=one.tried, remedy="Say what the meter shows.")
    seen: Seen = seen_of(tried.scale, one.value)
    own = readings(known, tried, causes)
    return np.maximum(likelihood(seen, own, planned_reading(known, tried)), SLIP)


def _advised(
    known: Known, complaints: Sequence[Complaint], chance: Floats, unknown: float, done: set[str], fit: dict[int, list[tuple[str, float]]],
    second: Cause | None,
) -> Diagnosis:  # fmt: skip
    close = _close(chance)
    group: dict[tuple[str, ...], float] = {}
    for k in close:
        key = known.causes[k].mended_by
        group[key] = group.get(key, 0.0) + float(chance[k])
    best = max(group, key=lambda key: group[key], default=())
    named = next((known.causes[k] for k in close if known.causes[k].mended_by == best), None)
    settled = named is not None and group[best] >= NAMED
    burns, falls = _dangers(known, close, chance)
    leading = [known.causes[k] for k in close[:LEADING]]
    offered = () if settled or not leading else tuple(_offers(known, complaints[0], close, chance, leading, done, burns=burns, falls=falls))  # fmt: skip
    if not settled and not offered and named is not None and group[best] > max(unknown, LIKELY):
        settled = True
    standing: Standing = "named" if settled else "unknown" if unknown > LIKELY or not close else "open"
    return Diagnosis(
        tuple(complaints),
        tuple(Suspected(known.causes[k], float(chance[k]), tuple(fit.get(k, ()))) for k in close[:LEADING]),
        unknown, offered, standing, named if settled else None, group.get(best, 0.0), second or (_second(known, complaints[0], named) if settled and named else None),
        burns, falls,
    )  # fmt: skip


def _dangers(known: Known, close: list[int], chance: Floats) -> tuple[bool, bool]:
    """Whether power would burn something, and whether flying might end in a fall."""
    burns = falls = 0.0
    for k in close:
        would = known.consequence(known.causes[k])
        if would is None:
            continue
        if would.amps_a > 0 or would.volts_v or (known.causes[k].edits is None and known.causes[k].fault):
            burns += float(chance[k])
        if would.dangerous:
            falls += float(chance[k])
    return burns > SAFE, falls > SAFE


def _offers(
    known: Known, complaint: Complaint, close: list[int], chance: Floats, leading: list[Cause], done: set[str], *, burns: bool, falls: bool
) -> list[Offered]:  # fmt: skip
    causes = [known.causes[k] for k in close]
    share = chance[close] / chance[close].sum()
    keys = [repr(one.mended_by) for one in causes]
    group = np.asarray(np.unique(keys, return_inverse=True)[1], np.intp)
    found: list[tuple[float, Offered]] = []
    for one in tries(known, complaint, leading):
        if one.id in done or (burns and one.power in ("bench", "air")) or (falls and one.power == "air"):
            continue
        made = _read(known, one, causes, share, group) if one.scale else _asked(known, complaint, one, causes, share, group)  # fmt: skip
        if made.bits >= LEAST_BITS:
            found.append((made.bits / (one.minutes + AROUND_MIN), made))
    most = max((made.bits for _, made in found), default=0.0)
    found = sorted((pair for pair in found if pair[1].bits >= LEAST_SHARE * most), key=lambda pair: -pair[0])
    # Of those that part the causes alike the first is enough.
    told: dict[tuple[int, ...], Offered] = {}
    for _, made in found:
        told.setdefault(made.parts, made)
    return list(told.values())[:SHOWN_TRIES]


EXPECTED = 4


def _asked(known: Known, complaint: Complaint, one: Try, causes: list[Cause], share: Floats, group: Ints) -> Offered:  # fmt: skip
    yes = says_yes(known, complaint, one, causes)
    bits, then = question_bits(yes, share, group)
    expect = tuple(Expected(c, float(y), None) for c, y in zip(causes[:EXPECTED], yes, strict=False))
    return Offered(one, bits, expect, then, None, tuple(np.rint(20 * yes).astype(int).tolist()))


def _read(known: Known, one: Try, causes: list[Cause], share: Floats, group: Ints) -> Offered:
    own, planned = readings(known, one, causes), planned_reading(known, one)
    assert one.scale is not None
    label = outcomes_of(one.scale, own, planned)
    bits = float(told_bits(label[None, :], share, group)[0])
    expect = tuple(Expected(c, None, float(r)) for c, r in zip(causes[:EXPECTED], own, strict=False))
    return Offered(one, bits, expect, None, planned, tuple(np.unique(label, return_inverse=True)[1].tolist()))


def _second(known: Known, complaint: Complaint, named: Cause) -> Cause | None:
    """Another cause that is likely there too: one the plan foresees for the same."""
    alone = fits(known, complaint)
    for k in np.argsort(-alone, kind="stable")[:3]:
        other = known.causes[int(k)]
        if other.foreseen and alone[k] > LIKELY and other.mended_by != named.mended_by:
            return other
    return None


def question_bits(yes: Floats, share: Floats, group: Ints) -> tuple[float, tuple[float, float]]:
    """What knowing the answer takes off the entropy of what has to be mended, and the first group's chance after yes and no.

    `yes` is the chance of it with each cause [C], `share` how likely each is, `group` which are mended alike. Source: Shannon.
    """
    count = int(group.max()) + 1
    before: Floats = np.asarray(np.bincount(group, share, count), np.float64)
    left, after = 0.0, []
    for told in (yes, 1 - yes):
        weights = share * told
        total = float(weights.sum())
        by_group: Floats = np.asarray(np.bincount(group, weights / total, count), np.float64)
        left += total * float(entropy(by_group[None, :])[0])
        after.append(float(by_group[group[0]]))
    return float(entropy(before[None, :])[0]) - left, (after[0], after[1])
