"""What each filter buys: attenuation where it counts, its peak, its bounds, and the sweep with and without it."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise import Moment, operating_point, solve_lines
from yardmeter.core.network.ac import AcNetwork, build_ac, filter_nodes, shunt
from yardmeter.core.physics.capacitors import corner_hz, left_f
from yardmeter.core.physics.filters import inductor_left_h, input_ohm
from yardmeter.core.plan import Condition, Filter, Plan, Regulator
from yardmeter.core.solver.ac import Complex, log_sweep, solve_ac
from yardmeter.core.solver.circuit import Floats

SWEEP = (100.0, 2e6, 200)
"""Frequencies of a sweep: from, to [Hz], how many."""
PEAK_SWEEP, PEAK_FINE = (100.0, 2e6, 36), 12
SILENT_V = 1e-6


class FilterAnswer(Answer):
    """A filter in the condition its target is noisiest in. Volts are peak to peak, all lines together."""

    filter: str
    condition: str
    target: str
    with_v: float
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
    feed_a: float
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


def bare_moments(solved: Solved, moments: list[Moment]) -> list[Moment]:
    """The same lines with every filter taken out, at the same operating points."""
    found = []
    for at in moments:
        network = bare_network(solved, at.condition)
        found.append(replace(at, network=network, volts=solve_lines(network, at.lines)))
    return found


def filter_answers(solved: Solved, moments: list[Moment], bare: list[Moment]) -> tuple[FilterAnswer, ...]:
    """Every filter that is fitted; `bare` are the moments without any."""
    fitted = [one for one in solved.plan.filters if one.fitted]
    swept: dict[str, Complex] = {}
    return tuple(_answer(solved, one, moments, bare, swept, alone=len(fitted) == 1) for one in fitted)


def without(plan: Plan, *names: str) -> Plan:
    """The plan with these filters taken out; every one when none is named."""
    filters = tuple(
        one.model_copy(update={"fitted": False}) if not names or one.id in names else one for one in plan.filters
    )
    return plan.model_copy(update={"filters": filters})


def bare_network(solved: Solved, condition: Condition, *names: str) -> AcNetwork:
    """The small-signal network without these filters, at the operating point with them."""
    point = operating_point(solved, condition)
    return build_ac(replace(point, network=replace(point.network, plan=without(solved.plan, *names))))


def _sizes(at: Moment, a: int, b: int) -> list[float]:
    """Every line between two nodes, peak to peak [V]."""
    sizes: list[float] = (2 * np.abs(at.volts[:, a] - at.volts[:, b])).tolist()
    return sizes


def _rss(sizes: list[float]) -> float:
    return math.sqrt(sum(v**2 for v in sizes))


def _answer(
    solved: Solved, one: Filter, moments: list[Moment], bare: list[Moment], swept: dict[str, Complex], *, alone: bool
) -> FilterAnswer:
    """One filter; `swept` keeps the coarse sweep of each condition as planned, `alone` says that `bare` lacks it only."""
    plan = solved.plan
    a, b = filter_nodes(plan, moments[0].network.node, one)
    worst = max(range(len(moments)), key=lambda k: _rss(_sizes(bare[k], a, b)))
    at = moments[worst]
    if alone:
        taken_out = bare[worst]
    else:
        network = bare_network(solved, at.condition, one.id)
        taken_out = replace(at, network=network, volts=solve_lines(network, at.lines))
    before, after = _sizes(taken_out, a, b), _sizes(at, a, b)
    loudest = max(range(len(before)), key=lambda k: before[k], default=None)
    peak_db, peak_hz = _peak(solved.plan, at, taken_out, a, b, swept)
    bias = max((abs(m.view.op.volts[m.view.row, a] - m.view.op.volts[m.view.row, b]) for m in moments), default=0.0)
    feed = max((abs(_feed_a(solved, one, m)) for m in moments), default=0.0)
    farad = left_f(one.farad, one.dielectric, float(bias), one.rated_v) * one.count if one.farad else None
    henry = inductor_left_h(one.henry, feed, one.saturation_a) if one.henry else None
    watts = max((_load_w(plan, one, m) for m in moments), default=0.0)
    volts = float(abs(at.view.op.volts[at.view.row, a] - at.view.op.volts[at.view.row, b]))
    return FilterAnswer(
        filter=one.id,
        condition=at.condition.id,
        target=one.at,
        with_v=_rss(after),
        without_v=_rss(before),
        loudest=at.lines[loudest].words if loudest is not None else "",
        loudest_hz=at.lines[loudest].hz if loudest is not None else 0.0,
        loudest_db=_db(before[loudest], after[loudest]) if loudest is not None else 0.0,
        corner_hz=corner_hz(henry, farad) if henry and farad else None,
        peak_db=peak_db,
        peak_hz=peak_hz,
        out_ohm=_section_ohm(one, henry, farad, float(bias)) if henry and farad else None,
        load_ohm=input_ohm(volts, watts) if watts > 0.01 and volts > 0.5 else None,
        bias_v=float(bias),
        feed_a=feed,
        left_h=henry,
        left_f=farad,
        ripple_a=_ripple_a(one, at, a, b),
        drop_v=feed * one.dcr_ohm,
    )


def _db(before: float, after: float) -> float:
    return 20 * math.log10(max(before, SILENT_V) / max(after, SILENT_V))


def _feed_a(solved: Solved, one: Filter, at: Moment) -> float:
    op, row = at.view.op, at.view.row
    device = solved.plan.device_of.get(one.at)
    if device:
        return op.conductor_a(row, f"feed:{device.id}") if device.feed else 0.0
    supply = solved.plan.supply_of.get(one.at)
    return op.supply_in_a(row, supply) if isinstance(supply, Regulator) else 0.0


def _load_w(plan: Plan, one: Filter, at: Moment) -> float:
    """Power a constant-power consumer behind the filter takes [W]; what is no such consumer asks nothing of it."""
    op, row = at.view.op, at.view.row
    device = plan.device_of.get(one.at)
    if device:
        return op.pin_v(row, device.id) * op.device_a(row, device.id) if device.law == "power" else 0.0
    supply = plan.supply_of.get(one.at)
    if isinstance(supply, Regulator) and supply.switching:
        return op.supply_in_v(row, supply) * op.supply_in_a(row, supply)
    return 0.0


def _section_ohm(one: Filter, henry: float, farad: float, bias_v: float) -> float:
    """Largest output impedance of the section alone [Ω], its input held stiff."""
    hertz = log_sweep(*SWEEP)
    s = 2j * math.pi * hertz
    branch = shunt(one, bias_v)(s)
    return float(np.max(np.abs(1 / (1 / (one.dcr_ohm + s * henry) + branch)))) if farad > 0 else 0.0


def _ripple_a(one: Filter, at: Moment, a: int, b: int) -> float:
    """Alternating current in each of the filter's capacitors [A rms]."""
    if one.farad <= 0 or not at.lines:
        return 0.0
    bias = abs(at.view.op.volts[at.view.row, a] - at.view.op.volts[at.view.row, b])
    s = 2j * math.pi * np.array([line.hz for line in at.lines])
    amps = np.abs(shunt(one, float(bias))(s) * (at.volts[:, a] - at.volts[:, b])) / math.sqrt(2)
    return float(np.sqrt(np.sum(amps**2))) / one.count


