"""What each filter buys: attenuation where it counts, its peak, its bounds, and the sweep with and without it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise_solutions import NoiseSolution, rss
from yardmeter.core.answers.operating import View
from yardmeter.core.answers.small_signal import (
    BARE,
    NEW,
    PLANNED,
    Asked,
    Changes,
    bare,
    operating_point,
    solve_variants,
)
from yardmeter.core.elements.capacitor import shunt
from yardmeter.core.network.ac import AcNetwork
from yardmeter.core.network.ac_build import build_ac
from yardmeter.core.network.branches import filter_nodes
from yardmeter.core.network.keys import feed_key, ground_node, pin_node, rail_node
from yardmeter.core.physics.capacitors import VOLTAGE_CLASS_FRAC, corner_hz, left_f
from yardmeter.core.physics.filters import SHEET_RISE_K, coil_rise_k, inductor_left_h, input_ohm
from yardmeter.core.plan import CapacitorFilter, Condition, FerriteFilter, Filter, LcFilter, Plan, Regulator
from yardmeter.core.solver.ac import log_sweep
from yardmeter.core.solver.circuit import Complex, Floats

SWEEP = (100.0, 2e6, 200)
"""Frequencies of a sweep: from, to [Hz], how many."""
PEAK_SWEEP, PEAK_FINE, PEAK_ROUNDS = (100.0, 2e6, 36), 10, 2
"""A peak is looked for in so many points, then so often in so many between its neighbours: to a part in 200 of frequency."""
SILENT_V = 1e-6


class FilterAnswer(Answer):
    """A filter in the condition its target is noisiest in. Volts are peak to peak, all lines together."""

    filter: str
    condition: str
    target: str
    with_v: float
    """In the cold and after some years, as every other number here."""
    new_v: float
    """With the filters new and warm."""
    without_v: float
    loudest: str
    loudest_hz: float
    loudest_db: float
    """How much it takes off the line that is loudest without it [dB]; negative: it adds."""
    corner_hz: float | None
    peak_db: float
    """Most it adds anywhere in the sweep [dB]."""
    peak_hz: float
    out_ohm: float | None
    load_ohm: float | None
    bias_v: float
    allowed_v: float | None
    """What its capacitors may be run at for long [V]."""
    feed_a: float
    rise_k: float | None
    """How much its coil or bead warms by where its heating current is known [K]."""
    sheet_rise_k: float = SHEET_RISE_K
    """What its sheet stands for [K]."""
    left_h: float | None
    left_f: float | None
    ripple_a: float
    drop_v: float


class Sweep(Answer):
    """Ripple at a device's pins for one ampere of alternating motor current, with the filters and without [V/A]."""

    device: str
    condition: str
    hertz: tuple[float, ...]
    with_ohm: tuple[float, ...]
    without_ohm: tuple[float, ...]


@dataclass(frozen=True)
class _Place:
    """A fitted filter, the nodes its capacitor stands between, and the moment these are noisiest in without any filter."""

    filter: Filter
    a: int
    b: int
    at: NoiseSolution


def filter_answers(solved: Solved, solutions: list[NoiseSolution]) -> tuple[FilterAnswer, ...]:
    """Every filter that is fitted."""
    places = []
    for one in solved.plan.filters:
        if one.fitted:
            a, b = filter_nodes(solved.plan, solutions[0].network.node, one)
            at = max(solutions, key=lambda m: rss(m.between_pp_v(a, b, BARE)))
            places.append(_Place(one, a, b, at))
    peaks = _peaks(solved.plan, places)
    full = [solved.unloaded] if places and solved.unloaded else []
    return tuple(_answer(solved, place, solutions, full, peak) for place, peak in zip(places, peaks, strict=True))


