"""Noise: millivolts at every pin and on every picture, by source and path; what each filter does to them."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from yardmeter.core.answers.conditions import Solved, View
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise_sources import Line, noise_lines
from yardmeter.core.network.ac import AcNetwork, Point, build_ac
from yardmeter.core.physics.video import BANDWIDTH_HZ, S525, level_db
from yardmeter.core.plan import Condition, Device, Plan, Regulator, Signal
from yardmeter.core.solver.ac import Complex, solve_ac
from yardmeter.core.solver.elements import load_current

TOLERATED_V: dict[str, float] = {
    "camera": 0.05,
    "sender": 0.1,
    "digital": 0.2,
    "logic": 0.1,
    "receiver": 0.1,
    "gnss": 0.1,
}
"""Ripple a device stands where its sheet gives none [V, peak to peak]; common practice, no source."""
OTHER_TOLERATED_V = 0.25
THROTTLES = tuple(round(0.1 + 0.05 * k, 2) for k in range(18))


@dataclass(frozen=True, slots=True)
class Heard:
    """One line as it arrives: which source, at which frequency, how large, peak to peak [V]."""

    element: str
    kind: str
    words: str
    hz: float
    pp_v: float


class PinNoise(Answer):
    """Ripple at a device's pins per condition: all lines together by root of squares, and each, loudest first."""

    device: str
    tolerated_v: float
    total_v: dict[str, float]
    lines: dict[str, tuple[Heard, ...]]


@dataclass(frozen=True, slots=True)
class Seen:
    """One line on a picture: by the supplies of its two ends, and by their grounds, peak to peak [V]."""

    element: str
    words: str
    hz: float
    supply_v: float
    ground_v: float

    @property
    def pp_v(self) -> float:
        return self.supply_v + self.ground_v


class VideoNoise(Answer):
    """A video signal per condition: level under full picture, and its lines, loudest first."""

    signal: str
    level_db: dict[str, float]
    total_v: dict[str, float]
    lines: dict[str, tuple[Seen, ...]]
    worst_throttle_frac: float | None
    worst_lines: tuple[Seen, ...]


class Noise(Answer):
    pins: tuple[PinNoise, ...]
    videos: tuple[VideoNoise, ...]


@dataclass(frozen=True)
class Moment:
    """One condition's small-signal network with its lines and what they make of every node [V peak] (lines, nodes)."""

    condition: Condition
    view: View
    network: AcNetwork
    lines: list[Line]
    volts: Complex


def noise_of(plan: Plan, moments: list[Moment]) -> Noise:
    """The noise of a plan from its solved moments, one per condition."""
    return Noise(
        pins=tuple(_pin(device, moments) for device in plan.devices if device.feed), videos=videos_of(plan, moments)
    )


def videos_of(plan: Plan, moments: list[Moment]) -> tuple[VideoNoise, ...]:
    """The pictures alone."""
    swept = throttle_sweep(plan, moments)
    return tuple(_video(plan, s, moments, swept) for s in plan.signals if s.kind == "video")


def operating_point(solved: Solved, condition: Condition) -> Point:
    """The row of the solution the small-signal network stands on."""
    view = solved.given[condition.id]
    op, row = view.op, view.row
    loads = op.network.circuit.loads
    one = replace(loads, value=loads.value[row : row + 1])
    slopes = load_current(one, op.load_v[row : row + 1])[1][0].tolist()
    feeds = {d.id: op.conductor_a(row, f"feed:{d.id}") for d in solved.plan.devices if d.feed}
    feeds |= {s.id: op.supply_in_a(row, s) for s in solved.plan.supplies if isinstance(s, Regulator)}
    return Point(
        op.network,
        row,
        [*op.volts[row].tolist()],
        slopes,
        op.solution.modes[row].tolist(),
        op.regulating[row].tolist(),
        op.at.input_v[row].tolist(),
        op.at.output_v[row].tolist(),
        op.solution.converter_a[row].tolist(),
        feeds,
    )


def moment(solved: Solved, condition: Condition, throttle_frac: float | None = None) -> Moment:
    """A condition's lines solved, at its own throttle or another."""
    view = solved.given[condition.id]
    network = build_ac(operating_point(solved, condition))
    lines = noise_lines(solved.plan, condition, view, throttle_frac)
    return Moment(condition, view, network, lines, solve_lines(network, lines))