def _peak(plan: Plan, at: Moment, taken_out: Moment, a: int, b: int, swept: dict[str, Complex]) -> tuple[float, float]:
    """Where over frequency the filter adds most [dB, Hz]: looked for coarsely, then once more around what was found."""
    injected = _motor_injection(plan, at.network)
    coarse = log_sweep(*PEAK_SWEEP)
    if at.condition.id not in swept:
        swept[at.condition.id] = _driven(at.network, coarse, injected)
    first = _gain_db(swept[at.condition.id], _driven(taken_out.network, coarse, injected), a, b)
    k = int(np.argmax(first))
    fine = log_sweep(float(coarse[max(k - 1, 0)]), float(coarse[min(k + 1, coarse.size - 1)]), PEAK_FINE)
    second = _gain_db(_driven(at.network, fine, injected), _driven(taken_out.network, fine, injected), a, b)
    m = int(np.argmax(second))
    return float(max(second[m], first[k])), float(fine[m])


def _gain_db(after: Complex, before: Complex, a: int, b: int) -> Floats:
    """By how much more there is between two nodes after than before [dB] (frequencies,)."""
    ratio = np.maximum(np.abs(after[:, a] - after[:, b]), 1e-12) / np.maximum(
        np.abs(before[:, a] - before[:, b]), 1e-12
    )
    found: Floats = 20 * np.log10(ratio)
    return found


def _driven(network: AcNetwork, hertz: Floats, injected: Complex) -> Complex:
    """Node voltages (frequencies, nodes + 1), the reference last."""
    found = solve_ac(network.circuit(hertz), injected)[:, :, 0]
    volts: Complex = np.concatenate([found, np.zeros((found.shape[0], 1))], axis=1)
    return volts


def _motor_injection(plan: Plan, network: AcNetwork) -> Complex:
    """One ampere drawn by the motors; by the pack's own rail where a plan has none."""
    driven = np.zeros((len(network.node), 1), complex)
    motors = [d for d in plan.devices if d.throttle and d.feed]
    ends = [(f"pin:{d.id}", f"gnd:{d.id}") for d in motors] or [
        (f"rail:{plan.pack.rail}", f"gnd:{plan.rail_of[plan.pack.rail].board}")
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
    planned = build_ac(operating_point(solved, condition))
    a, b = planned.node[f"pin:{device_id}"], planned.node[f"gnd:{device_id}"]
    injected = _motor_injection(solved.plan, planned)
    return Sweep(
        device=device_id,
        condition=condition.id,
        hertz=tuple(hertz.tolist()),
        with_ohm=_between(_driven(planned, hertz, injected), a, b),
        without_ohm=_between(_driven(bare_network(solved, condition), hertz, injected), a, b),
    )
