"""The graphic timetable of a run as an SVG: time to the right, a line for each device, acts along the top."""

from __future__ import annotations

from collections.abc import Callable
from xml.sax.saxutils import escape

import numpy as np

from yardmeter.core.plan import Device
from yardmeter.core.runs import Run
from yardmeter.core.runs.drawn import More, envelope, more_of
from yardmeter.core.runs.report import report
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.core.units import format_si

WIDTH, LEFT, ROW, TOP, POINTS = 1000, 190, 34, 64, 400
INK, MUTED, LIVE, BOOT, RESET = "#22313a", "#5a666c", "#2c6a73", "#8a5a00", "#a3211c"
NEAR_FRAC = 0.7
"""A maximum is drawn where volts come this near to it."""
CROWD = 24
"""More acts than this, as a recorded flight has, are marks along the top."""


def write_timetable_svg(run: Run) -> str:
    """A picture that stands alone: every rail's volts over its own range, every device's with its limits and its line of life, resets as crosses."""
    plan, end = run.plan, run.scenario.duration_s
    lives = {one.id: one for one in report(run).devices}
    below = list(more_of(run))
    height = TOP + ROW * (len(plan.rails) + len(plan.devices) + len(below)) + 30

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
        out += _device(run, device, row, x)
        for span in lives[device.id].spans:
            if span.state != "off":
                colour = LIVE if span.state == "run" else BOOT
                out.append(f'<line x1="{x(span.from_s):.1f}" x2="{x(span.to_s):.1f}" y1="{row + 29}" y2="{row + 29}" stroke="{colour}" stroke-width="4"/>')  # fmt: skip
        for at in lives[device.id].resets_s:
            out.append(_text(x(at) - 5, row + 33, "✕", RESET, size=15))
        row += ROW
    for more in below:
        out += _more(run, more, row, x)
        row += ROW
    for k in range(6):
        at = end * k / 5
        out.append(_text(x(at) - 10, height - 8, format_si(at, "s") if at else "0", MUTED))
    return "\n".join([*out, "</svg>"]) + "\n"


def _rail(run: Run, rail_id: str, row: int, x: Callable[[float], float]) -> list[str]:
    volts = run.rail_v(rail_id)
    name = f"{run.plan.title(rail_id)[:20]} {format_si(float(volts.min()), 'V')}–{format_si(float(volts.max()), 'V')}"
    top = max(float(volts.max()), 0.1)
    return [_text(12, row + 18, name, MUTED), _band(run, volts, row, x, top, INK)]


def _more(run: Run, one: More, row: int, x: Callable[[float], float]) -> list[str]:
    most = float(one.values.max())
    limit = one.limit if one.limit is not None and most > NEAR_FRAC * one.limit else None
    top = max(most, limit or 0.0, 0.1)
    said = f"{one.name[:24]} {float(one.values.min()):.3g}–{most:.3g} {one.unit}"
    out = [_text(12, row + 18, said, MUTED), _band(run, one.values, row, x, top, MUTED)]
    if limit is not None:
        out.append(_limit(_height(row, limit, top), "7 4"))
    return out


def _device(run: Run, device: Device, row: int, x: Callable[[float], float]) -> list[str]:
    """Volts at its pins, the most it takes dashed where they come near that, and dotted those it resets below."""
    volts = run.pin_v(device.id)
    most = float(volts.max())
    top = max(most, device.max_v if most > NEAR_FRAC * device.max_v else 0.0, 0.1)
    out = [_text(12, row + 18, device.name[:26], INK), _band(run, volts, row, x, top, LIVE)]
    for level, dashes in ((device.max_v, "7 4"), (device.reset_v, "2 4")):
        if level <= top:
            out.append(_limit(_height(row, level, top), dashes))
    return out


def _limit(y: float, dashes: str) -> str:
    return (
        f'<line x1="{LEFT}" x2="{WIDTH - 20}" y1="{y:.1f}" y2="{y:.1f}" stroke="{RESET}" stroke-dasharray="{dashes}"/>'
    )


def _height(row: int, volts: float, top: float) -> float:
    return row + 25 - 21 * max(volts, 0.0) / top


def _band(run: Run, volts: Floats, row: int, x: Callable[[float], float], top: float, colour: str) -> str:
    """Least and most of each stretch as one closed shape: a spike of a microsecond is in it."""
    edges = np.linspace(0.0, run.scenario.duration_s, POINTS + 1)
    low, high = envelope(volts, run.times_s, edges)
    middle = (edges[:-1] + edges[1:]) / 2
    there = ~np.isnan(low)
    over = [
        f"{x(float(t)):.1f},{_height(row, float(v), top) - 0.4:.1f}"
        for t, v in zip(middle[there], high[there], strict=True)
    ]
    under = [
        f"{x(float(t)):.1f},{_height(row, float(v), top) + 0.4:.1f}"
        for t, v in zip(middle[there], low[there], strict=True)
    ]
    return f'<polygon points="{" ".join([*over, *reversed(under)])}" fill="{colour}" stroke="{colour}" stroke-width="0.6"/>'


def _text(x: float, y: float, words: str, colour: str, size: int = 12) -> str:
    return f'<text x="{x:.1f}" y="{y:.1f}" fill="{colour}" font-size="{size}">{escape(words)}</text>'
