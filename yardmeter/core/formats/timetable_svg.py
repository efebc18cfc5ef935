"""The graphic timetable of a run as an SVG: time to the right, a line for each device, acts along the top."""

from __future__ import annotations

from collections.abc import Callable
from xml.sax.saxutils import escape

from yardmeter.core.runs import Run
from yardmeter.core.runs.report import report
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.core.units import format_si

WIDTH, LEFT, ROW, TOP, POINTS = 1000, 190, 34, 64, 400
INK, MUTED, LIVE, BOOT, RESET = "#22313a", "#5a666c", "#2c6a73", "#8a5a00", "#a3211c"
CROWD = 24
"""More acts than this, as a recorded flight has, are marks along the top."""


def write_timetable_svg(run: Run) -> str:
    """A picture that stands alone: every rail's volts over its own range, every device's line of life, resets as crosses."""
    plan, end = run.plan, run.scenario.duration_s
    lives = {one.id: one for one in report(run).devices}
    height = TOP + ROW * (len(plan.rails) + len(plan.devices)) + 30

    def x(time_s: float) -> float:
        return LEFT + (WIDTH - LEFT - 20) * time_s / end

    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}" font-family="sans-serif" font-size="12">',
        f'<rect width="{WIDTH}" height="{height}" fill="#fbf9f3"/>',
        _text(12, 20, f"{plan.name}: {run.scenario.name}", INK, size=15),
    ]
    acts = [one for one in run.events if one.code is Happening.ACT and one.act is not None]
    bottom = height - 26 if len(acts) <= CROWD else 44
    for one in acts:
        at = x(one.at_s)
        out.append(f'<line x1="{at:.1f}" x2="{at:.1f}" y1="34" y2="{bottom}" stroke="{MUTED}" stroke-dasharray="3 3"/>')
        if len(acts) <= CROWD:
            out.append(_text(at + 3, 44, run.scenario.acts[one.act or 0].act, MUTED))
    row = TOP
    for rail in plan.rails:
        out += _rail(run, rail.id, row, x)
        row += ROW
    for device in plan.devices:
        out.append(_text(12, row + 18, device.name[:26], INK))
        for span in lives[device.id].spans:
            if span.state != "off":
                colour = LIVE if span.state == "run" else BOOT
                out.append(f'<line x1="{x(span.from_s):.1f}" x2="{x(span.to_s):.1f}" y1="{row + 14}" y2="{row + 14}" stroke="{colour}" stroke-width="5"/>')  # fmt: skip
        for at in lives[device.id].resets_s:
            out.append(_text(x(at) - 5, row + 19, "✕", RESET, size=15))
        row += ROW
    for k in range(6):
        at = end * k / 5
        out.append(_text(x(at) - 10, height - 8, format_si(at, "s") if at else "0", MUTED))
    return "\n".join([*out, "</svg>"]) + "\n"


def _rail(run: Run, rail_id: str, row: int, x: Callable[[float], float]) -> list[str]:
    volts, times = run.rail_v(rail_id), run.times_s
    top = max(float(volts.max()), 0.1)
    step = max(len(times) // POINTS, 1)
    points = " ".join(
        f"{x(float(t)):.1f},{row + 26 - 22 * max(float(v), 0.0) / top:.1f}"
        for t, v in zip(times[::step], volts[::step], strict=True)
    )
    name = f"{run.plan.title(rail_id)[:20]} {format_si(float(volts.min()), 'V')}–{format_si(float(volts.max()), 'V')}"
    return [_text(12, row + 18, name, MUTED), f'<polyline points="{points}" fill="none" stroke="{INK}"/>']


def _text(x: float, y: float, words: str, colour: str, size: int = 12) -> str:
    return f'<text x="{x:.1f}" y="{y:.1f}" fill="{colour}" font-size="{size}">{escape(words)}</text>'
