"""What a march works on: every wire, capacitor and cell as one kind of series branch, consumers and converters beside them.

Value arrays are (B, n): a row for each run of a batch. Node −1 is the reference.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from yardmeter.core.once import cached_property
from yardmeter.core.solver.circuit import Bools, Converters, Floats, Ints, Loads

HOLD, FOLD, HICCUP, LATCH = range(4)
"""What a converter does at its limit: holds the current, folds it back, tries again after a pause, or stays off."""

BACK_V = 0.7
BACK_SIEMENS = 20.0
"""What keeps a consumer's pins from going far below its ground: the diodes every chip has; our choice."""


@dataclass(frozen=True)
class Curve:
    """Volts over charge of the branches `at` (k,) whose capacitor is no straight line.

    Ceramics as in `elements.capacitor.ceramic_v`. A pack: the rest curve over what has been
    taken, as points (points,) of charge [C] and volts [V]; it lies in the one branch `cell`, −1 where there is none.
    """

    at: Ints
    farad: Floats
    loss: Floats
    rated_v: Floats
    cell: int = -1
    taken_c: Floats = field(default_factory=lambda: np.zeros(0))
    rest_v: Floats = field(default_factory=lambda: np.zeros(0))


@dataclass(frozen=True)
class Core:
    """Coils `at` (k,) whose inductance falls with the current: see `physics.filters`."""

    at: Ints
    henry: Floats
    bend_a: Floats
    """Current at which half of what the core adds is gone."""


@dataclass(frozen=True)
class Inline:
    """Fuses and NTCs in line with the branches `at` (k,); zero where a number is the other's.

    A fuse's heat is its I² in parts of its print's, an NTC's its temperature [°C].
    """

    at: Ints
    rated_a: Floats
    melts: Floats
    """Heat at which a fuse melts."""
    tau_s: Floats
    cold_ohm: Floats
    warm_ohm: Floats
    w_k: Floats
    air_c: Floats


@dataclass
class Series:
    """Branches from `a` to `b`: `v = R I + L dI/dt + q/C + lag_ohm · s − emf`, where s follows I with `lag_s`.

    Without a capacitor `elastance` (1/C) is 0. The lag is a bead's (negative, its resistance in `ohm`) or a cell's
    polarisation. What is not `closed` carries nothing.
    """

    a: Ints
    b: Ints
    ohm: Floats
    henry: Floats
    elastance: Floats
    emf: Floats
    closed: Bools
    contact_ohm: Floats
    """What a contact adds to it for now: an anti-spark resistor, an arc."""
    lag_ohm: Floats
    lag_s: Floats
    curve: Curve | None = None
    core: Core | None = None
    inline: Inline | None = None


@dataclass
class Consumers:
    """Loads whose current follows its law with a lag, and the modes of those that boot and reset (B, k).

    `law` holds what each asks now; a device asks `off`, `boot` or `run` by its mode. `machine` (k,) tells which have
    modes at all: a lamp or a clamp has none.
    """

    law: Loads
    lag_s: Floats
    off: Floats
    boot: Floats
    run: Floats
    machine: Bools
    reset_v: Floats
    restart_v: Floats
    hold_s: Floats
    boot_s: Floats
    regen_v: float = 1e3
    """Above these volts motors no longer give current back."""
    filament_s: Floats | None = None
    """Time in which a lamp's filament warms (k,), zero for what is no lamp."""
    lamp_a: Floats | None = None
    """Rated amps of lamps (k,), at the volts of their knee."""


@dataclass
class Converting:
    """What converters have beside their law for direct current (B, m)."""

    law: Converters
    henry: Floats
    """Inductive part of the output impedance: how fast its control is [H]."""
    line_s: Floats
    """Time within which a step at the input comes through before the control answers; 0 where there is no control."""
    entry_s: Floats
    """Within which a switching converter answers to its input volts: for shorter it takes a current, not a power."""
    start_v: Floats
    stop_v: Floats
    soft_s: Floats
    style: Ints
    retry_s: Floats
    blank_s: Floats
    """How long it stands its limit before it hiccups or latches."""


@dataclass(frozen=True)
class Thermal:
    """Heat of converters (m,), air (B, m); an infinite `trip_c` never trips."""

    theta_k_w: Floats
    tau_s: Floats
    trip_c: Floats
    air_c: Floats


@dataclass
class TransientCircuit:
    """One network in time, `rows` runs of it."""

    rows: int
    nodes: int
    series: Series
    consumers: Consumers
    converting: Converting
    thermal: Thermal
    names: tuple[str, ...] = ()

    @cached_property
    def sizes(self) -> tuple[int, int, int]:
        """How many series branches, consumers and converters."""
        return self.series.a.size, self.consumers.law.p.size, self.converting.law.inp.size


@dataclass
class Start:
    """Where a run begins: node volts (B, nodes), states (B, states) as `layout.Layout` has them, temperatures (B, m), whether
    devices and converters run."""

    volts: Floats
    states: Floats
    temp_c: Floats
    powered: bool
    lamp_ohm: Floats | None = None
    heat: Floats | None = None
    """Of fuses and NTCs, where their branches stand (B, ns)."""
    scale: Floats | None = None
    """What tolerance makes of every value that is asked later (B, k)."""
