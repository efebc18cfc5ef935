"""Circuits in time: an L-stable implicit march of variable step over wires, capacitors, coils, converters and consumers.

Each row of a batch has a clock of its own, so that runs whose switches fall at different times are still one call.
"""

from yardmeter.core.solver.transient.arrays import Consumers, Converting, Series, Start, Thermal, TransientCircuit
from yardmeter.core.solver.transient.march import march
from yardmeter.core.solver.transient.trace import Event, Trace

__all__ = [
    "Consumers",
    "Converting",
    "Event",
    "Series",
    "Start",
    "Thermal",
    "Trace",
    "TransientCircuit",
    "march",
]
