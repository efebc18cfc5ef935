"""The rails of a plan in one condition as a plain SVG picture: tracks to scale, for documents and the build card."""

from __future__ import annotations

from xml.sax.saxutils import escape

from yardmeter.core.answers.model import Budget, RailAnswer
from yardmeter.core.plan import Plan, rail_title
from yardmeter.core.plan.text import one_line
from yardmeter.core.units import format_si

WIDTH = 900
ROW = 74
LEFT = 250
TRACK = 560
FILLS = {"measured": "#2c6a73", "sheet": "#7fa9ae", "reported": "#b9d0d2", "guess": "#ffffff", None: "#d9d0ba"}


def write_rails_svg(plan: Plan, answer: Budget, condition: str) -> str:
    """SVG text. Each track is scaled to what is asked or usable, whichever is more; the stop stands at the usable amps."""
    rows = [_row(rail, condition, index) for index, rail in enumerate(answer.rails)]
    height = 60 + ROW * len(rows)
    title = _text(f"{plan.name}: {plan.condition(condition).name}")
    return "\n".join(
        [
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}" width="{WIDTH}" height="{height}" font-family="sans-serif" font-size="13" role="img">',
            f"<title>{title}</title>",
            f'<rect width="{WIDTH}" height="{height}" fill="#fbf9f3"/>',
            f'<text x="16" y="28" font-size="17" font-weight="bold">{title}</text>',
            *rows,
            "</svg>",
            "",
        ]
    )


ROOM = 68
"""Letters that find room beside a track's tally."""


def _cut(labels: list[str]) -> str:
    """As many as find room, and how many more there are."""
    shown: list[str] = []
    for label in labels:
        if sum(len(one) + 2 for one in shown) + len(label) > ROOM:
            return f"{', '.join(shown)} and {len(labels) - len(shown)} more"
        shown.append(label)
    return ", ".join(shown)


def _text(text: str) -> str:
    """Text that stays text in the picture; cut before it comes here, not inside an entity."""
    return escape(one_line(text))


def _row(rail: RailAnswer, condition: str, index: int) -> str:
    state = rail.states[condition]
    top = 52 + index * ROW
    scale = TRACK / max(state.asked_a, state.usable_a, 1e-3)
    parts = [
        f'<text x="{16 + rail.depth * 14}" y="{top + 16}" font-weight="bold">{_text(rail_title(rail.name))}</text>',
        f'<text x="{16 + rail.depth * 14}" y="{top + 33}" fill="#5a666c">{format_si(state.volts_v, "V")}</text>',
    ]
    at, labels = float(LEFT), []
    for consumer in state.consumers:
        width = consumer.asked_a * scale
        if width < 0.5:
            continue
        parts.append(
            f'<rect x="{at:.1f}" y="{top + 6}" width="{max(width - 1.5, 1):.1f}" height="20" fill="{FILLS[consumer.provenance]}" stroke="#22313a"/>'
        )
        labels.append(f"{consumer.name} {format_si(consumer.asked_a, 'A')}")
        at += width
    stop = LEFT + state.usable_a * scale
    end = max(at, stop)
    parts.append(f'<path d="M {LEFT} {top + 30} H {end:.1f}" stroke="#22313a" stroke-width="2"/>')
    if state.usable_a > 0:
        colour = "#a3211c" if state.short else "#22313a"
        parts.append(
            f'<path d="M {stop:.1f} {top} V {top + 36} M {stop - 6:.1f} {top} h 12" stroke="{colour}" stroke-width="3" fill="none"/>'
        )
    words = (
        f"asked {format_si(state.asked_a, 'A')}, usable {format_si(state.usable_a, 'A')}"
        if state.short
        else f"spare {format_si(state.spare_a, 'A')} of {format_si(state.usable_a, 'A')}"
    )
    tally = "#a3211c" if state.short else "#3b6a4a"
    parts.append(
        f'<text x="{LEFT}" y="{top + 48}" fill="{tally}">{words if state.usable_a > 0 else "no source in this condition"}</text>'
    )
    parts.append(f'<text x="{LEFT + 210}" y="{top + 48}" fill="#5a666c" font-size="11">{_text(_cut(labels))}</text>')
    return "\n".join(parts)
