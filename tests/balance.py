"""One validator for every solution and every run: currents sum to zero at every node, and power in is power out plus losses.

It adds up element by element from node voltages and element laws written out again here, not with the solver's
scatter matrices, so that a mistake in either shows.
"""

from __future__ import annotations

import numpy as np

from yardmeter.core.answers.operating import Operating
from yardmeter.core.elements.regulator import Kind
from yardmeter.core.runs import Run
from yardmeter.core.solver.transient.trace import Happening

KCL_A = 5e-6
STEP_A, STEP_FRAC = 2e-4, 3e-5
"""What a step of a run may leave at a node, beside this part of the largest current there is."""


def check_balance(op: Operating) -> None:
    """Raise AssertionError where a converged row breaks conservation."""
    for row in range(len(op.network.situations)):
        if op.converged(row):
            _currents(op, row)
            _power(op, row)


def _currents(op: Operating, row: int) -> None:
    circuit = op.network.circuit
    sums = np.zeros(circuit.nodes + 1)
    v = op.volts[row]
    wires = circuit.conductors
    for a, b, g in zip(wires.a, wires.b, wires.siemens[row], strict=True):
        sums[a] += (v[a] - v[b]) * g
        sums[b] -= (v[a] - v[b]) * g
    emf = circuit.emfs
    for a, b, volts, g in zip(emf.a, emf.b, emf.volts[row], emf.siemens[row], strict=True):
        sums[a] += (v[a] - v[b] - volts) * g
        sums[b] -= (v[a] - v[b] - volts) * g
    for p, n, amps in zip(circuit.loads.p, circuit.loads.n, op.load_a[row], strict=True):
        sums[p] += amps
        sums[n] -= amps
    conv = circuit.converters
    for k in range(conv.inp.size):
        out, taken = op.solution.converter_a[row, k], op.taken.amps[row, k]
        sums[conv.out[k]] -= out
        sums[conv.inp[k]] += taken
        sums[conv.gnd[k]] += out - taken
    worst = int(np.abs(sums[:-1]).argmax())
    names = {index: name for name, index in op.network.node.items()}
    assert abs(sums[worst]) < KCL_A, f"{names[worst]} misses {sums[worst]:.3g} A in row {row}"


def _power(op: Operating, row: int) -> None:
    circuit, v = op.network.circuit, op.volts[row]
    emf, wires, conv = circuit.emfs, circuit.conductors, circuit.converters
    made = float((emf.volts[row] * -op.emf_a[row]).sum())
    lost = float((op.emf_a[row] ** 2 / np.where(emf.siemens[row] > 0, emf.siemens[row], np.inf)).sum())
    lost += float(((v[wires.a] - v[wires.b]) * op.flow_a[row]).sum())
    used = float((op.load_v[row] * op.load_a[row]).sum())
    for k in range(conv.inp.size):
        out_w = op.at.output_v[row, k] * op.solution.converter_a[row, k]
        if conv.kind[k] == Kind.SOURCE:
            made += out_w
        else:
            heat = op.at.input_v[row, k] * op.taken.amps[row, k] - out_w
            assert heat > -1e-6, f"converter {k} makes power from nothing: {heat:.3g} W"
            lost += heat
    assert abs(made - used - lost) < 1e-4 + 1e-6 * made, (
        f"row {row}: {made:.6f} W made, {used + lost:.6f} W used and lost"
    )


def check_run(run: Run) -> None:
    """Raise AssertionError where a run breaks conservation: currents at a node in a step, or energy over the whole of it, where
    no rounds of a loop were skipped."""
    _step_currents(run)
    if not any(one.what in (Happening.LOOPS, Happening.RETRIES, Happening.CHATTERS) for one in run.trace.events):
        _energy(run)


