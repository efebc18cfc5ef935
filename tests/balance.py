"""One validator for every solution: currents sum to zero at every node, and power in is power out plus losses.

It adds up element by element from node voltages and element laws written out again here, not with the solver's
scatter matrices, so that a mistake in either shows.
"""

from __future__ import annotations

import numpy as np

from yardmeter.core.answers.operating import Operating
from yardmeter.core.elements.regulator import Kind

KCL_A = 5e-6


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
