"""Plans side by side: rails, devices, supplies, weight, wires, findings, and what is wired differently, in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from yardmeter.core.answers.model import Answer
from yardmeter.core.elements.wire import NO_A
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_si
from yardmeter.core.verdict import SEVERITY_ORDER, Severity
from yardmeter.review.analysis import Analysis
from yardmeter.review.differences import differences
from yardmeter.review.noise_review import NoiseReview
from yardmeter.words.told import Finding

NOTICED_FRAC = 0.25
"""Share of a signal's margin from which its shift is worth a line."""


class Cell(Answer):
    """One number of one plan, with what is best among the plans marked."""

    text: str
    value: float | None
    best: bool = False
    bad: bool = False


class Row(Answer):
    label: str
    group: str
    cells: tuple[Cell, ...]


class FindingRow(Answer):
    """A finding that any of the plans has: by plan how heavy it is there, and in that plan's own words; none where it is not."""

    title: str
    severities: tuple[Severity | None, ...]
    titles: tuple[str | None, ...]


class Comparison(Answer):
    names: tuple[str, ...]
    rows: tuple[Row, ...]
    findings: tuple[FindingRow, ...]
    differences: tuple[tuple[str, ...], ...]
    """For each plan after the first, what is wired differently from the first."""


@dataclass(frozen=True)
class Side:
    """One of the plans compared, with what is known of it."""

    plan: Plan
    analysis: Analysis
    noise: NoiseReview

    @property
    def findings(self) -> tuple[Finding, ...]:
        return (*self.analysis.findings, *self.noise.findings)


def compare(sides: Sequence[Side]) -> Comparison:
    """Two or more plans; rows hold the worst over each plan's own pack conditions."""
    plans, analyses = [side.plan for side in sides], [side.analysis for side in sides]
    rows = [
        *_totals(sides),
        *_rails(plans, analyses),
        *_supplies(plans, analyses),
        *_devices(plans, analyses),
        *_shifts(sides),
        *_noises(sides),
    ]
    return Comparison(
        names=tuple(plan.name for plan in plans),
        rows=tuple(rows),
        findings=_findings(sides),
        differences=tuple(tuple(differences(plans[0], other)) for other in plans[1:]),
    )


def _row(
    group: str,
    label: str,
    values: Sequence[float | None],
    unit: str,
    *,
    higher: bool,
    bad_below: float | None = None,
    bad_above: Sequence[float | None] | None = None,
) -> Row:
    """`bad_above` is each plan's own limit."""
    above = bad_above or [None] * len(values)
    known = [v for v in values if v is not None]
    best = (max(known) if higher else min(known)) if known else None
    spread = len({format_si(v, unit) for v in known}) > 1
    cells = [
        Cell(
            text=format_si(v, unit) if v is not None else "–",
            value=v,
            best=spread and v is not None and v == best,
            bad=v is not None and ((bad_below is not None and v < bad_below) or (limit is not None and v > limit)),
        )
        for v, limit in zip(values, above, strict=True)
    ]
    return Row(group=group, label=label, cells=tuple(cells))


def electronics_g(plan: Plan) -> float:
    """What everything fitted weighs, without pack and wires [g]."""
    return (
        sum(one.weight_g for one in (*plan.boards, *plan.devices, *plan.supplies))
        + sum(one.weight_g * one.count for one in plan.filters if one.fitted)
        + sum(one.weight_g for one in plan.clamps if one.fitted)
    )


def _totals(sides: Sequence[Side]) -> list[Row]:
    def count(severities: tuple[str, ...]) -> list[float | None]:
        return [float(sum(f.severity in severities for f in side.findings)) for side in sides]

    plans = [side.plan for side in sides]
    weights: list[float | None] = [electronics_g(one) for one in plans]
    wires: list[float | None] = [
        float(sum(1 for d in p.devices if d.feed) + sum(1 for _ in p.returns()) + sum(1 for s in p.supplies if s.feed))
        for p in plans
    ]
    minutes: list[float | None] = [
        next((_minutes(side.plan, c.pack_a) for c in side.analysis.budget.conditions if c.id == "hover"), None)
        for side in sides
    ]
    return [
        _row("whole plan", "dangers and faults", count(("danger", "fault")), "", higher=False),
        _row("whole plan", "cautions", count(("caution",)), "", higher=False),
        _row("whole plan", "weight of electronics", weights, "g", higher=False),
        _row("whole plan", "wires", wires, "", higher=False),
        _row("whole plan", "minutes in hover, full to floor", minutes, "", higher=True),
    ]


def _minutes(plan: Plan, pack_a: float) -> float | None:
    """How long a full pack lasts down to its floor at the amps of a condition, however charged it is there."""
    return plan.pack.charge_ah / pack_a * 60 if pack_a > 1e-3 else None


def _ordered(groups: Sequence[dict[str, str]]) -> dict[str, str]:
    """Ids with names over all plans, in the order they first appear."""
    names: dict[str, str] = {}
    for group in groups:
        for key, name in group.items():
            names.setdefault(key, name)
    return names


def _on_pack(plan: Plan) -> list[str]:
    return [c.id for c in plan.conditions if c.on_pack]


