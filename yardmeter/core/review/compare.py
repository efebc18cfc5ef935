"""Plans side by side: rails, devices, supplies, weight, wires, findings, and what is wired differently, in words."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan import Board, Plan, Rail, Supply
from yardmeter.core.review.analysis import Analysis
from yardmeter.core.units import format_si


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
    """A finding and which plans have it."""

    title: str
    severity: str
    present: tuple[bool, ...]


class Comparison(Answer):
    names: tuple[str, ...]
    rows: tuple[Row, ...]
    findings: tuple[FindingRow, ...]
    differences: tuple[tuple[str, ...], ...]
    """For each plan after the first, what is wired differently from the first."""


def compare(plans: Sequence[Plan], analyses: Sequence[Analysis]) -> Comparison:
    """Two or more plans; rows hold the worst over each plan's own pack conditions."""
    rows = [
        *_totals(plans, analyses),
        *_rails(plans, analyses),
        *_supplies(plans, analyses),
        *_devices(plans, analyses),
    ]
    return Comparison(
        names=tuple(plan.name for plan in plans),
        rows=tuple(rows),
        findings=_findings(analyses),
        differences=tuple(tuple(_wiring(plans[0], other)) for other in plans[1:]),
    )


def _row(
    group: str, label: str, values: Sequence[float | None], unit: str, *, higher: bool, bad_below: float | None = None
) -> Row:
    known = [v for v in values if v is not None]
    best = (max(known) if higher else min(known)) if known else None
    spread = len({format_si(v, unit) for v in known}) > 1
    cells = [
        Cell(
            text=format_si(v, unit) if v is not None else "–",
            value=v,
            best=spread and v is not None and v == best,
            bad=v is not None and bad_below is not None and v < bad_below,
        )
        for v in values
    ]
    return Row(group=group, label=label, cells=tuple(cells))


def _totals(plans: Sequence[Plan], analyses: Sequence[Analysis]) -> list[Row]:
    def count(severities: tuple[str, ...]) -> list[float | None]:
        return [float(sum(f.severity in severities for f in a.findings)) for a in analyses]

    weights: list[float | None] = [
        sum(b.weight_g for b in p.boards) + sum(d.weight_g for d in p.devices) + sum(s.weight_g for s in p.supplies)
        for p in plans
    ]
    wires: list[float | None] = [
        float(sum(1 for d in p.devices if d.feed) + sum(1 for _ in p.returns()) + sum(1 for s in p.supplies if s.feed))
        for p in plans
    ]
    minutes: list[float | None] = [
        next((c.minutes for c in a.budget.conditions if c.id == "hover"), None) for a in analyses
    ]
    return [
        _row("whole plan", "dangers and faults", count(("danger", "fault")), "", higher=False),
        _row("whole plan", "cautions", count(("caution",)), "", higher=False),
        _row("whole plan", "weight of electronics", weights, "g", higher=False),
        _row("whole plan", "wires", wires, "", higher=False),
        _row("whole plan", "minutes in hover", minutes, "", higher=True),
    ]


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
        rows.append(_row("spare amps, worst", name, values, "A", higher=True, bad_below=0))
    return rows


def _supplies(plans: Sequence[Plan], analyses: Sequence[Analysis]) -> list[Row]:
    rows = []
    for key, name in _ordered([{s.id: s.name for s in a.budget.supplies} for a in analyses]).items():
        headroom: list[float | None] = []
        temps: list[float | None] = []
        for plan, analysis in zip(plans, analyses, strict=True):
            supply = next((s for s in analysis.budget.supplies if s.id == key), None)
            states = [supply.states[c] for c in _on_pack(plan)] if supply else []
            headroom.append(min((s.headroom_v for s in states if s.headroom_v is not None), default=None))
            temps.append(max((s.still_temp_c for s in states if s.still_temp_c is not None), default=None))
        if any(h is not None for h in headroom):
            rows.append(_row("headroom, worst", name, headroom, "V", higher=True, bad_below=0))
        if any(t is not None for t in temps):
            rows.append(_row("still air, hottest", name, temps, "°C", higher=False))
    return rows


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


def _findings(analyses: Sequence[Analysis]) -> tuple[FindingRow, ...]:
    titles: dict[str, tuple[str, str]] = {}
    for analysis in analyses:
        for finding in analysis.findings:
            titles.setdefault(finding.key, (finding.title, finding.severity))
    return tuple(
        FindingRow(
            title=title, severity=severity, present=tuple(any(f.key == key for f in a.findings) for a in analyses)
        )
        for key, (title, severity) in titles.items()
        if severity != "note"
    )


def _wiring(first: Plan, other: Plan) -> list[str]:
    words = []
    groups: tuple[tuple[str, Sequence[Board | Rail | Supply], Sequence[Board | Rail | Supply]], ...] = (
        ("board", first.boards, other.boards),
        ("rail", first.rails, other.rails),
        ("supply", first.supplies, other.supplies),
    )
    for kind, before, after in groups:
        old, new = {x.id: x for x in before}, {x.id: x for x in after}
        words += [f"{kind} {new[k].name} added" for k in new if k not in old]
        words += [f"{kind} {old[k].name} left out" for k in old if k not in new]
        words += [f"{new[k].name} changed" for k in new if k in old and new[k] != old[k] and kind == "supply"]
    for device in other.devices:
        was = first.device_of.get(device.id)
        if was is None:
            words.append(f"{device.name} added")
            continue
        rails = [d.feed.rail if d.feed else None for d in (was, device)]
        if rails[0] != rails[1]:
            names = [p.rail_of[r].name if r else "nothing" for p, r in zip((first, other), rails, strict=True)]
            words.append(f"{device.name}: fed from {names[1]} instead of {names[0]}")
        if [r.to for r in was.returns] != [r.to for r in device.returns]:
            words.append(
                f"{device.name}: ground to {', '.join(other.title(r.to) for r in device.returns) or 'nothing'}"
            )
        if was.draws != device.draws:
            words.append(f"{device.name}: other draws")
    words += [f"{d.name} left out" for d in first.devices if d.id not in other.device_of]
    return words