def solve_lines(network: AcNetwork, lines: list[Line]) -> Complex:
    """Node voltages of each line [V peak] (lines, nodes + 1); the last column is the reference.

    Lines of one frequency share a matrix, and those between the same nodes differ by their size alone: both are solved once.
    """
    if not lines:
        return np.zeros((0, len(network.node) + 1), complex)
    cases: dict[float, list[tuple[str, str]]] = {}
    for line in lines:
        ends = cases.setdefault(line.hz, [])
        if (line.p, line.n) not in ends:
            ends.append((line.p, line.n))
    row = {hz: k for k, hz in enumerate(cases)}
    driven = np.zeros((len(cases), len(network.node), max(len(ends) for ends in cases.values())), complex)
    for hz, ends in cases.items():
        for column, (p, n) in enumerate(ends):
            driven[row[hz], network.node[p], column] -= 1
            driven[row[hz], network.node[n], column] += 1
    solved = solve_ac(network.circuit(np.array(list(cases))), driven)
    found: Complex = np.zeros((len(lines), len(network.node) + 1), complex)
    for k, line in enumerate(lines):
        found[k, :-1] = solved[row[line.hz], :, cases[line.hz].index((line.p, line.n))]
    sizes = np.array([line.peak for line in lines])
    for k, line in enumerate(lines):
        if line.in_volts:  # as large as was measured, or stated, at its own pins
            sizes[k] /= max(abs(found[k, network.node[line.p]] - found[k, network.node[line.n]]), 1e-12)
    found *= sizes[:, None]
    return found


def across_pp_v(at: Moment, p: str, n: str) -> list[float]:
    """Peak-to-peak volts of every line between two nodes (lines,)."""
    node = at.network.node
    sizes: list[float] = (2 * np.abs(at.volts[:, node[p]] - at.volts[:, node[n]])).tolist()
    return sizes


def tolerated_v(device: Device) -> float:
    return device.ripple_max_v or TOLERATED_V.get(device.kind, OTHER_TOLERATED_V)


def _pin(device: Device, moments: list[Moment]) -> PinNoise:
    total, lines = {}, {}
    for at in moments:
        sizes = across_pp_v(at, f"pin:{device.id}", f"gnd:{device.id}")
        heard = [
            Heard(line.element, line.kind, line.words, line.hz, v) for line, v in zip(at.lines, sizes, strict=True)
        ]
        total[at.condition.id] = math.sqrt(sum(v**2 for v in sizes))
        lines[at.condition.id] = tuple(sorted((h for h in heard if h.pp_v > 1e-6), key=lambda h: -h.pp_v)[:8])
    return PinNoise(device=device.id, tolerated_v=tolerated_v(device), total_v=total, lines=lines)


def seen_lines(plan: Plan, signal: Signal, at: Moment) -> list[Seen]:
    """What every line does to a picture: through the supplies of both ends, and by their grounds' difference."""
    ends = [plan.owner_of[one].id for one in (signal.source, signal.sink)]
    ground = across_pp_v(at, f"gnd:{ends[0]}", f"gnd:{ends[1]}")
    supply = [0.0] * len(at.lines)
    for end in ends:
        device = plan.device_of.get(end)
        if device and device.feed:
            share = 10 ** (-device.rejection_db / 20)
            pins = across_pp_v(at, f"pin:{end}", f"gnd:{end}")
            supply = [s + share * v for s, v in zip(supply, pins, strict=True)]
    seen = [
        Seen(line.element, line.words, line.hz, s, g)
        for line, s, g in zip(at.lines, supply, ground, strict=True)
        if line.hz < BANDWIDTH_HZ and s + g > 1e-7
    ]
    return sorted(seen, key=lambda one: -one.pp_v)


def _rss(lines: list[Seen]) -> float:
    return math.sqrt(sum(one.pp_v**2 for one in lines))


def _video(plan: Plan, signal: Signal, moments: list[Moment], swept: list[tuple[float, Moment]]) -> VideoNoise:
    lines = {at.condition.id: seen_lines(plan, signal, at) for at in moments}
    total = {c: _rss(found) for c, found in lines.items()}
    at_throttle = [(throttle, seen_lines(plan, signal, at)) for throttle, at in swept]
    throttle, worst = max(at_throttle, key=lambda one: _rss(one[1]), default=(None, []))
    return VideoNoise(
        signal=signal.id,
        level_db={c: level_db(v, S525) for c, v in total.items()},
        total_v=total,
        lines={c: tuple(found[:8]) for c, found in lines.items()},
        worst_throttle_frac=throttle,
        worst_lines=tuple(worst[:8]),
    )


def throttle_sweep(plan: Plan, moments: list[Moment]) -> list[tuple[float, Moment]]:
    """The flying condition with the most ordinary throttle at other throttles.

    The small-signal network is kept; only the motors' lines follow the throttle.
    """
    flying = [at for at in moments if at.condition.on_pack and 0 < at.condition.throttle_frac < 1]
    if not flying or not any(d.throttle for d in plan.devices) or not any(s.kind == "video" for s in plan.signals):
        return []
    base = flying[0]
    swept: list[tuple[float, Line]] = [
        (throttle, line)
        for throttle in THROTTLES
        for line in noise_lines(plan, base.condition, base.view, throttle)
        if line.kind in ("pwm", "commutation")
    ]
    volts = solve_lines(base.network, [line for _, line in swept])
    steady = [k for k, line in enumerate(base.lines) if line.kind not in ("pwm", "commutation")]
    found = []
    for throttle in THROTTLES:
        mine = [k for k, (t, _) in enumerate(swept) if t == throttle]
        lines = [swept[k][1] for k in mine] + [base.lines[k] for k in steady]
        found.append((throttle, replace(base, lines=lines, volts=np.concatenate([volts[mine], base.volts[steady]]))))
    return found
