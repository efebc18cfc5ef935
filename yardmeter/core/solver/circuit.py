"""The arrays a solver works on: nodes, conductors, sources, loads and converters, batched over rows.

A row is one operating situation (a condition, a tolerance sample, a point of a sweep). Node −1 is the reference.
Every array that may differ between rows has the batch as its leading axis B; topology is shared.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

Arrays = TypeVar("Arrays")


def having(arrays: Arrays, **values: Any) -> Arrays:
    """The same record with other values in some fields.

    `dataclasses.replace` walks all fields of a frozen record one by one, which at every step of an edit takes longer than the
    arithmetic on what is in them.
    """
    made = object.__new__(type(arrays))
    made.__dict__.update(arrays.__dict__, **values)
    return made


Floats = NDArray[np.float64]
Complex = NDArray[Any]
"""Complex values; NumPy's own types lose that in mixed arithmetic."""
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


class Mode(IntEnum):
    OFF = 0
    CONDUCTING = 1
    LIMITING = 2


# Plain integers for the inner loop: comparing arrays with enum members costs more than the arithmetic.
LIMIT_SLACK = 1e-6
"""So far over its limit a converter cuts off: nearer than that no arithmetic tells one that meets it from one that is over, and
what leaks beside a load that takes all of it would pull its rail down to nothing."""
OFF, CONDUCTING, LIMITING = int(Mode.OFF), int(Mode.CONDUCTING), int(Mode.LIMITING)


@dataclass(frozen=True)
class Conductors:
    """Resistive branches: ends (n,), conductance [S] (B, n) or (n,)."""

    a: Ints
    b: Ints
    siemens: Floats


@dataclass(frozen=True)
class Emfs:
    """EMF behind a resistance from node `b` up to node `a`: volts (B, n), siemens (B, n); zero siemens disconnects."""

    a: Ints
    b: Ints
    volts: Floats
    siemens: Floats


@dataclass(frozen=True)
class Loads:
    """Consumers from node `p` to node `n`.

    `value` (B, n): amps, watts, ohms, series ohms (LED) or rated amps (lamp) by law; 0 in amps or watts means off and
    `inf` ohms means off. `knee_v` (n,): below it current and power laws turn into a resistance through that point; for
    LEDs the forward voltage of the string, for lamps the rated volts.
    """

    p: Ints
    n: Ints
    law: Ints
    value: Floats
    knee_v: Floats


@dataclass(frozen=True)
class Converters:
    """Regulators, diodes and current-limited sources between `inp`, `out` and `gnd` nodes (all (n,)).

    Target output above gnd: `min(max(set − r_out I, floor), ceil_gain·Vin − drop_v − drop_ohm I)`, the floor being the
    pass-through `Vin − drop_v − drop_ohm I` of a boost (`passes`). Loss of switching kinds:
    `max(k1 I + k2 I², drop_v I + drop_ohm I²) + quiescent·Vin`. One that `sinks` holds its volts at negative currents too. Off below `stop_v`. All value arrays are (B, n).
    """

    inp: Ints
    out: Ints
    gnd: Ints
    kind: Ints
    passes: Bools
    sinks: Bools
    enabled: Bools
    set_v: Floats
    out_ohm: Floats
    ceil_gain: Floats
    drop_v: Floats
    drop_ohm: Floats
    limit_a: Floats
    stop_v: Floats
    quiescent_a: Floats
    k1_v: Floats
    k2_ohm: Floats
    start_v: Floats
    """(n,): input it starts again at once it has stopped."""
    gives_up: Bools
    """(n,): whether it stops at its limit, to try again later or never, and does not stand there."""


@dataclass(frozen=True)
class Circuit:
    """One network, `rows` situations of it. `start_v` (rows, nodes) is the nominal start of the iteration."""

    rows: int
    nodes: int
    conductors: Conductors
    emfs: Emfs
    loads: Loads
    converters: Converters
    start_v: Floats
    stiff_siemens: float = 1e-9
    """A leak from every node to the reference, so that an unconnected piece has a voltage at all [S]."""


@dataclass(frozen=True)
class Solution:
    """What the solver found. Node voltages (rows, nodes) [V], converter output currents (rows, m) [A], modes (rows, m).

    `converged` (rows,) is false where no operating point was found; those rows hold the end of the collapse.
    """

    volts: Floats
    converter_a: Floats
    modes: Ints
    converged: Bools
    residual_a: Floats
    steps: int
    hiccup: Bools
    """(rows, m): the converter kept switching on and off; it was held off."""
    gives_up: Bools
    """(rows, m): it would stand at its limit, where it gives up; it was held off."""
