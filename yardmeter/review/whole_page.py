"""The build as one page of HTML that opens anywhere, with no server and nothing beside it: findings, rails, hook-up, bench record."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from html import escape

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.formats.rails_svg import write_rails_svg
from yardmeter.core.units import format_si
from yardmeter.core.verdict import SEVERITY_ORDER, Severity
from yardmeter.review.hookup import HookupRow, hookup
from yardmeter.review.hookup_parts import HookupPart
from yardmeter.words.cautions import CAUTIONS
from yardmeter.words.told import Finding

STYLE = """
:root{color-scheme:light dark;--line:#8886;--back:#fbf9f3;--ink:#23211c}
@media(prefers-color-scheme:dark){:root{--back:#1b1a17;--ink:#ece7db}}
body{background:var(--back);color:var(--ink);font:15px/1.45 sans-serif;max-width:64rem;margin:1rem auto;padding:0 1rem}
table{border-collapse:collapse;width:100%;margin:.5rem 0}
th,td{border-bottom:1px solid var(--line);padding:.25rem .5rem;text-align:left;vertical-align:top}
td.n,th.n{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap}
.wide{overflow-x:auto} svg{max-width:100%;height:auto} .bad{font-weight:bold} small{opacity:.8}
@media print{body{background:none;color:#000} h2{break-after:avoid} tr{break-inside:avoid}}
"""
SIGN: dict[Severity, str] = {"danger": "✖ danger", "fault": "● fault", "caution": "▲ caution", "note": "· note"}


@dataclass(frozen=True)
class BenchLine:
    """A line of the record as it is shown: when, what, what was read, and how it ended."""

    at: str
    title: str
    read: str
    outcome: str
    note: str


@dataclass(frozen=True)
class Heading:
    """What stands above the page: whose it is, and what of the findings is not in it."""

    build: str
    step: int
    missing: str = ""


def whole_page(head: Heading, case: SolvedPlan, findings: Sequence[Finding], bench: Sequence[BenchLine]) -> str:
    """HTML text, every word of the builder's escaped."""
    plan = case.plan
    title = escape(f"{head.build} · {plan.name}")
    pack = f"{plan.pack.name}: {plan.pack.series}S{plan.pack.parallel}P {plan.pack.chemistry}, {plan.pack.charge_ah:g} Ah. Step {head.step} of its history."
    heavy = [name for one in findings for name, weight in one.by_condition.items() if weight in ("danger", "fault")]
    worst = max((c.id for c in plan.conditions), key=heavy.count)
    body = [
        f"<h1>{title}</h1><p>{escape(pack)} {escape(plan.note)}</p>",
        f"<h2>Cautions</h2><ul>{''.join(f'<li>{escape(one)}</li>' for one in CAUTIONS)}</ul>",
        f"<h2>Findings</h2>{_findings(findings)}",
        f"<p><small>{escape(head.missing)}</small></p>" if head.missing else "",
        f"<h2>Rails</h2><div class=wide>{write_rails_svg(plan, case.budget, worst)}</div>{_rails(case)}",
        f"<h2>Volts at the pins</h2>{_pins(case)}",
        f"<h2>Hook-up, in the order of the work</h2>{_hookup(case)}",
        f"<h2>Bench record</h2>{_bench(bench)}",
    ]
    return (
        f'<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">'
        f"<title>{title}</title><style>{STYLE}</style>{''.join(body)}</html>\n"
    )


def _table(head: Iterable[str], rows: Iterable[Sequence[str]], numbers: frozenset[int] = frozenset()) -> str:
    """A table of words that are escaped already; columns of `numbers` stand to the right."""

    def cells(kind: str, row: Iterable[str]) -> str:
        return "".join(f"<{kind}{' class=n' if k in numbers else ''}>{one}</{kind}>" for k, one in enumerate(row))

    lines = "".join(f"<tr>{cells('td', row)}</tr>" for row in rows)
    return f"<div class=wide><table><thead><tr>{cells('th', head)}</tr></thead><tbody>{lines}</tbody></table></div>"


def _findings(findings: Sequence[Finding]) -> str:
    if not findings:
        return "<p>Nothing found.</p>"
    order = sorted(findings, key=lambda one: SEVERITY_ORDER[one.severity])
    lines = (
        f"<li><b>{SIGN[one.severity]}: {escape(one.title)}.</b> {escape(one.remedy)} <small>{escape(one.cause)}</small></li>"
        for one in order
    )
    return f"<ul>{''.join(lines)}</ul>"


def _rails(case: SolvedPlan) -> str:
    names = [escape(c.name) for c in case.plan.conditions]
    rows = []
    for rail in case.budget.rails:
        cells = []
        for condition in case.plan.conditions:
            state = rail.states[condition.id]
            spare = f"{format_si(state.asked_a, 'A')} of {format_si(state.usable_a, 'A')}" if state.limits else format_si(state.asked_a, "A")  # fmt: skip
            text = f"{spare}<br><small>{format_si(state.volts_v, 'V')}</small>"
            cells.append(f"<span class=bad>{text}</span>" if state.limits and state.spare_a < 0 else text)
        rows.append([escape(case.plan.title(rail.id)), *cells])
    return _table(["rail: amps asked of usable, volts", *names], rows, frozenset(range(1, len(names) + 1)))


def _pins(case: SolvedPlan) -> str:
    def seen(low: float | None, high: float | None) -> str:
        return (
            "nothing reaches it" if low is None or high is None else f"{format_si(low, 'V')} to {format_si(high, 'V')}"
        )

    rows = [
        [
            escape(one.name),
            escape(case.plan.title(one.rail)) if one.rail else "",
            seen(one.seen_min_v, one.seen_max_v),
            f"{one.min_v:g} to {one.max_v:g} V",
        ]
        for one in case.budget.devices
    ]
    return _table(["device", "on", "sees", "takes"], rows, frozenset({2, 3}))


def _hookup(case: SolvedPlan) -> str:
    found = hookup(case)
    by_id: dict[str, HookupRow | HookupPart] = {one.id: one for one in found.rows}
    by_id |= {one.id: one for one in found.parts}
    rows = [_wire(by_id[name]) for name in found.order]
    lists = (found.never_power, "Never powered"), (found.phases, "Motors to their ESC"), (found.shared_pads, "Several wires on one pad")  # fmt: skip
    more = "".join(
        f"<p><b>{words}:</b> {escape('; '.join(f'{one.name}: ' + ', '.join(one.pins) for one in lines))}.</p>"
        for lines, words in lists
        if lines
    )
    return _table(["☐", "what", "from", "to", "how"], rows) + more


def _wire(one: HookupRow | HookupPart) -> list[str]:
    warning = f" ▲ {escape(one.warning)}" if one.warning else ""
    if isinstance(one, HookupPart):
        return ["☐", escape(f"{one.name}: {one.what}"), escape(one.where), "", escape(one.how) + warning]
    sign = "~" if one.polarity == "signal" else one.polarity
    wire = f"{one.colour}, AWG {one.gauge_awg}, {one.length_m * 1e3:.0f} mm"
    how = [
        f"in {one.harness}" if one.harness else "pad on pad" if one.joined else wire,
        *(text for text in (one.connector, one.beside, one.inline) if text),
        *([f"at most {format_si(one.amps_a, 'A')}"] if one.amps_a is not None else []),
    ]
    ends = [escape(f"{end.name} {end.at}") for end in (one.start, one.end)]
    return ["☐", f"<b>{sign}</b> {escape(one.purpose)}", *ends, escape(", ".join(how)) + warning]


def _bench(lines: Sequence[BenchLine]) -> str:
    if not lines:
        return "<p>Nothing measured yet.</p>"
    rows = [[escape(text) for text in (one.at, one.title, one.read, one.outcome, one.note)] for one in lines]
    return _table(["when", "step", "read", "outcome", "note"], rows)
