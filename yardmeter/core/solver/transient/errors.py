"""The error of a step over what is allowed, what is stiff taken out of it."""

from __future__ import annotations

import numpy as np

from yardmeter.compiled import compiled
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.transient.currents import Stage, share_of
from yardmeter.core.solver.transient.order import Factors, Order, solve
from yardmeter.core.solver.transient.packed import Net
from yardmeter.core.solver.transient.scheme import RTOL

ATOL_A, ATOL_V = 20e-3, 3e-3
"""Error allowed in a step beside `RTOL` of a current or voltage; the step is told how much tighter a run wants both."""


@compiled
def step_error(
    net: Net,
    row: int,
    dh: float,
    raw: Floats,
    last: Stage,
    order: Order,
    factors: Factors,
    driven: Floats,
    volts: Floats,
) -> float:
    """The largest error of a step, from the errors of its states (states,), as part of what is allowed at `RTOL`.

    Errors of states drive currents into the nodes; what the network makes of those is what is left of them. `driven` and `volts`
    (nodes + 1,) are written over.
    """
    ns, nl, m = net.branch.shape[1], net.consumer.shape[1], net.converter.shape[1]
    base = 3 * ns + nl
    driven[:] = 0.0
    series, load = np.zeros(ns), np.zeros(nl)
    for k in range(ns):
        one = net.branch[row, k]
        rest = 1 - share_of(dh, one.lag_s) if one.lag_s > 0 else 1.0
        drive = raw[k] / dh - one.elastance * raw[ns + k] - one.lag_ohm * rest * raw[2 * ns + k]
        series[k] = drive * last.branch[k].siemens
        driven[one.a] += series[k]
        driven[one.b] -= series[k]
    for k in range(nl):
        own = net.consumer[row, k]
        load[k] = (1 - share_of(dh, own.lag_s)) * raw[3 * ns + k] * last.consumer[k].by_state
        driven[own.p] += load[k]
        driven[own.n] -= load[k]
    for k in range(m):
        conv = net.converter[row, k]
        given = last.converter[k].kept * raw[base + k]
        driven[conv.inp] += last.converter[k].share * given
        driven[conv.gnd] += given - last.converter[k].share * given
        driven[conv.out] -= given
    solve(order, factors, driven, volts)
    for i in range(net.nodes):
        volts[i] = -volts[i]
    volts[net.nodes] = 0.0
    worst = 0.0
    for k in range(ns):
        one = net.branch[row, k]
        amps = series[k] + last.branch[k].siemens * (volts[one.a] - volts[one.b])
        if one.henry > 0:
            worst = max(worst, abs(amps) / (ATOL_A + RTOL * abs(last.branch[k].amps)))
        if one.elastance > 0:
            off_v = abs(raw[ns + k] + dh * amps) * one.elastance
            worst = max(worst, off_v / (ATOL_V + RTOL * abs(last.states[ns + k] * one.elastance)))
    for k in range(nl):
        own = net.consumer[row, k]
        if own.lag_s > 0:
            drawn = load[k] + last.consumer[k].siemens * (volts[own.p] - volts[own.n])
            worst = max(worst, abs(drawn) / (ATOL_A + RTOL * abs(last.consumer[k].amps)))
    for k in range(m):
        conv = net.converter[row, k]
        if conv.line_s > 0:
            gnd = volts[conv.gnd]
            by = last.converter[k].given_in * (volts[conv.inp] - gnd) + last.converter[k].given_out * (
                volts[conv.out] - gnd
            )
            given = last.converter[k].kept * raw[base + k] + by
            worst = max(worst, abs(given) / (ATOL_A + RTOL * abs(last.converter[k].given)))
    return worst