def _answer(
    solved: Solved, place: _Place, solutions: list[NoiseSolution], full: list[View], peak: tuple[float, float]
) -> FilterAnswer:
    plan = solved.plan
    one, a, b, at = place.filter, place.a, place.b, place.at
    before, after = at.between_pp_v(a, b, one.id), at.between_pp_v(a, b)
    loudest = int(np.argmax(before)) if before.size else None
    bias = max(view.between_v(a, b) for view in (*(m.view for m in solutions), *full))
    feed = max((abs(_feed_a(solved, one, m.view)) for m in solutions), default=0.0)
    caps = one if not isinstance(one, FerriteFilter) else None
    farad = left_f(caps.farad, caps.dielectric, bias, caps.rated_v) * caps.count if caps else None
    henry = inductor_left_h(one.henry, feed, one.saturation_a) if isinstance(one, LcFilter) else None
    watts = max((_load_w(plan, one, m) for m in solutions), default=0.0)
    volts = at.view.between_v(a, b)
    peak_db, peak_hz = peak
    return FilterAnswer(
        filter=one.id,
        condition=at.condition.id,
        target=one.at,
        with_v=rss(after),
        new_v=rss(at.between_pp_v(a, b, NEW)),
        without_v=rss(before),
        loudest=at.lines[loudest].words if loudest is not None else "",
        loudest_hz=at.lines[loudest].hz if loudest is not None else 0.0,
        loudest_db=_db(float(before[loudest]), float(after[loudest])) if loudest is not None else 0.0,
        corner_hz=corner_hz(henry, farad) if henry and farad else None,
        peak_db=peak_db,
        peak_hz=peak_hz,
        out_ohm=_section_ohm(one, henry, bias) if isinstance(one, LcFilter) and henry else None,
        load_ohm=input_ohm(volts, watts) if watts > 0.01 and volts > 0.5 else None,
        bias_v=bias,
        allowed_v=VOLTAGE_CLASS_FRAC * caps.rated_v if caps else None,
        feed_a=feed,
        rise_k=_rise_k(solved, one, solutions),
        left_h=henry,
        left_f=farad,
        ripple_a=_ripple_a(caps, at, a, b) if caps else 0.0,
        drop_v=feed * (0.0 if isinstance(one, CapacitorFilter) else one.dcr_ohm),
    )


def _db(before: float, after: float) -> float:
    return 20 * math.log10(max(before, SILENT_V) / max(after, SILENT_V))


def _feed_a(solved: Solved, one: Filter, view: View) -> float:
    op, row = view.op, view.row
    device = solved.plan.device_of.get(one.at)
    if device:
        return op.conductor_a(row, feed_key(device.id)) if device.feed else 0.0
    supply = solved.plan.supply_of.get(one.at)
    return op.supply_in_a(row, supply) if isinstance(supply, Regulator) else 0.0


def _rise_k(solved: Solved, one: Filter, solutions: list[NoiseSolution]) -> float | None:
    """What warms a coil is the mean square of its current: of bursts at most the peak times the mean, and just that of on–off ones."""
    if isinstance(one, CapacitorFilter) or not one.heating_a:
        return None
    means = [abs(_feed_a(solved, one, solved.mean[at.condition.id])) for at in solutions]
    square = max(
        (abs(_feed_a(solved, one, m.view)) * mean for m, mean in zip(solutions, means, strict=True)), default=0.0
    )
    return coil_rise_k(math.sqrt(square), one.heating_a)


def _load_w(plan: Plan, one: Filter, at: NoiseSolution) -> float:
    """Power a constant-power consumer behind the filter takes [W]; what is no such consumer asks nothing of it."""
    op, row = at.view.op, at.view.row
    device = plan.device_of.get(one.at)
    if device:
        return op.pin_v(row, device.id) * op.device_a(row, device.id) if device.law == "power" else 0.0
    supply = plan.supply_of.get(one.at)
    if isinstance(supply, Regulator) and supply.switching:
        return op.supply_in_v(row, supply) * op.supply_in_a(row, supply)
    return 0.0


def _section_ohm(one: LcFilter, henry: float, bias_v: float) -> float:
    """Largest output impedance of the section alone [Ω], its input held stiff."""
    hertz = log_sweep(*SWEEP)
    s = 2j * math.pi * hertz
    branch = shunt(one, bias_v)(s)
    return float(np.max(np.abs(1 / (1 / (one.dcr_ohm + s * henry) + branch))))


def _ripple_a(one: CapacitorFilter | LcFilter, at: NoiseSolution, a: int, b: int) -> float:
    """Alternating current in each of the filter's capacitors [A rms]."""
    if not at.lines:
        return 0.0
    s = 2j * math.pi * np.array([line.hz for line in at.lines])
    amps = np.abs(shunt(one, at.view.between_v(a, b))(s) * (at.volts[:, a] - at.volts[:, b])) / math.sqrt(2)
    return float(np.sqrt(np.sum(amps**2))) / one.count


