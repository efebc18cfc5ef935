"""The circuit and its switches as the compiled march reads them: one record for each element of each row.

A stretch between two switches changes none of it, so it is copied from the arrays that acts and switches work on
whenever one of them has been at it.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from yardmeter.core.solver.circuit import Floats

if TYPE_CHECKING:
    from yardmeter.core.solver.transient.arrays import TransientCircuit
    from yardmeter.core.solver.transient.machines import Machines

Records = Any
"""A structured array (B, n); its fields are read as attributes of its elements."""

BRANCH = np.dtype(
    [(name, np.int64) for name in ("a", "b")]
    + [(name, np.float64) for name in ("ohm", "henry", "elastance", "emf", "contact_ohm", "lag_ohm", "lag_s")]
    + [(name, np.float64) for name in ("farad", "loss", "rated_v", "bend_a")]  # of a ceramic, of a coil; else 0
    + [(name, np.float64) for name in ("rated_a", "melts", "tau_s", "cold_ohm", "warm_ohm", "w_k", "air_c")]  # in line
    + [("closed", np.bool_), ("melting", np.bool_)],
    align=True,
)
CONSUMER = np.dtype(
    [(name, np.int64) for name in ("p", "n", "law", "mode")]
    + [(name, np.float64) for name in ("knee_v", "lag_s", "off", "boot", "reset_v", "restart_v")]
    + [(name, np.float64) for name in ("from_value", "to_value", "from_s", "to_s", "reset_at", "begin_at")]
    + [(name, np.float64) for name in ("filament_s", "lamp_a")]
    + [(name, np.bool_) for name in ("machine", "wanted")],
    align=True,
)
CONVERTER = np.dtype(
    [(name, np.int64) for name in ("inp", "out", "gnd", "kind", "style")]
    + [(name, np.float64) for name in ("set_v", "out_ohm", "ceil_gain", "drop_v", "drop_ohm", "limit_a")]
    + [(name, np.float64) for name in ("quiescent_a", "k1_v", "k2_ohm", "henry", "line_s", "entry_s")]
    + [(name, np.float64) for name in ("start_v", "stop_v", "soft_s", "on_at", "retry_at")]
    + [(name, np.float64) for name in ("theta_k_w", "tau_s", "trip_c", "air_c")]
    + [(name, np.bool_) for name in ("passes", "sinks", "enabled", "on", "latched", "tripped", "failed", "limiting")],
    align=True,
)


class Net(NamedTuple):
    """Everything a stretch reads: records (B, n) and what all rows share."""

    branch: Records
    consumer: Records
    converter: Records
    nodes: int
    regen_v: float
    cell: int
    """The branch the pack's rest curve lies in, −1 where there is none."""
    taken_c: Floats
    rest_v: Floats


def packed(circuit: TransientCircuit) -> Net:
    """A circuit's records, what its acts may change still missing: see `refresh`."""
    s, own, conv = circuit.series, circuit.consumers, circuit.converting
    ns, nl, m = circuit.sizes
    rows = circuit.rows
    branch, consumer, converter = (
        np.zeros((rows, size), kind) for size, kind in ((ns, BRANCH), (nl, CONSUMER), (m, CONVERTER))
    )
    for name in ("a", "b", "ohm", "henry", "elastance", "emf", "lag_ohm", "lag_s"):
        branch[name] = getattr(s, name)
    curve = s.curve
    if curve is not None:
        branch["farad"][:, curve.at], branch["loss"][:, curve.at] = curve.farad, curve.loss
        branch["rated_v"][:, curve.at] = curve.rated_v
    if s.core is not None:
        branch["bend_a"][:, s.core.at] = s.core.bend_a
    if s.inline is not None:
        for name in ("rated_a", "melts", "tau_s", "cold_ohm", "warm_ohm", "w_k", "air_c"):
            branch[name][:, s.inline.at] = getattr(s.inline, name)
    for name in ("p", "n", "law", "knee_v"):
        consumer[name] = getattr(own.law, name)
    for name in ("lag_s", "off", "boot", "reset_v", "restart_v", "machine"):
        consumer[name] = getattr(own, name)
    for name in ("filament_s", "lamp_a"):
        found = getattr(own, name)
        consumer[name] = 0.0 if found is None else found
    for name in ("inp", "out", "gnd", "kind", "sinks", "out_ohm", "quiescent_a", "k1_v", "k2_ohm"):
        converter[name] = getattr(conv.law, name)
    for name in ("henry", "line_s", "entry_s", "start_v", "stop_v", "soft_s", "style"):
        converter[name] = getattr(conv, name)
    for name in ("theta_k_w", "tau_s", "air_c"):
        converter[name] = getattr(circuit.thermal, name)
    cell = -1 if curve is None else curve.cell
    points = (curve.taken_c, curve.rest_v) if curve is not None and cell >= 0 else (np.zeros(2), np.zeros(2))
    return Net(branch, consumer, converter, circuit.nodes, float(own.regen_v), cell, *points)


def refresh(net: Net, circuit: TransientCircuit, machines: Machines) -> None:
    """Copy what acts and switches change."""
    for name in ("closed", "contact_ohm"):
        net.branch[name] = getattr(circuit.series, name)
    net.branch["melting"] = np.isfinite(machines.arc_at)
    for name in ("mode", "wanted", "from_value", "to_value", "from_s", "to_s", "reset_at", "begin_at"):
        net.consumer[name] = getattr(machines, name)
    for name in ("on", "on_at", "enabled", "latched", "tripped", "failed", "limiting", "retry_at"):
        net.converter[name] = getattr(machines, name)
    for name in ("set_v", "ceil_gain", "drop_v", "drop_ohm", "limit_a", "passes"):
        net.converter[name] = getattr(circuit.converting.law, name)
    net.converter["trip_c"] = circuit.thermal.trip_c