def _rails(plans: Sequence[Plan], analyses: Sequence[Analysis]) -> list[Row]:
    rows = []
    for key, name in _ordered([{r.id: r.name for r in a.budget.rails} for a in analyses]).items():
        values: list[float | None] = []
        for plan, analysis in zip(plans, analyses, strict=True):
            rail = next((r for r in analysis.budget.rails if r.id == key), None)
            values.append(
                min((rail.states[c].spare_a for c in _on_pack(plan) if rail.states[c].limits), default=None)
                if rail
                else None
            )
        rows.append(_row("spare amps, worst", name, values, "A", higher=True, bad_below=-NO_A))
    return rows


def _supplies(plans: Sequence[Plan], analyses: Sequence[Analysis]) -> list[Row]:
    spare, hot = [], []
    for key, name in _ordered([{s.id: s.name for s in a.budget.supplies} for a in analyses]).items():
        headroom: list[float | None] = []
        temps: list[float | None] = []
        for plan, analysis in zip(plans, analyses, strict=True):
            supply = next((s for s in analysis.budget.supplies if s.id == key), None)
            states = [supply.states[c] for c in _on_pack(plan)] if supply else []
            headroom.append(min((s.headroom_v for s in states if s.headroom_v is not None), default=None))
            temps.append(max((s.still_temp_c for s in states if s.still_temp_c is not None), default=None))
        if any(h is not None for h in headroom):
            spare.append(_row("headroom, worst", name, headroom, "V", higher=True, bad_below=0))
        if any(t is not None for t in temps):
            hot.append(_row("still air, hottest", name, temps, "°C", higher=False))
    return [*spare, *hot]


def _devices(plans: Sequence[Plan], analyses: Sequence[Analysis]) -> list[Row]:
    rows = []
    for key, name in _ordered([{d.id: d.name for d in a.budget.devices} for a in analyses]).items():
        margins: list[float | None] = []
        for plan, analysis in zip(plans, analyses, strict=True):
            device = next((d for d in analysis.budget.devices if d.id == key), None)
            states = [device.states[c] for c in _on_pack(plan)] if device else []
            live = [s.pin_v for s in states if s.verdict != "off"]
            margins.append(min(min(v - device.min_v, device.max_v - v) for v in live) if device and live else None)
        rows.append(_row("volts inside the window, least", name, margins, "V", higher=True, bad_below=0))
    return rows


def _shifts(sides: Sequence[Side]) -> list[Row]:
    """Signals of which any plan uses up a noticeable share of the margin."""
    signals = [side.analysis.returns.signals for side in sides]
    worst = [{one.id: max((at.shift_v for at in one.states.values()), default=0.0) for one in own} for own in signals]
    margins = [{one.id: one.margin_v for one in own} for own in signals]
    rows = []
    names = [{one.id: side.plan.title(one.id) for one in own} for side, own in zip(sides, signals, strict=True)]
    for key, name in _ordered(names).items():
        values, limits = [w.get(key) for w in worst], [m.get(key) for m in margins]
        if any(v is not None and m is not None and v > NOTICED_FRAC * m for v, m in zip(values, limits, strict=True)):
            rows.append(_row("ground shift along a signal, worst", name, values, "V", higher=False, bad_above=limits))
    return rows


def _noises(sides: Sequence[Side]) -> list[Row]:
    """Pictures by their level, then ripple at the pins."""
    rows = []
    videos = [{v.signal: max(v.level_db.values(), default=None) for v in side.noise.videos} for side in sides]
    for key, name in _ordered([{v.signal: s.plan.title(v.signal) for v in s.noise.videos} for s in sides]).items():
        levels: list[float | None] = [v.get(key) for v in videos]
        limits: list[float | None] = [side.noise.visible_db for side in sides]
        rows.append(_row("interference under full picture, worst", name, levels, "dB", higher=False, bad_above=limits))
    pins = [{p.device: p for p in side.noise.pins} for side in sides]
    for key, name in _ordered([{p.device: s.plan.title(p.device) for p in s.noise.pins} for s in sides]).items():
        found = [one.get(key) for one in pins]
        ripples = [(max(p.total_v.values(), default=0.0) or None) if p else None for p in found]
        stands = [p.tolerated_v if p else None for p in found]
        rows.append(_row("ripple at the pins, worst", name, ripples, "V", higher=False, bad_above=stands))
    return rows


def _findings(sides: Sequence[Side]) -> tuple[FindingRow, ...]:
    """The heaviest first. A finding that is a note in every plan that has it is left out."""
    own = [{one.key: one for one in side.findings} for side in sides]
    rows = []
    for key in dict.fromkeys(key for one in own for key in one):
        found = [one.get(key) for one in own]
        there = [one for one in found if one]
        if all(one.severity == "note" for one in there):
            continue
        row = FindingRow(
            title=there[0].title,
            severities=tuple(one and one.severity for one in found),
            titles=tuple(one and one.title for one in found),
        )
        rows.append((min(SEVERITY_ORDER[one.severity] for one in there), row))
    return tuple(row for _, row in sorted(rows, key=lambda one: one[0]))