def _columns(run: Run) -> dict[str, np.ndarray]:
    found = {
        name: run.trace.column(name) for name in ("volts", "series_a", "charge_c", "load_a", "input_a", "output_a")
    }
    found["volts"] = np.concatenate([found["volts"], np.zeros((run.times_s.size, 1))], axis=1)
    return found


def _step_currents(run: Run) -> None:
    circuit, of = run.moving.circuit, _columns(run)
    s, law, conv = circuit.series, circuit.consumers.law, circuit.converting.law
    sums, carried = np.zeros_like(of["volts"]), np.abs(of["series_a"]).max(axis=1)
    for nodes, amps in (
        (s.a, of["series_a"]), (s.b, -of["series_a"]), (law.p, of["load_a"]), (law.n, -of["load_a"]),
        (conv.inp, of["input_a"]), (conv.out, -of["output_a"]), (conv.gnd, of["output_a"] - of["input_a"]),
    ):  # fmt: skip
        for k, node in enumerate(nodes.tolist()):
            sums[:, node] += amps[:, k]
    left = np.abs(sums[1:, :-1]) - (STEP_A + STEP_FRAC * carried[1:, None])
    step, node = np.unravel_index(int(left.argmax()), left.shape) if left.size else (0, 0)
    assert not left.size or left.max() < 0, (
        f"node {node} misses {sums[1 + step, node]:.3g} A at {run.times_s[1 + step]:.6g} s"
    )


def _energy(run: Run) -> None:
    """What pack and ports gave is in wires, consumers, converters, coils and capacitors, to a hundredth: no branch makes any."""
    circuit, of = run.moving.circuit, _columns(run)
    s, law, conv, volts = circuit.series, circuit.consumers.law, circuit.converting.law, of["volts"]
    steps = np.diff(run.times_s)

    def over_time(power: np.ndarray) -> np.ndarray:
        return ((power[1:] + power[:-1]) / 2 * steps[:, None]).sum(axis=0)

    amps = of["series_a"]
    branch_j = over_time((volts[:, s.a] - volts[:, s.b]) * amps)
    made_j = over_time(s.emf[0] * amps)
    coil_j = s.henry[0] * (amps[-1] ** 2 - amps[0] ** 2) / 2
    kept_j = s.elastance[0] * (of["charge_c"][-1] ** 2 - of["charge_c"][0] ** 2) / 2
    plain = np.ones(amps.shape[1], bool)  # without a law of its own: a bent coil or ceramic, a pack that empties
    if s.core is not None:
        plain[s.core.at] = False
    if s.curve is not None:
        plain[s.curve.at] = False
    plain[run.moving.pack] = False
    heat_j = (branch_j + made_j - coil_j - kept_j)[plain]
    passed_j = (
        np.abs(made_j).sum() + over_time(np.abs(volts[:, conv.out] - volts[:, conv.gnd]) * np.abs(of["output_a"])).sum()
    )
    allowed_j = 0.01 * passed_j + 1e-6
    assert (heat_j > -allowed_j).all(), f"branches make {heat_j.min():.3g} J of {passed_j:.3g}"
    taken_j = over_time((volts[:, conv.inp] - volts[:, conv.gnd]) * of["input_a"])
    given_j = over_time((volts[:, conv.out] - volts[:, conv.gnd]) * of["output_a"])
    sources = conv.kind == Kind.SOURCE
    assert (taken_j - given_j)[~sources].min(initial=0.0) > -allowed_j, "a converter makes energy"
    used_j = over_time((volts[:, law.p] - volts[:, law.n]) * of["load_a"]).sum()
    lost_j = heat_j.sum() + (branch_j + made_j - coil_j - kept_j)[~plain].sum() + (taken_j - given_j)[~sources].sum()
    into_j = made_j.sum() + given_j[sources].sum()
    out_j = used_j + lost_j + coil_j.sum() + kept_j.sum()
    assert abs(into_j - out_j) < allowed_j, f"{into_j:.4g} J in, {out_j:.4g} J used, lost and kept"