def _peaks(plan: Plan, places: list[_Place]) -> list[tuple[float, float]]:
    """Where over frequency each filter adds most [dB, Hz]: looked for coarsely, then ever closer around what was found."""
    if not places:
        return []
    coarse = log_sweep(*PEAK_SWEEP)
    solutions = {id(place.at): place.at for place in places}
    keys = [place.filter.id for place in places]
    swept = dict(zip(solutions, _driven(plan, [_swept(at, coarse, keys) for at in solutions.values()]), strict=True))
    first = [_gain_db(swept[id(place.at)], place) for place in places]
    top = [int(np.argmax(one)) for one in first]
    found = [(float(first[k][m]), float(coarse[m])) for k, m in enumerate(top)]
    around = [(float(coarse[max(k - 1, 0)]), float(coarse[min(k + 1, coarse.size - 1)])) for k in top]
    for _ in range(PEAK_ROUNDS):
        fine = [log_sweep(*ends, PEAK_FINE) for ends in around]
        closer = _driven(plan, [_swept(place.at, one, keys) for place, one in zip(places, fine, strict=True)])
        for k, place in enumerate(places):
            gains = _gain_db(closer[k], place)
            m = int(np.argmax(gains))
            found[k] = max(found[k], (float(gains[m]), float(fine[k][m])))
            around[k] = float(fine[k][max(m - 1, 0)]), float(fine[k][min(m + 1, PEAK_FINE - 1)])
    return found


def _gain_db(volts: dict[str, Complex], place: _Place) -> Floats:
    """By how much more there is at a filter's place with it than without [dB] (frequencies,)."""
    planned, without = volts[PLANNED], volts[place.filter.id]
    after, before = (np.maximum(np.abs(v[:, place.a] - v[:, place.b]), 1e-12) for v in (planned, without))
    found: Floats = 20 * np.log10(after / before)
    return found


_Swept = tuple[AcNetwork, Floats, Changes]


def _swept(at: NoiseSolution, hertz: Floats, keys: list[str]) -> _Swept:
    return at.network, hertz, {key: at.changes[key] for key in keys}


def _driven(plan: Plan, swept: Sequence[_Swept]) -> list[dict[str, Complex]]:
    """Node voltages (frequencies, nodes + 1) of networks for one ampere of the motors, as planned and under each key."""
    asked = [Asked(one, hertz, _motor_injection(plan, one), changes) for one, hertz, changes in swept]
    return [{key: volts[:, :, 0] for key, volts in found.items()} for found in solve_variants(asked)]


def _motor_injection(plan: Plan, network: AcNetwork) -> Complex:
    """One ampere drawn by the motors; by the pack's own rail where a plan has none."""
    driven = np.zeros((len(network.node), 1), complex)
    motors = [d for d in plan.devices if d.throttle and d.feed]
    ends = [(pin_node(d.id), ground_node(d.id)) for d in motors] or [
        (rail_node(plan.pack.rail), ground_node(plan.rail_of[plan.pack.rail].board))
    ]
    for p, n in ends:
        driven[network.node[p], 0] -= 1 / len(ends)
        driven[network.node[n], 0] += 1 / len(ends)
    return driven


def _between(volts: Complex, a: int, b: int) -> tuple[float, ...]:
    return tuple(np.abs(volts[:, a] - volts[:, b]).tolist())


def sweep(solved: Solved, condition: Condition, device_id: str) -> Sweep:
    """From the motors to a device's pins over frequency, as planned and with every filter taken out."""
    hertz = log_sweep(*SWEEP)
    network = build_ac(operating_point(solved, condition))
    a, b = network.node[pin_node(device_id)], network.node[ground_node(device_id)]
    (volts,) = _driven(solved.plan, [(network, hertz, bare(solved.plan, network))])
    return Sweep(
        device=device_id,
        condition=condition.id,
        hertz=tuple(hertz.tolist()),
        with_ohm=_between(volts[PLANNED], a, b),
        without_ohm=_between(volts.get(BARE, volts[PLANNED]), a, b),
    )
