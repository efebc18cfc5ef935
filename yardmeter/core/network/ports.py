"""USB ports and bench supplies in time: the capacitor at their output gives what their limit does not. And cells of their own, which
are such a capacitor alone, as large as their charge.

For direct current a port is one source with a limit and a resistance. In time it is a source with the limit, a capacitor that
is charged before anything is plugged, and the cable, through which nothing flows back.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np

from yardmeter.core.elements.regulator import Kind
from yardmeter.core.network.branches import BOARD_H, REFERENCE
from yardmeter.core.network.build import Network, own_cells_v
from yardmeter.core.network.converters import NEVER_A, OPEN_V
from yardmeter.core.network.keys import inlet_key
from yardmeter.core.physics.pack import straight_farad
from yardmeter.core.solver.circuit import Converters, Floats
from yardmeter.core.solver.transient import Converting, Series, Thermal, TransientCircuit
from yardmeter.core.solver.transient.arrays import HOLD

PORT_OHM = 1e-3
PORT_ESR_OHM = 0.03
"""Of the capacitor at a port; our estimate."""


@dataclass(frozen=True)
class Port:
    """Where a port's own parts stand in the circuit: its node, its capacitor's branch, its source, and its cable."""

    inlet: str
    node: int
    gnd: int
    kept: int
    source: int
    cable: int
    volts: float
    farad: float
    esr_ohm: float
    drop_v: float
    series_ohm: float
    refilled: bool
    """Whether something charges its capacitor: a cell's is all it has."""


def with_ports(network: Network, circuit: TransientCircuit) -> tuple[TransientCircuit, tuple[Port, ...]]:
    """The circuit with the output capacitors of ports, and where they stand. A port without one stays as it was."""
    inlets = [one for one in network.plan.inlets if one.cells or (not one.in_line and one.gives_f > 0)]
    if not inlets:
        return circuit, ()
    ns, _, m = circuit.sizes
    law = circuit.converting.law
    ports = []
    for j, one in enumerate(inlets):
        cable = network.table.converter[inlet_key(one.id)]
        where = one.id, circuit.nodes + j, int(law.gnd[cable]), ns + j, m + j, cable
        if one.cells:
            made = one.cells
            volts = own_cells_v(network.plan, made, network.situations[0])
            farad = straight_farad(made.chemistry, made.series, made.capacity_ah, volts)
            ports.append(
                Port(
                    *where, volts, farad, PORT_OHM, one.drop_v, max(one.series_ohm - PORT_OHM, PORT_OHM), refilled=False
                )
            )
        else:
            ports.append(Port(*where, one.volts, one.gives_f, PORT_ESR_OHM, one.drop_v, one.series_ohm, refilled=True))
    grown = replace(
        circuit,
        nodes=circuit.nodes + len(ports),
        series=_series(circuit, ports),
        converting=_converting(circuit.converting, ports),
        thermal=_thermal(circuit.thermal, len(ports)),
    )
    return grown, tuple(ports)


def _series(circuit: TransientCircuit, ports: list[Port]) -> Series:
    own = circuit.series

    def wider(values: Floats, more: list[float]) -> Floats:
        return np.concatenate([values, np.tile(np.array(more, float), (circuit.rows, 1))], axis=1)

    nothing: dict[str, Any] = {
        name: wider(getattr(own, name), [0.0] * len(ports))
        for name in ("henry", "emf", "contact_ohm", "lag_ohm", "lag_s")
    }
    return replace(
        own,
        a=np.concatenate([own.a, [one.node for one in ports]]),
        b=np.concatenate([own.b, [one.gnd for one in ports]]),
        ohm=wider(own.ohm, [one.esr_ohm for one in ports]),
        elastance=wider(own.elastance, [1 / one.farad for one in ports]),
        closed=np.concatenate([own.closed, np.ones((circuit.rows, len(ports)), bool)], axis=1),
        **nothing,
    )


def _converting(own: Converting, ports: list[Port]) -> Converting:
    """Each port's converter becomes its cable, and its source a new one, always on."""
    copied = [one.cable for one in ports]
    values: dict[str, Any] = {one.name: _with(getattr(own.law, one.name), copied) for one in fields(Converters)}
    law = Converters(**values)
    for one in ports:
        k, new = one.cable, one.source
        law.kind[k], law.inp[k] = int(Kind.SERIES), one.node
        law.set_v[:, k], law.drop_v[:, k], law.drop_ohm[:, k] = OPEN_V, one.drop_v, one.series_ohm
        law.out_ohm[:, k], law.limit_a[:, k] = PORT_OHM, NEVER_A
        law.inp[new], law.out[new], law.enabled[:, new] = REFERENCE, one.node, one.refilled
        law.set_v[:, new], law.out_ohm[:, new] = one.volts, PORT_OHM
    more: dict[str, Any] = {
        one.name: _with(getattr(own, one.name), copied) for one in fields(Converting) if one.name != "law"
    }
    for port in ports:
        more["henry"][port.source], more["style"][port.source] = BOARD_H, HOLD
    return Converting(law=law, **more)


def _thermal(own: Thermal, count: int) -> Thermal:
    """Ports do not warm."""
    cold = np.zeros(count)
    return Thermal(
        np.concatenate([own.theta_k_w, cold]),
        np.concatenate([own.tau_s, cold + 1]),
        np.concatenate([own.trip_c, cold + np.inf]),
        np.concatenate([own.air_c, np.full((own.air_c.shape[0], count), own.air_c.max(initial=25.0))], axis=1),
    )


def _with(values: Floats, copied: list[int]) -> Floats:
    return np.concatenate([values, values[..., copied]], axis=-1)


def port_volts(ports: tuple[Port, ...], rail_v: Floats, amps: Floats) -> Floats:
    """Volts of the ports' nodes above their own grounds (B, ports), where their cables carry `amps` into rails at `rail_v`."""
    found = [np.where(amps[:, j] > 0, rail_v[:, j] + one.drop_v + one.series_ohm * amps[:, j], one.volts) for j, one in enumerate(ports)]  # fmt: skip
    return np.stack(found, axis=1) if found else np.zeros((rail_v.shape[0], 0))
